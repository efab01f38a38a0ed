// A tray that tilts slowly finds the angle at which each material slips: Coulomb says the arc tangent of the
// coefficient of friction.
#include <astasis/astasis.h>

#include <cmath>
#include <cstdio>

int main() {
    using namespace astasis;
    struct Sample {
        const char* name;
        float friction;
        BodyId parcel{};
        double start = 0, slipped = 0; // m, deg
    };
    Sample samples[] = {{"film", 0.15f}, {"cardboard", 0.35f}, {"cloth", 0.6f}, {"rubber", 0.9f}};

    World2 depot;
    // The tray asks for the smaller of two coefficients, so that each parcel's own one counts.
    const MaterialId tray_top = depot.add_material({.friction = 2, .friction_mixing = Mixing::Smaller});
    const BodyId tray = depot.add({
        .motion = Motion::Kinematic,
        .shapes = {{.geometry = Box2::sized(8, 0.2f), .placement = {{0, -0.1f}}, .shared = tray_top}},
    });
    double x = -2.4;
    for (Sample& s : samples) {
        s.parcel = depot.add({
            .pose = {{x, 0.1}},
            .shapes = {{.geometry = Box2::sized(0.6f, 0.2f),
                        .material = {.friction = s.friction, .friction_mixing = Mixing::Smaller},
                        .density = 140}},
        });
        x += 1.8;
    }

    const double rate = 1; // deg/s
    for (int tick = 1; tick <= 60 * 45; tick++) {
        const double angle = rate * depot.time();
        depot.move_to(tray, {{}, turned(degrees(angle))}); // carries what lies on it
        depot.step();
        for (Sample& s : samples) {
            const Vec2 along = rotate(depot.pose(tray).rotation, {1, 0});
            const double at = dot(depot.pose(s.parcel).position - depot.pose(tray).position, along);
            if (tick == 60) s.start = at; // it lies still
            if (tick > 60 && s.slipped == 0 && std::fabs(at - s.start) > 1e-3) s.slipped = angle;
        }
    }
    std::printf("material    friction   slips at   arc tangent\n");
    for (const Sample& s : samples)
        std::printf("%-10s %9.2f %6.1f deg %9.1f deg\n", s.name, static_cast<double>(s.friction), s.slipped,
                    std::atan(static_cast<double>(s.friction)) * 57.29577951308232);
}
