// Two balls that meet in free flight, against what mechanics says of them in double: when, where, how they
// leave.
#include "support/cases.h"
#include "support/dims.h"

#include <array>
#include <cmath>
#include <limits>

namespace astasis {
namespace {

template<typename T> class ImpactsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(ImpactsTest, test::Dimensions);

// The plane lies in space: places have no depth there, spins are about z.
using Wide = std::array<double, 3>;
Wide operator+(Wide a, Wide b) { return {a[0] + b[0], a[1] + b[1], a[2] + b[2]}; }
Wide operator-(Wide a, Wide b) { return {a[0] - b[0], a[1] - b[1], a[2] - b[2]}; }
Wide operator*(Wide a, double s) { return {a[0] * s, a[1] * s, a[2] * s}; }
double dot(Wide a, Wide b) { return (a[0] * b[0] + a[1] * b[1]) + a[2] * b[2]; }
double norm(Wide a) { return std::sqrt(dot(a, a)); }
Wide cross(Wide a, Wide b) {
    return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
}
Wide wide(Vec2 v) { return {v.x, v.y, 0}; }
Wide wide(Vec3 v) { return {v.x, v.y, v.z}; }
Wide wide(Point2 p) { return {p.x, p.y, 0}; }
Wide wide(Point3 p) { return {p.x, p.y, p.z}; }
Wide spin(float w) { return {0, 0, w}; }
Wide spin(Vec3 w) { return wide(w); }

struct Flyer {
    double radius, mass, inertia;
    Wide at, velocity, spin;
};
struct Rub {
    double friction, restitution;
};

// When two flyers touch, s from now; never is infinite.
double time_of(const Flyer& a, const Flyer& b) {
    const Wide d = b.at - a.at, v = b.velocity - a.velocity;
    const double r = a.radius + b.radius, half = dot(d, v), square = dot(v, v);
    const double root = half * half - square * (dot(d, d) - r * r);
    if (half >= 0 || root < 0) return std::numeric_limits<double>::infinity();
    return (dot(d, d) - r * r) / (-half + std::sqrt(root));
}

// Newton's law along the normal, Coulomb's across it: balls that grip end without slip there.
void collide(Flyer& a, Flyer& b, const Rub& rub) {
    const Wide n = (b.at - a.at) * (1 / norm(b.at - a.at));
    const Wide ra = n * a.radius, rb = n * -b.radius;
    const Wide run = (b.velocity + cross(b.spin, rb)) - (a.velocity + cross(a.spin, ra));
    const double closing = -dot(run, n), inverse = 1 / a.mass + 1 / b.mass;
    const double push = (1 + rub.restitution) * closing / inverse;
    const Wide slip = run - n * dot(run, n);
    const double meets = inverse + (a.radius * a.radius / a.inertia + b.radius * b.radius / b.inertia),
                 fast = norm(slip);
    const double drag = fast > 0 ? std::min(fast / meets, rub.friction * push) / fast : 0;
    const Wide impulse = n * push - slip * drag;
    a.velocity = a.velocity - impulse * (1 / a.mass), b.velocity = b.velocity + impulse * (1 / b.mass);
    a.spin = a.spin - cross(ra, impulse) * (1 / a.inertia);
    b.spin = b.spin + cross(rb, impulse) * (1 / b.inertia);
}

Wide angular_momentum(const Flyer& f) { return cross(f.at, f.velocity) * f.mass + f.spin * f.inertia; }
double energy(const Flyer& f) {
    return 0.5 * (f.mass * dot(f.velocity, f.velocity) + f.inertia * dot(f.spin, f.spin));
}

template<int D> struct Meeting {
    World<D> world{test::weightless<D>()};
    std::array<BodyId, 2> bodies;
    std::array<Flyer, 2> flyers;

    // They meet within the first tick, at any time of it, or pass each other by; half of them graze.
    Meeting(test::Numbers& n, const Rub& rub) {
        constexpr double kTick = 1.0 / 60;
        const Material material{.friction = static_cast<float>(rub.friction),
                                .restitution = static_cast<float>(rub.restitution)};
        const Vec<D> way = direction(n.vec<D>(-1, 1), Vec<D>{1, 0});
        const Vec<D> other = direction(n.vec<D>(-1, 1), Vec<D>{0, 1});
        const Vec<D> aside = direction(other - way * dot(other, way), Vec<D>{way.y, -way.x});
        const double radii[] = {n.in(0.2, 0.5), n.in(0.2, 0.5)}, reach = radii[0] + radii[1];
        const double speed = n.in(0.5, 4), off = reach * (n.in(0, 1) < 0.5 ? n.in(0, 1) : n.in(0.9, 1.01));
        const double before =
            std::sqrt(std::max(reach * reach - off * off, 0.0)) + n.in(0, 1) * speed * kTick;
        const Vec<D> drift = n.vec<D>(-1, 1);
        for (std::size_t i = 0; i < 2; i++) {
            Point<D> at{};
            if (i == 1) at = (at + way * static_cast<float>(before)) + aside * static_cast<float>(off);
            bodies[i] = test::add_ball<D>(world, at, static_cast<float>(radii[i]), n.f(0.5, 4), material);
            const Vec<D> v = drift + way * static_cast<float>(i == 0 ? speed : 0);
            world.set_velocity(bodies[i], v);
            Axial<D> w{};
            if constexpr (D == 2) w = n.f(-20, 20);
            else w = n.vec<3>(-12, 12);
            world.set_angular_velocity(bodies[i], w);
            const double mass = world.mass(bodies[i]).mass, radius = static_cast<float>(radii[i]);
            flyers[i] = {radius,   mass,    mass * radius * radius * (D == 2 ? 0.5 : 0.4),
                         wide(at), wide(v), spin(w)};
        }
    }
    Flyer now(std::size_t i) const {
        Flyer out = flyers[i];
        out.at = wide(world.pose(bodies[i]).position), out.velocity = wide(world.velocity(bodies[i]));
        out.spin = spin(world.angular_velocity(bodies[i]));
        return out;
    }
};

TYPED_TEST(ImpactsTest, TwoBallsMeetAsMechanicsSays) {
    constexpr int D = TypeParam::value;
    constexpr double kTick = 1.0 / 60;
    test::Numbers n(D);
    int met = 0;
    for (int i = 0; i < test::cases(); i++) {
        const Rub rub{i % 3 == 0 ? 0.0 : n.f(0, 1), i % 2 == 0 ? 1.0 : n.f(0.2, 1)};
        Meeting<D> meeting(n, rub);
        auto [a, b] = meeting.flyers;
        const double time = time_of(a, b);
        const bool meets = time < kTick;
        met += meets;
        const double first = meets ? time : kTick;
        a.at = a.at + a.velocity * first, b.at = b.at + b.velocity * first;
        const double speed = norm(b.velocity - a.velocity);
        const double closing = -dot(b.velocity - a.velocity, (b.at - a.at) * (1 / norm(b.at - a.at)));
        if (meets) collide(a, b, rub);
        a.at = a.at + a.velocity * (kTick - first), b.at = b.at + b.velocity * (kTick - first);
        meeting.world.step();
        // The flatter they meet, the more of the place where they do hangs on the last digits of the way; and
        // what would meet just after a substep's end is held up by a gap of the last digits.
        if (closing < 0.05 * speed) continue;
        const double tolerance = 7e-5 + 2e-6 * speed * speed / closing;
        const std::array<Flyer, 2> wanted{a, b};
        for (std::size_t k = 0; k < 2; k++) {
            const Flyer got = meeting.now(k);
            ASSERT_LT(norm(got.velocity - wanted[k].velocity), tolerance) << "case " << i;
            ASSERT_LT(norm(got.spin - wanted[k].spin) * got.radius, 2 * tolerance) << "case " << i;
            ASSERT_LT(norm(got.at - wanted[k].at), 4e-6) << "case " << i;
        }
    }
    EXPECT_GT(met, test::cases() / 2);
}

// Whatever meets or grazes.
TYPED_TEST(ImpactsTest, TwoBallsKeepEnergyAndMomenta) {
    constexpr int D = TypeParam::value;
    test::Numbers n(10 + D);
    for (int i = 0; i < test::cases(); i++) {
        const Rub rub{i % 2 == 0 ? 0.0 : n.f(0, 1), 1};
        Meeting<D> meeting(n, rub);
        const auto& [a, b] = meeting.flyers;
        const double kinetic = energy(a) + energy(b);
        const Wide turning = angular_momentum(a) + angular_momentum(b);
        const Wide moving = a.velocity * a.mass + b.velocity * b.mass;
        meeting.world.step();
        const Flyer c = meeting.now(0), d = meeting.now(1);
        const double left = energy(c) + energy(d);
        if (rub.friction == 0) ASSERT_NEAR(left / kinetic, 1, 3e-6) << "case " << i;
        else ASSERT_LT(left, (1 + 1e-6) * kinetic) << "case " << i;
        ASSERT_LT(norm((c.velocity * c.mass + d.velocity * d.mass) - moving), 4e-6 * norm(moving) + 4e-6);
        ASSERT_LT(norm((angular_momentum(c) + angular_momentum(d)) - turning), 4e-6 * norm(turning) + 4e-6)
            << "case " << i;
    }
}

}
}
