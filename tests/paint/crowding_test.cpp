// Marks that stay legible: thinning, names apart, centres within their bodies.
#include "paint/crowding.h"

#include "support/command.h"
#include "support/pixels.h"

#include <random>

namespace astasis::paint {
namespace {

TEST(Crowding, FewSymbolsAllStandManyStandOneOnASpot) {
    std::mt19937 random(1);
    std::uniform_real_distribution<double> place(0, 700);
    Thinning few(Thinning::kMany), many(Thinning::kMany + 1);
    int stood = 0;
    std::vector<Place> shown;
    for (int k = 0; k < 20000; k++) {
        const Place at{place(random), place(random)};
        EXPECT_TRUE(few.takes(at));
        if (many.takes(at)) stood++, shown.push_back(at);
    }
    EXPECT_LE(stood, 10000); // spots of 7 pixels
    EXPECT_GT(stood, 8000);
    for (const Place& at : shown) EXPECT_FALSE(many.takes(at));
    EXPECT_EQ(few.size(6), 6);
    EXPECT_LT(many.size(6), 4);
}

TEST(Crowding, ACentreMarkNeverCoversItsBody) {
    EXPECT_EQ(centre_radius(4.5, 1000), 4.5);
    for (double width = 0.1; width < 50; width += 0.1) EXPECT_LE(2 * centre_radius(4.5, width), 0.61 * width);
    EXPECT_EQ(centre_radius(4.5, 2), 0);
}

class NamesOnACanvas : public test::InFolder {};

// A name alone is written; of many at one place as many as there is room for beside it.
TEST_F(NamesOnACanvas, AvoidOneAnother) {
    Canvas canvas(400, 300, PictureKind::Png, (folder_ / "names.png").string());
    canvas.clear(kPaper);
    Names apart, together, outside;
    for (int k = 0; k < 10; k++) apart.add({100, 40.0 + 25 * k}, "crate");
    EXPECT_EQ(apart.draw(canvas, 0, 300), 0u);
    for (int k = 0; k < 10; k++) together.add({300, 150}, "crate");
    EXPECT_EQ(together.draw(canvas, 0, 300), 6u);
    outside.add({398, 2}, "a name that leads out of the picture");
    outside.add({5, 150}, "crate");
    EXPECT_EQ(outside.draw(canvas, 0, 300), 0u); // the first turns to the left and down
    canvas.finish();
    const test::Pixels p(folder_ / "names.png");
    int inked = 0;
    for (int y = 0; y < 300; y++)
        for (int x = 60; x < 100; x++) inked += p.is(x, y, kInk);
    EXPECT_EQ(inked, 0); // all of the first ten stand on the right of their places
}

}
}
