// Behaviour of surfaces: the materials that shapes share, those of their own, and belts.
#include "shape/measure.h"
#include "world/checks.h"
#include "world/state.h"

namespace astasis {

template<int Dim>
void World<Dim>::State::check_shared(const ShapeSpec<Dim>& shape, const std::string& field) const {
    if (shape.shared != MaterialId{}) material_place(shape.shared, field + ".shared");
}

template<int Dim> MaterialId World<Dim>::add_material(const Material& material) {
    state_->refuse_in_tick();
    shape::check_material(material, "material");
    state_->materials.shared.push_back(material);
    return state_->materials.slots.add();
}
template<int Dim> void World<Dim>::remove_material(MaterialId id) {
    state_->refuse_in_tick();
    state_->material_place(id, "material id");
    for (std::size_t i = 0; i < state_->rows.size(); i++)
        for (std::size_t k = 0; k < state_->rows[i].shapes.size(); k++)
            if (state_->rows[i].shapes[k].shared == id)
                throw Error("material id",
                            "a material that shape " + std::to_string(k) + " of the body with user data " +
                                std::to_string(state_->rows[i].user_data) + " has",
                            "one that no shape has any more; set_material gives a shape its own");
    state_->materials.remove(id);
}
template<int Dim> const Material World<Dim>::material(MaterialId id) const {
    return state_->materials.shared[state_->material_place(id, "material id")];
}
template<int Dim> void World<Dim>::set_material(MaterialId id, const Material& material) {
    state_->refuse_in_tick();
    const auto i = state_->material_place(id, "material id");
    shape::check_material(material, "material");
    state_->wake_all();
    state_->materials.shared[i] = material;
}

template<int Dim> void World<Dim>::set_between(MaterialId a, MaterialId b, const Material& material) {
    state_->refuse_in_tick();
    state_->material_place(a, "a"), state_->material_place(b, "b");
    shape::check_material(material, "material");
    state_->wake_all();
    state_->materials.set_between(a, b, material);
}
template<int Dim> void World<Dim>::clear_between(MaterialId a, MaterialId b) {
    state_->refuse_in_tick();
    state_->material_place(a, "a"), state_->material_place(b, "b");
    state_->wake_all();
    state_->materials.clear_between(a, b);
}

template<int Dim> const Material World<Dim>::material(BodyId id, std::uint32_t shape) const {
    const ShapeSpec<Dim>& s = state_->shape(state_->place(id), shape);
    return state_->materials.of(s.material, s.shared);
}
template<int Dim> void World<Dim>::set_material(BodyId id, std::uint32_t shape, const Material& material) {
    state_->refuse_in_tick();
    state_->shape(state_->place(id), shape);
    shape::check_material(material, "material");
    ShapeSpec<Dim>& s = state_->shape(state_->disturbed_place(id), shape);
    s.material = material;
    s.shared = {};
}
template<int Dim> void World<Dim>::share_material(BodyId id, std::uint32_t shape, MaterialId material) {
    state_->refuse_in_tick();
    state_->shape(state_->place(id), shape);
    state_->material_place(material, "material");
    ShapeSpec<Dim>& s = state_->shape(state_->disturbed_place(id), shape);
    s.shared = material;
}
template<int Dim>
void World<Dim>::set_surface_velocity(BodyId id, std::uint32_t shape, const Vec<Dim>& velocity) {
    state_->refuse_in_tick();
    state_->shape(state_->place(id), shape);
    check_finite(velocity, "velocity", "m/s");
    ShapeSpec<Dim>& s = state_->shape(state_->disturbed_place(id), shape);
    s.surface_velocity = velocity;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void World<Dim>::State::check_shared(const ShapeSpec<Dim>&, const std::string&) const;          \
    template MaterialId World<Dim>::add_material(const Material&);                                           \
    template void World<Dim>::remove_material(MaterialId);                                                   \
    template const Material World<Dim>::material(MaterialId) const;                                          \
    template void World<Dim>::set_material(MaterialId, const Material&);                                     \
    template void World<Dim>::set_between(MaterialId, MaterialId, const Material&);                          \
    template void World<Dim>::clear_between(MaterialId, MaterialId);                                         \
    template const Material World<Dim>::material(BodyId, std::uint32_t) const;                               \
    template void World<Dim>::set_material(BodyId, std::uint32_t, const Material&);                          \
    template void World<Dim>::share_material(BodyId, std::uint32_t, MaterialId);                             \
    template void World<Dim>::set_surface_velocity(BodyId, std::uint32_t, const Vec<Dim>&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
