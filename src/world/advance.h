// The substeps of a tick: velocities, impacts, contacts and poses of all that moves.
// Stage advance. Reads gravity and pushes; reads and writes bodies and the manifolds' forces and separations.
//
// A substep integrates velocities, resolves what meets within it, warm-starts, makes one pass with position
// correction, integrates poses, and makes one pass without, or several where contacts have yet to find their
// load (Macklin et al. 2019, Small Steps in Physics Simulation; Stewart and Trinkle 1996; Anitescu and Potra
// 1997). Islands of one level (islands/islands.h) are solved together, so that contacts of many small ones
// fill the lanes; they share nothing but kinematic bodies, which each level moves for itself.
// O(substeps (bodies + points)) time; no allocation once warm. Tested by tests/world/mechanics_test.cpp,
// driven_test.cpp and the cases of tests/fidelity/.
#pragma once

#include "astasis/function_ref.h"
#include "base/merge_tail.h"
#include "broad/box_index.h"
#include "flow/materials.h"
#include "islands/islands.h"
#include "narrow/manifolds.h"
#include "solve/contact_groups.h"
#include "solve/fields.h"
#include "solve/impacts.h"
#include "solve/integrate.h"
#include "solve/joints.h"
#include "sweep/sweep.h"

#include <array>
#include <bit>
#include <optional>
#include <span>

namespace astasis {

// The world around the bodies, in which contacts are found anew within a tick.
template<int Dim> struct Surroundings {
    std::span<flow::Collider<Dim>> colliders;
    const flow::Materials* materials = nullptr;
    broad::BoxIndex<Dim>* index = nullptr;
    FunctionRef<std::span<const std::uint32_t>(std::uint32_t)>
        colliders_of; // of a body, by the order of its shapes
    FunctionRef<Sweep(std::uint32_t)> sweep_of;
    // Whether a joint keeps two bodies from touching each other.
    FunctionRef<bool(std::uint32_t, std::uint32_t)> keeps_apart;
    narrow::LookAt<Dim> look_at; // at manifolds that are found within the tick
    // Before each substep of a level: its bodies in the order of their rows, the row of each body of the
    // world; when it begins in the tick, and its length. Refers to nothing if no hook is set.
    FunctionRef<void(solve::Integrator<Dim>&, std::span<const std::uint32_t> bodies,
                     std::span<const std::uint32_t> rows, double time, double seconds)>
        before_substep;
    // Joints that hold a moving body, by their places among all.
    std::vector<flow::Joint<Dim>>* joints = nullptr;
    std::span<const std::uint32_t> active_joints{};
    const solve::FieldInput<Dim>* fields = nullptr; // null without any
    std::span<const flow::JointEdge> field_edges{}; // bodies that fields join
    std::span<const std::uint32_t> field_sources{}; // bodies whose places fields need
};

template<int Dim> struct AdvanceSettings {
    Vec<Dim> gravity{};
    double tick = 0;
    int substeps = 1;
    float extra_work = 1;
    solve::Tuning tuning = solve::kTuning;
    // Impacts that come on at least so fast, m/s, are listed.
    float least_strike = kUnlimited;
    // Accelerations of kinematic bodies, by place; or none.
    std::span<const flow::Velocity<Dim>> accelerations{};
};

// An impact of two bodies; of swept ones, at least one was swept in that substep.
template<int Dim> struct SweptMeeting {
    double time = 0;                                                // s, since the start of the tick
    std::uint32_t body_a = 0, body_b = 0, shape_a = 0, shape_b = 0; // places in Bodies; indices of shapes
    bool a_swept = false, b_swept = false;
    Vec<Dim> impulse{}, normal{}; // of A on B, from A to B
    Point<Dim> position{}, centre_a{}, centre_b{};
    float speed = 0; // m/s, of the approach
};

template<int Dim> class Advance {
public:
    explicit Advance(simd::InstructionSet set = simd::best()) : set_(set), integrator_(set), contacts_(set) {}
    // Nothing is kept from tick to tick but room: a copy begins without any, so that snapshots are small.
    Advance(const Advance& other) : Advance(other.set_) {}
    Advance& operator=(const Advance& other) {
        if (set_ != other.set_) *this = Advance(other.set_);
        return *this;
    }
    Advance(Advance&&) noexcept = default;
    Advance& operator=(Advance&&) noexcept = default;
    ~Advance() = default;
    // Takes dynamic bodies through a tick; kinematic ones stay as they are. The manifolds are all those of
    // the moving bodies, and stay sorted; those of pairs that come near only within the tick join them.
    // `claims` are those of Islands::decide(). Without surroundings no contact is found within the tick.
    void advance(const AdvanceSettings<Dim>& settings, const Surroundings<Dim>& around,
                 flow::Bodies<Dim>& bodies, std::vector<flow::Manifold<Dim>>& manifolds,
                 std::vector<std::uint32_t>& claims);
    // Impacts of swept bodies within the tick, in the order of time.
    std::span<const SweptMeeting<Dim>> swept_meetings() const { return swept_meetings_; }
    // Impacts as fast as the settings want, of all bodies, in the order of time; the points of a pair at one
    // time are one.
    std::span<const SweptMeeting<Dim>> strikes() const { return strikes_; }
    // Both lists name bodies by their places: when bodies change places, the lists follow.
    template<typename Rename> void rename(const Rename& rename) {
        for (auto* list : {&swept_meetings_, &strikes_})
            for (auto& meeting : *list) rename(meeting);
    }
    // The lowest place in the island of each moving body.
    std::span<const std::uint32_t> roots() const { return islands_.roots(); }
    // The treatment of a moving body's island in the last tick.
    const islands::Treatment& treatment_of(std::uint32_t body) const { return islands_.treatment_of(body); }
    const WorkOfTick& work() const { return budget_.cost(); }
    // The work of motors, fields and hooks on the bodies in the last tick, J.
    double motor_work() const { return motor_work_; }
    double field_work() const { return field_work_; }
    double hook_work() const { return hook_work_; }

private:
    struct Kinematic { // as it began the tick
        std::uint32_t body;
        flow::CentrePose<Dim> pose;
        flow::Velocity<Dim> velocity, remainder;
    };
    struct Run { // what the substeps of a level share
        const AdvanceSettings<Dim>& settings;
        const Surroundings<Dim>& around;
        flow::Bodies<Dim>& bodies;
        std::vector<flow::Manifold<Dim>>& manifolds;
        typename solve::ContactGroups<Dim>::Input input;
        double seconds = 0; // of a substep
        int substep = 0;

        double time() const { return substep * seconds; } // since the start of the tick
        double left() const { return settings.tick - time(); }
        std::uint32_t stamp() const { return static_cast<std::uint32_t>(substep + 1); }
    };
    void make_room_for_added(std::size_t manifolds);
    void reserve(const flow::Bodies<Dim>& bodies, std::size_t manifolds);
    void find_joint_edges(const Surroundings<Dim>& around); // and those of fields, behind them
    void want_levels_of_joints(const AdvanceSettings<Dim>& settings, const Surroundings<Dim>& around,
                               const flow::Bodies<Dim>& bodies);
    void sort_joints(const Surroundings<Dim>& around, const flow::Bodies<Dim>& bodies);
    void sort(const flow::Bodies<Dim>& bodies);
    void treat(const solve::Tuning& tuning, const flow::Bodies<Dim>& bodies,
               std::span<flow::Manifold<Dim>> manifolds);
    void begin(std::size_t level, const Surroundings<Dim>& around, const flow::Bodies<Dim>& bodies);
    void end(flow::Bodies<Dim>& bodies);
    void run(Run run, int level);
    void resolve_impacts(Run& run);

    // A body that has left its path by more than this share of its size strays, and is looked for what it may
    // meet there. Its pairs were found with two fifths of that room (world/colliders.cpp). A dense fall takes
    // 13 % more instructions with 0.02, 4 % less with 0.08.
    static constexpr float kRoom = 0.05f;
    // A turn in a substep, rad, through which contacts that were found at its start tell little of its end.
    static constexpr float kFarTurn = 0.1f;
    // Shares: of a swept body's size, the margin with which a pair is found at its time of impact; of a
    // collider's reach, the least and the most by which it stands off after an impact while it is looked for
    // what it meets next. The least is more than what counts as touching (shape/impact.cpp), or it would meet
    // the same again.
    static constexpr float kNear = 0.01f, kStandOff = 1e-4f, kMostOff = 2e-2f;

    // advance_strays.cpp, and advance_contacts.cpp
    void begin_contacts(const Run& run);
    void update_contacts(Run& run);
    // While impacts are resolved, the velocities of bodies that they have hit are in the columns.
    flow::Velocity<Dim> velocity(const Run& run, std::size_t row) const {
        const std::uint32_t body = bodies_[row - 1];
        return resolving_ && impacts_.was_hit(body) ? run.bodies.velocity[body] : integrator_.velocity(row);
    }
    sweep::Leg<Dim> leg(const Run& run, std::uint32_t body) const;
    flow::CentrePose<Dim> start(const Run& run, std::uint32_t body) const;
    bool is_same_pair(const Run& run, std::uint32_t k, std::uint32_t n) const;
    // Calls visit(n) for each manifold of the pair of manifold k: those of the tick's start stand side by
    // side.
    template<typename Visit>
    void for_each_of_pair(const Run& run, std::uint32_t k, const Visit& visit) const {
        const flow::Manifold<Dim>& m = run.manifolds[k];
        std::uint32_t n = k;
        if (k < sorted_manifolds_) {
            while (n > 0 && is_same_pair(run, k, n - 1)) n--;
            for (; n < sorted_manifolds_ && is_same_pair(run, k, n); n++) visit(n);
        } else {
            const auto found = first_of_pair(run, m.key_a, m.key_b);
            for (n = found; n < sorted_manifolds_ && is_same_pair(run, k, n); n++) visit(n);
        }
        lists_.for_each_added(run.bodies.mass[m.body_a].inverse_mass > 0 ? m.body_a : m.body_b,
                              [&](std::uint32_t other) {
                                  if (is_same_pair(run, k, other)) visit(other);
                              });
    }
    std::uint32_t first_of_pair(const Run& run, std::uint64_t key_a, std::uint64_t key_b) const;
    void treat_alike(const Run& run, flow::Manifold<Dim>& manifold) const;
    std::uint32_t add_manifold(Run& run, const flow::Manifold<Dim>& manifold);
    void update(Run& run, std::uint32_t k, const narrow::PairAt<Dim>& at, std::optional<double> swept = {});
    bool is_seam(const Run& run, const flow::Manifold<Dim>& m, const narrow::PairAt<Dim>& at) const;
    void find_touching(const Run& run, const narrow::PairAt<Dim>& at, bool swept);
    void pass_by(Run& run, std::uint32_t k, bool carried_over);
    void find_passed(Run& run);
    void find_again(Run& run, std::uint32_t k);
    void find_accelerations(const Run& run);
    void find_strays(Run& run, std::span<const solve::Watched> watched);
    void look_around(Run& run, std::uint32_t body, double time);
    bool has_strayed(const Run& run, std::uint32_t body) const;
    // Of free motion through the substep: that of its leg.
    flow::Velocity<Dim> mean_velocity(const Run& run, std::uint32_t body) const {
        const std::size_t row = body < run.bodies.moving ? rows_[body] : 0;
        if (row == 0) return {};
        const flow::Velocity<Dim> v = velocity(run, row), gain = integrator_.gained(row);
        return {v.linear - gain.linear * 0.5f, v.angular - gain.angular * 0.5f};
    }
    Vec<Dim> place(const Run& run, std::uint32_t body) const;
    Bounds<Dim> bounds_at(const Run& run, const flow::Collider<Dim>& c,
                          const flow::CentrePose<Dim>& at) const;
    void find_near(const Run& run, const flow::Collider<Dim>& c);
    float ageing_speed(const Run& run, std::uint32_t k) const;
    float most_passing_speed(const Run& run, std::uint32_t a, std::uint32_t b) const;
    void find_lively(Run& run);
    void add_lively(const Run& run, std::uint32_t k);
    void update_stale(Run& run);
    void refresh_updated();
    const flow::Collider<Dim>& collider(const Run& run, std::uint32_t body, std::uint32_t shape) const {
        return run.around.colliders[run.around.colliders_of(body)[shape]];
    }

    // advance_sweeps.cpp, and advance_stops.cpp
    // Whether a way and a turn by `spin`, at an arm of `reach` times as many seconds, are together longer
    // than `most`: of most bodies they are not by far, which takes no root.
    static bool is_longer(const Vec<Dim>& way, const Axial<Dim>& spin, float reach, float most) {
        const float turned = dot(spin, spin) * (reach * reach);
        if (2 * (length_squared(way) + turned) <= most * most) return false;
        return length(way) + std::sqrt(turned) > most;
    }
    static Vec<Dim> vector_of(const float (&v)[3]) {
        if constexpr (Dim == 2) return {v[0], v[1]};
        else return {v[0], v[1], v[2]};
    }
    static flow::Velocity<Dim> velocity_of(const solve::Path& path) {
        if constexpr (Dim == 2) return {vector_of(path.velocity), path.spin[0]};
        else return {vector_of(path.velocity), vector_of(path.spin)};
    }
    // Calls visit(row) for each that is set in one of the masks, by rising rows.
    template<typename Visit>
    static void for_each_row(std::span<const solve::Watched> watched, std::uint32_t solve::Watched::*mask,
                             const Visit& visit) {
        for (const solve::Watched& w : watched)
            for (std::uint32_t left = w.*mask; left != 0; left &= left - 1)
                visit(w.first + static_cast<std::size_t>(std::countr_zero(left)));
    }
    bool is_swept(const Run& run, std::size_t row) const;
    void mark_swept(std::size_t row) {
        if (!is_swept_[row]) swept_.push_back(bodies_[row - 1]);
        is_swept_[row] = 1;
    }
    // Whether a body stands at a pose for the rest of the substep.
    bool is_stopped(const Run& run, std::size_t row) const { return stopped_in_[row] == run.stamp(); }
    bool stands(const Run& run, std::uint32_t body) const {
        return body < run.bodies.moving && rows_[body] > 0 && is_stopped(run, rows_[body]);
    }
    void stop(const Run& run, std::uint32_t body, double time, const flow::CentrePose<Dim>& pose);
    bool follows_leg(const Run& run, std::uint32_t body) const;
    void end_path(const Run& run, std::uint32_t body, double time);
    float path_end_of(const Run& run, std::uint32_t body) const {
        const std::size_t row = body < run.bodies.moving ? rows_[body] : 0;
        return row > 0 && ends_in_[row] == run.stamp() ? path_end_[row] : solve::Impacts<Dim>::kNever;
    }
    bool looks_at(const Run& run, std::uint32_t body, std::uint32_t other) const;
    void find_swept(Run& run, std::span<const solve::Watched> watched);
    bool buy_sweep() {
        out_of_sweeps_ = out_of_sweeps_ || !budget_.buy_sweep();
        return !out_of_sweeps_;
    }
    void slow(const Run& run, std::size_t row);
    void sweep(Run& run, std::uint32_t body, std::optional<double> hit_at);
    bool turns_far(const Run& run, const narrow::PairAt<Dim>& at) const;
    void sweep_pair(Run& run, std::uint32_t k, std::optional<double> hit_at);
    void sweep_on(Run& run, std::uint32_t k, const typename solve::Impacts<Dim>::Hit& hit,
                  sweep::Leg<Dim> leg_a, sweep::Leg<Dim> leg_b, double from, float size);
    const typename solve::Impacts<Dim>::Hit* last_hit(const Run& run, std::uint32_t k, double time) const;
    void set_swept(Run& run, std::uint32_t k, double time, const narrow::PairAt<Dim>& at);
    void stop_short(Run& run);
    static float touching_within(const flow::Manifold<Dim>& m, const narrow::PairAt<Dim>& at);
    static bool closes(const flow::Manifold<Dim>& m, const narrow::PairAt<Dim>& at,
                       const flow::Velocity<Dim>& a, const flow::Velocity<Dim>& b, double seconds);
    static double pressed_at(const flow::Manifold<Dim>& m, const sweep::Leg<Dim>& a, const sweep::Leg<Dim>& b,
                             double left);
    double first_pressed(const Run& run, std::uint32_t body, const sweep::Leg<Dim>& own, double from,
                         double left) const;
    double first_in_way(Run& run, std::uint32_t body, const sweep::Leg<Dim>& own, double from, double left);
    std::optional<double> leaves_and_meets(const Run& run, const flow::Collider<Dim>& c,
                                           const sweep::Leg<Dim>& own, const flow::Collider<Dim>& d,
                                           const sweep::Leg<Dim>& theirs, double seconds);
    void block_unmet(Run& run);
    void end_swept_hits(Run& run);
    void list_swept_meetings(const Run& run);
    std::size_t add_strike(const SweptMeeting<Dim>& meeting); // returns its place in the list
    std::vector<solve::Found>* to_passes(const Run& run) {
        return run.settings.least_strike < kUnlimited ? &to_passes_ : nullptr;
    }
    void note_pass_hits(const Run& run);
    void tell_pass_hits(const Run& run);

    simd::InstructionSet set_;
    std::vector<flow::Edge> edges_; // of the manifolds at the start of the tick
    flow::ContactLists lists_;
    islands::Budget budget_;
    islands::Islands<Dim> islands_;
    solve::Integrator<Dim> integrator_;
    solve::ContactGroups<Dim> contacts_;
    solve::Impacts<Dim> impacts_;
    // Bodies and manifolds by the levels of their islands, each level's behind one another; where these
    // begin.
    std::vector<std::uint32_t> bodies_by_, manifolds_by_;
    std::array<std::uint32_t, islands::kMostLevel + 2> first_body_{}, first_manifold_{};
    // Those of the level that is being solved: bodies in the order of their rows; the row of each body.
    std::vector<std::uint32_t> bodies_, rows_;
    std::span<const std::uint32_t> manifolds_;
    std::vector<Kinematic> kinematic_;
    std::vector<flow::JointEdge> joint_edges_;
    solve::FieldSolver<Dim> fields_;
    double motor_work_ = 0, field_work_ = 0, hook_work_ = 0; // J
    std::vector<float> pulls_; // by body: forces of its joints at their arms, N m
    // Joints of each level: the structure of their system is kept from tick to tick.
    std::array<std::vector<std::uint32_t>, islands::kMostLevel + 1> joints_by_;
    std::array<std::vector<std::uint8_t>, islands::kMostLevel + 1>
        further_by_; // whether they have further passes
    std::array<solve::JointSolver<Dim>, islands::kMostLevel + 1> joints_;
    std::vector<float> softness_; // by manifold
    std::vector<solve::Found> found_, found_again_;
    std::vector<solve::ImpactCandidate> candidates_;
    std::vector<std::uint32_t> hit_manifolds_; // manifolds of the bodies that impacts moved
    std::vector<flow::Velocity<Dim>> gained_;
    std::vector<math::Inertia<Dim>> inverse_inertia_;

    // Contacts that are found within the tick. By row: on what path a body's pairs were found, and with what
    // velocity it was swept in this substep.
    std::vector<solve::Path> paths_;
    std::vector<flow::Velocity<Dim>> swept_velocity_;
    narrow::ManifoldFinder<Dim> finder_;
    std::vector<std::uint8_t> is_swept_; // by row, in this substep
    std::vector<std::uint32_t> swept_;   // bodies, in this substep
    // By row: the last substep in which a body was stopped, and where.
    std::vector<std::uint32_t> stopped_in_;
    std::vector<flow::CentrePose<Dim>> stopped_at_;
    // By row: the last substep in which a body's path ended before it, and when; and the bodies of the
    // present one.
    std::vector<std::uint32_t> ends_in_, ending_;
    std::vector<float> path_end_;
    std::vector<std::uint32_t> lively_; // manifolds that may have to be found anew
    std::vector<std::uint8_t> is_lively_;
    // By manifold: when in the tick it was found, how far apart its points were then, before when it need not
    // be found anew as long as its bodies keep their paths, in which substep its
    // pair was last looked at, and where it was found to touch on the paths of its bodies, of the present
    // substep if swept_in_ says so.
    std::vector<float> found_at_, found_gap_, due_;
    std::vector<std::uint32_t> looked_in_, swept_in_;
    std::vector<typename solve::Impacts<Dim>::SweptContact> swept_at_;
    std::vector<std::uint32_t> updated_, swept_hits_; // manifolds, in this substep
    std::vector<std::uint32_t> its_manifolds_, pair_; // of one body, of one pair
    std::vector<std::uint32_t> passed_;               // manifolds of pairs that go past each other
    std::vector<std::uint32_t> near_;                 // colliders
    std::vector<flow::Manifold<Dim>> before_, after_;
    struct Stop {
        std::uint32_t row;
        double time; // in the substep
        flow::CentrePose<Dim> pose;
        flow::Velocity<Dim> velocity{};
    };
    std::vector<Stop> stops_;
    std::vector<SweptMeeting<Dim>> swept_meetings_, strikes_;
    base::MergeRoom<SweptMeeting<Dim>> meetings_room_;
    // Points that passes stop in the present substep or began to stop in the last one, if strikes are wanted.
    static constexpr std::size_t kNotTold = ~std::size_t{0};
    struct PassHit {
        std::uint32_t manifold, point;
        std::size_t strike; // its place in the list
        SweptMeeting<Dim> meeting;
    };
    std::vector<solve::Found> to_passes_;
    std::vector<PassHit> pass_hits_;
    base::MergeRoom<flow::Manifold<Dim>> merge_room_;
    bool resolving_ = false, resolved_ = false; // impacts of this substep
    bool any_passed_ = false;
    bool out_of_sweeps_ = false;       // for the rest of the tick
    std::size_t sorted_manifolds_ = 0; // the others were added within the tick
};

extern template class Advance<2>;
extern template class Advance<3>;

}
