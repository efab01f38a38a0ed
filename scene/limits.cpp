#include "scene/limits.h"

#include "astasis/world_queries.h"

namespace astasis::scene {
namespace {

// Bytes, as measured of scenes of balls that were run for two ticks: of a body, of each of its shapes, of a
// pair of shapes that touch.
template<int Dim> constexpr std::uint64_t kOfBody = Dim == 2 ? 1500 : 2050;
template<int Dim> constexpr std::uint64_t kOfShape = Dim == 2 ? 400 : 480;
template<int Dim> constexpr std::uint64_t kOfPair = Dim == 2 ? 1700 : 3000;
constexpr std::uint64_t kOfJoint = 1500;

std::string megabytes(std::uint64_t bytes) { return std::to_string(bytes / 1'000'000) + " MB"; }
std::string most() { return "no more than " + megabytes(kMostMemory); }

// The bytes that each copy of a shape has for itself; hulls, polylines and meshes are shared.
std::uint64_t own_data(const auto& shape) {
    if constexpr (requires { shape.heights; }) return shape.heights.size() * sizeof(float);
    else if constexpr (requires { shape.solid; }) return shape.solid.size();
    else if constexpr (std::is_same_v<std::decay_t<decltype(shape)>, Polygon>)
        return shape.corners.size() * sizeof(Vec2);
    else return 0;
}

}

template<int Dim> std::uint64_t bytes_of(const std::vector<ShapeSpec<Dim>>& shapes) {
    std::uint64_t out = kOfBody<Dim> + shapes.size() * kOfShape<Dim>;
    for (const ShapeSpec<Dim>& shape : shapes)
        out += std::visit([](const auto& kind) { return own_data(kind); }, shape.geometry);
    return out;
}

template<int Dim>
void Asked<Dim>::add_bodies(std::uint64_t count, const std::vector<ShapeSpec<Dim>>& shapes) {
    bodies_ += count, shapes_ += count * shapes.size(), bytes_ += count * bytes_of(shapes);
    check();
}
template<int Dim> void Asked<Dim>::add_joints(std::uint64_t count) {
    joints_ += count, bytes_ += count * kOfJoint;
    check();
}
template<int Dim> void Asked<Dim>::check() const {
    if (bytes_ > kMostMemory)
        throw Error("memory",
                    "about " + megabytes(bytes_) + " up to here: " + std::to_string(bodies_) + " bodies, " +
                        std::to_string(shapes_) + " shapes, " + std::to_string(joints_) + " joints",
                    most());
}

template<int Dim>
std::uint64_t check_pairs(const World<Dim>& world, std::span<const BodyId> ids, std::uint64_t before) {
    constexpr std::uint64_t kMost = kMostMemory / kOfPair<Dim>;
    std::uint64_t twice = 0; // pairs of two dynamic bodies are met from both
    std::vector<Found<Dim>> none;
    for (const BodyId id : ids) {
        if (world.motion(id) != Motion::Dynamic) continue;
        // Also those that layers keep apart: they take no memory, but time in every tick.
        const auto count = [&](BodyId other, std::uint32_t) {
            if (other != id) twice += world.motion(other) == Motion::Dynamic ? 1 : 2;
            return false;
        };
        for (const ShapeSpec<Dim>& shape : world.shapes(id)) {
            overlapping(world, bounds_of(shape, world.pose(id)), none, {.sensors = true, .accept = count});
            if (before + twice / 2 > kMost)
                throw Error("pairs",
                            "more than " + std::to_string(kMost) + " pairs of shapes whose bounds overlap",
                            "bodies that stand apart: contacts of " + most());
        }
    }
    return twice / 2;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template std::uint64_t bytes_of(const std::vector<ShapeSpec<Dim>>&);                                     \
    template class Asked<Dim>;                                                                               \
    template std::uint64_t check_pairs(const World<Dim>&, std::span<const BodyId>, std::uint64_t);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
