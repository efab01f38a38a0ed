// Bytes that were forged, with the right sum: refused with the name of the field, or harmless.
#include "support/cases.h"
#include "support/forged.h"
#include "world/every_call.h"

namespace astasis {
namespace {

template<typename T> class Forged : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(Forged, test::Dimensions);

std::vector<std::byte> with_number(std::vector<std::byte> bytes, std::size_t at, std::uint64_t value,
                                   std::size_t size) {
    test::put_number(bytes, at, value, size);
    test::put_sum_right(bytes);
    return bytes;
}

template<int D> World<D> something_of_each() {
    test::EachKind<D> k;
    test::add_ball<D>(k.world, {2, 0.3}, 0.3f);
    const BodyId last = k.add_crate({20, 20}, 1);
    k.world.move_to(k.lift, {{-4, 0.75}, {}});
    if constexpr (D == 2) {
        const std::vector<Vec2> line{{9, 0}, {8, 0.2f}, {7, 0}};
        k.world.add({.motion = Motion::Static, .shapes = {{Polyline::open(line)}}});
    } else {
        const std::vector<Vec3> corners{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {1, 1, 1}};
        k.world.add({.pose = {{12, 3}, {}}, .shapes = {{Hull::around(corners)}}});
        const std::vector<TriangleMesh::Triangle> triangles{{0, 1, 2}, {1, 3, 2}};
        k.world.add({.motion = Motion::Static,
                     .pose = {{14, 0}, {}},
                     .shapes = {{TriangleMesh::of(corners, triangles)}}});
    }
    k.world.remove(last);
    test::step(k.world, 3);
    return std::move(k.world);
}

// The name of a field without its places: "bytes.rows[].island".
std::string name_of(const std::string& field) {
    std::string out;
    bool inside = false;
    for (const char c : field) {
        if (c == ']') inside = false;
        if (!inside) out += c;
        if (c == '[') inside = true;
    }
    return out;
}

template<int D> struct Forger {
    World<D> world = something_of_each<D>(), other = something_of_each<D>();
    std::vector<std::byte> bytes = world.save_bytes();
    std::uint64_t before = other.fingerprint();
    std::set<std::string> refused; // fields

    Forger() { other.step(), before = other.fingerprint(); }
    // Whether it is refused; what is not is stepped.
    bool is_refused(std::span<const std::byte> forged) {
        try {
            World<D> made;
            made.restore_bytes(forged);
            for (int i = 0; i < 3; i++) made.step();
            made.contacts(), made.energy(), made.save_bytes();
            return false;
        } catch (const Error& e) {
            EXPECT_EQ(e.field().rfind("bytes", 0), 0u) << e.what();
            EXPECT_FALSE(e.accepted().empty() || e.given().empty()) << e.what();
            refused.insert(name_of(e.field()));
        }
        return true;
    }
};

TYPED_TEST(Forged, ARefusedSnapshotLeavesTheWorldAsItWas) {
    Forger<TypeParam::value> f;
    int refusals = 0;
    for (std::size_t at = test::kHeadOfBytes; at < f.bytes.size(); at += 13) {
        const auto forged = with_number(f.bytes, at, 0xffffffffu, 4);
        if (!f.is_refused(forged)) continue;
        EXPECT_THROW(f.other.restore_bytes(forged), Error);
        refusals++;
    }
    EXPECT_EQ(f.other.fingerprint(), f.before);
    EXPECT_GT(refusals, 100);
}

// A wrong number at each place in turn: every kind of field that can lead out of memory or into a loop
// without end is named by a refusal.
TYPED_TEST(Forged, EachFieldThatCouldDoHarmIsRefusedByName) {
    constexpr int D = TypeParam::value;
    Forger<D> f;
    const std::size_t step = ASTASIS_DEFAULT_CASES < 1000 ? 29 : 1;
    for (std::size_t at = test::kHeadOfBytes; at < f.bytes.size(); at += step)
        f.is_refused(with_number(f.bytes, at, at % 2 == 0 ? 0x7f : 0x7fc00000, at % 2 == 0 ? 1 : 4));
    if (step > 1) return; // sanitizers look at a part
    for (const std::string field : {"bytes.spec.substeps",
                                    "bytes.spec.sleeping",
                                    "bytes.spec.tick",
                                    "bytes.ticks",
                                    "bytes.next_key",
                                    "bytes.slots",
                                    "bytes.joint_slots",
                                    "bytes.field_slots",
                                    "bytes.materials.slots",
                                    "bytes.moving",
                                    "bytes.bodies.motion[]",
                                    "bytes.bodies.mass[]",
                                    "bytes.bodies.mass[].isotropic",
                                    "bytes.bodies.pose[].rotation",
                                    "bytes.rows[].island",
                                    "bytes.rows[].numbers",
                                    "bytes.rows[].colliders",
                                    "bytes.rows[].shapes[]",
                                    "bytes.rows[].shapes[].shared",
                                    "bytes.rows[].shapes[].is_sensor",
                                    "bytes.listed[]",
                                    "bytes.free_colliders[]",
                                    "bytes.manifolds[]",
                                    "bytes.manifolds[].guide",

                                    "bytes.asleep[].bodies",
                                    "bytes.asleep[].contacts",
                                    "bytes.joints[].kind",
                                    "bytes.joint_entries[]",
                                    "bytes.joint_entries[].spec",
                                    "bytes.rows[].joints",
                                    "bytes.fields[]",
                                    "bytes.event_kinds.touches",
                                    "bytes.sensed[].collider",
                                    "bytes.colliders[].key",
                                    "bytes.rows[].shapes[].geometry.columns"})
        EXPECT_TRUE(f.refused.contains(field)) << field;
    if constexpr (D == 3) {
        EXPECT_TRUE(f.refused.contains("bytes.rows[].shapes[].loops"));
        EXPECT_TRUE(f.refused.contains("bytes.rows[].shapes[].around"));
    }
}

TYPED_TEST(Forged, RandomNumbersAtRandomPlacesAreRefusedOrHarmless) {
    Forger<TypeParam::value> f;
    test::Numbers n(27);
    const auto below = [&](std::size_t count) {
        return static_cast<std::size_t>(n.in(0, static_cast<double>(count)));
    };
    const std::uint64_t values[]{0,
                                 1,
                                 2,
                                 0xff,
                                 0xffff,
                                 0x7f800000,
                                 0x7fc00000,
                                 0x7f7fffff,
                                 0xffffffff,
                                 0x80000000,
                                 0x3f800000,
                                 0x7fefffffffffffff,
                                 0x7ff0000000000000,
                                 0xffffffffffffffff};
    int refused = 0;
    for (int i = 0; i < test::cases(); i++) {
        auto forged = f.bytes;
        for (std::size_t k = 0; k <= below(3); k++)
            test::put_number(forged, test::kHeadOfBytes + below(forged.size() - test::kHeadOfBytes),
                             values[below(std::size(values))] + below(3), std::size_t{1} << below(4));
        test::put_sum_right(forged);
        refused += f.is_refused(forged);
    }
    EXPECT_GT(refused, test::cases() / 4);
}

}
}
