#include "paint/picture.h"

#include "paint/palette.h"
#include "support/command.h"
#include "support/dims.h"
#include "support/pixels.h"

#include <cmath>

namespace astasis {
namespace {

class Paint : public test::InFolder {
protected:
    // One puck of radius 0.5 at rest at the origin, seen from x = -1 to 1.
    static constexpr const char* kScene =
        R"({"astasis_scene": 1, "dimension": 2, "title": "One puck", "gravity": [0, 0], "seed": 4,
        "materials": {"m": {"fill": "plum"}}, "bodies": [
        {"name": "puck", "shapes": [{"shape": "circle", "radius": 0.5, "material": "m"}]}]})";

    void draw(const std::string& name) {
        const scene::SceneFile file = scene::read_scene_text("one.json", kScene);
        const auto& scene = std::get<scene::Scene<2>>(file.scene);
        const auto made = scene::make_world(scene, file.document);
        paint::draw_picture(scene, made, folder_ / name, paint::kind_of(name));
    }
};

using test::Pixels;

TEST_F(Paint, APuckIsWhereItIsAndAsLargeAsItIs) {
    draw("one.png");
    const Pixels p(folder_ / "one.png");
    ASSERT_EQ(p.width(), 1280);
    ASSERT_EQ(p.height(), 800);
    const paint::Colour plum = paint::fill_of("plum");
    int low = 0, high = 0, column = 640 - 40; // beside the mark of the centre of mass and the radius line
    for (int y = 60; y < 720; y++)
        if (p.is(column, y, plum)) {
            if (!low) low = y;
            high = y;
        }
    // The picture's inside is 800 - 52 - 74 = 674 pixels high and shows 1 m and 4 % of air on both sides.
    const double radius = 0.5 * 674 / 1.08, half = std::sqrt(radius * radius - 40 * 40);
    EXPECT_NEAR(high - low, 2 * half, 4);
    EXPECT_NEAR(0.5 * (high + low), 52 + 674 / 2.0, 2);
    EXPECT_TRUE(p.is(100, 400, paint::kPaper));
}

TEST_F(Paint, TheMarginTellsTimeTickAndSeed) {
    draw("one.svg");
    EXPECT_NE(read("one.svg").find("<svg"), std::string::npos);
    EXPECT_GT(read("one.svg").size(), 5000u); // text is drawn as glyphs
    EXPECT_THROW(paint::kind_of("one.gif"), std::invalid_argument);
    EXPECT_THROW(draw("no/folder.png"), std::runtime_error);
}

}
}
