#include "check/rules.h"

namespace astasis::check {
std::string some_of(const std::vector<std::string>& names) {
    constexpr std::size_t kMost = 3;
    std::string out;
    for (std::size_t k = 0; k < std::min(kMost, names.size()); k++) out += (k > 0 ? ", " : "") + names[k];
    return names.size() > kMost ? fmt::format("{} and {} more", out, names.size() - kMost) : out;
}

std::span<const Rule> rules() {
    static const Rule all[] = {pixels_rule, ghost_rule,    twins_rule,  overlap_rule,
                               tunnel_rule, late_rule,     energy_rule, mass_ratio_rule,
                               stall_rule,  terminal_rule, still_rule,  slow_rule};
    return all;
}

template<int Dim>
std::vector<Finding> check(const scene::Scene<Dim>& scene, const scene::Document& document) {
    const scene::Made<Dim> made = scene::make_world(scene, document);
    scene::Made<Dim> copy = scene::make_world(scene, document);
    const Trial<Dim> trial = try_out(scene, made, copy);
    std::vector<Finding> out;
    for (const auto apply : {pixels<Dim>, ghost<Dim>, twins<Dim>, overlap<Dim>, tunnel<Dim>, late<Dim>,
                             energy<Dim>, mass_ratio<Dim>, stall<Dim>, terminal<Dim>, still<Dim>, slow<Dim>})
        apply(trial, out);
    std::stable_partition(out.begin(), out.end(), [](const Finding& f) { return f.is_error; });
    return out;
}

template std::vector<Finding> check(const scene::Scene<2>&, const scene::Document&);
template std::vector<Finding> check(const scene::Scene<3>&, const scene::Document&);

}
