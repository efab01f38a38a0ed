// A sheet of paper for figures: the few marks that our pictures are made of, by Cairo. Places are pixels from
// the top left.
#pragma once

#include "paint/kind.h"
#include "paint/palette.h"

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

namespace astasis::paint {

struct Place {
    double x = 0, y = 0;
};

class Canvas {
public:
    // Throws std::runtime_error if `file` cannot be made.
    Canvas(int width, int height, PictureKind kind, std::string file);
    ~Canvas();
    Canvas(const Canvas&) = delete;
    Canvas& operator=(const Canvas&) = delete;

    double width() const;
    double height() const;
    void clear(Colour colour);
    void clip(double x, double y, double width, double height);
    void unclip();

    // A path, then what is done with it.
    void circle(Place centre, double radius);
    void polygon(const std::vector<Place>& corners);
    void fill_and_outline(Colour colour, bool hatched); // hatched along the outline: section hatching
    void fill_and_dash(Colour colour);                  // a thin dashed outline
    void fill_and_hatch(Colour colour);
    void tint(Colour colour, double opacity); // without an outline

    void line(Place from, Place to, Colour colour, double width);
    void dashed_line(Place from, Place to, Colour colour, double width);
    void dot(Place at, double radius, Colour colour, double opacity = 1);
    void square_grid(Place corner, double side, Colour colour);
    // Pixels as 0x00rrggbb, row by row from the top.
    void image(Place corner, int width, int height, std::vector<std::uint32_t> pixels);
    void arrow(Place from, Place to, Colour colour);
    void centre_of_mass(Place at, double radius);                               // the quartered circle
    void open_triangle(Place tip, Place backwards, double size, Colour colour); // `backwards` has length 1
    void scale_bar(Place left, double length, const std::string& label);
    double text(Place baseline, const std::string& text, double size, Colour colour); // returns where it ends
    void label(Place baseline, const std::string& text, double size); // with a rim of paper, over anything
    double width_of(const std::string& text, double size) const;
    void text_right(Place baseline, const std::string& text, double size, Colour colour);

    void finish();

private:
    void hatch_clipped(double spacing);
    struct State;
    std::unique_ptr<State> state_;
};

}
