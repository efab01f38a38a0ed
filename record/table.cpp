#include "record/table.h"

#include <fmt/format.h>

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

std::string quoted(const std::string& name) {
    if (name.find_first_of(",\"\r\n") == std::string::npos) return name;
    std::string out = "\"";
    for (const char c : name) out += c == '"' ? "\"\"" : std::string(1, c);
    return out + "\"";
}

}

template<int Dim> std::string csv_head() {
    std::string out = "tick,time_s,body";
    for (std::size_t i = 0; i < kColumnCount<Dim>; i++) out += std::string(",") + kColumns[Dim - 2][i];
    return out + "\n";
}

template<int Dim> void append_csv(std::string& out, const scene::Made<Dim>& made, std::uint64_t tick) {
    auto to = std::back_inserter(out);
    for (const BodyId id : made.world.bodies()) {
        fmt::format_to(to, "{},{},{}", tick, made.world.time(), quoted(made.names[made.world.user_data(id)]));
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

template<int Dim> std::string watch_line(const World<Dim>& world, BodyId body) {
    std::string out = fmt::format("{:>10.4f}", world.time());
    const auto values = values_of(world, body);
    for (const double value : values.position) out += fmt::format(" {:>11.5f}", value);
    for (const float value : values.rest) out += fmt::format(" {:>11.5f}", value);
    return out + "\n";
}

template std::string csv_head<2>();
template std::string csv_head<3>();
template void append_csv(std::string&, const scene::Made<2>&, std::uint64_t);
template void append_csv(std::string&, const scene::Made<3>&, std::uint64_t);
template std::string watch_head<2>();
template std::string watch_head<3>();
template std::string watch_line(const World<2>&, BodyId);
template std::string watch_line(const World<3>&, BodyId);

}
