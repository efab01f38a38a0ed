// Solves the points of manifolds, over the number type T. Included after contact_geometry.inl.h.
//
// The cost of a group of lanes is the chain of operations that wait for each other, not their number: all
// that does not depend on velocities is computed outside of that chain.
#pragma once

// By what a vector has to be multiplied to be no longer than a limit. A limit of 0 leaves nothing, also of
// what is so short that its square is 0.
template<typename T> ASTASIS_LANES T shortening(const T& squared, const T& limit) {
    const auto is_longer = squared > limit * limit;
    const T scale = select(is_longer, limit / root(select(is_longer, squared, T(1.0f))), T(1.0f));
    return select(limit > T(0.0f), scale, T(0.0f));
}

// Friction impulses in Coulomb's disc; a limit of 0 is for those that are 0 or long enough to have a square.
template<typename T> ASTASIS_LANES Across<2, T> limited(const Across<2, T>& j, const T& limit) {
    return {larger(smaller(j.x, limit), -limit)};
}
template<typename T> ASTASIS_LANES Across<3, T> limited(const Across<3, T>& j, const T& limit) {
    const T squared = j.x * j.x + j.y * j.y;
    // Most contacts hold, and a root and a quotient take long.
    if (!any(squared > limit * limit)) return j;
    const T scale = shortening(squared, limit);
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
template<typename T> ASTASIS_LANES Across<2, T> less(const Across<2, T>& a, const Across<2, T>& b) {
    return {a.x - b.x};
}
template<typename T> ASTASIS_LANES Across<3, T> less(const Across<3, T>& a, const Across<3, T>& b) {
    return {a.x - b.x, a.y - b.y};
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

// Rolling and spinning resistance, from the load that a manifold's points bear together.
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

// The numbers that all manifolds of a pass have in common.
template<typename T> struct InPass {
    T rate, correction, soft, known_share, converged;
    int iterations, plain_iterations;
    bool further;

    ASTASIS_LANES InPass(const Tuning& tuning, float seconds, Pass pass)
        : rate(1.0f / seconds), correction(pass == Pass::Correcting ? tuning.correction / seconds : 0.0f),
          soft(pass == Pass::Correcting ? 1.0f : 0.0f), known_share(tuning.known_share),
          converged(tuning.converged), iterations(tuning.iterations),
          plain_iterations(tuning.plain_iterations), further(pass == Pass::Further) {}
};

// Pushes along the normal at the points of one manifold: what does not change from one iteration to the next.
template<int D, typename T, int Points> struct Pushes {
    using L = Layout<D>;
    // A unit of impulse at a point takes this from the spin of a and adds that to the spin of b,
    Turning<D, T> turn_a[Points], turn_b[Points];
    // and this to the normal speed at a point after it.
    T meets[Points][Points];
    T mass[Points], aim[Points], softness[Points], known, known_share;

    ASTASIS_LANES Pushes(const Group<D, T>& g, const Pair<D, T>& pair, const InPass<T>& pass)
        : known(g.number(L::kKnownLoad)), known_share(pass.known_share) {
        const T zero(0.0f), one(1.0f), most_push = g.number(L::kMostPush);
        const T soft = pass.soft * g.number(L::kSoftness);
        const T straight = pair.inverse_mass_along_normal();
        ASTASIS_UNROLL
        for (int i = 0; i < Points; i++) {
            const int p = L::point(i);
            const Vector<D, T> ra = g.vector(p + L::kArmA), rb = g.vector(p + L::kArmB);
            turn_a[i] = pair.inertia_a * normal_torque(ra, one);
            turn_b[i] = pair.inertia_b * normal_torque(rb, one);
            ASTASIS_UNROLL
            for (int j = 0; j < i; j++)
                meets[j][i] = straight + (normal_speed(turn_a[j], ra) + normal_speed(turn_b[j], rb));
            const T gap = g.number(p + L::kGap);
            const auto apart = gap > zero;
            softness[i] = select(apart, zero, soft);
            mass[i] = g.number(p + L::kPushMass) * (one - softness[i]);
            aim[i] = mass[i] *
                     select(apart, zero - gap * pass.rate, smaller(zero - pass.correction * gap, most_push));
        }
        if (!g.has_bounce()) return;
        for (int i = 0; i < Points; i++) {
            const T bounce = g.cold.number(L::cold_point(i) + L::kBounce);
            const auto bounces = bounce > zero;
            const T whole = g.number(L::point(i) + L::kPushMass);
            softness[i] = select(bounces, zero, softness[i]);
            mass[i] = select(bounces, whole, mass[i]), aim[i] = select(bounces, whole * bounce, aim[i]);
        }
    }
};

// A mask of the lanes in which some point bears a load or approaches too fast: a pass leaves all others as
// they are, whatever the lanes beside them do.
template<int D, typename T, int Points>
ASTASIS_LANES auto touching(const Group<D, T>& g, const Pair<D, T>& pair,
                            const Pushes<D, T, Points>& pushes) {
    using L = Layout<D>;
    const T zero(0.0f);
    auto touches = NumberType<T>::mask(false);
    ASTASIS_UNROLL
    for (int i = 0; i < Points; i++) {
        const int p = L::point(i);
        const T speed = pair.speed(g.vector(p + L::kArmA), g.vector(p + L::kArmB));
        touches =
            either(touches, either(g.number(p + L::kPush) > zero, pushes.aim[i] > pushes.mass[i] * speed));
    }
    return touches;
}

// One iteration of pushes; lanes that are done stay as they are. Returns by how much they changed and what
// they bear.
template<int D, typename T, int Points, typename M>
ASTASIS_LANES Across<3, T> push(const Group<D, T>& g, Pair<D, T>& pair, const Pushes<D, T, Points>& pushes,
                                const M& done) {
    using L = Layout<D>;
    const T zero(0.0f);
    T speed[Points], changed = zero, load = zero, all = zero;
    ASTASIS_UNROLL
    for (int i = 0; i < Points; i++)
        speed[i] = pair.speed(g.vector(L::point(i) + L::kArmA), g.vector(L::point(i) + L::kArmB));
    ASTASIS_UNROLL
    for (int i = 0; i < Points; i++) {
        const int p = L::point(i);
        const T old = g.number(p + L::kPush), mass = select(done, zero, pushes.mass[i]);
        const T yields = old - pushes.known_share * smaller(old, pushes.known);
        const T towards = select(done, zero, pushes.aim[i] - pushes.softness[i] * yields);
        const T change = larger(towards - mass * speed[i], -old);
        ASTASIS_UNROLL
        for (int j = i + 1; j < Points; j++) speed[j] = speed[j] + pushes.meets[i][j] * change;
        pair.wa = pair.wa - pushes.turn_a[i] * change;
        pair.wb = pair.wb + pushes.turn_b[i] * change;
        const T now = old + change;
        g.set(p + L::kPush, now);
        changed = changed + larger(change, -change), load = load + now, all = all + change;
    }
    pair.push(all);
    return {changed, load};
}

// Takes back what points push beyond their bound.
template<int D, typename T, int Points>
ASTASIS_LANES void hold_back(const Group<D, T>& g, Pair<D, T>& pair, const Pushes<D, T, Points>& pushes) {
    using L = Layout<D>;
    const T zero(0.0f), most = g.cold.number(L::kMostImpulse);
    T all = zero;
    ASTASIS_UNROLL
    for (int i = 0; i < Points; i++) {
        const T push = g.number(L::point(i) + L::kPush), over = larger(push - most, zero);
        pair.wa = pair.wa + pushes.turn_a[i] * over;
        pair.wb = pair.wb - pushes.turn_b[i] * over;
        // Not the difference, which rounding may leave above: lanes that are done stay as they are.
        g.set(L::point(i) + L::kPush, smaller(push, most));
        all = all - over;
    }
    pair.push(all);
}

// Friction at the points of one manifold: as pushes.
template<int D, typename T, int Points> struct Drags;
template<typename T, int Points> struct Drags<2, T, Points> {
    using L = Layout<2>;
    T turn_a[Points], turn_b[Points], meets[Points][Points], slip[Points];

    ASTASIS_LANES Drags(const Group<2, T>& g, const Pair<2, T>& pair) {
        const T straight = pair.inverse_mass_across();
        ASTASIS_UNROLL
        for (int i = 0; i < Points; i++) {
            const int p = L::point(i);
            const Vector<2, T> ra = g.vector(p + L::kArmA), rb = g.vector(p + L::kArmB);
            turn_a[i] = pair.inertia_a.xx * ra.x, turn_b[i] = pair.inertia_b.xx * rb.x;
            ASTASIS_UNROLL
            for (int j = 0; j < i; j++) meets[j][i] = straight + (turn_a[j] * ra.x + turn_b[j] * rb.x);
        }
    }
    ASTASIS_LANES void begin_iteration(const Group<2, T>& g, const Pair<2, T>& pair) {
        ASTASIS_UNROLL
        for (int i = 0; i < Points; i++)
            slip[i] = pair.slip(g.vector(L::point(i) + L::kArmA), g.vector(L::point(i) + L::kArmB)).x;
    }
    ASTASIS_LANES Across<2, T> slip_at(const Group<2, T>&, const Pair<2, T>&, int i) const {
        return {slip[i]};
    }
    ASTASIS_LANES void change(const Group<2, T>&, Pair<2, T>& pair, int i, const Across<2, T>& by) {
        ASTASIS_UNROLL
        for (int j = i + 1; j < Points; j++) slip[j] = slip[j] + meets[i][j] * by.x;
        pair.wa = pair.wa - turn_a[i] * by.x;
        pair.wb = pair.wb + turn_b[i] * by.x;
        pair.drag(by);
    }
};
// In space there are too many numbers to be kept.
template<typename T, int Points> struct Drags<3, T, Points> {
    using L = Layout<3>;
    FrictionLevers<3, T> levers;

    ASTASIS_LANES Drags(const Group<3, T>& g, const Pair<3, T>&) : levers(g) {}
    ASTASIS_LANES void begin_iteration(const Group<3, T>&, const Pair<3, T>&) {}
    ASTASIS_LANES Across<3, T> slip_at(const Group<3, T>& g, const Pair<3, T>& pair, int i) const {
        return pair.slip(levers.of_a(g.vector(L::point(i) + L::kArmA)),
                         levers.of_b(g.vector(L::point(i) + L::kArmB)));
    }
    ASTASIS_LANES void change(const Group<3, T>& g, Pair<3, T>& pair, int i, const Across<3, T>& by) {
        pair.wa = pair.wa - pair.inertia_a * across_torque(levers.of_a(g.vector(L::point(i) + L::kArmA)), by);
        pair.wb = pair.wb + pair.inertia_b * across_torque(levers.of_b(g.vector(L::point(i) + L::kArmB)), by);
        pair.drag(by);
    }
};

// One iteration of friction.
template<int D, typename T, int Points, typename M>
ASTASIS_LANES void drag(const Group<D, T>& g, Pair<D, T>& pair, Drags<D, T, Points>& drags, const M& done) {
    using L = Layout<D>;
    const T zero(0.0f), friction = g.number(L::kFriction);
    drags.begin_iteration(g, pair);
    ASTASIS_UNROLL
    for (int i = 0; i < Points; i++) {
        const int p = L::point(i);
        const T bears = friction * g.number(p + L::kPush);
        const auto is_loaded = bears > zero;
        const T mass = select(is_loaded, select(done, zero, g.number(p + L::kDragMass)), zero);
        const T limit = select(done, T(L::kNoPoint), bears);
        const Across<D, T> old = read_along(g, p + L::kAlong);
        const Across<D, T> start = select(either(is_loaded, done), old, across(no_vector(pair.v)));
        const Across<D, T> now = limited(slowed(start, drags.slip_at(g, pair, i), mass), limit);
        write_along(g, p + L::kAlong, now);
        drags.change(g, pair, i, less(now, old));
    }
}

template<int D, typename T, int Points>
void solve_group(const Group<D, T>& g, const BodyRows& rows, const InPass<T>& pass) {
    using L = Layout<D>;
    using N = NumberType<T>;
    const Axes<D, T> axes = axes_of(g.vector(L::kNormal));
    const Velocity<D, T> a = load_velocity<D, T>(rows.velocity, g.body_a()),
                         b = load_velocity<D, T>(rows.velocity, g.body_b());
    Pair<D, T> pair = pair_of(g, axes, a, b);
    const bool has_rare = g.has_rare();
    if (g.has_slip()) pair.v = pair.v + all_of(T(0.0f), across(axes.to(g.cold.vector(L::kSlipNow))));
    const Turning<D, T> wa = pair.wa, wb = pair.wb;
    const Pushes<D, T, Points> pushes(g, pair, pass);
    const auto touches = touching(g, pair, pushes);
    if (!any(touches)) return;
    Drags<D, T, Points> drags(g, pair);
    // A manifold with one point needs one iteration.
    auto done = opposite(touches), has_one = N::mask(true);
    if constexpr (Points > 1) has_one = g.number(L::point(1) + L::kGap) == T(L::kNoPoint);
    if (pass.further) done = either(done, opposite(g.number(L::kUnconverged) > T(0.0f)));
    const int iterations = g.has_exact() ? pass.iterations : pass.plain_iterations;
    for (int iteration = 0; iteration < iterations; iteration++) {
        const auto [changed, load] = push(g, pair, pushes, done);
        if (has_rare) hold_back(g, pair, pushes);
        drag(g, pair, drags, done);
        if (has_rare) resist(g.cold, pair, axes, load, done);
        done = either(done, either(changed <= pass.converged * load, has_one));
        if (iteration + 1 == pass.plain_iterations)
            done = either(done, opposite(g.number(L::kExact) > T(0.0f)));
        if (all(done)) break;
    }
    give(g, rows, axes.from(pair.given), axes.turn_from(pair.wa - wa), axes.turn_from(pair.wb - wb), a, b);
}

template<int D, typename T>
void solve(const GroupFloats& groups, int count, const BodyRows& rows, const Tuning& tuning, float seconds,
           Pass pass) {
    const InPass<T> in_pass(tuning, seconds, pass);
    for (int k = 0; k < count; k++) {
        const Group<D, T> g(groups, k);
        if (in_pass.further && !g.has_unconverged()) continue;
        switch (g.most_points()) {
        case 1: solve_group<D, T, 1>(g, rows, in_pass); break;
        case 2: solve_group<D, T, 2>(g, rows, in_pass); break;
        case 3:
            if constexpr (D == 3) solve_group<D, T, 3>(g, rows, in_pass);
            break;
        default:
            if constexpr (D == 3) solve_group<D, T, 4>(g, rows, in_pass);
        }
    }
}
