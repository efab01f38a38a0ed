// Data that the contact kernels read and write: rows of bodies, fields of groups, over the number type T.
// Included after simd/lanes.h, simd/vector.h and contact_axes.inl.h, within a namespace and a target region
// of one instruction set.
#pragma once

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
template<int D, typename T> ASTASIS_LANES InertiaOf<D, T> load_inertia(const float* rows, const int* index) {
    const FourOf<T> r = load_four<T>(rows, index, Layout<D>::kRow);
    if constexpr (D == 2) return {r.a};
    else {
        const FourOf<T> s = load_four<T>(rows + 4, index, Layout<D>::kRow);
        return {r.a, r.b, r.c, r.d, s.a, s.b};
    }
}

// Fields of one group: hot or cold ones of contacts, those of free motion.
template<int D, typename T> struct Fields {
    using N = NumberType<T>;
    typename N::Element* at;

    ASTASIS_LANES typename N::Element* field(int f) const { return at + f * N::kCount; }
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
        else return load_inertia<3, T>(rows, index);
    }
    const int* ints(int f) const { return reinterpret_cast<const int*>(this->field(f)); }
    const int* body_a() const { return ints(L::kBodyA); }
    const int* body_b() const { return ints(L::kBodyB); }
    int most_points() const { return *ints(L::kOfGroup) & L::kMostPointsOfGroup; }
    bool has_locks() const { return (*ints(L::kOfGroup) & L::kLocksInGroup) != 0; }
    bool has_slip() const { return (*ints(L::kOfGroup) & L::kSlipsInGroup) != 0; }
    bool has_exact() const { return (*ints(L::kOfGroup) & L::kExactInGroup) != 0; }
    bool has_unconverged() const { return (*ints(L::kOfGroup) & L::kUnconvergedInGroup) != 0; }
    bool has_bounce() const { return (*ints(L::kOfGroup) & L::kBouncesInGroup) != 0; }
    bool has_rare() const { return (*ints(L::kOfGroup) & L::kRareInGroup) != 0; }
};

// The levers of friction on the two bodies of a manifold, in contact axes: those of its points, in space
// drawn towards the middle of what bears.
template<int D, typename T> struct FrictionLevers;
template<typename T> struct FrictionLevers<2, T> {
    ASTASIS_LANES explicit FrictionLevers(const Group<2, T>&) {}
    ASTASIS_LANES Vector<2, T> of_a(const Vector<2, T>& r) const { return r; }
    ASTASIS_LANES Vector<2, T> of_b(const Vector<2, T>& r) const { return r; }
};
template<typename T> struct FrictionLevers<3, T> {
    using L = Layout<3>;
    T share, ay, az, by, bz;

    ASTASIS_LANES explicit FrictionLevers(const Group<3, T>& g)
        : share(g.number(L::kShare)), ay(g.number(L::kMiddleA)), az(g.number(L::kMiddleA + 1)),
          by(g.number(L::kMiddleB)), bz(g.number(L::kMiddleB + 1)) {}
    ASTASIS_LANES Vector<3, T> of_a(const Vector<3, T>& r) const {
        return {r.x, share * r.y + ay, share * r.z + az};
    }
    ASTASIS_LANES Vector<3, T> of_b(const Vector<3, T>& r) const {
        return {r.x, share * r.y + by, share * r.z + bz};
    }
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

// The impulses on both bodies, in world axes.
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
