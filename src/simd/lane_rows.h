// Rows of four floats, one a lane, and the four Lanes of their columns. Included after lanes.h, in the same
// place.
#pragma once

template<int N> struct Columns { Lanes<N> a, b, c, d; };

ASTASIS_LANES std::ptrdiff_t offset_of(int row, int stride) {
    return static_cast<std::ptrdiff_t>(row) * stride;
}

// A register of rows: of every fourth lane.
template<int N> ASTASIS_LANES Lanes<N> load_every_fourth(const float* base, const int* index, int stride) {
    if constexpr (N == 4) return NumberType<Lanes<N>>::load(base + offset_of(index[0], stride));
    else
        return joined(load_every_fourth<N / 2>(base, index, stride),
                      load_every_fourth<N / 2>(base, index + N / 2, stride));
}
template<int N>
ASTASIS_LANES void store_every_fourth(const Lanes<N>& x, float* base, const int* index, int stride) {
    if constexpr (N == 4) NumberType<Lanes<N>>::store(base + offset_of(index[0], stride), x);
    else {
        store_every_fourth<N / 2>(low_of(x), base, index, stride);
        store_every_fourth<N / 2>(high_of(x), base, index + N / 2, stride);
    }
}

// Of each four numbers of a and of b the first two (From = 0) or the last two (2): in turn, or pair by pair.
template<int From, int N, int... I>
ASTASIS_LANES Lanes<N> in_turn(const Lanes<N>& a, const Lanes<N>& b, std::integer_sequence<int, I...>) {
    return Lanes<N>(__builtin_shufflevector(a.v, b.v, (I / 4 * 4 + From + I % 4 / 2 + I % 2 * N)...));
}
template<int From, int N, int... I>
ASTASIS_LANES Lanes<N> by_pairs(const Lanes<N>& a, const Lanes<N>& b, std::integer_sequence<int, I...>) {
    return Lanes<N>(__builtin_shufflevector(a.v, b.v, (I / 4 * 4 + From + I % 2 + I % 4 / 2 * N)...));
}
// Four by four, for each four lanes.
template<int N> ASTASIS_LANES Columns<N> transposed(const Columns<N>& r) {
    constexpr std::make_integer_sequence<int, N> kAll;
    const auto ab = in_turn<0>(r.a, r.b, kAll), ab_rest = in_turn<2>(r.a, r.b, kAll);
    const auto cd = in_turn<0>(r.c, r.d, kAll), cd_rest = in_turn<2>(r.c, r.d, kAll);
    return {by_pairs<0>(ab, cd, kAll), by_pairs<2>(ab, cd, kAll), by_pairs<0>(ab_rest, cd_rest, kAll),
            by_pairs<2>(ab_rest, cd_rest, kAll)};
}

// The rows begin at base + stride * index[lane]; bases and strides keep them aligned to 16 bytes.
template<int N> ASTASIS_LANES Columns<N> load_rows(const float* base, const int* index, int stride) {
    if constexpr (kFits<N, float>) {
        const auto rows = [&](int lane) { return load_every_fourth<N>(base, index + lane, stride); };
        return transposed(Columns<N>{rows(0), rows(1), rows(2), rows(3)});
    } else {
        const auto low = load_rows<N / 2>(base, index, stride),
                   high = load_rows<N / 2>(base, index + N / 2, stride);
        return {{low.a, high.a}, {low.b, high.b}, {low.c, high.c}, {low.d, high.d}};
    }
}
template<int N>
ASTASIS_LANES void store_rows(const Columns<N>& x, float* base, const int* index, int stride) {
    if constexpr (kFits<N, float>) {
        const Columns<N> rows = transposed(x);
        store_every_fourth(rows.a, base, index, stride);
        store_every_fourth(rows.b, base, index + 1, stride);
        store_every_fourth(rows.c, base, index + 2, stride);
        store_every_fourth(rows.d, base, index + 3, stride);
    } else {
        store_rows<N / 2>({x.a.low, x.b.low, x.c.low, x.d.low}, base, index, stride);
        store_rows<N / 2>({x.a.high, x.b.high, x.c.high, x.d.high}, base, index + N / 2, stride);
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
