#include "scene/nearest.h"

#include <algorithm>
#include <vector>

namespace astasis::scene {
namespace {

std::size_t distance(std::string_view a, std::string_view b) {
    std::vector<std::vector<std::size_t>> d(a.size() + 1, std::vector<std::size_t>(b.size() + 1));
    for (std::size_t i = 0; i <= a.size(); i++) d[i][0] = i;
    for (std::size_t j = 0; j <= b.size(); j++) d[0][j] = j;
    for (std::size_t i = 1; i <= a.size(); i++)
        for (std::size_t j = 1; j <= b.size(); j++) {
            const std::size_t change = a[i - 1] == b[j - 1] ? 0 : 1;
            d[i][j] = std::min({d[i - 1][j] + 1, d[i][j - 1] + 1, d[i - 1][j - 1] + change});
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                d[i][j] = std::min(d[i][j], d[i - 2][j - 2] + 1);
        }
    return d[a.size()][b.size()];
}

}

std::string nearest(std::string_view given, std::span<const std::string> words) {
    constexpr std::size_t kLongest = 64; // of what is worth a guess
    if (given.size() > kLongest) return {};
    std::string out;
    std::size_t least = ~std::size_t{0};
    for (const std::string& word : words) {
        const std::size_t d = distance(given, word);
        if (d < least && 3 * d <= std::max(word.size(), given.size())) least = d, out = word;
    }
    return out;
}

std::string suggestion(std::string_view given, std::span<const char* const> words) {
    const std::vector<std::string> all(words.begin(), words.end());
    const std::string word = nearest(given, all);
    return word.empty() ? std::string() : "; did you mean \"" + word + "\"?";
}

}
