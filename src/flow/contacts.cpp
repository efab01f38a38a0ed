#include "flow/contacts.h"

namespace astasis::flow {

// The axis's part is taken away twice: where n is nearly along it, the first time leaves digits of it
// (Gram-Schmidt: Giraud et al. 2005, Numer. Math. 101, 87).
template<int Dim> Vec<Dim> reached(const Rim<Dim>& rim, const Rotation<Dim>& rotation, Vec<Dim> n) {
    const Vec<Dim> axis = rotate(rotation, rim.axis);
    const Vec<Dim> across = direction(n - axis * dot(n, axis), Vec<Dim>{});
    return direction(across - axis * dot(across, axis), Vec<Dim>{}) * rim.radius;
}

template<int Dim>
PointNow<Dim> evaluate(const Manifold<Dim>& m, const ManifoldPoint<Dim>& point, const CentrePose<Dim>& pose_a,
                       const CentrePose<Dim>& pose_b) {
    const Facing<Dim> f = facing(m, rotate(pose_a.rotation, point.core_a),
                                 rotate(pose_b.rotation, point.core_b), pose_a, pose_b);
    // Both levers end at one place, also when the bodies have slid on since the manifold was found: the one
    // that the face passes under.
    Vec<Dim> a = f.core_a, b = f.core_b;
    const Vec<Dim> aside = f.between - f.normal * dot(f.between, f.normal);
    if (m.guide == Guide::FaceOfA) a += aside;
    else if (m.guide == Guide::FaceOfB) b -= aside;
    else a += aside * 0.5f, b -= aside * 0.5f;
    // Across a gap each body's lever ends at its own surface, as it will when they meet; in overlap both end
    // midway between the surfaces, at one place, so that angular momentum is kept.
    const float overlap = f.separation < 0 ? 0.5f * f.separation : 0.0f;
    return {f.normal, f.separation, (a + f.normal * m.skin_a) + f.normal * overlap,
            (b - f.normal * m.skin_b) - f.normal * overlap};
}

template Vec2 reached(const Rim<2>&, const Rotation<2>&, Vec2);
template Vec3 reached(const Rim<3>&, const Rotation<3>&, Vec3);
template PointNow<2> evaluate(const Manifold<2>&, const ManifoldPoint<2>&, const CentrePose<2>&,
                              const CentrePose<2>&);
template PointNow<3> evaluate(const Manifold<3>&, const ManifoldPoint<3>&, const CentrePose<3>&,
                              const CentrePose<3>&);

}
