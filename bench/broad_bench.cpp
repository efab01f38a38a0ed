// The broad phase and the queries, warm: pairs of moving boxes, levels that stand still, rays and casts.
//
// Each crowd is verified before it is timed: the pairs against all pairs, rays against every shape. Printed
// beside the times: nodes looked at and boxes put anew for each moving box and tick. docs/performance.md has
// the figures. With --fattening it prints a sweep of how fat boxes are instead.
#include "astasis/astasis.h"
#include "broad/pair_finder.h"

#include <benchmark/benchmark.h>

#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <memory>

namespace {

using namespace astasis;

class Random {
public:
    double in(double low, double high) {
        state_ = state_ * 6364136223846793005u + 1442695040888963407u;
        return low + (high - low) * static_cast<double>(state_ >> 11) * 0x1p-53;
    }
    template<int Dim> Vec<Dim> vec(double low, double high) {
        Vec<Dim> v{};
        for (int k = 0; k < Dim; k++) v[k] = static_cast<float>(in(low, high));
        return v;
    }

private:
    std::uint64_t state_ = 88172645463325252u;
};

// Boxes about 1 m wide that fly about in a cube with room of about 3 m for each in the plane, 2 m in space;
// the first `still` of them stand.
template<int Dim> class Crowd {
public:
    Crowd(int count, int still, broad::Fattening fattening = {}, double speed = 5) : still_(still) {
        index_.set_fattening(fattening);
        side_ = (Dim == 2 ? 3 : 2) * std::pow(count, 1.0 / Dim);
        colliders_.resize(static_cast<std::size_t>(count));
        velocity_.resize(colliders_.size());
        index_.reserve(colliders_.size());
        for (std::uint32_t i = 0; i < colliders_.size(); i++) {
            auto& c = colliders_[i];
            const Point<Dim> at = Point<Dim>{} + random_.vec<Dim>(0, side_);
            const Vec<Dim> half = random_.vec<Dim>(0.3, 0.7);
            c.key = c.body = i, c.spec = &spec_, c.thickness = 1;
            c.bounds = {at - half, at + half};
            const bool moves = static_cast<int>(i) >= still;
            motions_.push_back(moves ? Motion::Dynamic : Motion::Static);
            velocity_[i] = random_.vec<Dim>(-speed, speed);
            if (moves) moving_.push_back(i);
            foresee(c, i);
            index_.put(i, c, moves);
        }
    }

    void move() {
        for (const std::uint32_t i : moving_) {
            auto& c = colliders_[i];
            const Vec<Dim> way = velocity_[i] * kTick;
            for (int k = 0; k < Dim; k++) {
                if ((c.bounds.low[k] < 0 && way[k] < 0) || (c.bounds.high[k] > side_ && way[k] > 0))
                    velocity_[i][k] = -velocity_[i][k];
                c.bounds.low[k] += velocity_[i][k] * kTick, c.bounds.high[k] += velocity_[i][k] * kTick;
            }
            foresee(c, i);
        }
    }
    const std::vector<flow::Pair>& find() {
        finder_.find(colliders_, motions_, moving_, index_, pairs_);
        return pairs_;
    }

    std::size_t all_pairs() const {
        std::size_t count = 0;
        for (std::size_t i = 0; i < colliders_.size(); i++) {
            const Bounds<Dim> a = flow::reached(colliders_[i]);
            for (std::size_t j = i + 1; j < colliders_.size(); j++) {
                const Bounds<Dim> b = flow::reached(colliders_[j]);
                bool meet = motions_[i] == Motion::Dynamic || motions_[j] == Motion::Dynamic;
                for (int k = 0; k < Dim; k++) meet = meet && a.high[k] >= b.low[k] && b.high[k] >= a.low[k];
                count += meet;
            }
        }
        return count;
    }
    std::size_t visits() const { return finder_.visits(); }
    std::size_t puts() const { return index_.puts(); }
    double moving() const { return static_cast<double>(moving_.size()); }

private:
    static constexpr float kTick = 1.0f / 60;

    void foresee(flow::Collider<Dim>& c, std::uint32_t i) const {
        const bool moves = static_cast<int>(i) >= still_;
        c.drift = moves ? velocity_[i] * kTick : Vec<Dim>{};
        c.slack = 0.02f;
    }

    Random random_;
    ShapeSpec<Dim> spec_{Ball<Dim>{0.5f}};
    int still_;
    double side_;
    std::vector<flow::Collider<Dim>> colliders_;
    std::vector<Vec<Dim>> velocity_;
    std::vector<Motion> motions_;
    std::vector<std::uint32_t> moving_;
    std::vector<flow::Pair> pairs_;
    broad::BoxIndex<Dim> index_;
    broad::PairFinder<Dim> finder_;
};

template<int Dim> void pairs(benchmark::State& state) {
    const auto count = static_cast<int>(state.range(0)), still = static_cast<int>(state.range(1));
    Crowd<Dim> crowd(count, still);
    for (int i = 0; i < 20; i++) crowd.move(), crowd.find();
    if (count <= 10000 && crowd.find().size() != crowd.all_pairs()) {
        state.SkipWithError("not the pairs that all pairs finds");
        return;
    }
    std::size_t visits = 0, found = 0;
    const std::size_t puts = crowd.puts();
    for (auto _ : state) {
        state.PauseTiming();
        crowd.move();
        state.ResumeTiming();
        found = crowd.find().size();
        visits += crowd.visits();
    }
    const auto ticks = static_cast<double>(state.iterations());
    const double moves = std::max(1.0, crowd.moving()) * ticks;
    state.counters["pairs"] = static_cast<double>(found);
    state.counters["visits/mover"] = static_cast<double>(visits) / moves;
    state.counters["puts/mover"] = static_cast<double>(crowd.puts() - puts) / moves;
    state.counters["visits/put"] =
        static_cast<double>(visits) / std::max(1.0, static_cast<double>(crowd.puts() - puts));
}

template<int Dim> void all_pairs(benchmark::State& state) {
    const Crowd<Dim> crowd(static_cast<int>(state.range(0)), 0);
    for (auto _ : state) benchmark::DoNotOptimize(crowd.all_pairs());
}

template<int Dim> void load(benchmark::State& state) {
    for (auto _ : state) {
        Crowd<Dim> crowd(static_cast<int>(state.range(0)), static_cast<int>(state.range(0)));
        benchmark::DoNotOptimize(crowd.find().size());
    }
}

// A level of balls and boxes that stand still, in a world.
template<int Dim> Box<Dim> cube();
template<> Box<2> cube() { return Box2::sized(1, 1); }
template<> Box<3> cube() { return Box3::sized(1, 1, 1); }

template<int Dim> struct Level {
    World<Dim> world;
    double side;
    explicit Level(int count, Motion motion = Motion::Static) : side(3 * std::pow(count, 1.0 / Dim)) {
        Random random;
        world.reserve(static_cast<std::size_t>(count), static_cast<std::size_t>(count));
        for (int i = 0; i < count; i++) {
            const Geometry<Dim> shape =
                i % 2 == 0 ? Geometry<Dim>{Ball<Dim>{0.5f}} : Geometry<Dim>{cube<Dim>()};
            world.add({.motion = motion,
                       .pose = {Point<Dim>{} + random.vec<Dim>(0, side), {}},
                       .shapes = {{shape}}});
        }
        world.step();
    }
};

template<int Dim> void rays(benchmark::State& state) {
    const Level<Dim> level(static_cast<int>(state.range(0)));
    Random random;
    std::vector<Ray<Dim>> all;
    for (int i = 0; i < 1000; i++)
        all.push_back({Point<Dim>{} + random.vec<Dim>(0, level.side), random.vec<Dim>(-15, 15)});
    std::vector<std::optional<Hit<Dim>>> hits;
    for (int i = 0; i < 20; i++) { // against every shape
        std::optional<double> best;
        for (const BodyId id : level.world.bodies()) {
            const auto hit = ray_cast<Dim>(level.world.shapes(id)[0].geometry, level.world.pose(id),
                                           all[i].from, all[i].displacement);
            if (hit && (!best || hit->fraction < *best)) best = hit->fraction;
        }
        const auto first = first_hit(level.world, all[i]);
        if (first.has_value() != best.has_value() || (first && std::fabs(first->fraction - *best) > 1e-9)) {
            state.SkipWithError("not the first hit");
            return;
        }
    }
    for (auto _ : state) first_hits<Dim>(level.world, all, hits);
    state.SetItemsProcessed(state.iterations() * 1000);
}

template<int Dim> void casts(benchmark::State& state) {
    const Level<Dim> level(static_cast<int>(state.range(0)));
    Random random;
    const Geometry<Dim> shape = cube<Dim>();
    for (auto _ : state) {
        const Pose<Dim> from{Point<Dim>{} + random.vec<Dim>(0, level.side), {}};
        benchmark::DoNotOptimize(first_impact(level.world, shape, from, random.vec<Dim>(-15, 15)));
    }
    state.SetItemsProcessed(state.iterations());
}

template<int Dim> void overlaps(benchmark::State& state) {
    const Level<Dim> level(static_cast<int>(state.range(0)));
    Random random;
    const Geometry<Dim> shape = cube<Dim>();
    std::vector<Found<Dim>> found;
    for (auto _ : state)
        overlapping(level.world, shape, Pose<Dim>{Point<Dim>{} + random.vec<Dim>(0, level.side), {}}, found);
    state.SetItemsProcessed(state.iterations());
}

// A whole tick in which nothing can move.
template<int Dim> void still_tick(benchmark::State& state) {
    Level<Dim> level(static_cast<int>(state.range(0)));
    for (auto _ : state) level.world.step();
}

// ms a tick for each margin and look ahead, at three speeds; the best of five.
template<int Dim> void sweep_fattening() {
    std::printf("%s, 10000 boxes of about 1 m: ms a tick at 0.1, 1 and 5 m/s\n",
                Dim == 2 ? "plane" : "space");
    for (const float margin : {0.02f, 0.05f, 0.1f, 0.2f, 0.4f})
        for (const float ahead : {0.0f, 2.0f, 4.0f, 8.0f, 16.0f}) {
            std::printf("margin %4.2f ahead %4.0f ", margin, ahead);
            for (const double speed : {0.1, 1.0, 5.0}) {
                Crowd<Dim> crowd(10000, 0, {margin, ahead}, speed);
                for (int i = 0; i < 30; i++) crowd.move(), crowd.find();
                double least = 1e9;
                for (int i = 0; i < 5; i++) {
                    double sum = 0;
                    for (int k = 0; k < 20; k++) {
                        crowd.move();
                        const auto from = std::chrono::steady_clock::now();
                        crowd.find();
                        sum +=
                            std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - from)
                                .count();
                    }
                    least = std::min(least, sum / 20);
                }
                std::printf("%8.3f", least);
            }
            std::printf("\n");
        }
}

void with_counts(benchmark::internal::Benchmark* b) {
    b->ArgNames({"boxes", "still"})->Args({1000, 0})->Args({10000, 0})->Args({100000, 0});
    b->Args({100000, 99999})->Args({100000, 100000});
    b->Unit(benchmark::kMicrosecond);
}

}

#define ASTASIS_BENCH(Dim)                                                                                   \
    BENCHMARK(pairs<Dim>)->Apply(with_counts);                                                               \
    BENCHMARK(all_pairs<Dim>)->Arg(1000)->Arg(10000)->Unit(benchmark::kMicrosecond);                         \
    BENCHMARK(load<Dim>)->Arg(100000)->Unit(benchmark::kMillisecond);                                        \
    BENCHMARK(still_tick<Dim>)->Arg(1000)->Arg(100000);                                                      \
    BENCHMARK(rays<Dim>)->Arg(1000)->Arg(100000)->Unit(benchmark::kMicrosecond);                             \
    BENCHMARK(casts<Dim>)->Arg(100000)->Unit(benchmark::kMicrosecond);                                       \
    BENCHMARK(overlaps<Dim>)->Arg(100000)->Unit(benchmark::kMicrosecond);
ASTASIS_BENCH(2)
ASTASIS_BENCH(3)

int main(int argc, char** argv) {
    if (argc > 1 && std::strcmp(argv[1], "--fattening") == 0) {
        sweep_fattening<2>();
        sweep_fattening<3>();
        return 0;
    }
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
}
