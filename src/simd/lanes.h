// Lanes<N>: N floats side by side, Lanes<N, double>: N doubles; and what they and single numbers have in
// common, so that a kernel over a number type T is written once. Included within a namespace and a target
// region: see README.md here. ASTASIS_REGISTER is the number of floats in a register there; N is a power of
// two, at least 4, and may be more than a register.
#pragma once

#define ASTASIS_LANES [[gnu::always_inline]] inline

// Not one template: g++ 12 takes a vector type whose size depends on a parameter for its element.
template<int N, typename E> struct Registers;
#define ASTASIS_REGISTERS(N, E, I)                                                                           \
    template<> struct Registers<N, E> {                                                                      \
        typedef E Floats __attribute__((vector_size(N * sizeof(E))));                                        \
        typedef I Ints __attribute__((vector_size(N * sizeof(I))));                                          \
    };
ASTASIS_REGISTERS(4, float, int)
ASTASIS_REGISTERS(8, float, int)
ASTASIS_REGISTERS(16, float, int)
ASTASIS_REGISTERS(4, double, long long)
ASTASIS_REGISTERS(8, double, long long)
#undef ASTASIS_REGISTERS

template<int N, typename E = float> struct Lanes {
    using Floats = typename Registers<N, E>::Floats;
    using Ints = typename Registers<N, E>::Ints;
    Floats v;
    Lanes() = default;
    ASTASIS_LANES explicit Lanes(E x) : v(x - Floats{}) {}
    ASTASIS_LANES explicit Lanes(const Floats& x) : v(x) {}
};
// Per lane all bits or none.
template<int N, typename E = float> struct LaneMask { typename Lanes<N, E>::Ints v; };

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
template<int N, typename E> struct NumberType<Lanes<N, E>> {
    static constexpr int kCount = N;
    using Element = E;
    using Mask = LaneMask<N, E>;
    using Floats = typename Lanes<N, E>::Floats;
    using Ints = typename Lanes<N, E>::Ints;
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

// Floats as doubles, exactly, and doubles rounded to floats.
ASTASIS_LANES double widened(float x) { return x; }
ASTASIS_LANES float narrowed(double x) { return static_cast<float>(x); }
template<int N> ASTASIS_LANES Lanes<N, double> widened(const Lanes<N>& x) {
    return Lanes<N, double>(__builtin_convertvector(x.v, typename Registers<N, double>::Floats));
}
template<int N> ASTASIS_LANES Lanes<N> narrowed(const Lanes<N, double>& x) {
    return Lanes<N>(__builtin_convertvector(x.v, typename Registers<N, float>::Floats));
}

#define ASTASIS_LANES_OPERATOR(op)                                                                           \
    template<int N, typename E>                                                                              \
    ASTASIS_LANES Lanes<N, E> operator op(const Lanes<N, E>& a, const Lanes<N, E>& b) {                      \
        return Lanes<N, E>(a.v op b.v);                                                                      \
    }
ASTASIS_LANES_OPERATOR(+)
ASTASIS_LANES_OPERATOR(-)
ASTASIS_LANES_OPERATOR(*)
ASTASIS_LANES_OPERATOR(/)
#undef ASTASIS_LANES_OPERATOR
template<int N, typename E> ASTASIS_LANES Lanes<N, E> operator-(const Lanes<N, E>& a) {
    return Lanes<N, E>(-a.v);
}

#define ASTASIS_LANES_COMPARISON(op)                                                                         \
    template<int N, typename E>                                                                              \
    ASTASIS_LANES LaneMask<N, E> operator op(const Lanes<N, E>& a, const Lanes<N, E>& b) {                   \
        return {a.v op b.v};                                                                                 \
    }
ASTASIS_LANES_COMPARISON(<)
ASTASIS_LANES_COMPARISON(<=)
ASTASIS_LANES_COMPARISON(>)
ASTASIS_LANES_COMPARISON(==)
#undef ASTASIS_LANES_COMPARISON

template<int N, typename E>
ASTASIS_LANES LaneMask<N, E> both(const LaneMask<N, E>& a, const LaneMask<N, E>& b) {
    return {a.v & b.v};
}
template<int N, typename E>
ASTASIS_LANES LaneMask<N, E> either(const LaneMask<N, E>& a, const LaneMask<N, E>& b) {
    return {a.v | b.v};
}
template<int N, typename E> ASTASIS_LANES LaneMask<N, E> opposite(const LaneMask<N, E>& a) { return {~a.v}; }
ASTASIS_LANES bool opposite(bool a) { return !a; }
ASTASIS_LANES bool both(bool a, bool b) { return a && b; }
ASTASIS_LANES bool either(bool a, bool b) { return a || b; }

template<int N, typename E>
ASTASIS_LANES Lanes<N, E> select(const LaneMask<N, E>& mask, const Lanes<N, E>& yes, const Lanes<N, E>& no) {
    return Lanes<N, E>(mask.v ? yes.v : no.v);
}
ASTASIS_LANES float select(bool mask, float yes, float no) { return mask ? yes : no; }
ASTASIS_LANES double select(bool mask, double yes, double no) { return mask ? yes : no; }
template<typename T> ASTASIS_LANES T larger(const T& a, const T& b) { return select(a > b, a, b); }
template<typename T> ASTASIS_LANES T smaller(const T& a, const T& b) { return select(a < b, a, b); }

ASTASIS_LANES bool any(bool mask) { return mask; }
ASTASIS_LANES bool all(bool mask) { return mask; }
ASTASIS_LANES bool is_set(bool mask, int) { return mask; }
ASTASIS_LANES float root(float x) { return std::sqrt(x); }
ASTASIS_LANES double root(double x) { return std::sqrt(x); }

template<int N, typename E> ASTASIS_LANES bool is_set(const LaneMask<N, E>& mask, int lane) {
    return mask.v[lane] != 0;
}

#if ASTASIS_REGISTER > 1
// Square roots go by registers.
#if ASTASIS_REGISTER == 16
ASTASIS_LANES void root_of_register(float* x) {
    _mm512_storeu_ps(x, _mm512_maskz_sqrt_ps(0xffff, _mm512_loadu_ps(x)));
}
ASTASIS_LANES void root_of_register(double* x) {
    _mm512_storeu_pd(x, _mm512_maskz_sqrt_pd(0xff, _mm512_loadu_pd(x)));
}
#elif ASTASIS_REGISTER == 8
ASTASIS_LANES void root_of_register(float* x) { _mm256_storeu_ps(x, _mm256_sqrt_ps(_mm256_loadu_ps(x))); }
ASTASIS_LANES void root_of_register(double* x) { _mm256_storeu_pd(x, _mm256_sqrt_pd(_mm256_loadu_pd(x))); }
#else
ASTASIS_LANES void root_of_register(float* x) { _mm_storeu_ps(x, _mm_sqrt_ps(_mm_loadu_ps(x))); }
ASTASIS_LANES void root_of_register(double* x) { _mm_storeu_pd(x, _mm_sqrt_pd(_mm_loadu_pd(x))); }
#endif
template<int N, typename E> ASTASIS_LANES Lanes<N, E> root(const Lanes<N, E>& x) {
    constexpr int kPart = ASTASIS_REGISTER * static_cast<int>(sizeof(float)) / static_cast<int>(sizeof(E));
    Lanes<N, E> out;
    for (int i = 0; i < N; i += kPart) {
        E part[kPart];
        __builtin_memcpy(part, reinterpret_cast<const E*>(&x.v) + i, sizeof part);
        root_of_register(part);
        __builtin_memcpy(reinterpret_cast<E*>(&out.v) + i, part, sizeof part);
    }
    return out;
}
#endif

template<int N, typename E> ASTASIS_LANES bool any(const LaneMask<N, E>& mask) {
    long long parts[sizeof mask / sizeof(long long)], sum = 0;
    __builtin_memcpy(parts, &mask.v, sizeof parts);
    for (const long long p : parts) sum |= p;
    return sum != 0;
}
template<int N, typename E> ASTASIS_LANES bool all(const LaneMask<N, E>& mask) {
    long long parts[sizeof mask / sizeof(long long)], product = -1;
    __builtin_memcpy(parts, &mask.v, sizeof parts);
    for (const long long p : parts) product &= p;
    return product == -1;
}

ASTASIS_LANES std::ptrdiff_t offset_of(int row, int stride) {
    return static_cast<std::ptrdiff_t>(row) * stride;
}

// Rows of four floats, one a lane, and the four Lanes of their columns.
template<int N> struct Columns { Lanes<N> a, b, c, d; };
using FourFloats = Registers<4, float>::Floats;

ASTASIS_LANES void transpose(FourFloats& a, FourFloats& b, FourFloats& c, FourFloats& d) {
    const FourFloats ab = __builtin_shufflevector(a, b, 0, 4, 1, 5),
                     ab_high = __builtin_shufflevector(a, b, 2, 6, 3, 7);
    const FourFloats cd = __builtin_shufflevector(c, d, 0, 4, 1, 5),
                     cd_high = __builtin_shufflevector(c, d, 2, 6, 3, 7);
    a = __builtin_shufflevector(ab, cd, 0, 1, 4, 5), b = __builtin_shufflevector(ab, cd, 2, 3, 6, 7);
    c = __builtin_shufflevector(ab_high, cd_high, 0, 1, 4, 5),
    d = __builtin_shufflevector(ab_high, cd_high, 2, 3, 6, 7);
}
template<int N, int... I>
ASTASIS_LANES Lanes<2 * N> joined(const Lanes<N>& low, const Lanes<N>& high,
                                  std::integer_sequence<int, I...>) {
    return Lanes<2 * N>(__builtin_shufflevector(low.v, high.v, I...));
}
template<int N, int... I>
ASTASIS_LANES Lanes<N / 2> part_of(const Lanes<N>& x, std::integer_sequence<int, I...>) {
    return Lanes<N / 2>(__builtin_shufflevector(x.v, x.v, I...));
}
template<int N, int... I>
ASTASIS_LANES Lanes<N / 2> high_part_of(const Lanes<N>& x, std::integer_sequence<int, I...>) {
    return Lanes<N / 2>(__builtin_shufflevector(x.v, x.v, (I + N / 2)...));
}
template<int N> ASTASIS_LANES Lanes<2 * N> joined(const Lanes<N>& low, const Lanes<N>& high) {
    return joined(low, high, std::make_integer_sequence<int, 2 * N>());
}
template<int N> ASTASIS_LANES Lanes<N / 2> low_of(const Lanes<N>& x) {
    return part_of(x, std::make_integer_sequence<int, N / 2>());
}
template<int N> ASTASIS_LANES Lanes<N / 2> high_of(const Lanes<N>& x) {
    return high_part_of(x, std::make_integer_sequence<int, N / 2>());
}

// The rows begin at base + stride * index[lane]; bases and strides keep them aligned to 16 bytes.
template<int N> ASTASIS_LANES Columns<N> load_rows(const float* base, const int* index, int stride) {
    if constexpr (N == 4) {
        const auto row = [&](int i) {
            return *static_cast<const FourFloats*>(
                __builtin_assume_aligned(base + offset_of(index[i], stride), 16));
        };
        FourFloats a = row(0), b = row(1), c = row(2), d = row(3);
        transpose(a, b, c, d);
        return {Lanes<4>(a), Lanes<4>(b), Lanes<4>(c), Lanes<4>(d)};
    } else {
        const auto low = load_rows<N / 2>(base, index, stride),
                   high = load_rows<N / 2>(base, index + N / 2, stride);
        return {joined(low.a, high.a), joined(low.b, high.b), joined(low.c, high.c), joined(low.d, high.d)};
    }
}
template<int N>
ASTASIS_LANES void store_rows(const Columns<N>& x, float* base, const int* index, int stride) {
    if constexpr (N == 4) {
        FourFloats a = x.a.v, b = x.b.v, c = x.c.v, d = x.d.v;
        transpose(a, b, c, d);
        const auto row = [&](int i, FourFloats r) {
            *static_cast<FourFloats*>(__builtin_assume_aligned(base + offset_of(index[i], stride), 16)) = r;
        };
        row(0, a), row(1, b), row(2, c), row(3, d);
    } else {
        store_rows<N / 2>({low_of(x.a), low_of(x.b), low_of(x.c), low_of(x.d)}, base, index, stride);
        store_rows<N / 2>({high_of(x.a), high_of(x.b), high_of(x.c), high_of(x.d)}, base, index + N / 2,
                          stride);
    }
}

// Four numbers of each row, whatever the number type.
template<typename T> struct FourOf { T a, b, c, d; };
template<typename T> ASTASIS_LANES FourOf<T> load_four(const float* base, const int* index, int stride) {
    if constexpr (NumberType<T>::kCount == 1) {
        const float* p = base + offset_of(index[0], stride);
        return {p[0], p[1], p[2], p[3]};
    } else {
        const auto c = load_rows<NumberType<T>::kCount>(base, index, stride);
        return {c.a, c.b, c.c, c.d};
    }
}
template<typename T>
ASTASIS_LANES void store_four(const FourOf<T>& x, float* base, const int* index, int stride) {
    if constexpr (NumberType<T>::kCount == 1) {
        float* p = base + offset_of(index[0], stride);
        p[0] = x.a, p[1] = x.b, p[2] = x.c, p[3] = x.d;
    } else {
        store_rows<NumberType<T>::kCount>({x.a, x.b, x.c, x.d}, base, index, stride);
    }
}
