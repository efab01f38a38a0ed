// The contacts of a tick as the kernels want them: in groups of manifolds that write to different bodies.
//
// Manifolds get colours, greedily in their order, so that no two of a colour share a body that can be moved;
// the lanes of a group are of one colour. What rests on a body that nothing moves is solved last in a pass:
// that is what cannot give way. Manifolds for which no colour is left, those of a body that touches dozens,
// are solved one after another in groups of one. O(manifolds); nothing is allocated once warm.
#pragma once

#include "flow/edges.h"
#include "solve/aligned.h"
#include "solve/colours.h"
#include "solve/contact_kernels.h"
#include "solve/impacts.h"

#include <array>
#include <bit>
#include <span>
#include <vector>

namespace astasis::solve {

// A point that may meet within the substep.
struct Found {
    std::uint32_t manifold, point;
    Closing closing;
};

// The fields of one lane.
struct Lane {
    float* first;
    std::ptrdiff_t stride;

    float& operator[](int field) const { return first[field * stride]; }
    void set_int(int field, int value) const { (*this)[field] = std::bit_cast<float>(value); }
    template<int Dim> Vec<Dim> vector(int field) const {
        Vec<Dim> out;
        for (int k = 0; k < Dim; k++) out[k] = (*this)[field + k];
        return out;
    }
    template<int Dim> void set(int field, const Vec<Dim>& v) const {
        for (int k = 0; k < Dim; k++) (*this)[field + k] = v[k];
    }
};

// The fields of one manifold.
template<int Dim> struct Slot {
    std::array<float, static_cast<std::size_t>(Layout<Dim>::kHotFields)> hot{};
    std::array<float, static_cast<std::size_t>(Layout<Dim>::kColdFields)> cold{};
};

template<int Dim> class ContactGroups {
public:
    explicit ContactGroups(simd::InstructionSet set);

    struct Input {
        const flow::Bodies<Dim>& bodies;
        const std::vector<flow::Manifold<Dim>>& manifolds;
        std::span<const flow::Edge> edges;    // of those at the start of the tick
        std::span<const std::uint32_t> which; // the manifolds to be solved
        std::span<const std::uint32_t> rows;  // of bodies, by place; row 0 is that of all that never moves
        std::size_t row_count;
        std::span<const float> loads, softness; // by manifold: masses known to weigh on it; Tuning::softness
        Vec<Dim> gravity;
    };
    void begin(const Input& input, const Tuning& tuning, float seconds);
    // Geometry where the bodies are now. Points that may meet within the substep go to `found`, in the order
    // of the manifolds.
    void refresh(const BodyRows& rows, std::vector<Found>& found);
    // The same for some manifolds, within the same substep.
    void refresh_some(const BodyRows& rows, std::span<const std::uint32_t> which, std::vector<Found>& found);
    // Of the points found: those that meet within the substep go to `candidates`, or bounce in the passes
    // where exactness is not asked for; those that meet later have room to come as far as they will.
    // Those that passes serve go to `to_passes` too, if it is asked for.
    void classify(std::span<const flow::Manifold<Dim>> manifolds, std::span<const Found> found,
                  std::vector<ImpactCandidate>* candidates, std::vector<Found>* to_passes);
    // The impulses of manifold `k` so far go to the manifold, before it is found anew.
    void hand_over(flow::Manifold<Dim>& manifold, std::uint32_t k) const;
    // Takes over manifold `k` of input.manifolds, which has been found anew, or is new and the last of them;
    // the poses are those at the start of the tick.
    void replace(const Input& input, std::uint32_t k, const flow::CentrePose<Dim>& pose_a,
                 const flow::CentrePose<Dim>& pose_b);
    void append(const Input& input, const flow::CentrePose<Dim>& pose_a, const flow::CentrePose<Dim>& pose_b);
    // Leaves manifold `k` without points until it is replaced.
    void clear(std::uint32_t k);
    void warm_start(const BodyRows& rows);
    void solve(const BodyRows& rows, Pass pass);
    bool has_unconverged() const { return has_unconverged_; }
    // Whether manifold `k` carried a load in the last pass.
    bool bears(std::uint32_t k) const;
    // The impulses of manifold `k` so far, as forces.
    void give_forces(flow::Manifold<Dim>& manifold, std::uint32_t k) const;
    // At the end of a tick, of all that were taken over.
    void end(std::span<flow::Manifold<Dim>> manifolds) const;

private:
    struct Place {
        std::uint32_t manifold, slot;
    };
    // Lanes side by side or one alone.
    struct Part {
        const ContactKernels<Dim>* kernels = nullptr;
        Floats hot, cold;
        std::vector<Place> places;              // of its manifolds, by rising slot
        std::vector<std::uint32_t> manifold_of; // by slot
        std::vector<std::uint8_t> fresh;        // by group: whether refresh_some() has been there
        int groups = 0;

        int lanes() const { return kernels->lanes; }
        static constexpr std::uint32_t kNone = ~std::uint32_t{0}; // the manifold of a slot without one
        float* hot_at(std::uint32_t slot) {
            const auto n = static_cast<std::uint32_t>(lanes());
            return hot.data() + slot / n * Layout<Dim>::kHotFields * n + slot % n;
        }
        float* cold_at(std::uint32_t slot) {
            const auto n = static_cast<std::uint32_t>(lanes());
            return cold.data() + slot / n * Layout<Dim>::kColdFields * n + slot % n;
        }
        GroupFloats from(std::uint32_t group) {
            const std::uint32_t slot = group * static_cast<std::uint32_t>(lanes());
            return {hot_at(slot), cold_at(slot)};
        }
    };
    struct PlaceOf {
        std::uint32_t part, slot;
    };
    enum : std::uint32_t { kOverflowing, kColoured, kFixedOverflowing, kParts }; // in the order of solving
    void colour(const Input& in);
    void place(std::uint32_t part, std::size_t first_class, std::size_t classes);
    void put(Part& part, std::uint32_t slot, const Slot<Dim>& from);
    void clear(Part& part);
    void clear_slot(Part& part, std::uint32_t slot);
    void fill(Part& part, const Input& in);
    void fill_slot(Part& part, std::uint32_t slot, const Input& in, std::uint32_t k,
                   const flow::CentrePose<Dim>& pose_a, const flow::CentrePose<Dim>& pose_b);
    void fill_cold(const Lane& cold, const flow::Manifold<Dim>& m, const flow::CentrePose<Dim>& pose_a,
                   const flow::CentrePose<Dim>& pose_b) const;
    bool turns(const flow::Bodies<Dim>& bodies, std::uint32_t body) const;
    void fill_impulses(const Lane& hot, const flow::Manifold<Dim>& m, const Vec<Dim>& normal) const;
    void fill_bound(const Lane& hot, const Lane& cold, const flow::Manifold<Dim>& m) const;
    Vec<Dim> drag(const Lane& hot, const std::array<Vec<Dim>, Dim - 1>& across, int point) const;
    template<typename Each> void for_each_part(const Each& each);
    void end(flow::Manifold<Dim>& manifold, const Part& part, std::uint32_t slot) const;
    void add_found(const Part& part, std::uint32_t first, int count, std::vector<Found>& found) const;

    Tuning tuning_{};
    float seconds_ = 0;
    bool has_unconverged_ = false;
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
