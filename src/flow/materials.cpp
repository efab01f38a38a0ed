#include "flow/materials.h"

#include <algorithm>
#include <cmath>
#include <tuple>

namespace astasis::flow {
namespace {

auto order_of(MaterialId a, MaterialId b) {
    return b.index < a.index ? std::tuple(b.index, a.index) : std::tuple(a.index, b.index);
}
auto place_in(auto& pairs, MaterialId a, MaterialId b) {
    return std::lower_bound(
        pairs.begin(), pairs.end(), order_of(a, b),
        [](const MaterialPair& pair, const auto& wanted) { return order_of(pair.a, pair.b) < wanted; });
}

float mix(float a, float b, Mixing way) {
    switch (way) {
    case Mixing::Smaller: return std::min(a, b);
    case Mixing::Product: return a * b;
    case Mixing::GeometricMean: return std::sqrt(a * b);
    case Mixing::Mean: return 0.5f * (a + b);
    case Mixing::Larger: break;
    }
    return std::max(a, b);
}

}

const MaterialPair* Materials::between(MaterialId a, MaterialId b) const {
    const auto found = place_in(pairs, a, b);
    return found != pairs.end() && order_of(found->a, found->b) == order_of(a, b) ? &*found : nullptr;
}

void Materials::set_between(MaterialId a, MaterialId b, const Material& material) {
    const auto at = place_in(pairs, a, b);
    const bool known = at != pairs.end() && order_of(at->a, at->b) == order_of(a, b);
    if (known) at->material = material;
    else pairs.insert(at, {a, b, material});
}

void Materials::clear_between(MaterialId a, MaterialId b) {
    std::erase_if(pairs, [&](const MaterialPair& p) { return order_of(p.a, p.b) == order_of(a, b); });
}

void Materials::remove(MaterialId id) {
    std::erase_if(pairs, [&](const MaterialPair& p) { return p.a == id || p.b == id; });
    const std::uint32_t gap = slots.remove(id);
    shared[gap] = shared.back();
    shared.pop_back();
}

Material mixed(const Material& a, const Material& b) {
    const Mixing friction = std::max(a.friction_mixing, b.friction_mixing);
    const Mixing restitution = std::max(a.restitution_mixing, b.restitution_mixing);
    Material out;
    out.friction = mix(a.friction, b.friction, friction);
    out.restitution = mix(a.restitution, b.restitution, restitution);
    out.tangential_restitution = mix(a.tangential_restitution, b.tangential_restitution, restitution);
    out.rolling_resistance = std::max(a.rolling_resistance, b.rolling_resistance);
    out.spinning_resistance = std::max(a.spinning_resistance, b.spinning_resistance);
    return out;
}

}
