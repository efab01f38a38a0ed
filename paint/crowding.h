// Marks stay legible where there are many: symbols thin out, names avoid one another, centres stay
// within their bodies.
#pragma once

#include "paint/canvas.h"

#include <string>
#include <unordered_set>
#include <vector>

namespace astasis::paint {

// At most one symbol on a spot of some pixels, where there are more of a kind than a picture can show.
class Thinning {
public:
    static constexpr std::size_t kMany = 400; // from here on they are small
    explicit Thinning(std::size_t count) : is_many_(count > kMany) {}
    bool is_many() const { return is_many_; }
    // Returns whether a symbol may stand there; it takes the spot.
    bool takes(Place at);
    double size(double usual) const { return is_many_ ? 0.6 * usual : usual; }
    static constexpr double kSpot = 7; // pixels

private:
    bool is_many_;
    std::unordered_set<std::uint64_t> taken_;
};

// Names that were asked for, written at the end: beside their place where there is room, else left out.
class Names {
public:
    void add(Place at, std::string name) { wanted_.push_back({at, std::move(name)}); }
    // Between two heights of the canvas; how many found no room.
    std::size_t draw(Canvas& canvas, double top, double bottom);

private:
    struct Name {
        Place at;
        std::string text;
    };
    struct Box {
        double left, top, right, bottom;
    };
    bool is_free(const Box& box) const;
    std::vector<Name> wanted_;
    std::vector<Box> taken_;
};

// The radius of a centre mark on a body of a width, pixels; 0 where it would cover it.
double centre_radius(double usual, double body_width);

}
