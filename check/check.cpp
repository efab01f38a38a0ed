#include "astasis/check.h"

#include "astasis/scene/timeline.h"
#include "check/rules.h"

#include <array>

namespace astasis::checks {
namespace {

constexpr double kSeconds = 2;

template<int Dim> struct Applied {
    const Rule* rule;
    void (*apply)(const Trial<Dim>&, std::vector<Finding>&);
};

template<int Dim> const auto& applied() {
#define ASTASIS_RULE(name) Applied<Dim>{&name##_rule, name<Dim>},
    static const std::array all{ASTASIS_RULES};
#undef ASTASIS_RULE
    return all;
}

template<int Dim> std::vector<Finding> findings_of(const Trial<Dim>& trial) {
    std::vector<Finding> out;
    for (const auto& [rule, apply] : applied<Dim>()) apply(trial, out);
    std::stable_partition(out.begin(), out.end(), [](const Finding& f) { return f.is_error; });
    return out;
}

}

std::string some_of(const std::vector<std::string>& names) {
    constexpr std::size_t kMost = 3;
    std::string out;
    for (std::size_t k = 0; k < std::min(kMost, names.size()); k++) out += (k > 0 ? ", " : "") + names[k];
    return names.size() > kMost ? fmt::format("{} and {} more", out, names.size() - kMost) : out;
}

std::span<const Rule> rules() {
    static const auto all = [] {
        std::vector<Rule> out{refused_rule};
        for (const auto& [rule, apply] : applied<2>()) out.push_back(*rule);
        return out;
    }();
    return all;
}

template<int Dim>
std::vector<Finding> check_scene(const scene::Scene<Dim>& scene, const scene::Document& document) {
    try {
        const scene::Made<Dim> made = scene::make_world(scene, document);
        scene::Made<Dim> copy = scene::make_world(scene, document);
        Trial<Dim> trial{made.world, &scene};
        trial.name = [&](BodyId id) { return copy.name_of(id); };
        trial.joint_name = [&](JointId id) {
            return copy.joint_names[std::visit([](const auto& kind) { return kind.joins.user_data; },
                                               copy.world.joint(id))];
        };
        try_out<Dim>(trial, copy.world, std::min(kSeconds, scene.duration), [&] {
            copy.timeline->before_tick(copy);
            copy.world.step();
        });
        return findings_of(trial);
    } catch (const scene::FileError& e) {
        const auto bare = bare_entries(scene);
        return bare.empty() ? std::vector<Finding>{{refused_rule.name, true, e.what()}} : bare;
    }
}

template std::vector<Finding> check_scene(const scene::Scene<2>&, const scene::Document&);
template std::vector<Finding> check_scene(const scene::Scene<3>&, const scene::Document&);

}

namespace astasis {

template<int Dim>
std::vector<checks::Finding> check(const World<Dim>& world, const std::function<std::string(BodyId)>& name) {
    World<Dim> copy(world.settings());
    copy.restore(world.save());
    const auto place_of = [](const auto& ids, const auto& id) {
        return fmt::format("{}", std::find(ids.begin(), ids.end(), id) - ids.begin());
    };
    checks::Trial<Dim> trial{world};
    trial.name = [&](BodyId id) { return name ? name(id) : "body " + place_of(world.bodies(), id); };
    trial.joint_name = [&](JointId id) { return "joint " + place_of(world.joints(), id); };
    checks::try_out<Dim>(trial, copy, checks::kSeconds, [&] { copy.step(); });
    return checks::findings_of(trial);
}

template std::vector<checks::Finding> check(const World<2>&, const std::function<std::string(BodyId)>&);
template std::vector<checks::Finding> check(const World<3>&, const std::function<std::string(BodyId)>&);

}
