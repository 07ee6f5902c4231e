// What only heaps have: contacts solved in float, more partners than colours, pairs that part and meet again.
#include <catch2/catch.hpp>
#include <cmath>

#include "dynamics/sums.h"
#include "dynamics/world/world.h"

using namespace bronvel;

namespace {

BodyMotion at(const Vec3& place, const Vec3& velocity = Vec3::Zero()) {
  return {{place, Quat::Identity()}, velocity, Vec3::Zero()};
}

BodySettings box_of(const Vec3& size, double mass, double restitution, double friction) {
  BodySettings box;
  box.shape = Box{size};
  box.mass = mass;
  box.surface.restitution = restitution;
  box.surface.static_friction = box.surface.dynamic_friction = friction;
  box.may_sleep = false;
  return box;
}

}  // namespace

TEST_CASE("two heaps that fly into one another keep their momentum, and never have more energy than at first") {
  World world({.gravity = Vec3::Zero(), .tick_rate = 60});
  world.set_threads(2);
  const BodySettings box = box_of({0.5, 0.5, 0.5}, 2, 0.6, 0.4);
  constexpr int side = 8;
  for (int i = 0; i < 2 * side * side * side; ++i) {
    const int of = i % 2, k = i / 2;
    const Vec3 place(0.5 * (k % side), 0.5 * (k / side % side), 0.5 * (k / side / side));
    world.create(box, at(place + of * Vec3(0.3, 0.2, 5), Vec3(0, 0, of == 0 ? 3 : -3)));
  }
  const Sums start = sums_of(world);
  const double first = world.kinetic_energy();
  double most = 0;
  std::size_t most_points = 0;
  for (int i = 0; i < 60; ++i) {
    world.step();
    std::size_t points = 0;
    for (const ContactEvent& contact : world.contacts()) points += contact.points.size();
    most_points = std::max(most_points, points);
    most = std::max(most, world.kinetic_energy() / first);
  }
  CHECK(most_points > 3000);  // solved in float
  const Sums end = sums_of(world);
  const double size = 2.0 * 2 * side * side * side * 3;  // kg·m/s that goes either way
  CHECK((end.momentum - start.momentum).norm() < 1e-6 * size);
  CHECK((end.turning - start.turning).norm() < 1e-3 * size);  // planes of the tick's start
  CHECK(most <= 1 + 1e-9);
  CHECK(world.kinetic_energy() < 0.5 * first);
}

TEST_CASE("a plate bears more bodies than a set of colours has room for") {
  const auto played = [](int threads) {
    World world({.tick_rate = 60});
    world.set_threads(threads);
    world.create({.kind = MotionKind::fixed, .shape = Box{{40, 1, 40}}}, at({0, -0.5, 0}));
    const BodyHandle plate = world.create(box_of({9.2, 0.2, 9.2}, 400, 0, 0.5), at({0, 0.1, 0}));
    std::vector<BodyHandle> boxes;
    for (int i = 0; i < 225; ++i)
      boxes.push_back(
          world.create(box_of({0.4, 0.4, 0.4}, 1, 0, 0.5), at({0.6 * (i % 15) - 4.2, 0.41, 0.6 * (i / 15) - 4.2})));
    for (int i = 0; i < 90; ++i) world.step();
    CHECK(std::abs(world.motion(plate).pose.position.y() - 0.1) < 2e-3);
    for (const BodyHandle box : boxes) {
      CHECK(std::abs(world.motion(box).pose.position.y() - 0.4) < 4e-3);
      CHECK(world.velocity(box).norm() < 1e-3);
    }
    return world.digest();
  };
  const std::uint64_t alone = played(1);
  CHECK(played(3) == alone);
}

TEST_CASE("what is taken away for a tick and put back is one pair again") {
  World world({.tick_rate = 60});
  world.create({.kind = MotionKind::fixed, .shape = Box{{10, 1, 10}}}, at({0, -0.5, 0}));
  const BodyHandle box = world.create(box_of({0.4, 0.4, 0.4}, 1, 0, 0.5), at({0, 0.2, 0}));
  const Pose here{{0, 0.2, 0}, Quat::Identity()}, away{{0, 5, 0}, Quat::Identity()};
  for (int i = 0; i < 5; ++i) world.step();
  for (int round = 0; round < 3; ++round) {
    REQUIRE(world.contacts().size() == 1);
    CHECK(world.contacts()[0].phase == ContactPhase::stay);
    world.place(box, away);
    world.set_velocity(box, Vec3::Zero());
    world.step();
    REQUIRE(world.contacts().size() == 1);
    CHECK(world.contacts()[0].phase == ContactPhase::part);
    world.place(box, here);
    world.set_velocity(box, Vec3::Zero());
    world.step();
    REQUIRE(world.contacts().size() == 1);
    CHECK(world.contacts()[0].phase == ContactPhase::touch);
    world.step();
  }
}

TEST_CASE("pairs of many bodies that part and meet are told once each") {
  // Bodies come down, are thrown up and come down again: pairs die, are lined up, and are made anew.
  World world({.tick_rate = 60});
  world.create({.kind = MotionKind::fixed, .shape = Box{{40, 1, 40}}}, at({0, -0.5, 0}));
  std::vector<BodyHandle> boxes;
  for (int i = 0; i < 300; ++i)
    boxes.push_back(world.create(box_of({0.4, 0.4, 0.4}, 1, 0, 0.5),
                                 at({0.42 * (i % 10), 0.2 + 0.41 * (i / 100), 0.42 * (i / 10 % 10)})));
  for (int tick = 0; tick < 120; ++tick) {
    if (tick % 40 == 20)
      for (std::size_t i = 0; i < boxes.size(); i += 3)
        world.set_velocity(boxes[i], {0.5 * static_cast<double>(i % 7) - 1.5, 4, 0.5 * static_cast<double>(i % 5) - 1});
    world.step();
    const std::span<const ContactEvent> contacts = world.contacts();
    for (std::size_t k = 1; k < contacts.size(); ++k)
      REQUIRE(std::pair(contacts[k - 1].a, contacts[k - 1].b) < std::pair(contacts[k].a, contacts[k].b));
    for (const ContactEvent& contact : contacts) {
      REQUIRE(contact.points.size() <= 4);
      // What a pair tells of are points of both of its bodies.
      for (const Vec3& point : contact.points) REQUIRE((world.motion(contact.b).pose.position - point).norm() < 0.6);
    }
  }
}

TEST_CASE("what has nothing to do with a heap moves beside it as it would alone, to the bit") {
  struct Played {
    std::vector<std::vector<BodyMotion>> ticks;
    std::size_t points = 0;
  };
  const auto played = [](bool beside_heap, int threads) {
    World world({.tick_rate = 60});
    world.set_threads(threads);
    std::vector<BodyHandle> watched;
    BodySettings floor = box_of({200, 1, 200}, 1, 1, 0.5);
    floor.kind = MotionKind::fixed;
    world.create(floor, at({0, -0.5, 0}));
    for (int i = 0; i < 12; ++i)  // a tower
      watched.push_back(world.create(box_of({0.5, 0.5, 0.5}, 1, 0, 0.6), at({20, 0.25 + 0.5 * i, 0})));
    for (int i = 0; i < 8; ++i) {  // what tumbles without loss
      BodyMotion motion = at({20 + 2.0 * i, 1.5 + 0.1 * i, 10}, {0.3, 0, 0});
      motion.angular_velocity = Vec3(4 - i, 0.7 * i, 2);
      watched.push_back(world.create(box_of({0.4, 0.6, 0.8}, 2, 1, 0), motion));
    }
    BodySettings ball;
    ball.shape = Sphere{0.3};
    ball.mass = 4;
    watched.push_back(world.create(ball, at({30, 2, 20})));  // swings into a stack on its string
    JointSettings string;
    string.kind = JointKind::distance;
    string.a = watched.back();
    string.frame_b = {{32, 2, 20}, Quat::Identity()};
    string.along.freedom = Freedom::limited;
    string.along.high = 2;
    world.join(string);
    for (int i = 0; i < 3; ++i)
      watched.push_back(world.create(box_of({0.4, 0.4, 0.4}, 1, 0.2, 0.5), at({32, 0.2 + 0.4 * i, 20})));
    if (beside_heap)
      for (int i = 0; i < 400; ++i)
        world.create(box_of({0.5, 0.5, 0.5}, 1, 0, 0.6),
                     at({0.5 * (i % 10) - 40, 0.25 + 0.5 * (i / 100), 0.5 * (i / 10 % 10)}));
    Played all;
    for (int tick = 0; tick < 90; ++tick) {
      world.step();
      if (tick == 0)
        for (const ContactEvent& contact : world.contacts()) all.points += contact.points.size();
      std::vector<BodyMotion>& now = all.ticks.emplace_back();
      for (const BodyHandle body : watched) now.push_back(world.motion(body));
    }
    return all;
  };
  const Played alone = played(false, 1);
  for (const int threads : {2}) {
    const Played beside = played(true, threads);
    REQUIRE(beside.points > 3000);
    for (std::size_t tick = 0; tick < alone.ticks.size(); ++tick)
      for (std::size_t i = 0; i < alone.ticks[tick].size(); ++i) {
        const BodyMotion &a = alone.ticks[tick][i], &b = beside.ticks[tick][i];
        REQUIRE(a.pose.position == b.pose.position);
        REQUIRE(a.pose.orientation.coeffs() == b.pose.orientation.coeffs());
        REQUIRE(a.velocity == b.velocity);
        REQUIRE(a.angular_velocity == b.angular_velocity);
      }
  }
}
