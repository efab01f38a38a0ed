// This program writes the sweep behind MoverSpec::skin: random walks among 60 crates that lie about, 2000
// moves of 20 seeds, and a walk up stairs, at one skin after the other.
#include <astasis/astasis.h>

#include <algorithm>
#include <cstdint>
#include <cstdio>
#include <vector>

namespace {

using namespace astasis;

class Numbers {
public:
    explicit Numbers(std::uint64_t seed) : state_(seed * 2862933555777941757u + 3037000493u) {}
    float in(float low, float high) {
        state_ = state_ * 6364136223846793005u + 1442695040888963407u;
        return low + (high - low) * static_cast<float>(state_ >> 40) * 0x1p-24f;
    }

private:
    std::uint64_t state_;
};

template<int D> Geometry<D> block(float x, float y, float z) {
    if constexpr (D == 2) return Box2::sized(x, y);
    else return Box3::sized(x, y, z);
}
template<int D> Capsule<D> figure() { return {{0, -0.5f}, {0, 0.5f}, 0.3f}; }

template<int D> World<D> crates(Numbers& n) {
    World<D> world;
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<D>{}}}});
    for (int k = 0; k < 60; k++) {
        Pose<D> pose{{n.in(-5, 5), n.in(0, 1.5f)}, {}};
        const float side = n.in(0.2f, 1);
        if constexpr (D == 2) pose.rotation = turned(radians(n.in(-3, 3)));
        else {
            pose.position.z = n.in(-5, 5);
            pose.rotation = turned(radians(n.in(-3, 3)), {n.in(-1, 1), n.in(-1, 1), 1});
        }
        world.add({.motion = Motion::Static, .pose = pose, .shapes = {{block<D>(side, side, side)}}});
    }
    return world;
}

struct Tally {
    int inside = 0, back = 0; // moves that end in something; that go against the will
};
template<int D> void walk_about(float skin, std::uint64_t seed, Tally& tally) {
    Numbers n(seed);
    World<D> world = crates<D>(n);
    Mover<D> mover({.shape = figure<D>(), .skin = skin}, {0, 6});
    std::vector<Found<D>> found;
    Vec<D> way{};
    for (int k = 0; k < 2000; k++) {
        if (k % 20 == 0) {
            for (int i = 0; i < D; i++) way[i] = n.in(-4, 4);
            way.y = n.in(-5, 3);
        }
        const Point<D> before = mover.position();
        mover.move(world, way);
        Vec<D> gone = mover.position() - before, wanted = way;
        gone.y = wanted.y = 0;
        tally.back += dot(gone, wanted) < -1e-3f;
        overlapping<D>(world, figure<D>(), {mover.position()}, found);
        tally.inside += !found.empty();
    }
}

// Six metres with twenty steps of 17 by 29 cm: seconds, and ticks off its feet.
template<int D> void climb(float skin, double& seconds, int& falling) {
    World<D> world;
    world.add({.motion = Motion::Static, .shapes = {{HalfSpace<D>{}}}});
    for (int k = 1; k <= 20; k++) {
        const float high = 0.17f * static_cast<float>(k);
        world.add({.motion = Motion::Static,
                   .pose = {Point<D>{1 + 0.29 * k, 0.5 * static_cast<double>(high)}},
                   .shapes = {{block<D>(0.29f, high, 3)}}});
    }
    Mover<D> mover({.shape = figure<D>(), .skin = skin}, {0, 0.8 + static_cast<double>(skin)});
    for (seconds = falling = 0; mover.position().x < 6 && seconds < 60; seconds += world.settings().tick) {
        mover.move(world, {1.5f, -3});
        falling += !mover.standing();
    }
}

template<int D> void tell(float skin) {
    Tally tally;
    for (std::uint64_t seed = 1; seed <= 20; seed++) walk_about<D>(skin, seed, tally);
    double seconds = 0;
    int falling = 0;
    climb<D>(skin, seconds, falling);
    std::printf("| %g | %s | %d | %d | %.2f | %d |\n", static_cast<double>(skin), D == 2 ? "plane" : "space",
                tally.inside, tally.back, seconds, falling);
}

}

int main() {
    std::puts(
        "| skin, m | | moves of 40,000 that end in something | that go against the will | s up the stairs | "
        "ticks of them off its feet |");
    std::puts("|---|---|---|---|---|---|");
    for (const float skin : {0.0003f, 0.001f, 0.003f, 0.01f, 0.03f, 0.1f}) tell<2>(skin), tell<3>(skin);
}
