// Locks, planar scenes, groups, sensing, inertia by hand, and changing what a body is in the middle of its motion.
#include <catch2/catch.hpp>

#include "dynamics/runs.h"
#include "dynamics/world/world.h"
#include "geometry/base/error.h"

using namespace bronvel;

namespace {

BodySettings crate() {
  BodySettings s;
  s.shape = Box{{0.6, 0.4, 0.5}};
  s.mass = 3;
  return s;
}

BodyHandle add_floor(World& world) {
  return world.create({.kind = MotionKind::fixed, .shape = Box{{40, 1, 40}}}, {{{0, -0.5, 0}}});
}

}  // namespace

TEST_CASE("a locked axis is not moved along, and not turned about, whatever hits the body") {
  World world({});
  add_floor(world);
  BodySettings post = crate();
  post.locks.move = {false, false, true};
  post.locks.turn = {true, true, false};
  const BodyHandle body = world.create(post, {{{0, 0.2, 0.3}}, {0, 0, 5}, {3, 0, 0}});
  BodySettings shot = crate();
  shot.shape = Sphere{0.2};
  world.create(shot, {{{-3, 0.5, 0.1}}, {12, 0, 1}, Vec3::Zero()});
  world.force(body, {0, 0, 1000});
  run_ticks(world, 120);
  const BodyMotion m = world.motion(body);
  CHECK(m.pose.position.z() == 0.3);
  CHECK(m.pose.position.x() > 0.05);
  CHECK(m.pose.orientation.x() == 0);
  CHECK(m.pose.orientation.y() == 0);
}

TEST_CASE("in a planar scene everything stays in its plane") {
  World world({.planar = true});
  add_floor(world);
  std::vector<BodyHandle> pile;
  for (int i = 0; i < 12; ++i)
    pile.push_back(world.create(crate(), {{{0.07 * (i % 3), 0.4 + 0.5 * i, 0.01 * (i % 2)}}, {0, 0, 1}, {1, 1, 1}}));
  run_ticks(world, 300);
  for (std::size_t i = 0; i < pile.size(); ++i) {
    const BodyMotion m = world.motion(pile[i]);
    CHECK(m.pose.position.z() == 0.01 * static_cast<double>(i % 2));
    CHECK(m.pose.orientation.x() == 0);
    CHECK(m.pose.orientation.y() == 0);
  }
}

TEST_CASE("inertia and centre of mass by hand") {
  World world({.gravity = Vec3::Zero()});
  BodySettings s = crate();
  s.inertia = Mat3(Vec3(1, 2, 2.5).asDiagonal());
  s.centre_of_mass = Vec3(0.1, 0, 0);
  const BodyHandle body = world.create(s, {});
  world.angular_impulse(body, {0, 4, 0});
  CHECK(world.motion(body).angular_velocity.y() == Approx(2));
  CHECK(world.centre_of_mass(body).x() == Approx(0.1));
  s.inertia = Mat3(Vec3(1, 1, 5).asDiagonal());
  CHECK_THROWS_WITH(world.create(s, {}), Catch::Contains("no body has that"));
  s.inertia = Mat3(Vec3(1, -1, 1).asDiagonal());
  CHECK_THROWS_AS(world.create(s, {}), Error);
}

TEST_CASE("groups: both must agree to meet") {
  World world({});
  add_floor(world);
  BodySettings ghost = crate();
  ghost.groups = 2;
  ghost.meets = 4;
  const BodyHandle falls = world.create(ghost, {{{0, 1, 0}}});
  BodySettings other = crate();
  const BodyHandle stays = world.create(other, {{{3, 1, 0}}});
  run_ticks(world, 120);
  CHECK(world.motion(falls).pose.position.y() < -5);
  CHECK(world.motion(stays).pose.position.y() == Approx(0.2).margin(2e-3));
}

TEST_CASE("what senses only is passed through, and tells") {
  World world({});
  BodySettings gate = crate();
  gate.kind = MotionKind::fixed;
  gate.solid = false;
  world.create(gate, {{{0, 2, 0}}});
  world.create(crate(), {{{0, 4, 0}}});
  int touched = 0, parted = 0;
  for (int i = 0; i < 120; ++i) {
    world.step();
    for (const ContactEvent& e : world.contacts()) {
      touched += e.phase == ContactPhase::touch;
      parted += e.phase == ContactPhase::part;
    }
  }
  CHECK(touched == 1);
  CHECK(parted == 1);
}

TEST_CASE("switching kind in the middle of motion is clean") {
  World world({});
  add_floor(world);
  const BodyHandle body = world.create(crate(), {{{0, 3, 0}}, {2, 0, 0}, {0, 4, 0}});
  run_ticks(world, 10);
  BodySettings s = world.body_settings(body);
  s.kind = MotionKind::fixed;
  world.change(body, s);
  const Vec3 held = world.motion(body).pose.position;
  run_ticks(world, 30);
  CHECK(world.motion(body).pose.position == held);
  s.kind = MotionKind::kinematic;
  world.change(body, s);
  world.set_velocity(body, {0, 1, 0});
  run_ticks(world, 60);
  CHECK(world.motion(body).pose.position.y() == Approx(held.y() + 1).margin(1e-9));
  // Back among the dynamic ones it goes on with the speed that it had.
  s.kind = MotionKind::dynamic;
  world.change(body, s);
  world.step();
  CHECK(world.motion(body).velocity.y() == Approx(1 - 9.81 / 60).margin(1e-9));
  run_ticks(world, 300);
  CHECK(world.motion(body).pose.position.y() == Approx(0.2).margin(3e-3));
  // Not solid any more, it sinks; solid again inside the floor, it is pushed out and not shot out.
  s.solid = false;
  world.change(body, s);
  run_ticks(world, 6);
  CHECK(world.motion(body).pose.position.y() < 0.19);
  s.solid = true;
  world.change(body, s);
  double fastest = 0;
  for (int i = 0; i < 300; ++i) {
    world.step();
    fastest = std::max(fastest, world.motion(body).velocity.y());
  }
  CHECK(fastest < 3.1);
  CHECK(world.motion(body).pose.position.y() == Approx(0.2).margin(3e-3));
}

TEST_CASE("a kinematic body told where to be arrives on the tick and carries what stands on it") {
  World world({.tick_rate = 120});
  BodySettings lift = crate();
  lift.kind = MotionKind::kinematic;
  lift.shape = Box{{2, 0.2, 2}};
  lift.surface.static_friction = lift.surface.dynamic_friction = 0.8;
  const BodyHandle platform = world.create(lift, {});
  const BodyHandle rider = world.create(crate(), {{{0, 0.3, 0}}});
  for (int i = 1; i <= 120; ++i) {
    world.move_to(platform, {{0.5 * i / 120, 1.0 * i / 120, 0}});
    world.step();
    CHECK(world.motion(platform).pose.position.y() == 1.0 * i / 120);
  }
  CHECK(world.motion(rider).pose.position.x() == Approx(0.5).margin(0.05));
  CHECK(world.motion(rider).pose.position.y() > 1.28);
  CHECK_THROWS_WITH(world.move_to(rider, {}), Catch::Contains("kinematic"));
}

TEST_CASE("advance stops at what it hits, or slides along it") {
  World world({});
  add_floor(world);
  world.create({.kind = MotionKind::fixed, .shape = Box{{1, 4, 10}}}, {{{3, 2, 0}}});
  BodySettings walker = crate();
  walker.kind = MotionKind::kinematic;
  walker.shape = Capsule{0.3, 1};
  const BodyHandle body = world.create(walker, {{{0, 1, 0}}});
  const WorldAdvance stopped = world.advance(body, {5, 0, 2}, false);
  REQUIRE(stopped.hit);
  CHECK(stopped.hit->normal.x() == Approx(-1).margin(1e-6));
  CHECK(world.motion(body).pose.position.x() == Approx(2.2).margin(1e-3));
  const double z = world.motion(body).pose.position.z();
  const WorldAdvance slid = world.advance(body, {1, 0, 1}, true);
  CHECK(slid.hit);
  CHECK(world.motion(body).pose.position.z() == Approx(z + 1).margin(1e-3));
  CHECK(world.motion(body).pose.position.x() == Approx(2.2).margin(1e-3));
  const WorldAdvance free = world.advance(body, {-1, 0, 0}, true);
  CHECK_FALSE(free.hit);
  CHECK(free.moved.x() == Approx(-1));
}
