#include "paint/figure.h"

#include "paint/crowding.h"
#include "paint/symbols.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace astasis::paint {

double round_below(double most) {
    const double power = std::pow(10.0, std::floor(std::log10(most)));
    return most >= 5 * power ? 5 * power : most >= 2 * power ? 2 * power : power;
}

Arrows Arrows::for_largest(double largest, double least) {
    if (!(largest > 0)) return {};
    const double shown = std::max(largest, least);
    return {kLongestArrow / shown, round_below(shown)};
}

template<int Dim> Arrows velocity_arrows(const World<Dim>& world) {
    constexpr double kSlowest = 0.5; // m/s
    double fastest = 0;
    for (const BodyId id : world.bodies()) fastest = std::max<double>(fastest, length(world.velocity(id)));
    return Arrows::for_largest(fastest, kSlowest);
}

template<int Dim> Arrows force_arrows(const World<Dim>& world, const std::vector<Contact<Dim>>& contacts) {
    double strongest = 0;
    for (const auto& c : contacts) strongest = std::max(strongest, length(c.impulse) / world.settings().tick);
    return Arrows::for_largest(strongest, 0);
}

template<int Dim>
Colour fill_of_shape(const scene::Scene<Dim>& scene, const scene::Made<Dim>& made, BodyId id,
                     std::size_t shape) {
    const std::string& material = made.materials[made.world.user_data(id)][shape];
    const auto found = scene.materials.find(material);
    return fill_of(found == scene.materials.end() ? "" : found->second.fill);
}

// The symbol of a kind in the key: of several marks the one that tells it from others.
template<int Dim> Meaning symbol_of(const Joint<Dim>& joint) {
    if (std::holds_alternative<Weld<Dim>>(joint)) return Meaning::Weld;
    if (std::holds_alternative<Rod<Dim>>(joint)) return Meaning::Rod;
    if (std::holds_alternative<Rope<Dim>>(joint) || std::holds_alternative<Pulley<Dim>>(joint))
        return Meaning::Rope;
    if (std::holds_alternative<Spring<Dim>>(joint) || std::holds_alternative<Tow<Dim>>(joint))
        return Meaning::Coil;
    if (std::holds_alternative<Slider<Dim>>(joint) || std::holds_alternative<Wheel<Dim>>(joint))
        return Meaning::Rail;
    return Meaning::Pin;
}

template<int Dim>
MarginText margin_text(const scene::Scene<Dim>& scene, const scene::Made<Dim>& made,
                       const Picture<Dim>& picture) {
    const auto& world = made.world;
    MarginText text;
    text.title = scene.title, text.time = world.time(), text.tick = world.ticks(), text.seed = scene.seed;
    text.show = picture.show;
    // So many marks would be all that is seen.
    constexpr std::size_t kMostCentres = 5000;
    text.centres_left_out = text.show.centres && world.bodies().size() > kMostCentres;
    text.show.centres = text.show.centres && !text.centres_left_out;
    const auto contacts = world.contacts();
    text.contacts = contacts.size();
    for (const JointId id : world.joints())
        if (!world.joint_state(id).broken) text.joints[symbol_of<Dim>(world.joint(id))]++;
    text.fields = world.fields().size();
    for (const BodyId id : world.bodies())
        for (const auto& shape : world.shapes(id)) text.sensors += shape.is_sensor;
    if (picture.show.forces) text.forces = force_arrows(world, contacts);
    if (picture.show.velocities) text.velocities = velocity_arrows(world);
    text.asleep = world.sleepers();
    text.ways = picture.show.paths ? picture.paths.size() : 0;
    text.rays = picture.casts.rays.size();
    for (const auto& hit : picture.casts.hits) text.hits += hit.has_value();
    return text;
}

template<int Dim> double width_of_body(const scene::Made<Dim>& made, BodyId id) {
    double out = 0;
    for (const auto& shape : made.world.shapes(id)) out = std::max(out, double{thickness_of(shape)});
    return out > 0 ? out : std::numeric_limits<double>::infinity();
}
void count_in_sensor(Canvas& canvas, Place middle, const std::string& count) {
    constexpr double kSize = 14;
    canvas.label({middle.x - canvas.width_of(count, kSize) / 2, middle.y + 0.35 * kSize}, count, kSize);
}

namespace {

// The key: marks with what they mean, from left to right, in two lines if need be.
class Key {
public:
    Key(Canvas& canvas, double x) : canvas_(canvas), first_(x), x_(x), line_(canvas.height() - 34) {}
    Place at(double up) const { return {x_, line_ - up}; }
    void arrow(double pixels, Colour colour, const std::string& label) {
        canvas_.arrow(at(4), {x_ + pixels, line_ - 4}, colour);
        say(pixels + 10, label);
    }
    void say(double after, const std::string& label) {
        constexpr double kWidestEntry = 200, kLine = 22;
        x_ = canvas_.text({x_ + after, line_}, label, 13, kInk) + 30;
        if (x_ > canvas_.width() - kWidestEntry) x_ = first_, line_ += kLine;
    }
    // A joint's symbol, 26 pixels wide.
    void joints(Meaning symbol, std::size_t count) {
        const Place from = at(4), to{from.x + 26, from.y}, middle{from.x + 13, from.y};
        const auto told = [&](const char* name) { say(38, fmt::format("{} ({})", name, count)); };
        switch (symbol) {
        case Meaning::Weld: return weld(canvas_, middle), told("weld");
        case Meaning::Rod: return rod(canvas_, from, to), told("rod");
        case Meaning::Rope: return rope(canvas_, from, to), told("rope");
        case Meaning::Coil: return coil(canvas_, from, to), told("spring");
        case Meaning::Rail: return rail(canvas_, from, to), told("slider");
        default: pin(canvas_, {from.x + 4, from.y}, false); return say(17, fmt::format("pin ({})", count));
        }
    }

private:
    Canvas& canvas_;
    double first_, x_, line_;
};

// Marks that are drawn only if they were asked for, and rays.
void say_overlays(Canvas& canvas, Key& key, const MarginText& text) {
    if (text.ways > 0) {
        canvas.line(key.at(4), {key.at(4).x + 26, key.at(4).y}, kRay, 1);
        canvas.dot({key.at(4).x + 13, key.at(4).y}, 2.6, kRay);
        key.say(34, text.ways_out_of_sight > 0
                        ? fmt::format("swept way of a tick, impact ({} of {} out of sight)",
                                      text.ways_out_of_sight, text.ways)
                        : std::string("swept way of a tick, impact"));
    }
    if (text.show.bounds) {
        const Place p = key.at(12), q{p.x + 18, p.y + 13};
        for (const auto& [a, b] : {std::pair{p, Place{q.x, p.y}},
                                   {Place{q.x, p.y}, q},
                                   {q, Place{p.x, q.y}},
                                   {Place{p.x, q.y}, p}})
            canvas.line(a, b, kVelocity, 0.7);
        key.say(25, "bounds");
    }
    if (text.show.axes) {
        const Place p = key.at(2);
        canvas.line(p, {p.x + 14, p.y}, kVelocity, 1.4), canvas.line(p, {p.x, p.y - 12}, kVelocity, 1.4);
        key.say(22, "axes of the body");
    }
    if (text.show.names) {
        canvas.label(key.at(0), "name", 11);
        key.say(36, text.names_left_out > 0 ? fmt::format("of a body ({} had no room)", text.names_left_out)
                                            : std::string("of a body"));
    }
    if (text.rays > 0) {
        canvas.line(key.at(4), {key.at(4).x + 26, key.at(4).y}, kRay, 1.6);
        key.say(34, fmt::format("ray ({}, {} hit)", text.rays, text.hits));
    }
}

}

void draw_margin(Canvas& canvas, const MarginText& text) {
    canvas.text({kMargin, 32}, text.title, 17, kInk);
    canvas.text_right({canvas.width() - kMargin, 32},
                      fmt::format("t = {:.3f} s    tick {}    seed {}", text.time, text.tick, text.seed), 14,
                      kInk);
    canvas.line({kMargin, canvas.height() - kFoot + 18},
                {canvas.width() - kMargin, canvas.height() - kFoot + 18}, kFaintInk, 0.6);
    if (text.bar_pixels > 0)
        canvas.scale_bar({kMargin, canvas.height() - 28}, text.bar_pixels,
                         fmt::format("{:g} m", text.bar_metres));
    Key key(canvas, kMargin + (text.bar_pixels > 0 ? 220 : 0));
    if (text.grid_metres > 0) {
        canvas.square_grid(key.at(12), 16, kFaintInk);
        key.say(26, fmt::format("squares of {:g} m", text.grid_metres));
    }
    if (text.show.centres) {
        canvas.centre_of_mass({key.at(4).x + 5, key.at(4).y}, 5.5);
        key.say(19, "centre of mass");
    }
    if (text.centres_left_out) key.say(0, "(too many for centres of mass)");
    if (text.show.contacts) {
        const Thinning thinning(text.contacts);
        canvas.open_triangle({key.at(8).x + 4, key.at(8).y}, {0, 1}, thinning.size(8), kForce);
        const std::string rule =
            thinning.is_many() ? fmt::format(", small, one on {:g} pixels", Thinning::kSpot) : std::string();
        key.say(18, text.grid_metres > 0 ? fmt::format("contact in sight (of {}{})", text.contacts, rule)
                                         : fmt::format("contact ({}{})", text.contacts, rule));
    }
    if (text.show.joints)
        for (const auto& [symbol, count] : text.joints) key.joints(symbol, count);
    if (text.show.fields && text.fields > 0) {
        const Place p = key.at(12);
        canvas.polygon({p, {p.x + 18, p.y}, {p.x + 18, p.y + 13}, {p.x, p.y + 13}});
        canvas.tint(kField, 0.3);
        key.say(25, fmt::format("field ({})", text.fields));
    }
    if (text.show.sensors && text.sensors > 0) {
        const Place p = key.at(12);
        const std::vector<Place> corners{p, {p.x + 18, p.y}, {p.x + 18, p.y + 13}, {p.x, p.y + 13}};
        canvas.polygon(corners);
        canvas.tint(kSensor, 0.16);
        for (std::size_t i = 0; i < 4; i++)
            canvas.dashed_line(corners[i], corners[(i + 1) % 4], kSensor, 1.1);
        key.say(25, "sensor, shapes in it");
    }
    const auto arrow = [&](const Arrows& a, Colour colour, const char* what, const char* unit) {
        if (a.pixels > 0)
            key.arrow(a.pixels * a.key_units, colour, fmt::format("{}, {:g} {}", what, a.key_units, unit));
    };
    arrow(text.forces, kForce, "force on the upper moving body", "N");
    arrow(text.velocities, kVelocity, "velocity", "m/s");
    if (text.asleep.bodies > 0) {
        const Place p = key.at(12);
        canvas.polygon({p, {p.x + 18, p.y}, {p.x + 18, p.y + 13}, {p.x, p.y + 13}});
        canvas.fill_and_dash(mixed(fill_of("kraft"), kPaper, kAsleep));
        key.say(25, fmt::format("asleep ({})", text.asleep.bodies));
    }
    if (text.show.islands) {
        canvas.line(key.at(4), {key.at(4).x + 26, key.at(4).y}, kLink, 2);
        key.say(34, text.asleep.islands > 0 ? fmt::format("island ({} asleep)", text.asleep.islands)
                                            : std::string("island"));
    }
    say_overlays(canvas, key, text);
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template double width_of_body(const scene::Made<Dim>&, BodyId);                                          \
    template Arrows velocity_arrows(const World<Dim>&);                                                      \
    template Arrows force_arrows(const World<Dim>&, const std::vector<Contact<Dim>>&);                       \
    template Colour fill_of_shape(const scene::Scene<Dim>&, const scene::Made<Dim>&, BodyId, std::size_t);   \
    template MarginText margin_text(const scene::Scene<Dim>&, const scene::Made<Dim>&, const Picture<Dim>&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
