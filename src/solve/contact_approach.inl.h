// Points that may meet within a substep, over the number type T. Included after contact_rows.inl.h.
#pragma once

// Approach speeds of two bodies, in contact axes.
template<int D, typename T> struct Approaching {
    Vector<D, T> linear;
    Turning<D, T> wa, wb;

    Approaching() = default;
    ASTASIS_LANES Approaching(const Axes<D, T>& axes, const Velocity<D, T>& a, const Velocity<D, T>& b)
        : linear(axes.to(a.linear - b.linear)), wa(axes.turn_to(a.angular)), wb(axes.turn_to(b.angular)) {}
    ASTASIS_LANES T along_normal(const Vector<D, T>& arm_a, const Vector<D, T>& arm_b) const {
        return linear.x + (normal_speed(wa, arm_a) - normal_speed(wb, arm_b));
    }
};

// The lanes of one point that may meet within the substep.
template<int D, typename T> struct ApproachSearch {
    using L = Layout<D>;
    using N = NumberType<T>;
    const BodyRows& rows;
    T seconds, linear, angular; // by what both together may have gained
    Approach* out;
    int found = 0;

    ASTASIS_LANES ApproachSearch(const BodyRows& all, float h, Approach* to)
        : rows(all), seconds(h), linear(2.0f * all.most_gained.linear), angular(all.most_gained.angular),
          out(to) {}

    // It may if it comes on, bears next to nothing, and is so near.
    ASTASIS_LANES auto may_meet(const T& gap, const T& push, const T& push_mass, const T& most) const {
        const T zero(0.0f);
        return both(both(push <= T(kDwarfed) * push_mass * larger(most, zero), most > zero),
                    gap <= seconds * most);
    }
    // Most points cannot, whatever their bodies gained: these velocities need not be loaded.
    ASTASIS_LANES void look(const Group<D, T>& g, int k, int i, const T& gap, const Axes<D, T>& axes,
                            const Approaching<D, T>& velocities) {
        const int p = L::point(i);
        const Vector<D, T> arm_a = g.vector(p + L::kArmA), arm_b = g.vector(p + L::kArmB);
        const T push = g.number(p + L::kPush), push_mass = g.number(p + L::kPushMass);
        const T gained = linear + angular * (no_less(arm_a) + no_less(arm_b));
        const T speed = velocities.along_normal(arm_a, arm_b);
        if (any(may_meet(gap, push, push_mass, speed + gained)))
            look_closer(g, k, i, gap, axes, arm_a, arm_b, speed);
    }
    void look_closer(const Group<D, T>& g, int k, int i, const T& gap, const Axes<D, T>& axes,
                     const Vector<D, T>& arm_a, const Vector<D, T>& arm_b, const T& speed) {
        const Approaching<D, T> gains(axes, load_velocity<D, T>(rows.gained, g.body_a()),
                                      load_velocity<D, T>(rows.gained, g.body_b()));
        const int p = L::point(i);
        const T gained = gains.along_normal(arm_a, arm_b);
        const T most = larger(speed, speed - gained);
        const auto may =
            both(may_meet(gap, g.number(p + L::kPush), g.number(p + L::kPushMass), most), most > gained);
        if (!any(may)) return;
        alignas(64) float of_gap[N::kCount], of_speed[N::kCount], of_gained[N::kCount];
        N::store(of_gap, gap), N::store(of_speed, speed), N::store(of_gained, gained);
        for (int lane = 0; lane < N::kCount; lane++)
            if (is_set(may, lane))
                out[found++] = {static_cast<std::uint32_t>(k),
                                static_cast<std::uint32_t>(lane),
                                static_cast<std::uint32_t>(i),
                                of_gap[lane],
                                of_speed[lane],
                                of_gained[lane]};
    }
};
