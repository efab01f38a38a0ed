// The contacts of a tick as the kernels want them: in groups of manifolds that write to different bodies.
//
// Manifolds get colours, greedily in their order, so that no two of a colour share a body that can be moved;
// the lanes of a group are of one colour. What rests on a body that nothing moves is solved last in a pass:
// that is what cannot give way. Manifolds for which no colour is left, those of a body that touches dozens,
// are solved one after another in groups of one. O(manifolds); nothing is allocated once warm.
#pragma once

#include "solve/aligned.h"
#include "solve/colours.h"
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
    // moves. `loads` are what manifolds bear for certain, as masses, all of them; `gravity` is their weight.
    void begin(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
               std::span<const std::uint32_t> which, std::span<const std::uint32_t> rows,
               std::size_t row_count, std::span<const float> loads, const Vec<Dim>& gravity,
               const Tuning& tuning, float seconds);
    // Geometry where the bodies are now; the points that may meet within the substep go to `suspects`.
    void refresh(const BodyRows& rows, std::span<const flow::Manifold<Dim>> manifolds,
                 std::vector<Suspect>& suspects);
    // The same for some manifolds, and no suspects.
    void refresh_some(const BodyRows& rows, std::span<const flow::Manifold<Dim>> manifolds,
                      std::span<const std::uint32_t> which);
    void warm_start(const BodyRows& rows);
    void solve(const BodyRows& rows, Pass pass);
    // The impulses of manifold `k` so far, as forces.
    void give_forces(flow::Manifold<Dim>& manifold, std::uint32_t k) const;
    // At the end of a tick, of `which` as in begin().
    void end(std::span<flow::Manifold<Dim>> manifolds, std::span<const std::uint32_t> which) const;

private:
    struct Place {
        std::uint32_t manifold, slot;
    };
    // Lanes side by side or one alone.
    struct Part {
        const ContactKernels<Dim>* kernels = nullptr;
        Floats hot, cold;
        std::vector<Place> places;       // of its manifolds: group and lane
        std::vector<std::uint8_t> fresh; // by group: whether refresh_some() has been there
        int groups = 0;

        int lanes() const { return kernels->lanes; }
        float* hot_at(std::uint32_t slot);
        float* cold_at(std::uint32_t slot);
        GroupFloats from(std::uint32_t group) {
            const std::uint32_t slot = group * static_cast<std::uint32_t>(lanes());
            return {hot_at(slot), cold_at(slot)};
        }
    };
    struct PlaceOf {
        std::uint32_t part, slot;
    };
    enum : std::uint32_t { kOverflowing, kColoured, kFixedOverflowing, kParts }; // in the order of solving
    void colour(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
                std::span<const std::uint32_t> which, std::size_t row_count,
                std::span<const std::uint32_t> rows);
    void place(std::uint32_t part, std::size_t first_class, std::size_t classes);
    void clear(Part& part);
    void fill(Part& part, const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds,
              std::span<const std::uint32_t> rows, std::span<const float> loads, const Vec<Dim>& gravity);
    template<typename Lane>
    void fill_cold(const Lane& cold, const flow::Manifold<Dim>& m, const flow::Bodies<Dim>& bodies) const;
    bool turns(const flow::Bodies<Dim>& bodies, std::uint32_t body) const;
    template<typename Lane>
    void fill_impulses(const Lane& hot, const flow::Manifold<Dim>& m, const Vec<Dim>& normal) const;
    template<typename Lane>
    Vec<Dim> drag(const Lane& hot, const std::array<Vec<Dim>, Dim - 1>& across, int point) const;
    template<typename Each> void for_each_part(const Each& each);
    void judge(Part& part, std::uint32_t first, int found, std::span<const flow::Manifold<Dim>> manifolds,
               std::vector<Suspect>* suspects);

    Tuning tuning_{};
    float seconds_ = 0;
    bool is_first_ = true; // of the refreshes since begin()
    mutable std::array<Part, kParts> parts_;
    std::vector<PlaceOf> place_of_; // by manifold; those that were taken over
    Colours colours_;
    std::vector<std::uint8_t> class_of_;                  // of each manifold that is taken over
    std::vector<std::uint32_t> sorted_, first_of_, next_; // manifolds by class and falling number of points
    std::vector<Approach> approaches_;
};

extern template class ContactGroups<2>;
extern template class ContactGroups<3>;

}
