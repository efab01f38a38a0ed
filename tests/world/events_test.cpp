// Events: each is told once, through ticks, edits, sleep and restored states.
#include "support/dims.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <set>
#include <tuple>

namespace astasis {
namespace {

template<typename T> class EventsTest : public test::BothDimensions<T> {};
TYPED_TEST_SUITE(EventsTest, test::Dimensions);

using Key = std::tuple<std::uint32_t, std::uint32_t, std::uint32_t>; // body's index and generation, shape
Key key(BodyId id, std::uint32_t shape) { return {id.index, id.generation, shape}; }
using KeyPair = std::pair<Key, Key>;
template<typename T> KeyPair pair_of(const T& t) { // of a touch or of a contact
    const Key a = key(t.body_a, t.shape_a), b = key(t.body_b, t.shape_b);
    return std::minmax(a, b);
}
KeyPair pair_of(const Crossing& c) { return {key(c.sensor_body, c.sensor), key(c.body, c.shape)}; }

// A game's book of what the events of all ticks told: a second `begun` or `ended` of one thing is
// refused.
template<int D> class Book {
public:
    void read(const World<D>& world) {
        const Events<D> e = world.events();
        for (const Crossing& c : e.entered) changes_.push_back({c.time, true, pair_of(c)});
        for (const Crossing& c : e.left) changes_.push_back({c.time, false, pair_of(c)});
        // Of one pair an entry at a time comes before the way out at the same time only if it was out.
        std::stable_sort(changes_.begin(), changes_.end(),
                         [](const auto& p, const auto& q) { return p.time < q.time; });
        for (const auto& c : changes_) change(in_sensors, c.begins, c.pair, "sensor");
        changes_.clear();
        for (const ShapePair& t : e.touches_begun) change(touching, true, pair_of(t), "touch");
        for (const ShapePair& t : e.touches_ended) change(touching, false, pair_of(t), "touch");
        for (const BodyId id : e.woke)
            EXPECT_EQ(asleep.erase(key(id, 0)), 1u) << "woke " << id.index << ", which did not sleep";
        for (const BodyId id : e.fell_asleep)
            EXPECT_TRUE(asleep.insert(key(id, 0)).second) << "fell asleep twice";
        for (const Moved<D>& m : e.moved) {
            EXPECT_TRUE(world.contains(m.body));
            places[key(m.body, 0)] = m.pose;
        }
    }
    std::set<KeyPair> touching, in_sensors;
    std::set<Key> asleep;
    std::map<Key, Pose<D>> places;

private:
    void change(std::set<KeyPair>& set, bool begins, const KeyPair& pair, const char* what) {
        if (begins) EXPECT_TRUE(set.insert(pair).second) << what << " begun twice";
        else EXPECT_EQ(set.erase(pair), 1u) << what << " ended that had not begun";
    }
    struct Change {
        double time;
        bool begins;
        KeyPair pair;
    };
    std::vector<Change> changes_;
};

template<int D> ShapeSpec<D> some_shape(test::Numbers& n) {
    ShapeSpec<D> out{.geometry = test::cube<D>(n.f(0.2, 0.5))};
    if (n.in(0, 1) < 0.5) out.geometry = Ball<D>{n.f(0.1, 0.3)};
    out.placement.position = n.vec<D>(-0.3, 0.3);
    return out;
}

// Random edits of all that decides who touches whom.
template<int D> class Editor {
public:
    explicit Editor(World<D>& world, std::uint64_t seed) : world_(world), n_(seed) {
        test::add_floor<D>(world);
        for (const double x : {-2.5, 2.5}) {
            Vec<D> size = test::all<D>(6);
            size.x = 0.5f;
            world.add({.motion = Motion::Static, .pose = {Point<D>{x, 0}}, .shapes = {{test::box_of(size)}}});
        }
        const BodyId gate = world.add({.motion = Motion::Static, .pose = {Point<D>{0, 0.6}}});
        world.add_shape(gate, {.geometry = test::cube<D>(1), .is_sensor = true});
        sensors.push_back(gate);
        const BodyId drone = world.add({.motion = Motion::Kinematic, .pose = {Point<D>{-1, 0.3}}});
        world.add_shape(drone, {.geometry = Ball<D>{0.6f}, .is_sensor = true});
        sensors.push_back(drone);
    }
    void edit() {
        const double what = n_.in(0, 1);
        if (own.size() < 12 || (what < 0.05 && own.size() < 25)) return add();
        const std::size_t k = static_cast<std::size_t>(n_.in(0, static_cast<double>(own.size()) - 1e-9));
        const BodyId id = own[k];
        const auto shapes = world_.shape_numbers(id);
        const std::uint32_t shape =
            shapes[static_cast<std::size_t>(n_.in(0, static_cast<double>(shapes.size()) - 1e-9))];
        if (what < 0.08) world_.remove(id), own.erase(own.begin() + static_cast<std::ptrdiff_t>(k));
        else if (what < 0.10) world_.set_pose(id, {place(), n_.rotation(Vec<D>{})});
        else if (what < 0.12) world_.add_shape(id, some_shape<D>(n_));
        else if (what < 0.14 && shapes.size() > 1) world_.remove_shape(id, shape);
        else if (what < 0.16)
            world_.set_layers(id, shape, n_.in(0, 1) < 0.5 ? 1 : 2, n_.in(0, 1) < 0.7 ? 3 : 1);
        else if (what < 0.17) world_.set_motion(id, n_.in(0, 1) < 0.7 ? Motion::Dynamic : Motion::Static);
        else if (what < 0.18) world_.wake(id);
        else if (what < 0.20) world_.set_pose(sensors[0], {Point<D>{n_.in(-1, 1), 0.6}});
        else if (what < 0.22) world_.set_velocity(sensors[1], {n_.f(-1, 1), 0});
        else if (what < 0.24 && world_.motion(id) == Motion::Dynamic)
            world_.apply_impulse(id, n_.vec<D>(-40, 40) * world_.mass(id).mass * 0.1f);
    }
    std::vector<BodyId> own, sensors;

private:
    Point<D> place() { return Point<D>{n_.in(-2, 2), n_.in(0.3, 3)}; }
    void add() {
        BodySpec<D> spec{.pose = {place(), n_.rotation(Vec<D>{})}};
        spec.free.linear_damping = spec.free.angular_damping = 0.5f;
        spec.shapes.push_back(some_shape<D>(n_));
        own.push_back(world_.add(spec));
    }
    World<D>& world_;
    test::Numbers n_;
};

template<int D> std::set<KeyPair> touching(const World<D>& world) {
    std::set<KeyPair> out;
    for (const auto& c : world.contacts()) out.insert(pair_of(c));
    return out;
}
template<int D> std::set<KeyPair> in_sensors(const World<D>& world, const std::vector<BodyId>& sensors) {
    std::set<KeyPair> out;
    std::vector<Found<D>> found;
    for (const BodyId id : sensors) {
        Filter filter{.except = id};
        overlapping<D>(world, world.shape(id, 0).geometry, world.pose(id), found, filter);
        for (const auto& f : found)
            if (may_meet(world.shape(id, 0), world.shape(f.body, f.shape)))
                out.insert({key(id, 0), key(f.body, f.shape)});
    }
    return out;
}

TYPED_TEST(EventsTest, AddUpToWhatIsSo) {
    constexpr int D = TypeParam::value;
    World<D> world;
    world.collect_events({.touches = true, .strikes = true, .sleep = true, .poses = true});
    Editor<D> editor(world, 5 + D);
    Book<D> book;
    std::size_t begun = 0, entered = 0, slept = 0;
    Snapshot<D> saved = world.save();
    std::vector<std::byte> bytes;
    for (int tick = 0; tick < 20 * ASTASIS_DEFAULT_CASES; tick++) {
        editor.edit();
        const bool detour = tick % 97 == 0;
        if (detour) { // another course, then back to here: its events are those of a world that never went
            saved = world.save();
            test::step(world, 3);
            if (tick % 2 == 0) world.restore(saved);
            else {
                World<D> other;
                other.restore(saved);
                bytes = other.save_bytes();
                world.restore_bytes(bytes);
            }
        }
        world.step();
        book.read(world);
        const Events<D> e = world.events();
        begun += e.touches_begun.size(), entered += e.entered.size(), slept += e.fell_asleep.size();
        ASSERT_EQ(book.touching, touching(world)) << tick;
        ASSERT_EQ(book.in_sensors, in_sensors(world, editor.sensors)) << tick;
        for (const BodyId id : world.bodies()) {
            const auto place = book.places.find(key(id, 0));
            ASSERT_NE(place, book.places.end());
            ASSERT_EQ(place->second, world.pose(id)) << tick;
        }
        for (const BodyId id : editor.own) {
            if (world.motion(id) != Motion::Dynamic) continue;
            ASSERT_EQ(book.asleep.contains(key(id, 0)), world.is_asleep(id)) << tick;
        }
        std::erase_if(book.asleep, [&](const Key& k) {
            return !world.contains(BodyId{std::get<0>(k), std::get<1>(k)});
        });
        if (this->HasFailure()) return;
    }
    constexpr std::size_t kCases = ASTASIS_DEFAULT_CASES;
    EXPECT_GT(begun, 2 * kCases);
    EXPECT_GT(entered, kCases / 2);
    EXPECT_GT(slept, kCases / 5);
}

TYPED_TEST(EventsTest, AreOffAtFirst) {
    constexpr int D = TypeParam::value;
    World<D> world;
    test::add_floor<D>(world);
    test::add_ball<D>(world, {0, 1}, 0.2f);
    for (int tick = 0; tick < 200; tick++) {
        world.step();
        const Events<D> e = world.events();
        ASSERT_TRUE(e.touches_begun.empty() && e.strikes.empty() && e.fell_asleep.empty() && e.moved.empty());
    }
    const Error bad = test::error_of([&] { world.collect_events({.least_speed = -1}); });
    EXPECT_EQ(bad.field(), "least_speed");
    world.collect_events({.touches = true});
    world.step();
    EXPECT_EQ(world.events().touches_begun.size(), 1u) << "what touches when it is switched on begins then";
}

TYPED_TEST(EventsTest, StrikesTellSpeedTimeAndImpulse) {
    constexpr int D = TypeParam::value;
    test::Numbers n(3 + D);
    for (int k = 0; k < 600; k++) {
        World<D> world(test::weightless<D>());
        world.set_extra_work(k % 2 == 0 ? 1.0f : 0.0f); // without, passes stop it
        world.collect_events({.strikes = true, .least_speed = 0.5f});
        const float e = n.f(0, 1), speed = n.f(0.6, 60), mass = n.f(0.5, 3);
        const double gap = n.in(0.01, 0.9 * double{speed} / 60);
        test::add_floor<D>(world, {.friction = 0, .restitution = e});
        const BodyId ball = test::add_ball<D>(world, {0.3, 0.2 + gap}, 0.2f, mass, {.friction = 0});
        world.set_velocity(ball, {n.f(-2, 2), -speed});
        world.step();
        ASSERT_EQ(world.events().strikes.size(), 1u) << k;
        const Strike<D> s = world.events().strikes[0];
        EXPECT_EQ(s.body_b, ball);
        EXPECT_NEAR(s.speed, speed, 1e-3 * double{speed});
        EXPECT_NEAR(s.time, gap / double{speed}, 1e-4 / 60) << speed;
        EXPECT_NEAR(s.normal.y, 1, 1e-5);
        EXPECT_NEAR(s.impulse.y, double{mass * speed * (1 + e)}, 0.01 * double{mass * speed});
        EXPECT_NEAR(s.position.y, 0, 2e-3);
        world.step();
        EXPECT_TRUE(world.events().strikes.empty());
    }
}

// A body that is held at the end of a tick changes places with another: what that one met in the tick is
// still its own.
TYPED_TEST(EventsTest, StrikesAndWaysKeepTheirBodiesWhenAnotherIsHeld) {
    constexpr int D = TypeParam::value;
    for (const float extra_work : {1.0f, 0.0f}) {
        World<D> world(test::weightless<D>());
        world.set_extra_work(extra_work);
        world.collect_events({.strikes = true, .least_speed = 1});
        const BodyId held = test::add_ball<D>(world, {0, 5}, 0.2f);
        const BodyId ball = test::add_ball<D>(world, {3, 0.3}, 0.2f, 1, {.restitution = 1});
        const BodyId floor = test::add_floor<D>(world);
        world.set_velocity(ball, {0, -300});
        world.apply_force(held, Vec<D>{9e20f, 0}); // finite before the tick, not after
        world.step();
        ASSERT_EQ(world.events().became_nonfinite.size(), 1u);
        EXPECT_EQ(world.events().became_nonfinite[0], held);
        ASSERT_EQ(world.events().strikes.size(), 1u);
        const Strike<D> s = world.events().strikes[0];
        EXPECT_TRUE(s.body_a == ball && s.body_b == floor) << s.body_a.index << " and " << s.body_b.index;
        if (extra_work > 0) {
            EXPECT_EQ(world.way_of(ball).size(), 3u);
        }
    }
}

// A crate that lands flat strikes once, not with each corner; what creeps does not strike.
TYPED_TEST(EventsTest, AFlatLandingIsOneStrike) {
    constexpr int D = TypeParam::value;
    for (const float extra_work : {1.0f, 0.0f}) {
        World<D> world({.extra_work = extra_work});
        world.collect_events({.strikes = true, .least_speed = 1});
        test::add_floor<D>(world);
        const BodyId crate = world.add({.pose = {{0, 1.25}}, .shapes = {{test::cube<D>(0.5f)}}});
        std::size_t strikes = 0;
        for (int tick = 0; tick < 120; tick++) {
            world.step();
            for (const auto& s : world.events().strikes) {
                EXPECT_NEAR(s.speed, std::sqrt(2 * 9.81), 0.05);
                EXPECT_NEAR(s.position.x, 0, 1e-2);
                EXPECT_NEAR(s.impulse.y, world.mass(crate).mass * std::sqrt(2 * 9.81), 0.03 * s.impulse.y);
                strikes++;
            }
        }
        EXPECT_EQ(strikes, 1u) << extra_work;
    }
}

// A crowd that is too large for exactness strikes too. Passes are coarser: what rattles within a tick, an
// edge after the other, is one strike or none there, so that they are fewer.
TYPED_TEST(EventsTest, ACrowdStrikesWhateverItsBudget) {
    constexpr int D = TypeParam::value;
    std::array<std::size_t, 2> strikes{};
    std::array<double, 2> impulse{};
    for (std::size_t k = 0; k < 2; k++) {
        World<D> world({.extra_work = k == 0 ? 1000.0f : 0.0f});
        world.collect_events({.strikes = true, .least_speed = 1});
        test::add_floor<D>(world);
        test::Numbers n(9);
        for (int i = 0; i < 60; i++)
            world.add({.pose = {{-3 + 0.6 * (i % 10), 0.5 + 0.6 * (i / 10)}, n.rotation(Vec<D>{})},
                       .velocity = n.vec<D>(-4, 4),
                       .shapes = {{test::cube<D>(0.4f)}}});
        for (int tick = 0; tick < 60; tick++) {
            world.step();
            for (const auto& s : world.events().strikes) {
                EXPECT_GE(s.speed, 1);
                strikes[k]++, impulse[k] += static_cast<double>(length(s.impulse));
            }
        }
    }
    EXPECT_GT(strikes[0], 100u);
    EXPECT_NEAR(static_cast<double>(strikes[1]) / static_cast<double>(strikes[0]), 0.75, 0.25);
    EXPECT_NEAR(impulse[1] / impulse[0], 0.85, 0.25);
}

TYPED_TEST(EventsTest, NonfiniteBodiesAreToldOnce) {
    constexpr int D = TypeParam::value;
    World<D> world;
    const BodyId bad = test::add_ball<D>(world, {0, 1}, 0.2f);
    world.step();
    EXPECT_TRUE(world.events().became_nonfinite.empty());
    world.set_velocity(bad, Vec<D>{3e38f, 0});
    int told = 0;
    for (int tick = 0; tick < 5; tick++) {
        world.step();
        for (const BodyId id : world.events().became_nonfinite) {
            EXPECT_EQ(id, bad);
            told++;
        }
    }
    EXPECT_EQ(told, 1);
}

}
}
