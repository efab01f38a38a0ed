#include "broad/pair_finder.h"

#include "support/dims.h"

#include <set>

namespace astasis {
namespace {

using test::Numbers;

template<typename T> class PairFinderTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(PairFinderTest, test::Dimensions);

using Keys = std::vector<std::pair<std::uint64_t, std::uint64_t>>;

// A crowd of boxes that live, move, jump and die, with its index and what all pairs say of it.
template<int D> class Crowd {
public:
    explicit Crowd(std::uint64_t seed) : n_(seed) {
        for (int i = 0; i < 60; i++) add();
    }

    void add() {
        const auto i = static_cast<std::uint32_t>(colliders_.size());
        colliders_.emplace_back();
        motions_.push_back(Motion::Static);
        specs_.push_back(std::make_unique<ShapeSpec<D>>(ShapeSpec<D>{Ball<D>{1}}));
        fill(i);
    }

    // One tick's edits; what is dynamic or kinematic drifts.
    void edit() {
        for (std::uint32_t i = 0; i < colliders_.size(); i++) {
            auto& c = colliders_[i];
            const double what = n_.in(0, 1);
            if (c.spec == nullptr) {
                if (what < 0.2) fill(i);
            } else if (what < 0.01) {
                index_.take(i);
                c = {};
            } else if (what < 0.02) { // a jump
                place(c);
                index_.put(i, c, moves(i));
            } else if (what < 0.03) {
                change_layers(i);
                index_.put(i, c, moves(i));
            } else if (moves(i)) {
                c.drift = velocity_[i];
                c.bounds.low = c.bounds.low + c.drift, c.bounds.high = c.bounds.high + c.drift;
                index_.keep(i, c, true);
                if (n_.in(0, 1) < 0.05) velocity_[i] = n_.template vec<D>(-0.2, 0.2);
            }
        }
    }

    Keys found() {
        std::vector<std::uint32_t> moving;
        for (std::uint32_t i = 0; i < colliders_.size(); i++)
            if (colliders_[i].spec != nullptr && moves(i)) moving.push_back(i);
        finder_.find(colliders_, motions_, moving, index_, pairs_);
        return keys();
    }
    Keys by_all_pairs() const {
        std::set<std::pair<std::uint64_t, std::uint64_t>> out;
        for (const auto& a : colliders_)
            for (const auto& b : colliders_) {
                if (a.spec == nullptr || b.spec == nullptr || !(a.key < b.key) || a.body == b.body) continue;
                if (motions_[a.body] != Motion::Dynamic && motions_[b.body] != Motion::Dynamic) continue;
                const bool layers =
                    (a.spec->layers & b.spec->collides_with) && (b.spec->layers & a.spec->collides_with);
                const bool grouped = a.spec->group > 0 && a.spec->group == b.spec->group;
                const auto p = flow::reached(a), q = flow::reached(b);
                bool meet = layers && !grouped;
                for (int k = 0; k < D; k++) meet = meet && !(p.high[k] < q.low[k]) && !(q.high[k] < p.low[k]);
                if (meet) out.insert({a.key, b.key});
            }
        return {out.begin(), out.end()};
    }

private:
    Keys keys() const {
        Keys out;
        for (const auto& p : pairs_) out.push_back({colliders_[p.a].key, colliders_[p.b].key});
        return out;
    }
    // Two colliders a body.
    bool moves(std::uint32_t i) const { return motions_[i / 2] != Motion::Static; }

    void fill(std::uint32_t i) {
        auto& c = colliders_[i];
        // A key that is not in the order of the places.
        c.key = (next_key_++ * 7919) % 1000003;
        c.body = i / 2;
        c.spec = specs_[i].get();
        if (i % 2 == 0) motions_[i / 2] = static_cast<Motion>(static_cast<int>(n_.in(0, 2.999)));
        velocity_.resize(colliders_.size());
        velocity_[i] = n_.template vec<D>(-0.2, 0.2);
        place(c);
        change_layers(i);
        index_.put(i, c, moves(i));
        if (i % 2 == 0 && i + 1 < colliders_.size() && colliders_[i + 1].spec != nullptr)
            index_.put(i + 1, colliders_[i + 1], moves(i + 1));
    }
    void place(flow::Collider<D>& c) {
        const Point<D> at = Point<D>{} + n_.template vec<D>(-3, 3);
        const bool endless = n_.in(0, 1) < 0.03;
        const Vec<D> half = endless ? test::all<D>(INFINITY) : n_.template vec<D>(0.05, 0.8);
        c.bounds = {at - half, at + half};
        c.slack = n_.f(0, 0.1);
    }
    void change_layers(std::uint32_t i) {
        auto& s = *specs_[i];
        s.layers = n_.in(0, 1) < 0.5 ? 1 : 2 + 8;
        s.collides_with = n_.in(0, 1) < 0.8 ? ~0ull : 2 + 4;
        s.group = n_.in(0, 1) < 0.7 ? 0 : 5;
    }

    Numbers n_;
    std::vector<flow::Collider<D>> colliders_;
    std::vector<std::unique_ptr<ShapeSpec<D>>> specs_;
    std::vector<Motion> motions_;
    std::vector<Vec<D>> velocity_;
    std::uint64_t next_key_ = 1;
    broad::BoxIndex<D> index_;
    broad::PairFinder<D> finder_;
    std::vector<flow::Pair> pairs_;
};

TYPED_TEST(PairFinderTest, FindsWhatAllPairsFindThroughAThousandTicksOfEdits) {
    Crowd<TypeParam::value> crowd(7);
    std::size_t seen = 0;
    for (int tick = 0; tick < 1000; tick++) {
        if (tick % 25 == 0) crowd.add();
        crowd.edit();
        const Keys got = crowd.found();
        ASSERT_TRUE(std::is_sorted(got.begin(), got.end()));
        ASSERT_EQ(got, crowd.by_all_pairs()) << "tick " << tick;
        seen += got.size();
    }
    EXPECT_GT(seen, 50000u);
}

TYPED_TEST(PairFinderTest, WhatStandsStillIsLeftAlone) {
    constexpr int D = TypeParam::value;
    std::vector<flow::Collider<D>> colliders(500);
    const ShapeSpec<D> spec{Ball<D>{1}};
    std::vector<Motion> motions(500, Motion::Dynamic);
    std::vector<std::uint32_t> moving;
    broad::BoxIndex<D> index;
    broad::PairFinder<D> finder;
    for (std::uint32_t i = 0; i < 500; i++) {
        auto& c = colliders[i];
        c.key = c.body = i, c.spec = &spec, c.slack = 0.01f;
        const Point<D> at = Point<D>{} + Vec<D>{0.9f * static_cast<float>(i)};
        c.bounds = {at - test::all<D>(0.5f), at + test::all<D>(0.5f)};
        index.put(i, c, true);
        moving.push_back(i);
    }
    std::vector<flow::Pair> pairs;
    finder.find(colliders, motions, moving, index, pairs);
    EXPECT_EQ(pairs.size(), 499u);
    EXPECT_GT(finder.visits(), 0u);
    const std::size_t puts = index.puts();
    for (auto& c : colliders) c.bounds.low = c.bounds.low + test::all<D>(0.01f); // a tremble
    finder.find(colliders, motions, moving, index, pairs);
    EXPECT_EQ(pairs.size(), 499u);
    EXPECT_EQ(finder.visits(), 0u);
    EXPECT_EQ(index.puts(), puts);
}

}
}
