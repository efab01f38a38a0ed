#include "flow/contacts.h"

namespace astasis::flow {
namespace {

// From a rim's middle to where it reaches farthest along n. The axis's part is taken away twice: where n is
// nearly along it, the first time leaves digits of it (Gram-Schmidt: Giraud et al. 2005, Numer. Math. 101,
// 87).
template<int Dim> Vec<Dim> reached(const Rim<Dim>& rim, const Rotation<Dim>& rotation, Vec<Dim> n) {
    const Vec<Dim> axis = rotate(rotation, rim.axis);
    const Vec<Dim> across = direction(n - axis * dot(n, axis), Vec<Dim>{});
    return direction(across - axis * dot(across, axis), Vec<Dim>{}) * rim.radius;
}

}

template<int Dim>
PointNow<Dim> evaluate(const Manifold<Dim>& m, const ManifoldPoint<Dim>& point, const Bodies<Dim>& bodies) {
    const auto &pose_a = bodies.pose[m.body_a], &pose_b = bodies.pose[m.body_b];
    Vec<Dim> a = rotate(pose_a.rotation, point.core_a), b = rotate(pose_b.rotation, point.core_b);
    Vec<Dim> between = (pose_b.centre + b) - (pose_a.centre + a);
    PointNow<Dim> now;
    now.normal = m.guide == Guide::FaceOfA   ? rotate(pose_a.rotation, m.local_normal)
                 : m.guide == Guide::FaceOfB ? rotate(pose_b.rotation, m.local_normal)
                 : m.guide == Guide::Centres ? direction(between, m.normal)
                                             : m.normal;
    if (m.rim_a.radius > 0) a += reached(m.rim_a, pose_a.rotation, now.normal);
    if (m.rim_b.radius > 0) b -= reached(m.rim_b, pose_b.rotation, now.normal);
    if (m.rim_a.radius > 0 || m.rim_b.radius > 0) between = (pose_b.centre + b) - (pose_a.centre + a);
    const float along = dot(between, now.normal);
    now.separation = along - (m.skin_a + m.skin_b);
    // Both levers end at one place, also when the bodies have slid on since the manifold was found: the one
    // that the face passes under.
    const Vec<Dim> aside = between - now.normal * along;
    if (m.guide == Guide::FaceOfA) a += aside;
    else if (m.guide == Guide::FaceOfB) b -= aside;
    else a += aside * 0.5f, b -= aside * 0.5f;
    // Across a gap each body's lever ends at its own surface, as it will when they meet; in overlap both end
    // midway between the surfaces, at one place, so that angular momentum is kept.
    const float overlap = now.separation < 0 ? 0.5f * now.separation : 0.0f;
    now.arm_a = (a + now.normal * m.skin_a) + now.normal * overlap;
    now.arm_b = (b - now.normal * m.skin_b) - now.normal * overlap;
    return now;
}

template PointNow<2> evaluate(const Manifold<2>&, const ManifoldPoint<2>&, const Bodies<2>&);
template PointNow<3> evaluate(const Manifold<3>&, const ManifoldPoint<3>&, const Bodies<3>&);

}
