// Fields as a world holds them: adding and removing, whom they wake, and what they need in a tick.
#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"
#include "world/checks.h"
#include "world/state.h"

#include <algorithm>

namespace astasis {
namespace {

using base::number;
using base::text_of;

void check_from_0(float value, const char* field, const char* unit) {
    if (!(value >= 0) || !math::is_finite(value))
        throw Error(field, number(value), std::string("a finite number, 0 or more (") + unit + ")");
}
void check_above_0(float value, const char* field, const char* unit) {
    if (!(value > 0) || !math::is_finite(value))
        throw Error(field, number(value), std::string("a finite number above 0 (") + unit + ")");
}

template<int Dim> void check(const UniformField<Dim>& f) {
    check_finite(f.acceleration, "acceleration", "m/s2");
}
template<int Dim> void check(const Attraction<Dim>& f) {
    check_finite(f.centre, "centre", "m");
    check_finite(f.strength, "strength", "m3/s2"), check_above_0(f.softening, "softening", "m");
}
template<int Dim> void check(const MutualAttraction<Dim>& f) {
    check_finite(f.constant, "constant", "m3/(kg s2)"), check_above_0(f.softening, "softening", "m");
}
template<int Dim> void check(const Wind<Dim>& f) {
    check_finite(f.velocity, "velocity", "m/s");
    check_from_0(f.drag, "drag", "kg/m"), check_from_0(f.damping, "damping", "1/s");
}
template<int Dim> void check(const Buoyancy<Dim>& f) {
    if (!math::is_finite(f.level)) throw Error("level", number(f.level), "a finite number (m)");
    check_finite(f.flow, "flow", "m/s");
    check_above_0(f.density, "density", Dim == 2 ? "kg/m2" : "kg/m3"),
        check_from_0(f.damping, "damping", "1/s");
}
template<int Dim> void check(const OwnField<Dim>&) {}

// The body that attracts, if one does.
template<int Dim> std::optional<BodyId> source_of(const Field<Dim>& field) {
    const auto* attraction = std::get_if<Attraction<Dim>>(&field.kind);
    return attraction == nullptr ? std::nullopt : attraction->body;
}

}

template<int Dim> std::uint32_t World<Dim>::State::field_place(FieldId id) const {
    const std::uint32_t i = field_slots.place(id);
    if (i == base::SlotMap<FieldId>::kNone)
        throw Error("field id",
                    id == FieldId{} ? std::string("one that was never set")
                                    : "index " + std::to_string(id.index) + ", generation " +
                                          std::to_string(id.generation) + ", which is stale",
                    "the id of a field of this world, made by add_field");
    return i;
}

template<int Dim> void World<Dim>::State::check_field(const Field<Dim>& field) const {
    std::visit([](const auto& kind) { check(kind); }, field.kind);
    if (const auto source = source_of(field)) place(*source);
    if (!field.within) return;
    for (int k = 0; k < Dim; k++)
        if (!(field.within->low[k] <= field.within->high[k]))
            throw Error("within", text_of(field.within->low) + " to " + text_of(field.within->high),
                        "a region whose low corner is not above its high one");
}

template<int Dim> void World<Dim>::State::wake_reached(const Field<Dim>& field) {
    std::vector<BodyId> reached;
    with_fields([&](const solve::FieldInput<Dim>& input) {
        for (std::uint32_t i = 0; i < bodies.size(); i++)
            if (is_asleep(i) && solve::reaches(field, input, bodies, i)) reached.push_back(slots.ids()[i]);
    });
    for (const BodyId id : reached) wake(place(id));
}

// Before a body that attracts others is changed.
template<int Dim> void World<Dim>::State::wake_attracted(BodyId source) {
    for (const Field<Dim>& field : fields)
        if (source_of(field) == source) wake_reached(field);
}

template<int Dim> void World<Dim>::State::drop_fields_of(BodyId source) {
    for (std::size_t i = fields.size(); i-- > 0;)
        if (source_of(fields[i]) == source) {
            wake_reached(fields[i]);
            const std::uint32_t gap = field_slots.remove(field_slots.ids()[i]);
            fields[gap] = std::move(fields.back());
            fields.pop_back();
        }
}

// Bodies that a field joins are one island: they are solved together and sleep together.
template<int Dim> void World<Dim>::State::find_field_edges() {
    field_edges.clear(), field_sources.clear();
    if (fields.empty()) return;
    with_fields([&](const solve::FieldInput<Dim>& input) {
        for (const Field<Dim>& field : fields) {
            const auto source = source_of(field);
            if (source) field_sources.push_back(place(*source));
            const bool mutual = std::holds_alternative<MutualAttraction<Dim>>(field.kind);
            if (!mutual && !(source && bodies.motion[place(*source)] == Motion::Dynamic)) continue;
            std::uint32_t other = source ? place(*source) : flow::kWorld;
            for (std::uint32_t i = 0; i < bodies.moving; i++) {
                if (i == other || !solve::reaches(field, input, bodies, i)) continue;
                if (other != flow::kWorld && other < bodies.moving) field_edges.push_back({i, other});
                if (mutual) other = i;
            }
        }
    });
}

// A body that a moving body attracts does not sleep.
template<int Dim> void World<Dim>::State::keep_attracted_awake() {
    with_fields([&](const solve::FieldInput<Dim>& input) {
        for (const Field<Dim>& field : fields) {
            const auto source = source_of(field);
            if (!source) continue;
            const auto& v = bodies.velocity[place(*source)];
            if (v.linear == Vec<Dim>{}) continue;
            for (std::uint32_t i = 0; i < bodies.moving; i++)
                if (solve::reaches(field, input, bodies, i)) bodies.still[i].kept_awake = true;
        }
    });
}

template<int Dim> FieldId World<Dim>::add_field(const Field<Dim>& field) {
    state_->refuse_in_tick();
    state_->check_field(field);
    state_->wake_reached(field);
    state_->fields.push_back(field);
    return state_->field_slots.add();
}
template<int Dim> void World<Dim>::remove_field(FieldId id) {
    state_->refuse_in_tick();
    State& s = *state_;
    s.wake_reached(s.fields[s.field_place(id)]);
    const std::uint32_t gap = s.field_slots.remove(id);
    s.fields[gap] = std::move(s.fields.back());
    s.fields.pop_back();
}
template<int Dim> bool World<Dim>::contains(FieldId id) const noexcept {
    return state_->field_slots.contains(id);
}
template<int Dim> std::span<const FieldId> World<Dim>::fields() const noexcept {
    return state_->field_slots.ids();
}
template<int Dim> const Field<Dim>& World<Dim>::field(FieldId id) const {
    return state_->fields[state_->field_place(id)];
}
template<int Dim> void World<Dim>::set_field(FieldId id, const Field<Dim>& field) {
    state_->refuse_in_tick();
    State& s = *state_;
    const std::uint32_t i = s.field_place(id);
    s.check_field(field);
    s.wake_reached(s.fields[i]), s.wake_reached(field);
    s.fields[i] = field;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template std::uint32_t World<Dim>::State::field_place(FieldId) const;                                    \
    template void World<Dim>::State::check_field(const Field<Dim>&) const;                                   \
    template void World<Dim>::State::wake_reached(const Field<Dim>&);                                        \
    template void World<Dim>::State::wake_attracted(BodyId);                                                 \
    template void World<Dim>::State::find_field_edges();                                                     \
    template void World<Dim>::State::keep_attracted_awake();                                                 \
    template void World<Dim>::State::drop_fields_of(BodyId);                                                 \
    template FieldId World<Dim>::add_field(const Field<Dim>&);                                               \
    template void World<Dim>::remove_field(FieldId);                                                         \
    template bool World<Dim>::contains(FieldId) const noexcept;                                              \
    template std::span<const FieldId> World<Dim>::fields() const noexcept;                                   \
    template const Field<Dim>& World<Dim>::field(FieldId) const;                                             \
    template void World<Dim>::set_field(FieldId, const Field<Dim>&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
