#include "record/table.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <iterator>

namespace astasis::record {
namespace {

// What a row tells of a body, in the order of the columns: the position in double, then turn, velocity and
// spin as floats, so that each prints in its own shortest form. Adding 0 turns -0 into 0.
template<int Dim> struct Values {
    std::array<double, Dim> position;
    std::array<float, Dim == 2 ? 4 : 10> rest;
};

Values<2> values_of(const World<2>& world, BodyId id) {
    const Pose<2> pose = world.pose(id);
    const Vec2 v = world.velocity(id);
    const auto angle = static_cast<float>(angle_of(pose.rotation).in_radians());
    return {{pose.position.x + 0.0, pose.position.y + 0.0},
            {angle + 0.0f, v.x + 0.0f, v.y + 0.0f, world.angular_velocity(id) + 0.0f}};
}
Values<3> values_of(const World<3>& world, BodyId id) {
    const Pose<3> pose = world.pose(id);
    const Rotation<3> r = pose.rotation;
    const Vec3 v = world.velocity(id) + Vec3{}, w = world.angular_velocity(id) + Vec3{};
    return {{pose.position.x + 0.0, pose.position.y + 0.0, pose.position.z + 0.0},
            {r.w, r.x + 0.0f, r.y + 0.0f, r.z + 0.0f, v.x, v.y, v.z, w.x, w.y, w.z}};
}

constexpr const char* kColumns[2][13] = {{"x_m", "y_m", "angle_rad", "vx_m_s", "vy_m_s", "spin_rad_s"},
                                         {"x_m", "y_m", "z_m", "qw", "qx", "qy", "qz", "vx_m_s", "vy_m_s",
                                          "vz_m_s", "wx_rad_s", "wy_rad_s", "wz_rad_s"}};
template<int Dim> constexpr std::size_t kColumnCount = Dim == 2 ? 6 : 13;

}

std::string quoted(const std::string& name) {
    if (name.find_first_of(",\"\r\n") == std::string::npos) return name;
    std::string out = "\"";
    for (const char c : name) out += c == '"' ? "\"\"" : std::string(1, c);
    return out + "\"";
}

template<int Dim> std::string csv_head() {
    std::string out = "tick,time_s,body";
    for (std::size_t i = 0; i < kColumnCount<Dim>; i++) out += std::string(",") + kColumns[Dim - 2][i];
    return out + "\n";
}

template<int Dim> void append_csv(std::string& out, const scene::Made<Dim>& made, std::uint64_t tick) {
    auto to = std::back_inserter(out);
    for (const BodyId id : made.world.bodies()) {
        fmt::format_to(to, "{},{},{}", tick, made.world.time(), quoted(made.name_of(id)));
        const auto values = values_of(made.world, id);
        for (const double value : values.position) fmt::format_to(to, ",{}", value);
        for (const float value : values.rest) fmt::format_to(to, ",{}", value);
        out += '\n';
    }
}

template<int Dim> std::string watch_head() {
    std::string out = fmt::format("{:>10}", "time_s");
    for (std::size_t i = 0; i < kColumnCount<Dim>; i++) out += fmt::format(" {:>11}", kColumns[Dim - 2][i]);
    return out + "\n";
}

template<int Dim> std::string watch_line(const scene::Made<Dim>& made, const std::string& body) {
    const World<Dim>& world = made.world;
    std::string out = fmt::format("{:>10.4f}", world.time());
    const auto id = made.find(body);
    if (!id) return out + fmt::format(" {:>11}\n", "not there");
    const auto values = values_of(world, *id);
    for (const double value : values.position) out += fmt::format(" {:>11.5f}", value);
    for (const float value : values.rest) out += fmt::format(" {:>11.5f}", value);
    return out + "\n";
}

template<int Dim> std::string contacts_csv(const scene::Made<Dim>& made) {
    constexpr const char* kAxes[] = {"x", "y", "z"};
    std::string out = "first,first_shape,second,second_shape";
    for (int i = 0; i < Dim; i++) out += fmt::format(",{}_m", kAxes[i]);
    for (int i = 0; i < Dim; i++) out += fmt::format(",normal_{}", kAxes[i]);
    out += ",separation_m";
    for (int i = 0; i < Dim; i++) out += fmt::format(",impulse_{}_Ns", kAxes[i]);
    out += "\n";
    for (const Contact<Dim>& c : made.world.contacts()) {
        out += fmt::format("{},{},{},{}", quoted(made.name_of(c.body_a)), c.shape_a,
                           quoted(made.name_of(c.body_b)), c.shape_b);
        for (int i = 0; i < Dim; i++) out += fmt::format(",{}", c.position[i] + 0.0);
        for (int i = 0; i < Dim; i++) out += fmt::format(",{}", c.normal[i] + 0.0f);
        out += fmt::format(",{}", c.separation + 0.0f);
        for (int i = 0; i < Dim; i++) out += fmt::format(",{}", c.impulse[i] + 0.0f);
        out += '\n';
    }
    return out;
}

template<int Dim> std::string contacts_table(const scene::Made<Dim>& made) {
    const auto contacts = made.world.contacts();
    std::size_t width = 6;
    const auto label = [&](BodyId id, std::uint32_t shape) {
        return made.world.shapes(id).size() > 1 ? fmt::format("{} [{}]", made.name_of(id), shape)
                                                : made.name_of(id);
    };
    for (const auto& c : contacts)
        width = std::max({width, label(c.body_a, c.shape_a).size(), label(c.body_b, c.shape_b).size()});
    std::string out = fmt::format("contacts at {:.4f} s: {}\n", made.world.time(), contacts.size());
    if (contacts.empty()) return out;
    out += fmt::format("{:<{}}  {:<{}}  {:>{}}  {:>{}} {:>14} {:>12}\n", "first", width, "second", width,
                       "place m", 10 * Dim, "normal", 8 * Dim, "separation mm", "impulse N s");
    for (const auto& c : contacts) {
        out += fmt::format("{:<{}}  {:<{}}  ", label(c.body_a, c.shape_a), width, label(c.body_b, c.shape_b),
                           width);
        for (int i = 0; i < Dim; i++) out += fmt::format("{:>10.4f}", c.position[i] + 0.0);
        out += "  ";
        for (int i = 0; i < Dim; i++) out += fmt::format("{:>8.4f}", c.normal[i] + 0.0f);
        out += fmt::format(" {:>14.4f} {:>12.5g}\n", 1e3f * c.separation, length(c.impulse));
    }
    return out;
}

template std::string contacts_csv(const scene::Made<2>&);
template std::string contacts_csv(const scene::Made<3>&);
template std::string contacts_table(const scene::Made<2>&);
template std::string contacts_table(const scene::Made<3>&);
template std::string csv_head<2>();
template std::string csv_head<3>();
template void append_csv(std::string&, const scene::Made<2>&, std::uint64_t);
template void append_csv(std::string&, const scene::Made<3>&, std::uint64_t);
template std::string watch_head<2>();
template std::string watch_head<3>();
template std::string watch_line(const scene::Made<2>&, const std::string&);
template std::string watch_line(const scene::Made<3>&, const std::string&);

}
