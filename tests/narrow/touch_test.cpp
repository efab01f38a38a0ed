// Manifolds of boxes, balls and half-spaces in both dimensions against slow oracles in double precision.
#include "narrow/touch_support.h"

namespace astasis {
namespace {

using narrow::Frame;
using narrow::Touch;
using namespace test;

template<int D> Box<D> any_box(Numbers& n) {
    Vec<D> s{};
    for (int i = 0; i < D; i++) s[i] = n.f(0.2, 2);
    return test::box_of(s);
}
template<int D> Frame<D> any_frame(Numbers& n, double range) {
    return {n.template vec<D>(-range, range), n.rotation(Vec<D>{})};
}

// Common to all pairs: unit normal, points that fit their separation, and the mirrored answer for swapped
// shapes.
template<int D>
void check_form(const Geometry<D>& a, const Frame<D>& fa, const Geometry<D>& b, const Frame<D>& fb,
                const Touch<D>& t, float margin) {
    const Touch<D> s = narrow::touch(b, fb, a, fa, margin);
    ASSERT_EQ(s.count > 0, t.count > 0);
    if (t.count == 0) return;
    ASSERT_NEAR(length(t.normal), 1, 1e-5);
    ASSERT_NEAR(deepest(s), deepest(t), D == 2 ? 1e-4 : 4e-3);
    for (int i = 0; i < t.count; i++) {
        const auto& p = t.points[i];
        ASSERT_NEAR(dot(p.core_b - p.core_a, t.normal) - t.skin_a - t.skin_b, p.separation, 2e-5);
        for (int k = 0; k < i; k++) ASSERT_NE(t.points[k].feature, p.feature);
    }
}

template<typename T> class TouchTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(TouchTest, test::Dimensions);

TYPED_TEST(TouchTest, BoxesAgreeWithTheOracle) {
    constexpr int D = TypeParam::value;
    Numbers n(11);
    int overlaps = 0;
    for (int i = 0; i < 20000; i++) {
        const Box<D> a = any_box<D>(n), b = any_box<D>(n);
        const Frame<D> fa = any_frame<D>(n, 0.5);
        Frame<D> fb = any_frame<D>(n, 1.2);
        if (i % 4 == 0) fb.rotation = fa.rotation; // parallel
        const double want = box_separation(a, fa, b, fb);
        const Touch<D> t = narrow::touch(a, fa, b, fb, 0.05f);
        check_form<D>(a, fa, b, fb, t, 0.05f);
        if (want > 0.051) {
            ASSERT_EQ(t.count, 0);
        }
        if (want > -1e-5) continue;
        overlaps++;
        ASSERT_GT(t.count, 0);
        // In space a face is preferred to an edge that is better by up to a hundredth of half the thinnest
        // side.
        ASSERT_NEAR(deepest(t), want, D == 2 ? 1e-4 : 0.011);
        ASSERT_LE(deepest(t), want + 2e-5);
        Frame<D> away = fb;
        away.position += t.normal * (-deepest(t) + 1e-4f);
        ASSERT_GT(box_separation(a, fa, b, away), -2e-5);
    }
    EXPECT_GT(overlaps, 5000);
}

TYPED_TEST(TouchTest, ABoxOnABoxHasTheWholeFace) {
    constexpr int D = TypeParam::value;
    Frame<D> above;
    above.position.y = 1.0f - 0.01f;
    above.position.x = 0.25f;
    const Touch<D> t = narrow::touch(test::cube<D>(1), {}, test::cube<D>(1), above, 0.02f);
    ASSERT_EQ(t.count, flow::kMostPoints<D>);
    EXPECT_NEAR(t.normal.y, 1, 1e-6);
    float left = 1, right = -1;
    for (int i = 0; i < t.count; i++) {
        EXPECT_NEAR(t.points[i].separation, -0.01, 1e-6);
        left = std::min(left, t.points[i].core_b.x), right = std::max(right, t.points[i].core_b.x);
    }
    EXPECT_NEAR(left, -0.25, 1e-5);
    EXPECT_NEAR(right, 0.5, 1e-5);
}

TYPED_TEST(TouchTest, BallsAgreeWithTheOracle) {
    constexpr int D = TypeParam::value;
    Numbers n(12);
    for (int i = 0; i < 20000; i++) {
        const Ball<D> a{n.f(0.001, 1)}, b{n.f(0.001, 1)};
        const Frame<D> fa = any_frame<D>(n, 1), fb = any_frame<D>(n, 1);
        const double want = (to_eigen(fb.position) - to_eigen(fa.position)).norm() - a.radius - b.radius;
        const Touch<D> t = narrow::touch(a, fa, b, fb, 10);
        check_form<D>(a, fa, b, fb, t, 10);
        ASSERT_NEAR(deepest(t), want, 1e-6);
    }
    const Touch<D> same = narrow::touch(Ball<D>{1}, {}, Ball<D>{1}, {}, 0);
    EXPECT_EQ(same.normal.y, 1.0f);
    EXPECT_EQ(deepest(same), -2.0f);
}

// Oracle: the nearest point of a box by clamping in double; inside, the least way out.
template<int D>
double ball_box_separation(const Frame<D>& ball, double radius, const Box<D>& box, const Frame<D>& at) {
    const auto a = axes(at);
    const VecD<D> d = to_eigen(ball.position) - to_eigen(at.position);
    double outside = 0, way_out = 1e300;
    for (std::size_t i = 0; i < D; i++) {
        const double past = std::fabs(a[i].dot(d)) - 0.5 * box.full_size()[static_cast<int>(i)];
        outside += past > 0 ? past * past : 0;
        way_out = std::min(way_out, -past);
    }
    return (outside > 0 ? std::sqrt(outside) : -way_out) - radius;
}

TYPED_TEST(TouchTest, BallsAndBoxesAgreeWithTheOracle) {
    constexpr int D = TypeParam::value;
    Numbers n(13);
    int inside = 0;
    for (int i = 0; i < 20000; i++) {
        const Ball<D> a{n.f(0.01, 0.5)};
        const Box<D> b = any_box<D>(n);
        const Frame<D> fa = any_frame<D>(n, 1), fb = any_frame<D>(n, 0.3);
        const double want = ball_box_separation<D>(fa, a.radius, b, fb);
        const Touch<D> t = narrow::touch(a, fa, b, fb, 10);
        check_form<D>(a, fa, b, fb, t, 10);
        ASSERT_NEAR(deepest(t), want, 3e-6);
        inside += want < -a.radius;
        Frame<D> away = fa;
        away.position -= t.normal * (-deepest(t) + 1e-5f);
        ASSERT_GT(ball_box_separation<D>(away, a.radius, b, fb), -5e-6);
    }
    EXPECT_GT(inside, 1000);
}

TYPED_TEST(TouchTest, HalfSpacesAgreeWithTheOracle) {
    constexpr int D = TypeParam::value;
    Numbers n(14);
    for (int i = 0; i < 20000; i++) {
        const HalfSpace<D> plane{direction(n.template vec<D>(-1, 1), Vec<D>{1, 0})};
        const Frame<D> fp = any_frame<D>(n, 0.5), fb = any_frame<D>(n, 1);
        const VecD<D> out = to_eigen(rotate(fp.rotation, plane.outward)).normalized();
        const Box<D> box = any_box<D>(n);
        double lowest = 1e300;
        for (const auto& c : corners(box, fb)) lowest = std::min(lowest, out.dot(c - to_eigen(fp.position)));
        const Touch<D> t = narrow::touch(box, fb, plane, fp, 10);
        check_form<D>(box, fb, plane, fp, t, 10);
        ASSERT_EQ(t.count, flow::kMostPoints<D>);
        ASSERT_NEAR(deepest(t), lowest, 3e-6);
        ASSERT_LT((to_eigen(t.normal) + out).norm(), 1e-5);

        const Ball<D> ball{n.f(0.01, 1)};
        const double height = out.dot(to_eigen(fb.position) - to_eigen(fp.position)) - ball.radius;
        ASSERT_NEAR(deepest(narrow::touch(ball, fb, plane, fp, 10)), height, 3e-6);
    }
    EXPECT_EQ(narrow::touch(HalfSpace<D>{}, {}, HalfSpace<D>{}, {}, 1).count, 0);
}

// While a box slides by a hair, the points keep their names and move by a hair.
TYPED_TEST(TouchTest, FeaturesStayWhileTheShapesSlide) {
    constexpr int D = TypeParam::value;
    Touch<D> before;
    for (int i = 0; i < 200; i++) {
        Frame<D> above;
        above.position.y = 0.999f;
        above.position.x = 0.1f + 0.001f * static_cast<float>(i);
        above.rotation = test::about_z(radians(1e-5 * std::sin(i)), Vec<D>{});
        const Touch<D> t = narrow::touch(test::cube<D>(1), {}, test::cube<D>(1), above, 0.02f);
        ASSERT_EQ(t.count, flow::kMostPoints<D>);
        for (int k = 0; i > 0 && k < t.count; k++) {
            const auto& p = t.points[k];
            const auto same = std::find_if(before.points.begin(), before.points.end(),
                                           [&](const auto& q) { return q.feature == p.feature; });
            ASSERT_NE(same, before.points.end());
            ASSERT_LT(length(same->core_b - p.core_b), 0.003f);
        }
        before = t;
    }
}

}
}
