// Every call that may change a world, each with what it refuses: a refused call changes nothing.
#include "world/every_call.h"

#include "astasis/pushes.h"

namespace astasis::test {
namespace {

template<int D> class Table {
public:
    template<typename Call> void row(const char* name, const char* what, const Call& call) {
        rows.push_back({name, what, call});
    }
    // A call that takes a body: by ids that name none.
    template<typename Call> void of_body(const char* name, const Call& call) {
        row(name, "a stale id", [call](K<D> k) { call(k, k.gone); });
        row(name, "no id", [call](K<D> k) { call(k, BodyId{}); });
    }
    // That takes a shape: also by numbers that name none.
    template<typename Call> void of_shape(const char* name, const Call& call) {
        of_body(name, [call](K<D> k, BodyId id) { call(k, id, 0); });
        row(name, "no such shape", [call](K<D> k) { call(k, k.crate, 7); });
    }
    // That takes numbers: each that is none.
    template<typename T, typename Call> void of_numbers(const char* name, const Call& call) {
        for (const float x : {kNoNumber, kUnlimited, -kUnlimited})
            row(name, "no number", [call, x](K<D> k) {
                T value{};
                if constexpr (std::is_same_v<T, float>) value = x;
                else value[D - 1] = x;
                call(k, value);
            });
    }
    std::vector<Call<D>> rows;
};

template<int D> void refuse_bodies(Table<D>& t) {
    const auto adds = [&](const char* what, const auto& change) {
        t.row("add", what, [change](K<D> k) {
            BodySpec<D> spec{.pose = {{0, 3}, {}}, .shapes = {{cube<D>(1)}}};
            change(k, spec);
            k.world.add(spec);
        });
    };
    adds("a place that is none", [](K<D>, BodySpec<D>& s) { s.pose.position.y = kNoNumber; });
    adds("no rotation", [](K<D>, BodySpec<D>& s) { s.pose.rotation = Rotation<D>{} = {0, 0}; });
    adds("no speed", [](K<D>, BodySpec<D>& s) { s.velocity.x = kUnlimited; });
    adds("no spin", [](K<D>, BodySpec<D>& s) { s.angular_velocity = Axial<D>{kNoNumber}; });
    adds("no motion", [](K<D>, BodySpec<D>& s) { s.motion = static_cast<Motion>(9); });
    adds("no sweep", [](K<D>, BodySpec<D>& s) { s.sweep = static_cast<Sweep>(9); });
    adds("no mixing",
         [](K<D>, BodySpec<D>& s) { s.shapes[0].material.friction_mixing = static_cast<Mixing>(9); });
    adds("no size", [](K<D>, BodySpec<D>& s) { s.shapes[0].geometry = cube<D>(-1); });
    adds("no density", [](K<D>, BodySpec<D>& s) { s.shapes[0].density = 0; });
    adds("no shape", [](K<D>, BodySpec<D>& s) { s.shapes.clear(); });
    adds("a floor that falls", [](K<D>, BodySpec<D>& s) { s.shapes[0].geometry = HalfSpace<D>{}; });
    adds("no such material", [](K<D>, BodySpec<D>& s) { s.shapes[0].shared = MaterialId{77, 0}; });
    adds("a centre of mass that no float can square", [](K<D>, BodySpec<D>& s) {
        s.mass = MassProperties<D>{.mass = 1, .centre = {kHuge, 0}};
    });
    adds("a shape that no float can square",
         [](K<D>, BodySpec<D>& s) { s.shapes[0].placement.position.x = kHuge; });
    adds("a static body that moves",
         [](K<D>, BodySpec<D>& s) { s.motion = Motion::Static, s.velocity.x = 1; });
    adds("a sleeper that moves", [](K<D>, BodySpec<D>& s) { s.asleep = true, s.velocity.x = 1; });
    adds("negative damping", [](K<D>, BodySpec<D>& s) { s.free.linear_damping = -1; });

    t.of_body("remove", [](K<D> k, BodyId id) { k.world.remove(id); });
    t.row("reserve", "more than there can be", [](K<D> k) { k.world.reserve(~std::size_t{0}, 1); });
    t.of_body("set_pose", [](K<D> k, BodyId id) { k.world.set_pose(id, {}); });
    t.row("set_pose", "no place", [](K<D> k) { k.world.set_pose(k.crate, {{kNoNumber, 0}, {}}); });
    t.row("set_pose", "no rotation", [](K<D> k) {
        Pose<D> pose;
        pose.rotation = {0, 0};
        k.world.set_pose(k.crate, pose);
    });
    t.of_body("set_velocity", [](K<D> k, BodyId id) { k.world.set_velocity(id, {}); });
    t.template of_numbers<Vec<D>>("set_velocity", [](K<D> k, Vec<D> v) { k.world.set_velocity(k.crate, v); });
    t.row("set_velocity", "static", [](K<D> k) { k.world.set_velocity(k.floor, {}); });
    t.of_body("set_angular_velocity",
              [](K<D> k, BodyId id) { k.world.set_angular_velocity(id, Axial<D>{}); });
    t.template of_numbers<float>("set_angular_velocity",
                                 [](K<D> k, float x) { k.world.set_angular_velocity(k.crate, Axial<D>{x}); });
    t.row("set_angular_velocity", "static",
          [](K<D> k) { k.world.set_angular_velocity(k.floor, Axial<D>{}); });
    t.of_body("set_motion", [](K<D> k, BodyId id) { k.world.set_motion(id, Motion::Static); });
    t.row("set_motion", "no motion", [](K<D> k) { k.world.set_motion(k.crate, static_cast<Motion>(3)); });
    t.row("set_motion", "a surface", [](K<D> k) { k.world.set_motion(k.ground, Motion::Dynamic); });
    t.of_body("move_to", [](K<D> k, BodyId id) { k.world.move_to(id, {}); });
    t.row("move_to", "dynamic", [](K<D> k) { k.world.move_to(k.crate, {}); });
    t.row("move_to", "no place", [](K<D> k) { k.world.move_to(k.lift, {{kNoNumber, 0}, {}}); });
    t.of_body("set_free_motion", [](K<D> k, BodyId id) { k.world.set_free_motion(id, {}); });
    t.row("set_free_motion", "no number",
          [](K<D> k) { k.world.set_free_motion(k.crate, {.drag = kNoNumber}); });
    t.of_body("set_user_data", [](K<D> k, BodyId id) { k.world.set_user_data(id, 1); });
    t.of_shape("set_user_data",
               [](K<D> k, BodyId id, std::uint32_t shape) { k.world.set_user_data(id, shape, 1); });
    t.of_body("set_sweep", [](K<D> k, BodyId id) { k.world.set_sweep(id, Sweep::None); });
    t.row("set_sweep", "no sweep", [](K<D> k) { k.world.set_sweep(k.crate, static_cast<Sweep>(3)); });
    t.of_body("wake", [](K<D> k, BodyId id) { k.world.wake(id); });
    t.of_body("set_may_sleep", [](K<D> k, BodyId id) { k.world.set_may_sleep(id, false); });
    t.of_body("set_own_motion", [](K<D> k, BodyId id) { k.world.set_own_motion(id, {}); });
}

template<int D> void refuse_shapes(Table<D>& t) {
    t.of_body("add_shape", [](K<D> k, BodyId id) { k.world.add_shape(id, {cube<D>(1)}); });
    t.row("add_shape", "no size", [](K<D> k) { k.world.add_shape(k.crate, {cube<D>(0)}); });
    t.row("add_shape", "a floor that falls", [](K<D> k) { k.world.add_shape(k.crate, {HalfSpace<D>{}}); });
    t.row("add_shape", "no such material", [](K<D> k) {
        k.world.add_shape(k.crate, {.geometry = cube<D>(1), .shared = MaterialId{9, 9}});
    });
    t.of_shape("remove_shape",
               [](K<D> k, BodyId id, std::uint32_t shape) { k.world.remove_shape(id, shape); });
    t.row("remove_shape", "the last one", [](K<D> k) { k.world.remove_shape(k.crate, 0); });
    t.of_shape("set_tag", [](K<D> k, BodyId id, std::uint32_t shape) { k.world.set_tag(id, shape, 1); });
    t.of_shape("set_layers",
               [](K<D> k, BodyId id, std::uint32_t shape) { k.world.set_layers(id, shape, 1, 1); });
    t.of_shape("set_group", [](K<D> k, BodyId id, std::uint32_t shape) { k.world.set_group(id, shape, 1); });
    t.of_shape("set_material",
               [](K<D> k, BodyId id, std::uint32_t shape) { k.world.set_material(id, shape, Material{}); });
    t.row("set_material", "no number",
          [](K<D> k) { k.world.set_material(k.crate, 0, Material{.friction = kNoNumber}); });
    t.row("set_material", "too much", [](K<D> k) { k.world.set_material(k.board, {.restitution = 2}); });
    t.row("set_material", "no material", [](K<D> k) { k.world.set_material(MaterialId{}, Material{}); });
    t.of_shape("share_material",
               [](K<D> k, BodyId id, std::uint32_t shape) { k.world.share_material(id, shape, k.board); });
    t.row("share_material", "no material", [](K<D> k) { k.world.share_material(k.crate, 0, MaterialId{}); });
    t.of_shape("set_surface_velocity",
               [](K<D> k, BodyId id, std::uint32_t shape) { k.world.set_surface_velocity(id, shape, {}); });
    t.template of_numbers<Vec<D>>("set_surface_velocity",
                                  [](K<D> k, Vec<D> v) { k.world.set_surface_velocity(k.crate, 0, v); });
    t.row("add_material", "no number",
          [](K<D> k) { k.world.add_material({.rolling_resistance = kNoNumber}); });
    t.row("remove_material", "in use", [](K<D> k) { k.world.remove_material(k.cloth); });
    t.row("remove_material", "none", [](K<D> k) { k.world.remove_material({}); });
    t.row("set_between", "none", [](K<D> k) { k.world.set_between(k.board, {}, {}); });
    t.row("set_between", "no number",
          [](K<D> k) { k.world.set_between(k.board, k.cloth, {.friction = -1}); });
    t.row("clear_between", "none", [](K<D> k) { k.world.clear_between({}, k.board); });
    if constexpr (D == 2) {
        t.of_shape("set_cell", [](K<D> k, BodyId id, std::uint32_t shape) {
            set_cell(k.world, id == k.crate ? k.ground : id, shape, 0, 0, true);
        });
        t.row("set_cell", "no tiles", [](K<D> k) { set_cell(k.world, k.crate, 0, 0, 0, true); });
        t.row("set_cell", "no cell", [](K<D> k) { set_cell(k.world, k.ground, 0, 4, 0, true); });
    } else {
        t.of_shape("set_height", [](K<D> k, BodyId id, std::uint32_t shape) {
            set_height(k.world, id == k.crate ? k.ground : id, shape, 0, 0, 1);
        });
        t.row("set_height", "no ground", [](K<D> k) { set_height(k.world, k.crate, 0, 0, 0, 1); });
        t.row("set_height", "no node", [](K<D> k) { set_height(k.world, k.ground, 0, 0, -1, 1); });
        t.row("set_height", "no number", [](K<D> k) { set_height(k.world, k.ground, 0, 0, 0, kNoNumber); });
    }
}

template<int D> void refuse_pushes(Table<D>& t) {
    const auto vec = [&](const char* name, const auto& call) {
        t.of_body(name, [call](K<D> k, BodyId id) { call(k, id, Vec<D>{1, 0}); });
        t.template of_numbers<Vec<D>>(name, [call](K<D> k, Vec<D> v) { call(k, k.crate, v); });
        t.row(name, "static", [call](K<D> k) { call(k, k.floor, Vec<D>{1, 0}); });
        t.row(name, "kinematic", [call](K<D> k) { call(k, k.lift, Vec<D>{1, 0}); });
    };
    const auto turning = [&](const char* name, const auto& call) {
        t.of_body(name, [call](K<D> k, BodyId id) { call(k, id, 1.0f); });
        t.template of_numbers<float>(name, [call](K<D> k, float x) { call(k, k.crate, x); });
        t.row(name, "static", [call](K<D> k) { call(k, k.floor, 1.0f); });
    };
    vec("apply_force", [](K<D> k, BodyId id, Vec<D> v) { k.world.apply_force(id, v); });
    vec("apply_force_at", [](K<D> k, BodyId id, Vec<D> v) { k.world.apply_force_at(id, v, {}); });
    t.row("apply_force_at", "no place", [](K<D> k) {
        k.world.apply_force_at(k.crate, Vec<D>{1, 0}, {kNoNumber, 0});
    });
    t.row("apply_force_at", "a lever that no float holds", [](K<D> k) {
        k.world.apply_force_at(k.crate, Vec<D>{0, kHuge}, {1e30, 0});
    });
    turning("apply_torque", [](K<D> k, BodyId id, float x) { k.world.apply_torque(id, Axial<D>{x}); });
    vec("apply_impulse", [](K<D> k, BodyId id, Vec<D> v) { k.world.apply_impulse(id, v); });
    t.row("apply_impulse", "a speed that no float holds", [](K<D> k) {
        k.world.apply_impulse(k.ball, Vec<D>{kHuge, 0});
    });
    vec("apply_impulse_at", [](K<D> k, BodyId id, Vec<D> v) { k.world.apply_impulse_at(id, v, {}); });
    t.row("apply_impulse_at", "no place", [](K<D> k) {
        k.world.apply_impulse_at(k.crate, Vec<D>{1, 0}, {0, kNoNumber});
    });
    turning("apply_angular_impulse",
            [](K<D> k, BodyId id, float x) { k.world.apply_angular_impulse(id, Axial<D>{x}); });
    t.of_body("set_thrust", [](K<D> k, BodyId id) { k.world.set_thrust(id, {}); });
    t.row("set_thrust", "no number", [](K<D> k) { k.world.set_thrust(k.crate, {.force = {kNoNumber, 0}}); });
    t.row("set_thrust", "no place", [](K<D> k) {
        k.world.set_thrust(k.crate, {.at = Vec<D>{kNoNumber, 0}});
    });
    t.row("set_thrust", "static", [](K<D> k) { k.world.set_thrust(k.floor, {}); });
    t.of_body("clear_thrust", [](K<D> k, BodyId id) { k.world.clear_thrust(id); });
    t.row("blast", "no radius", [](K<D> k) { blast(k.world, Blast<D>{.radius = 0, .impulse = 1}); });
    t.row("blast", "no impulse", [](K<D> k) { blast(k.world, Blast<D>{.radius = 1, .impulse = kNoNumber}); });
    t.row("blast", "no place", [](K<D> k) {
        blast(k.world, Blast<D>{.centre = {kNoNumber, 0}, .radius = 1, .impulse = 1});
    });
    t.of_body("wrap", [](K<D> k, BodyId id) { wrap(k.world, id, Bounds<D>{}); });
    t.row("wrap", "no region", [](K<D> k) { wrap(k.world, k.crate, Bounds<D>{}); });
}

template<int D> void refuse_joints(Table<D>& t) {
    t.row("add_joint", "a stale body", [](K<D> k) { k.world.add_joint(Weld<D>{.joins = {.a = k.gone}}); });
    t.row("add_joint", "static", [](K<D> k) { k.world.add_joint(Weld<D>{.joins = {.a = k.floor}}); });
    t.row("add_joint", "apart", [](K<D> k) {
        k.world.add_joint(Weld<D>{.joins = {.a = k.crate, .b = k.door, .on_a = Vec<D>{}, .on_b = Vec<D>{}}});
    });
    t.row("set_joint", "no joint", [](K<D> k) { k.world.set_joint({}, Weld<D>{.joins = {.a = k.crate}}); });
    t.row("set_joint", "a stale body",
          [](K<D> k) { k.world.set_joint(k.hinge, Weld<D>{.joins = {.a = k.gone}}); });
    t.row("remove_joint", "no joint", [](K<D> k) { k.world.remove_joint({}); });
    t.row("set_motor", "no joint", [](K<D> k) { k.world.set_motor({}, {}); });
    t.row("set_motor", "no axis", [](K<D> k) { k.world.set_motor(k.hinge, {}, 3); });
    t.row("set_motor", "no number", [](K<D> k) { k.world.set_motor(k.hinge, {.most = kNoNumber}); });
    t.row("set_limits", "no joint", [](K<D> k) { k.world.set_limits({}, {}); });
    t.row("set_limits", "no axis", [](K<D> k) { k.world.set_limits(k.hinge, {}, -1); });
    t.row("set_limits", "crossed", [](K<D> k) { k.world.set_limits(k.hinge, {.lower = 1, .upper = 0}); });
    t.row("set_tow_target", "no tow", [](K<D> k) { k.world.set_tow_target(k.hinge, {}); });
    t.row("set_tow_target", "no place", [](K<D> k) { k.world.set_tow_target(k.tow, {kNoNumber, 0}); });
    t.row("add_field", "no number", [](K<D> k) {
        k.world.add_field({.kind = UniformField<D>{{kNoNumber, 0}}});
    });
    t.row("add_field", "no body",
          [](K<D> k) { k.world.add_field({.kind = Attraction<D>{.body = k.gone, .strength = 1}}); });
    t.row("add_field", "no region", [](K<D> k) {
        k.world.add_field({.kind = UniformField<D>{}, .within = Bounds<D>{k.all_at(1), k.all_at(0)}});
    });
    t.row("set_field", "no field", [](K<D> k) { k.world.set_field({}, {}); });
    t.row("set_field", "no number", [](K<D> k) { k.world.set_field(k.wind, {.kind = Wind<D>{.drag = -1}}); });
    t.row("remove_field", "no field", [](K<D> k) { k.world.remove_field({}); });
}

template<int D> void refuse_settings(Table<D>& t) {
    t.template of_numbers<Vec<D>>("set_gravity", [](K<D> k, Vec<D> v) { k.world.set_gravity(v); });
    t.template of_numbers<float>("set_tick", [](K<D> k, float x) { k.world.set_tick(x); });
    t.row("set_substeps", "none", [](K<D> k) { k.world.set_substeps(0); });
    t.row("set_substeps", "without end", [](K<D> k) { k.world.set_substeps(2'000'000'000); });
    t.template of_numbers<float>("set_extra_work", [](K<D> k, float x) { k.world.set_extra_work(x); });
    t.template of_numbers<float>("collect_events",
                                 [](K<D> k, float x) { k.world.collect_events({.least_speed = x}); });
    t.row("restore_bytes", "no bytes", [](K<D> k) { k.world.restore_bytes({}); });
    t.row("restore_bytes", "half of them", [](K<D> k) {
        const auto bytes = k.world.save_bytes();
        k.world.restore_bytes(std::span(bytes).first(bytes.size() / 2));
    });
}

}

template<int D> std::vector<Call<D>> refused_calls() {
    Table<D> t;
    refuse_bodies(t), refuse_shapes(t), refuse_pushes(t), refuse_joints(t), refuse_settings(t);
    return t.rows;
}

namespace {

// Calls that take whatever they are given.
const std::set<std::string> kNeverRefuse{"step",
                                         "set_sleeping",
                                         "set_timing",
                                         "restore",
                                         "set_pair_filter",
                                         "set_contact_hook",
                                         "set_substep_hook"};

template<typename T> class EveryCall : public BothDimensions<T> {};
TYPED_TEST_SUITE(EveryCall, Dimensions);

TEST(EveryCallTable, HasARowForEachCallOfTheHeaders) {
    auto calls = changing_calls();
    for (const auto& name : kNeverRefuse) EXPECT_EQ(calls.erase(name), 1u) << name;
    EXPECT_EQ(names_of(refused_calls<2>(), refused_calls<3>()), calls);
}

TYPED_TEST(EveryCall, MostOfTheWorldIsAsleepBefore) {
    const EachKind<TypeParam::value> k;
    EXPECT_GE(k.world.sleepers().bodies, 4u);
    EXPECT_TRUE(k.world.is_asleep(k.crate) && k.world.is_asleep(k.upper) && k.world.is_asleep(k.lift));
    EXPECT_FALSE(k.world.shapes_in(k.gate, 0).empty());
}

TYPED_TEST(EveryCall, ThatIsRefusedChangesNothing) {
    constexpr int D = TypeParam::value;
    EachKind<D> k;
    const auto saved = k.world.save();
    auto before = k.world.fingerprint();
    for (const Call<D>& row : refused_calls<D>()) {
        const Error e = error_of([&] { row.call(k); });
        EXPECT_NE(e.field(), "") << row.name << ", " << row.what;
        EXPECT_EQ(k.world.fingerprint(), before) << row.name << ", " << row.what << ": " << e.what();
        k.world.restore(saved);
    }
}

}
}
