// Handles of what lives in a world.
#pragma once

#include <cstddef>
#include <cstdint>
#include <functional>

namespace astasis {

// Names one body of one world. When the body is removed its id becomes stale for ever: using it is an Error,
// never another body. A default-made id names nothing.
struct BodyId {
    std::uint32_t index = 0xffffffffu;
    std::uint32_t generation = 0;
    friend constexpr bool operator==(BodyId, BodyId) = default;
};

// Names one material that shapes of a world share; stale for ever once it is removed.
struct MaterialId {
    std::uint32_t index = 0xffffffffu;
    std::uint32_t generation = 0;
    friend constexpr bool operator==(MaterialId, MaterialId) = default;
};

// Names one joint of one world; stale for ever once it, or a body that it joins, is removed.
struct JointId {
    std::uint32_t index = 0xffffffffu;
    std::uint32_t generation = 0;
    friend constexpr bool operator==(JointId, JointId) = default;
};

// Names one field of one world; stale for ever once it is removed.
struct FieldId {
    std::uint32_t index = 0xffffffffu;
    std::uint32_t generation = 0;
    friend constexpr bool operator==(FieldId, FieldId) = default;
};

}

template<> struct std::hash<astasis::BodyId> {
    std::size_t operator()(astasis::BodyId id) const noexcept {
        return (static_cast<std::size_t>(id.generation) << 32) ^ id.index;
    }
};
