// The bodies of the kernels of free motion, over the number type T of doubles. Included after
// contact_rows.inl.h, within a namespace and a target region of one instruction set.
#pragma once

// Turns of less than that, rad, are found by series.
constexpr double kSmallTurn = 1;

// A rotation: cosine and sine; a quaternion.
template<int D, typename T> struct Rotated;
template<typename T> struct Rotated<2, T> { T c, s; };
template<typename T> struct Rotated<3, T> { T w, x, y, z; };
template<typename T, typename M>
ASTASIS_LANES Rotated<2, T> select(const M& m, const Rotated<2, T>& a, const Rotated<2, T>& b) {
    return {select(m, a.c, b.c), select(m, a.s, b.s)};
}
template<typename T, typename M>
ASTASIS_LANES Rotated<3, T> select(const M& m, const Rotated<3, T>& a, const Rotated<3, T>& b) {
    return {select(m, a.w, b.w), select(m, a.x, b.x), select(m, a.y, b.y), select(m, a.z, b.z)};
}
template<typename T> ASTASIS_LANES Rotated<2, T> operator*(const Rotated<2, T>& p, const Rotated<2, T>& q) {
    return {p.c * q.c - p.s * q.s, p.s * q.c + p.c * q.s};
}
template<typename T> ASTASIS_LANES Rotated<3, T> operator*(const Rotated<3, T>& p, const Rotated<3, T>& q) {
    return {
        ((p.w * q.w - p.x * q.x) - p.y * q.y) - p.z * q.z, ((p.w * q.x + p.x * q.w) + p.y * q.z) - p.z * q.y,
        ((p.w * q.y - p.x * q.z) + p.y * q.w) + p.z * q.x, ((p.w * q.z + p.x * q.y) - p.y * q.x) + p.z * q.w};
}
// Back to length 1, for what is all but there: a step of Newton's for 1/sqrt.
template<typename T> ASTASIS_LANES Rotated<2, T> renewed(const Rotated<2, T>& r) {
    const T k = T(1.5) - T(0.5) * (r.c * r.c + r.s * r.s);
    return {r.c * k, r.s * k};
}
template<typename T> ASTASIS_LANES Rotated<3, T> renewed(const Rotated<3, T>& r) {
    const T k = T(1.5) - T(0.5) * (((r.w * r.w + r.x * r.x) + r.y * r.y) + r.z * r.z);
    return {r.w * k, r.x * k, r.y * k, r.z * k};
}

// Fields of one group.
template<int D, typename T> struct Body : Fields<D, T> {
    using L = MotionLayout<D>;

    ASTASIS_LANES Rotated<D, T> rotation(int f) const {
        if constexpr (D == 2) return {this->number(f), this->number(f + 1)};
        else return {this->number(f), this->number(f + 1), this->number(f + 2), this->number(f + 3)};
    }
    ASTASIS_LANES void set_rotation(int f, const Rotated<2, T>& r) const {
        this->set(f, r.c), this->set(f + 1, r.s);
    }
    ASTASIS_LANES void set_rotation(int f, const Rotated<3, T>& r) const {
        this->set(f, r.w), this->set(f + 1, r.x), this->set(f + 2, r.y), this->set(f + 3, r.z);
    }
};

// Rows that stand one after the other.
constexpr int kLanesInOrder[]{0, 1, 2, 3, 4, 5, 6, 7};
template<int D> constexpr int kRowFloats = D == 2 ? 4 : 8;

template<int D, typename T> struct Speeds {
    Vector<D, T> linear;
    Turning<D, T> angular;
};
template<typename T> using FloatsOf = decltype(narrowed(T(0.0)));

template<typename T> ASTASIS_LANES Vector<3, T> three_of(const FourOf<FloatsOf<T>>& r) {
    return {widened(r.a), widened(r.b), widened(r.c)};
}
template<int D, typename T> ASTASIS_LANES Speeds<D, T> load_speeds(const float* rows) {
    using F = FloatsOf<T>;
    const auto r = load_four<F>(rows, kLanesInOrder, kRowFloats<D>);
    if constexpr (D == 2) return {{widened(r.a), widened(r.b)}, widened(r.c)};
    else return {three_of<T>(r), three_of<T>(load_four<F>(rows + 4, kLanesInOrder, kRowFloats<D>))};
}
template<typename T> ASTASIS_LANES void store_speeds(const Speeds<2, T>& v, float* rows) {
    using F = FloatsOf<T>;
    store_four<F>({narrowed(v.linear.x), narrowed(v.linear.y), narrowed(v.angular), F(0.0f)}, rows,
                  kLanesInOrder, kRowFloats<2>);
}
template<typename T> ASTASIS_LANES void store_three(const Vector<3, T>& v, float* rows) {
    using F = FloatsOf<T>;
    store_four<F>({narrowed(v.x), narrowed(v.y), narrowed(v.z), F(0.0f)}, rows, kLanesInOrder, kRowFloats<3>);
}
template<typename T> ASTASIS_LANES void store_speeds(const Speeds<3, T>& v, float* rows) {
    store_three(v.linear, rows), store_three(v.angular, rows + 4);
}

// The float nearest to each number.
template<typename T> ASTASIS_LANES T rounded(const T& x) { return widened(narrowed(x)); }

// Of all lanes; a little more, since it becomes a float.
template<typename T> ASTASIS_LANES float most_of(const T& x) {
    using N = NumberType<T>;
    alignas(64) double of_lane[N::kCount];
    N::store(of_lane, x);
    double most = 0;
    for (const double one : of_lane) most = larger(most, one);
    return static_cast<float>(most * 1.0001);
}

template<int D, typename T> MostGained advance_velocities(double* groups, int count, const MotionRows& rows) {
    using L = MotionLayout<D>;
    using N = NumberType<T>;
    T most_linear(0.0), most_angular(0.0);
    for (int k = 0; k < count; k++) {
        const Body<D, T> body{{groups + k * L::kFields * N::kCount}};
        const std::ptrdiff_t row = offset_of(k * N::kCount, kRowFloats<D>);
        const Speeds<D, T> v = load_speeds<D, T>(rows.velocity + row);
        Speeds<D, T> gain;
        const auto advance = [&](int i, const T& value, T& gained) {
            const T whole = value + body.number(L::kRemainder + i);
            gained = whole * body.number(L::kLost + i) + body.number(L::kAdded + i);
            const T sum = whole + gained, now = rounded(sum);
            body.set(L::kRemainder + i, sum - now);
            body.set(L::kFree + i, now);
        };
        advance(0, v.linear.x, gain.linear.x), advance(1, v.linear.y, gain.linear.y);
        if constexpr (D == 2) advance(2, v.angular, gain.angular);
        else {
            advance(2, v.linear.z, gain.linear.z), advance(3, v.angular.x, gain.angular.x);
            advance(4, v.angular.y, gain.angular.y), advance(5, v.angular.z, gain.angular.z);
        }
        store_speeds(gain, rows.gained + row);
        store_speeds(Speeds<D, T>{body.vector(L::kFree), body.turning(L::kFree + D)}, rows.velocity + row);
        most_linear = larger(most_linear, no_less(gain.linear));
        most_angular = larger(most_angular, no_less(gain.angular));
    }
    return {most_of(most_linear), most_of(most_angular)};
}

ASTASIS_LANES double squared(double a) { return a * a; }
template<int N> ASTASIS_LANES Lanes<N, double> squared(const Lanes<N, double>& a) { return a * a; }
template<typename T> ASTASIS_LANES T squared(const Vector<2, T>& a) { return dot(a, a); }
template<typename T> ASTASIS_LANES T squared(const Vector<3, T>& a) { return dot(a, a); }

// The share of a velocity's change that is taken back for the mean: half, but no more than half of what free
// motion gained (see the head of integrate.h); of both the squares.
template<typename T> ASTASIS_LANES T half_of(const T& change, const T& gained) {
    const auto more = change > gained;
    return T(0.5) * root(select(more, gained / select(more, change, T(1.0)), T(1.0)));
}

// Sine of x over x, and cosine, by x^2; Taylor's series, whose next terms are below 1e-16 for x <= 1/2.
template<typename T, typename... More> ASTASIS_LANES T series(const T& u, double highest, More... others) {
    T sum(highest);
    ((sum = sum * u + T(others)), ...);
    return sum;
}
template<typename T> ASTASIS_LANES T sine_share(const T& u) {
    return series(u, -1.0 / 1307674368000.0, 1.0 / 6227020800.0, -1.0 / 39916800.0, 1.0 / 362880.0,
                  -1.0 / 5040.0, 1.0 / 120.0, -1.0 / 6.0, 1.0);
}
template<typename T> ASTASIS_LANES T cosine_of(const T& u) {
    return series(u, -1.0 / 87178291200.0, 1.0 / 479001600.0, -1.0 / 3628800.0, 1.0 / 40320.0, -1.0 / 720.0,
                  1.0 / 24.0, -0.5, 1.0);
}

// A turn by an angle: the sine of its half over the whole angle, and that half's cosine.
template<typename T> struct HalfTurn { T sine_share, cosine; };
// Lanes beyond the series one by one.
template<typename T> ASTASIS_LANES HalfTurn<T> half_turn(const T& angle_squared) {
    using N = NumberType<T>;
    const auto beyond = angle_squared > T(kSmallTurn * kSmallTurn);
    const T u = angle_squared * T(0.25);
    HalfTurn<T> out{T(0.5) * sine_share(u), cosine_of(u)};
    if (!any(beyond)) return out;
    alignas(64) double squared[N::kCount], share[N::kCount], cosine[N::kCount];
    N::store(squared, angle_squared), N::store(share, out.sine_share), N::store(cosine, out.cosine);
    for (int i = 0; i < N::kCount; i++) {
        if (!is_set(beyond, i)) continue;
        const double angle = std::sqrt(squared[i]);
        const math::SinCos half = math::sin_cos(0.5 * angle);
        share[i] = half.sin / angle, cosine[i] = half.cos;
    }
    return {N::load(share), N::load(cosine)};
}
template<typename T> ASTASIS_LANES Rotated<2, T> turn_of(const HalfTurn<T>& h, const T& angle) {
    const T sine = h.sine_share * angle;
    return {T(1.0) - T(2.0) * sine * sine, T(2.0) * sine * h.cosine};
}
template<typename T> ASTASIS_LANES Rotated<3, T> turn_of(const HalfTurn<T>& h, const Vector<3, T>& angle) {
    return {h.cosine, h.sine_share * angle.x, h.sine_share * angle.y, h.sine_share * angle.z};
}
// A rotation as a matrix of columns.
template<typename T> struct Matrix {
    Vector<3, T> x, y, z;
    ASTASIS_LANES Vector<3, T> to(const Vector<3, T>& v) const { return (x * v.x + y * v.y) + z * v.z; }
    ASTASIS_LANES Vector<3, T> from(const Vector<3, T>& v) const { return {dot(x, v), dot(y, v), dot(z, v)}; }
};
template<typename T> ASTASIS_LANES Matrix<T> matrix_of(const Rotated<3, T>& r) {
    const T two(2.0), one(1.0);
    return {
        {one - two * (r.y * r.y + r.z * r.z), two * (r.x * r.y + r.w * r.z), two * (r.x * r.z - r.w * r.y)},
        {two * (r.x * r.y - r.w * r.z), one - two * (r.x * r.x + r.z * r.z), two * (r.y * r.z + r.w * r.x)},
        {two * (r.x * r.z + r.w * r.y), two * (r.y * r.z - r.w * r.x), one - two * (r.x * r.x + r.y * r.y)}};
}

// A free body's turn and angular momentum in its principal axes.
template<typename T> struct Spin {
    Rotated<3, T> turn;
    Vector<3, T> momentum;

    ASTASIS_LANES void about_x(const T& angle) {
        const HalfTurn<T> half = half_turn(angle * angle);
        const Rotated<2, T> r = turn_of(half, angle);
        turn = turn * Rotated<3, T>{half.cosine, half.sine_share * angle, T(0.0), T(0.0)};
        const T y = momentum.y, z = momentum.z;
        momentum.y = r.c * y + r.s * z, momentum.z = r.c * z - r.s * y;
    }
    ASTASIS_LANES void about_y(const T& angle) {
        const HalfTurn<T> half = half_turn(angle * angle);
        const Rotated<2, T> r = turn_of(half, angle);
        turn = turn * Rotated<3, T>{half.cosine, T(0.0), half.sine_share * angle, T(0.0)};
        const T x = momentum.x, z = momentum.z;
        momentum.x = r.c * x - r.s * z, momentum.z = r.c * z + r.s * x;
    }
};

// Turns what is not round by its mean velocity, and carries its spin so that its angular momentum stays. The
// energy L^2/2I of the last axis is taken for all three, whose flow is a turn about the momentum, and what
// that leaves of the other two, whose flows are turns about these axes: each is exact, and so is all for a
// body round about an axis (Touma and Wisdom 1994, Lie-Poisson integrators for rigid body dynamics). `turn`
// and `angular` are changed in the lanes that follow.
template<typename T>
ASTASIS_LANES void follow_momentum(const Body<3, T>& body, const typename NumberType<T>::Mask& follows,
                                   const Vector<3, T>& mean, double seconds, Rotated<3, T>& turn,
                                   Vector<3, T>& angular) {
    using L = MotionLayout<3>;
    const Vector<3, T> inertia = body.vector(L::kInertia), inverse = body.vector(L::kInverseInertia);
    const Rotated<3, T> start = body.rotation(L::kStart);
    const Vector<3, T> remainder = body.vector(L::kRemainder + 3);
    const Matrix<T> at = matrix_of(renewed(turn * start));
    const Vector<3, T> end_momentum = at.to(times(inertia, at.from(angular + remainder)));

    const T zero(0.0), h(seconds);
    Spin<T> spin{{T(1.0), zero, zero, zero}, times(inertia, at.from(mean + remainder))};
    const Vector<3, T> about_all = at.to(spin.momentum) * (inverse.z * h);
    const T rate_x = (inverse.x - inverse.z) * h * T(0.5), rate_y = (inverse.y - inverse.z) * h;
    spin.about_x(rate_x * spin.momentum.x);
    spin.about_y(rate_y * spin.momentum.y);
    spin.about_x(rate_x * spin.momentum.x);
    const Vector<3, T> own = at.to({spin.turn.x, spin.turn.y, spin.turn.z});
    const Rotated<3, T> end = renewed(turn_of(half_turn(squared(about_all)), about_all) *
                                      (Rotated<3, T>{spin.turn.w, own.x, own.y, own.z} * turn));

    const Matrix<T> then = matrix_of(renewed(end * start));
    const Vector<3, T> after = then.to(times(inverse, then.from(end_momentum)));
    turn = select(follows, end, turn);
    const Vector<3, T> float_after{rounded(after.x), rounded(after.y), rounded(after.z)};
    angular = select(follows, float_after, angular);
    body.set_vector(L::kRemainder + 3, select(follows, after - float_after, remainder));
}

template<typename T> ASTASIS_LANES void store_moved(const Body<2, T>& body, float* rows) {
    using L = MotionLayout<2>;
    using F = FloatsOf<T>;
    const Vector<2, T> place = body.vector(L::kPlace);
    const Rotated<2, T> r = body.rotation(L::kTurn);
    // 1 + c is small only where c - 1 is not.
    const auto ahead = r.c > T(0.0);
    const T c1 = select(ahead, -(r.s * r.s) / select(ahead, T(1.0) + r.c, T(1.0)), r.c - T(1.0));
    store_four<F>({narrowed(place.x), narrowed(place.y), narrowed(r.s), narrowed(c1)}, rows, kLanesInOrder,
                  kRowFloats<2>);
}
template<typename T> ASTASIS_LANES void store_moved(const Body<3, T>& body, float* rows) {
    using L = MotionLayout<3>;
    using F = FloatsOf<T>;
    const Rotated<3, T> r = body.rotation(L::kTurn);
    store_three(body.vector(L::kPlace), rows);
    store_four<F>({narrowed(r.x), narrowed(r.y), narrowed(r.z), narrowed(r.w)}, rows + 4, kLanesInOrder,
                  kRowFloats<3>);
}
template<typename T> ASTASIS_LANES void store_inertia(const Body<3, T>& body, float* rows) {
    using L = MotionLayout<3>;
    using F = FloatsOf<T>;
    const auto follows = body.number(L::kFollows) > T(0.0);
    if (!any(follows)) return; // the others' is the same whatever the pose
    const Vector<3, T> m = body.vector(L::kInverseInertia);
    const Matrix<T> r = matrix_of(renewed(body.rotation(L::kTurn) * body.rotation(L::kStart)));
    const Matrix<T> scaled{r.x * m.x, r.y * m.y, r.z * m.z};
    const Vector<3, T> x = scaled.to({r.x.x, r.y.x, r.z.x}), y = scaled.to({r.x.y, r.y.y, r.z.y}),
                       z = scaled.to({r.x.z, r.y.z, r.z.z});
    const auto old = load_four<F>(rows, kLanesInOrder, kRowFloats<3>),
               rest = load_four<F>(rows + 4, kLanesInOrder, kRowFloats<3>);
    const auto entry = [&](const T& of, const F& otherwise) {
        return narrowed(select(follows, of, widened(otherwise)));
    };
    store_four<F>({entry(x.x, old.a), entry(x.y, old.b), entry(x.z, old.c), entry(y.y, old.d)}, rows,
                  kLanesInOrder, kRowFloats<3>);
    store_four<F>({entry(y.z, rest.a), entry(z.z, rest.b), F(0.0f), F(0.0f)}, rows + 4, kLanesInOrder,
                  kRowFloats<3>);
}

template<int D, typename T>
void advance_poses(double* groups, int count, const MotionRows& rows, double seconds) {
    using L = MotionLayout<D>;
    using N = NumberType<T>;
    const T h(seconds);
    for (int k = 0; k < count; k++) {
        const Body<D, T> body{{groups + k * L::kFields * N::kCount}};
        const std::ptrdiff_t row = offset_of(k * N::kCount, kRowFloats<D>);
        Speeds<D, T> v = load_speeds<D, T>(rows.velocity + row);
        const Speeds<D, T> gain = load_speeds<D, T>(rows.gained + row);
        const Vector<D, T> change = gain.linear + (v.linear - body.vector(L::kFree));
        const Turning<D, T> turned = gain.angular + (v.angular - body.turning(L::kFree + D));
        const Vector<D, T> linear = v.linear - change * half_of(squared(change), squared(gain.linear));
        const Turning<D, T> angular = v.angular - turned * half_of(squared(turned), squared(gain.angular));
        body.set_vector(L::kPlace, body.vector(L::kPlace) + (linear + body.vector(L::kRemainder)) * h);

        const Turning<D, T> angle = angular * h;
        const T size = squared(angle);
        const auto turns = size > T(0.0);
        if (any(turns)) {
            const Rotated<D, T> before = body.rotation(L::kTurn);
            Rotated<D, T> after = select(turns, renewed(turn_of(half_turn(size), angle) * before), before);
            if constexpr (D == 3) {
                const auto follows = body.number(L::kFollows) > T(0.0);
                if (any(follows)) {
                    Rotated<3, T> turn = before;
                    follow_momentum(body, follows, angular, seconds, turn, v.angular);
                    after = select(follows, turn, after);
                    store_three(v.angular, rows.velocity + row + 4);
                }
            }
            body.set_rotation(L::kTurn, after);
        }
        store_moved(body, rows.moved + row);
        if constexpr (D == 3) store_inertia(body, rows.inertia + row);
    }
}

template<int D, typename F> ASTASIS_LANES Vector<D, F> vector_of(const FourOf<F>& r) {
    if constexpr (D == 2) return {r.a, r.b};
    else return {r.a, r.b, r.c};
}
template<int D, typename F> ASTASIS_LANES Turning<D, F> turning_of(const FourOf<F>& r) {
    if constexpr (D == 2) return r.a;
    else return {r.a, r.b, r.c};
}
// Of a row of velocity.
template<int D, typename F>
ASTASIS_LANES Turning<D, F> load_turning(const FourOf<F>& first, const float* row) {
    if constexpr (D == 2) return first.c;
    else return turning_of<3, F>(load_four<F>(row + 4, kLanesInOrder, kRowFloats<3>));
}

// A sum of two lengths is at most the root of twice the sum of their squares.
template<int D, typename T>
int watch(const Path* paths, int count, const MotionRows& rows, float time, float seconds, Watched* out) {
    using F = FloatsOf<T>;
    constexpr int kLanes = NumberType<T>::kCount, kPath = sizeof(Path) / sizeof(float);
    const F h(seconds), half(0.5f), two(2.0f), end(time + seconds);
    int found = 0;
    for (int k = 0; k < count; k++) {
        const std::ptrdiff_t row = offset_of(k * kLanes, kRowFloats<D>);
        const float* path = (paths + offset_of(k, kLanes))->place;
        const auto part = [&](std::ptrdiff_t n) { return load_four<F>(path + 4 * n, kLanesInOrder, kPath); };
        const FourOf<F> place = part(0), velocity = part(1), acceleration = part(2), spin = part(3);
        const auto v = load_four<F>(rows.velocity + row, kLanesInOrder, kRowFloats<D>),
                   gain = load_four<F>(rows.gained + row, kLanesInOrder, kRowFloats<D>),
                   moved = load_four<F>(rows.moved + row, kLanesInOrder, kRowFloats<D>);
        const Turning<D, F> w = load_turning<D, F>(v, rows.velocity + row),
                            w_gain = load_turning<D, F>(gain, rows.gained + row);
        const F since = end - place.d, arm = spin.d * h, square = arm * arm;
        const Vector<D, F> linear = vector_of<D>(v);
        const Vector<D, F> is = vector_of<D>(moved) + (linear - vector_of<D>(gain) * half) * h;
        const Vector<D, F> would =
            vector_of<D>(place) +
            (vector_of<D>(velocity) + vector_of<D>(acceleration) * (half * since)) * since;
        const Vector<D, F> astray = is - would, to = linear * h;
        const F off = dot(astray, astray) + squared_size((w - w_gain * half) - turning_of<D>(spin)) * square;
        const F way = dot(to, to) + squared_size(w) * square;
        const auto is_off = two * off > velocity.d * velocity.d,
                   is_swept = two * way > acceleration.d * acceleration.d;
        if (!any(either(is_off, is_swept))) continue;
        Watched& w_out = out[found++];
        w_out = {static_cast<std::uint32_t>(k * kLanes), 0, 0};
        for (int lane = 0; lane < kLanes; lane++) {
            w_out.off |= is_set(is_off, lane) ? 1u << lane : 0u;
            w_out.swept |= is_set(is_swept, lane) ? 1u << lane : 0u;
        }
    }
    return found;
}

template<int D, typename T>
constexpr MotionKernels<D> kMotion{NumberType<T>::kCount, advance_velocities<D, T>, advance_poses<D, T>,
                                   watch<D, T>};
