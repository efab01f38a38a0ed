// NG: distances, overlaps, masses and rays of single shapes.
#include "fidelity/outcome.h"
#include "fidelity/scenes.h"

#include <algorithm>
#include <array>

namespace astasis::fidelity {
namespace {

template<int Dim> Pose<Dim> at(double x, double y, double degrees_about_z = 0) {
    return {{x, y}, tilted<Dim>(degrees_about_z * kPi / 180)};
}

void circle_and_box(Outcome& out) {
    const Geometry<2> box = Box2::sized(2, 1), circle = Circle{0.3f};
    constexpr double c30 = 0.8660254037844387;
    std::vector<double> distances, normals;
    for (const auto& [x, y] : {std::pair{1.5, 1.2}, {0.2, 1.1}, {0.6, 0.5}, {1.0, 1.4}}) {
        const auto found = distance(box, at<2>(0, 0, 30), circle, at<2>(x, y));
        distances.push_back(found.separation);
        normals.push_back(found.normal.x), normals.push_back(found.normal.y);
    }
    out.near_all(
        "signed distances", "m", distances,
        std::array{0.5990381056766578, 0.05262794416288269, -0.5303847577293368, 0.30457723008140863}, 1e-4,
        1e-9);
    out.near_all("normals", "", normals,
                 std::array{c30, 0.5, -0.5, c30, c30, 0.5, 0.6351125664521928, 0.7724195931839826}, 1e-3,
                 1e-8);
}

void two_boxes(Outcome& out) {
    const Geometry<2> large = Box2::sized(2, 2), small = Box2::sized(1, 1);
    std::vector<double> distances;
    Nearest<2> first;
    for (const auto& [x, y, degrees] :
         {std::array{1.6, 0.0, 45.0}, {2.0, 0.0, 45.0}, {2.0, 2.0, 45.0}, {1.3, 0.9, 10.0}}) {
        const auto found = distance(large, at<2>(0, 0), small, at<2>(x, y, degrees));
        if (distances.empty()) first = found;
        distances.push_back(found.separation);
    }
    out.near_all(
        "signed distances", "m", distances,
        std::array{-0.10710678118654737, 0.29289321881345254, 0.9142135623730951, -0.2219224918630306}, 1e-4,
        1e-9);
    out.near_all("normal and point of the first", "",
                 std::array{double{first.normal.x}, double{first.normal.y}, first.on_b.x, first.on_b.y},
                 std::array{1.0, 0.0, 0.8928932, 0.0}, 1e-4, 1e-7);
}

void capsules_in_the_plane(Outcome& out) {
    const Geometry<2> own = Capsule2{{-1, 0}, {1, 0}, 0.2f};
    std::vector<double> between, round;
    std::size_t spots = 0;
    for (const auto& [from, to] : {std::pair{Vec2{0.5f, 0.8f}, Vec2{2, 1.6f}},
                                   {Vec2{-0.3f, 0.25f}, Vec2{0.9f, 0.25f}},
                                   {Vec2{1.5f, -1}, Vec2{1.2f, 1.3f}}}) {
        const Geometry<2> other = Capsule2{from, to, 0.15f};
        between.push_back(distance(own, at<2>(0, 0), other, at<2>(0, 0)).separation);
        if (between.size() == 2)
            for (const auto& patch : collide(own, at<2>(0, 0), other, at<2>(0, 0)))
                spots += static_cast<std::size_t>(patch.count);
    }
    const Geometry<2> line = Segment{{-1, -0.2f}, {1.3f, 0.5f}};
    for (const double x : {0.4, 1.9})
        round.push_back(distance<2>(Circle{0.3f}, at<2>(x, 0.9), line, at<2>(0, 0)).separation);
    out.near_all("capsule and capsule", "m", between, std::array{0.45, -0.1, 0.0164610215253429}, 1e-4, 1e-9);
    out.near_all("circle and segment", "m", round, std::array{0.3447150063759698, 0.4211102550927979}, 1e-4,
                 1e-9);
    out.holds("two points where they are parallel", spots == 2);
}

void sphere_and_box(Outcome& out) {
    const Geometry<3> box = Box3::sized(2, 1, 1.5f), ball = Sphere{0.4f};
    std::vector<double> distances;
    for (const Point3 p : {Point3{0.2, 1, 0.1}, {1.4, 0.8, 0}, {1.3, 0.9, 1}, {0.9, 0.1, 0.3}, {0, 0.45, 0}})
        distances.push_back(distance<3>(box, {}, ball, {p, {}}).separation);
    out.near_all("signed distances", "m", distances, std::array{0.1, 0.1, 0.15901699437494743, -0.5, -0.45},
                 1e-4, 1e-9);
}

void capsules_in_space(Outcome& out) {
    const Geometry<3> own = Capsule3{{0, 0, -1}, {0, 0, 1}, 0.3f};
    std::vector<double> distances;
    for (const auto& [from, to] : {std::pair{Vec3{0.7f, -1, 0.2f}, Vec3{0.7f, 1.2f, 0.6f}},
                                   {Vec3{0.3f, 0.2f, 1.4f}, Vec3{0.9f, 0.1f, 2.5f}},
                                   {Vec3{0.5f, 0, -0.4f}, Vec3{0.5f, 0, 2}}})
        distances.push_back(distance<3>(own, {}, Capsule3{from, to, 0.25f}, {}).separation);
    out.near_all("signed distances", "m", distances, std::array{0.15, -0.01148351928654967, -0.05}, 1e-4,
                 1e-9);
}

void cylinder_and_plane(Outcome& out) {
    const Geometry<3> drum = Cylinder{{0, -1, 0}, {0, 1, 0}, 0.5f}, plane = HalfSpace<3>{};
    std::vector<double> distances;
    bool counts = true;
    for (const double degrees : {0.0, 30.0, 60.0, 90.0}) {
        const Pose<3> pose = at<3>(0, 1.1, degrees);
        distances.push_back(distance(plane, {}, drum, pose).separation);
        int spots = 0;
        for (const auto& patch : collide(plane, {}, drum, pose, 0.7f)) // near enough to have their points
            for (int k = 0; k < patch.count; k++)
                spots += patch.spots[static_cast<std::size_t>(k)].separation < distances.back() + 1e-3;
        counts = counts && (degrees == 0 ? spots >= 3 : degrees == 90 ? spots == 2 : spots == 1);
    }
    out.near_all("signed distances", "m", distances,
                 std::array{0.1, -0.016025403784438508, 0.16698729810778068, 0.6}, 1e-3, 1e-9);
    out.holds("3 or more, 1, 1 and 2 points", counts);
}

void masses_in_the_plane(Outcome& out) {
    const auto measured = [](std::vector<ShapeSpec<2>> shapes) {
        for (auto& s : shapes) s.density = 1;
        const auto m = mass_of(shapes);
        return std::array{double{m.mass}, double{m.centre.x}, double{m.centre.y}, double{m.inertia}};
    };
    const Polygon pentagon{{{0, 0}, {2, 0}, {2.5f, 1.2f}, {1.1f, 2.4f}, {-0.4f, 1}}};
    Polygon hexagon;
    for (int k = 0; k < 6; k++)
        hexagon.corners.push_back(
            {static_cast<float>(std::cos(k * kPi / 3)), static_cast<float>(std::sin(k * kPi / 3))});
    out.near_all("pentagon", "", measured({{pentagon}}),
                 std::array{4.57, 1.060904449307075, 0.9749088256746898, 3.49605447362023}, 1e-4, 1e-10);
    out.near_all("L of two boxes", "",
                 measured({{.geometry = Box2::sized(3, 1), .placement = {Vec2{1.5f, 0.5f}, {}}},
                           {.geometry = Box2::sized(1, 3), .placement = {Vec2{0.5f, 2.5f}, {}}}}),
                 std::array{6.0, 1.0, 1.5, 12.5}, 1e-4, 1e-10);
    const auto six = measured({{hexagon}});
    out.near_all("hexagon", "", std::array{six[0], six[3]}, std::array{2.598076211353316, 1.0825317547305482},
                 1e-4, 1e-10);
}

template<int Dim> void masses_of_round_shapes(Outcome& out) {
    if constexpr (Dim == 2) {
        const auto m = mass_of<2>({{.geometry = Capsule2{{0, -0.6f}, {0, 0.6f}, 0.5f}, .density = 1}});
        out.near_all("capsule", "", std::array{double{m.mass}, double{m.inertia}},
                     std::array{1.9853981633974482, 0.8249181092477624}, 1e-4, 1e-10);
    } else {
        const auto measured = [](Geometry<3> shape) {
            const auto m = mass_of<3>({{.geometry = std::move(shape), .density = 1}});
            return std::array{double{m.mass}, double{m.moments.y}, double{m.moments.x}};
        };
        out.near_all("capsule", "", measured(Capsule3{{0, -0.6f, 0}, {0, 0.6f, 0}, 0.5f}),
                     std::array{1.4660765716752366, 0.17016960206944712, 0.5306673590688759}, 1e-4, 1e-10);
        out.near_all("cylinder", "", measured(Cylinder{{0, -0.6f, 0}, {0, 0.6f, 0}, 0.5f}),
                     std::array{0.9424777960769379, 0.11780972450961724, 0.17200219778404116}, 1e-4, 1e-10);
        out.near_all("sphere", "", measured(Sphere{0.5f}),
                     std::array{0.5235987755982988, 0.05235987755982988, 0.05235987755982988}, 1e-4, 1e-10);
    }
}

void rays(Outcome& out) {
    const double n = std::sqrt(1 + 0.04 + 0.01), far = 10;
    const Vec3 way =
        Vec3{static_cast<float>(1 / n), static_cast<float>(0.2 / n), static_cast<float>(-0.1 / n)} *
        static_cast<float>(far);
    std::vector<double> hits;
    const auto cast = [&](const Geometry<3>& shape, const Point3& place) {
        const auto hit = ray_cast<3>(shape, {place, {}}, {-5, 0, 0}, way);
        hits.push_back(hit ? hit->fraction * far : -1);
    };
    cast(Sphere{1}, {0, 1, 0});
    cast(Box3::sized(2, 1, 1.5f), {0, 1, 0});
    cast(Capsule3{{0, 0.4f, -1}, {0.3f, 1.5f, 1}, 0.4f}, {});
    cast(Cylinder{{0, -0.3f, 0}, {0, 0.3f, 0}, 0.6f}, {0, 1, 0});
    out.near_all("sphere, box, capsule, cylinder", "m", hits,
                 std::array{4.207281421308469, 4.098780306383839, 4.8849404370753025, 4.730798035139051},
                 1e-4, 1e-8);
}

}

std::span<const Case> geometry_cases() {
    static constexpr std::array kCases{
        Case{"NG01", "Circle and box", 2, false, circle_and_box},
        Case{"NG02", "Two boxes", 2, false, two_boxes},
        Case{"NG03", "Capsules and segments", 2, false, capsules_in_the_plane},
        Case{"NG04", "Sphere and box", 3, false, sphere_and_box},
        Case{"NG06", "Capsules", 3, false, capsules_in_space},
        Case{"NG07", "Cylinder and plane", 3, false, cylinder_and_plane},
        Case{"NG09", "Masses of polygons", 2, false, masses_in_the_plane},
        Case{"NG11", "Masses of round shapes", 2, false, masses_of_round_shapes<2>},
        Case{"NG11", "Masses of round shapes", 3, false, masses_of_round_shapes<3>},
        Case{"NG13", "Rays", 3, false, rays},
    };
    return kCases;
}

}
