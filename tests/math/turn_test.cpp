#include "math/turn.h"

#include "math/inertia.h"
#include "math/numbers.h"
#include "support/dims.h"

#include <Eigen/Geometry>

namespace astasis {
namespace {

using test::Numbers;

Eigen::Vector3d to_eigen(Vec3 v) { return {v.x, v.y, v.z}; }
Eigen::Matrix3d to_eigen(const math::Sym3& m) {
    Eigen::Matrix3d out;
    out << m.xx, m.xy, m.xz, m.xy, m.yy, m.yz, m.xz, m.yz, m.zz;
    return out;
}
Eigen::Quaterniond to_eigen(Rotation<3> r) { return {r.w, r.x, r.y, r.z}; }

TEST(Turn, RotatingInSpaceAgreesWithMatrices) {
    Numbers n(1);
    for (int i = 0; i < 10000; i++) {
        const Rotation<3> a = n.rotation(Vec3{}), b = n.rotation(Vec3{});
        const Vec3 v = n.vec<3>(-2, 2);
        const Eigen::Vector3d want =
            to_eigen(a).toRotationMatrix() * (to_eigen(b).toRotationMatrix() * to_eigen(v));
        ASSERT_LT((to_eigen(rotate(a * b, v)) - want).norm(), 3e-6);
        ASSERT_LT(length(rotate_back(a, rotate(a, v)) - v), 3e-6f);
    }
}

TEST(Turn, TurnedByAnAngularVectorIsTheRotationAboutIt) {
    Numbers n(2);
    for (int i = 0; i < 10000; i++) {
        const Rotation<3> r = n.rotation(Vec3{});
        const Vec3 w = n.vec<3>(-3, 3), v = n.vec<3>(-1, 1);
        const Eigen::Vector3d want =
            Eigen::AngleAxisd(to_eigen(w).norm(), to_eigen(w).normalized()) * (to_eigen(r) * to_eigen(v));
        ASSERT_LT((to_eigen(rotate(math::turned_by(r, w), v)) - want).norm(), 2e-6);
    }
}

TEST(Turn, AThousandTurnsInThePlaneComeBack) {
    Rotation<2> r;
    const int parts = 24000;
    for (int i = 0; i < parts; i++) r = math::turned_by(r, static_cast<float>(2000 * M_PI / parts));
    EXPECT_NEAR(angle_of(r).in_radians(), 0, 4e-3); // the float angle of a part is off by 4e-8 of itself
    EXPECT_NEAR(math::norm_squared(r), 1, 2e-7);
}

TEST(Turn, TensorsTurnAndInvertLikeMatrices) {
    Numbers n(3);
    for (int i = 0; i < 10000; i++) {
        const Rotation<3> r = n.rotation(Vec3{});
        const Vec3 d{n.f(0.1, 5), n.f(0.1, 5), n.f(0.1, 5)};
        const math::Sym3 m = math::turned_tensor({d.x, 0, 0, d.y, 0, d.z}, r);
        const Eigen::Matrix3d turn = to_eigen(r).toRotationMatrix();
        const Eigen::Matrix3d want = turn * to_eigen(d).asDiagonal() * turn.transpose();
        ASSERT_LT((to_eigen(m) - want).norm(), 1e-5);
        ASSERT_LT((to_eigen(math::inverse(m)) * want - Eigen::Matrix3d::Identity()).norm(), 2e-4);
    }
    EXPECT_EQ(math::inverse(math::Sym3{}), math::Sym3{});
}

TEST(Turn, TangentsMakeARightHandedFrame) {
    Numbers n(4);
    for (int i = 0; i < 10000; i++) {
        const Vec3 normal = direction(n.vec<3>(-1, 1), Vec3{0, 0, -1});
        const auto [s, t] = math::tangents(normal);
        ASSERT_NEAR(dot(cross(s, t), normal), 1, 1e-5);
        ASSERT_NEAR(dot(s, t), 0, 1e-6);
        ASSERT_NEAR(dot(s, normal), 0, 1e-6);
    }
}

TEST(Turn, BlendsGoTheShortWay) {
    const Rotation<2> a = turned(degrees(170)), b = turned(degrees(-170));
    EXPECT_NEAR(std::fabs(angle_of(math::blended(a, b, 0.5f)).in_degrees()), 180, 1e-4);
    const Rotation<3> c = turned(degrees(20), {0, 1, 0}), d = turned(degrees(60), {0, 1, 0});
    EXPECT_NEAR(angle_of(math::blended(c, d, 0.25f)).in_degrees(), 30, 1e-4);
    const Rotation<3> minus{-d.w, -d.x, -d.y, -d.z}; // the same turn
    EXPECT_NEAR(angle_of(math::blended(c, minus, 0.25f)).in_degrees(), 30, 1e-4);
}

TEST(Turn, AngleAndAxisAreChecked) {
    EXPECT_EQ(test::error_of([] { turned(radians(NAN)); }).field(), "angle");
    EXPECT_EQ(test::error_of([] { turned(degrees(30), {0, 0, 0}); }).field(), "axis");
    EXPECT_NEAR(angle_of(turned(degrees(30), {0, 0, 8})).in_degrees(), 30, 1e-5);
}

TEST(Numbers, SumsKeepWhatAFloatCannotHold) {
    float value = 0, rest = 0;
    for (int i = 0; i < 1000000; i++) math::add_exactly(value, rest, 1e-3);
    EXPECT_NEAR(static_cast<double>(value) + rest, 1000, 1e-6);
}

}
}
