// The contacts of a tick as the kernels want them: in groups of manifolds that write to different bodies.
//
// Manifolds get colours, greedily in their order, so that no two of a colour share a body that can be moved;
// the lanes of a group are of one colour. What rests on a body that nothing moves is solved last in a pass:
// that is what cannot give way. Manifolds for which no colour is left, those of a body that touches dozens,
// are solved one after another in groups of one. O(manifolds); nothing is allocated once warm.
#pragma once

#include "solve/aligned.h"
#include "solve/contact_kernels.h"
#include "solve/impacts.h"

#include <array>
#include <span>
#include <vector>

namespace astasis::solve {

template<int Dim> class ContactGroups {
public:
    explicit ContactGroups(simd::InstructionSet set);

    // Takes over the manifolds of `which`, whose bodies stand at `rows`; row 0 is that of all that never
    // moves.
    void begin(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
               std::span<const std::uint32_t> which, std::span<const std::uint32_t> rows,
               std::size_t row_count, const Tuning& tuning, float seconds);
    // Geometry where the bodies are now; the points that may meet within the substep go to `suspects`.
    void refresh(const BodyRows& rows, std::span<const flow::Manifold<Dim>> manifolds,
                 std::vector<Suspect>& suspects);
    void warm_start(const BodyRows& rows);
    void solve(const BodyRows& rows, bool with_feedback);
    void finish();
    // Impulses so far into the manifolds, as forces; for impacts within the substep, or at the end of the
    // tick.
    void give_forces(std::span<flow::Manifold<Dim>> manifolds) const;
    void end(std::span<flow::Manifold<Dim>> manifolds) const;

private:
    struct Place {
        std::uint32_t manifold, slot;
    };
    // Lanes side by side or one alone.
    struct Part {
        const ContactKernels<Dim>* kernels = nullptr;
        Floats floats;
        std::vector<Place> places; // of its manifolds: group and lane
        int groups = 0;

        float& at(std::uint32_t slot, int field);
        float at(std::uint32_t slot, int field) const;
        void set_int(std::uint32_t slot, int field, int value);
        void set(std::uint32_t slot, int field, const Vec<Dim>& v);
    };
    void colour(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                std::span<const std::uint32_t> which, std::size_t row_count,
                std::span<const std::uint32_t> rows);
    void place(Part& part, std::size_t first_class, std::size_t classes);
    void fill(Part& part, const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
              std::span<const std::uint32_t> rows);
    template<typename Each> void for_each_part(const Each& each);

    Tuning tuning_{};
    float seconds_ = 0;
    Part overflow_, coloured_, fixed_overflow_;
    std::array<std::vector<std::uint32_t>, 2>
        taken_;                          // colours of each row: of manifolds that may give way, of others
    std::vector<std::uint8_t> class_of_; // of each manifold that is taken over
    std::vector<std::uint32_t> sorted_, first_of_, next_; // manifolds by class and falling number of points
    std::vector<Approach> approaches_;
};

extern template class ContactGroups<2>;
extern template class ContactGroups<3>;

}
