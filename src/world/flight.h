// Bodies that fly far within a tick: from impact to impact, each brought to where it first meets something,
// turned back there, and sent on with the rest of the time.
//
// Each flyer has a time of its own and goes on straight from there, turning; gravity and other accelerations
// are in the mean velocity of its way. The earliest impact of all comes next. What is hit and does not fly
// takes its share of the blow at once, and moves with it in the solver. But what is pressed by the blow
// against something that holds it cannot be told apart from that, nor is what the solver stops where its
// velocity would have it: there the flyer's way ends, and both meet in the solver, from where they touch.
// So do those that go on together time after time: in a crowd such meetings would never end. In the end a
// flyer stops short of what the solver has turned into its way since that was foreseen, or makes room for it.
#pragma once

#include "astasis/function_ref.h"
#include "astasis/queries.h"
#include "world/state.h"

#include <algorithm>

namespace astasis {

template<int Dim> class World<Dim>::State::Flight {
public:
    // Finds who flies, and lets them fly. O(bodies) where none does.
    void fly(State& state);
    bool any() const { return count_ > 0; }
    // Whether some body now stands where it met something, for the solver to go on with.
    bool handed_over() const {
        return std::any_of(flyers_.begin(), flyers_.begin() + static_cast<std::ptrdiff_t>(count_),
                           [](const Flyer& f) { return f.handed_over; });
    }
    // Whether what two bodies are to each other in this tick is found here.
    bool takes(const State& s, std::uint32_t a, std::uint32_t b) const {
        return count_ > 0 && (passes(s, a, b) || passes(s, b, a));
    }
    // After solving: flyers are where they flew.
    void land(State& state);
    std::span<const SweptImpact<Dim>> impacts() const { return impacts_; }
    // Calls visit(share of the tick, its centre of mass) for each impact of a body that flew on, in the order
    // of time.
    template<typename Visit> void for_each_impact(BodyId id, double tick, const Visit& visit) const {
        auto i = std::lower_bound(met_.begin(), met_.end(), Met{id.index, 0});
        for (; i != met_.end() && i->index == id.index; ++i) {
            const SweptImpact<Dim>& impact = impacts_[i->impact];
            visit(impact.time / tick, impact.body == id ? impact.centre : impact.other_centre);
        }
    }
    // What slept and was hit, to be woken with the velocity that it was given.
    std::span<const BodyId> struck_sleepers() const { return struck_sleepers_; }

private:
    struct Flyer {
        std::uint32_t place = 0;
        double time = 0;                      // of the tick, at which the rest stands
        flow::CentrePose<Dim> pose{}, from{}; // from: where it was at its last impact, or when the tick began
        double since = 0;                     // and when
        Vec<Dim> velocity{}, mean{}, acceleration{}; // mean: over the rest of the tick
        Axial<Dim> spin{};
        std::vector<flow::Pair> pairs; // its collider first
        double next = 0;               // time of its next impact, beyond the tick if there is none
        flow::Pair met{};
        Impact<Dim> impact{};
        int count = 0, clung = 0; // of impacts so far, and of those after which both went on together
        bool flies = false, halted = false;     // has met something; goes no farther
        bool handed_over = false, left = false; // to the solver: where it met something, where it began
        bool made_room = false;
    };
    struct Met { // a body, by its id's index, and an impact
        std::uint32_t index = 0, impact = 0;
        friend bool operator<(const Met& a, const Met& b) {
            return a.index != b.index ? a.index < b.index : a.impact < b.impact;
        }
    };
    struct Two { // a flyer and what it meets, as a world of their own
        flow::Bodies<Dim> bodies;
        std::vector<flow::Collider<Dim>> colliders;
        std::vector<flow::Pair> pairs;
        std::vector<flow::Manifold<Dim>> before, manifolds;
        std::vector<flow::Velocity<Dim>> gained;
        std::vector<math::Inertia<Dim>> inverse_inertia;
        std::vector<solve::Suspect> suspects;
        float nearest = 0; // of their points, m; negative in overlap
        flow::ContactLists lists;
    };

    bool passes(const State& s, std::uint32_t i, std::uint32_t other) const {
        const auto k = flyer_of_[i];
        return flies(i) && (flyers_[k - 1].flies || looks_at(s, i, other));
    }
    bool flies(std::uint32_t i) const { // and the solver does not have it
        const auto k = flyer_of_[i];
        return k != 0 && !flyers_[k - 1].handed_over && !flyers_[k - 1].left;
    }
    void sort_by_keys(const State& s, std::vector<flow::Pair>& list) const {
        const auto key = [&](const flow::Pair& p) {
            return std::pair{s.colliders[p.a].key, s.colliders[p.b].key};
        };
        std::sort(list.begin(), list.end(),
                  [&](const flow::Pair& p, const flow::Pair& q) { return key(p) < key(q); });
    }
    void find_flyers(State& s);
    bool goes_far(const State& s, std::uint32_t i, const flow::Velocity<Dim>& v) const;
    bool goes_far_past(const State& s, const flow::Pair& pair) const; // the first of the two
    bool leans(const State& s, std::uint32_t i) const;
    float reach_along(const State& s, std::uint32_t i, const Rotation<Dim>& rotation,
                      const Vec<Dim>& d) const;
    bool keeps_near(const State& s, std::uint32_t i, const Vec<Dim>& v, const Vec<Dim>& arm,
                    const Vec<Dim>& d) const;
    bool rams(const State& s, std::uint32_t i) const;
    void start(State& s, std::uint32_t i);
    bool looks_at(const State& s, std::uint32_t i, std::uint32_t other) const;
    flow::Velocity<Dim> way_of(const State& s, std::uint32_t body) const;
    flow::CentrePose<Dim> pose_at(const State& s, std::uint32_t body, double time) const;
    Pose<Dim> placed(const State& s, std::uint32_t collider, const flow::CentrePose<Dim>& at) const;
    Moving<Dim> moving(const State& s, std::uint32_t collider, double time) const;
    Moving<Dim> moving(const State& s, std::uint32_t collider, const flow::CentrePose<Dim>& from,
                       const flow::Velocity<Dim>& v) const;
    static flow::CentrePose<Dim> gone(const flow::CentrePose<Dim>& from, const flow::Velocity<Dim>& v,
                                      double time);
    static flow::Velocity<Dim> way_between(const flow::CentrePose<Dim>& from,
                                           const flow::CentrePose<Dim>& to);
    bool is_held(const State& s, std::uint32_t i, const flow::Velocity<Dim>& v) const;
    bool is_stopped(const State& s, std::uint32_t i, double now);
    void predict(const State& s, Flyer& f);
    void look_for(const State& s, Flyer& f, FunctionRef<bool(std::uint32_t)> is_asked);
    void foretell_others(const State& s, std::size_t which, std::uint32_t other, double now);
    void advance(Flyer& f, double time) const;
    static void go_back(Vec<Dim>& velocity, const Vec<Dim>& acceleration, const Vec<Dim>& back);
    void set_mean(Flyer& f) const;
    void list_met(const State& s);
    void hand_over(const State& s, Flyer& f, std::uint32_t other);
    void visit_near(const State& s, std::uint32_t collider, const Bounds<Dim>& reach, std::uint32_t partner,
                    FunctionRef<void(std::uint32_t)> visit) const;
    float clear_share(const State& s, std::uint32_t place, const flow::CentrePose<Dim>& from,
                      const flow::Velocity<Dim>& way, std::uint32_t partner,
                      FunctionRef<flow::CentrePose<Dim>(std::uint32_t)> pose_of) const;
    double clear_before(const State& s, const Flyer& f, const Vec<Dim>& v, std::uint32_t partner) const;
    void leave_together(State& s, std::size_t which, std::uint32_t other, const flow::Velocity<Dim>& mine,
                        const flow::Velocity<Dim>& others);
    void leave_to_solver(Flyer& f, const Vec<Dim>& way) const;
    bool clings(const State& s, const Flyer& f, std::uint32_t other, const flow::Velocity<Dim>& mine,
                const flow::Velocity<Dim>& others) const;
    void leave_unmet(const State& s);
    void find_near(const State& s, const Flyer& f);
    bool make_room(State& s, Flyer& f);
    void put_back(State& s, const Flyer& f) const;
    void hit(State& s, std::size_t which);
    void find_meeting(const State& s, const Flyer& f);
    bool is_alone(const State& s, std::uint32_t i) const;
    static broad::Box<Dim> box_ahead(const State& s, std::uint32_t collider, const flow::CentrePose<Dim>& at,
                                     const flow::Velocity<Dim>& way, double left);
    void look_at(const State& s, Flyer& f, const Flyer& other) const;
    void look_around(const State& s, Flyer& f);
    void send_on(State& s, std::uint32_t body, const flow::Velocity<Dim>& v, double now);
    void set_two(const State& s, std::uint32_t place, const flow::CentrePose<Dim>& pose,
                 const flow::Velocity<Dim>& v, std::size_t k);
    void pair_two(const State& s, const Flyer& f, std::uint32_t other, float near);
    flow::Velocity<Dim> velocity_of(const State& s, std::uint32_t body) const;

    // A way past another body, longer than this share of its own smallest width within a tick, may lead a
    // body through it.
    static constexpr float kFar = 0.5f;
    // What is nearer than this share of a body's width touches it.
    static constexpr float kTouches = 0.02f;
    // After an impact a body stands off by this share of its size, so that the same touch is not found again.
    static constexpr float kStandOff = 4e-5f;
    // Of the search for an impact; then it is taken to be there, which moves a body that only comes close off
    // a little.
    static constexpr int kMostSteps = 200;

    double tick_ = 0;
    std::vector<Flyer> flyers_;
    std::size_t count_ = 0; // of flyers_, which keep their room
    // By place: 1 + index, 0 for none; while they are being found, whether it may or must be one.
    static constexpr std::uint32_t kMay = ~std::uint32_t{0}, kMust = kMay - 1;
    std::vector<std::uint32_t> flyer_of_;
    std::vector<std::uint8_t> turned_; // by place: whether the solver may turn it
    std::vector<flow::Pair> near_;
    std::vector<SweptImpact<Dim>> impacts_;
    std::vector<Met> met_; // of those bodies of impacts_ that fly on, sorted
    std::vector<BodyId> struck_sleepers_;
    Two two_;
    narrow::ManifoldFinder<Dim> finder_;
    solve::Impacts<Dim> collider_;
};

}
