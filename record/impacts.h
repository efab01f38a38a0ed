// The impacts of a run: when and where bodies met that had not touched in the tick before.
#pragma once

#include "astasis/queries.h"
#include "scene/scene.h"

#include <set>
#include <string>
#include <tuple>
#include <vector>

namespace astasis::record {

template<int Dim> struct ImpactEntry {
    double time = 0; // s
    BodyId first, second;
    std::uint32_t first_shape = 0, second_shape = 0;
    Point<Dim> position{};
    Vec<Dim> normal{};  // from the first to the second
    Vec<Dim> impulse{}; // what the first gave the second in that tick, N s
    bool exact = false; // time, place and normal are those of the meeting; else those at the tick's end
};

// Asked after each tick. Of swept bodies the world tells; any other meeting is found by sweeping both shapes
// from their poses before the tick with their velocities then: exact where nothing else acted on them within
// the tick but gravity, which counts by its mean.
template<int Dim> class Impacts {
public:
    // Before the first tick and after each.
    void tick(const World<Dim>& world);
    const std::vector<ImpactEntry<Dim>>& all() const { return all_; }

private:
    struct Before {
        Vec<Dim> velocity{};
        Axial<Dim> angular{};
    };
    void add(const World<Dim>& world, const Contact<Dim>& contact);
    void add(const World<Dim>& world, const SweptImpact<Dim>& swept);
    Moving<Dim> moving(const World<Dim>& world, BodyId id, std::uint32_t shape) const;

    using Key = std::tuple<std::uint32_t, std::uint32_t, std::uint32_t, std::uint32_t>;
    std::vector<Before> before_; // by index of the body's id
    std::set<Key> touching_;
    std::vector<ImpactEntry<Dim>> all_;
};

// As CSV, and as a table for a terminal.
template<int Dim> std::string impacts_csv(const scene::Made<Dim>& made, const Impacts<Dim>& impacts);
template<int Dim> std::string impacts_table(const scene::Made<Dim>& made, const Impacts<Dim>& impacts);

extern template class Impacts<2>;
extern template class Impacts<3>;

}
