// Lanes<N>: N floats side by side, Lanes<N, double>: N doubles; and what they and single numbers have in
// common, so that a kernel over a number type T is written once. Included within a namespace and a target
// region: see README.md here. ASTASIS_REGISTER is the number of floats in a register there; N is a power of
// two and may be more than a register: then it is two halves, each of which may be two halves. What is done
// to one half does not wait for the other, so that two registers at once hide the delays of each other.
#pragma once

#define ASTASIS_LANES [[gnu::always_inline]] inline
// Before a loop over a few things whose number is known.
#if defined(__clang__)
#define ASTASIS_UNROLL _Pragma("clang loop unroll(full)")
#else
#define ASTASIS_UNROLL _Pragma("GCC unroll 8")
#endif

// Not one template: g++ 12 takes a vector type whose size depends on a parameter for its element.
template<int N, typename E> struct Registers;
#define ASTASIS_REGISTERS(N, E, I)                                                                           \
    template<> struct Registers<N, E> {                                                                      \
        typedef E Floats __attribute__((vector_size(N * sizeof(E))));                                        \
        typedef I Ints __attribute__((vector_size(N * sizeof(I))));                                          \
    };
ASTASIS_REGISTERS(2, float, int)
ASTASIS_REGISTERS(4, float, int)
ASTASIS_REGISTERS(8, float, int)
ASTASIS_REGISTERS(16, float, int)
ASTASIS_REGISTERS(2, double, long long)
ASTASIS_REGISTERS(4, double, long long)
ASTASIS_REGISTERS(8, double, long long)
#undef ASTASIS_REGISTERS

template<int N, typename E> inline constexpr bool kFits = N * sizeof(E) <= ASTASIS_REGISTER * sizeof(float);

template<int N, typename E = float, bool = kFits<N, E>> struct Lanes {
    Lanes<N / 2, E> low, high;
    Lanes() = default;
    ASTASIS_LANES explicit Lanes(E x) : low(x), high(x) {}
    ASTASIS_LANES Lanes(const Lanes<N / 2, E>& l, const Lanes<N / 2, E>& h) : low(l), high(h) {}
};
template<int N, typename E> struct Lanes<N, E, true> {
    typename Registers<N, E>::Floats v;
    Lanes() = default;
    ASTASIS_LANES explicit Lanes(E x) : v(x - typename Registers<N, E>::Floats{}) {}
    ASTASIS_LANES explicit Lanes(const typename Registers<N, E>::Floats& x) : v(x) {}
};
// Per lane all bits or none.
template<int N, typename E = float, bool = kFits<N, E>> struct LaneMask { LaneMask<N / 2, E> low, high; };
template<int N, typename E> struct LaneMask<N, E, true> { typename Registers<N, E>::Ints v; };

// What kernels ask of a number type: how many it holds, its mask, loading from and storing to aligned floats.
template<typename T> struct NumberType;
template<typename E> struct SingleNumber {
    static constexpr int kCount = 1;
    using Element = E;
    using Mask = bool;
    ASTASIS_LANES static E load(const E* p) { return *p; }
    ASTASIS_LANES static void store(E* p, E x) { *p = x; }
    ASTASIS_LANES static bool mask(bool x) { return x; }
};
template<> struct NumberType<double> : SingleNumber<double> {};
template<> struct NumberType<float> : SingleNumber<float> {
    // Lanes whose int is `value`.
    ASTASIS_LANES static bool equal(const float* p, int value) { return std::bit_cast<int>(*p) == value; }
};
template<int N, typename E> struct NumberType<Lanes<N, E, false>> {
    static constexpr int kCount = N;
    using Element = E;
    using Mask = LaneMask<N, E>;
    using Half = NumberType<Lanes<N / 2, E>>;
    ASTASIS_LANES static Lanes<N, E> load(const E* p) { return {Half::load(p), Half::load(p + N / 2)}; }
    ASTASIS_LANES static void store(E* p, const Lanes<N, E>& x) {
        Half::store(p, x.low), Half::store(p + N / 2, x.high);
    }
    ASTASIS_LANES static Mask mask(bool x) { return {Half::mask(x), Half::mask(x)}; }
    ASTASIS_LANES static Mask equal(const float* p, int value) {
        return {Half::equal(p, value), Half::equal(p + N / 2, value)};
    }
};
template<int N, typename E> struct NumberType<Lanes<N, E, true>> {
    static constexpr int kCount = N;
    using Element = E;
    using Mask = LaneMask<N, E>;
    using Floats = typename Registers<N, E>::Floats;
    using Ints = typename Registers<N, E>::Ints;
    ASTASIS_LANES static Lanes<N, E> load(const E* p) {
        return Lanes<N, E>(*static_cast<const Floats*>(__builtin_assume_aligned(p, N * sizeof(E))));
    }
    ASTASIS_LANES static void store(E* p, const Lanes<N, E>& x) {
        *static_cast<Floats*>(__builtin_assume_aligned(p, N * sizeof(E))) = x.v;
    }
    ASTASIS_LANES static Mask mask(bool x) { return {Ints{} - (x ? 1 : 0)}; }
    ASTASIS_LANES static Mask equal(const float* p, int value) {
        return {*static_cast<const Ints*>(__builtin_assume_aligned(p, N * sizeof(float))) == value};
    }
};

#define ASTASIS_LANES_OPERATOR(op)                                                                           \
    template<int N, typename E>                                                                              \
    ASTASIS_LANES Lanes<N, E> operator op(const Lanes<N, E>& a, const Lanes<N, E>& b) {                      \
        if constexpr (kFits<N, E>) return Lanes<N, E>(a.v op b.v);                                           \
        else return {a.low op b.low, a.high op b.high};                                                      \
    }
ASTASIS_LANES_OPERATOR(+)
ASTASIS_LANES_OPERATOR(-)
ASTASIS_LANES_OPERATOR(*)
ASTASIS_LANES_OPERATOR(/)
#undef ASTASIS_LANES_OPERATOR
template<int N, typename E> ASTASIS_LANES Lanes<N, E> operator-(const Lanes<N, E>& a) {
    if constexpr (kFits<N, E>) return Lanes<N, E>(-a.v);
    else return {-a.low, -a.high};
}

#define ASTASIS_LANES_COMPARISON(op)                                                                         \
    template<int N, typename E>                                                                              \
    ASTASIS_LANES LaneMask<N, E> operator op(const Lanes<N, E>& a, const Lanes<N, E>& b) {                   \
        if constexpr (kFits<N, E>) return {a.v op b.v};                                                      \
        else return {a.low op b.low, a.high op b.high};                                                      \
    }
ASTASIS_LANES_COMPARISON(<)
ASTASIS_LANES_COMPARISON(<=)
ASTASIS_LANES_COMPARISON(>)
ASTASIS_LANES_COMPARISON(==)
#undef ASTASIS_LANES_COMPARISON

template<int N, typename E>
ASTASIS_LANES LaneMask<N, E> both(const LaneMask<N, E>& a, const LaneMask<N, E>& b) {
    if constexpr (kFits<N, E>) return {a.v & b.v};
    else return {both(a.low, b.low), both(a.high, b.high)};
}
template<int N, typename E>
ASTASIS_LANES LaneMask<N, E> either(const LaneMask<N, E>& a, const LaneMask<N, E>& b) {
    if constexpr (kFits<N, E>) return {a.v | b.v};
    else return {either(a.low, b.low), either(a.high, b.high)};
}
template<int N, typename E> ASTASIS_LANES LaneMask<N, E> opposite(const LaneMask<N, E>& a) {
    if constexpr (kFits<N, E>) return {~a.v};
    else return {opposite(a.low), opposite(a.high)};
}
ASTASIS_LANES bool opposite(bool a) { return !a; }
ASTASIS_LANES bool both(bool a, bool b) { return a && b; }
ASTASIS_LANES bool either(bool a, bool b) { return a || b; }

template<int N, typename E>
ASTASIS_LANES Lanes<N, E> select(const LaneMask<N, E>& mask, const Lanes<N, E>& yes, const Lanes<N, E>& no) {
    if constexpr (kFits<N, E>) return Lanes<N, E>(mask.v ? yes.v : no.v);
    else return {select(mask.low, yes.low, no.low), select(mask.high, yes.high, no.high)};
}
ASTASIS_LANES float select(bool mask, float yes, float no) { return mask ? yes : no; }
ASTASIS_LANES double select(bool mask, double yes, double no) { return mask ? yes : no; }
template<typename T> ASTASIS_LANES T larger(const T& a, const T& b) { return select(a > b, a, b); }
template<typename T> ASTASIS_LANES T smaller(const T& a, const T& b) { return select(a < b, a, b); }

ASTASIS_LANES float root(float x) { return std::sqrt(x); }
ASTASIS_LANES double root(double x) { return std::sqrt(x); }
#if ASTASIS_REGISTER == 16
ASTASIS_LANES auto root_of(const Lanes<16>& x) { return _mm512_maskz_sqrt_ps(0xffff, x.v); }
ASTASIS_LANES auto root_of(const Lanes<8, double>& x) { return _mm512_maskz_sqrt_pd(0xff, x.v); }
#elif ASTASIS_REGISTER == 8
ASTASIS_LANES auto root_of(const Lanes<8>& x) { return _mm256_sqrt_ps(x.v); }
ASTASIS_LANES auto root_of(const Lanes<4, double>& x) { return _mm256_sqrt_pd(x.v); }
#elif ASTASIS_REGISTER == 4 && defined(__aarch64__)
ASTASIS_LANES auto root_of(const Lanes<4>& x) { return vsqrtq_f32(x.v); }
ASTASIS_LANES auto root_of(const Lanes<2, double>& x) { return vsqrtq_f64(x.v); }
#elif ASTASIS_REGISTER == 4
ASTASIS_LANES auto root_of(const Lanes<4>& x) { return _mm_sqrt_ps(x.v); }
ASTASIS_LANES auto root_of(const Lanes<2, double>& x) { return _mm_sqrt_pd(x.v); }
#endif
template<int N, typename E> ASTASIS_LANES Lanes<N, E> root(const Lanes<N, E>& x) {
    if constexpr (kFits<N, E>) return Lanes<N, E>(typename Registers<N, E>::Floats(root_of(x)));
    else return {root(x.low), root(x.high)};
}

ASTASIS_LANES bool any(bool mask) { return mask; }
ASTASIS_LANES bool all(bool mask) { return mask; }
ASTASIS_LANES bool is_set(bool mask, int) { return mask; }
template<int N, typename E> ASTASIS_LANES bool is_set(const LaneMask<N, E>& mask, int lane) {
    if constexpr (kFits<N, E>) return mask.v[lane] != 0;
    else return lane < N / 2 ? is_set(mask.low, lane) : is_set(mask.high, lane - N / 2);
}
template<int N, typename E> ASTASIS_LANES bool any(const LaneMask<N, E>& mask) {
    if constexpr (!kFits<N, E>) return any(either(mask.low, mask.high));
    else {
        long long parts[sizeof mask / sizeof(long long)], sum = 0;
        __builtin_memcpy(parts, &mask.v, sizeof parts);
        for (const long long p : parts) sum |= p;
        return sum != 0;
    }
}
template<int N, typename E> ASTASIS_LANES bool all(const LaneMask<N, E>& mask) {
    return !any(opposite(mask));
}

// Halves of lanes, and what two make.
template<int N, int... I>
ASTASIS_LANES Lanes<2 * N> joined(const Lanes<N>& low, const Lanes<N>& high,
                                  std::integer_sequence<int, I...>) {
    return Lanes<2 * N>(__builtin_shufflevector(low.v, high.v, I...));
}
template<int N> ASTASIS_LANES Lanes<2 * N> joined(const Lanes<N>& low, const Lanes<N>& high) {
    if constexpr (kFits<2 * N, float>) return joined(low, high, std::make_integer_sequence<int, 2 * N>());
    else return {low, high};
}
template<int First, int N, int... I>
ASTASIS_LANES Lanes<N / 2> half_of(const Lanes<N>& x, std::integer_sequence<int, I...>) {
    return Lanes<N / 2>(__builtin_shufflevector(x.v, x.v, (I + First)...));
}
template<int N> ASTASIS_LANES Lanes<N / 2> low_of(const Lanes<N>& x) {
    if constexpr (kFits<N, float>) return half_of<0>(x, std::make_integer_sequence<int, N / 2>());
    else return x.low;
}
template<int N> ASTASIS_LANES Lanes<N / 2> high_of(const Lanes<N>& x) {
    if constexpr (kFits<N, float>) return half_of<N / 2>(x, std::make_integer_sequence<int, N / 2>());
    else return x.high;
}

// Floats as doubles, exactly, and doubles rounded to floats.
ASTASIS_LANES double widened(float x) { return x; }
ASTASIS_LANES float narrowed(double x) { return static_cast<float>(x); }
template<int N> ASTASIS_LANES Lanes<N, double> widened(const Lanes<N>& x) {
    if constexpr (kFits<N, double>)
        return Lanes<N, double>(__builtin_convertvector(x.v, typename Registers<N, double>::Floats));
    else return {widened(low_of(x)), widened(high_of(x))};
}
template<int N> ASTASIS_LANES Lanes<N> narrowed(const Lanes<N, double>& x) {
    if constexpr (kFits<N, double>)
        return Lanes<N>(__builtin_convertvector(x.v, typename Registers<N, float>::Floats));
    else return joined(narrowed(x.low), narrowed(x.high));
}
