// A world's state as bytes: what each type consists of, and the frame around it all.
#include "world/bytes.h"

#include "world/state.h"
#include "world/walk.h"

#include <array>
#include <string_view>

namespace astasis {

std::string ByteReader::field() const {
    std::string out = "bytes";
    for (const Step& step : path_) {
        if (step.names == nullptr) {
            out += '[', out += std::to_string(step.number), out += ']';
            continue;
        }
        std::string_view names = step.names;
        for (std::uint64_t k = 0; k < step.number; k++) names.remove_prefix(names.find(' ') + 1);
        out += '.', out += names.substr(0, names.find(' '));
    }
    return out;
}

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
    walk.all("spec.gravity spec.tick spec.substeps spec.extra_work spec.sleeping", spec.gravity, spec.tick,
             spec.substeps, spec.extra_work, spec.sleeping);
    walk.all("tuning.correction tuning.softness tuning.known_share tuning.iterations tuning.plain_iterations",
             tuning.correction, tuning.softness, tuning.known_share, tuning.iterations,
             tuning.plain_iterations);
    walk.all("tuning.converged tuning.most_thicknesses_a_second", tuning.converged,
             tuning.most_thicknesses_a_second);
    walk.all("ticks next_key time_then ticks_then", ticks, next_key, time_then, ticks_then);
    walk.part("slots", [&] { slots.pass_all(walk); });
    walk.part("materials.slots", [&] { materials.slots.pass_all(walk); });
    walk.all("materials.shared materials.pairs", materials.shared, materials.pairs);
    walk.all_loosely("work.kinematic work.surfaces work.thrusts work.motors work.fields work.hooks",
                     work.kinematic, work.surfaces, work.thrusts, work.motors, work.fields, work.hooks);
    std::uint64_t moving = bodies.moving;
    walk.all("moving", moving);
    bodies.moving = moving;
    walk.all("bodies.pose bodies.velocity bodies.remainder bodies.mass", bodies.pose, bodies.velocity,
             bodies.remainder, bodies.mass);
    walk.all("bodies.push bodies.free bodies.motion bodies.still bodies.claim", bodies.push, bodies.free,
             bodies.motion, bodies.still, bodies.claim);
    walk.list("rows", rows, [&](Row& row) {
        walk.all("shapes numbers next_number colliders mass_given target driven thrust", row.shapes,
                 row.numbers, row.next_number, row.colliders, row.mass_given, row.target, row.driven,
                 row.thrust);
        walk.all_loosely("last_velocity last_change", row.last_velocity, row.last_change);
        walk.all("previous user_data nonfinite listed", row.previous, row.user_data, row.nonfinite,
                 row.listed);
        walk.all("may_sleep sweep island", row.may_sleep, row.sweep, row.island);
        walk.all("joints", row.joints);
    });
    walk.part("field_slots", [&] { field_slots.pass_all(walk); });
    walk.all("fields", fields);
    walk.part("joint_slots", [&] { joint_slots.pass_all(walk); });
    walk.all("joints", joints);
    walk.list("joint_entries", joint_entries, [&](JointEntry& e) {
        walk.part("spec", [&] { walk.any_of(e.spec); });
        walk.all("a b", e.a, e.b);
    });
    walk.all("listed free_colliders manifolds", listed, free_colliders, manifolds);
    walk.list("asleep", asleep, [&](Asleep& island) {
        walk.all("bodies", island.bodies);
        walk.list("contacts", island.contacts,
                  [&](SleepingContact& c) { walk.all("manifold a b", c.manifold, c.a, c.b); });
    });
    walk.all("free_islands ungrouped", free_islands, ungrouped);
    walk.all(
        "event_kinds.touches event_kinds.strikes event_kinds.sleep event_kinds.poses event_kinds.least_speed",
        event_kinds.touches, event_kinds.strikes, event_kinds.sleep, event_kinds.poses,
        event_kinds.least_speed);
    walk.list("touching", touching, [&](Touching& t) {
        walk.all("key_a key_b touch.body_a touch.body_b touch.shape_a touch.shape_b", t.key_a, t.key_b,
                 t.touch.body_a, t.touch.body_b, t.touch.shape_a, t.touch.shape_b);
    });
    walk.list("sensed", sensed, [&](Sensed& s) {
        walk.all("sensor_key key collider crossing.sensor_body crossing.body", s.sensor_key, s.key,
                 s.collider, s.crossing.sensor_body, s.crossing.body);
        walk.all("crossing.sensor crossing.shape crossing.time", s.crossing.sensor, s.crossing.shape,
                 s.crossing.time);
    });
    walk.all("woken placed stopped edited sleepers_looked_at", woken, placed, stopped, edited,
             sleepers_looked_at);
    walk.list("colliders", colliders, [&](flow::Collider<Dim>& c) { walk.all("key", c.key); });
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
    if (!reader.at_end())
        throw Error("bytes", "more bytes than a world has", "all the bytes that save_bytes gave");
    made->check_all();
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
    template std::vector<std::byte> World<Dim>::save_bytes() const;                                          \
    template std::uint64_t World<Dim>::fingerprint() const;                                                  \
    template void World<Dim>::restore_bytes(std::span<const std::byte>);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
