#include "tool/looks.h"

#include "record/casts.h"
#include "scene/rays.h"
#include "tool/command.h"

#include <fmt/format.h>

#include <array>
#include <charconv>

namespace astasis::tool {
namespace {

constexpr std::array<std::pair<const char*, bool paint::Switches::*>, 12> kSwitches{{
    {"centres", &paint::Switches::centres},
    {"velocities", &paint::Switches::velocities},
    {"contacts", &paint::Switches::contacts},
    {"forces", &paint::Switches::forces},
    {"joints", &paint::Switches::joints},
    {"fields", &paint::Switches::fields},
    {"sensors", &paint::Switches::sensors},
    {"bounds", &paint::Switches::bounds},
    {"axes", &paint::Switches::axes},
    {"names", &paint::Switches::names},
    {"islands", &paint::Switches::islands},
    {"paths", &paint::Switches::paths},
}};

std::vector<std::string> parts_of(const std::string& text, char between) {
    std::vector<std::string> out(1);
    for (const char c : text) {
        if (c == between) out.emplace_back();
        else out.back() += c;
    }
    return out;
}

paint::Switches switches_of(const std::string& list) {
    if (list.empty()) return {};
    paint::Switches out{};
    std::string known;
    for (const auto& [name, member] : kSwitches) out.*member = false, known += std::string(name) + ", ";
    if (list == "shapes") return out;
    for (const std::string& word : parts_of(list, ',')) {
        const auto found =
            std::find_if(kSwitches.begin(), kSwitches.end(), [&](const auto& s) { return word == s.first; });
        if (found == kSwitches.end())
            throw UsageError(fmt::format(
                "--show: given \"{}\", accepted: some of {}with commas between; or shapes, for shapes alone",
                word, known));
        out.*found->second = true;
    }
    return out;
}

bool read_number(const std::string& text, double& out) {
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), out);
    return error == std::errc() && end == text.data() + text.size() && out - out == 0;
}

std::optional<Point3> point_of(const std::string& text, const char* option) {
    if (text.empty()) return {};
    const auto parts = parts_of(text, ',');
    Point3 out;
    bool good = parts.size() == 3;
    for (int k = 0; good && k < 3; k++) good = read_number(parts[static_cast<std::size_t>(k)], out[k]);
    if (!good)
        throw UsageError(fmt::format(
            "{}: given {}, accepted: three numbers with commas between, as 3,2,5 (m)", option, text));
    return out;
}

void read_size(const std::string& text, int& width, int& height) {
    if (text.empty()) return;
    const auto parts = parts_of(text, 'x');
    double w = 0, h = 0;
    const bool good = parts.size() == 2 && read_number(parts[0], w) && read_number(parts[1], h) && w >= 320 &&
                      w <= 8000 && h >= 240 && h <= 8000;
    if (!good)
        throw UsageError(fmt::format(
            "--size: given {}, accepted: width and height in pixels, as 1280x800, from 320x240 to 8000x8000",
            text));
    width = static_cast<int>(w), height = static_cast<int>(h);
}

void refuse_view(const Looks& looks) {
    const bool any = !looks.eye.empty() || !looks.target.empty() || looks.view_angle;
    if (any)
        throw UsageError(
            "--eye, --target and --view-angle go with scenes in space; this one is in the plane");
}
template<int Dim> void read_view(const Looks& looks, paint::View& view) {
    if constexpr (Dim == 2) return refuse_view(looks);
    view.eye = point_of(looks.eye, "--eye"), view.target = point_of(looks.target, "--target");
    if (view.eye && view.target && *view.eye == *view.target)
        throw UsageError("--eye and --target: given the same point, accepted: two that differ");
    if (!looks.view_angle) return;
    if (!(*looks.view_angle >= 1 && *looks.view_angle <= 120))
        throw UsageError(
            fmt::format("--view-angle: given {}, accepted: 1 to 120 (degrees)", *looks.view_angle));
    view.angle = *looks.view_angle * 3.141592653589793 / 180;
}

}

void add_looks(Options& options, Looks& looks) {
    const char* group = "Pictures";
    const auto add = [&](const char* name, std::string& to, const char* type, const char* text) {
        options.text(name, to, {type, text, group});
    };
    add("--picture", looks.picture, "FILE", "The picture, a .png or .svg file");
    add("--show", looks.show, "LIST",
        "What is drawn beside the shapes, with commas between: centres, velocities, contacts, forces, "
        "joints, fields, sensors (these by default), bounds, axes, names, islands (links of what sleeps and "
        "wakes "
        "together), "
        "paths (of swept bodies in a run); or shapes, for nothing else");
    add("--size", looks.size, "WxH", "Pixels; 1280x800 by default");
    add("--eye", looks.eye, "X,Y,Z", "Where a picture in space is seen from, m; chosen to fit by default");
    add("--target", looks.target, "X,Y,Z", "What is in its middle, m");
    options.number("--view-angle", looks.view_angle,
                   {"DEGREES", "Its angle from top to bottom, degrees; 28.6 by default", group});
    add("--rays", looks.rays, "FILE",
        "Cast the rays of a file (see docs/scene-format.md), list and draw what they hit first");
    add("--hits-csv", looks.hits_csv, "FILE", "Write what the rays hit");
}

template<int Dim> Drawing<Dim>::Drawing(const Looks& looks) {
    if (looks.picture.empty() && looks.rays.empty()) {
        for (const auto& [name, given] : {std::pair{"--show", !looks.show.empty()},
                                          {"--size", !looks.size.empty()},
                                          {"--eye", !looks.eye.empty()},
                                          {"--target", !looks.target.empty()},
                                          {"--view-angle", looks.view_angle.has_value()}})
            if (given) throw UsageError(fmt::format("{} goes with --picture: it says what that shows", name));
    }
    if (!looks.hits_csv.empty() && looks.rays.empty())
        throw UsageError("--hits-csv goes with --rays: it lists what they hit");
    picture_.show = switches_of(looks.show);
    read_size(looks.size, picture_.width, picture_.height);
    read_view<Dim>(looks, picture_.view);
    rays_given_ = !looks.rays.empty();
    if (rays_given_) picture_.casts.rays = scene::read_rays<Dim>(looks.rays);
    if (!looks.picture.empty()) {
        paint::kind_of(looks.picture);
        picture_out_ = std::make_unique<record::FileOut>(looks.picture);
    }
    if (!looks.hits_csv.empty()) hits_out_ = std::make_unique<record::FileOut>(looks.hits_csv);
}

template<int Dim>
std::string Drawing<Dim>::draw(const scene::Scene<Dim>& scene, const scene::Made<Dim>& made) {
    auto& casts = picture_.casts;
    first_hits<Dim>(made.world, casts.rays, casts.hits);
    if (hits_out_) hits_out_->write(record::casts_csv(made, casts.rays, casts.hits));
    if (picture_out_)
        paint::draw_picture(scene, made, picture_out_->part(), paint::kind_of(picture_out_->path()),
                            picture_);
    return rays_given_ ? record::casts_table(made, casts.rays, casts.hits) + "\n" : std::string();
}

std::string wrote(const record::FileOut& out) {
    return fmt::format("  {:<17}{}\n", "wrote", out.path().string());
}

template<int Dim> std::string Drawing<Dim>::finish() {
    std::string out;
    for (const auto* file : {&hits_out_, &picture_out_})
        if (*file) (*file)->finish(), out += wrote(**file);
    return out;
}

template class Drawing<2>;
template class Drawing<3>;

}
