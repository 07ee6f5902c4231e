// Who sleeps, and who wakes: heaps of any kind against what can be seen of them from outside.
#include <algorithm>
#include <catch2/catch.hpp>
#include <map>
#include <numeric>
#include <set>

#include "dynamics/world/world.h"
#include "geometry/base/random.h"

using namespace bronvel;

namespace {

template <class Check>
void each_seed(const Check& check) {
  constexpr std::uint64_t seeds = 15;
  for (std::uint64_t seed = 1; seed <= seeds; ++seed) {
    INFO("seed " << seed);
    check(seed);
  }
}

struct Heap {
  World world;
  std::vector<BodyHandle> bodies;  // without the floor
  BodyHandle floor{};
  std::set<std::pair<BodyHandle, BodyHandle>> touching{};  // of what sleeps nothing is told: what was told last holds

  void step() {
    world.step();
    for (const ContactEvent& contact : world.contacts())
      if (contact.phase == ContactPhase::part)
        touching.erase({contact.a, contact.b});
      else
        touching.insert({contact.a, contact.b});
  }
};

BodySettings of_shape(const Shape& shape) {
  BodySettings settings;
  settings.shape = shape;
  settings.surface.static_friction = 0.6;
  settings.surface.dynamic_friction = 0.5;
  settings.surface.rolling_friction = 0.02;
  settings.surface.restitution = 0.1;
  return settings;
}

// Some stacks and single bodies on a floor, a few pairs of neighbours joined.
Heap any_heap(Random& random) {
  Heap heap{World({}), {}, {}};
  BodySettings floor = of_shape(Box{{60, 1, 60}});
  floor.kind = MotionKind::fixed;
  heap.floor = heap.world.create(floor, {{{0, -0.5, 0}, Quat::Identity()}, Vec3::Zero(), Vec3::Zero()});
  const int stacks = 2 + static_cast<int>(random.between(0, 4));
  for (int s = 0; s < stacks; ++s) {
    const int tall = 1 + static_cast<int>(random.between(0, 4));
    double top = 0;
    for (int i = 0; i < tall; ++i) {
      const double half = random.between(0.2, 0.5);
      const bool ball = i + 1 == tall && random.share() < 0.3;
      const Shape shape = ball ? Shape(Sphere{half}) : Shape(Box{{2 * half, 2 * half, 2 * half}});
      BodyMotion motion;
      motion.pose.position = {3.0 * s + random.between(-0.02, 0.02), top + half + 0.01, random.between(-0.02, 0.02)};
      heap.bodies.push_back(heap.world.create(of_shape(shape), motion));
      top += 2 * half + 0.01;
    }
    if (s > 0 && random.share() < 0.4) {
      // A rope from this stack's foot to the one before it.
      JointSettings rope;
      rope.kind = JointKind::distance;
      rope.a = heap.bodies[0];
      rope.b = heap.bodies.back();
      rope.along.freedom = Freedom::limited;
      rope.along.high = 40;
      heap.world.join(rope);
    }
  }
  return heap;
}

void play(Heap& heap, int times) {
  for (int i = 0; i < times; ++i) heap.step();
}

// A box that sleeps on a floor.
BodyHandle sleeping_box(World& world) {
  BodySettings ground = of_shape(Box{{20, 1, 20}});
  ground.kind = MotionKind::fixed;
  world.create(ground, {{{0, -0.5, 0}, Quat::Identity()}, Vec3::Zero(), Vec3::Zero()});
  BodyMotion at;
  at.pose.position = {0, 0.5, 0};
  const BodyHandle box = world.create(of_shape(Box{}), at);
  for (int i = 0; i < 120; ++i) world.step();
  REQUIRE(world.asleep(box));
  return box;
}

bool all_asleep(const Heap& heap) {
  return std::all_of(heap.bodies.begin(), heap.bodies.end(), [&](BodyHandle b) { return heap.world.asleep(b); });
}

// Bodies that hang together by touching, or by joints, found from outside: by what is told of contacts.
std::map<BodyHandle, int> islands_of(const Heap& heap) {
  std::map<BodyHandle, int> island;
  for (std::size_t i = 0; i < heap.bodies.size(); ++i) island[heap.bodies[i]] = static_cast<int>(i);
  const auto join = [&](BodyHandle a, BodyHandle b) {
    if (!island.contains(a) || !island.contains(b) || island[a] == island[b]) return;
    const int from = island[a], to = island[b];
    for (auto& [body, number] : island)
      if (number == from) number = to;
  };
  for (const auto& [a, b] : heap.touching) join(a, b);
  for (const JointHandle joint : heap.world.joints()) {
    const JointSettings& settings = heap.world.joint_settings(joint);
    join(settings.a, settings.b);
  }
  return island;
}

}  // namespace

TEST_CASE("heaps come to rest, and what sleeps does not move by a bit", "[long]") {
  each_seed([](std::uint64_t seed) {
    Random random(seed);
    Heap heap = any_heap(random);
    for (int i = 0; i < 60 * 20 && !all_asleep(heap); ++i) {
      std::map<BodyHandle, BodyMotion> before;
      for (const BodyHandle body : heap.bodies)
        if (heap.world.asleep(body)) before[body] = heap.world.motion(body);
      heap.world.step();
      for (const auto& [body, motion] : before) {
        if (!heap.world.asleep(body)) continue;
        const BodyMotion now = heap.world.motion(body);
        REQUIRE(now.pose.position == motion.pose.position);
        REQUIRE(now.pose.orientation.coeffs() == motion.pose.orientation.coeffs());
        REQUIRE(now.velocity.isZero());
        REQUIRE(now.angular_velocity.isZero());
      }
    }
    REQUIRE(all_asleep(heap));
    const std::uint64_t rest = heap.world.digest();
    play(heap, 120);
    REQUIRE(heap.world.digest() == rest);
  });
}

TEST_CASE("an island sleeps and wakes as one") {
  each_seed([](std::uint64_t seed) {
    Random random(seed);
    Heap heap = any_heap(random);
    for (int i = 0; i < 60 * 20 && !all_asleep(heap); ++i) {
      heap.step();
      // One that sleeps beside one of its island that does not is half an island asleep.
      const auto island = islands_of(heap);
      std::map<int, std::pair<int, int>> counts;
      for (const auto& [body, number] : island)
        ++(heap.world.asleep(body) ? counts[number].first : counts[number].second);
      for (const auto& [number, count] : counts) REQUIRE(std::min(count.first, count.second) == 0);
    }
    REQUIRE(all_asleep(heap));
    const auto island = islands_of(heap);
    const BodyHandle struck = heap.bodies[static_cast<std::size_t>(random.bits() % heap.bodies.size())];
    heap.world.impulse(struck, {0, 1e-6, 0});
    for (const auto& [body, number] : island) REQUIRE(heap.world.asleep(body) == (number != island.at(struck)));
  });
}

TEST_CASE("taking away what bodies rest on wakes them, and they fall") {
  each_seed([](std::uint64_t seed) {
    Random random(seed);
    Heap heap = any_heap(random);
    for (int i = 0; i < 60 * 20 && !all_asleep(heap); ++i) heap.world.step();
    REQUIRE(all_asleep(heap));
    std::map<BodyHandle, double> height;
    for (const BodyHandle body : heap.bodies) height[body] = heap.world.motion(body).pose.position.y();
    heap.world.remove(heap.floor);
    play(heap, 30);
    for (const BodyHandle body : heap.bodies) {
      const double fallen = height[body] - heap.world.motion(body).pose.position.y();
      REQUIRE(fallen > 0.9 * 0.5 * 9.81 * 0.25);
    }
  });
}

TEST_CASE("sleeping changes nothing that can be seen", "[long]") {
  each_seed([](std::uint64_t seed) {
    Random one(seed), other(seed);
    Heap sleepy = any_heap(one), wakeful = any_heap(other);
    for (const BodyHandle body : wakeful.bodies) {
      BodySettings settings = wakeful.world.body_settings(body);
      settings.may_sleep = false;
      wakeful.world.change(body, settings);
    }
    play(sleepy, 60 * 12);
    play(wakeful, 60 * 12);
    for (std::size_t i = 0; i < sleepy.bodies.size(); ++i) {
      REQUIRE(!wakeful.world.asleep(wakeful.bodies[i]));
      const Vec3 apart =
          sleepy.world.motion(sleepy.bodies[i]).pose.position - wakeful.world.motion(wakeful.bodies[i]).pose.position;
      REQUIRE(apart.norm() < 2e-3);
    }
  });
}

TEST_CASE("what wakes a sleeper: each way of acting on it, and being touched") {
  World world({});
  const BodyHandle box = sleeping_box(world);
  const auto wakes = [&](const char* what, auto&& act) {
    INFO(what);
    for (int i = 0; i < 300 && !world.asleep(box); ++i) world.step();
    REQUIRE(world.asleep(box));
    act();
    CHECK_FALSE(world.asleep(box));
  };
  wakes("a force", [&] { world.force(box, {0, 1, 0}); });
  wakes("a force at a point", [&] { world.force_at(box, {0, 1, 0}, {0.2, 0.5, 0}); });
  wakes("a torque", [&] { world.torque(box, {0, 0.1, 0}); });
  wakes("an impulse", [&] { world.impulse(box, {0, 0.01, 0}); });
  wakes("an impulse at a point", [&] { world.impulse_at(box, {0, 0.01, 0}, {0.2, 0.5, 0}); });
  wakes("an angular impulse", [&] { world.angular_impulse(box, {0, 0.01, 0}); });
  wakes("a velocity", [&] { world.set_velocity(box, {0.1, 0, 0}); });
  wakes("a spin", [&] { world.set_angular_velocity(box, {0, 0.1, 0}); });
  wakes("being put elsewhere", [&] { world.place(box, {{0.1, 0.5, 0}, Quat::Identity()}); });
  wakes("other settings", [&] {
    BodySettings heavier = world.body_settings(box);
    heavier.mass *= 2;
    world.change(box, heavier);
  });
  wakes("a body that runs into it", [&] {
    BodyMotion thrown;
    thrown.pose.position = {-3, 0.5, 0};
    thrown.velocity = {6, 0, 0};
    const BodyHandle ball = world.create(of_shape(Sphere{0.3}), thrown);
    for (int i = 0; i < 60 && world.asleep(box); ++i) world.step();
    CHECK_FALSE(world.asleep(box));
    CHECK(world.velocity(box).x() > 0.5);
    world.remove(ball);
  });
  wakes("a lift under it", [&] {
    BodySettings lift = of_shape(Box{{4, 0.2, 4}});
    lift.kind = MotionKind::kinematic;
    BodyMotion under;
    under.pose.position = {world.motion(box).pose.position.x(), -0.12, 0};
    under.velocity = {0, 0.2, 0};
    const BodyHandle raised = world.create(lift, under);
    for (int i = 0; i < 60; ++i) world.step();
    CHECK(world.motion(box).pose.position.y() > 0.55);
    CHECK_FALSE(world.asleep(box));
    world.remove(raised);
  });
}

TEST_CASE("gravity that changes wakes all") {
  World world({});
  const BodyHandle box = sleeping_box(world);
  WorldSettings up = world.settings();
  up.gravity = {0, 1, 0};
  world.set_settings(up);
  for (int i = 0; i < 60; ++i) world.step();
  CHECK(world.motion(box).pose.position.y() == Approx(0.5 + 0.5).epsilon(0.02));
}

TEST_CASE("a snapshot goes on to the same bits, also into another world") {
  each_seed([](std::uint64_t seed) {
    Random random(seed);
    Heap heap = any_heap(random);
    play(heap, static_cast<int>(random.between(0, 150)));
    heap.world.impulse(heap.bodies.front(), {0.3, 0.1, 0});
    heap.world.force(heap.bodies.back(), {1, 0, 0});
    const WorldSnapshot moment = heap.world.snapshot();
    const auto go_on = [](World& world) {
      std::vector<std::uint64_t> digests;
      for (int i = 0; i < 90; ++i) {
        world.step();
        digests.push_back(world.digest());
      }
      return digests;
    };
    const auto first = go_on(heap.world);
    heap.world.restore(moment);
    REQUIRE(go_on(heap.world) == first);
    World fresh{WorldSettings{}};
    fresh.restore(moment);
    REQUIRE(go_on(fresh) == first);
  });
}

TEST_CASE("neighbours that do not touch let one another sleep") {
  for (const double gap : {1e-5, 1e-3, 0.004}) {
    INFO("gap " << gap << " m");
    Heap heap{World({}), {}, {}};
    BodySettings floor = of_shape(Box{{60, 1, 60}});
    floor.kind = MotionKind::fixed;
    heap.floor = heap.world.create(floor, {{{0, -0.5, 0}, Quat::Identity()}, Vec3::Zero(), Vec3::Zero()});
    // They come to rest one after the other.
    for (int i = 0; i < 3; ++i)
      heap.bodies.push_back(
          heap.world.create(of_shape(Box{Vec3::Ones()}),
                            {{{i * (1 + gap), 0.5 + 0.02 * i, 0}, Quat::Identity()}, Vec3::Zero(), Vec3::Zero()}));
    for (int i = 0; i < 300; ++i) heap.step();
    for (int i = 0; i < 120; ++i) {
      heap.step();
      for (const BodyHandle body : heap.bodies) REQUIRE(heap.world.asleep(body));
    }
  }
}

TEST_CASE("what a weak spring pulls does not fall asleep before it has begun to move") {
  // 5 kg on a spring 1 m long that gives 1e-3 m/s²: x = 1e-3 / w² (1 − cos w t) with w² = k / m.
  for (const double rate : {30.0, 60.0, 240.0}) {
    CAPTURE(rate);
    World world({.gravity = Vec3::Zero(), .tick_rate = rate});
    BodySettings weight;
    weight.shape = Sphere{0.2};
    weight.mass = 5;
    const BodyHandle body = world.create(weight, {});
    JointSettings spring;
    spring.kind = JointKind::distance;
    spring.b = body;
    spring.frame_a.position = {1, 0, 0};
    spring.along.stiffness = 5e-3;
    spring.along.rest = 0;
    world.join(spring);
    for (int tick = 0; tick < 20 * static_cast<int>(rate); ++tick) world.step();
    const double w = std::sqrt(5e-3 / 5);
    CHECK(world.motion(body).pose.position.x() == Approx(1 - std::cos(20 * w)).epsilon(0.02));
  }
}
