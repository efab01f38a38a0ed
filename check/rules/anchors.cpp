#include "check/rules.h"

#include <optional>

namespace astasis::checks {

const Rule anchors_rule{"anchors", "joints that do not fit when they begin",
                        "A rod, a rope or a pulley that is given another length than its ends are apart "
                        "pulls them there at once, with a\n"
                        "jolt that no mass of theirs explains. Other joints refuse anchors that are apart. "
                        "Cure: the length as it is, which\n"
                        "is what a joint without a length takes.",
                        R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "joints": [{"joint": "rope", "name": "sling", "body": "crate", "at": [0, 4], "length": 1}],
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 1], "shapes": [{"shape": "box", "size": [1, 1]}]}]})",
                        R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "joints": [{"joint": "rope", "name": "sling", "body": "crate", "at": [0, 4], "length": 3.5}],
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 1], "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

namespace {

template<int Dim> std::optional<float> most_of(const Joint<Dim>& joint) {
    if (const auto* rope = std::get_if<Rope<Dim>>(&joint); rope) return rope->length;
    if (const auto* pulley = std::get_if<Pulley<Dim>>(&joint); pulley) return pulley->length;
    return {};
}

}

template<int Dim> void anchors(const Trial<Dim>& trial, std::vector<Finding>& out) {
    constexpr double kLoose = 0.02, kApart = 0.01; // of the length; m
    const World<Dim>& world = trial.start;
    for (const JointId id : world.joints()) {
        const auto& joint = world.joint(id);
        const JointState<Dim> state = world.joint_state(id);
        const auto* rod = std::get_if<Rod<Dim>>(&joint);
        const auto length = rod ? rod->length : most_of<Dim>(joint);
        const double now = double{state.axes[0].position};
        if (length) {
            const double over = now - double{*length};
            if (over > kLoose * double{*length} || (rod && -over > kLoose * double{*length}))
                out.push_back(
                    {anchors_rule.name, true,
                     fmt::format("{} is {:.4g} m long, but its ends are {:.4g} m apart: it pulls them "
                                 "there in the first ticks. Leave out its length, or move a body.",
                                 trial.joint_name(id), double{*length}, now)});
        } else if (double{state.stretch} > kApart) {
            out.push_back(
                {anchors_rule.name, true,
                 fmt::format("the anchors of {} are {:.3g} m apart: it pulls them together in the first "
                             "ticks. Move a body, or an anchor.",
                             trial.joint_name(id), double{state.stretch})});
        }
    }
}
ASTASIS_RULE_ENDS(anchors)

}
