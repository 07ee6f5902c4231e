// Bodies that move as told: how fast they say they go, what they carry, push and squeeze.
#include <catch2/catch.hpp>
#include <cmath>

#include "dynamics/world/world.h"

using namespace bronvel;

namespace {

BodySettings of_kind(MotionKind kind, const Shape& shape, double friction = 0.6) {
  BodySettings settings;
  settings.kind = kind;
  settings.shape = shape;
  settings.mass = 2;
  settings.surface.static_friction = settings.surface.dynamic_friction = friction;
  settings.surface.restitution = 0;
  return settings;
}

BodyMotion standing(const Vec3& place) {
  return {{place, Quat::Identity()}, Vec3::Zero(), Vec3::Zero()};
}

Pose pose_at(const Vec3& place) {
  return {place, Quat::Identity()};
}

}  // namespace

TEST_CASE("a mover arrives where it was told to, and stands") {
  for (const double rate : {30.0, 60.0, 240.0}) {
    World world({.tick_rate = rate});
    const BodyHandle lift = world.create(of_kind(MotionKind::kinematic, Box{{2, 0.2, 2}}), standing({0, 1, 0}));
    for (int i = 1; i <= 40; ++i) {
      const Pose to{{0.02 * i, 1 + 0.01 * i, 0}, Quat(Eigen::AngleAxisd(0.01 * i, Vec3::Unit(1)))};
      world.move_to(lift, to);
      world.step();
      CHECK((world.motion(lift).pose.position - to.position).norm() < 1e-12);
      CHECK(world.motion(lift).pose.orientation.angularDistance(to.orientation) < 1e-9);
    }
    const Vec3 end = world.motion(lift).pose.position;
    for (int i = 0; i < 10; ++i) world.step();
    CHECK(world.motion(lift).pose.position == end);
  }
}

TEST_CASE("what stands on a mover goes with it, and what it runs into is pushed at its speed") {
  World world({});
  const BodyHandle cart = world.create(of_kind(MotionKind::kinematic, Box{{3, 0.2, 3}}), standing({0, 0.9, 0}));
  const BodyHandle rider = world.create(of_kind(MotionKind::dynamic, Box{{0.5, 0.5, 0.5}}), standing({0, 1.25, 0}));
  for (int i = 0; i < 30; ++i) world.step();
  // From rest to 2 m/s within a second, at a third of what friction holds.
  double place = 0, speed = 0;
  for (int i = 0; i < 120; ++i) {
    speed = std::min(2.0, speed + 2.0 / 60);
    place += speed / 60;
    world.move_to(cart, pose_at({place, 0.9, 0}));
    world.step();
  }
  CHECK(world.motion(rider).pose.position.x() == Approx(place).margin(5e-3));
  CHECK(world.velocity(rider).x() == Approx(2).epsilon(1e-3));

  World other({.gravity = Vec3::Zero()});
  const BodyHandle ram = other.create(of_kind(MotionKind::kinematic, Box{{1, 1, 1}}), standing({-3, 0, 0}));
  const BodyHandle hit = other.create(of_kind(MotionKind::dynamic, Sphere{0.5}), standing({0, 0, 0}));
  for (int i = 1; i <= 90; ++i) {
    other.move_to(ram, pose_at({-3 + 2.0 * i / 60, 0, 0}));
    other.step();
    const double gap = other.motion(hit).pose.position.x() - 0.5 - (other.motion(ram).pose.position.x() + 0.5);
    CHECK(gap > -1e-3);
  }
  CHECK(other.velocity(hit).x() == Approx(2).epsilon(1e-6));
}

TEST_CASE("a mover is moved by nothing") {
  World world({});
  const BodyHandle gate = world.create(of_kind(MotionKind::kinematic, Box{{0.2, 2, 2}}), standing({0, 1, 0}));
  BodyMotion thrown = standing({-4, 1, 0});
  thrown.velocity = {20, 0, 0};
  BodySettings heavy = of_kind(MotionKind::dynamic, Sphere{0.5});
  heavy.mass = 1e5;
  heavy.gravity_factor = 0;
  const BodyHandle ball = world.create(heavy, thrown);
  for (int i = 0; i < 60; ++i) world.step();
  CHECK(world.motion(gate).pose.position == Vec3(0, 1, 0));
  CHECK(world.motion(ball).pose.position.x() < -0.55);
  world.force(gate, {1e6, 0, 0});
  world.impulse(gate, {1e6, 0, 0});
  world.step();
  CHECK(world.motion(gate).pose.position.x() == 0);
}

TEST_CASE("a velocity is kept until another is set, and turns by its spin") {
  World world({.tick_rate = 120});
  BodyMotion going = standing({0, 0, 0});
  going.velocity = {0, 0, 3};
  going.angular_velocity = {0, pi, 0};
  const BodyHandle mill = world.create(of_kind(MotionKind::kinematic, Box{{4, 0.2, 0.4}}), going);
  for (int i = 0; i < 120; ++i) world.step();
  CHECK(world.motion(mill).pose.position.z() == Approx(3));
  CHECK(world.motion(mill).pose.orientation.angularDistance(Quat(Eigen::AngleAxisd(pi, Vec3::Unit(1)))) < 1e-6);
  world.set_velocity(mill, Vec3::Zero());
  for (int i = 0; i < 120; ++i) world.step();
  CHECK(world.motion(mill).pose.position.z() == Approx(3));
}

TEST_CASE("what advances stops at what it hits, slides along it, and goes through what it does not collide with") {
  World world({.gravity = Vec3::Zero()});
  const BodyHandle walker = world.create(of_kind(MotionKind::kinematic, Capsule{0.3, 1}), standing({0, 0, 0}));
  world.create(of_kind(MotionKind::fixed, Box{{0.2, 4, 20}}), standing({2, 0, 0}));
  BodySettings mist = of_kind(MotionKind::fixed, Box{{0.2, 4, 20}});
  mist.solid = false;
  world.create(mist, standing({1, 0, 0}));
  world.step();
  const WorldAdvance stopped = world.advance(walker, {5, 0, 0}, false);
  REQUIRE(stopped.hit);
  CHECK(stopped.moved.x() == Approx(1.6).margin(1e-3));
  CHECK(stopped.hit->normal.x() == Approx(-1));
  const WorldAdvance slid = world.advance(walker, {1, 0, 2}, true);
  CHECK(slid.moved.z() == Approx(2).margin(1e-3));
  CHECK(std::abs(slid.moved.x()) < 1e-3);
  // Away from the wall nothing is in the way; a way of nothing goes nowhere.
  CHECK_FALSE(world.advance(walker, {-1, 0, 0}, true).hit);
  CHECK(world.advance(walker, Vec3::Zero(), true).moved.isZero());
}

TEST_CASE("squeezed between movers a body stays whole and finite, and is let go") {
  World world({});
  BodySettings floor = of_kind(MotionKind::fixed, Box{{20, 1, 20}});
  world.create(floor, standing({0, -0.5, 0}));
  const BodyHandle left = world.create(of_kind(MotionKind::kinematic, Box{{1, 1, 1}}), standing({-2, 0.5, 0}));
  const BodyHandle right = world.create(of_kind(MotionKind::kinematic, Box{{1, 1, 1}}), standing({2, 0.5, 0}));
  const BodyHandle crate = world.create(of_kind(MotionKind::dynamic, Box{{1, 1, 1}}), standing({0, 0.5, 0}));
  for (int i = 1; i <= 120; ++i) {
    const double x = 2 - 1.4 * i / 120;
    world.move_to(left, pose_at({-x, 0.5, 0}));
    world.move_to(right, pose_at({x, 0.5, 0}));
    world.step();
    CHECK(world.motion(crate).pose.position.allFinite());
    CHECK(world.velocity(crate).norm() < 20);
  }
  for (int i = 120; i >= 1; --i) {
    const double x = 2 - 1.4 * i / 120;
    world.move_to(left, pose_at({-x, 0.5, 0}));
    world.move_to(right, pose_at({x, 0.5, 0}));
    world.step();
  }
  for (int i = 0; i < 120; ++i) world.step();
  CHECK(world.velocity(crate).norm() < 0.05);
  CHECK(world.motion(crate).pose.position.y() > 0.4);
}

TEST_CASE("a mover that goes before it set out takes nothing along: not what gets its place, nor other movers") {
  World world({.gravity = Vec3::Zero()});
  BodySettings told;
  told.kind = MotionKind::kinematic;
  told.shape = Box{{1, 1, 1}};
  const BodyHandle first = world.create(told, {{{0, 0, 0}}}), second = world.create(told, {{{5, 0, 0}}});
  world.move_to(first, {{0, 3, 0}});
  world.move_to(second, {{5, 2, 0}});
  world.remove(first);
  BodySettings free;
  free.shape = Sphere{0.5};
  const BodyHandle instead = world.create(free, {{{0, 10, 0}}});
  world.step();
  CHECK(world.motion(instead).pose.position == Vec3(0, 10, 0));
  CHECK(world.motion(second).pose.position == Vec3(5, 2, 0));
  CHECK(world.velocity(second).y() == Approx(2 * world.settings().tick_rate));
  // What is no mover any more is not led either.
  world.move_to(second, {{5, 4, 0}});
  told.kind = MotionKind::fixed;
  world.change(second, told);
  world.step();
  CHECK(world.motion(second).pose.position == Vec3(5, 2, 0));
  CHECK(world.velocity(second).isZero());
}
