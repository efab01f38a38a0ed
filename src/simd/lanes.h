// Lanes<N>: N floats side by side, and what float and Lanes have in common, so that a kernel over a number
// type T is written once. Included within a namespace and a target region: see README.md here.
// ASTASIS_REGISTER is the number of floats in a register there; N is a power of two, at least 4, and may be
// more than a register.
#pragma once

#define ASTASIS_LANES [[gnu::always_inline]] inline

// Not one template: g++ 12 takes a vector type whose size depends on a parameter for its element.
template<int N> struct Registers;
#define ASTASIS_REGISTERS(N)                                                                                 \
    template<> struct Registers<N> {                                                                         \
        typedef float Floats __attribute__((vector_size(N * sizeof(float))));                                \
        typedef int Ints __attribute__((vector_size(N * sizeof(int))));                                      \
    };
ASTASIS_REGISTERS(4)
ASTASIS_REGISTERS(8)
ASTASIS_REGISTERS(16)
#undef ASTASIS_REGISTERS

template<int N> struct Lanes {
    using Floats = typename Registers<N>::Floats;
    using Ints = typename Registers<N>::Ints;
    Floats v;
    Lanes() = default;
    ASTASIS_LANES explicit Lanes(float x) : v(x - Floats{}) {}
    ASTASIS_LANES explicit Lanes(const Floats& x) : v(x) {}
};
// Per lane all bits or none.
template<int N> struct LaneMask { typename Lanes<N>::Ints v; };

// What kernels ask of a number type: how many it holds, its mask, loading from and storing to aligned floats.
template<typename T> struct NumberType;
template<> struct NumberType<float> {
    static constexpr int kCount = 1;
    using Mask = bool;
    ASTASIS_LANES static float load(const float* p) { return *p; }
    ASTASIS_LANES static void store(float* p, float x) { *p = x; }
    ASTASIS_LANES static bool mask(bool x) { return x; }
    // Lanes whose int is `value`.
    ASTASIS_LANES static bool equal(const float* p, int value) { return std::bit_cast<int>(*p) == value; }
};
template<int N> struct NumberType<Lanes<N>> {
    static constexpr int kCount = N;
    using Mask = LaneMask<N>;
    ASTASIS_LANES static Lanes<N> load(const float* p) {
        return Lanes<N>(
            *static_cast<const typename Lanes<N>::Floats*>(__builtin_assume_aligned(p, N * sizeof(float))));
    }
    ASTASIS_LANES static void store(float* p, const Lanes<N>& x) {
        *static_cast<typename Lanes<N>::Floats*>(__builtin_assume_aligned(p, N * sizeof(float))) = x.v;
    }
    ASTASIS_LANES static LaneMask<N> mask(bool x) { return {typename Lanes<N>::Ints{} - (x ? 1 : 0)}; }
    ASTASIS_LANES static LaneMask<N> equal(const float* p, int value) {
        return {*static_cast<const typename Lanes<N>::Ints*>(
                    __builtin_assume_aligned(p, N * sizeof(float))) == value};
    }
};

#define ASTASIS_LANES_OPERATOR(op)                                                                           \
    template<int N> ASTASIS_LANES Lanes<N> operator op(const Lanes<N>& a, const Lanes<N>& b) {               \
        return Lanes<N>(a.v op b.v);                                                                         \
    }
ASTASIS_LANES_OPERATOR(+)
ASTASIS_LANES_OPERATOR(-)
ASTASIS_LANES_OPERATOR(*)
ASTASIS_LANES_OPERATOR(/)
#undef ASTASIS_LANES_OPERATOR
template<int N> ASTASIS_LANES Lanes<N> operator-(const Lanes<N>& a) { return Lanes<N>(-a.v); }

#define ASTASIS_LANES_COMPARISON(op)                                                                         \
    template<int N> ASTASIS_LANES LaneMask<N> operator op(const Lanes<N>& a, const Lanes<N>& b) {            \
        return {a.v op b.v};                                                                                 \
    }
ASTASIS_LANES_COMPARISON(<)
ASTASIS_LANES_COMPARISON(<=)
ASTASIS_LANES_COMPARISON(>)
ASTASIS_LANES_COMPARISON(==)
#undef ASTASIS_LANES_COMPARISON

template<int N> ASTASIS_LANES LaneMask<N> both(const LaneMask<N>& a, const LaneMask<N>& b) {
    return {a.v & b.v};
}
template<int N> ASTASIS_LANES LaneMask<N> either(const LaneMask<N>& a, const LaneMask<N>& b) {
    return {a.v | b.v};
}
ASTASIS_LANES bool both(bool a, bool b) { return a && b; }
ASTASIS_LANES bool either(bool a, bool b) { return a || b; }

template<int N>
ASTASIS_LANES Lanes<N> select(const LaneMask<N>& mask, const Lanes<N>& yes, const Lanes<N>& no) {
    return Lanes<N>(mask.v ? yes.v : no.v);
}
ASTASIS_LANES float select(bool mask, float yes, float no) { return mask ? yes : no; }
template<typename T> ASTASIS_LANES T larger(const T& a, const T& b) { return select(a > b, a, b); }
template<typename T> ASTASIS_LANES T smaller(const T& a, const T& b) { return select(a < b, a, b); }

ASTASIS_LANES bool any(bool mask) { return mask; }
ASTASIS_LANES bool all(bool mask) { return mask; }
ASTASIS_LANES bool is_set(bool mask, int) { return mask; }
ASTASIS_LANES float root(float x) { return std::sqrt(x); }

template<int N> ASTASIS_LANES bool is_set(const LaneMask<N>& mask, int lane) { return mask.v[lane] != 0; }

#if ASTASIS_REGISTER > 1
// Square roots go by registers.
template<int N> ASTASIS_LANES Lanes<N> root(const Lanes<N>& x) {
    Lanes<N> out;
    for (int i = 0; i < N; i += ASTASIS_REGISTER) {
        float part[ASTASIS_REGISTER];
        __builtin_memcpy(part, reinterpret_cast<const float*>(&x.v) + i, sizeof part);
#if ASTASIS_REGISTER == 16
        _mm512_storeu_ps(part, _mm512_maskz_sqrt_ps(0xffff, _mm512_loadu_ps(part)));
#elif ASTASIS_REGISTER == 8
        _mm256_storeu_ps(part, _mm256_sqrt_ps(_mm256_loadu_ps(part)));
#else
        _mm_storeu_ps(part, _mm_sqrt_ps(_mm_loadu_ps(part)));
#endif
        __builtin_memcpy(reinterpret_cast<float*>(&out.v) + i, part, sizeof part);
    }
    return out;
}
#endif

template<int N> ASTASIS_LANES bool any(const LaneMask<N>& mask) {
    long long parts[N / 2], sum = 0;
    __builtin_memcpy(parts, &mask.v, sizeof parts);
    for (const long long p : parts) sum |= p;
    return sum != 0;
}
template<int N> ASTASIS_LANES bool all(const LaneMask<N>& mask) {
    long long parts[N / 2], product = -1;
    __builtin_memcpy(parts, &mask.v, sizeof parts);
    for (const long long p : parts) product &= p;
    return product == -1;
}

ASTASIS_LANES std::ptrdiff_t offset_of(int row, int stride) {
    return static_cast<std::ptrdiff_t>(row) * stride;
}

// Rows of four floats, one a lane, and the four Lanes of their columns.
template<int N> struct Columns { Lanes<N> a, b, c, d; };
using FourFloats = Registers<4>::Floats;

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
