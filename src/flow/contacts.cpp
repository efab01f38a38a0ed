#include "flow/contacts.h"

namespace astasis::flow {

template<int Dim>
PointNow<Dim> evaluate(const Manifold<Dim>& m, const ManifoldPoint<Dim>& point, const Bodies<Dim>& bodies) {
    const auto &pose_a = bodies.pose[m.body_a], &pose_b = bodies.pose[m.body_b];
    const Vec<Dim> a = rotate(pose_a.rotation, point.core_a), b = rotate(pose_b.rotation, point.core_b);
    const Vec<Dim> between = (pose_b.centre + b) - (pose_a.centre + a);
    PointNow<Dim> now;
    now.normal = m.guide == Guide::FaceOfA   ? rotate(pose_a.rotation, m.local_normal)
                 : m.guide == Guide::FaceOfB ? rotate(pose_b.rotation, m.local_normal)
                 : m.guide == Guide::Centres ? direction(between, m.normal)
                                             : m.normal;
    now.separation = dot(between, now.normal) - (m.skin_a + m.skin_b);
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
