// The world: bodies, gravity, and the tick that moves them.
#pragma once

#include "astasis/body.h"
#include "astasis/error.h"
#include "astasis/events.h"
#include "astasis/fields.h"
#include "astasis/hooks.h"
#include "astasis/joints.h"
#include "astasis/report.h"

#include <cstddef>
#include <cstdint>
#include <memory>
#include <span>
#include <vector>

namespace astasis {

struct WorldAccess; // for the project's own tests

template<int Dim> struct WorldSpec {
    Vec<Dim> gravity{0, -9.81f}; // m/s2
    // Simulated seconds of one tick, 1e-5 to 1. Longer: fast things are found late and piles get soft;
    // shorter: more work for the same second. 1/60 s is the usual frame of a screen, and what the defaults
    // were measured with.
    double tick = 1.0 / 60.0;
    // Parts into which a tick is cut to solve contacts, 1 to 64. Fewer: heavy things sink into light ones and
    // tall stacks sway; more: work grows in proportion. Measured in docs/decisions/contact-defaults.md.
    int substeps = 8;
    // How much work a tick may do beyond its plain course to be more exact, 0 to 1000: so many times one
    // to three milliseconds, or the plain work if that is more. It is spent on the smallest islands first. 0:
    // no small island is solved more exactly than a crowd; more: larger ones are, and ticks may take longer.
    // See World::work_of_tick and docs/decisions/budget.md.
    float extra_work = 1;
    // Whether bodies that lie still sleep: see World::is_asleep.
    bool sleeping = true;
};

template<int Dim> class Snapshot;

// Rigid bodies in the plane (Dim = 2) or in space (Dim = 3). Units are SI; y is up.
//
// A tick always takes WorldSpec::tick, never the frame's time: hand frame times to a Pacer (astasis/pacer.h).
// Everything below may be called at any time between ticks. A call that is given a stale id or a value that
// is not finite throws Error and changes nothing. The same calls in the same order give the same bits on
// every machine. Not safe to call from two threads at once unless all calls are const.
template<int Dim> class World {
public:
    // Errors: gravity not finite; tick or substeps or extra_work out of range; a build whose float arithmetic
    // is not exact.
    explicit World(const WorldSpec<Dim>& spec = {});
    ~World();
    World(World&&) noexcept;
    World& operator=(World&&) noexcept;

    // Adds a body whole. Errors name the field as "shapes[1].density". O(shapes).
    BodyId add(const BodySpec<Dim>& spec);
    // Makes room for as many bodies and shapes in all: adding one then allocates only its own list of shapes.
    void reserve(std::size_t bodies, std::size_t shapes);
    // Removes a body with its contacts; its id is stale from then on. O(shapes + contacts).
    void remove(BodyId id);
    bool contains(BodyId id) const noexcept;
    // All bodies: in the order they were added, as long as none was removed. Valid until the next add or
    // remove.
    std::span<const BodyId> bodies() const noexcept;

    // Advances by one tick: finds contacts, solves, moves; then forces and torques are forgotten. Throws
    // nothing but what a hook or a field's function threw, once the tick is done (and for lack of memory). A
    // body whose state stops being finite is held where it last was, at rest: see nonfinite().
    void step();
    std::uint64_t ticks() const noexcept; // since the world was made
    double time() const noexcept;         // simulated seconds: the sum of all ticks

    // Getters return const values, so that writing to what they return does not compile; setters stand below.
    Motion motion(BodyId id) const;
    const Pose<Dim> pose(BodyId id) const;          // of the body's own origin
    const Pose<Dim> previous_pose(BodyId id) const; // before the last tick; equal to pose() after set_pose
    const Point<Dim> centre_of_mass(BodyId id) const;
    const Vec<Dim> velocity(BodyId id) const; // of the centre of mass
    const Vec<Dim> velocity_at(BodyId id,
                               const Point<Dim>& at) const; // of the body's matter at a place in the world
    Axial<Dim> angular_velocity(BodyId id) const;
    const MassProperties<Dim> mass(BodyId id) const; // zero for static and kinematic bodies
    std::uint64_t user_data(BodyId id) const;
    // Both in the order in which the shapes were added, and valid until the next add or remove.
    std::span<const ShapeSpec<Dim>> shapes(BodyId id) const;
    std::span<const std::uint32_t> shape_numbers(BodyId id) const;
    Energy energy(BodyId id) const; // of one body; zero unless it is dynamic

    // Puts a body elsewhere at once: its contacts are forgotten, nothing is swept, its velocity stays.
    void set_pose(BodyId id, const Pose<Dim>& pose);
    void set_user_data(BodyId id, std::uint64_t data);
    void set_velocity(BodyId id, const Vec<Dim>& velocity); // of the centre of mass
    void set_angular_velocity(BodyId id, const Axial<Dim>& velocity);

    // Changes how a body moves. It keeps its pose and velocity, but a static body's is 0; contacts are
    // forgotten. A body that becomes dynamic takes the mass that its spec gave, or that of its shapes: Error
    // as add if they have none. So is a held body set free again, once its state is finite.
    void set_motion(BodyId id, Motion motion);
    // Takes a kinematic body to a pose by the end of the next tick, with the velocity that this needs, so
    // that it carries and pushes what it meets. After that tick it stands, unless it is told again or given a
    // velocity. One that speeds up evenly from tick to tick, by this or by set_velocity, does so within each
    // tick too, and is at its end where it would be anyway: what it carries follows as on a real platform.
    void move_to(BodyId id, const Pose<Dim>& pose);
    const FreeMotion<Dim> free_motion(BodyId id) const;
    void set_free_motion(BodyId id, const FreeMotion<Dim>& free);

    // Shapes come and go live; contacts of the body are forgotten, and its mass follows its shapes unless its
    // spec gave one. A shape is named by its body and its number: those of the spec have 0, 1, 2 and so on,
    // each later one the next; a number stays with its shape, and no other shape of the body ever gets it.
    // A dynamic body keeps at least one shape unless its mass was given. Errors as add; nothing has changed
    // then.
    std::uint32_t add_shape(BodyId id, const ShapeSpec<Dim>& shape);
    void remove_shape(BodyId id, std::uint32_t shape);

    // The spec of one shape. Throws Error if there is no such shape, as all that follows.
    const ShapeSpec<Dim>& shape(BodyId id, std::uint32_t shape) const;
    void set_tag(BodyId id, std::uint32_t shape, std::uint32_t tag);
    void set_user_data(BodyId id, std::uint32_t shape, std::uint64_t data);
    // Change what a shape meets, as its spec gave it; contacts of the body are forgotten.
    void set_layers(BodyId id, std::uint32_t shape, std::uint64_t layers, std::uint64_t collides_with);
    void set_group(BodyId id, std::uint32_t shape, std::uint32_t group);

    // Change how a shape's surface behaves; it is felt in the next tick. Errors as add, and for a shape that
    // is not there. With set_material the shape has a material of its own, with share_material the world's.
    const Material material(BodyId id, std::uint32_t shape) const; // its own or the shared one
    void set_material(BodyId id, std::uint32_t shape, const Material& material);
    void share_material(BodyId id, std::uint32_t shape, MaterialId material);
    void set_surface_velocity(BodyId id, std::uint32_t shape, const Vec<Dim>& velocity);

    // Materials that many shapes share (ShapeSpec::shared); changing one changes all its shapes. Removing one
    // that a shape still has is an Error; O(shapes).
    MaterialId add_material(const Material& material);
    void remove_material(MaterialId id);
    const Material material(MaterialId id) const;
    void set_material(MaterialId id, const Material& material);
    // What holds where a shape of one shared material meets one of another, or of the same, instead of what
    // mixing gives. The order of the two has no meaning.
    void set_between(MaterialId a, MaterialId b, const Material& material);
    void clear_between(MaterialId a, MaterialId b);

    // Forces (N) and torques (N m) act through the next tick as they are and are then forgotten; impulses
    // (N s, N m s) change the velocity at once. At a place in the world, or at the centre of mass. Only
    // dynamic bodies take them: others throw. One that step() has held (see nonfinite()) takes none and
    // throws nothing, as with velocities, thrusts and move_to. Errors: a sum, or a velocity, that no float
    // can hold. A force is for what changes slowly: one that follows from where the body is, as of a spring
    // or a planet, is a tick late and feeds energy to what it moves. Such forces are joints (Spring) or
    // fields (add_field).
    void apply_force(BodyId id, const Vec<Dim>& force);
    void apply_force_at(BodyId id, const Vec<Dim>& force, const Point<Dim>& at);
    void apply_torque(BodyId id, const Axial<Dim>& torque);
    void apply_impulse(BodyId id, const Vec<Dim>& impulse);
    void apply_impulse_at(BodyId id, const Vec<Dim>& impulse, const Point<Dim>& at);
    void apply_angular_impulse(BodyId id, const Axial<Dim>& impulse);
    // The sum of the forces that the next tick will apply at a body, N; 0 right after a tick.
    const Vec<Dim> applied_force(BodyId id) const;

    // Forces by where bodies are, in every substep: astasis/fields.h. A field that is added, removed or
    // changed wakes those it reaches. Errors: a number out of range; a stale body.
    FieldId add_field(const Field<Dim>& field);
    void remove_field(FieldId id);
    bool contains(FieldId id) const noexcept;
    std::span<const FieldId> fields() const noexcept; // valid until the next is added or removed
    const Field<Dim>& field(FieldId id) const;
    void set_field(FieldId id, const Field<Dim>& field);

    // A push that acts in every tick until it is set anew or cleared.
    void set_thrust(BodyId id, const Thrust<Dim>& thrust);
    void clear_thrust(BodyId id);

    // Adds a joint of any kind; both bodies wake. Bodies that a joint holds together do not touch each other
    // unless it says so, rest and sleep together, and take the joint along when they are removed. Errors name
    // the field: a stale id, no dynamic body, anchors that are apart where they are held, a number out of
    // range.
    JointId add_joint(const Joint<Dim>& joint);
    void remove_joint(JointId id);
    bool contains(JointId id) const noexcept;
    std::span<const JointId> joints() const noexcept; // valid until the next is added or removed
    std::vector<JointId> joints_of(BodyId id) const;
    // As it was added or last set, with anchors in the bodies' frames.
    const Joint<Dim>& joint(JointId id) const;
    // Replaces a joint, of any kind, as the bodies are now; a broken one holds again.
    void set_joint(JointId id, const Joint<Dim>& joint);
    // Changes a free axis by its number (see JointAxisState) and leaves the rest as it is.
    void set_motor(JointId id, const Motor& motor, int axis = 0);
    void set_limits(JointId id, const Limits& limits, int axis = 0);
    void set_tow_target(JointId id, const Point<Dim>& target);
    JointState<Dim> joint_state(JointId id) const;
    // The joints that broke in the last tick; they hold nothing until they are set anew or removed.
    std::span<const JointId> broken_joints() const noexcept;

    const WorldSpec<Dim>& settings() const noexcept;
    void set_gravity(const Vec<Dim>& gravity);
    // From the next tick on. Forces at contacts are kept, so that what rests goes on resting. Errors as the
    // constructor.
    void set_tick(double seconds);
    void set_substeps(int substeps);
    void set_extra_work(float share);

    // What a body's way is looked at for: see Sweep.
    Sweep sweep(BodyId id) const;
    void set_sweep(BodyId id, Sweep sweep);
    // The way of a body's centre of mass within the last tick: where it set out, where what it met turned it
    // back if it was swept, and where it is. At most 8 turns in a substep, then contacts stop it. What it
    // met, how fast and where, is told by strikes. O(turns of all). Errors: stale id.
    std::vector<WayPoint<Dim>> way_of(BodyId id) const;
    // Where a body was within the last tick, at a share of it from 0, previous_pose(), to 1, pose(): its
    // centre of mass goes straight, or from impact to impact where it was swept, and it turns evenly, the
    // shorter way. O(impacts). Errors: stale id; share outside 0 to 1.
    const Pose<Dim> pose_within_tick(BodyId id, double share) const;
    // The bodies that came farther than their own smallest width in the last tick without being swept: what
    // is thin may have been missed. O(moving bodies).
    std::vector<BodyId> unswept() const;

    // Functions that a tick calls: astasis/hooks.h. None by default; an empty one takes a hook away.
    void set_pair_filter(const PairFilter& filter);
    void set_contact_hook(ContactHook<Dim> hook);
    void set_substep_hook(SubstepHook<Dim> hook);
    // A body that moves by its own function while it is dynamic; it does not sleep then. An empty function,
    // or removing the body, ends that: one that comes back as a world is restored has none. Errors: stale id.
    void set_own_motion(BodyId id, OwnMotion<Dim> motion);

    // The events of the last tick: astasis/events.h. Errors: a least speed that is not finite, or
    // below 0.
    void collect_events(const EventKinds& kinds);
    const EventKinds& event_kinds() const noexcept;
    Events<Dim> events() const noexcept;
    // The shapes that are in a sensor, in the order in which they were added, each as it entered: its time is
    // within the tick of that. Errors: a stale body, no such shape, a shape that is no sensor. O(shapes in
    // sensors).
    std::vector<Crossing> shapes_in(BodyId id, std::uint32_t sensor) const;

    // What has lain still for half a second sleeps, together with all that it touches: it costs nothing until
    // something that moves comes near, or it is edited, pushed, or what it lies on is edited. It keeps its
    // pose, has no velocity, and answers queries; contacts() shows its contacts as they were. A static body
    // never sleeps. Kinematic ones sleep while they stand, and wake when they are given a velocity or a pose.
    bool is_asleep(BodyId id) const;
    void wake(BodyId id); // and all of its island
    bool may_sleep(BodyId id) const;
    void set_may_sleep(BodyId id, bool may);
    void set_sleeping(bool on);           // of the world; off wakes all
    SleepCount sleepers() const noexcept; // O(islands)

    // Measures what each stage of a tick takes, from the next tick on; off at first, and then at no cost.
    // Times are no part of the world's state.
    void set_timing(bool on) noexcept;
    StageTimes stage_times() const noexcept; // of the last tick; zeros if it was not measured

    // O(moving bodies + manifolds).
    TickCounts tick_counts() const;
    // The work of the last tick, and that which its budget refused. O(1).
    WorkOfTick work_of_tick() const noexcept;
    // The contact points of the last tick; only those that touched (that had an impulse, or overlap).
    // O(contacts).
    std::vector<Contact<Dim>> contacts() const;
    std::vector<Contact<Dim>> contacts_of(BodyId id) const; // of one body, also asleep
    Penetration penetration() const;                        // O(contacts)
    // Since the world was made. O(1).
    Work work() const noexcept;
    Energy energy() const;                 // O(bodies)
    Momentum<Dim> momentum() const;        // O(bodies)
    std::vector<BodyId> nonfinite() const; // bodies that step() stopped because their state was not finite

    // All that decides the future, as a value: a world that is restored goes on bit for bit as one that was
    // never interrupted, and its ids name the bodies of then. Surfaces and hulls are shared with the
    // snapshot, not copied. Yours to keep beside it: what your user data point to, forces still to be applied
    // by your code, the state of a Pacer. O(bodies + shapes + contacts) each; any number of snapshots may be
    // kept, in any order.
    Snapshot<Dim> save() const;
    void restore(const Snapshot<Dim>& snapshot);

    // The same as bytes, to be kept in a file or sent: the format has a version, and the same state gives the
    // same bytes on every machine. restore_bytes throws Error, and changes nothing, for bytes that were cut
    // short or altered, of another version, of the other dimension or of no snapshot; also for bytes that
    // were forged with the right sum: then the error names the field. O(bytes).
    std::vector<std::byte> save_bytes() const;
    void restore_bytes(std::span<const std::byte> bytes);

    // 64 bits of all that save_bytes writes, for comparing runs: equal states have equal fingerprints.
    // O(bytes).
    std::uint64_t fingerprint() const;

private:
    friend struct WorldAccess;
    friend class Snapshot<Dim>;
    struct State;
    std::unique_ptr<State> state_;
};

// A world as it was when it was saved. Immutable; copies share it.
template<int Dim> class Snapshot {
public:
    std::uint64_t ticks() const noexcept;

private:
    friend class World<Dim>;
    using State = typename World<Dim>::State;
    explicit Snapshot(std::shared_ptr<const State> state) : state_(std::move(state)) {}
    std::shared_ptr<const State> state_;
};

// Change surfaces live: a cell of a TileGrid (false empties it), a node of a HeightField (m). What rests
// there feels it in the next tick. Throw Error if the shape is of another kind or there is no such cell or
// node.
void set_cell(World<2>& world, BodyId id, std::uint32_t shape, int column, int row, bool solid);
void set_height(World<3>& world, BodyId id, std::uint32_t shape, int column, int row, float height);

using World2 = World<2>;
using World3 = World<3>;

extern template class Snapshot<2>;
extern template class Snapshot<3>;
extern template class World<2>;
extern template class World<3>;

}
