// Impulses of rows, over the number type T. Included after contact_geometry.inl.h.
#pragma once

template<int D, typename T> struct Block : Fields<D, T> {
    using R = RowLayout<D>;
    using N = NumberType<T>;

    ASTASIS_LANES Block(float* groups, int k) : Fields<D, T>{groups + k * R::kFields * N::kCount} {}
    const int* ints(int f) const { return reinterpret_cast<const int*>(this->field(f)); }
    const int* body_a() const { return ints(R::kBodyA); }
    const int* body_b() const { return ints(R::kBodyB); }
    int most_rows() const { return *ints(R::kMostRows); }
};

// The direction of a row's impulse.
template<int D, typename T> struct Acts {
    Vector<D, T> along;
    Turning<D, T> turn_a, turn_b;

    ASTASIS_LANES Acts(const Block<D, T>& block, int row)
        : along(block.vector(row + RowLayout<D>::kAlong)), turn_a(block.turning(row + RowLayout<D>::kTurnA)),
          turn_b(block.turning(row + RowLayout<D>::kTurnB)) {}
};

// Both bodies of a block.
template<int D, typename T> struct BothBodies {
    Velocity<D, T> a, b;
    Vector<D, T> mass_a, mass_b; // inverse, along the world's axes
    InertiaOf<D, T> inertia_a, inertia_b;

    ASTASIS_LANES BothBodies(const Block<D, T>& block, const BodyRows& rows)
        : a(load_velocity<D, T>(rows.velocity, block.body_a())),
          b(load_velocity<D, T>(rows.velocity, block.body_b())), mass_a(block.vector(RowLayout<D>::kMassA)),
          mass_b(block.vector(RowLayout<D>::kMassB)),
          inertia_a(load_inertia<D, T>(rows.inertia, block.body_a())),
          inertia_b(load_inertia<D, T>(rows.inertia, block.body_b())) {}
    ASTASIS_LANES void gain(const Acts<D, T>& row, const T& j) {
        a.linear = a.linear - times(row.along, mass_a) * j,
        b.linear = b.linear + times(row.along, mass_b) * j;
        a.angular = a.angular - (inertia_a * row.turn_a) * j;
        b.angular = b.angular + (inertia_b * row.turn_b) * j;
    }
    ASTASIS_LANES void store(const Block<D, T>& block, const BodyRows& rows) const {
        store_velocity(a, rows.velocity, block.body_a()), store_velocity(b, rows.velocity, block.body_b());
    }
};

template<int D, typename T> void begin_rows(float* groups, int count, const BodyRows& rows) {
    using R = RowLayout<D>;
    for (int k = 0; k < count; k++) {
        const Block<D, T> block(groups, k);
        BothBodies<D, T> both(block, rows);
        const int most = block.most_rows();
        for (int i = 0; i < most; i++) {
            const int r = R::row(i);
            const Acts<D, T> row(block, r);
            const T meets =
                dot(times(row.along, both.mass_a + both.mass_b), row.along) +
                (dot(both.inertia_a * row.turn_a, row.turn_a) + dot(both.inertia_b * row.turn_b, row.turn_b));
            block.set(r + R::kMass, one_over(meets));
            both.gain(row, block.number(r + R::kImpulse));
        }
        both.store(block, rows);
    }
}

template<int D, typename T>
void solve_rows(float* groups, int count, const BodyRows& rows, bool with_feedback) {
    using R = RowLayout<D>;
    const T zero(0.0f), one(1.0f);
    for (int k = 0; k < count; k++) {
        const Block<D, T> block(groups, k);
        BothBodies<D, T> both(block, rows);
        const int most = block.most_rows();
        for (int i = 0; i < most; i++) {
            const int r = R::row(i);
            const Acts<D, T> row(block, r);
            const T leak = with_feedback ? block.number(r + R::kLeak) : zero;
            const T wanted =
                block.number(r + R::kWanted) + (with_feedback ? block.number(r + R::kFeedback) : zero);
            const T speed = dot(row.along, both.b.linear - both.a.linear) +
                            (dot(row.turn_b, both.b.angular) - dot(row.turn_a, both.a.angular));
            const T old = block.number(r + R::kImpulse);
            const T softly =
                old + (block.number(r + R::kMass) * (one - leak) * (wanted - speed) - leak * old);
            const T now = smaller(larger(softly, block.number(r + R::kLeast)), block.number(r + R::kMost));
            block.set(r + R::kImpulse, now);
            both.gain(row, now - old);
        }
        both.store(block, rows);
    }
}

template<int D, typename T>
constexpr RowKernels<D> kRowKernels{NumberType<T>::kCount, begin_rows<D, T>, solve_rows<D, T>};
