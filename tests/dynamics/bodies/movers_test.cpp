// What moves every tick is a mover, however it is told to: it carries, pushes and is felt at its speed.
#include "dynamics/bodies/movers.h"

#include <catch2/catch.hpp>

#include "dynamics/world/world.h"

using namespace bronvel;

namespace {

enum class Told { move_to, place, advance, velocity };
const Told every_way[] = {Told::move_to, Told::place, Told::advance, Told::velocity};

BodySettings kinematic_box(const Vec3& size) {
  BodySettings s;
  s.kind = MotionKind::kinematic;
  s.shape = Box{size};
  s.surface.static_friction = s.surface.dynamic_friction = 0.6;
  s.surface.restitution = 0;
  return s;
}

BodySettings crate(double friction = 0.6) {
  BodySettings s;
  s.shape = Box{{0.4, 0.4, 0.4}};
  s.mass = 5;
  s.surface.static_friction = s.surface.dynamic_friction = friction;
  s.surface.restitution = 0;
  return s;
}

// From `from` to `to` in the tick that comes.
void lead(World& world, BodyHandle body, Told told, const Vec3& from, const Vec3& to) {
  switch (told) {
    case Told::move_to:
      world.move_to(body, {to, Quat::Identity()});
      break;
    case Told::place:
      world.place(body, {to, Quat::Identity()});
      break;
    case Told::advance:
      world.advance(body, to - from, false);
      break;
    case Told::velocity:
      world.set_velocity(body, world.settings().tick_rate * (to - from));
      break;
  }
}

}  // namespace

TEST_CASE("a platform that speeds up takes along what lies on it") {
  for (const Told told : every_way)
    for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
      CAPTURE(static_cast<int>(told), rate);
      World world({.tick_rate = rate});
      const BodyHandle platform = world.create(kinematic_box({3, 0.2, 3}), {});
      const BodyHandle rider = world.create(crate(), {{{0, 0.3, 0}}});
      const auto at = [&](int tick) { return Vec3(0.5 * 2 * (tick / rate) * (tick / rate), 0, 0); };
      const int ticks = static_cast<int>(rate);
      for (int tick = 0; tick < ticks; ++tick) {
        lead(world, platform, told, at(tick), at(tick + 1));
        world.step();
      }
      CHECK(world.motion(platform).pose.position.x() == Approx(1).epsilon(1e-6));
      // The first tick, or the first two, tell nothing of where it goes: by so much it may lag.
      CHECK(world.motion(rider).pose.position.x() == Approx(1).margin(0.5e-3 + 2 * 2 / rate / rate));
      CHECK(world.motion(rider).pose.position.y() == Approx(0.3).margin(1e-3));
    }
}

TEST_CASE("a lift carries its load up and down") {
  // `advance` stops at what it meets, its load too.
  for (const Told told : {Told::move_to, Told::place, Told::velocity}) {
    CAPTURE(static_cast<int>(told));
    World world({.tick_rate = 60});
    const BodyHandle lift = world.create(kinematic_box({3, 0.2, 3}), {});
    const BodyHandle load = world.create(crate(), {{{0, 0.3, 0}}});
    const auto at = [](int tick) { return Vec3(0, 1 - std::cos(2 * tick / 60.0), 0); };
    for (int tick = 0; tick < 240; ++tick) {
      lead(world, lift, told, at(tick), at(tick + 1));
      world.step();
      CAPTURE(tick);
      CHECK(world.motion(load).pose.position.y() - at(tick + 1).y() == Approx(0.3).margin(2e-3));
    }
  }
}

TEST_CASE("what is pushed goes at the mover's speed, which is told as its own") {
  for (const Told told : every_way) {
    CAPTURE(static_cast<int>(told));
    World world({.tick_rate = 60});
    BodySettings floor = kinematic_box({40, 1, 40});
    floor.kind = MotionKind::fixed;
    floor.surface.static_friction = floor.surface.dynamic_friction = 0;
    world.create(floor, {{{0, -0.5, 0}}});
    const BodyHandle wall = world.create(kinematic_box({0.2, 0.38, 1}), {{{0, 0.2, 0}}});
    const BodyHandle block = world.create(crate(0), {{{0.5, 0.2, 0}}});
    for (int tick = 0; tick < 120; ++tick) {
      lead(world, wall, told, {2 * tick / 60.0, 0.2, 0}, {2 * (tick + 1) / 60.0, 0.2, 0});
      world.step();
    }
    CHECK(world.motion(block).velocity.x() == Approx(2).epsilon(1e-3));
    CHECK(world.motion(wall).velocity.x() == Approx(2).epsilon(1e-6));
    // Struck by `advance` it is off before the mover comes: a tick's way ahead.
    const double ahead = told == Told::advance ? 2 / 60.0 : 0;
    CHECK(world.motion(block).pose.position.x() == Approx(4 + 0.1 + 0.2 + ahead).margin(2e-3));
  }
}

TEST_CASE("placed once it jumps, and takes nothing along") {
  World world({.tick_rate = 60});
  const BodyHandle platform = world.create(kinematic_box({1, 0.2, 1}), {});
  const BodyHandle rider = world.create(crate(), {{{0, 0.3, 0}}});
  for (int tick = 0; tick < 30; ++tick) world.step();
  world.place(platform, {{3, 0, 0}, Quat::Identity()});
  world.step();
  CHECK(world.motion(platform).pose.position.x() == 3);
  CHECK(world.motion(platform).velocity.norm() == 0);
  for (int tick = 0; tick < 30; ++tick) world.step();
  CHECK(world.motion(rider).pose.position.x() == Approx(0).margin(1e-3));
  CHECK(world.motion(rider).pose.position.y() < -0.5);  // it fell
}

TEST_CASE("placed now and then it jumps each time, however little") {
  World world({.tick_rate = 60});
  const BodyHandle platform = world.create(kinematic_box({3, 0.2, 3}), {});
  const BodyHandle rider = world.create(crate(), {{{0, 0.3, 0}}});
  for (int tick = 0; tick < 60; ++tick) {
    if (tick % 10 == 0) world.place(platform, {{0.01 * tick, 0, 0}, Quat::Identity()});
    world.step();
    CHECK(world.motion(platform).velocity.norm() == 0);
  }
  CHECK(world.motion(platform).pose.position.x() == 0.5);
  CHECK(world.motion(rider).pose.position.x() == Approx(0).margin(1e-3));
}

TEST_CASE("one that is placed each tick and put back to its start does not sweep what stands between") {
  World world({.tick_rate = 60});
  BodySettings floor = kinematic_box({40, 1, 40});
  floor.kind = MotionKind::fixed;
  world.create(floor, {{{0, -0.5, 0}}});
  const BodyHandle cart = world.create(kinematic_box({0.4, 0.4, 0.4}), {{{2, 0.21, 0}}});
  const BodyHandle block = world.create(crate(), {{{1, 0.2, 0}}});
  for (int tick = 0; tick < 60; ++tick) {
    world.place(cart, {{2 + tick / 60.0, 0.21, 0}, Quat::Identity()});
    world.step();
  }
  for (int tick = 0; tick < 10; ++tick) {
    world.place(cart, {{-1 - tick / 60.0, 0.21, 0}, Quat::Identity()});  // 4 m off, then on the other way
    world.step();
  }
  CHECK(world.motion(block).pose.position.x() == Approx(1).margin(1e-6));
}

TEST_CASE("a block that a wall holds by speeding up does not slide down it") {
  for (const Told told : {Told::move_to, Told::velocity, Told::place})
    for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
      CAPTURE(static_cast<int>(told), rate);
      World world({.tick_rate = rate});
      const BodyHandle wall = world.create(kinematic_box({0.2, 3, 1}), {});
      const BodyHandle block = world.create(crate(), {{{0.3, 0, 0}}});
      const double push = 1.1 * 9.81 / 0.6;  // m/s²: what holds it, and a tenth more
      // It moves already when the block is let go.
      const auto at = [&](int tick) { return Vec3(0.5 * push * std::pow(tick / rate, 2), 0, 0); };
      const int ticks = static_cast<int>(rate);
      const auto go = [&](int tick) {
        lead(world, wall, told, at(tick), at(tick + 1));
        world.step();
      };
      for (int tick = 0; tick < 4; ++tick) go(tick);
      world.place(block, {{at(4).x() + 0.3, 0, 0}, Quat::Identity()});
      world.set_velocity(block, {push * 4 / rate, 0, 0});
      const double top = world.motion(block).pose.position.y();
      for (int tick = 4; tick < 8; ++tick) go(tick);
      const double before = world.motion(block).pose.position.y();
      for (int tick = 8; tick < ticks + 8; ++tick) go(tick);
      CHECK(top - world.motion(block).pose.position.y() < 2e-3);
      CHECK(before - world.motion(block).pose.position.y() < 0.5e-3);
    }
}
