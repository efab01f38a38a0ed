#include "astasis/histogram.h"

#include "base/text.h"

#include <algorithm>
#include <cmath>

namespace astasis {

std::size_t Histogram::total() const {
    std::size_t sum = below + above;
    for (const std::size_t n : counts) sum += n;
    return sum;
}

double Histogram::density(std::size_t bin) const {
    const auto all = static_cast<double>(total());
    return all > 0 ? static_cast<double>(counts[bin]) / (all * width()) : 0;
}

Histogram histogram_of(std::span<const double> values, double low, double high, std::size_t bins) {
    if (bins == 0) throw Error("bins", "0", "1 or more");
    if (!(low < high) || !std::isfinite(high - low))
        throw Error("high", base::number(high), "a finite number above low, " + base::number(low));
    Histogram out{.low = low, .high = high, .counts = std::vector<std::size_t>(bins)};
    for (const double value : values) {
        if (std::isnan(value)) throw Error("values", "nan", "numbers");
        if (value < low) out.below++;
        else if (value > high) out.above++;
        else {
            const auto bin =
                static_cast<std::size_t>((value - low) / (high - low) * static_cast<double>(bins));
            out.counts[std::min(bin, bins - 1)]++;
        }
    }
    return out;
}

template<int Dim>
std::vector<double> values_of(const World<Dim>& world, FunctionRef<double(BodyId)> quantity) {
    std::vector<double> out;
    for (const BodyId id : world.bodies())
        if (world.motion(id) == Motion::Dynamic) out.push_back(quantity(id));
    return out;
}

template std::vector<double> values_of(const World<2>&, FunctionRef<double(BodyId)>);
template std::vector<double> values_of(const World<3>&, FunctionRef<double(BodyId)>);

}
