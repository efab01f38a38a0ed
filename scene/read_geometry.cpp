#include "scene/read_geometry.h"

#include "scene/keys.h"
#include "scene/read_surface.h"

#include <algorithm>

namespace astasis::scene {
namespace {

// A kind of shape: its name, the keys that it alone or with others has, and how it is made.
template<int Dim> struct Kind {
    const char* name;
    std::vector<std::string> keys;
    Geometry<Dim> (*read)(const Cursor&);
};

template<int Dim> Geometry<Dim> read_half_space(const Cursor& c) {
    HalfSpace<Dim> out;
    if (c.has("outward")) {
        out.outward = vec<Dim>(c.at("outward"));
        if (!(length(out.outward) > 0)) c.at("outward").fail("numbers that are not all 0");
    }
    return out;
}

template<int Dim> Geometry<Dim> read_ball(const Cursor& c) {
    return Ball<Dim>{number(c.at("radius"), kPositive)};
}

Geometry<2> read_box_of_plane(const Cursor& c) {
    const Vec2 size = vec<2>(c.at("size"), kPositive);
    const Box2 box = Box2::sized(size.x, size.y);
    if (!c.has("rounding")) return box;
    const float rounding = number(c.at("rounding"), kNotNegative);
    if (!(rounding < 0.5f * std::min(size.x, size.y)))
        c.at("rounding").fail("0 to less than half the smaller side of the box");
    return box.rounded(rounding);
}

Geometry<3> read_box_of_space(const Cursor& c) {
    const Vec3 size = vec<3>(c.at("size"), kPositive);
    const Box3 box = Box3::sized(size.x, size.y, size.z);
    if (!c.has("rounding")) return box;
    const float rounding = number(c.at("rounding"), kNotNegative);
    if (!(rounding < 0.5f * std::min({size.x, size.y, size.z})))
        c.at("rounding").fail("0 to less than half the smallest side of the box");
    return box.rounded(rounding);
}

// Two ends that differ.
template<int Dim> std::array<Vec<Dim>, 2> ends(const Cursor& c) {
    const std::array<Vec<Dim>, 2> out{vec<Dim>(c.at("from")), vec<Dim>(c.at("to"))};
    if (out[0] == out[1]) c.at("to").fail("another place than that of \"from\"");
    return out;
}

template<int Dim> Geometry<Dim> read_capsule(const Cursor& c) {
    const auto [from, to] = ends<Dim>(c);
    return Capsule<Dim>{from, to, number(c.at("radius"), kPositive)};
}

Geometry<2> read_segment(const Cursor& c) {
    const auto [from, to] = ends<2>(c);
    return Segment{from, to};
}

Geometry<3> read_cylinder(const Cursor& c) {
    const auto [from, to] = ends<3>(c);
    return Cylinder{from, to, number(c.at("radius"), kPositive)};
}

Geometry<3> read_hull(const Cursor& c) {
    const auto points = points_of<3>(c.at("points"), "a list of four or more points, each [x, y, z]");
    const Hull hull = refused_here(c.at("points"), [&] { return Hull::around(points); });
    return c.has("rounding") ? hull.grown(number(c.at("rounding"), kNotNegative)) : hull;
}

Geometry<2> read_polygon(const Cursor& c) {
    Polygon out;
    for (const Cursor& corner : c.at("corners").items("a list of three or more corners, each [x, y]"))
        out.corners.push_back(vec<2>(corner));
    if (out.corners.size() < 3) c.at("corners").fail("a list of three or more corners, each [x, y]");
    if (c.has("rounding")) out.rounding = number(c.at("rounding"), kNotNegative);
    return out;
}

const std::vector<Kind<2>>& kinds(std::integral_constant<int, 2>) {
    static const std::vector<Kind<2>> all{{"circle", {"radius"}, read_ball<2>},
                                          {"box", {"size", "rounding"}, read_box_of_plane},
                                          {"capsule", {"from", "to", "radius"}, read_capsule<2>},
                                          {"polygon", {"corners", "rounding"}, read_polygon},
                                          {"half-plane", {"outward"}, read_half_space<2>},
                                          {"segment", {"from", "to"}, read_segment},
                                          {"polyline", {"corners", "closed", "two_sided"}, read_polyline},
                                          {"tiles", {"tiles", "cell"}, read_tiles}};
    return all;
}
const std::vector<Kind<3>>& kinds(std::integral_constant<int, 3>) {
    static const std::vector<Kind<3>> all{{"sphere", {"radius"}, read_ball<3>},
                                          {"box", {"size", "rounding"}, read_box_of_space},
                                          {"capsule", {"from", "to", "radius"}, read_capsule<3>},
                                          {"half-space", {"outward"}, read_half_space<3>},
                                          {"cylinder", {"from", "to", "radius"}, read_cylinder},
                                          {"hull", {"points", "rounding"}, read_hull},
                                          {"height-field", {"pitch", "heights"}, read_height_field},
                                          {"mesh", {"file", "corners", "triangles", "two_sided"}, read_mesh}};
    return all;
}

}

template<int Dim> Geometry<Dim> read_geometry(const Cursor& c) {
    const auto& all = kinds(std::integral_constant<int, Dim>{});
    std::vector<const char*> names;
    names.reserve(all.size());
    for (const auto& kind : all) names.push_back(kind.name);
    const std::string name = c.at("shape").one_of(names);
    const auto kind = std::find_if(all.begin(), all.end(), [&](const auto& k) { return k.name == name; });
    const std::string refusal = "a " + name + " has no ";
    for (const auto& [key, value] : c.members()) {
        const bool of_every = std::find(std::begin(keys::kEveryShape), std::end(keys::kEveryShape), key) !=
                              std::end(keys::kEveryShape);
        const bool of_this = std::find(kind->keys.begin(), kind->keys.end(), key) != kind->keys.end();
        if (!of_every && !of_this) value.fail_because(refusal + key);
    }
    return kind->read(c);
}

template Geometry<2> read_geometry<2>(const Cursor&);
template Geometry<3> read_geometry<3>(const Cursor&);

}
