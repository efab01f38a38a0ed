// All that a world holds, and how a body's own origin relates to its centre of mass.
//
// (1) The rows and the columns of Bodies have one entry a body, at the same place; slots knows the places.
// (2) Each shape has a collider at a place of its own, whose bounds and box are those of its pose. (3)
// manifolds are those of the last tick, less those of bodies that were removed or put elsewhere since.
#pragma once

#include "astasis/world.h"
#include "base/merge_tail.h"
#include "base/scratch.h"
#include "base/slot_map.h"
#include "broad/pair_finder.h"
#include "flow/contacts.h"
#include "flow/materials.h"
#include "narrow/manifolds.h"
#include "sleep/rest.h"
#include "world/advance.h"

#include <exception>
#include <unordered_map>

namespace astasis {

template<int Dim> struct World<Dim>::State {
    struct Row { // of a body: what no stage needs every substep
        std::vector<ShapeSpec<Dim>> shapes;
        std::vector<std::uint32_t> numbers; // of each shape, rising: see World::add_shape
        std::uint32_t next_number = 0;
        std::vector<std::uint32_t> colliders;          // of each shape, with rising keys
        std::optional<MassProperties<Dim>> mass_given; // by the body's spec: shapes do not change it
        std::optional<Pose<Dim>> target;               // where move_to takes it in the next tick
        bool driven = false;                           // its velocity is that of the last move_to
        // Of a kinematic body: its velocity in the last tick, and how that differed from the one before.
        flow::Velocity<Dim> last_velocity{}, last_change{};
        std::optional<Thrust<Dim>> thrust;
        Pose<Dim> previous{};
        Vec<Dim> velocity_then{}; // before the last tick, for sensors
        std::uint64_t user_data = 0;
        bool nonfinite = false, may_sleep = true;
        Sweep sweep = Sweep::Everything;
        static constexpr std::uint32_t kAwake = 0xffffffffu, kUngrouped = 0xfffffffeu;
        std::uint32_t island = kAwake; // in `asleep`; kUngrouped: added asleep since the last tick
        std::uint32_t listed = 0;      // place in `listed`
        std::vector<JointId> joints;   // that hold it
    };
    struct JointEntry { // of a joint: what no stage needs
        Joint<Dim> spec;
        BodyId a;
        std::optional<BodyId> b;
    };

    struct SleepingContact {
        flow::Manifold<Dim> manifold; // its places are of no meaning
        BodyId a, b;
    };
    struct Asleep { // an island
        std::vector<BodyId> bodies;
        std::vector<SleepingContact> contacts;
    };
    class Moves;
    class Audit;

    WorldSpec<Dim> spec;
    solve::Tuning tuning = solve::kTuning;
    std::uint64_t ticks = 0;
    // The time and the number of ticks at the last change of the tick's length.
    double time_then = 0;
    std::uint64_t ticks_then = 0;
    std::uint64_t next_key = 0;
    base::SlotMap<BodyId> slots;
    flow::Bodies<Dim> bodies;
    std::vector<Row> rows;
    std::vector<BodyId> listed; // as they came

    flow::Materials materials;
    Work work;

    std::vector<flow::Collider<Dim>> colliders; // of living shapes and gaps
    std::vector<std::uint32_t> free_colliders;
    base::Scratch<std::vector<std::uint32_t>> moving_colliders;
    broad::BoxIndex<Dim> index;
    broad::PairFinder<Dim> broad;
    base::Scratch<std::vector<flow::Pair>> pairs;
    std::vector<flow::Manifold<Dim>> manifolds;
    base::Scratch<std::vector<flow::Manifold<Dim>>> manifolds_before; // of the tick before, in a tick
    base::Scratch<narrow::ManifoldFinder<Dim>> narrow;
    Advance<Dim> advance;
    // Of kinematic bodies within the tick, by place; empty if there are none.
    base::Scratch<std::vector<flow::Velocity<Dim>>> accelerations;
    base::Scratch<sleep::Rest<Dim>> rest;
    struct Turn { // on the way of a swept body
        BodyId body;
        WayPoint<Dim> at;
    };
    base::Scratch<std::vector<Turn>> turns; // of the last tick, in the order of time

    // Events: events.cpp, sensors.cpp.
    struct Touching {
        std::uint64_t key_a, key_b; // colliders' keys, key_a < key_b
        ShapePair touch;
    };
    struct Sensed { // a shape that is in a sensor, by rising keys
        std::uint64_t sensor_key, key;
        std::uint32_t collider;
        Crossing crossing; // as it entered
    };
    struct Told { // in the last tick
        std::vector<ShapePair> touches_begun, touches_ended;
        std::vector<Strike<Dim>> strikes;
        std::vector<Crossing> entered, left;
        std::vector<BodyId> fell_asleep, woke, became_nonfinite;
        std::vector<Moved<Dim>> moved;
        void clear() {
            touches_begun.clear(), touches_ended.clear(), strikes.clear(), entered.clear(), left.clear();
            fell_asleep.clear(), woke.clear(), became_nonfinite.clear(), moved.clear();
        }
    };
    struct Sensing {
        bool known = false;                 // whether `sensors` is up to date
        std::vector<std::uint32_t> sensors; // colliders
        std::vector<std::uint32_t> far;     // colliders of bodies that came far in the tick
        std::vector<std::uint32_t> seen;    // by a sensor, perhaps
        std::vector<double> times;          // of a pair, at which a leg begins
        std::vector<Sensed> now, entered, left;
    };
    EventKinds event_kinds;
    std::vector<Touching> touching;             // by keys; none unless touches are collected
    bool sleepers_looked_at = false;            // for what touches among them
    std::vector<Sensed> sensed;                 // by keys
    std::vector<BodyId> woken, placed, stopped; // since the last tick began
    bool edited = true;                         // whether shapes or poses were, since the last tick
    base::Scratch<Told> told;
    base::Scratch<std::vector<Touching>> touching_now;
    base::Scratch<base::MergeRoom<Touching>> touching_room;
    base::Scratch<Sensing> sensing;
    base::SlotMap<JointId> joint_slots;
    std::vector<flow::Joint<Dim>> joints; // by place, as those below
    std::vector<JointEntry> joint_entries;
    std::vector<std::uint32_t> active_joints; // those that hold something that moves
    bool active_joints_known = false;
    base::Scratch<std::vector<JointId>> broken; // in the last tick
    base::SlotMap<FieldId> field_slots;
    std::vector<Field<Dim>> fields; // by place
    base::Scratch<std::vector<flow::JointEdge>> field_edges;
    base::Scratch<std::vector<std::uint32_t>> field_sources;
    std::vector<Asleep> asleep; // and gaps
    std::vector<std::uint32_t> free_islands;
    base::Scratch<std::vector<std::uint32_t>> met_islands;
    struct Going { // to sleep
        std::uint32_t root, place;
        BodyId id;
    };
    base::Scratch<std::vector<Going>> going;
    base::Scratch<std::vector<std::uint32_t>> island_at, places_before, places_now;
    base::Scratch<Asleep> waking;
    base::Scratch<base::MergeRoom<flow::Manifold<Dim>>> merge_room;
    std::vector<BodyId> ungrouped;

    double time() const { return time_then + static_cast<double>(ticks - ticks_then) * spec.tick; }
    std::uint32_t place(BodyId id) const;         // throws Error if stale
    std::uint32_t movable_place(BodyId id) const; // throws Error if stale or static
    std::uint32_t dynamic_place(BodyId id) const; // throws Error if stale or not dynamic
    std::uint32_t material_place(MaterialId id, const std::string& field) const; // throws Error if stale
    Pose<Dim> pose(std::uint32_t i) const;
    Pose<Dim> shape_pose(const flow::Collider<Dim>& c) const;
    void put(std::uint32_t i, const Pose<Dim>& pose);
    // Pushes and kicks of a dynamic body, which wakes; a held one takes none. Throw Error where a float
    // cannot hold the sum, and change nothing then: world.cpp.
    void push(std::uint32_t i, const Vec<Dim>& force, const Axial<Dim>& torque);
    void kick(std::uint32_t i, const Vec<Dim>& impulse, const Axial<Dim>& turning);
    flow::Velocity<Dim> kicked(std::uint32_t i, const Vec<Dim>& impulse, const Axial<Dim>& turning) const;
    void forget_contacts(std::uint32_t i);
    void find_contacts_again(std::uint32_t i);
    std::uint32_t index_of_shape(std::uint32_t i, std::uint32_t number) const; // throws Error if none has it
    ShapeSpec<Dim>& shape(std::uint32_t i, std::uint32_t number) {
        return rows[i].shapes[index_of_shape(i, number)];
    }
    std::vector<Contact<Dim>> contacts_in(std::span<const flow::Manifold<Dim>> of) const;
    void check_shared(const ShapeSpec<Dim>& shape, const std::string& field) const; // materials.cpp
    void reshape(std::uint32_t i, std::vector<ShapeSpec<Dim>> shapes, const MassProperties<Dim>& mass);
    // Mass, centre and reaches after a change of shapes.
    void fit(std::uint32_t i, const MassProperties<Dim>& mass);

    std::uint32_t new_collider(); // colliders.cpp
    void drop_collider(std::uint32_t c);
    void measure_colliders(std::uint32_t i);
    void place_colliders(std::uint32_t i);
    void set_bounds(flow::Collider<Dim>& c) const;
    void swap_places(std::uint32_t i, std::uint32_t j);
    void swap_columns(std::uint32_t i, std::uint32_t j); // without what names places
    void set_motion(std::uint32_t i, Motion motion);     // may change the body's place
    void set_travel(double seconds);
    void update_bounds();

    std::unique_ptr<State> copy() const; // snapshot.cpp
    // All of it that decides the future, in one order: bytes.cpp.
    template<typename Archive> void pass(Archive& archive);
    // Throws Error for what could not have been written, so that nothing leads out of an array:
    // check_state.cpp.
    void check_all() const;
    flow::Mass<Dim> mass_of_body(std::uint32_t i, Motion motion) const; // add.cpp; throws Error

    void drive(); // drive.cpp
    void find_accelerations();
    void set_kinematic_velocities(double time);
    void move_kinematic();
    void snap_to_targets();
    double work_of_thrusts() const; // in the tick that is being done

    bool is_asleep(std::uint32_t i) const; // sleep.cpp
    std::uint32_t new_island();
    void lay(std::uint32_t i, std::uint32_t island);
    void fall_asleep();
    void wake_island(std::uint32_t k, std::vector<flow::Manifold<Dim>>& into);
    std::uint32_t wake(std::uint32_t i); // returns its place afterwards
    void wake_all();
    void wake_around(std::uint32_t i);
    // The place of a body that is about to be changed: it wakes, and of what others cannot push also what
    // touches it. Throws Error if stale.
    std::uint32_t disturbed_place(BodyId id);
    void group_sleepers();
    bool wake_met();
    // Of the last tick, with those of sleeping islands, at the present places.
    std::vector<flow::Manifold<Dim>> all_manifolds() const;

    std::uint32_t joint_place(JointId id) const; // joints.cpp; throws Error if stale
    void place_joints(std::uint32_t i);
    void fit_joints(std::uint32_t i);
    flow::Joint<Dim> made_joint(Joint<Dim>& joint) const; // throws Error
    void find_active_joints();
    void wake_joined(std::uint32_t i);
    void drop_joint(JointId id);
    bool keeps_apart(std::uint32_t i, std::uint32_t j) const;
    void break_joints();

    std::uint32_t field_place(FieldId id) const; // fields.cpp; throws Error if stale
    void check_field(const Field<Dim>& field) const;
    // Calls use(const solve::FieldInput<Dim>&).
    template<typename Use> void with_fields(const Use& use) {
        const auto place_of = [&](BodyId id) { return slots.place(id); };
        const auto id_of = [&](std::uint32_t i) { return slots.ids()[i]; };
        const auto colliders_of = [&](std::uint32_t i) {
            return std::span<const std::uint32_t>(rows[i].colliders);
        };
        const auto call = [&](const OwnField<Dim>& f, const SeenBody<Dim>& body) {
            FieldForce<Dim> out;
            call_out([&] { out = f.force(body); });
            return out;
        };
        use(solve::FieldInput<Dim>{fields, place_of, id_of, colliders_of, call, colliders, spec.gravity,
                                   time()});
    }
    void wake_reached(const Field<Dim>& field);
    void wake_attracted(BodyId source);
    void find_field_edges();
    void keep_attracted_awake();
    void drop_fields_of(BodyId source);

    void find_sensors(); // sensors.cpp
    void sense();
    void sense_with(std::uint32_t sensor, std::span<const Sensed> before);
    void find_seen(std::uint32_t sensor, std::span<const Sensed> before);
    double separation_of(const flow::Collider<Dim>& sensor, const flow::CentrePose<Dim>& at_sensor,
                         const flow::Collider<Dim>& other, const flow::CentrePose<Dim>& at_other) const;
    float farthest(const flow::Collider<Dim>& c) const;
    bool has_moved(std::uint32_t i) const;
    bool flies_freely(std::uint32_t i) const;
    flow::CentrePose<Dim> place_at(std::uint32_t i, double time) const;
    void list_legs(std::uint32_t i);
    bool pass_through(const flow::Collider<Dim>& sensor, const flow::Collider<Dim>& other, bool was_in,
                      const Sensed& pair);
    void tell_crossings();

    void tell_events(); // events.cpp
    void tell_touches();
    void tell_strikes();
    void tell_moved();
    void tell_edits();

    // Of the game, and no part of the state: hooks.cpp.
    struct Hooks {
        PairFilter pair_filter;
        ContactHook<Dim> contact;
        SubstepHook<Dim> substep;
        struct Own {
            BodyId body;
            OwnMotion<Dim> motion;
        };
        std::vector<Own> own_motions;    // by rising index
        std::vector<BodyId> substep_ids; // of the bodies of a substep, when they are asked for
        struct Answer {
            std::uint32_t generation_a = 0, generation_b = 0;
            bool may_touch = true;
        };
        std::unordered_map<std::uint64_t, Answer> answers; // of the filter, by both indices
        std::exception_ptr thrown;                         // within the tick
    };
    base::Scratch<Hooks> hooks;
    bool in_tick = false;
    void refuse_in_tick() const; // throws Error within a tick
    bool filter_keeps_apart(std::uint32_t i, std::uint32_t j);
    bool apart(std::uint32_t i, std::uint32_t j) { // by a joint, or by the filter
        return keeps_apart(i, j) || (hooks.pair_filter && filter_keeps_apart(i, j));
    }
    bool ask_contact(flow::Manifold<Dim>& m, const narrow::PairAt<Dim>& at);
    void before_substep(solve::Integrator<Dim>& integrator, std::span<const std::uint32_t> which,
                        std::span<const std::uint32_t> at, double begins, double seconds); // substeps.cpp
    void forget_own_motion(BodyId id);
    void keep_own_movers_awake();
    // Calls what is the game's; what that throws is kept until the tick is done.
    template<typename Call> void call_out(const Call& call) {
        try {
            call();
        } catch (...) {
            if (!hooks.thrown) hooks.thrown = std::current_exception();
        }
    }

    bool timing = false;
    StageTimes times;

    void step(); // step.cpp
    void advance_bodies();
    void list_turns(); // way.cpp
    void stop_nonfinite();
};

// The way in for what is not a member, and for the project's own sweeps and tests; users have no part in it.
struct WorldAccess {
    template<int Dim> static auto& state(World<Dim>& world) { return *world.state_; }
    template<int Dim> static const auto& state(const World<Dim>& world) { return *world.state_; }
};

}
