// What the figures of both dimensions share: the colours of bodies, the margin with its key, lengths of
// arrows.
#pragma once

#include "astasis/drawing.h"
#include "paint/canvas.h"
#include "paint/picture.h"

#include <map>

namespace astasis::paint {

inline constexpr double kMargin = 28, kFoot = 74, kHead = 52; // pixels
inline constexpr double kLongestArrow = 64;
inline constexpr double kAsleep = 0.45; // how much paper is in the colour of what sleeps

// 1, 2 or 5 times a power of ten, the largest that is not above `most`.
double round_below(double most);

// Arrows for a quantity: the largest is kLongestArrow long, a round amount stands in the key.
struct Arrows {
    double pixels = 0;    // of one unit; 0 if there is nothing to show
    double key_units = 0; // of the arrow in the key

    // `least` is what the longest arrow stands for at least, so that what creeps is not made to look fast.
    static Arrows for_largest(double largest, double least);
};

template<int Dim> Arrows velocity_arrows(const World<Dim>& world);
template<int Dim> Arrows force_arrows(const World<Dim>& world, const std::vector<Contact<Dim>>& contacts);

template<int Dim>
Colour fill_of_shape(const scene::Scene<Dim>& scene, const scene::Made<Dim>& made, BodyId id,
                     std::size_t shape);

// What the margin says.
struct MarginText {
    std::string title;
    double time = 0;
    std::uint64_t tick = 0, seed = 0;
    double bar_metres = 0, bar_pixels = 0; // a scale bar; none if 0
    double grid_metres = 0;                // the side of the ground's squares; none if 0
    Switches show;
    std::map<Meaning, std::size_t> joints; // by the symbol that stands for them
    std::size_t contacts = 0, fields = 0, sensors = 0, rays = 0, hits = 0, ways = 0;
    bool centres_left_out = false; // too many bodies
    std::size_t names_left_out = 0, ways_out_of_sight = 0;
    SleepCount asleep;
    Arrows forces, velocities;
};
// The smallest width of a body in any direction, m; infinite without bounded shapes.
template<int Dim> double width_of_body(const scene::Made<Dim>& made, BodyId id);
// Writes the number of shapes in a sensor into its middle.
void count_in_sensor(Canvas& canvas, Place middle, const std::string& count);

void draw_margin(Canvas& canvas, const MarginText& text);

template<int Dim>
MarginText margin_text(const scene::Scene<Dim>& scene, const scene::Made<Dim>& made,
                       const Picture<Dim>& picture);

}
