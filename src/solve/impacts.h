// Impacts within a substep: bodies that meet are turned back at the time at which they meet, and have moved
// on by the rest of the substep.
//
// Between impacts a body moves at its velocity under a constant acceleration, so an impulse at time t changes
// the velocity by dv and, seen from the start of the substep, the place by -dv t: nothing else is needed to
// be exact. Impacts are taken in the order of their times. Those of the same time, and those of two bodies
// that are level, are solved together, each to its own restitution, then what these set in motion is looked
// at anew: a row of balls passes a blow on one by one, one ball against two is symmetric, and no step adds
// energy (the generalized reflections of Smith et al. 2012, Reflections on Simultaneous Impact, ACM TOG
// 31(4)). Contacts that carried a load in the substep before, bounces that would be over within two
// substeps, and what is slow and does not bounce are rest and none of this. Stage solve. O(contacts of the
// bodies that are hit, once for each pass that hits them); nothing where nothing meets. Tested by
// tests/world/impacts_test.cpp, tests/world/mechanics_test.cpp and tests/fidelity/impacts.cpp.
#pragma once

#include "astasis/function_ref.h"
#include "flow/contact_lists.h"
#include "flow/edges.h"
#include "math/numbers.h"
#include "math/small_matrix.h"

#include <algorithm>
#include <span>
#include <vector>

namespace astasis::solve {

// Closing by less than this share of the thinner shape's thickness in a substep is standing still where
// nothing bounces: contacts stop it as well, and in a heap that shakes down such meetings are most.
inline constexpr float kSlow = 2e-4f;

// A point that would meet within the substep.
struct ImpactCandidate {
    std::uint32_t manifold, point;
};

// Closing speeds along a normal, and the gap at the start of the substep; a positive speed closes.
struct Closing {
    float gap, speed, gained; // at the end of the substep without impacts, of which `gained` came in it
};

// Rest: it does not come on faster than free motion in a substep makes it, or so slowly that contacts serve.
enum class Meeting : std::uint8_t { Rest, Within, Later };
// Whether it meets within the substep.
template<int Dim> Meeting meeting(const Closing& c, float seconds, const flow::Manifold<Dim>& m);
// The speed at which a point that meets leaves if passes make it bounce: where it is at the start of the
// substep, so that no energy comes from the gap that is left. 0 if restitution does not tell it from resting.
template<int Dim> float bounce_speed(const Closing& c, const flow::Manifold<Dim>& m) {
    const float bounce = m.is_bounded() ? 0 : m.restitution * (c.speed - c.gained);
    return bounce > c.gained && bounce > 0 ? bounce : 0;
}

template<int Dim> class Impacts {
public:
    struct Hit { // a point that met in the last resolve()
        std::uint32_t manifold = 0, point = 0;
        float time = 0;                    // since the start of the substep
        float speed = 0;                   // at which it closed
        Vec<Dim> impulse{}, normal{};      // of A on B; from A to B
        Point<Dim> position{};             // where they touched
        Point<Dim> centre_a{}, centre_b{}; // of both bodies then
    };
    // A manifold that was found on the paths of its bodies: when they touch, and where they are then.
    struct SweptContact {
        float time = 0, within = 0; // points that are no farther apart then meet
        bool far_turn = false;      // no pass sees it
        flow::CentrePose<Dim> pose_a{}, pose_b{};
    };
    // Of a manifold; null if it was not found so.
    using SweptContacts = FunctionRef<const SweptContact*(std::uint32_t manifold)>;
    // Called with each body that was hit and the time of its impact, before its other contacts are looked at.
    // Manifolds that the callee finds anew or adds are told by found_anew().
    using AfterHit = FunctionRef<void(std::uint32_t body, float time)>;

    // Makes room, so that the first impact after a quiet time allocates nothing.
    void begin_tick(const flow::Bodies<Dim>& bodies, std::span<const flow::Edge> edges);
    // Whether so many rounds of a site may be solved beyond the plain ones: see islands/budget.h.
    using Buy = FunctionRef<bool(std::uint64_t rounds)>;
    struct Callbacks {
        FunctionRef<void(std::uint32_t)> enter_body{}, enter_contact{};
        SweptContacts swept{};
        // The time in the substep at which a body's path ends, kNever if it does not: the body stands there
        // if it is not hit before.
        FunctionRef<float(std::uint32_t)> path_end{};
        std::span<const std::uint32_t> ending{}; // bodies whose paths end
        AfterHit after_hit{};
        Buy buy{}; // all that are wanted, if null
    };
    // Velocities are those after free motion through the substep, of which `gained` came in it; they are
    // changed. Returns whether any were. Columns are by the bodies' places; enter_body is called before those
    // of a body are first read, enter_contact before a manifold's forces are: what is elsewhere till then
    // need not be brought for all.
    bool resolve(flow::Bodies<Dim>& bodies, std::vector<flow::Manifold<Dim>>& manifolds,
                 std::span<const flow::Velocity<Dim>> gained, std::span<math::Inertia<Dim>> inverse_inertia,
                 const flow::ContactLists& lists, float seconds, std::span<const ImpactCandidate> candidates,
                 const Callbacks& callbacks = {});
    // A body that no manifold named when the tick began.
    void add_body(std::uint32_t body) { entered_[body] = 0; }
    // Only within after_hit: the manifold is new or another.
    void found_anew(std::uint32_t manifold) { anew_.push_back(manifold); }
    static constexpr float kNever = 1e30f;
    // Those of the last resolve(), in the order in which they were resolved.
    std::span<const Hit> hits() const { return hits_list_; }
    // Whether the last resolve() hit a body, when for the last time, and where the body is at a time after
    // that within the substep, given its columns.
    bool was_hit(std::uint32_t body) const { return entered_[body] == number_ && hits_[body].known; }
    float last_hit(std::uint32_t body) const { return hits_[body].since; }
    // Whether it was turned to its last impact: its velocity is that at start().
    bool on_path(std::uint32_t body) const { return hits_[body].on_path; }
    // Whether it goes no farther in the substep than to its last impact, since further ones are not looked
    // for.
    bool is_stopped(std::uint32_t body) const { return entered_[body] == number_ && hits_[body].stopped; }
    // The bodies that the last resolve() moved.
    std::span<const std::uint32_t> moved() const { return moved_; }
    // The pose from which a body that was hit has to set out in the substep, instead of `pose`, to come to
    // where it goes with its new velocity.
    flow::CentrePose<Dim> start(const flow::Bodies<Dim>& bodies, std::uint32_t body,
                                const flow::CentrePose<Dim>& pose) const;

private:
    // A body that is hit more often in a substep is caught between others, where blows never end (inelastic
    // collapse: McNamara and Young 1992, Phys. Fluids A 4, 496): it bounces no more, and what is swept stands
    // from there on. (With 8 and with 16 one in 40 heaps of 150 discs and boxes that land did not sleep in 30
    // s, with 12 none.) Without bouncing that takes a few: three boxes of 2 cm in a column that land at 5 to
    // 100 m/s overlap by 11 % at most with 4, by 17 with 2, by 45 with 1.
    static constexpr int kMostHits = 12, kMostDullHits = 4;
    struct ImpactPoint { // a point of a manifold that may meet
        std::uint32_t manifold, point, body_a, body_b;
        Vec<Dim> between, arm_a, arm_b, normal; // at the start of the substep, then at the time of impact
        Axial<Dim> lever_a, lever_b; // what turning about each of the axes moves it along the normal
        float gap, gains;            // gains: of the normal speed, by free motion
        float time, speed;           // of the impact; at which it closes then
        float swept_time;            // when it was found to touch; kNever if it was not swept
        bool grazes = false;         // was found to touch where its bodies do not come nearer
        std::uint32_t pass = 0;      // the last that picked it
        float met = kNever;          // when it had its impact, if it has not come apart since
    };
    struct Axis { // along which the two bodies of a blow push each other
        Vec<Dim> along{};
        Axial<Dim> lever_a{}, lever_b{};
        flow::Velocity<Dim> kick_a{}, kick_b{}; // what an impulse of 1 does
    };
    struct ImpactRow { // at a site that meets
        std::uint32_t body_a, body_b;
        std::array<Axis, Dim> axes; // normal and tangents
        float mass, friction_mass, friction;
        double wanted;                    // change of speed along the normal,
        double bounce;                    // and the part of it that restitution asks for
        std::array<double, Dim - 1> slip; // the same along the tangents
        std::array<double, Dim - 1> turned;
        Vec<Dim> met; // how the surfaces ran over each other before, across and along the normal
        std::array<double, Dim> impulse; // along the axes
    };
    // By what a pass changes a velocity: in double, so that what comes down level leaves so.
    struct Change {
        std::array<double, Dim> linear{};
        std::array<double, math::kAxialSize<Dim>> angular{};

        flow::Velocity<Dim> rounded() const {
            flow::Velocity<Dim> out;
            for (int k = 0; k < Dim; k++) out.linear[k] = static_cast<float>(linear[k]);
            for (int k = 0; k < math::kAxialSize<Dim>; k++)
                math::component(out.angular, k) = static_cast<float>(angular[k]);
            return out;
        }
    };
    struct Struck {                   // a body, as far as impacts have changed it
        flow::Velocity<Dim> shift{};  // of the place at the start of the substep
        Rotation<Dim> rotation{};     // at its last impact, if it was turned to it
        Rotation<Dim> rotation_now{}; // at the impact of pass `turned`
        std::uint32_t turned = 0;
        bool on_path = false;
        Change change{};               // of the velocity, by the present pass
        float since = 0;               // time of its last impact
        float first = kNever;          // earliest impact ahead within the substep
        float end = kNever;            // when its path ends
        std::uint32_t first_point = 0; // and where
        std::uint32_t touched = 0;     // the last pass in which it or a partner was hit
        std::uint32_t cluster = 0;     // the way to the lowest of those that are hit together with it
        std::uint32_t last = 0;        // the pass that hit it last
        std::uint32_t looked = 0;      // and after which it was last looked what it may meet next
        int count = 0;                 // of the passes that hit it
        bool stopped = false;          // goes no farther in the substep
        bool known = false;
        bool active = false; // may have impacts ahead
    };
    struct Bundle { // what resolve() was given
        flow::Bodies<Dim>& bodies;
        std::vector<flow::Manifold<Dim>>& manifolds;
        std::span<const flow::Velocity<Dim>> gained;
        std::span<math::Inertia<Dim>> inverse_inertia; // at the impact of what was swept
        const flow::ContactLists& lists;
        float seconds;
        const Callbacks& callbacks;
    };

    void enter(const Bundle& b, std::uint32_t body);
    void add_points(const Bundle& b, std::uint32_t manifold);
    void set_levers(const Bundle& b, ImpactPoint& site) const;
    void find_time(const Bundle& b, ImpactPoint& site);
    void find_time_of_round(const Bundle& b, ImpactPoint& site) const;
    template<typename Visit> void each_point(const Bundle& b, std::uint32_t body, const Visit& visit);
    void update_times(const Bundle& b, bool all);
    bool is_first(const Bundle& b, std::uint32_t body, const ImpactPoint& site) const;
    bool pick(const Bundle& b, bool all);
    void take(const Bundle& b, std::uint32_t site, float time);
    bool stays_in_contact(const Bundle& b, const ImpactPoint& site, float time) const;
    bool is_exhausted(std::uint32_t body) const { return hits_[body].count >= kMostHits; }
    // The time to which a body of a site has moved when it meets.
    float time_at(const ImpactPoint& s, std::uint32_t body) const {
        return hits_[body].stopped ? hits_[body].end : std::max(s.time, hits_[body].since);
    }
    bool bounces(const Bundle& b, const ImpactPoint& site) const;
    std::uint32_t cluster_of(std::uint32_t body);
    void join(std::uint32_t a, std::uint32_t b);
    void sort_by_cluster(const Bundle& b);
    ImpactRow blow(const Bundle& b, const ImpactPoint& site) const;
    double run_along(const Bundle& b, const ImpactRow& blow, std::size_t axis, float late) const;
    void collide(const Bundle& b);
    void look_again(const Bundle& b);
    void stop_exhausted(const Bundle& b);
    float now(std::uint32_t body) const { return hits_[body].stopped ? hits_[body].end : hits_[body].since; }
    float earliest() const;
    void stop_ended(float time);
    void turn_to_impact(const Bundle& b, const ImpactPoint& site);
    void list_hit(const Bundle& b, const ImpactPoint& site, const Vec<Dim>& impulse);
    bool buy(const Bundle& b, std::size_t rounds);
    double push(ImpactRow& blow);
    void iterate(const Bundle& b, std::span<ImpactRow> cluster);
    void keep_energy(const Bundle& b, std::span<ImpactRow> cluster);
    Axis axis(const Bundle& b, const ImpactPoint& site, const Vec<Dim>& along) const;
    Vec<Dim> in_world(const ImpactRow& blow, const std::array<double, Dim>& along_its_axes) const;
    double changed_along(const ImpactRow& blow, std::size_t axis) const;
    Vec<Dim> changed(const ImpactRow& blow) const;
    void apply(ImpactRow& blow, std::size_t axis, double impulse);
    static void add_exactly(flow::Velocity<Dim>& v, flow::Velocity<Dim>& remainder, const Change& by);
    float normal_speed(const ImpactPoint& site, const flow::Velocity<Dim>& a,
                       const flow::Velocity<Dim>& b) const;
    float inverse_mass(const Bundle& b, const ImpactPoint& site, const Vec<Dim>& u, const Vec<Dim>& w) const;
    bool rests(const Bundle& b, const ImpactPoint& site) const;
    Vec<Dim> relative(const Bundle& b, const ImpactPoint& site) const;
    Vec<Dim> gained(const Bundle& b, const ImpactPoint& site) const;

    std::vector<Struck> hits_;
    std::vector<Hit> hits_list_;
    std::vector<std::uint32_t> anew_;
    std::vector<std::uint32_t> moved_;
    // Of bodies and manifolds: the number of the last resolve() that they were part of.
    std::vector<std::uint32_t> entered_, listed_;
    std::uint32_t number_ = 0;
    std::vector<ImpactPoint> points_;
    std::vector<std::uint32_t> first_point_; // of each manifold listed
    std::uint32_t pass_ = 0;                 // counted through the tick
    bool refused_ = false;                   // no more can be bought in this resolve()
    std::vector<std::uint32_t> touched_;     // bodies, of the present pass
    std::vector<std::uint32_t> active_;      // bodies, of the present resolve()
    std::vector<std::uint32_t> stopped_;     // bodies, by the present pass
    std::vector<std::uint32_t> near_points_; // theirs, that meet
    std::vector<std::uint32_t> picked_;      // by clusters, which end at
    std::vector<std::uint32_t> ends_;
    std::vector<ImpactRow> impact_rows_; // of the picked sites
    // Theirs, with restitution.
    std::vector<std::array<double, Dim>> impulses_;
    std::vector<Vec<Dim>> runs_;
};

// Of B against A at the site, and what free motion gives to that. Differences of velocities come first: they
// are as exact in a fast frame as in a slow one.
template<int Dim>
inline Vec<Dim> relative_at(const flow::Velocity<Dim>& a, const Vec<Dim>& arm_a, const flow::Velocity<Dim>& b,
                            const Vec<Dim>& arm_b) {
    return (b.linear - a.linear) + (cross(b.angular, arm_b) - cross(a.angular, arm_a));
}
template<int Dim> Vec<Dim> Impacts<Dim>::relative(const Bundle& b, const ImpactPoint& s) const {
    return relative_at(b.bodies.velocity[s.body_a], s.arm_a, b.bodies.velocity[s.body_b], s.arm_b);
}
template<int Dim> Vec<Dim> Impacts<Dim>::gained(const Bundle& b, const ImpactPoint& s) const {
    return relative_at(b.gained[s.body_a], s.arm_a, b.gained[s.body_b], s.arm_b);
}
template<int Dim>
float Impacts<Dim>::normal_speed(const ImpactPoint& s, const flow::Velocity<Dim>& a,
                                 const flow::Velocity<Dim>& b) const {
    return dot(b.linear - a.linear, s.normal) +
           (math::axial_dot(s.lever_b, b.angular) - math::axial_dot(s.lever_a, a.angular));
}

}
