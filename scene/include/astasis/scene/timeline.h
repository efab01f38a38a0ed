// The time line of a scene: what it does before each tick.
#pragma once

#include "astasis/scene/random.h"
#include "astasis/scene/scene.h"

namespace astasis::scene {

struct Deed {         // that was done
    const char* what; // "spawned", "removed", "kicked", "velocity set" and so on
    std::string name; // of the body, the material or the joint
};

template<int Dim> class Timeline {
public:
    Timeline(const Scene<Dim>& scene, const Document& document);
    // What is due at the start of the tick that comes, in the order of the file; crossings are those that the
    // world told of in the last one. Throws FileError with the entry's place for what the library refuses.
    void before_tick(Made<Dim>& made);
    // Whether a body of that name may be spawned.
    bool may_make(const std::string& name) const;
    bool empty() const { return running_.empty(); }
    const std::vector<Deed>& deeds() const { return deeds_; } // of the last call

private:
    struct Running {
        Action<Dim> action;
        std::string place; // in the file
        Random random;
        double next = 0;         // s
        std::uint64_t times = 0; // that it was done
        int made = 0;            // bodies
    };
    void run(Running& r, Made<Dim>& made);
    void answer(Running& r, const std::vector<Crossing>& crossings, Made<Dim>& made);
    bool act(Running& r, Made<Dim>& made, std::optional<BodyId> by);
    std::vector<BodyId> meant(const Made<Dim>& made, const std::string& name, std::optional<BodyId> by) const;
    bool act(Running& r, const Spawn<Dim>& spawn, Made<Dim>& made, std::optional<BodyId> by);
    bool act(Running& r, const Removal& removal, Made<Dim>& made, std::optional<BodyId> by);
    bool act(Running& r, const Kick<Dim>& kick, Made<Dim>& made, std::optional<BodyId> by);
    bool act(Running& r, const NewVelocity<Dim>& velocity, Made<Dim>& made, std::optional<BodyId> by);
    bool act(Running& r, const NewMaterial& material, Made<Dim>& made, std::optional<BodyId> by);
    bool act(Running& r, const NewGravity<Dim>& gravity, Made<Dim>& made, std::optional<BodyId> by);
    bool act(Running& r, const NewMotor& motor, Made<Dim>& made, std::optional<BodyId> by);

    std::vector<Running> running_;
    std::vector<Deed> deeds_;
};

// Makes the bodies of an entry; the numbers in their names go on from `made_before`, which is counted on.
template<int Dim>
void add_entry(const BodyEntry<Dim>& entry, Random& random, bool numbered, int& made_before, Made<Dim>& made);
// The specs of the bodies of an entry, in the order of its grid.
template<int Dim> std::vector<BodySpec<Dim>> specs_of(const BodyEntry<Dim>& entry, Random& random);
// Whether a name is the one asked for, or of its grid: "parcel.3" is of "parcel".
bool is_of(const std::string& name, const std::string& asked);

extern template class Timeline<2>;
extern template class Timeline<3>;

}
