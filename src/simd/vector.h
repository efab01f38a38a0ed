// Vectors of a number type, float or Lanes: Vector<2, T>, Vector<3, T>, what turns (Turning<D, T>) and
// inertia. Products are written out in the order of astasis::Vec. Included after lanes.h, in the same place.
#pragma once

template<int D, typename T> struct Vector;
template<typename T> struct Vector<2, T> { T x, y; };
template<typename T> struct Vector<3, T> { T x, y, z; };

template<typename T> ASTASIS_LANES Vector<2, T> operator+(const Vector<2, T>& a, const Vector<2, T>& b) {
    return {a.x + b.x, a.y + b.y};
}
template<typename T> ASTASIS_LANES Vector<2, T> operator-(const Vector<2, T>& a, const Vector<2, T>& b) {
    return {a.x - b.x, a.y - b.y};
}
template<typename T> ASTASIS_LANES Vector<2, T> operator*(const Vector<2, T>& a, const T& s) {
    return {a.x * s, a.y * s};
}
template<typename T> ASTASIS_LANES Vector<2, T> times(const Vector<2, T>& a, const Vector<2, T>& b) {
    return {a.x * b.x, a.y * b.y};
}
template<typename T> ASTASIS_LANES T dot(const Vector<2, T>& a, const Vector<2, T>& b) {
    return a.x * b.x + a.y * b.y;
}
template<typename T> ASTASIS_LANES T cross(const Vector<2, T>& a, const Vector<2, T>& b) {
    return a.x * b.y - a.y * b.x;
}
template<typename T> ASTASIS_LANES Vector<2, T> cross(const T& w, const Vector<2, T>& r) {
    return {-(w * r.y), w * r.x};
}

template<typename T> ASTASIS_LANES Vector<3, T> operator+(const Vector<3, T>& a, const Vector<3, T>& b) {
    return {a.x + b.x, a.y + b.y, a.z + b.z};
}
template<typename T> ASTASIS_LANES Vector<3, T> operator-(const Vector<3, T>& a, const Vector<3, T>& b) {
    return {a.x - b.x, a.y - b.y, a.z - b.z};
}
template<typename T> ASTASIS_LANES Vector<3, T> operator-(const Vector<3, T>& a) {
    return {-a.x, -a.y, -a.z};
}
template<typename T> ASTASIS_LANES Vector<3, T> operator*(const Vector<3, T>& a, const T& s) {
    return {a.x * s, a.y * s, a.z * s};
}
template<typename T> ASTASIS_LANES Vector<3, T> times(const Vector<3, T>& a, const Vector<3, T>& b) {
    return {a.x * b.x, a.y * b.y, a.z * b.z};
}
template<typename T> ASTASIS_LANES T dot(const Vector<3, T>& a, const Vector<3, T>& b) {
    return (a.x * b.x + a.y * b.y) + a.z * b.z;
}
template<typename T> ASTASIS_LANES Vector<3, T> cross(const Vector<3, T>& a, const Vector<3, T>& b) {
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
// What turns in the plane is a number; this gives both dimensions one spelling.
ASTASIS_LANES float dot(float a, float b) { return a * b; }
template<int N, typename E> ASTASIS_LANES Lanes<N, E> dot(const Lanes<N, E>& a, const Lanes<N, E>& b) {
    return a * b;
}

template<typename T, typename M>
ASTASIS_LANES Vector<2, T> select(const M& m, const Vector<2, T>& a, const Vector<2, T>& b) {
    return {select(m, a.x, b.x), select(m, a.y, b.y)};
}
template<typename T, typename M>
ASTASIS_LANES Vector<3, T> select(const M& m, const Vector<3, T>& a, const Vector<3, T>& b) {
    return {select(m, a.x, b.x), select(m, a.y, b.y), select(m, a.z, b.z)};
}

template<int D, typename T> struct TurningOf { using Type = T; };
template<typename T> struct TurningOf<3, T> { using Type = Vector<3, T>; };
template<int D, typename T> using Turning = typename TurningOf<D, T>::Type;

// Inverse inertia in world axes: a number; a symmetric tensor.
template<int D, typename T> struct InertiaOf;
template<typename T> struct InertiaOf<2, T> { T xx; };
template<typename T> struct InertiaOf<3, T> { T xx, xy, xz, yy, yz, zz; };
template<typename T> ASTASIS_LANES T operator*(const InertiaOf<2, T>& m, const T& w) { return m.xx * w; }
template<typename T> ASTASIS_LANES Vector<3, T> operator*(const InertiaOf<3, T>& m, const Vector<3, T>& v) {
    return {(m.xx * v.x + m.xy * v.y) + m.xz * v.z, (m.xy * v.x + m.yy * v.y) + m.yz * v.z,
            (m.xz * v.x + m.yz * v.y) + m.zz * v.z};
}
template<typename T, typename M>
ASTASIS_LANES InertiaOf<2, T> select(const M& m, const InertiaOf<2, T>& a, const InertiaOf<2, T>& b) {
    return {select(m, a.xx, b.xx)};
}
template<typename T, typename M>
ASTASIS_LANES InertiaOf<3, T> select(const M& m, const InertiaOf<3, T>& a, const InertiaOf<3, T>& b) {
    return {select(m, a.xx, b.xx), select(m, a.xy, b.xy), select(m, a.xz, b.xz),
            select(m, a.yy, b.yy), select(m, a.yz, b.yz), select(m, a.zz, b.zz)};
}
template<typename T> ASTASIS_LANES T trace(const InertiaOf<2, T>& m) { return m.xx; }
template<typename T> ASTASIS_LANES T trace(const InertiaOf<3, T>& m) { return (m.xx + m.yy) + m.zz; }

// A turn as its change of a vector: near none it keeps all its digits. In the plane the sine and the cosine
// less one, in space the vector part of a quaternion and its scalar part.
template<int D, typename T> struct Turn;
template<typename T> struct Turn<2, T> { T s, c1; };
template<typename T> struct Turn<3, T> {
    Vector<3, T> q;
    T w;
};
template<typename T> ASTASIS_LANES Vector<2, T> change_by(const Turn<2, T>& r, const Vector<2, T>& v) {
    return {r.c1 * v.x - r.s * v.y, r.s * v.x + r.c1 * v.y};
}
template<typename T> ASTASIS_LANES Vector<3, T> change_by(const Turn<3, T>& r, const Vector<3, T>& v) {
    const Vector<3, T> t = cross(r.q, v) * T(2.0f);
    return t * r.w + cross(r.q, t);
}
template<typename T, typename M>
ASTASIS_LANES Turn<2, T> select(const M& m, const Turn<2, T>& a, const Turn<2, T>& b) {
    return {select(m, a.s, b.s), select(m, a.c1, b.c1)};
}
template<typename T, typename M>
ASTASIS_LANES Turn<3, T> select(const M& m, const Turn<3, T>& a, const Turn<3, T>& b) {
    return {select(m, a.q, b.q), select(m, a.w, b.w)};
}

template<typename T> ASTASIS_LANES auto same(const Vector<2, T>& a, const Vector<2, T>& b) {
    return both(a.x == b.x, a.y == b.y);
}
template<typename T> ASTASIS_LANES auto same(const Vector<3, T>& a, const Vector<3, T>& b) {
    return both(both(a.x == b.x, a.y == b.y), a.z == b.z);
}
// At least the length.
template<typename T> ASTASIS_LANES T no_less(const T& x) { return larger(x, -x); }
template<typename T> ASTASIS_LANES T no_less(const Vector<2, T>& v) { return no_less(v.x) + no_less(v.y); }
template<typename T> ASTASIS_LANES T no_less(const Vector<3, T>& v) {
    return no_less(v.x) + (no_less(v.y) + no_less(v.z));
}

// `otherwise` where it is too short to have a direction.
template<int D, typename T>
ASTASIS_LANES Vector<D, T> direction(const Vector<D, T>& a, const Vector<D, T>& otherwise) {
    const T n = root(dot(a, a));
    const auto is_long = n > T(1e-18f);
    return select(is_long, a * (T(1.0f) / select(is_long, n, T(1.0f))), otherwise);
}
