// The bodies of the kernels, over the number type T. Included after simd/lanes.h and simd/vector.h, within a
// namespace and a target region of one instruction set.
#pragma once

// The points of a manifold agree when a round changes their impulses by less than this share.
constexpr float kAgreed = 1e-4f;

template<int D, typename T> struct Velocity {
    Vector<D, T> linear;
    Turning<D, T> angular;
};
template<int D, typename T> struct Moved {
    Vector<D, T> place;
    Turn<D, T> turn;
};

template<typename T> ASTASIS_LANES Velocity<2, T> velocity_of(const FourOf<T>& r, const FourOf<T>&) {
    return {{r.a, r.b}, r.c};
}
template<typename T> ASTASIS_LANES Velocity<3, T> velocity_of3(const FourOf<T>& r, const FourOf<T>& s) {
    return {{r.a, r.b, r.c}, {s.a, s.b, s.c}};
}

template<int D, typename T> ASTASIS_LANES Velocity<D, T> load_velocity(const float* rows, const int* index) {
    const FourOf<T> r = load_four<T>(rows, index, Layout<D>::kRow);
    if constexpr (D == 2) return velocity_of(r, r);
    else return velocity_of3(r, load_four<T>(rows + 4, index, Layout<D>::kRow));
}
template<typename T>
ASTASIS_LANES void store_velocity(const Velocity<2, T>& v, float* rows, const int* index) {
    store_four<T>({v.linear.x, v.linear.y, v.angular, T(0.0f)}, rows, index, Layout<2>::kRow);
}
template<typename T>
ASTASIS_LANES void store_velocity(const Velocity<3, T>& v, float* rows, const int* index) {
    store_four<T>({v.linear.x, v.linear.y, v.linear.z, T(0.0f)}, rows, index, Layout<3>::kRow);
    store_four<T>({v.angular.x, v.angular.y, v.angular.z, T(0.0f)}, rows + 4, index, Layout<3>::kRow);
}
template<int D, typename T> ASTASIS_LANES Moved<D, T> load_moved(const float* rows, const int* index) {
    const FourOf<T> r = load_four<T>(rows, index, Layout<D>::kRow);
    if constexpr (D == 2) return {{r.a, r.b}, {r.c, r.d}};
    else {
        const FourOf<T> s = load_four<T>(rows + 4, index, Layout<D>::kRow);
        return {{r.a, r.b, r.c}, {{s.a, s.b, s.c}, s.d}};
    }
}

// Fields of one group, hot or cold.
template<int D, typename T> struct Fields {
    using N = NumberType<T>;
    float* at;

    ASTASIS_LANES float* field(int f) const { return at + f * N::kCount; }
    ASTASIS_LANES T number(int f) const { return N::load(field(f)); }
    ASTASIS_LANES void set(int f, const T& x) const { N::store(field(f), x); }
    ASTASIS_LANES Vector<D, T> vector(int f) const {
        if constexpr (D == 2) return {number(f), number(f + 1)};
        else return {number(f), number(f + 1), number(f + 2)};
    }
    ASTASIS_LANES void set_vector(int f, const Vector<D, T>& v) const {
        set(f, v.x), set(f + 1, v.y);
        if constexpr (D == 3) set(f + 2, v.z);
    }
    ASTASIS_LANES Turning<D, T> turning(int f) const {
        if constexpr (D == 2) return number(f);
        else return vector(f);
    }
    ASTASIS_LANES void set_turning(int f, const Turning<D, T>& w) const {
        if constexpr (D == 2) set(f, w);
        else set_vector(f, w);
    }
};

// One group.
template<int D, typename T> struct Group : Fields<D, T> {
    using L = Layout<D>;
    using N = NumberType<T>;
    Fields<D, T> cold;

    ASTASIS_LANES Group(const GroupFloats& groups, int k)
        : Fields<D, T>{groups.hot + k * L::kHotFields * N::kCount},
          cold{groups.cold + k * L::kColdFields * N::kCount} {}
    ASTASIS_LANES InertiaOf<D, T> inertia(int f) const {
        if constexpr (D == 2) return {this->number(f)};
        else
            return {this->number(f),     this->number(f + 1), this->number(f + 2),
                    this->number(f + 3), this->number(f + 4), this->number(f + 5)};
    }
    ASTASIS_LANES void load_inertia(int f, const float* rows, const int* index) const {
        if constexpr (D == 3) {
            const FourOf<T> r = load_four<T>(rows, index, L::kRow),
                            s = load_four<T>(rows + 4, index, L::kRow);
            this->set(f, r.a), this->set(f + 1, r.b), this->set(f + 2, r.c), this->set(f + 3, r.d);
            this->set(f + 4, s.a), this->set(f + 5, s.b);
        }
    }
    const int* ints(int f) const { return reinterpret_cast<const int*>(this->field(f)); }
    const int* body_a() const { return ints(L::kBodyA); }
    const int* body_b() const { return ints(L::kBodyB); }
    int most_points() const { return *ints(L::kOfGroup) & L::kMostPointsOfGroup; }
    bool has_rare() const { return (*ints(L::kOfGroup) & L::kRareInGroup) != 0; }
};

// Unit vectors across a unit normal, as math::tangents.
template<typename T> struct Tangents2 { Vector<2, T> first; };
template<typename T> struct Tangents3 { Vector<3, T> first, second; };
template<int D, typename T> struct TangentsOfDim { using Type = Tangents2<T>; };
template<typename T> struct TangentsOfDim<3, T> { using Type = Tangents3<T>; };
template<int D, typename T> using TangentsOf = typename TangentsOfDim<D, T>::Type;
template<typename T> ASTASIS_LANES Tangents2<T> tangents(const Vector<2, T>& n) { return {{-n.y, n.x}}; }
template<typename T> ASTASIS_LANES Tangents3<T> tangents(const Vector<3, T>& n) {
    const T one(1.0f), sign = select(n.z < T(0.0f), T(-1.0f), one);
    const T a = -(one / (sign + n.z)), b = n.x * n.y * a;
    return {{one + sign * n.x * n.x * a, sign * b, -(sign * n.x)}, {b, sign + n.y * n.y * a, -n.y}};
}

template<int D, typename T>
ASTASIS_LANES Vector<D, T> speed_at(const Velocity<D, T>& v, const Vector<D, T>& arm) {
    return v.linear + cross(v.angular, arm);
}

template<int D, typename T> struct Pair {
    Velocity<D, T> a, b;
    Vector<D, T> mass_a, mass_b;
    InertiaOf<D, T> inertia_a, inertia_b;

    ASTASIS_LANES void apply(const Vector<D, T>& arm_a, const Vector<D, T>& arm_b,
                             const Vector<D, T>& impulse) {
        a.linear = a.linear - times(impulse, mass_a);
        a.angular = a.angular - inertia_a * cross(arm_a, impulse);
        b.linear = b.linear + times(impulse, mass_b);
        b.angular = b.angular + inertia_b * cross(arm_b, impulse);
    }
    ASTASIS_LANES Vector<D, T> relative(const Vector<D, T>& arm_a, const Vector<D, T>& arm_b) const {
        return speed_at(b, arm_b) - speed_at(a, arm_a);
    }
};
template<int D, typename T> ASTASIS_LANES Pair<D, T> load_pair(const Group<D, T>& g, const BodyRows& rows) {
    using L = Layout<D>;
    return {load_velocity<D, T>(rows.velocity, g.body_a()),
            load_velocity<D, T>(rows.velocity, g.body_b()),
            g.vector(L::kMassA),
            g.vector(L::kMassB),
            g.inertia(L::kInertiaA),
            g.inertia(L::kInertiaB)};
}
template<int D, typename T>
ASTASIS_LANES void store_pair(const Pair<D, T>& p, const Group<D, T>& g, const BodyRows& rows) {
    store_velocity(p.a, rows.velocity, g.body_a());
    store_velocity(p.b, rows.velocity, g.body_b());
}

// --- Geometry ---

// From a rim's middle to where it reaches farthest along n.
template<typename T>
ASTASIS_LANES Vector<3, T> rim_reach(const Vector<3, T>& axis, const T& radius, const Vector<3, T>& n) {
    return direction(n - axis * dot(n, axis), Vector<3, T>{T(0.0f), T(0.0f), T(0.0f)}) * radius;
}

template<typename T> ASTASIS_LANES T one_over(const T& inverse_mass) {
    const auto moves = inverse_mass > T(0.0f);
    return select(moves, T(1.0f) / select(moves, inverse_mass, T(1.0f)), T(0.0f));
}

// The larger eigenvalue of what an impulse along the tangents meets.
template<int D, typename T, typename K> ASTASIS_LANES T stiffest(const Tangents2<T>& t, const K& k) {
    return k(t.first, t.first);
}
template<int D, typename T, typename K> ASTASIS_LANES T stiffest(const Tangents3<T>& t, const K& k) {
    const T xx = k(t.first, t.first), xy = k(t.first, t.second), yy = k(t.second, t.second), apart = xx - yy;
    return T(0.5f) * ((xx + yy) + root(apart * apart + T(4.0f) * xy * xy));
}
template<int D, typename T>
ASTASIS_LANES void set_along(const Group<D, T>& g, int f, const Tangents2<T>& t, const Vector<2, T>& v) {
    g.set(f, dot(v, t.first));
}
template<int D, typename T>
ASTASIS_LANES void set_along(const Group<D, T>& g, int f, const Tangents3<T>& t, const Vector<3, T>& v) {
    g.set(f, dot(v, t.first)), g.set(f + 1, dot(v, t.second));
}
template<int D, typename T>
ASTASIS_LANES Vector<2, T> along(const Group<D, T>& g, int f, const Tangents2<T>& t) {
    return t.first * g.number(f);
}
template<int D, typename T>
ASTASIS_LANES Vector<3, T> along(const Group<D, T>& g, int f, const Tangents3<T>& t) {
    return t.first * g.number(f) + t.second * g.number(f + 1);
}

// Long, since all of it is one chain of values that stay in registers.
template<int D, typename T>
int refresh( // NOLINT(readability-function-size)
    const GroupFloats& groups, int count, const BodyRows& rows, float seconds, Approach* approaches) {
    using L = Layout<D>;
    using N = NumberType<T>;
    const T zero(0.0f), half(0.5f), h(seconds);
    int found = 0;
    for (int k = 0; k < count; k++) {
        const Group<D, T> g(groups, k);
        const Fields<D, T>& cold = g.cold;
        const auto a = load_moved<D, T>(rows.moved, g.body_a()), b = load_moved<D, T>(rows.moved, g.body_b());
        g.load_inertia(L::kInertiaA, rows.inertia, g.body_a()),
            g.load_inertia(L::kInertiaB, rows.inertia, g.body_b());
        const auto by_a = N::equal(cold.field(L::kGuide), static_cast<int>(flow::Guide::FaceOfA));
        const auto by_b = N::equal(cold.field(L::kGuide), static_cast<int>(flow::Guide::FaceOfB));
        const auto by_centres = N::equal(cold.field(L::kGuide), static_cast<int>(flow::Guide::Centres));
        const Vector<D, T> n0 = cold.vector(L::kNormalAtStart), between = cold.vector(L::kBetween);
        const Vector<D, T> none = n0 - n0, place = b.place - a.place;
        const Vector<D, T> turned =
            select(by_a, change_by(a.turn, n0), select(by_b, change_by(b.turn, n0), none));
        const T skin_a = cold.number(L::kSkinA), skin_b = cold.number(L::kSkinB), skins = skin_a + skin_b;
        const Vector<D, T> mass_a = g.vector(L::kMassA), mass_b = g.vector(L::kMassB),
                           masses = mass_a + mass_b;
        const InertiaOf<D, T> inertia_a = g.inertia(L::kInertiaA), inertia_b = g.inertia(L::kInertiaB);
        const auto va = load_velocity<D, T>(rows.velocity, g.body_a()),
                   vb = load_velocity<D, T>(rows.velocity, g.body_b());
        const auto ga = load_velocity<D, T>(rows.gained, g.body_a()),
                   gb = load_velocity<D, T>(rows.gained, g.body_b());
        const bool some_round = any(by_centres);
        Vector<D, T> normal = n0 + turned;

        const int points = g.most_points();
        for (int i = 0; i < points; i++) {
            const int p = L::point(i), c = L::cold_point(i);
            const Vector<D, T> ra = cold.vector(c + L::kCoreA), rb = cold.vector(c + L::kCoreB);
            const Vector<D, T> da = change_by(a.turn, ra), db = change_by(b.turn, rb);
            const Vector<D, T> from = between + (rb - ra), change = place + (db - da);
            const T gap_at_start = cold.number(c + L::kGapAtStart);
            const auto is_point = gap_at_start < T(L::kNoPoint);
            // Changes are small, so that a gap that does not change keeps all its digits.
            T gap = (gap_at_start + dot(n0, change)) + dot(turned, from + change);
            Vector<D, T> core_a = ra + da, core_b = rb + db, now = from + change;
            if (some_round) {
                const T size = root(dot(now, now));
                const Vector<D, T> n = direction(now, n0);
                const T sum = size + (gap_at_start + skins);
                const T gap_of_round = gap_at_start + (T(2.0f) * dot(from, change) + dot(change, change)) /
                                                          select(sum > zero, sum, T(1.0f));
                normal = select(both(by_centres, is_point), n, normal);
                gap = select(by_centres, gap_of_round, gap);
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
            g.set_vector(p + L::kArmA, arm_a), g.set_vector(p + L::kArmB, arm_b), g.set(p + L::kGap, gap);

            // What an impulse along u meets along v: u.v/m summed over both, and the levers' share.
            const auto inverse_mass = [&](const Vector<D, T>& u, const Vector<D, T>& v) {
                return (dot(times(u, masses), v) + dot(inertia_a * cross(arm_a, u), cross(arm_a, v))) +
                       dot(inertia_b * cross(arm_b, u), cross(arm_b, v));
            };
            const auto t = tangents(normal);
            const T push_mass = one_over(inverse_mass(normal, normal));
            g.set(p + L::kPushMass, push_mass);
            g.set(p + L::kDragMass, one_over(stiffest<D, T>(t, inverse_mass)));
            set_along(g, p + L::kAlong, t, cold.vector(c + L::kDrag));

            const T speed = zero - dot(speed_at(vb, arm_b) - speed_at(va, arm_a), normal);
            const T gained = zero - dot(speed_at(gb, arm_b) - speed_at(ga, arm_a), normal);
            const T most = larger(speed, speed - gained);
            const auto may = both(both(g.number(p + L::kPush) <= T(kDwarfed) * push_mass * larger(most, zero),
                                       most > larger(gained, zero)),
                                  gap <= h * most);
            if (any(may))
                for (int lane = 0; lane < N::kCount; lane++)
                    if (is_set(may, lane)) {
                        alignas(64) float of_gap[N::kCount], of_speed[N::kCount], of_gained[N::kCount];
                        N::store(of_gap, gap), N::store(of_speed, speed), N::store(of_gained, gained);
                        approaches[found++] = {static_cast<std::uint32_t>(k),
                                               static_cast<std::uint32_t>(lane),
                                               static_cast<std::uint32_t>(i),
                                               of_gap[lane],
                                               of_speed[lane],
                                               of_gained[lane]};
                    }
        }
        g.set_vector(L::kNormal, normal);
    }
    return found;
}

// --- Impulses ---

template<int D, typename T> void warm_start(const GroupFloats& groups, int count, const BodyRows& rows) {
    using L = Layout<D>;
    for (int k = 0; k < count; k++) {
        const Group<D, T> g(groups, k);
        Pair<D, T> pair = load_pair(g, rows);
        const Vector<D, T> normal = g.vector(L::kNormal);
        const auto t = tangents(normal);
        const int points = g.most_points();
        for (int i = 0; i < points; i++) {
            const int p = L::point(i);
            pair.apply(g.vector(p + L::kArmA), g.vector(p + L::kArmB),
                       normal * g.number(p + L::kPush) + along(g, p + L::kAlong, t));
        }
        if (g.has_rare()) {
            const Turning<D, T> turning = g.cold.turning(L::kTurning);
            pair.a.angular = pair.a.angular - pair.inertia_a * turning;
            pair.b.angular = pair.b.angular + pair.inertia_b * turning;
        }
        store_pair(pair, g, rows);
    }
}

// By what a vector has to be multiplied to be no longer than a limit. A limit of 0 leaves nothing, also of
// what is so short that its square is 0.
template<typename T> ASTASIS_LANES T shortening(const T& squared, const T& limit) {
    const auto is_longer = squared > limit * limit;
    const T scale = select(is_longer, limit / root(select(is_longer, squared, T(1.0f))), T(1.0f));
    return select(limit > T(0.0f), scale, T(0.0f));
}

// Friction along the tangents, shortened to Coulomb's disc, where it is not done; returns the change of the
// impulse.
template<int D, typename T, typename M>
ASTASIS_LANES Vector<2, T> drag(const Group<D, T>& g, int f, const Tangents2<T>& t, const Vector<2, T>& slip,
                                const T& mass, const T& limit, const M& done) {
    const T old = g.number(f), wanted = old - mass * dot(slip, t.first);
    const T now = select(done, old, larger(smaller(wanted, limit), -limit));
    g.set(f, now);
    return t.first * (now - old);
}
template<int D, typename T, typename M>
ASTASIS_LANES Vector<3, T> drag(const Group<D, T>& g, int f, const Tangents3<T>& t, const Vector<3, T>& slip,
                                const T& mass, const T& limit, const M& done) {
    const T old_x = g.number(f), old_y = g.number(f + 1);
    const T x = old_x - mass * dot(slip, t.first), y = old_y - mass * dot(slip, t.second);
    const T scale = shortening(x * x + y * y, limit);
    const T now_x = select(done, old_x, x * scale), now_y = select(done, old_y, y * scale);
    g.set(f, now_x), g.set(f + 1, now_y);
    return t.first * (now_x - old_x) + t.second * (now_y - old_y);
}

template<typename T>
ASTASIS_LANES T limited_turning(const T& impulse, const Vector<2, T>&, const T& rolling, const T&) {
    return larger(smaller(impulse, rolling), -rolling);
}
template<typename T>
ASTASIS_LANES Vector<3, T> limited_turning(const Vector<3, T>& impulse, const Vector<3, T>& n,
                                           const T& rolling, const T& spinning) {
    const T spin = dot(impulse, n), spin_now = larger(smaller(spin, spinning), -spinning);
    const Vector<3, T> roll = impulse - n * spin;
    return roll * shortening(dot(roll, roll), rolling) + n * spin_now;
}

// What resists rolling and spinning, of what a manifold's points bear together.
template<int D, typename T, typename M>
ASTASIS_LANES void resist(const Fields<D, T>& cold, Pair<D, T>& pair, const Vector<D, T>& normal,
                          const T& load, const M& done) {
    using L = Layout<D>;
    const T mass = one_over(trace(pair.inertia_a) + trace(pair.inertia_b));
    const Turning<D, T> old = cold.turning(L::kTurning);
    const Turning<D, T> now =
        select(done, old,
               limited_turning(old - (pair.b.angular - pair.a.angular) * mass, normal,
                               cold.number(L::kRolling) * load, cold.number(L::kSpinning) * load));
    cold.set_turning(L::kTurning, now);
    pair.a.angular = pair.a.angular - pair.inertia_a * (now - old);
    pair.b.angular = pair.b.angular + pair.inertia_b * (now - old);
}

// After the last pass of a substep.
template<int D, typename T>
ASTASIS_LANES void keep(const Group<D, T>& g, const Vector<D, T>& normal, const TangentsOf<D, T>& t,
                        int points) {
    using L = Layout<D>;
    for (int i = 0; i < points; i++) {
        const int p = L::point(i), c = L::cold_point(i);
        const Vector<D, T> friction = along(g, p + L::kAlong, t);
        g.cold.set_vector(c + L::kDrag, friction);
        g.cold.set_vector(c + L::kSum,
                          g.cold.vector(c + L::kSum) + (normal * g.number(p + L::kPush) + friction));
    }
}

template<int D, typename T>
void solve(const GroupFloats& groups, int count, const BodyRows& rows, const Tuning& tuning, float seconds,
           bool with_feedback) {
    using L = Layout<D>;
    using N = NumberType<T>;
    const T zero(0.0f), one(1.0f), rate(1.0f / seconds), share(tuning.share / seconds),
        leak_of_overlap(with_feedback ? tuning.leak : 0.0f);
    for (int k = 0; k < count; k++) {
        const Group<D, T> g(groups, k);
        Pair<D, T> pair = load_pair(g, rows);
        const Vector<D, T> normal = g.vector(L::kNormal);
        const auto t = tangents(normal);
        const bool has_rare = g.has_rare();
        const Vector<D, T> surface = has_rare ? g.cold.vector(L::kSlip) : normal - normal;
        const T friction = g.number(L::kFriction), most_push = g.number(L::kMostPush);
        const int points = g.most_points();
        // A manifold with one point needs one round.
        auto done = N::mask(false);
        const auto has_one = points > 1 ? g.number(L::point(1) + L::kGap) == T(L::kNoPoint) : N::mask(true);
        for (int round = 0; round < tuning.rounds; round++) {
            T changed = zero, load = zero;
            for (int i = 0; i < points; i++) {
                const int p = L::point(i);
                const Vector<D, T> arm_a = g.vector(p + L::kArmA), arm_b = g.vector(p + L::kArmB);
                const T gap = g.number(p + L::kGap), old = g.number(p + L::kPush);
                const auto apart = gap > zero;
                const T wanted = select(apart, zero - gap * rate,
                                        with_feedback ? smaller(zero - share * gap, most_push) : zero);
                const T leak = select(apart, zero, leak_of_overlap);
                const T missing = wanted - dot(pair.relative(arm_a, arm_b), normal);
                T now =
                    larger((old + g.number(p + L::kPushMass) * (one - leak) * missing) - leak * old, zero);
                now = select(done, old, now);
                g.set(p + L::kPush, now);
                const T change = now - old;
                pair.apply(arm_a, arm_b, normal * change);
                changed = changed + larger(change, -change);
                load = load + now;
            }
            for (int i = 0; i < points; i++) {
                const int p = L::point(i);
                const Vector<D, T> arm_a = g.vector(p + L::kArmA), arm_b = g.vector(p + L::kArmB);
                pair.apply(arm_a, arm_b,
                           drag(g, p + L::kAlong, t, pair.relative(arm_a, arm_b) + surface,
                                g.number(p + L::kDragMass), friction * g.number(p + L::kPush), done));
            }
            if (has_rare) resist(g.cold, pair, normal, load, done);
            done = either(done, either(changed <= T(kAgreed) * load, has_one));
            if (all(done)) break;
        }
        store_pair(pair, g, rows);
        if (!with_feedback) keep(g, normal, t, points);
    }
}

template<int D, typename T>
constexpr ContactKernels<D> kKernels{NumberType<T>::kCount, refresh<D, T>, warm_start<D, T>, solve<D, T>};
