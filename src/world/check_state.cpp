// A state that bytes gave: whether all that refers to something finds it, and each spec is one that the calls
// of a world accept. O(bytes).
#include "math/numbers.h"
#include "math/turn.h"
#include "shape/surface.h"
#include "shape/usable.h"
#include "world/checks.h"
#include "world/make_joint.h"
#include "world/state.h"

#include <algorithm>

namespace astasis {
namespace {

[[noreturn]] void refuse(const std::string& field, const std::string& given, const std::string& accepted) {
    throw Error("bytes." + field, given, accepted);
}
void demand(bool holds, const std::string& field, const char* given, const char* accepted) {
    if (!holds) refuse(field, given, accepted);
}
std::string item(const char* list, std::size_t i) {
    std::string out = list;
    out += '[', out += std::to_string(i), out += ']';
    return out;
}

// Says of a field what a check of a call throws.
template<typename Check> void within(const std::string& field, const Check& check) {
    try {
        check();
    } catch (const Error& e) {
        refuse(field + "." + e.field(), e.given(), e.accepted());
    }
}

template<int Dim> void check_unit(const Rotation<Dim>& rotation, const std::string& field) {
    const float norm = math::norm_squared(rotation);
    if (!(std::fabs(norm - 1) < 1e-3f))
        refuse(field, base::number(norm) + " as its squared length", "a rotation, of length 1");
}

// Marks each of so many things that lists name, each at most once.
class Marks {
public:
    explicit Marks(std::size_t things) : marked_(things) {}
    void mark(std::size_t i, const std::string& field) {
        if (i >= marked_.size())
            refuse(field, std::to_string(i), "a place among " + std::to_string(marked_.size()));
        if (marked_[i]) refuse(field, std::to_string(i) + " a second time", "each place once");
        marked_[i] = true, count_++;
    }
    bool all() const { return count_ == marked_.size(); }
    bool has(std::size_t i) const { return marked_[i]; }

private:
    std::vector<bool> marked_;
    std::size_t count_ = 0;
};

template<int Dim> bool same(const flow::Mass<Dim>& a, const flow::Mass<Dim>& b) {
    if constexpr (Dim == 3)
        if (!(a.principal.frame == b.principal.frame && a.principal.moments == b.principal.moments))
            return false;
    return a.mass == b.mass && a.inverse_mass == b.inverse_mass && a.inertia == b.inertia &&
           a.inverse_inertia == b.inverse_inertia && a.centre == b.centre && a.isotropic == b.isotropic;
}

template<typename List> void check_sorted(const List& list, const char* field) {
    const auto before = [](const auto& p, const auto& q) {
        return p.key_a != q.key_a ? p.key_a < q.key_a : p.key_b < q.key_b;
    };
    demand(std::is_sorted(list.begin(), list.end(), before), field, "keys that do not rise", "rising keys");
}

}

template<int Dim> class World<Dim>::State::Audit {
public:
    explicit Audit(const State& state) : s_(state), n_(state.rows.size()) {}

    void check() {
        check_numbers();
        check_sizes();
        check_materials();
        for (std::uint32_t i = 0; i < n_; i++) check_body(i);
        check_colliders();
        check_islands();
        check_contacts();
        check_joints();
        for (std::size_t k = 0; k < s_.fields.size(); k++)
            within(item("fields", k), [&] { s_.check_field(s_.fields[k]); });
        check_events();
    }

private:
    void check_numbers() const {
        check_world(s_.spec, "bytes.spec.");
        const auto& t = s_.tuning;
        demand(t.iterations >= 1 && t.iterations <= 1000 && t.plain_iterations >= 1 &&
                   t.plain_iterations <= 1000,
               "tuning.iterations", "iterations without end, or none", "1 to 1000");
        demand(s_.ticks < std::uint64_t{1} << 62 && s_.ticks_then <= s_.ticks, "ticks",
               "a number of ticks that no world reaches, or one before the last change of the tick",
               "the ticks since the world was made");
        demand(s_.time_then >= 0, "time_then", "a time below 0", "0 or more");
        demand(s_.next_key < std::uint64_t{1} << 62, "next_key", "a key that no world reaches",
               "the number of shapes that there were");
    }
    void check_sizes() const {
        demand(s_.slots.is_whole() && s_.slots.size() == n_, "slots",
               "slots that do not agree with the bodies", "a slot for each body, each other one free");
        const auto& b = s_.bodies;
        for (const std::size_t size :
             {b.pose.size(), b.velocity.size(), b.remainder.size(), b.mass.size(), b.push.size(),
              b.free.size(), b.motion.size(), b.still.size(), b.claim.size(), s_.listed.size()})
            demand(size == n_, "bodies", "columns of different lengths", "an entry for each body in each");
        demand(b.moving <= n_, "moving", "more moving bodies than bodies", "at most all bodies");
        for (std::size_t k = 0; k < n_; k++) {
            const std::uint32_t i = s_.slots.place(s_.listed[k]);
            demand(i < n_ && s_.rows[i].listed == k, item("listed", k), "a body that is listed elsewhere",
                   "each body once");
        }
        demand(s_.field_slots.is_whole() && s_.field_slots.size() == s_.fields.size(), "field_slots",
               "slots that do not agree with the fields", "a slot for each field");
        demand(s_.joint_slots.is_whole() && s_.joint_slots.size() == s_.joints.size() &&
                   s_.joints.size() == s_.joint_entries.size(),
               "joint_slots", "slots that do not agree with the joints", "a slot for each joint");
    }
    void check_materials() const {
        const auto& m = s_.materials;
        demand(m.slots.is_whole() && m.slots.size() == m.shared.size(), "materials.slots",
               "slots that do not agree with the materials", "a slot for each material");
        for (std::size_t k = 0; k < m.shared.size(); k++)
            shape::check_material(m.shared[k], item("bytes.materials.shared", k));
        for (std::size_t k = 0; k < m.pairs.size(); k++) {
            const auto& p = m.pairs[k];
            const std::string field = item("materials.pairs", k);
            demand(m.slots.contains(p.a) && m.slots.contains(p.b), field, "a material that is not there",
                   "two materials of the world");
            demand(m.between(p.a, p.b) == &p, field, "a pair that is not at its place", "pairs in order");
            shape::check_material(p.material, "bytes." + field + ".material");
        }
    }

    void check_body(std::uint32_t i) {
        const std::string field = item("rows", i);
        const Row& row = s_.rows[i];
        const auto& b = s_.bodies;
        check_unit(b.pose[i].rotation, item("bodies.pose", i) + ".rotation");
        check_unit(row.previous.rotation, field + ".previous.rotation");
        check_free_motion(b.free[i], "bytes." + item("bodies.free", i) + ".");
        check_shapes(row, field);
        if (row.target) within(field + ".target", [&] { shape::check_pose(*row.target, ""); });
        check_mass_column(i, field);
        const bool moves = i < b.moving, awake = row.island == Row::kAwake;
        demand(!moves || (awake && b.motion[i] != Motion::Static), item("bodies.motion", i),
               "a static or sleeping body among those that move", "static and sleeping bodies after those");
        demand(moves || !awake || b.motion[i] == Motion::Static, field + ".island",
               "a body that neither moves nor sleeps", "one that is asleep, or static");
        demand(!row.target || b.motion[i] == Motion::Kinematic || row.nonfinite, field + ".target",
               "of a body that is not kinematic", "that of a kinematic body");
        demand(!row.nonfinite || b.motion[i] == Motion::Static, field + ".nonfinite",
               "true of a body that moves", "true of one that is held");
    }
    void check_shapes(const Row& row, const std::string& field) const {
        for (std::size_t k = 0; k < row.shapes.size(); k++) {
            const std::string of_shape = "bytes." + field + "." + item("shapes", k);
            shape::checked(row.shapes[k], of_shape);
            s_.check_shared(row.shapes[k], of_shape);
        }
        const auto& numbers = row.numbers;
        demand(numbers.size() == row.shapes.size() &&
                   std::adjacent_find(numbers.begin(), numbers.end(), std::greater_equal<>()) ==
                       numbers.end() &&
                   (numbers.empty() || numbers.back() < row.next_number),
               field + ".numbers", "numbers that do not name the shapes", "a rising number for each shape");
    }
    void check_mass_column(std::uint32_t i, const std::string& field) const {
        const auto& is = s_.bodies.mass[i];
        const bool was_dynamic = s_.rows[i].nonfinite && is.mass > 0;
        flow::Mass<Dim> of_shapes;
        within(field,
               [&] { of_shapes = s_.mass_of_body(i, was_dynamic ? Motion::Dynamic : s_.bodies.motion[i]); });
        if (was_dynamic) of_shapes.inverse_mass = 0, of_shapes.inverse_inertia = {};
        demand(same(is, of_shapes), item("bodies.mass", i),
               "a mass that is not that of its shapes or its spec", "the mass that follows from them");
    }

    void check_colliders() {
        Marks used(s_.colliders.size());
        for (std::size_t k = 0; k < s_.free_colliders.size(); k++)
            used.mark(s_.free_colliders[k], item("free_colliders", k));
        for (std::uint32_t i = 0; i < n_; i++) {
            const auto& own = s_.rows[i].colliders;
            const std::string field = item("rows", i) + ".colliders";
            demand(own.size() == s_.rows[i].shapes.size(), field, "another number than there are shapes",
                   "one for each shape");
            for (std::size_t k = 0; k < own.size(); k++) {
                used.mark(own[k], field);
                demand(s_.colliders[own[k]].key < s_.next_key &&
                           (k == 0 || s_.colliders[own[k - 1]].key < s_.colliders[own[k]].key),
                       item("colliders", own[k]) + ".key", "a key out of order",
                       "keys that rise with the shapes");
            }
        }
        demand(used.all(), "colliders", "one that neither a shape has nor is free",
               "each of a shape, or free");
    }

    void check_islands() {
        Marks free(s_.asleep.size());
        for (std::size_t k = 0; k < s_.free_islands.size(); k++)
            free.mark(s_.free_islands[k], item("free_islands", k));
        Marks sleeping(n_);
        for (std::uint32_t k = 0; k < s_.asleep.size(); k++) {
            const auto& island = s_.asleep[k];
            const std::string field = item("asleep", k);
            demand(island.bodies.empty() == free.has(k) && (!free.has(k) || island.contacts.empty()), field,
                   "an island without bodies that is not free, or a free one with some",
                   "bodies in each but the free ones");
            for (const BodyId id : island.bodies) {
                const std::uint32_t i = s_.slots.place(id);
                demand(i < n_ && s_.rows[i].island == k, field + ".bodies",
                       "a body that does not sleep in it", "the bodies that sleep in it");
                sleeping.mark(i, field + ".bodies");
            }
        }
        for (const BodyId id : s_.ungrouped) {
            const std::uint32_t i = s_.slots.place(id);
            if (i < n_ && s_.rows[i].island == Row::kUngrouped && !sleeping.has(i))
                sleeping.mark(i, "ungrouped");
        }
        for (std::uint32_t i = 0; i < n_; i++)
            demand((s_.rows[i].island != Row::kAwake) == sleeping.has(i), item("rows", i) + ".island",
                   "an island that does not have the body", "the island that has it, or none");
    }

    void check_manifold(const flow::Manifold<Dim>& m, std::uint32_t a, std::uint32_t b,
                        const std::string& field) const {
        const auto check = [&](std::uint32_t i, std::uint32_t shape, std::uint64_t key) {
            const auto& own = s_.rows[i].colliders;
            demand(shape < own.size() && s_.colliders[own[shape]].key == key, field,
                   "a shape that its body does not have", "shapes of its bodies, with their keys");
        };
        check(a, m.shape_a, m.key_a), check(b, m.shape_b, m.key_b);
        demand(a != b, field, "a body with itself", "two bodies");
    }
    void check_contacts() const {
        check_sorted(s_.manifolds, "manifolds");
        for (std::size_t k = 0; k < s_.manifolds.size(); k++) {
            const auto& m = s_.manifolds[k];
            const std::string field = item("manifolds", k);
            demand(m.body_a < n_ && m.body_b < n_, field, "a body that is not there", "places of two bodies");
            check_manifold(m, m.body_a, m.body_b, field);
        }
        for (std::size_t k = 0; k < s_.asleep.size(); k++) {
            for (const SleepingContact& c : s_.asleep[k].contacts) {
                const std::uint32_t a = s_.slots.place(c.a), b = s_.slots.place(c.b);
                if (a < n_ && b < n_) check_manifold(c.manifold, a, b, item("asleep", k) + ".contacts");
            }
        }
    }

    void check_joints() const {
        std::size_t named = 0;
        for (std::uint32_t i = 0; i < n_; i++) {
            const auto& own = s_.rows[i].joints;
            const std::string field = item("rows", i) + ".joints";
            for (const JointId id : own) {
                const std::uint32_t j = s_.joint_slots.place(id);
                demand(j < s_.joints.size() && (s_.joints[j].body_a == i || s_.joints[j].body_b == i), field,
                       "a joint that does not hold it", "the joints that hold it");
                demand(std::count(own.begin(), own.end(), id) == 1, field, "a joint twice",
                       "each joint once");
            }
            named += own.size();
        }
        std::size_t ends = 0;
        for (std::size_t j = 0; j < s_.joints.size(); j++) ends += check_joint(j);
        demand(named == ends, "joints", "a joint that a body does not know", "joints that their bodies name");
    }
    // Returns the number of its bodies.
    std::size_t check_joint(std::size_t j) const {
        const JointEntry& e = s_.joint_entries[j];
        const flow::Joint<Dim>& joint = s_.joints[j];
        const std::string field = item("joints", j);
        const std::uint32_t a = s_.slots.place(e.a), b = e.b ? s_.slots.place(*e.b) : flow::kWorld;
        demand(a < n_ && joint.body_a == a && joint.body_b == b && a != b && (!e.b || b < n_),
               item("joint_entries", j), "bodies other than those of the joint",
               "two bodies, or one and the world");
        demand(joint.kind == kind_of_joint<Dim>(e.spec), field + ".kind", "another kind than its spec",
               "that of its spec");
        for (const auto& axis : joint.axes)
            within(field, [&] { check_limits(axis.limits, "limits"), check_motor(axis.motor, "motor"); });
        demand(joint.breaking_force > 0 && joint.breaking_torque > 0, field + ".breaking_force",
               "0, or no number", "above 0");
        check_unit(joint.turn_a, field + ".turn_a"), check_unit(joint.turn_b, field + ".turn_b");
        const auto& joins = joined<Dim>(e.spec);
        demand(joins.on_a.has_value() && (!e.b || joins.on_b), item("joint_entries", j) + ".spec",
               "a spec without anchors", "an anchor on each body");
        return e.b ? 2 : 1;
    }

    void check_events() const {
        within("event_kinds", [&] { check_event_kinds(s_.event_kinds); });
        check_sorted(s_.touching, "touching");
        const auto before = [](const Sensed& p, const Sensed& q) {
            return p.sensor_key != q.sensor_key ? p.sensor_key < q.sensor_key : p.key < q.key;
        };
        demand(std::is_sorted(s_.sensed.begin(), s_.sensed.end(), before), "sensed", "keys that do not rise",
               "rising keys");
        for (std::size_t k = 0; k < s_.sensed.size(); k++)
            demand(s_.sensed[k].collider < s_.colliders.size(), item("sensed", k) + ".collider",
                   "a shape that is not there", "the place of a shape");
    }

    const State& s_;
    std::size_t n_;
};

template<int Dim> void World<Dim>::State::check_all() const { Audit(*this).check(); }

template void World<2>::State::check_all() const;
template void World<3>::State::check_all() const;

}
