// A world with something of each kind in it, most of it asleep; and every call that changes a world.
#pragma once

#include "support/dims.h"

#include <fstream>
#include <functional>
#include <limits>
#include <regex>
#include <set>
#include <string>
#include <vector>

namespace astasis::test {

inline constexpr float kNoNumber = std::numeric_limits<float>::quiet_NaN();
inline constexpr float kHuge = 3e38f;

inline Geometry<2> ground_of(Vec2) {
    return TileGrid{.columns = 4, .rows = 2, .cell = 0.5f, .solid = {1, 1, 1, 1, 0, 0, 1, 0}};
}
inline Geometry<3> ground_of(Vec3) {
    return HeightField{.columns = 3, .rows = 3, .pitch = 1, .heights = {0, 0, 0, 0, 0.3f, 0, 0, 0, 0.1f}};
}

template<int D> struct EachKind {
    World<D> world;
    BodyId floor, ground, lift, crate, upper, ball, door, gate, gone;
    MaterialId board, cloth;
    JointId hinge, tow;
    FieldId wind, attraction;

    EachKind() {
        board = world.add_material({.friction = 0.4f}), cloth = world.add_material({.friction = 0.8f});
        world.set_between(board, cloth, {.friction = 0.6f});
        world.collect_events({.touches = true, .strikes = true, .sleep = true, .poses = true});
        floor =
            world.add({.motion = Motion::Static, .shapes = {{.geometry = HalfSpace<D>{}, .shared = board}}});
        ground =
            world.add({.motion = Motion::Static, .pose = {{6, 0}, {}}, .shapes = {{ground_of(Vec<D>{})}}});
        lift =
            world.add({.motion = Motion::Kinematic, .pose = {{-4, 0.25}, {}}, .shapes = {{cube<D>(0.5f)}}});
        crate = add_crate({0, 0.5}, 1);
        upper = add_crate({0, 1.25}, 0.5f);
        ball = add_ball<D>(world, {-4, 1}, 0.25f, 0.1f);
        door = add_crate({-8, 0.5}, 1);
        gate = world.add({.motion = Motion::Static,
                          .pose = {{0, 1}, {}},
                          .shapes = {{.geometry = cube<D>(2), .is_sensor = true}}});
        gone = add_crate({20, 20}, 1);
        world.remove(gone);
        hinge = world.add_joint(Hinge<D>{.joins = {.a = door, .at = Point<D>{-8, 0.5}}});
        tow = world.add_joint(Tow<D>{.joins = {.a = ball},
                                     .target = world.pose(ball).position,
                                     .most = 1,
                                     .spring = {.frequency = 1, .damping_ratio = 1}});
        wind =
            world.add_field({.kind = Wind<D>{.drag = 0.01f}, .within = Bounds<D>{all_at(-30), all_at(-20)}});
        attraction = world.add_field({.kind = Attraction<D>{.body = floor}});
        step(world, 200);
    }

    BodyId add_crate(Point<D> at, float side) {
        return world.add(
            {.pose = {at, {}}, .shapes = {{.geometry = cube<D>(side), .density = 100, .shared = cloth}}});
    }
    static Point<D> all_at(double x) {
        Point<D> p{};
        for (int k = 0; k < D; k++) p[k] = x;
        return p;
    }
};

// A call that is to be refused, or an edit.
template<int D> struct Call {
    std::string name; // as the header has it
    std::string what;
    std::function<void(EachKind<D>&)> call;
};

template<int D> using K = EachKind<D>&;

// The names of calls in a header that may change a world.
inline std::set<std::string> changing_calls(const std::string& header, bool members) {
    std::ifstream in(std::string(ASTASIS_SCENES) + "/../include/astasis/" + header);
    std::string text, line;
    bool inside = false;
    while (std::getline(in, line)) {
        if (members && line.find("class World {") != std::string::npos) inside = true;
        if (members && line == "};") inside = false;
        if ((!members || inside) && line.find("private:") != std::string::npos) inside = false;
        if (!members || inside) text += line.substr(0, line.find("//")) + " ";
    }
    std::set<std::string> out;
    const std::regex member(R"(\b([a-z_]+)\(([^;{}]*)\)( const)?( noexcept)?;)");
    const std::regex free_function(R"(\b([a-z_]+)\(World<(Dim|2|3)>& world[^;]*\);)");
    const std::regex& wanted = members ? member : free_function;
    for (auto it = std::sregex_iterator(text.begin(), text.end(), wanted); it != std::sregex_iterator(); ++it)
        if (!members || !(*it)[3].matched) out.insert((*it)[1]);
    return out;
}
inline std::set<std::string> changing_calls() {
    auto out = changing_calls("world.h", true);
    out.merge(changing_calls("world.h", false)), out.merge(changing_calls("pushes.h", false));
    return out;
}

inline std::set<std::string> names_of(const auto& plane, const auto& space) {
    std::set<std::string> out;
    for (const auto& row : plane) out.insert(row.name);
    for (const auto& row : space) out.insert(row.name);
    return out;
}

}
