// The bodies of the kernels, over the number type T. Included after simd/lanes.h and simd/vector.h, within a
// namespace and a target region of one instruction set.
#pragma once

// The points of a manifold agree when a round changes their impulses by less than this share.
constexpr float kAgreed = 5e-4f;

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
        : Fields<D, T>{groups.hot + k * L::kHotFields * N::kCount}, cold{groups.cold +
                                                                         k * L::kColdFields * N::kCount} {}
    ASTASIS_LANES InertiaOf<D, T> inertia(int f) const {
        if constexpr (D == 2) return {this->number(f)};
        else
            return {this->number(f),     this->number(f + 1), this->number(f + 2),
                    this->number(f + 3), this->number(f + 4), this->number(f + 5)};
    }
    ASTASIS_LANES void set_inertia(int f, const InertiaOf<3, T>& m) const {
        this->set(f, m.xx), this->set(f + 1, m.xy), this->set(f + 2, m.xz);
        this->set(f + 3, m.yy), this->set(f + 4, m.yz), this->set(f + 5, m.zz);
    }
    // In the plane it is the same whatever the pose, and stands in its field from the start.
    ASTASIS_LANES InertiaOf<D, T> world_inertia(int f, const float* rows, const int* index) const {
        if constexpr (D == 2) return {this->number(f)};
        else {
            const FourOf<T> r = load_four<T>(rows, index, L::kRow),
                            s = load_four<T>(rows + 4, index, L::kRow);
            return {r.a, r.b, r.c, r.d, s.a, s.b};
        }
    }
    const int* ints(int f) const { return reinterpret_cast<const int*>(this->field(f)); }
    const int* body_a() const { return ints(L::kBodyA); }
    const int* body_b() const { return ints(L::kBodyB); }
    int most_points() const { return *ints(L::kOfGroup) & L::kMostPointsOfGroup; }
    bool has_locks() const { return (*ints(L::kOfGroup) & L::kLocksInGroup) != 0; }
    bool has_rare() const { return (*ints(L::kOfGroup) & L::kRareInGroup) != 0; }
};

template<int D, typename T>
ASTASIS_LANES Vector<D, T> speed_at(const Velocity<D, T>& v, const Vector<D, T>& arm) {
    return v.linear + cross(v.angular, arm);
}

template<int D, typename T>
ASTASIS_LANES Pair<D, T> pair_of(const Group<D, T>& g, const Axes<D, T>& axes, const Velocity<D, T>& a,
                                 const Velocity<D, T>& b) {
    using L = Layout<D>;
    Pair<D, T> out;
    out.v = axes.to(b.linear - a.linear);
    out.wa = axes.turn_to(a.angular), out.wb = axes.turn_to(b.angular);
    out.given = axes.n - axes.n;
    out.mass = g.number(L::kMassA) + g.number(L::kMassB);
    out.inertia_a = g.inertia(L::kInertiaA), out.inertia_b = g.inertia(L::kInertiaB);
    out.has_locks = g.has_locks();
    if (out.has_locks)
        out.locked = turned(axes, g.cold.vector(L::kLockedMassA) + g.cold.vector(L::kLockedMassB));
    return out;
}

// What both bodies were given, in world axes.
template<int D, typename T>
ASTASIS_LANES void give(const Group<D, T>& g, const BodyRows& rows, const Vector<D, T>& impulse,
                        const Turning<D, T>& turned_a, const Turning<D, T>& turned_b, Velocity<D, T> a,
                        Velocity<D, T> b) {
    using L = Layout<D>;
    a.linear = a.linear - impulse * g.number(L::kMassA);
    b.linear = b.linear + impulse * g.number(L::kMassB);
    if (g.has_locks()) {
        a.linear = a.linear - times(impulse, g.cold.vector(L::kLockedMassA));
        b.linear = b.linear + times(impulse, g.cold.vector(L::kLockedMassB));
    }
    a.angular = a.angular + turned_a, b.angular = b.angular + turned_b;
    store_velocity(a, rows.velocity, g.body_a());
    store_velocity(b, rows.velocity, g.body_b());
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

// What an impulse along each of the tangents meets: the larger eigenvalue.
template<typename T> ASTASIS_LANES T stiffest(const Tensor<2, T>& k) { return k.yy; }
template<typename T> ASTASIS_LANES T stiffest(const Tensor<3, T>& k) {
    const T apart = k.yy - k.zz;
    return T(0.5f) * ((k.yy + k.zz) + root(apart * apart + T(4.0f) * k.yz * k.yz));
}
// What turning at a lever adds to it.
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
// What an impulse at both centres meets.
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
        const auto ga = load_velocity<D, T>(rows.gained, g.body_a()),
                   gb = load_velocity<D, T>(rows.gained, g.body_b());
        const bool some_round = any(by_centres);
        Vector<D, T> normal = n0 + tilt;
        Axes<D, T> axes;
        InertiaOf<D, T> inertia_a, inertia_b;
        Tensor<D, T> masses;

        const int points = g.most_points();
        for (int i = 0; i < points; i++) {
            const int p = L::point(i), c = L::cold_point(i);
            const Vector<D, T> ra = cold.vector(c + L::kCoreA), rb = cold.vector(c + L::kCoreB);
            const Vector<D, T> da = change_by(a.turn, ra), db = change_by(b.turn, rb);
            const Vector<D, T> from = between + (rb - ra), change = place + (db - da);
            const T gap_at_start = cold.number(c + L::kGapAtStart);
            const auto is_point = gap_at_start < T(L::kNoPoint);
            // Changes are small, so that a gap that does not change keeps all its digits.
            T gap = (gap_at_start + dot(n0, change)) + dot(tilt, from + change);
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
            if (i == 0) { // round shapes have one point, others one normal
                axes = axes_of(normal);
                inertia_a = turned(axes, g.world_inertia(L::kInertiaA, rows.inertia, g.body_a()));
                inertia_b = turned(axes, g.world_inertia(L::kInertiaB, rows.inertia, g.body_b()));
                masses = masses_of(g, axes);
            }
            const Vector<D, T> lever_a = axes.to(arm_a), lever_b = axes.to(arm_b);
            g.set_vector(p + L::kArmA, lever_a), g.set_vector(p + L::kArmB, lever_b), g.set(p + L::kGap, gap);
            const Tensor<D, T> meets = with_lever(with_lever(masses, inertia_a, lever_a), inertia_b, lever_b);
            const T push_mass = one_over(meets.xx);
            g.set(p + L::kPushMass, push_mass);
            g.set(p + L::kDragMass, one_over(stiffest(meets)));
            write_along(g, p + L::kAlong, across(axes.to(cold.vector(c + L::kDrag))));

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
        if constexpr (D == 3) g.set_inertia(L::kInertiaA, inertia_a), g.set_inertia(L::kInertiaB, inertia_b);
    }
    return found;
}

// --- Impulses ---

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
           bool with_feedback) {
    using L = Layout<D>;
    using N = NumberType<T>;
    const T zero(0.0f), one(1.0f), rate(1.0f / seconds), share(tuning.share / seconds),
        leak_of_overlap(with_feedback ? tuning.leak : 0.0f);
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
            done = either(done, either(changed <= T(kAgreed) * load, has_one));
            if (all(done)) break;
        }
        give(g, rows, axes.from(pair.given), axes.turn_from(pair.wa - wa), axes.turn_from(pair.wb - wb), a,
             b);
        if (!with_feedback) keep(g, axes, points);
    }
}

template<int D, typename T>
constexpr ContactKernels<D> kKernels{NumberType<T>::kCount, refresh<D, T>, warm_start<D, T>, solve<D, T>};
