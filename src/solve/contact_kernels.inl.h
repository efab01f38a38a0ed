// Impulses of the substep before, over the number type T, and the table of kernels. Included after
// contact_solve.inl.h.
#pragma once

template<int D, typename T> ASTASIS_LANES bool some_bear(const Group<D, T>& g, int points) {
    T sum(0.0f);
    for (int i = 0; i < points; i++) sum = sum + g.number(Layout<D>::point(i) + Layout<D>::kPush);
    return any(sum > T(0.0f));
}

template<int D, typename T> void warm_start(const GroupFloats& groups, int count, const BodyRows& rows) {
    using L = Layout<D>;
    for (int k = 0; k < count; k++) {
        const Group<D, T> g(groups, k);
        const int points = g.most_points();
        if (!some_bear(g, points)) continue;
        const Axes<D, T> axes = axes_of(g.vector(L::kNormal));
        Vector<D, T> impulse = axes.n - axes.n;
        Turning<D, T> torque_a = axes.turn_to(no_turning(axes.n)), torque_b = torque_a;
        const FrictionLevers<D, T> levers(g);
        for (int i = 0; i < points; i++) {
            const int p = L::point(i);
            const Vector<D, T> ra = g.vector(p + L::kArmA), rb = g.vector(p + L::kArmB);
            const T j = g.number(p + L::kPush);
            const Across<D, T> drag = read_along(g, p + L::kAlong);
            impulse = impulse + all_of(j, drag);
            torque_a = torque_a + (normal_torque(ra, j) + across_torque(levers.of_a(ra), drag));
            torque_b = torque_b + (normal_torque(rb, j) + across_torque(levers.of_b(rb), drag));
        }
        if (g.has_rare()) {
            const Turning<D, T> turning = axes.turn_to(g.cold.turning(L::kTurning));
            torque_a = torque_a + turning, torque_b = torque_b + turning;
        }
        give(g, rows, axes.from(impulse), axes.turn_from(g.inertia(L::kInertiaA) * -torque_a),
             axes.turn_from(g.inertia(L::kInertiaB) * torque_b),
             load_velocity<D, T>(rows.velocity, g.body_a()), load_velocity<D, T>(rows.velocity, g.body_b()));
    }
}

template<int D, typename T>
constexpr ContactKernels<D> kKernels{NumberType<T>::kCount, refresh<D, T>, warm_start<D, T>, solve<D, T>};
