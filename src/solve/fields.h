// Fields of one level through the substeps of a tick.
// Stage solve. Reads fields and where bodies are; pushes the bodies of the integrator.
//
// The force on each body is summed up over all fields, in their order, at the start of a substep and after
// the poses have moved: the first acts through the substep, then half of its change, which is velocity
// Verlet. What follows from the velocity acts by its value at the start, as a decay. Bodies are those of one
// level; fields that join bodies to one another make them one island, so that these are always in it.
// O(bodies a field reaches) a substep; nothing is allocated once warm. Tested by tests/world/fields_test.cpp
// and the cases FI.
#pragma once

#include "astasis/fields.h"
#include "astasis/function_ref.h"
#include "flow/contacts.h"
#include "shape/submerged.h"
#include "solve/integrate.h"

#include <span>
#include <vector>

namespace astasis::solve {

template<int Dim> struct FieldInput {
    std::span<const Field<Dim>> fields;
    FunctionRef<std::uint32_t(BodyId)> place_of; // of a body that lives
    FunctionRef<BodyId(std::uint32_t)> id_of;
    FunctionRef<std::span<const std::uint32_t>(std::uint32_t)> colliders_of;       // by place
    FunctionRef<FieldForce<Dim>(const OwnField<Dim>&, const SeenBody<Dim>&)> call; // a function of the game
    std::span<const flow::Collider<Dim>> colliders;
    Vec<Dim> gravity{};
    double time = 0; // s, of the tick's start
};

// Whether a field acts on a body, by its layers.
template<int Dim>
bool reaches(const Field<Dim>& field, const FieldInput<Dim>& input, const flow::Bodies<Dim>& bodies,
             std::uint32_t i);

template<int Dim> class FieldSolver {
public:
    // `which` are the bodies of the level, in rows from 1 on in their order.
    void begin_tick(const FieldInput<Dim>& input, const flow::Bodies<Dim>& bodies,
                    std::span<const std::uint32_t> which, std::span<const std::uint32_t> rows,
                    Integrator<Dim>& integrator, double seconds);
    // After the poses of substep `substep`, from 0.
    void end(const flow::Bodies<Dim>& bodies, Integrator<Dim>& integrator, int substep);
    // The work of all fields on the bodies of this level in this tick, J.
    double work() const { return work_; }

private:
    using Wide = math::Wide<Dim>;
    struct Reached {
        std::uint32_t row, place;
        Wide centre{}, velocity{};
        Wide force{}, drag{}; // drag follows from the velocity
        Axial<Dim> torque{}, drag_torque{};
    };
    struct Part { // a field, and those of reached_ on which it acts
        const Field<Dim>* field;
        std::uint32_t first, count;
        std::uint32_t row = 0, place = 0xffffffffu; // of the body that attracts
    };
    struct Hull { // a shape in a fluid
        std::uint64_t key;
        shape::Hulk<Dim> hulk;
    };
    void push(const flow::Bodies<Dim>& bodies, Integrator<Dim>& integrator, double time, bool as_end);
    template<typename Visit> void for_each_within(const Part& part, const Visit& visit);
    void act(const UniformField<Dim>& f, const Part& part, const flow::Bodies<Dim>& bodies,
             const Integrator<Dim>& in);
    void act(const Attraction<Dim>& f, const Part& part, const flow::Bodies<Dim>& bodies,
             const Integrator<Dim>& in);
    void act(const MutualAttraction<Dim>& f, const Part& part, const flow::Bodies<Dim>& bodies,
             const Integrator<Dim>& in);
    void act(const Wind<Dim>& f, const Part& part, const flow::Bodies<Dim>& bodies,
             const Integrator<Dim>& in);
    void act(const Buoyancy<Dim>& f, const Part& part, const flow::Bodies<Dim>& bodies,
             const Integrator<Dim>& in);
    void act(const OwnField<Dim>& f, const Part& part, const flow::Bodies<Dim>& bodies,
             const Integrator<Dim>& in);
    double pull(double strength, double softening, double square) const;
    const shape::Hulk<Dim>& hulk_of(const flow::Collider<Dim>& c);

    FieldInput<Dim> input_;
    double seconds_ = 0, time_ = 0, work_ = 0;
    std::vector<Reached> reached_;
    std::vector<std::uint32_t> of_parts_; // indices of reached_, part by part
    std::vector<std::uint32_t> here_;     // by row: index in reached_ and 1, or 0
    std::vector<Part> parts_;
    std::vector<Hull> hulls_; // by rising keys
    typename shape::Hulk<Dim>::Room room_;
};

extern template class FieldSolver<2>;
extern template class FieldSolver<3>;

}
