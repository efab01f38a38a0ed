// Every call that may change a world, each with an edit: a world that is restored after it goes on as the one
// that was never away.
#include "world/every_call.h"

#include "astasis/pushes.h"

namespace astasis::test {
namespace {

template<int D> struct Edits {
    template<typename Call> void row(const char* name, const char* what, const Call& call) {
        rows.push_back({name, what, call});
    }
    std::vector<Call<D>> rows;
};

template<int D> void edit_bodies(Edits<D>& t) {
    t.row("add", "a crate above", [](K<D> k) { k.add_crate({0.2, 3}, 0.4f); });
    t.row("add", "one asleep", [](K<D> k) {
        k.world.add({.pose = {{3, 0.5}, {}}, .shapes = {{cube<D>(1)}}, .asleep = true});
    });
    t.row("reserve", "room", [](K<D> k) { k.world.reserve(100, 100); });
    t.row("remove", "what bears", [](K<D> k) { k.world.remove(k.crate); });
    t.row("remove", "what is joined", [](K<D> k) { k.world.remove(k.door); });
    t.row("remove", "what attracts", [](K<D> k) { k.world.remove(k.floor); });
    t.row("set_pose", "beside", [](K<D> k) { k.world.set_pose(k.upper, {{0.9, 1.5}, {}}); });
    t.row("set_pose", "into the sensor", [](K<D> k) { k.world.set_pose(k.ball, {{0.4, 2}, {}}); });
    t.row("set_velocity", "a push", [](K<D> k) { k.world.set_velocity(k.crate, {2, 1}); });
    t.row("set_velocity", "of a lift", [](K<D> k) { k.world.set_velocity(k.lift, {0, 1}); });
    t.row("set_angular_velocity", "a spin",
          [](K<D> k) { k.world.set_angular_velocity(k.upper, Axial<D>{3}); });
    t.row("set_motion", "a crate stands for ever",
          [](K<D> k) { k.world.set_motion(k.crate, Motion::Static); });
    t.row("set_motion", "a lift falls", [](K<D> k) { k.world.set_motion(k.lift, Motion::Dynamic); });
    t.row("move_to", "a lift", [](K<D> k) { k.world.move_to(k.lift, {{-4, 0.75}, {}}); });
    t.row("set_free_motion", "damping",
          [](K<D> k) { k.world.set_free_motion(k.ball, {.linear_damping = 1, .gravity_scale = 0.5f}); });
    t.row("set_user_data", "of a body", [](K<D> k) { k.world.set_user_data(k.ball, 12); });
    t.row("set_user_data", "of a shape", [](K<D> k) { k.world.set_user_data(k.ball, 0, 12); });
    t.row("set_sweep", "none", [](K<D> k) { k.world.set_sweep(k.ball, Sweep::None); });
    t.row("wake", "the pile", [](K<D> k) { k.world.wake(k.upper); });
    t.row("set_may_sleep", "not", [](K<D> k) { k.world.set_may_sleep(k.crate, false); });
    t.row("set_sleeping", "off", [](K<D> k) { k.world.set_sleeping(false); });
    t.row("set_timing", "on", [](K<D> k) { k.world.set_timing(true); });
    t.row("step", "a tick", [](K<D> k) { k.world.step(); });
    t.row("restore", "as it was", [](K<D> k) {
        const auto before = k.world.save();
        step(k.world, 7), k.world.restore(before);
    });
    t.row("restore_bytes", "as it was", [](K<D> k) { k.world.restore_bytes(k.world.save_bytes()); });
}

template<int D> void edit_shapes(Edits<D>& t) {
    t.row("add_shape", "on the side", [](K<D> k) {
        k.world.add_shape(k.upper, {.geometry = cube<D>(0.3f), .placement = {.position = {0.4f, 0}}});
    });
    t.row("remove_shape", "of a floor", [](K<D> k) { k.world.remove_shape(k.floor, 0); });
    t.row("set_tag", "a tag", [](K<D> k) { k.world.set_tag(k.crate, 0, 4); });
    t.row("set_layers", "meets nothing", [](K<D> k) { k.world.set_layers(k.crate, 0, 2, 0); });
    t.row("set_group", "one group",
          [](K<D> k) { k.world.set_group(k.crate, 0, 3), k.world.set_group(k.upper, 0, 3); });
    t.row("set_material", "ice", [](K<D> k) { k.world.set_material(k.crate, 0, {.friction = 0}); });
    t.row("set_material", "of all", [](K<D> k) { k.world.set_material(k.cloth, {.restitution = 0.5f}); });
    t.row("share_material", "another", [](K<D> k) { k.world.share_material(k.upper, 0, k.board); });
    t.row("set_surface_velocity", "a belt", [](K<D> k) {
        k.world.set_surface_velocity(k.floor, 0, Vec<D>{1, 0});
    });
    t.row("add_material", "one more", [](K<D> k) { k.world.add_material({.friction = 0.1f}); });
    t.row("remove_material", "one of three", [](K<D> k) {
        k.world.remove_material(k.world.add_material({})), k.world.add_material({.friction = 0.2f});
    });
    t.row("set_between", "ice", [](K<D> k) { k.world.set_between(k.board, k.cloth, {.friction = 0}); });
    t.row("clear_between", "mixed again", [](K<D> k) { k.world.clear_between(k.board, k.cloth); });
    // A ball beside the ground, which begins to turn and to rise: how far it reaches decides what it meets.
    if constexpr (D == 2) {
        t.row("set_cell", "a tile more", [](K<D> k) {
            add_ball<D>(k.world, {6.2, 1.2}, 0.2f);
            k.world.set_motion(k.ground, Motion::Kinematic);
            k.world.set_angular_velocity(k.ground, Axial<D>{0.5f});
            set_cell(k.world, k.ground, 0, 0, 1, true);
        });
    } else {
        t.row("set_height", "a peak", [](K<D> k) {
            add_ball<D>(k.world, {5, 8}, 0.2f);
            k.world.set_motion(k.ground, Motion::Kinematic);
            k.world.set_angular_velocity(k.ground, Axial<D>{0, 0, 2});
            set_height(k.world, k.ground, 0, 1, 1, 8);
        });
    }
}

template<int D> void edit_pushes(Edits<D>& t) {
    t.row("apply_force", "a force", [](K<D> k) { k.world.apply_force(k.crate, {900, 0}); });
    t.row("apply_force_at", "high up", [](K<D> k) { k.world.apply_force_at(k.crate, {900, 0}, {0, 1}); });
    t.row("apply_torque", "a torque", [](K<D> k) { k.world.apply_torque(k.door, Axial<D>{50}); });
    t.row("apply_impulse", "a kick", [](K<D> k) { k.world.apply_impulse(k.upper, {3, 0}); });
    t.row("apply_impulse_at", "high up", [](K<D> k) { k.world.apply_impulse_at(k.upper, {3, 0}, {0, 1.5}); });
    t.row("apply_angular_impulse", "a spin",
          [](K<D> k) { k.world.apply_angular_impulse(k.door, Axial<D>{20}); });
    t.row("set_thrust", "a thrust", [](K<D> k) { k.world.set_thrust(k.ball, {.force = {2, 0}}); });
    t.row("clear_thrust", "and none", [](K<D> k) {
        k.world.set_thrust(k.ball, {.force = {2, 0}}), step(k.world, 5), k.world.clear_thrust(k.ball);
    });
    t.row("blast", "under all", [](K<D> k) {
        blast(k.world, Blast<D>{.centre = {0.3, 0}, .radius = 5, .impulse = 40});
    });
    t.row("wrap", "round", [](K<D> k) { wrap(k.world, k.ball, Bounds<D>{k.all_at(-3), k.all_at(3)}); });
}

template<int D> void edit_rest(Edits<D>& t) {
    t.row("add_joint", "a rope", [](K<D> k) {
        k.world.add_joint(Rope<D>{.joins = {.a = k.upper, .at = Point<D>{0, 3}}, .length = 1});
    });
    t.row("set_joint", "a spring", [](K<D> k) {
        k.world.set_joint(k.tow, Spring<D>{.joins = {.a = k.ball, .at = Point<D>{-4, 3}}});
    });
    t.row("remove_joint", "the hinge", [](K<D> k) { k.world.remove_joint(k.hinge); });
    t.row("set_motor", "a motor", [](K<D> k) { k.world.set_motor(k.hinge, {.most = 2000, .speed = 1}); });
    t.row("set_limits", "limits",
          [](K<D> k) { k.world.set_limits(k.hinge, {.lower = 0.2f, .upper = 0.4f}); });
    t.row("set_tow_target", "elsewhere", [](K<D> k) { k.world.set_tow_target(k.tow, {-3, 2}); });
    t.row("add_field", "a wind", [](K<D> k) {
        k.world.add_field({.kind = Wind<D>{.velocity = {9, 0}, .drag = 5}});
    });
    t.row("set_field", "attracts", [](K<D> k) {
        k.world.set_field(k.attraction, {.kind = Attraction<D>{.body = k.crate, .strength = 2}});
    });
    t.row("remove_field", "the wind", [](K<D> k) { k.world.remove_field(k.wind); });
    t.row("set_gravity", "sideways", [](K<D> k) { k.world.set_gravity({3, -3}); });
    t.row("set_tick", "shorter", [](K<D> k) { k.world.set_tick(1.0 / 90); });
    t.row("set_substeps", "fewer", [](K<D> k) { k.world.set_substeps(4); });
    t.row("set_extra_work", "none", [](K<D> k) { k.world.wake(k.crate), k.world.set_extra_work(0); });
    t.row("collect_events", "fewer",
          [](K<D> k) { k.world.collect_events({.touches = true}), k.world.wake(k.crate); });
    const auto hooked = [&](const char* name, const auto& set) { // not in the bytes: gone before the ticks
        t.row(name, "for a while", [set](K<D> k) { set(k, true), step(k.world, 9), set(k, false); });
    };
    hooked("set_pair_filter", [](K<D> k, bool on) {
        k.world.set_pair_filter(
            on ? PairFilter([&k](BodyId a, BodyId b) { return a != k.upper && b != k.upper; })
               : PairFilter{});
    });
    hooked("set_contact_hook", [](K<D> k, bool on) {
        k.world.set_contact_hook(
            on ? ContactHook<D>([](ContactAsked<D>& c) { c.friction = 0, c.most_push = 900; })
               : ContactHook<D>{});
    });
    hooked("set_substep_hook", [](K<D> k, bool on) {
        k.world.set_substep_hook(on ? SubstepHook<D>([](Substep<D>& s) {
            for (const BodyId id : s.bodies()) s.push(id, {3, 0});
        })
                                    : SubstepHook<D>{});
    });
    hooked("set_own_motion", [](K<D> k, bool on) {
        k.world.set_own_motion(k.ball, on ? OwnMotion<D>([](const SeenBody<D>&) {
                                   return Velocities<D>{{1, 0}, Axial<D>{}};
                               })
                                          : OwnMotion<D>{});
    });
}

}

template<int D> std::vector<Call<D>> edits() {
    Edits<D> t;
    edit_bodies(t), edit_shapes(t), edit_pushes(t), edit_rest(t);
    return t.rows;
}

namespace {

// Calls that change no state, or put back what was.
const std::set<std::string> kLeaveTheState{"reserve", "restore", "restore_bytes", "set_timing"};

template<typename T> class EveryEdit : public BothDimensions<T> {};
TYPED_TEST_SUITE(EveryEdit, Dimensions);

TEST(EveryEditTable, HasARowForEachCallOfTheHeaders) {
    EXPECT_EQ(names_of(edits<2>(), edits<3>()), changing_calls());
}

TYPED_TEST(EveryEdit, WhatIsRestoredGoesOnAsWhatWasNeverAway) {
    constexpr int D = TypeParam::value;
    const int ticks = ASTASIS_DEFAULT_CASES < 1000 ? 30 : 300; // sanitizers look at memory
    for (const Call<D>& row : edits<D>()) {
        EachKind<D> k;
        const auto before = k.world.fingerprint();
        row.call(k);
        EXPECT_EQ(k.world.fingerprint() == before, kLeaveTheState.contains(row.name))
            << row.name << ", " << row.what;
        World<D> from_bytes, from_snapshot;
        from_bytes.restore_bytes(k.world.save_bytes());
        from_snapshot.restore(k.world.save());
        for (int tick = 0; tick <= ticks; tick++) {
            const auto live = k.world.fingerprint();
            ASSERT_EQ(from_bytes.fingerprint(), live) << row.name << ", " << row.what << ", tick " << tick;
            ASSERT_EQ(from_snapshot.fingerprint(), live) << row.name << ", " << row.what << ", tick " << tick;
            k.world.step(), from_bytes.step(), from_snapshot.step();
        }
    }
}

}
}
