// The part of a shape below a level, against sampling and in closed form.
#include "shape/submerged.h"

#include "astasis/queries.h"
#include "shape/measure.h"
#include "support/dims.h"

namespace astasis {
namespace {

template<typename T> class SubmergedTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(SubmergedTest, test::Dimensions);

template<int D> using InDim = std::integral_constant<int, D>;
std::vector<Geometry<2>> some_shapes(InDim<2>) {
    return {Circle{0.5f}, Box2::sized(1, 0.6f), Capsule2{{-0.4f, 0.1f}, {0.3f, -0.2f}, 0.25f},
            Polygon{{{-0.5f, -0.3f}, {0.6f, -0.4f}, {0.3f, 0.5f}}, 0.05f}};
}
std::vector<Geometry<3>> some_shapes(InDim<3>) {
    return {Sphere{0.5f}, Box3::sized(1, 0.6f, 0.4f), Capsule3{{-0.4f, 0.1f, 0}, {0.3f, -0.2f, 0.1f}, 0.25f},
            Cylinder{{0, -0.3f, 0}, {0, 0.4f, 0}, 0.3f}, Box3::sized(0.8f, 0.6f, 0.7f).rounded(0.1f)};
}

TYPED_TEST(SubmergedTest, AgreesWithSampling) {
    constexpr int D = TypeParam::value;
    test::Numbers n(D);
    for (const Geometry<D>& shape : some_shapes(InDim<D>{}))
        for (int k = 0; k < 4; k++) {
            ShapeSpec<D> spec{shape};
            spec.placement = {n.vec<D>(-0.3, 0.3), n.rotation(Vec<D>{})};
            const Pose<D> body{{n.in(-1, 1), n.in(-1, 1)}, n.rotation(Vec<D>{})};
            const Pose<D> at{to_world(body, spec.placement.position),
                             body.rotation * spec.placement.rotation};
            const Bounds<D> box = bounds_of<D>(shape, at);
            const double level = box.low.y + n.in(0.3, 0.9) * (box.high.y - box.low.y);
            // On a grid of points.
            constexpr int kSide = D == 2 ? 400 : 70;
            double inside = 0, cell = 1;
            std::array<double, D> sum{};
            for (int i = 0; i < D; i++) cell *= (box.high[i] - box.low[i]) / kSide;
            const int all = D == 2 ? kSide * kSide : kSide * kSide * kSide;
            for (int i = 0; i < all; i++) {
                Point<D> p;
                int rest = i;
                for (int a = 0; a < D; a++, rest /= kSide)
                    p[a] = box.low[a] + (rest % kSide + 0.5) * (box.high[a] - box.low[a]) / kSide;
                if (p.y > level || !contains<D>(shape, at, p)) continue;
                inside += cell;
                for (int a = 0; a < D; a++) sum[static_cast<std::size_t>(a)] += p[a] * cell;
            }
            math::Wide<D> place;
            for (int a = 0; a < D; a++) place[a] = body.position[a];
            typename shape::Hulk<D>::Room room;
            const auto found = shape::Hulk<D>(spec).below(math::turn_of(body.rotation), place, level, room);
            ASSERT_NEAR(found.content, inside, 0.015 * shape::measure(shape).content)
                << "shape " << shape.index();
            for (int a = 0; a < D; a++)
                EXPECT_NEAR(found.centre[a], sum[static_cast<std::size_t>(a)] / inside, 0.01)
                    << "shape " << shape.index();
        }
}

TYPED_TEST(SubmergedTest, AllOrNothing) {
    constexpr int D = TypeParam::value;
    typename shape::Hulk<D>::Room room;
    for (const Geometry<D>& shape : some_shapes(InDim<D>{})) {
        const shape::Hulk<D> hulk(ShapeSpec<D>{shape});
        const auto turn = math::turn_of(Rotation<D>{});
        const double whole = shape::measure(shape).content;
        EXPECT_NEAR(hulk.below(turn, {}, 5, room).content, whole, 1e-5 * whole);
        EXPECT_NEAR(hulk.below(turn, {}, -5, room).content, 0, 1e-9);
    }
}

}
}
