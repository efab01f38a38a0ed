// What draw() tells a pen: areas that go round the shapes, marks that say what they are.
#include "astasis/drawing.h"

#include "support/dims.h"

#include <map>

namespace astasis {
namespace {

using test::Numbers;

template<typename T> class DrawTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(DrawTest, test::Dimensions);

// Keeps all that it is told.
template<int D> class Notes : public Pen<D> {
public:
    struct Area {
        std::vector<Point<D>> corners;
        Mark<D> mark;
    };
    std::vector<Area> areas;
    std::map<Meaning, int> count;
    std::vector<std::string> texts;

    void line(const Point<D>&, const Point<D>&, const Mark<D>& mark) override { count[mark.meaning]++; }
    void area(std::span<const Point<D>> corners, const Mark<D>& mark) override {
        areas.push_back({{corners.begin(), corners.end()}, mark});
        count[mark.meaning]++;
    }
    void point(const Point<D>&, const Mark<D>& mark) override { count[mark.meaning]++; }
    void text(const Point<D>&, std::string_view text, const Mark<D>&) override { texts.emplace_back(text); }
};

std::vector<Geometry<2>> all_round(Vec2) {
    return {Circle{0.5f},
            Box2::sized(1, 2),
            Box2::sized(1, 2).rounded(0.3f),
            Capsule2{{-1, 0}, {1, 0.5f}, 0.25f},
            Polygon{{{0, 0}, {2, 0}, {1, 1}}, 0.2f},
            Polygon{{{0, 0}, {2, 0}, {1, 1}}}};
}
std::vector<Geometry<3>> all_round(Vec3) {
    const std::vector<Vec3> corners{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {1, 1, 1}};
    return {Sphere{0.5f},
            Box3::sized(1, 2, 3),
            Box3::sized(1, 2, 3).rounded(0.3f),
            Capsule3{{-1, 0, 0}, {1, 0.5f, 0}, 0.25f},
            Hull::around(corners),
            Hull::around(corners).grown(0.2f),
            Cylinder{{0, 0, 0}, {0, 1, 0.5f}, 0.4f}};
}

// Twice the area that corners go round in the plane, six times the volume of the cone from a point over a
// facet.
double swept(const Point<2>&, const std::vector<Point<2>>& c) {
    double sum = 0;
    for (std::size_t i = 0; i < c.size(); i++) {
        const auto &a = c[i], &b = c[(i + 1) % c.size()];
        sum += a.x * b.y - a.y * b.x;
    }
    return sum / 2;
}
double swept(const Point<3>& o, const std::vector<Point<3>>& c) {
    double sum = 0;
    for (std::size_t i = 2; i < c.size(); i++)
        sum += static_cast<double>(dot(c[0] - o, cross(c[i - 1] - o, c[i] - o)));
    return sum / 6;
}

// The outlines go round as much as the shape holds, the right way round, and keep as near as was asked.
TYPED_TEST(DrawTest, OutlinesGoRoundTheShapes) {
    constexpr int D = TypeParam::value;
    Numbers n(5);
    for (const auto& geometry : all_round(Vec<D>{})) {
        World<D> world;
        ShapeSpec<D> shape{geometry};
        shape.density = 1, shape.placement = {n.template vec<D>(-1, 1), n.rotation(Vec<D>{})};
        const BodyId id = world.add(
            {.pose = {Point<D>{} + n.template vec<D>(-1, 1), n.rotation(Vec<D>{})}, .shapes = {shape}});
        Notes<D> notes;
        const float fineness = 0.002f;
        draw(world, notes, {.fineness = fineness});
        double content = 0;
        for (const auto& area : notes.areas) {
            content += swept(world.centre_of_mass(id), area.corners);
            for (const auto& corner : area.corners) {
                const auto at = world.pose(id);
                const Pose<D> pose{to_world(at, shape.placement.position),
                                   at.rotation * shape.placement.rotation};
                const Point<D> closest = closest_point<D>(geometry, pose, corner);
                EXPECT_NEAR(length(closest - corner), 0, 1e-4) << "kind " << geometry.index();
            }
        }
        EXPECT_NEAR(content / static_cast<double>(world.mass(id).mass), 1, 0.02)
            << "kind " << geometry.index();
    }
}

TYPED_TEST(DrawTest, SwitchesSayWhatIsDrawn) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    world.add({.pose = {{0, 0.5}, {}}, .velocity = {1, 0}, .shapes = {{test::cube<D>(1)}}});
    test::step(world, 3);
    Notes<D> all;
    draw(world, all, {.bounds = true, .axes = true, .name = [](BodyId) { return std::string_view("it"); }});
    EXPECT_EQ(all.count[Meaning::CentreOfMass], 1);
    EXPECT_EQ(all.count[Meaning::Velocity], 1);
    EXPECT_EQ(all.count[Meaning::Contact], D == 2 ? 2 : 4);
    EXPECT_EQ(all.count[Meaning::Force], D == 2 ? 2 : 4);
    EXPECT_EQ(all.count[Meaning::Axis], 2 * D);
    EXPECT_EQ(all.count[Meaning::Bounds], D == 2 ? 1 : 6) << "of what has an end";
    EXPECT_EQ(all.count[Meaning::Shape], D == 2 ? 1 : 6 + 1);
    EXPECT_EQ(all.count[Meaning::Surface], D == 2 ? 1 : 0);
    EXPECT_EQ(all.texts.size(), 2u);
    Notes<D> shapes;
    draw(world, shapes, {.centres = false, .velocities = false, .contacts = false, .forces = false});
    EXPECT_EQ(shapes.count.size(), D == 2 ? 2u : 1u);
    EXPECT_EQ(test::error_of([&] { draw(world, shapes, {.fineness = 0}); }).field(), "fineness");
}

// Whatever was added first, and whichever is heavier: what bears pushes up, on the upper of two.
TYPED_TEST(DrawTest, SupportsPushUpInAnyOrder) {
    constexpr int D = TypeParam::value;
    struct Forces : Notes<D> {
        void line(const Point<D>& from, const Point<D>& to, const Mark<D>& mark) override {
            Notes<D>::line(from, to, mark);
            if (mark.meaning == Meaning::Force) forces.emplace_back(mark.body, mark.vector);
        }
        std::vector<std::pair<BodyId, Vec<D>>> forces;
    };
    for (int order = 0; order < 12; order++) {
        World<D> world;
        const float heavy = order < 6 ? 1.0f : 5.0f; // times the other
        std::array<BodyId, 3> ids{};
        const std::array<int, 3> turns[] = {{0, 1, 2}, {0, 2, 1}, {1, 0, 2}, {1, 2, 0}, {2, 0, 1}, {2, 1, 0}};
        for (const int k : turns[order % 6]) {
            if (k == 0) ids[0] = test::add_floor<D>(world);
            else {
                ShapeSpec<D> shape{test::cube<D>(1)};
                if (k == 2) shape.density *= heavy;
                ids[static_cast<std::size_t>(k)] = world.add({.pose = {{0, k - 0.5}, {}}, .shapes = {shape}});
            }
        }
        test::step(world, 20);
        Forces seen;
        draw(world, seen);
        ASSERT_EQ(seen.forces.size(), D == 2 ? 4u : 8u);
        double up_on_low = 0, up_on_top = 0;
        for (const auto& [body, force] : seen.forces) {
            EXPECT_GE(force[1], 0);
            EXPECT_FALSE(body == ids[0]);
            (body == ids[1] ? up_on_low : up_on_top) += double{force[1]};
        }
        const double low = 9.81 * double{world.mass(ids[1]).mass},
                     top = 9.81 * double{world.mass(ids[2]).mass};
        EXPECT_NEAR(up_on_low / (low + top), 1, 0.02); // by the floor: what lies on it is shown on the upper
        EXPECT_NEAR(up_on_top / top, 1, 0.02);
    }
}

// Each joint has a symbol of its kind at its anchors, each field its region or what it pulls to.
TYPED_TEST(DrawTest, JointsAndFieldsHaveTheirSymbols) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const auto box = [&](float x) {
        return world.add({.pose = {{x, 0}, {}}, .shapes = {{test::cube<D>(0.5f)}}});
    };
    const BodyId a = box(0), b = box(2);
    const Joined<D> joins{.a = a, .b = b};
    world.add_joint(Hinge<D>{.joins = {.a = a, .at = Point<D>{0, 1}}});
    world.add_joint(Slider<D>{.joins = joins});
    world.add_joint(Weld<D>{.joins = joins});
    world.add_joint(Rod<D>{.joins = joins});
    world.add_joint(Rope<D>{.joins = joins, .length = 3});
    world.add_joint(Spring<D>{.joins = joins});
    world.add_joint(Pulley<D>{.joins = joins, .over_a = {0, 4}, .over_b = {2, 4}});
    world.add_field({.kind = Attraction<D>{.centre = {5, 5}, .strength = 1}});
    world.add_field({.kind = UniformField<D>{{1, 0}}, .within = Bounds<D>{{-1, -1}, {3, 3}}});
    Notes<D> notes;
    draw(world, notes, {.joints = true, .fields = true});
    EXPECT_EQ(notes.count[Meaning::Pin], 1);
    EXPECT_EQ(notes.count[Meaning::Rail], 1);
    EXPECT_EQ(notes.count[Meaning::Weld], 1);
    EXPECT_EQ(notes.count[Meaning::Rod], 1);
    EXPECT_EQ(notes.count[Meaning::Rope], 1 + 3) << "a rope and the three parts of a pulley's";
    EXPECT_EQ(notes.count[Meaning::Coil], 1);
    EXPECT_EQ(notes.count[Meaning::Attractor], 1);
    EXPECT_EQ(notes.count[Meaning::Field], D == 2 ? 1 : 6);
    Notes<D> without;
    draw(world, without, {.joints = false, .fields = false});
    for (const Meaning m : {Meaning::Pin, Meaning::Rail, Meaning::Coil, Meaning::Field, Meaning::Attractor})
        EXPECT_EQ(without.count[m], 0);
}

}
}
