#include "paint/picture.h"

#include "paint/camera.h"
#include "paint/raster.h"
#include "support/command.h"
#include "support/dims.h"
#include "support/pixels.h"

#include <cmath>

namespace astasis {
namespace {

using paint::Camera;
using paint::Raster;
using test::Pixels;

class PaintSpace : public test::InFolder {
protected:
    static constexpr const char* kScene =
        R"({"astasis_scene": 1, "dimension": 3, "title": "One ball", "gravity": [0, 0, 0],
        "materials": {"m": {"fill": "plum"}}, "bodies": [
        {"name": "ball", "shapes": [{"shape": "sphere", "radius": 0.5, "material": "m"}]}WALL]})";

    void draw(const std::string& name, const std::string& more, const paint::Picture<3>& picture) {
        std::string text = kScene;
        text.replace(text.find("WALL"), 4, more);
        const scene::SceneFile file = scene::read_scene_text("one.json", text);
        const auto& scene = std::get<scene::Scene<3>>(file.scene);
        const auto made = scene::make_world(scene, file.document);
        paint::draw_picture(scene, made, folder_ / name, paint::kind_of(name), picture);
    }
    static paint::Picture<3> from_the_front() {
        paint::Picture<3> picture;
        picture.view = {Point3{0, 0, 5}, Point3{0, 0, 0}, 0.5};
        picture.show = {.centres = false, .velocities = false, .contacts = false, .forces = false};
        return picture;
    }
};

// Plum, lighter or darker.
bool is_plum(const Pixels& p, int x, int y) {
    const paint::Colour c = p.at(x, y), plum = paint::fill_of("plum");
    return c.red > 0.3 * plum.red && c.green < c.red - 0.05 && c.blue > c.green &&
           std::fabs(c.green / c.red - plum.green / plum.red) < 0.12;
}

TEST_F(PaintSpace, ABallIsWhereItIsAndAsLargeAsItIs) {
    draw("ball.png", "", from_the_front());
    const Pixels p(folder_ / "ball.png");
    const double height = 800 - 52 - 74 + 8, focal = 0.5 * height / std::tan(0.25);
    // The outline of a sphere at distance d is seen under the angle asin(r / d).
    const double radius = focal * std::tan(std::asin(0.5 / 5));
    int low = 0, high = 0;
    for (int y = 60; y < 720; y++)
        if (is_plum(p, 640, y)) {
            if (!low) low = y;
            high = y;
        }
    EXPECT_NEAR(high - low, 2 * radius, 4);
    EXPECT_NEAR(0.5 * (high + low), 52 + height / 2, 2);
    EXPECT_FALSE(is_plum(p, 640 - static_cast<int>(radius) - 4, 393));
    EXPECT_TRUE(is_plum(p, 640 - static_cast<int>(radius) + 6, 393));
}

TEST_F(PaintSpace, WhatIsInFrontHidesAndWallsBeforeMovingBodiesDoNot) {
    const std::string box = R"(, {"name": "box", "motion": "MOTION", "at": [0, 0, 2],
                               "shapes": [{"shape": "box", "size": [2, 2, 0.1]}]})";
    const auto with = [&](const std::string& motion) {
        std::string text = box;
        text.replace(text.find("MOTION"), 6, motion);
        return text;
    };
    draw("kinematic.png", with("kinematic"), from_the_front());
    draw("wall.png", with("static"), from_the_front());
    EXPECT_FALSE(is_plum(Pixels(folder_ / "kinematic.png"), 640, 420));
    EXPECT_TRUE(is_plum(Pixels(folder_ / "wall.png"), 640, 420))
        << "a wall that hides bodies is drawn as an outline";
}

TEST_F(PaintSpace, TheWholeSceneIsSeenUnasked) {
    draw(
        "all.png",
        R"(, {"name": "far", "at": [7, 3, -4], "shapes": [{"shape": "sphere", "radius": 0.5, "material": "m"}]})",
        {});
    const Pixels p(folder_ / "all.png");
    std::size_t left = 0, right = 0;
    for (int y = 60; y < 720; y++)
        for (int x = 0; x < 1280; x++)
            if (is_plum(p, x, y)) (x < 640 ? left : right)++;
    EXPECT_GT(left, 1000u);
    EXPECT_GT(right, 1000u);
}

TEST(Camera, SeesPointsWhereAPinholeDoes) {
    const paint::View view{Point3{1, 2, 6}, Point3{0, 0, 0}, 0.8};
    const Camera camera(view, {}, 640, 480, {320, 240});
    const auto middle = camera.see({0, 0, 0});
    EXPECT_NEAR(middle.at.x, 320, 1e-3);
    EXPECT_NEAR(middle.at.y, 240, 1e-3);
    EXPECT_NEAR(middle.depth, std::sqrt(41.0), 1e-5);
    test::Numbers n(3);
    for (int i = 0; i < 1000; i++) {
        const Point3 p = Point3{} + n.vec<3>(-2, 2);
        const auto seen = camera.see(p);
        EXPECT_NEAR(length(camera.point(seen.at, seen.depth) - p), 0, 1e-4);
    }
}

TEST(Raster, TheNearerAreaIsSeen) {
    Raster raster(40, 40);
    const std::vector<Raster::Corner> far{{0, 0, 0.1}, {40, 0, 0.1}, {40, 40, 0.1}, {0, 40, 0.1}};
    // Leans through the far one: nearer on its left half.
    const std::vector<Raster::Corner> leaning{{10, 10, 0.2}, {30, 10, 0.0}, {30, 30, 0.0}, {10, 30, 0.2}};
    raster.draw(leaning, 1);
    raster.draw(far, 2);
    EXPECT_EQ(raster.facet(12, 20), 1u);
    EXPECT_EQ(raster.facet(19, 20), 1u);
    EXPECT_EQ(raster.facet(21, 20), 2u);
    EXPECT_EQ(raster.facet(5, 5), 2u);
    EXPECT_NEAR(raster.near(14, 20), 0.155, 1e-12);
}

}
}
