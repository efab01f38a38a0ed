// Two bodies and their contact in its own axes, over the number type T: the normal first, then the tangents.
// Included after simd/lanes.h and simd/vector.h, within a namespace and a target region of one instruction
// set.
//
// A row of the contact reads and writes one relative velocity for both bodies and the spin of each:
// with levers and inertias turned into these axes once a substep, a row is a short chain of products. At the
// end of a pass the impulses go back to the bodies in world axes; a body that was given none keeps its
// velocity to the bit.
#pragma once

// Unit vectors across a unit normal, as math::tangents; together they are right-handed.
template<int D, typename T> struct Axes;
template<typename T> struct Axes<2, T> {
    Vector<2, T> n, t;
    ASTASIS_LANES Vector<2, T> to(const Vector<2, T>& v) const { return {dot(v, n), dot(v, t)}; }
    ASTASIS_LANES Vector<2, T> from(const Vector<2, T>& v) const { return n * v.x + t * v.y; }
    ASTASIS_LANES T turn_to(const T& w) const { return w; }
    ASTASIS_LANES T turn_from(const T& w) const { return w; }
};
template<typename T> struct Axes<3, T> {
    Vector<3, T> n, t, u;
    ASTASIS_LANES Vector<3, T> to(const Vector<3, T>& v) const { return {dot(v, n), dot(v, t), dot(v, u)}; }
    ASTASIS_LANES Vector<3, T> from(const Vector<3, T>& v) const { return n * v.x + t * v.y + u * v.z; }
    ASTASIS_LANES Vector<3, T> turn_to(const Vector<3, T>& w) const { return to(w); }
    ASTASIS_LANES Vector<3, T> turn_from(const Vector<3, T>& w) const { return from(w); }
};
template<typename T> ASTASIS_LANES Axes<2, T> axes_of(const Vector<2, T>& n) { return {n, {-n.y, n.x}}; }
template<typename T> ASTASIS_LANES Axes<3, T> axes_of(const Vector<3, T>& n) {
    const T one(1.0f), sign = select(n.z < T(0.0f), T(-1.0f), one);
    const T a = -(one / (sign + n.z)), b = n.x * n.y * a;
    return {n, {one + sign * n.x * n.x * a, sign * b, -(sign * n.x)}, {b, sign + n.y * n.y * a, -n.y}};
}

// The torques of an impulse j along the normal at a lever r, and of tangential impulses; and the velocity
// that a spin w adds there, along the normal and across.
template<typename T> ASTASIS_LANES T normal_torque(const Vector<2, T>& r, const T& j) { return -(r.y * j); }
template<typename T> ASTASIS_LANES Vector<3, T> normal_torque(const Vector<3, T>& r, const T& j) {
    return {T(0.0f), r.z * j, -(r.y * j)};
}
template<typename T> ASTASIS_LANES T normal_speed(const T& w, const Vector<2, T>& r) { return -(w * r.y); }
template<typename T> ASTASIS_LANES T normal_speed(const Vector<3, T>& w, const Vector<3, T>& r) {
    return w.y * r.z - w.z * r.y;
}
// Tangential numbers: one in the plane, two in space.
template<int D, typename T> struct Across;
template<typename T> struct Across<2, T> { T x; };
template<typename T> struct Across<3, T> { T x, y; };
template<typename T> ASTASIS_LANES Across<2, T> across(const Vector<2, T>& v) { return {v.y}; }
template<typename T> ASTASIS_LANES Across<3, T> across(const Vector<3, T>& v) { return {v.y, v.z}; }
template<typename T> ASTASIS_LANES Vector<2, T> all_of(const T& n, const Across<2, T>& t) { return {n, t.x}; }
template<typename T> ASTASIS_LANES Vector<3, T> all_of(const T& n, const Across<3, T>& t) {
    return {n, t.x, t.y};
}
template<typename T> ASTASIS_LANES Across<2, T> across_speed(const T& w, const Vector<2, T>& r) {
    return {w * r.x};
}
template<typename T> ASTASIS_LANES Across<3, T> across_speed(const Vector<3, T>& w, const Vector<3, T>& r) {
    return {w.z * r.x - w.x * r.z, w.x * r.y - w.y * r.x};
}
template<typename T> ASTASIS_LANES T across_torque(const Vector<2, T>& r, const Across<2, T>& j) {
    return r.x * j.x;
}
template<typename T> ASTASIS_LANES Vector<3, T> across_torque(const Vector<3, T>& r, const Across<3, T>& j) {
    return {r.y * j.y - r.z * j.x, -(r.x * j.y), r.x * j.x};
}

template<typename T> ASTASIS_LANES Across<2, T> times(const Across<2, T>& a, const T& s) { return {a.x * s}; }
template<typename T> ASTASIS_LANES Across<3, T> times(const Across<3, T>& a, const T& s) {
    return {a.x * s, a.y * s};
}
template<typename T> ASTASIS_LANES void add_across(Vector<2, T>& v, const Across<2, T>& j) {
    v.y = v.y + j.x;
}
template<typename T> ASTASIS_LANES void add_across(Vector<3, T>& v, const Across<3, T>& j) {
    v.y = v.y + j.x, v.z = v.z + j.y;
}

template<int D, typename T> ASTASIS_LANES Vector<D, T> no_vector(const Vector<D, T>& any) {
    return any - any;
}
template<typename T> ASTASIS_LANES T no_turning(const Vector<2, T>& any) { return any.x - any.x; }
template<typename T> ASTASIS_LANES Vector<3, T> no_turning(const Vector<3, T>& any) { return any - any; }

// A symmetric tensor over the directions of space.
template<int D, typename T> struct Tensor;
template<typename T> struct Tensor<2, T> { T xx, xy, yy; };
template<typename T> struct Tensor<3, T> { T xx, xy, xz, yy, yz, zz; };
template<typename T> ASTASIS_LANES Vector<2, T> operator*(const Tensor<2, T>& m, const Vector<2, T>& v) {
    return {m.xx * v.x + m.xy * v.y, m.xy * v.x + m.yy * v.y};
}
template<typename T> ASTASIS_LANES Vector<3, T> operator*(const Tensor<3, T>& m, const Vector<3, T>& v) {
    return InertiaOf<3, T>{m.xx, m.xy, m.xz, m.yy, m.yz, m.zz} * v;
}
// Of what stands along the world's axes.
template<typename T> ASTASIS_LANES Tensor<2, T> turned(const Axes<2, T>& axes, const Vector<2, T>& d) {
    const auto of = [&](const Vector<2, T>& p, const Vector<2, T>& q) { return dot(times(p, d), q); };
    return {of(axes.n, axes.n), of(axes.n, axes.t), of(axes.t, axes.t)};
}
template<typename T> ASTASIS_LANES Tensor<3, T> turned(const Axes<3, T>& axes, const Vector<3, T>& d) {
    const auto of = [&](const Vector<3, T>& p, const Vector<3, T>& q) { return dot(times(p, d), q); };
    return {of(axes.n, axes.n), of(axes.n, axes.t), of(axes.n, axes.u),
            of(axes.t, axes.t), of(axes.t, axes.u), of(axes.u, axes.u)};
}
template<typename T> ASTASIS_LANES InertiaOf<2, T> turned(const Axes<2, T>&, const InertiaOf<2, T>& m) {
    return m;
}
template<typename T> ASTASIS_LANES InertiaOf<3, T> turned(const Axes<3, T>& axes, const InertiaOf<3, T>& m) {
    const Vector<3, T> n = m * axes.n, t = m * axes.t, u = m * axes.u;
    return {dot(n, axes.n), dot(n, axes.t), dot(n, axes.u), dot(t, axes.t), dot(t, axes.u), dot(u, axes.u)};
}

// The velocities of both bodies while a manifold is solved.
template<int D, typename T> struct Pair {
    Vector<D, T> v;       // of b relative to a, at their centres
    Turning<D, T> wa, wb; // spins
    Vector<D, T> given;   // impulse so far, from a to b
    T mass;               // inverse, of both together, less what locks take
    InertiaOf<D, T> inertia_a, inertia_b;
    bool has_locks;
    Tensor<D, T> locked; // inverse mass beside `mass`, only if has_locks

    ASTASIS_LANES T inverse_mass_along_normal() const { return has_locks ? mass + locked.xx : mass; }
    ASTASIS_LANES T inverse_mass_across() const { return has_locks ? mass + locked.yy : mass; }
    ASTASIS_LANES T speed(const Vector<D, T>& ra, const Vector<D, T>& rb) const {
        return v.x + (normal_speed(wb, rb) - normal_speed(wa, ra));
    }
    // An impulse along the normal; what it turns is not told from it.
    ASTASIS_LANES void push(const T& j) {
        given.x = given.x + j;
        v.x = v.x + j * mass;
        if (has_locks) v = v + locked * all_of(j, across(no_vector(v)));
    }
    ASTASIS_LANES Across<2, T> slip(const Vector<2, T>& ra, const Vector<2, T>& rb) const {
        return {v.y + (across_speed(wb, rb).x - across_speed(wa, ra).x)};
    }
    ASTASIS_LANES Across<3, T> slip(const Vector<3, T>& ra, const Vector<3, T>& rb) const {
        const Across<3, T> a = across_speed(wa, ra), b = across_speed(wb, rb);
        return {v.y + (b.x - a.x), v.z + (b.y - a.y)};
    }
    // As push().
    ASTASIS_LANES void drag(const Across<D, T>& j) {
        add_across(given, j);
        add_across(v, times(j, mass));
        if (has_locks) v = v + locked * all_of(T(0.0f), j);
    }
};
