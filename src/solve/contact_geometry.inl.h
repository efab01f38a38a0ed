// Contacts where the bodies are now: normals, levers, gaps, masses, over the number type T. Included after
// contact_approach.inl.h.
#pragma once

// From a rim's middle to where it reaches farthest along n; as in flow/contacts.cpp.
template<typename T>
ASTASIS_LANES Vector<3, T> rim_reach(const Vector<3, T>& axis, const T& radius, const Vector<3, T>& n) {
    const Vector<3, T> none{T(0.0f), T(0.0f), T(0.0f)}, across = direction(n - axis * dot(n, axis), none);
    return direction(across - axis * dot(across, axis), none) * radius;
}

template<typename T> ASTASIS_LANES T one_over(const T& inverse_mass) {
    const auto moves = inverse_mass > T(0.0f);
    return select(moves, T(1.0f) / select(moves, inverse_mass, T(1.0f)), T(0.0f));
}

// The inverse effective mass along the tangents: the larger eigenvalue.
template<typename T> ASTASIS_LANES T stiffest(const Tensor<2, T>& k) { return k.yy; }
template<typename T> ASTASIS_LANES T stiffest(const Tensor<3, T>& k) {
    const T apart = k.yy - k.zz;
    return T(0.5f) * ((k.yy + k.zz) + root(apart * apart + T(4.0f) * k.yz * k.yz));
}
// The part of it that turning at a lever adds.
template<typename T>
ASTASIS_LANES Tensor<2, T> with_lever(const Tensor<2, T>& k, const InertiaOf<2, T>& m,
                                      const Vector<2, T>& r) {
    return {k.xx + m.xx * r.y * r.y, k.xy - m.xx * r.x * r.y, k.yy + m.xx * r.x * r.x};
}
template<typename T>
ASTASIS_LANES Tensor<3, T> with_lever(const Tensor<3, T>& k, const InertiaOf<3, T>& m,
                                      const Vector<3, T>& r) {
    const T zero(0.0f);
    const Vector<3, T> n{zero, r.z, -r.y}, t{-r.z, zero, r.x}, u{r.y, -r.x, zero};
    const Vector<3, T> mt = m * t;
    return {k.xx + dot(m * n, n), k.xy, k.xz, k.yy + dot(mt, t), k.yz + dot(mt, u), k.zz + dot(m * u, u)};
}
// The inverse effective mass at both centres.
template<typename T> ASTASIS_LANES Tensor<2, T> all_ways(const Vector<2, T>&, const T& m) {
    return {m, m - m, m};
}
template<typename T> ASTASIS_LANES Tensor<3, T> all_ways(const Vector<3, T>&, const T& m) {
    return {m, m - m, m - m, m, m - m, m};
}
template<typename T> ASTASIS_LANES Tensor<2, T> sum(const Tensor<2, T>& a, const Tensor<2, T>& b) {
    return {a.xx + b.xx, a.xy + b.xy, a.yy + b.yy};
}
template<typename T> ASTASIS_LANES Tensor<3, T> sum(const Tensor<3, T>& a, const Tensor<3, T>& b) {
    return {a.xx + b.xx, a.xy + b.xy, a.xz + b.xz, a.yy + b.yy, a.yz + b.yz, a.zz + b.zz};
}
template<int D, typename T>
ASTASIS_LANES Tensor<D, T> masses_of(const Group<D, T>& g, const Axes<D, T>& axes) {
    using L = Layout<D>;
    const Tensor<D, T> free = all_ways(axes.n, g.number(L::kMassA) + g.number(L::kMassB));
    if (!g.has_locks()) return free;
    return sum(free, turned(axes, g.cold.vector(L::kLockedMassA) + g.cold.vector(L::kLockedMassB)));
}

template<typename T> ASTASIS_LANES Across<2, T> read_along(const Fields<2, T>& g, int f) {
    return {g.number(f)};
}
template<typename T> ASTASIS_LANES Across<3, T> read_along(const Fields<3, T>& g, int f) {
    return {g.number(f), g.number(f + 1)};
}
template<typename T> ASTASIS_LANES void write_along(const Fields<2, T>& g, int f, const Across<2, T>& x) {
    g.set(f, x.x);
}
template<typename T> ASTASIS_LANES void write_along(const Fields<3, T>& g, int f, const Across<3, T>& x) {
    g.set(f, x.x), g.set(f + 1, x.y);
}

template<typename T, typename M>
ASTASIS_LANES Across<2, T> select(const M& m, const Across<2, T>& a, const Across<2, T>& b) {
    return {select(m, a.x, b.x)};
}
template<typename T, typename M>
ASTASIS_LANES Across<3, T> select(const M& m, const Across<3, T>& a, const Across<3, T>& b) {
    return {select(m, a.x, b.x), select(m, a.y, b.y)};
}

// Adds the impulse of the last substep at a point to the sum of the tick; its friction stays as it is in the
// world. Where the axes have not turned it keeps its digits, however often geometry is found anew.
template<int D, typename T>
ASTASIS_LANES void carry_impulses(const Group<D, T>& g, const Axes<D, T>& before, const Axes<D, T>& now,
                                  int i, When when) {
    using L = Layout<D>;
    const int p = L::point(i), sum = L::cold_point(i) + L::kSum;
    const Across<D, T> along = read_along(g, p + L::kAlong);
    const Vector<D, T> drag = before.from(all_of(T(0.0f), along));
    if (when == When::NextSubstep)
        g.cold.set_vector(sum, g.cold.vector(sum) + (before.n * g.number(p + L::kPush) + drag));
    write_along(g, p + L::kAlong, select(same(before.n, now.n), along, across(now.to(drag))));
}

// The levers and masses of a face are kept until the end of the tick while both bodies have hardly moved
// since its start: a turn in rad, and a way as a share of the speed of the fastest push, which is in
// thicknesses a second (a five-thousandth of the thickness).
constexpr float kStandingTurn = 2e-4f, kStandingWay = 5e-5f;

template<typename T> ASTASIS_LANES auto stands(const Turn<2, T>& r) {
    return r.s * r.s <= T(kStandingTurn * kStandingTurn);
}
template<typename T> ASTASIS_LANES auto stands(const Turn<3, T>& r) {
    return T(4.0f) * dot(r.q, r.q) <= T(kStandingTurn * kStandingTurn);
}

// Of a point of a face: how the cores have moved, and the gap. Changes are small, so that a gap that does not
// change keeps all its digits.
template<int D, typename T> struct FacePoint {
    using L = Layout<D>;
    Vector<D, T> core_a, core_b, from, change;
    T gap_at_start, gap;

    ASTASIS_LANES FacePoint(const Fields<D, T>& cold, int i, const Moved<D, T>& a, const Moved<D, T>& b,
                            const Vector<D, T>& n0, const Vector<D, T>& tilt) {
        const int c = L::cold_point(i);
        const Vector<D, T> ra = cold.vector(c + L::kCoreA), rb = cold.vector(c + L::kCoreB);
        const Vector<D, T> da = change_by(a.turn, ra), db = change_by(b.turn, rb);
        core_a = ra + da, core_b = rb + db;
        from = cold.vector(L::kBetween) + (rb - ra), change = (b.place - a.place) + (db - da);
        gap_at_start = cold.number(c + L::kGapAtStart);
        gap = (gap_at_start + dot(n0, change)) + dot(tilt, from + change);
    }
};

// The middle of what bears, across the normal: of the points' loads, so that what slides without turning is
// not turned by where friction acts; of how near they are when they have just been found.
template<int D, typename T> struct MiddleOfLoad;
template<typename T> struct MiddleOfLoad<2, T> {
    ASTASIS_LANES MiddleOfLoad(const Group<2, T>&, int, const T&) {}
    ASTASIS_LANES void add(const Group<2, T>&, int, const Vector<2, T>&, const Vector<2, T>&, const T&) {}
    template<typename M> ASTASIS_LANES void write(const Group<2, T>&, const M&) const {}
};
template<typename T> struct MiddleOfLoad<3, T> {
    using L = Layout<3>;
    T near, borne, all, ay, az, by, bz;

    ASTASIS_LANES MiddleOfLoad(const Group<3, T>& g, int points, const T& seconds)
        : near(g.number(L::kMostPush) * seconds), borne(0.0f), all(0.0f), ay(0.0f), az(0.0f), by(0.0f),
          bz(0.0f) {
        for (int i = 0; i < points; i++) borne = borne + g.number(L::point(i) + L::kPush);
    }
    ASTASIS_LANES void add(const Group<3, T>& g, int i, const Vector<3, T>& a, const Vector<3, T>& b,
                           const T& gap) {
        const T nearness = larger(near - gap, T(0.0f));
        const T weight = select(borne > T(0.0f), g.number(L::point(i) + L::kPush), nearness);
        all = all + weight;
        ay = ay + weight * a.y, az = az + weight * a.z, by = by + weight * b.y, bz = bz + weight * b.z;
    }
    // Lanes of `stood` keep theirs.
    template<typename M> ASTASIS_LANES void write(const Group<3, T>& g, const M& stood) const {
        const auto set = [&](int f, const T& x) { g.set(f, select(stood, g.number(f), x)); };
        const T one(1.0f), least(1e-30f); // loads near the least floats have no quotients
        const auto bears = all > least;
        const T share = select(bears, g.cold.number(L::kSpread), one);
        const T left = (one - share) / select(bears, all, one);
        set(L::kShare, share);
        set(L::kMiddleA, ay * left), set(L::kMiddleA + 1, az * left);
        set(L::kMiddleB, by * left), set(L::kMiddleB + 1, bz * left);
    }
};

// By how much less two middles come nearer to each other in a substep than they close along their normal now:
// what passes by turns it, and must not be held up as if it met.
template<typename V, typename T>
ASTASIS_LANES T bend_of(const V& between, const V& normal, const V& speed, const T& seconds) {
    const T zero(0.0f);
    const V end = between + speed * seconds;
    const T along = dot(end, normal);
    const V aside = end - normal * along;
    const auto ahead = along > zero;
    return select(ahead, dot(aside, aside) / select(ahead, along + root(dot(end, end)), T(1.0f)), zero);
}

template<typename T> ASTASIS_LANES T squared_size(const T& w) { return w * w; }
template<typename T> ASTASIS_LANES T squared_size(const Vector<3, T>& w) { return dot(w, w); }

// Of more than that in a substep, rad, its start tells nothing of its end.
constexpr float kMostTurn = 0.1f;

// By how much the surface of a body that nothing can push, and that turns, runs otherwise at the end of a
// substep than at its start, for where the places of contact on it go till then. As if these stayed, what
// stands on a turntable creeps outwards, and a ball that rolls on it runs away in a spiral. In the mean of a
// manifold's points. (What a push can turn might turn ever faster by this.)
template<int D, typename T> class RunMore {
public:
    ASTASIS_LANES explicit RunMore(const Vector<D, T>& any)
        : core_a_(any - any), core_b_(core_a_), arm_a_(core_a_), arm_b_(core_a_), count_(0.0f) {}

    ASTASIS_LANES void add(const T& is_point, const Vector<D, T>& core_a, const Vector<D, T>& core_b,
                           const Vector<D, T>& arm_a, const Vector<D, T>& arm_b) {
        core_a_ = core_a_ + core_a * is_point, core_b_ = core_b_ + core_b * is_point;
        arm_a_ = arm_a_ + arm_a * is_point, arm_b_ = arm_b_ + arm_b * is_point;
        count_ = count_ + is_point;
    }
    // Of b against a, in the lanes where one of them turns so. A place is where b's face passes under a's
    // point, or the other way round; else it goes with both, as the skins say.
    template<typename M>
    ASTASIS_LANES Vector<D, T> in(const Group<D, T>& g, const T& seconds, const Velocity<D, T>& va,
                                  const Velocity<D, T>& vb, const Vector<D, T>& normal, const M& by_a,
                                  const M& by_b) const {
        using L = Layout<D>;
        const T zero(0.0f), one(1.0f), each = one / larger(count_, one);
        const T skin_a = g.cold.number(L::kSkinA), skin_b = g.cold.number(L::kSkinB), skins = skin_a + skin_b;
        const Vector<D, T> apart = vb.linear - va.linear, none = normal - normal;
        const Vector<D, T> of_a = cross(va.angular, core_a_ * each),
                           of_b = apart + cross(vb.angular, core_b_ * each);
        const auto has_skin = skins > zero;
        const T with_both = select(has_skin, skin_a / select(has_skin, skins, one), T(0.5f));
        const T share = select(by_b, zero, select(by_a, one, with_both));
        const Vector<D, T> tilt = select(by_b, cross(vb.angular, normal) * skin_a,
                                         select(by_a, cross(va.angular, normal) * (zero - skin_b), none));
        const Vector<D, T> place = (of_a + (of_b - of_a) * share) + tilt; // its velocity against a's centre
        const auto more = [&](const Turning<D, T>& w, const Vector<D, T>& arm, const Vector<D, T>& run) {
            const Vector<D, T> turn = cross(w, arm), on = run - turn;
            const Vector<D, T> way = turn + (on - normal * dot(on, normal));
            const auto little = squared_size(w) * (seconds * seconds) < T(kMostTurn * kMostTurn);
            return select(little, cross(w, way) * seconds, none);
        };
        using N = NumberType<T>;
        const auto a_turns = N::equal(g.cold.field(L::kTurns), L::kTurnsA),
                   b_turns = N::equal(g.cold.field(L::kTurns), L::kTurnsB);
        return select(a_turns, none - more(va.angular, arm_a_ * each, place),
                      select(b_turns, more(vb.angular, arm_b_ * each, place - apart), none));
    }

private:
    Vector<D, T> core_a_, core_b_, arm_a_, arm_b_; // sums
    T count_;
};

// The impulses of bounces are no guess of the next substep's: they go to the sum of the tick at once.
template<int D, typename T> void end_bounces(const Group<D, T>& g, int points, When when) {
    using L = Layout<D>;
    const T zero(0.0f);
    const Axes<D, T> axes = axes_of(g.vector(L::kNormal));
    auto some_bounced = NumberType<T>::mask(false);
    for (int i = 0; i < points; i++) {
        const int p = L::point(i), c = L::cold_point(i);
        const auto bounced = g.cold.number(c + L::kBounce) > zero;
        const T push = g.number(p + L::kPush), kept = select(bounced, zero, push);
        const Across<D, T> along = read_along(g, p + L::kAlong);
        if (when == When::NextSubstep) {
            const Vector<D, T> gone =
                axes.n * (push - kept) +
                axes.from(all_of(zero, select(bounced, along, across(no_vector(axes.n)))));
            const Vector<D, T> sum = g.cold.vector(c + L::kSum);
            g.cold.set_vector(c + L::kSum, select(bounced, sum + gone, sum));
            g.set(p + L::kPush, kept);
            write_along(g, p + L::kAlong, select(bounced, across(no_vector(axes.n)), along));
        }
        g.cold.set(c + L::kBounce, zero);
        some_bounced = either(some_bounced, bounced);
    }
    const Turning<D, T> turning = g.cold.turning(L::kTurning);
    if (when == When::NextSubstep)
        g.cold.set_turning(L::kTurning, select(some_bounced, no_turning(axes.n), turning));
    int* info = const_cast<int*>(g.ints(L::kOfGroup));
    *info &= ~L::kBouncesInGroup;
}

// In a group all of whose manifolds stand, only the gaps change, and the sums of what their points gave.
template<int D, typename T>
ASTASIS_LANES void refresh_standing(const Group<D, T>& g, int k, const Moved<D, T>& a, const Moved<D, T>& b,
                                    const Vector<D, T>& n0, const Vector<D, T>& tilt, When when,
                                    ApproachSearch<D, T>& search) {
    using L = Layout<D>;
    const Axes<D, T> axes = axes_of(g.vector(L::kNormal));
    const Approaching<D, T> velocities(axes, load_velocity<D, T>(search.rows.velocity, g.body_a()),
                                       load_velocity<D, T>(search.rows.velocity, g.body_b()));
    const int points = g.most_points();
    for (int i = 0; i < points; i++) {
        const FacePoint<D, T> at(g.cold, i, a, b, n0, tilt);
        const T gap = select(at.gap_at_start < T(L::kNoPoint), at.gap, at.gap_at_start);
        g.set(L::point(i) + L::kGap, gap);
        carry_impulses(g, axes, axes, i, when);
        search.look(g, k, i, gap, axes, velocities);
    }
}

// Long, since all of it is one chain of values that stay in registers.
template<int D, typename T>
int refresh( // NOLINT(readability-function-size)
    const GroupFloats& groups, int count, const BodyRows& rows, float seconds, When when,
    Approach* approaches) {
    using L = Layout<D>;
    using N = NumberType<T>;
    const T zero(0.0f), half(0.5f);
    ApproachSearch<D, T> search(rows, seconds, approaches);
    for (int k = 0; k < count; k++) {
        const Group<D, T> g(groups, k);
        const Fields<D, T>& cold = g.cold;
        const auto a = load_moved<D, T>(rows.moved, g.body_a()), b = load_moved<D, T>(rows.moved, g.body_b());
        const auto by_a = N::equal(cold.field(L::kGuide), static_cast<int>(flow::Guide::FaceOfA));
        const auto by_b = N::equal(cold.field(L::kGuide), static_cast<int>(flow::Guide::FaceOfB));
        const auto by_centres = N::equal(cold.field(L::kGuide), static_cast<int>(flow::Guide::Centres));
        const Vector<D, T> n0 = cold.vector(L::kNormalAtStart), between = cold.vector(L::kBetween);
        const Vector<D, T> none = n0 - n0, place = b.place - a.place;
        const Vector<D, T> tilt =
            select(by_a, change_by(a.turn, n0), select(by_b, change_by(b.turn, n0), none));
        const T skin_a = cold.number(L::kSkinA), skin_b = cold.number(L::kSkinB), skins = skin_a + skin_b;
        const auto va = load_velocity<D, T>(rows.velocity, g.body_a()),
                   vb = load_velocity<D, T>(rows.velocity, g.body_b());
        const Axes<D, T> axes_before = axes_of(g.vector(L::kNormal));
        const bool some_round = any(by_centres);
        const T still_way = T(kStandingWay) * g.number(L::kMostPush);
        auto stands_now = both(both(stands(a.turn), stands(b.turn)),
                               both(dot(place, place) <= still_way * still_way, opposite(by_centres)));
        if constexpr (D == 3)
            stands_now = both(stands_now, both(cold.number(L::kRimA) <= zero, cold.number(L::kRimB) <= zero));
        const auto stood = both(stands_now, cold.number(L::kStands) > zero);
        const int points = g.most_points();
        if (g.has_bounce()) end_bounces(g, points, when);
        const bool has_slip = g.has_slip();
        if (all(stood) && !has_slip) {
            refresh_standing(g, k, a, b, n0, tilt, when, search);
            continue;
        }
        const bool some_stood = any(stood);
        cold.set(L::kStands, select(stands_now, T(1.0f), zero));
        Vector<D, T> normal = n0 + tilt;
        Axes<D, T> axes;
        InertiaOf<D, T> inertia_a, inertia_b;
        Tensor<D, T> masses;
        Approaching<D, T> velocities;
        MiddleOfLoad<D, T> middle(g, points, search.seconds);
        RunMore<D, T> run_more(none);
        for (int i = 0; i < points; i++) {
            const int p = L::point(i);
            const FacePoint<D, T> at(cold, i, a, b, n0, tilt);
            const Vector<D, T>&from = at.from, &change = at.change;
            const T gap_at_start = at.gap_at_start;
            const auto is_point = gap_at_start < T(L::kNoPoint);
            T gap = at.gap;
            Vector<D, T> core_a = at.core_a, core_b = at.core_b, now = from + change;
            T bend = zero;
            if (some_round) {
                const T size = root(dot(now, now));
                const Vector<D, T> n = direction(now, n0);
                const T sum = size + (gap_at_start + skins);
                const T gap_of_round = gap_at_start + (T(2.0f) * dot(from, change) + dot(change, change)) /
                                                          select(sum > zero, sum, T(1.0f));
                normal = select(both(by_centres, is_point), n, normal);
                gap = select(by_centres, gap_of_round, gap);
                bend = select(by_centres,
                              bend_of(now, n, speed_at(vb, core_b) - speed_at(va, core_a), search.seconds),
                              zero);
            }
            if constexpr (D == 3) {
                const T rim_a = cold.number(L::kRimA), rim_b = cold.number(L::kRimB);
                const auto has_rim = either(rim_a > zero, rim_b > zero);
                if (any(has_rim)) {
                    const Vector<D, T> axis_a = cold.vector(L::kRimAxisA), axis_b = cold.vector(L::kRimAxisB);
                    const Vector<D, T> reach_a = rim_reach(axis_a + change_by(a.turn, axis_a), rim_a, normal);
                    const Vector<D, T> reach_b = rim_reach(axis_b + change_by(b.turn, axis_b), rim_b, normal);
                    core_a = select(rim_a > zero, core_a + reach_a, core_a);
                    core_b = select(rim_b > zero, core_b - reach_b, core_b);
                    now = select(has_rim, (between + place) + (core_b - core_a), now);
                    gap = select(has_rim, dot(now, normal) - skins, gap);
                }
            }
            gap = select(is_point, gap, gap_at_start);
            // Both levers end at one place: the one that the face passes under.
            const Vector<D, T> aside = now - normal * dot(now, normal);
            core_a = core_a + aside * select(by_a, T(1.0f), select(by_b, zero, half));
            core_b = core_b - aside * select(by_b, T(1.0f), select(by_a, zero, half));
            // Across a gap each body's lever ends at its own surface, as it will when they meet; in overlap
            // both end midway between the surfaces, at one place, so that angular momentum is kept.
            const T overlap = smaller(gap, zero) * half;
            const Vector<D, T> arm_a = core_a + normal * (skin_a + overlap),
                               arm_b = core_b - normal * (skin_b + overlap);
            if (i == 0) { // round shapes have one point, others one normal
                if (some_stood) normal = select(stood, g.vector(L::kNormal), normal);
                axes = axes_of(normal);
                inertia_a = turned(axes, g.world_inertia(L::kInertiaA, rows.inertia, g.body_a()));
                inertia_b = turned(axes, g.world_inertia(L::kInertiaB, rows.inertia, g.body_b()));
                if (some_stood) {
                    inertia_a = select(stood, g.inertia(L::kInertiaA), inertia_a);
                    inertia_b = select(stood, g.inertia(L::kInertiaB), inertia_b);
                }
                masses = masses_of(g, axes);
                velocities = Approaching<D, T>(axes, va, vb);
            }
            Vector<D, T> lever_a = axes.to(arm_a), lever_b = axes.to(arm_b);
            if (some_stood)
                lever_a = select(stood, g.vector(p + L::kArmA), lever_a),
                lever_b = select(stood, g.vector(p + L::kArmB), lever_b);
            g.set_vector(p + L::kArmA, lever_a), g.set_vector(p + L::kArmB, lever_b);
            g.set(p + L::kGap, gap + bend);
            const Tensor<D, T> meets = with_lever(with_lever(masses, inertia_a, lever_a), inertia_b, lever_b);
            const T push_mass = one_over(meets.xx);
            g.set(p + L::kPushMass, push_mass);
            if constexpr (D == 2) g.set(p + L::kDragMass, one_over(stiffest(meets)));
            middle.add(g, i, lever_a, lever_b, gap);
            if (has_slip) run_more.add(select(is_point, T(1.0f), zero), core_a, core_b, arm_a, arm_b);
            carry_impulses(g, axes_before, axes, i, when);
            search.look(g, k, i, gap, axes, velocities);
        }
        g.set_vector(L::kNormal, normal);
        if (has_slip)
            cold.set_vector(L::kSlipNow, cold.vector(L::kSlip) +
                                             run_more.in(g, search.seconds, va, vb, normal, by_a, by_b));
        if constexpr (D == 3) {
            g.set_inertia(L::kInertiaA, inertia_a), g.set_inertia(L::kInertiaB, inertia_b);
            middle.write(g, stood);
            const FrictionLevers<3, T> levers(g);
            for (int i = 0; i < points; i++) {
                const int p = L::point(i);
                const Vector<3, T> lever_a = levers.of_a(g.vector(p + L::kArmA)),
                                   lever_b = levers.of_b(g.vector(p + L::kArmB));
                const auto slides = with_lever(with_lever(masses, inertia_a, lever_a), inertia_b, lever_b);
                g.set(p + L::kDragMass, one_over(stiffest(slides)));
            }
        }
    }
    return search.found;
}
