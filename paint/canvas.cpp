#include "paint/canvas.h"

#include <cairo-svg.h>
#include <cairo.h>

#include <cmath>
#include <stdexcept>

namespace astasis::paint {
namespace {

constexpr double kOutline = 1.3, kHatch = 0.7, kHatchSpacing = 6, kHatchBand = 9;

void colour_on(cairo_t* c, Colour colour, double opacity = 1) {
    cairo_set_source_rgba(c, colour.red, colour.green, colour.blue, opacity);
}

}

struct Canvas::State {
    int width, height;
    PictureKind kind;
    std::string file;
    cairo_surface_t* surface;
    cairo_t* c;
};

Canvas::Canvas(int width, int height, PictureKind kind, std::string file)
    : state_(new State{width, height, kind, std::move(file), nullptr, nullptr}) {
    state_->surface = kind == PictureKind::Svg
                          ? cairo_svg_surface_create(state_->file.c_str(), width, height)
                          : cairo_image_surface_create(CAIRO_FORMAT_RGB24, width, height);
    state_->c = cairo_create(state_->surface);
    if (cairo_status(state_->c) != CAIRO_STATUS_SUCCESS) {
        const std::string why = cairo_status_to_string(cairo_status(state_->c));
        cairo_destroy(state_->c);
        cairo_surface_destroy(state_->surface);
        throw std::runtime_error(state_->file + ": " + why);
    }
    cairo_set_line_join(state_->c, CAIRO_LINE_JOIN_ROUND);
    cairo_select_font_face(state_->c, "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL, CAIRO_FONT_WEIGHT_NORMAL);
}

Canvas::~Canvas() {
    cairo_destroy(state_->c);
    cairo_surface_destroy(state_->surface);
}

double Canvas::width() const { return state_->width; }
double Canvas::height() const { return state_->height; }

void Canvas::clear(Colour colour) {
    colour_on(state_->c, colour);
    cairo_paint(state_->c);
}

void Canvas::clip(double x, double y, double width, double height) {
    cairo_save(state_->c);
    cairo_rectangle(state_->c, x, y, width, height);
    cairo_clip(state_->c);
}
void Canvas::unclip() { cairo_restore(state_->c); }

void Canvas::circle(Place centre, double radius) {
    cairo_new_path(state_->c);
    cairo_arc(state_->c, centre.x, centre.y, radius, 0, 2 * M_PI);
}

void Canvas::polygon(const std::vector<Place>& corners) {
    cairo_new_path(state_->c);
    for (const Place& p : corners) cairo_line_to(state_->c, p.x, p.y);
    cairo_close_path(state_->c);
}

// Strokes slanted lines over the present clip.
void Canvas::hatch_clipped(double spacing) {
    cairo_t* c = state_->c;
    double left = 0, top = 0, right = 0, bottom = 0;
    cairo_clip_extents(c, &left, &top, &right, &bottom);
    const double height = bottom - top;
    cairo_new_path(c);
    // Lines x + y = const, the same ones all over the sheet, so that neighbours match.
    for (double sum = std::floor((left + top) / spacing) * spacing; sum < right + bottom; sum += spacing) {
        cairo_move_to(c, sum - top, top);
        cairo_line_to(c, sum - top - height, bottom);
    }
    colour_on(c, kInk, 0.55);
    cairo_set_line_width(c, kHatch);
    cairo_stroke(c);
}

void Canvas::fill_and_outline(Colour colour, bool hatched) {
    cairo_t* c = state_->c;
    colour_on(c, colour);
    cairo_fill_preserve(c);
    if (hatched) {
        cairo_path_t* path = cairo_copy_path(c);
        cairo_push_group(c);
        cairo_save(c);
        cairo_append_path(c, path);
        cairo_clip(c);
        hatch_clipped(kHatchSpacing);
        cairo_restore(c);
        cairo_pattern_t* hatching = cairo_pop_group(c);
        // Only a band along the outline shows the hatching: the inner half of a thick stroke.
        cairo_save(c);
        cairo_new_path(c);
        cairo_append_path(c, path);
        cairo_set_source(c, hatching);
        cairo_set_line_width(c, 2 * kHatchBand);
        cairo_stroke(c);
        cairo_restore(c);
        cairo_pattern_destroy(hatching);
        cairo_append_path(c, path);
        cairo_path_destroy(path);
    }
    colour_on(c, kInk);
    cairo_set_line_width(c, kOutline);
    cairo_stroke(c);
}

void Canvas::fill_and_dash(Colour colour) {
    cairo_t* c = state_->c;
    colour_on(c, colour);
    cairo_fill_preserve(c);
    const double dashes[] = {3, 3};
    cairo_set_dash(c, dashes, 2, 0);
    colour_on(c, kInk);
    cairo_set_line_width(c, 0.6 * kOutline);
    cairo_stroke(c);
    cairo_set_dash(c, nullptr, 0, 0);
}

void Canvas::fill_and_hatch(Colour colour) {
    cairo_t* c = state_->c;
    colour_on(c, colour);
    cairo_fill_preserve(c);
    cairo_save(c);
    cairo_clip(c);
    hatch_clipped(kHatchSpacing);
    cairo_restore(c);
    cairo_new_path(c);
}

void Canvas::tint(Colour colour, double opacity) {
    cairo_t* c = state_->c;
    cairo_set_source_rgba(c, colour.red, colour.green, colour.blue, opacity);
    cairo_fill(c);
    cairo_new_path(c);
}

void Canvas::line(Place from, Place to, Colour colour, double width) {
    cairo_t* c = state_->c;
    cairo_new_path(c);
    cairo_move_to(c, from.x, from.y);
    cairo_line_to(c, to.x, to.y);
    colour_on(c, colour);
    cairo_set_line_width(c, width);
    cairo_stroke(c);
}

void Canvas::dashed_line(Place from, Place to, Colour colour, double width) {
    const double dashes[] = {4, 4};
    cairo_set_dash(state_->c, dashes, 2, 0);
    line(from, to, colour, width);
    cairo_set_dash(state_->c, nullptr, 0, 0);
}

void Canvas::dot(Place at, double radius, Colour colour, double opacity) {
    circle(at, radius);
    colour_on(state_->c, colour, opacity);
    cairo_fill(state_->c);
}

void Canvas::square_grid(Place corner, double side, Colour colour) {
    for (int i = 0; i < 3; i++) {
        const double at = 0.5 * side * i;
        line({corner.x, corner.y + at}, {corner.x + side, corner.y + at}, colour, 0.8);
        line({corner.x + at, corner.y}, {corner.x + at, corner.y + side}, colour, 0.8);
    }
}

void Canvas::image(Place corner, int width, int height, std::vector<std::uint32_t> pixels) {
    cairo_t* c = state_->c;
    cairo_surface_t* surface = cairo_image_surface_create_for_data(
        reinterpret_cast<unsigned char*>(pixels.data()), CAIRO_FORMAT_RGB24, width, height, 4 * width);
    cairo_save(c);
    cairo_set_source_surface(c, surface, corner.x, corner.y);
    cairo_pattern_set_filter(cairo_get_source(c), CAIRO_FILTER_NEAREST);
    cairo_rectangle(c, corner.x, corner.y, width, height);
    cairo_fill(c);
    cairo_restore(c);
    cairo_surface_flush(state_->surface);
    cairo_surface_destroy(surface);
}

void Canvas::arrow(Place from, Place to, Colour colour) {
    const double dx = to.x - from.x, dy = to.y - from.y, size = std::hypot(dx, dy);
    if (!(size > 0)) return;
    const double ux = dx / size, uy = dy / size, head = std::min(7.0, 0.6 * size), half = 0.38 * head;
    const Place neck{to.x - ux * head, to.y - uy * head};
    line(from, neck, colour, 1.3);
    polygon({to, {neck.x - uy * half, neck.y + ux * half}, {neck.x + uy * half, neck.y - ux * half}});
    cairo_fill(state_->c);
}

void Canvas::centre_of_mass(Place at, double radius) {
    cairo_t* c = state_->c;
    circle(at, radius);
    colour_on(c, {1, 1, 1});
    cairo_fill(c);
    colour_on(c, kInk);
    for (const double from : {0.0, M_PI}) {
        cairo_new_path(c);
        cairo_move_to(c, at.x, at.y);
        cairo_arc(c, at.x, at.y, radius, from, from + M_PI / 2);
        cairo_close_path(c);
        cairo_fill(c);
    }
    circle(at, radius);
    cairo_set_line_width(c, 0.9);
    cairo_stroke(c);
}

void Canvas::open_triangle(Place tip, Place backwards, double size, Colour colour) {
    const Place base{tip.x + backwards.x * size, tip.y + backwards.y * size};
    const double half = 0.5 * size;
    polygon({tip,
             {base.x - backwards.y * half, base.y + backwards.x * half},
             {base.x + backwards.y * half, base.y - backwards.x * half}});
    colour_on(state_->c, kPaper);
    cairo_fill_preserve(state_->c);
    colour_on(state_->c, colour);
    cairo_set_line_width(state_->c, 1);
    cairo_stroke(state_->c);
}

void Canvas::scale_bar(Place left, double length, const std::string& label) {
    const Place right{left.x + length, left.y};
    line(left, right, kInk, 2);
    line({left.x, left.y - 5}, {left.x, left.y + 5}, kInk, 1.3);
    line({right.x, right.y - 5}, {right.x, right.y + 5}, kInk, 1.3);
    text({left.x + 4, left.y - 8}, label, 13, kInk);
}

double Canvas::text(Place baseline, const std::string& text, double size, Colour colour) {
    cairo_t* c = state_->c;
    cairo_set_font_size(c, size);
    colour_on(c, colour);
    cairo_move_to(c, baseline.x, baseline.y);
    cairo_show_text(c, text.c_str());
    double end = 0, y = 0;
    cairo_get_current_point(c, &end, &y);
    cairo_new_path(c);
    return end;
}

void Canvas::label(Place baseline, const std::string& label, double size) {
    cairo_t* c = state_->c;
    cairo_new_path(c);
    cairo_set_font_size(c, size);
    cairo_move_to(c, baseline.x, baseline.y);
    cairo_text_path(c, label.c_str());
    colour_on(c, kPaper, 0.85);
    cairo_set_line_width(c, 3.5);
    cairo_stroke(c);
    text(baseline, label, size, kInk);
}

double Canvas::width_of(const std::string& text, double size) const {
    cairo_set_font_size(state_->c, size);
    cairo_text_extents_t extents;
    cairo_text_extents(state_->c, text.c_str(), &extents);
    return extents.x_advance;
}

void Canvas::text_right(Place baseline, const std::string& label, double size, Colour colour) {
    text({baseline.x - width_of(label, size), baseline.y}, label, size, colour);
}

void Canvas::finish() {
    cairo_status_t status = cairo_status(state_->c);
    if (status == CAIRO_STATUS_SUCCESS && state_->kind == PictureKind::Png)
        status = cairo_surface_write_to_png(state_->surface, state_->file.c_str());
    cairo_surface_finish(state_->surface);
    if (status == CAIRO_STATUS_SUCCESS) status = cairo_surface_status(state_->surface);
    if (status != CAIRO_STATUS_SUCCESS)
        throw std::runtime_error(state_->file + ": could not be drawn: " + cairo_status_to_string(status));
}

}
