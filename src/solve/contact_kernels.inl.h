// Impulses of contacts, over the number type T. Included after contact_geometry.inl.h.
#pragma once

template<int D, typename T> void warm_start(const GroupFloats& groups, int count, const BodyRows& rows) {
    using L = Layout<D>;
    for (int k = 0; k < count; k++) {
        const Group<D, T> g(groups, k);
        const Axes<D, T> axes = axes_of(g.vector(L::kNormal));
        Vector<D, T> impulse = axes.n - axes.n;
        Turning<D, T> torque_a = axes.turn_to(no_turning(axes.n)), torque_b = torque_a;
        const int points = g.most_points();
        for (int i = 0; i < points; i++) {
            const int p = L::point(i);
            const Vector<D, T> ra = g.vector(p + L::kArmA), rb = g.vector(p + L::kArmB);
            const T j = g.number(p + L::kPush);
            const Across<D, T> drag = read_along(g, p + L::kAlong);
            impulse = impulse + all_of(j, drag);
            torque_a = torque_a + (normal_torque(ra, j) + across_torque(ra, drag));
            torque_b = torque_b + (normal_torque(rb, j) + across_torque(rb, drag));
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

// By what a vector has to be multiplied to be no longer than a limit. A limit of 0 leaves nothing, also of
// what is so short that its square is 0.
template<typename T> ASTASIS_LANES T shortening(const T& squared, const T& limit) {
    const auto is_longer = squared > limit * limit;
    const T scale = select(is_longer, limit / root(select(is_longer, squared, T(1.0f))), T(1.0f));
    return select(limit > T(0.0f), scale, T(0.0f));
}

// Friction impulses in Coulomb's disc.
template<typename T> ASTASIS_LANES Across<2, T> limited(const Across<2, T>& j, const T& limit) {
    return {larger(smaller(j.x, limit), -limit)};
}
template<typename T> ASTASIS_LANES Across<3, T> limited(const Across<3, T>& j, const T& limit) {
    const T scale = shortening(j.x * j.x + j.y * j.y, limit);
    return {j.x * scale, j.y * scale};
}
// old - mass * slip; and differences.
template<typename T>
ASTASIS_LANES Across<2, T> slowed(const Across<2, T>& j, const Across<2, T>& slip, const T& mass) {
    return {j.x - mass * slip.x};
}
template<typename T>
ASTASIS_LANES Across<3, T> slowed(const Across<3, T>& j, const Across<3, T>& slip, const T& mass) {
    return {j.x - mass * slip.x, j.y - mass * slip.y};
}
template<typename T> ASTASIS_LANES Across<2, T> sum(const Across<2, T>& a, const Across<2, T>& b) {
    return {a.x + b.x};
}
template<typename T> ASTASIS_LANES Across<3, T> sum(const Across<3, T>& a, const Across<3, T>& b) {
    return {a.x + b.x, a.y + b.y};
}
template<typename T> ASTASIS_LANES Across<2, T> less(const Across<2, T>& a, const Across<2, T>& b) {
    return {a.x - b.x};
}
template<typename T> ASTASIS_LANES Across<3, T> less(const Across<3, T>& a, const Across<3, T>& b) {
    return {a.x - b.x, a.y - b.y};
}
template<typename T, typename M>
ASTASIS_LANES Across<2, T> select(const M& m, const Across<2, T>& a, const Across<2, T>& b) {
    return {select(m, a.x, b.x)};
}
template<typename T, typename M>
ASTASIS_LANES Across<3, T> select(const M& m, const Across<3, T>& a, const Across<3, T>& b) {
    return {select(m, a.x, b.x), select(m, a.y, b.y)};
}

// Of a torque's impulse in contact axes.
template<typename T>
ASTASIS_LANES T limited_turning(const T& impulse, const Axes<2, T>&, const T& rolling, const T&) {
    return larger(smaller(impulse, rolling), -rolling);
}
template<typename T>
ASTASIS_LANES Vector<3, T> limited_turning(const Vector<3, T>& impulse, const Axes<3, T>&, const T& rolling,
                                           const T& spinning) {
    const T scale = shortening(impulse.y * impulse.y + impulse.z * impulse.z, rolling);
    return {larger(smaller(impulse.x, spinning), -spinning), impulse.y * scale, impulse.z * scale};
}

// What resists rolling and spinning, of what a manifold's points bear together.
template<int D, typename T, typename M>
ASTASIS_LANES void resist(const Fields<D, T>& cold, Pair<D, T>& pair, const Axes<D, T>& axes, const T& load,
                          const M& done) {
    using L = Layout<D>;
    const T mass = one_over(trace(pair.inertia_a) + trace(pair.inertia_b));
    const Turning<D, T> kept = cold.turning(L::kTurning), old = axes.turn_to(kept);
    const Turning<D, T> now =
        select(done, old,
               limited_turning(old - (pair.wb - pair.wa) * mass, axes, cold.number(L::kRolling) * load,
                               cold.number(L::kSpinning) * load));
    cold.set_turning(L::kTurning, select(done, kept, axes.turn_from(now)));
    pair.wa = pair.wa - pair.inertia_a * (now - old);
    pair.wb = pair.wb + pair.inertia_b * (now - old);
}

// After the last pass of a substep.
template<int D, typename T>
ASTASIS_LANES void keep(const Group<D, T>& g, const Axes<D, T>& axes, int points) {
    using L = Layout<D>;
    for (int i = 0; i < points; i++) {
        const int p = L::point(i), c = L::cold_point(i);
        const Vector<D, T> friction = axes.from(all_of(T(0.0f), read_along(g, p + L::kAlong)));
        g.cold.set_vector(c + L::kDrag, friction);
        g.cold.set_vector(c + L::kSum,
                          g.cold.vector(c + L::kSum) + (axes.n * g.number(p + L::kPush) + friction));
    }
}

template<int D, typename T>
void solve(const GroupFloats& groups, int count, const BodyRows& rows, const Tuning& tuning, float seconds,
           Pass pass) {
    using L = Layout<D>;
    using N = NumberType<T>;
    const bool with_feedback = pass == Pass::Feedback;
    const T zero(0.0f), one(1.0f), rate(1.0f / seconds), share(tuning.share / seconds),
        leak_of_overlap(with_feedback ? tuning.leak : 0.0f), agreed(tuning.agreed);
    for (int k = 0; k < count; k++) {
        const Group<D, T> g(groups, k);
        const Axes<D, T> axes = axes_of(g.vector(L::kNormal));
        const Velocity<D, T> a = load_velocity<D, T>(rows.velocity, g.body_a()),
                             b = load_velocity<D, T>(rows.velocity, g.body_b());
        Pair<D, T> pair = pair_of(g, axes, a, b);
        const Turning<D, T> wa = pair.wa, wb = pair.wb;
        const bool has_rare = g.has_rare();
        const Across<D, T> surface = across(has_rare ? axes.to(g.cold.vector(L::kSlip)) : axes.n - axes.n);
        const T friction = g.number(L::kFriction), most_push = g.number(L::kMostPush);
        const int points = g.most_points();
        // A manifold with one point needs one round.
        auto done = N::mask(false);
        const auto has_one = points > 1 ? g.number(L::point(1) + L::kGap) == T(L::kNoPoint) : N::mask(true);
        for (int round = 0; round < tuning.rounds; round++) {
            T changed = zero, load = zero;
            for (int i = 0; i < points; i++) {
                const int p = L::point(i);
                const Vector<D, T> ra = g.vector(p + L::kArmA), rb = g.vector(p + L::kArmB);
                const T gap = g.number(p + L::kGap), old = g.number(p + L::kPush);
                const auto apart = gap > zero;
                const T wanted = select(apart, zero - gap * rate,
                                        with_feedback ? smaller(zero - share * gap, most_push) : zero);
                const T leak = select(apart, zero, leak_of_overlap);
                // All that does not hang on velocities stands apart, so that the way from one point to the
                // next is short.
                const T mass = g.number(p + L::kPushMass) * (one - leak);
                const T towards = mass * wanted - leak * old;
                const T least = select(done, zero, -old), most = select(done, zero, T(L::kNoPoint));
                const T change = smaller(larger(towards - mass * pair.speed(ra, rb), least), most);
                pair.push(ra, rb, change);
                const T now = old + change;
                g.set(p + L::kPush, now);
                changed = changed + larger(change, -change);
                load = load + now;
            }
            for (int i = 0; i < points; i++) {
                const int p = L::point(i);
                const Vector<D, T> ra = g.vector(p + L::kArmA), rb = g.vector(p + L::kArmB);
                const Across<D, T> old = read_along(g, p + L::kAlong);
                const Across<D, T> wanted =
                    slowed(old, sum(pair.slip(ra, rb), surface), g.number(p + L::kDragMass));
                const Across<D, T> now =
                    select(done, old, limited(wanted, friction * g.number(p + L::kPush)));
                write_along(g, p + L::kAlong, now);
                pair.drag(ra, rb, less(now, old));
            }
            if (has_rare) resist(g.cold, pair, axes, load, done);
            done = either(done, either(changed <= agreed * load, has_one));
            if (all(done)) break;
        }
        give(g, rows, axes.from(pair.given), axes.turn_from(pair.wa - wa), axes.turn_from(pair.wb - wb), a,
             b);
        if (pass == Pass::Last) keep(g, axes, points);
    }
}

template<int D, typename T>
constexpr ContactKernels<D> kKernels{NumberType<T>::kCount, refresh<D, T>, warm_start<D, T>, solve<D, T>};
