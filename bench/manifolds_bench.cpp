// Nanoseconds of each manifold routine, warm, on shapes in shallow contact. Each pair is verified before it
// is timed: swapped it gives the mirrored answer, and moving by the depth separates.
#include "narrow/touch.h"

#include <benchmark/benchmark.h>

#include <array>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <string>

namespace {

using namespace astasis;
using narrow::Frame;
using narrow::Touch;
using narrow::Toucher;

template<int Dim> struct Named {
    const char* name;
    Geometry<Dim> geometry;
};

std::vector<Named<2>> plane_shapes() {
    return {{"circle", Circle{0.5f}},
            {"capsule", Capsule2{{-0.4f, 0}, {0.4f, 0}, 0.3f}},
            {"box", Box2::sized(1, 0.8f)},
            {"rounded_box", Box2::sized(1, 0.8f).rounded(0.1f)},
            {"polygon8", Polygon{{{0.5f, -0.2f},
                                  {0.5f, 0.2f},
                                  {0.2f, 0.5f},
                                  {-0.2f, 0.5f},
                                  {-0.5f, 0.2f},
                                  {-0.5f, -0.2f},
                                  {-0.2f, -0.5f},
                                  {0.2f, -0.5f}}}},
            {"segment", Segment{{-0.5f, 0}, {0.5f, 0.1f}}}};
}
std::vector<Named<3>> space_shapes() {
    std::vector<Vec3> ball;
    for (int i = 0; i < 24; i++) {
        const float y = 1 - 2 * (static_cast<float>(i) + 0.5f) / 24, r = std::sqrt(1 - y * y),
                    a = 2.399963f * static_cast<float>(i);
        ball.push_back(Vec3{r * std::cos(a), y, r * std::sin(a)} * 0.5f);
    }
    return {{"sphere", Sphere{0.5f}},
            {"capsule", Capsule3{{-0.4f, 0, 0}, {0.4f, 0, 0}, 0.3f}},
            {"box", Box3::sized(1, 0.8f, 0.9f)},
            {"rounded_box", Box3::sized(1, 0.8f, 0.9f).rounded(0.1f)},
            {"hull24", Hull::around(ball)},
            {"cylinder", Cylinder{{0, -0.4f, 0}, {0, 0.4f, 0}, 0.5f}}};
}
TileGrid tiles() { return {100, 2, 0.25f, std::vector<std::uint8_t>(200, 1)}; }
HeightField ground() { return {40, 40, 0.25f, std::vector<float>(1600, 0.0f)}; }

template<int Dim> float deepest(std::span<const Touch<Dim>> touches) {
    float least = 1e9f;
    for (const auto& t : touches)
        for (int i = 0; i < t.count; i++)
            least = std::min(least, t.points[static_cast<std::size_t>(i)].separation);
    return least;
}

Rotation<2> askew(Vec2) { return turned(degrees(7)); }
Rotation<3> askew(Vec3) { return turned(degrees(7), {1, 2, 0.5f}); }

// b above a, a hundredth of a metre deep.
template<int Dim>
Frame<Dim> resting(Toucher<Dim>& toucher, const Geometry<Dim>& a, const Geometry<Dim>& b, float across,
                   float away) {
    Frame<Dim> at{{across, 3}, askew(Vec<Dim>{})};
    at.position[Dim - 1] += Dim == 3 ? away : 0;
    for (int k = 0; k < 4; k++) {
        const auto touches = toucher.touch(a, {}, b, at, 10);
        if (touches.empty()) break;
        at.position += touches[0].normal * (-0.01f - deepest<Dim>(touches));
    }
    return at;
}

template<int Dim>
void bench_pair(const std::string& name, const Geometry<Dim>& a, const Geometry<Dim>& b, float across = 0.05f,
                float away = 0) {
    Toucher<Dim> toucher;
    const Frame<Dim> at = resting(toucher, a, b, across, away);
    const float depth = deepest<Dim>(toucher.touch(a, {}, b, at, 0.05f));
    const Vec<Dim> normal = toucher.touch(a, {}, b, at, 0.05f)[0].normal;
    const float swapped = deepest<Dim>(toucher.touch(b, at, a, {}, 0.05f));
    Frame<Dim> freed = at;
    freed.position += normal * (1e-3f - depth);
    const auto after = toucher.touch(a, {}, b, freed, 0.05f);
    const float left = after.empty() ? 1.0f : deepest<Dim>(after);
    if (!(std::fabs(depth + 0.01f) < 2e-3f) || !(std::fabs(swapped - depth) < 1e-4f) || !(left > -1e-4f)) {
        std::printf("%s is wrong: depth %g, swapped %g, after moving out %g\n", name.c_str(), double{depth},
                    double{swapped}, double{left});
        std::exit(1);
    }
    benchmark::RegisterBenchmark(((Dim == 2 ? "plane/" : "space/") + name).c_str(),
                                 [a, b, at](benchmark::State& state) {
                                     Toucher<Dim> warm;
                                     for (auto step : state) {
                                         (void)step;
                                         benchmark::DoNotOptimize(warm.touch(a, {}, b, at, 0.05f).data());
                                     }
                                 });
}

template<int Dim>
void bench_all(const std::vector<Named<Dim>>& shapes, const std::vector<Named<Dim>>& grounds) {
    for (std::size_t i = 0; i < shapes.size(); i++)
        for (std::size_t k = i; k < shapes.size(); k++)
            bench_pair<Dim>(std::string(shapes[i].name) + "_" + shapes[k].name, shapes[i].geometry,
                            shapes[k].geometry);
    for (const auto& g : grounds)
        for (const auto& s : shapes)
            if (Dim == 3 || std::string(s.name) != "segment")
                bench_pair<Dim>(std::string(g.name) + "_" + s.name, g.geometry, s.geometry, 4.03f);
}

}

int main(int argc, char** argv) {
    const std::array<Vec2, 2> line{Vec2{20, 0}, Vec2{-1, 0}};
    bench_all<2>(plane_shapes(),
                 {{"half_plane", HalfPlane{}}, {"polyline", Polyline::open(line)}, {"tiles", tiles()}});
    bench_all<3>(space_shapes(), {{"half_space", HalfSpace<3>{}}});
    for (const auto& s : space_shapes()) // over the middle of the field
        bench_pair<3>(std::string("height_field_") + s.name, HeightField(ground()), s.geometry, 4.03f, 4.1f);
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
