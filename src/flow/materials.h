// The materials that shapes share, and what two surfaces make of each other.
//
// (1) shared and slots have one entry a material, at the same place. (2) Pairs name living materials, the one
// with the smaller index first, sorted. Tested by tests/world/materials_test.cpp.
#pragma once

#include "astasis/shapes.h"
#include "base/slot_map.h"

#include <vector>

namespace astasis::flow {

struct MaterialPair {
    MaterialId a, b;
    Material material;
};

struct Materials {
    base::SlotMap<MaterialId> slots;
    std::vector<Material> shared;
    std::vector<MaterialPair> pairs;

    // The shape's own or the one that it shares, which must live.
    const Material& of(const Material& own, MaterialId shared_id) const {
        return shared_id == MaterialId{} ? own : shared[slots.place(shared_id)];
    }
    // The entry of a pair, null if it has none. O(log pairs).
    const MaterialPair* between(MaterialId a, MaterialId b) const;
    void set_between(MaterialId a, MaterialId b, const Material& material);
    void clear_between(MaterialId a, MaterialId b);
    void remove(MaterialId id); // with its pairs
};

// The coefficients of a pair of materials, mixed.
Material mixed(const Material& a, const Material& b);

template<int Dim>
Material meeting(const Materials& materials, const ShapeSpec<Dim>& a, const ShapeSpec<Dim>& b) {
    if (!materials.pairs.empty() && a.shared != MaterialId{} && b.shared != MaterialId{})
        if (const MaterialPair* pair = materials.between(a.shared, b.shared)) return pair->material;
    return mixed(materials.of(a.material, a.shared), materials.of(b.material, b.shared));
}

}
