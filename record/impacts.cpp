#include "record/impacts.h"

#include "record/table.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace astasis::record {

namespace {

// What a table would show as -0.0000 is 0.
float plain(float x) { return std::fabs(x) < 5e-5f ? 0.0f : x; }

}

template<int Dim>
Moving<Dim> Impacts<Dim>::moving(const World<Dim>& world, BodyId id, std::uint32_t shape) const {
    const Pose<Dim> body = world.previous_pose(id);
    const auto& placement = world.shape(id, shape).placement;
    Moving<Dim> out;
    out.from = {to_world(body, placement.position), body.rotation * placement.rotation};
    const Before& before = before_[id.index];
    out.velocity = before.velocity;
    if (world.motion(id) == Motion::Dynamic)
        out.velocity += world.settings().gravity * static_cast<float>(0.5 * world.settings().tick);
    out.angular_velocity = before.angular;
    out.centre = rotate_back(placement.rotation, world.mass(id).centre - placement.position);
    return out;
}

template<int Dim> void Impacts<Dim>::add(const World<Dim>& world, const Contact<Dim>& c) {
    ImpactEntry<Dim> entry{world.time(), c.body_a, c.body_b,  c.shape_a, c.shape_b,
                           c.position,   c.normal, c.impulse, false};
    const double tick = world.settings().tick;
    const auto met = time_of_impact<Dim>(
        world.shape(c.body_a, c.shape_a).geometry, moving(world, c.body_a, c.shape_a),
        world.shape(c.body_b, c.shape_b).geometry, moving(world, c.body_b, c.shape_b), tick);
    if (met) {
        entry.time = world.time() - tick + met->time;
        entry.position = met->position, entry.normal = met->normal, entry.exact = true;
    }
    all_.push_back(entry);
}

// Of a swept body the world itself tells all. As of contacts, the body that was there first stands first.
template<int Dim> void Impacts<Dim>::add(const World<Dim>& world, const SweptImpact<Dim>& s) {
    ImpactEntry<Dim> entry{world.time() - world.settings().tick + s.time,
                           s.body,
                           s.other,
                           s.shape,
                           s.other_shape,
                           s.position,
                           s.normal,
                           s.impulse * -1.0f,
                           true};
    if (s.other.index < s.body.index) {
        std::swap(entry.first, entry.second), std::swap(entry.first_shape, entry.second_shape);
        entry.normal = entry.normal * -1.0f, entry.impulse = entry.impulse * -1.0f;
    }
    all_.push_back(entry);
}

template<int Dim> void Impacts<Dim>::tick(const World<Dim>& world) {
    std::set<Key> now;
    for (const auto& s : world.swept_impacts()) {
        add(world, s);
        const auto& e = all_.back();
        now.insert({e.first.index, e.first_shape, e.second.index, e.second_shape});
    }
    for (const auto& c : world.contacts()) {
        if (!(length(c.impulse) > 0)) continue;
        const Key key{c.body_a.index, c.shape_a, c.body_b.index, c.shape_b};
        if (!now.insert(key).second || touching_.contains(key) || before_.empty()) continue;
        add(world, c);
    }
    touching_ = std::move(now);
    for (const BodyId id : world.bodies()) {
        if (id.index >= before_.size()) before_.resize(id.index + 1);
        before_[id.index] = {world.velocity(id), world.angular_velocity(id)};
    }
}

template<int Dim> std::string impacts_csv(const scene::Made<Dim>& made, const Impacts<Dim>& impacts) {
    constexpr const char* kAxes[] = {"x", "y", "z"};
    std::string out = "time_s,first,first_shape,second,second_shape";
    for (int i = 0; i < Dim; i++) out += fmt::format(",{}_m", kAxes[i]);
    for (int i = 0; i < Dim; i++) out += fmt::format(",normal_{}", kAxes[i]);
    for (int i = 0; i < Dim; i++) out += fmt::format(",impulse_{}_Ns", kAxes[i]);
    out += ",exact\n";
    for (const auto& e : impacts.all()) {
        out += fmt::format("{},{},{},{},{}", e.time, quoted(name_of(made, e.first)), e.first_shape,
                           quoted(name_of(made, e.second)), e.second_shape);
        for (int i = 0; i < Dim; i++) out += fmt::format(",{}", e.position[i] + 0.0);
        for (int i = 0; i < Dim; i++) out += fmt::format(",{}", e.normal[i] + 0.0f);
        for (int i = 0; i < Dim; i++) out += fmt::format(",{}", e.impulse[i] + 0.0f);
        out += e.exact ? ",yes\n" : ",no\n";
    }
    return out;
}

template<int Dim> std::string impacts_table(const scene::Made<Dim>& made, const Impacts<Dim>& impacts) {
    std::size_t width = 6;
    for (const auto& e : impacts.all())
        width = std::max({width, name_of(made, e.first).size(), name_of(made, e.second).size()});
    std::string out = fmt::format("impacts: {}\n", impacts.all().size());
    if (impacts.all().empty()) return out;
    out += fmt::format("{:>10}  {:<{}}  {:<{}}  {:>{}}  {:>{}} {:>12}\n", "time s", "first", width, "second",
                       width, "place m", 10 * Dim, "normal", 8 * Dim, "impulse N s");
    bool any = false;
    for (const auto& e : impacts.all()) {
        out += fmt::format("{:>10.5f}{} {:<{}}  {:<{}}  ", e.time, e.exact ? ' ' : '*',
                           name_of(made, e.first), width, name_of(made, e.second), width);
        for (int i = 0; i < Dim; i++) out += fmt::format("{:>10.5f}", e.position[i] + 0.0);
        out += "  ";
        for (int i = 0; i < Dim; i++) out += fmt::format("{:>8.4f}", plain(e.normal[i]));
        out += fmt::format(" {:>12.5g}\n", length(e.impulse));
        any = any || !e.exact;
    }
    if (any) out += "* as at the end of the tick: another contact had turned the body within it\n";
    return out;
}

template class Impacts<2>;
template class Impacts<3>;
template std::string impacts_csv(const scene::Made<2>&, const Impacts<2>&);
template std::string impacts_csv(const scene::Made<3>&, const Impacts<3>&);
template std::string impacts_table(const scene::Made<2>&, const Impacts<2>&);
template std::string impacts_table(const scene::Made<3>&, const Impacts<3>&);

}
