// A world's state as bytes: what each type consists of, and the frame around it all.
#include "world/bytes.h"

#include "world/state.h"
#include "world/walk.h"

#include <array>

namespace astasis {
namespace {

constexpr std::uint32_t kVersion = 12;
constexpr std::array<char, 8> kMark{'a', 's', 't', 'a', 's', 'i', 's', '\n'};

std::uint64_t checksum(std::span<const std::byte> bytes) {
    base::Hash hash;
    for (std::size_t i = 0; i < bytes.size(); i += 8) {
        std::uint64_t word = 0;
        for (std::size_t k = 0; k < 8 && i + k < bytes.size(); k++)
            word |= static_cast<std::uint64_t>(bytes[i + k]) << (8 * k);
        hash.add(word);
    }
    return hash.value();
}

// The header before the state.
struct Head {
    std::array<char, 8> mark = kMark;
    std::uint32_t version = kVersion, dimension = 0;
    std::uint64_t size = 0, sum = 0;

    template<typename Archive> void pass(Archive& archive) {
        for (char& c : mark) archive(c);
        archive(version), archive(dimension), archive(size), archive(sum);
    }
};
constexpr std::size_t kHeadSize = 32;

std::span<const std::byte> checked_state(std::span<const std::byte> bytes, int dimension) {
    const char* accepted = "all the bytes that save_bytes gave";
    if (bytes.size() < kHeadSize)
        throw Error("bytes", std::to_string(bytes.size()) + " bytes, less than a snapshot's head", accepted);
    Head head;
    ByteReader reader(bytes);
    head.pass(reader);
    if (head.mark != kMark) throw Error("bytes", "something that is no snapshot", accepted);
    if (head.version != kVersion)
        throw Error("bytes", "a snapshot of version " + std::to_string(head.version),
                    "version " + std::to_string(kVersion) + ", that of this library");
    if (head.dimension != static_cast<std::uint32_t>(dimension))
        throw Error("bytes", "a world of " + std::to_string(head.dimension) + " dimensions",
                    "one of " + std::to_string(dimension));
    const auto state = bytes.subspan(kHeadSize);
    if (state.size() != head.size)
        throw Error("bytes",
                    std::to_string(state.size()) + " bytes of " + std::to_string(head.size) +
                        " after the head",
                    accepted);
    if (checksum(state) != head.sum)
        throw Error("bytes", "a snapshot that was altered: its sum is another one", accepted);
    return state;
}

}

template<int Dim> template<typename Archive> void World<Dim>::State::pass(Archive& archive) {
    Walk<Archive> walk(archive);
    walk.all(spec.gravity, spec.tick, spec.substeps, spec.extra_work, spec.sleeping);
    walk.all(tuning.correction, tuning.softness, tuning.known_share, tuning.iterations,
             tuning.plain_iterations);
    walk.all(tuning.converged, tuning.most_thicknesses_a_second);
    walk.all(ticks, next_key, time_then, ticks_then);
    slots.pass_all(walk);
    materials.slots.pass_all(walk);
    walk.all(materials.shared, materials.pairs);
    walk.all(work.kinematic, work.surfaces, work.thrusts, work.motors, work.fields, work.hooks);
    std::uint64_t moving = bodies.moving;
    walk(moving);
    bodies.moving = moving;
    walk.all(bodies.pose, bodies.velocity, bodies.remainder, bodies.mass);
    walk.all(bodies.push, bodies.free, bodies.motion, bodies.still, bodies.claim);
    walk(rows, [&](Row& row) {
        walk.all(row.shapes, row.numbers, row.next_number, row.colliders, row.mass_given, row.target,
                 row.driven, row.thrust);
        walk.all(row.last_velocity, row.last_change);
        walk.all(row.previous, row.user_data, row.nonfinite, row.listed);
        walk.all(row.may_sleep, row.sweep, row.island);
        walk(row.joints);
    });
    field_slots.pass_all(walk);
    walk(fields);
    joint_slots.pass_all(walk);
    walk(joints);
    walk(joint_entries, [&](JointEntry& e) {
        walk.any_of(e.spec);
        walk.all(e.a, e.b);
    });
    walk.all(listed, free_colliders, manifolds);
    walk(asleep, [&](Asleep& island) {
        walk(island.bodies);
        walk(island.contacts, [&](SleepingContact& c) { walk.all(c.manifold, c.a, c.b); });
    });
    walk.all(free_islands, ungrouped);
    walk.all(event_kinds.touches, event_kinds.strikes, event_kinds.sleep, event_kinds.poses,
             event_kinds.least_speed);
    walk(touching, [&](Touching& t) {
        walk.all(t.key_a, t.key_b, t.touch.body_a, t.touch.body_b, t.touch.shape_a, t.touch.shape_b);
    });
    walk(sensed, [&](Sensed& s) {
        walk.all(s.sensor_key, s.key, s.collider, s.crossing.sensor_body, s.crossing.body);
        walk.all(s.crossing.sensor, s.crossing.shape, s.crossing.time);
    });
    walk.all(woken, placed, stopped, edited, sleepers_looked_at);
    walk(colliders, [&](flow::Collider<Dim>& c) { walk(c.key); });
}

// Throws Error for what could not have been written, so that no place leads out of an array.
template<int Dim> void World<Dim>::State::check_places() const {
    const std::size_t n = rows.size();
    for (const std::size_t size :
         {bodies.pose.size(), bodies.velocity.size(), bodies.remainder.size(), bodies.mass.size(),
          bodies.push.size(), bodies.free.size(), bodies.motion.size(), bodies.still.size(),
          bodies.claim.size(), slots.size(), listed.size()})
        if (size != n) contradiction();
    if (bodies.moving > n || materials.slots.size() != materials.shared.size()) contradiction();
    std::vector<std::uint8_t> used(colliders.size());
    const auto use = [&](std::uint32_t c) {
        if (c >= used.size() || used[c]++ > 0) contradiction();
    };
    for (const std::uint32_t c : free_colliders) use(c);
    for (const Row& row : rows) {
        if (row.colliders.size() != row.shapes.size() || row.listed >= n) contradiction();
        for (const std::uint32_t c : row.colliders) use(c);
        for (const auto& shape : row.shapes) check_shared(shape, "bytes");
    }
    for (const BodyId id : listed) place(id);
    for (const Sensed& s : sensed)
        if (s.collider >= colliders.size()) contradiction();
    for (const std::uint32_t k : free_islands)
        if (k >= asleep.size()) contradiction();
    for (std::size_t i = 0; i < n; i++) {
        const std::uint32_t k = rows[i].island;
        if (k != Row::kAwake && k != Row::kUngrouped && k >= asleep.size()) contradiction();
        if ((k == Row::kAwake) != (i < bodies.moving || bodies.motion[i] == Motion::Static)) contradiction();
    }
    for (const Asleep& island : asleep)
        for (const BodyId id : island.bodies) place(id);
    for (const auto& m : manifolds)
        if (m.body_a >= n || m.body_b >= n) contradiction();
    if (fields.size() != field_slots.size()) contradiction();
    for (const auto& field : fields) check_field(field);
    if (joints.size() != joint_slots.size() || joint_entries.size() != joints.size()) contradiction();
    for (std::size_t j = 0; j < joints.size(); j++) {
        const JointEntry& e = joint_entries[j];
        if (joints[j].kind > flow::JointKind::Tow || joints[j].body_a != place(e.a) ||
            joints[j].body_b != (e.b ? place(*e.b) : flow::kWorld))
            contradiction();
    }
    for (const Row& row : rows)
        for (const JointId id : row.joints) joint_place(id);
}

template<int Dim> std::vector<std::byte> World<Dim>::save_bytes() const {
    state_->refuse_in_tick();
    ByteWriter state;
    state_->pass(state); // reads only, when it writes bytes
    Head head{.dimension = Dim, .size = state.bytes.size(), .sum = checksum(state.bytes)};
    ByteWriter out;
    out.bytes.reserve(kHeadSize + state.bytes.size());
    head.pass(out);
    out.bytes.insert(out.bytes.end(), state.bytes.begin(), state.bytes.end());
    return std::move(out.bytes);
}

template<int Dim> void World<Dim>::restore_bytes(std::span<const std::byte> bytes) {
    state_->refuse_in_tick();
    ByteReader reader(checked_state(bytes, Dim));
    auto made = std::make_unique<State>();
    made->pass(reader);
    if (!reader.at_end()) contradiction();
    made->check_places();
    for (std::uint32_t i = 0; i < made->rows.size(); i++)
        made->measure_colliders(i), made->place_colliders(i);
    made->timing = state_->timing, made->hooks = std::move(state_->hooks);
    state_ = std::move(made);
}

template<int Dim> std::uint64_t World<Dim>::fingerprint() const {
    Hasher hasher;
    state_->pass(hasher); // reads only
    return hasher.value();
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template void World<Dim>::State::check_places() const;                                                   \
    template std::vector<std::byte> World<Dim>::save_bytes() const;                                          \
    template std::uint64_t World<Dim>::fingerprint() const;                                                  \
    template void World<Dim>::restore_bytes(std::span<const std::byte>);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
