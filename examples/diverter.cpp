// A diverter arm swings across a belt to whichever target it is given, pushes a parcel aside, and says when
// its motor is too weak for what is in its way.
#include <astasis/astasis.h>

#include <cmath>
#include <cstdio>

namespace {

using namespace astasis;

constexpr float kStrong = 400, kWeak = 40; // N m

void swing(float most, const char* name) {
    World2 depot; // seen from above
    depot.set_gravity({});
    const BodyId arm = depot.add({
        .shapes = {{.geometry = Capsule2{{0, 0}, {1.5f, 0}, 0.06f}, .density = 80}},
    });
    const JointId pin = depot.add_joint(Hinge<2>{
        .joins = {.a = arm, .at = {{0, 0}}},
        .limits = between(degrees(0), degrees(60)),
        .motor = {.most = most, .speed = 3, .target = static_cast<float>(degrees(45).in_radians())},
    });
    // The crate rubs on the belt: a push of half its weight overcomes the friction.
    const std::vector<ShapeSpec<2>> box{{.geometry = Box2::sized(0.5f, 0.5f)}};
    const BodyId crate = depot.add({.pose = {{1.0, 0.5}}, .shapes = box, .mass = mass_of(box, 20)});
    depot.add_joint(Slider<2>{
        .joins = {.a = crate}, .axis = {0, 1}, .motor = {.most = 0.5f * 20 * 9.80665f}, // a brake
    });
    for (int tick = 0; tick < 90; tick++) depot.step();
    const auto state = depot.joint_state(pin);
    const bool stalled =
        std::fabs(state.axes[0].motor) > 0.99f * most && std::fabs(state.axes[0].speed) < 0.01f;
    std::printf("%-6s motor of %3.0f N m: arm at %4.1f deg, gives %5.1f N m%s; the crate is %.2f m aside\n",
                name, static_cast<double>(most),
                static_cast<double>(state.axes[0].position) * 57.29577951308232,
                static_cast<double>(std::fabs(state.axes[0].motor)), stalled ? ", stalled" : "",
                depot.pose(crate).position.y - 0.5);
}

}

int main() {
    swing(kStrong, "strong");
    swing(kWeak, "weak");
}
