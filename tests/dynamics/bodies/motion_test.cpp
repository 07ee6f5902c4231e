// Bodies in free motion, pushed, dragged and at rest.
#include <catch2/catch.hpp>

#include "dynamics/runs.h"
#include "dynamics/world/world.h"
#include "geometry/base/error.h"

using namespace bronvel;

namespace {

BodyHandle floor_of(World& world, const Surface& surface = {}) {
  return world.create({.kind = MotionKind::fixed, .shape = Box{{40, 1, 40}}, .surface = surface}, {{{0, -0.5, 0}}});
}

}  // namespace

TEST_CASE("free flight is exact at any tick rate") {
  for (const double rate : {10.0, 30.0, 60.0, 75.0, 240.0}) {
    CAPTURE(rate);
    World world({.tick_rate = rate});
    const BodyHandle ball = world.create({.shape = Sphere{0.1}}, {{{1, 2, 3}}, {4, 5, -6}, {0, 0, 0}});
    run(world, 2);
    const BodyMotion m = world.motion(ball);
    CHECK(m.pose.position.x() == Approx(1 + 4 * 2).epsilon(1e-12));
    CHECK(m.pose.position.y() == Approx(2 + 5 * 2 - 0.5 * 9.81 * 4).epsilon(1e-12));
    CHECK(m.pose.position.z() == Approx(3 - 6 * 2).epsilon(1e-12));
    CHECK(m.velocity.y() == Approx(5 - 9.81 * 2).epsilon(1e-12));
    CHECK(world.time() == 2.0);
  }
}

TEST_CASE("a force of 1.1 times the weight lifts with a tenth of gravity") {
  for (const double rate : {30.0, 60.0, 120.0}) {
    World world({.tick_rate = rate});
    floor_of(world);
    const BodyHandle box = world.create({.shape = Box{{1, 1, 1}}, .mass = 7}, {{{0, 0.5, 0}}});
    run(world, 0.5);  // settle first
    const double start = world.motion(box).pose.position.y();
    for (int i = 0; i < static_cast<int>(rate); ++i) {
      world.force(box, {0, 1.1 * 7 * 9.81, 0});
      world.step();
    }
    CAPTURE(rate);
    CHECK(world.motion(box).velocity.y() == Approx(0.981).epsilon(0.001));
    CHECK(world.motion(box).pose.position.y() - start == Approx(0.5 * 0.981).epsilon(0.001));
  }
}

TEST_CASE("impulses and forces off the centre turn the body as they should") {
  World world({.gravity = Vec3::Zero()});
  const BodyHandle box = world.create({.shape = Box{{1, 2, 3}}, .mass = 6}, {});
  world.impulse_at(box, {0, 0, 3}, {0, 1, 0});
  const double inertia = 6 * (4 + 9) / 12.0;
  CHECK(world.motion(box).velocity.z() == Approx(0.5));
  CHECK(world.motion(box).angular_velocity.x() == Approx(3.0 / inertia));
}

TEST_CASE("terminal speed comes out right for each kind of drag") {
  struct Case {
    double linear, area, damping, wanted;
  };
  const double g = 9.81, m = 2;
  for (const Case& c :
       {Case{4, 0, 0, m * g / 4}, Case{0, 0.5, 0, std::sqrt(2 * m * g / (1.2 * 0.5))}, Case{0, 0, 2, g / 2}}) {
    World world(WorldSettings{});
    const BodyHandle ball = world.create(
        {.shape = Sphere{0.1}, .mass = m, .linear_damping = c.damping, .linear_drag = c.linear, .drag_area = c.area},
        {{{0, 5000, 0}}});
    run(world, 30);
    CHECK(-world.motion(ball).velocity.y() == Approx(c.wanted).epsilon(1e-6));
  }
}

TEST_CASE("a free spinning body keeps its energy and angular momentum") {
  World world({.gravity = Vec3::Zero()});
  const BodyHandle box = world.create({.shape = Box{{0.2, 0.6, 1.0}}, .mass = 3}, {{}, Vec3::Zero(), {0.01, 5, 0.02}});
  const auto momentum = [&] {
    const BodyMotion m = world.motion(box);
    const Mat3 r = m.pose.orientation.toRotationMatrix();
    return Vec3(r * world.mass(box).inertia * r.transpose() * m.angular_velocity);
  };
  const double energy = world.kinetic_energy();
  const Vec3 start = momentum();
  run(world, 60);
  CHECK(world.kinetic_energy() == Approx(energy).epsilon(1e-3));
  CHECK((momentum() - start).norm() / start.norm() < 1e-3);
}

TEST_CASE("a block on a slope holds below the angle of friction and slides above it") {
  const Surface rough{.static_friction = 0.5, .dynamic_friction = 0.5};
  for (const double degrees : {24.0, 30.0}) {
    World world({.tick_rate = 60});
    const double angle = degrees * pi / 180;
    const Quat tilt(Eigen::AngleAxisd(-angle, Vec3::Unit(2)));
    world.create({.kind = MotionKind::fixed, .shape = Box{{60, 1, 4}}, .surface = rough},
                 {{tilt * Vec3(0, -0.5, 0), tilt}});
    const BodyHandle block = world.create({.shape = Box{{1, 0.4, 1}}, .surface = rough, .may_sleep = false},
                                          {{tilt * Vec3(-20, 0.2, 0), tilt}});
    run(world, 0.5);
    const Vec3 start = world.motion(block).pose.position;
    const double before = world.motion(block).velocity.norm();
    run(world, 2);
    const double wanted = std::max(0.0, 9.81 * (std::sin(angle) - 0.5 * std::cos(angle)));
    CAPTURE(degrees);
    if (wanted == 0)
      CHECK((world.motion(block).pose.position - start).norm() < 1e-3);
    else
      CHECK((world.motion(block).velocity.norm() - before) / 2 == Approx(wanted).epsilon(0.01));
  }
}

TEST_CASE("a stack stands, falls asleep, and wakes when something hits it") {
  World world({.tick_rate = 60});
  floor_of(world);
  std::vector<BodyHandle> stack;
  for (int i = 0; i < 10; ++i) stack.push_back(world.create({.shape = Box{{1, 1, 1}}}, {{{0, 0.5 + i, 0}}}));
  run(world, 3);
  for (int i = 0; i < 10; ++i) {
    CHECK(world.asleep(stack[static_cast<std::size_t>(i)]));
    CHECK((world.motion(stack[static_cast<std::size_t>(i)]).pose.position - Vec3(0, 0.5 + i, 0)).norm() < 1e-3);
  }
  const BodyHandle ball = world.create({.shape = Sphere{0.3}, .mass = 5}, {{{-4, 8, 0}}, {20, 0, 0}, Vec3::Zero()});
  run(world, 1);
  CHECK_FALSE(world.asleep(stack.back()));
  CHECK(world.motion(stack.back()).pose.position.x() > 0.1);
  CHECK(world.alive(ball));
}

TEST_CASE("the same calls give the same bits") {
  const auto play = [] {
    World world({.tick_rate = 60});
    floor_of(world);
    for (int i = 0; i < 30; ++i) {
      const double x = 0.37 * (i % 5), y = 1 + 0.9 * (i / 5);
      if (i % 2)
        world.create({.shape = Sphere{0.3}}, {{{x, y, 0.1 * i}}});
      else
        world.create({.shape = Box{{0.5, 0.4, 0.6}}}, {{{x, y, 0.1 * i}, Quat(0.9, 0.1 * i, 0.2, 0.1).normalized()}});
    }
    run(world, 4);
    return world.digest();
  };
  CHECK(play() == play());
}

TEST_CASE("contacts are told when they begin, last and end, with what happened") {
  World world({.tick_rate = 120});
  const Surface surface{.restitution = 0.5};
  const BodyHandle ground = floor_of(world, surface);
  const BodyHandle ball = world.create({.shape = Sphere{0.5}, .mass = 2, .surface = surface}, {{{0, 1.5, 0}}});
  int touches = 0, parts = 0, stays = 0;
  for (int i = 0; i < 120 && touches < 2; ++i) {
    world.step();
    for (const ContactEvent& e : world.contacts()) {
      CHECK(e.a == ground);
      CHECK(e.b == ball);
      if (e.phase == ContactPhase::touch && ++touches == 1) {
        CHECK(e.closing_speed == Approx(std::sqrt(2 * 9.81 * 1.0)).epsilon(1e-6));
        CHECK(e.normal_impulse == Approx(2 * 1.5 * e.closing_speed).epsilon(1e-3));
        CHECK(e.normal.y() == Approx(1));
        REQUIRE_FALSE(e.points.empty());
        CHECK(e.surface.restitution == Approx(0.5));
      }
      if (e.phase == ContactPhase::part) ++parts;
      if (e.phase == ContactPhase::stay) ++stays;
    }
  }
  CHECK(touches == 2);
  CHECK(parts == 1);
}

TEST_CASE("a handle of a removed body is never taken for another") {
  World world(WorldSettings{});
  const BodyHandle first = world.create({.shape = Sphere{}}, {});
  world.remove(first);
  const BodyHandle second = world.create({.shape = Sphere{}}, {});
  CHECK(second.index == first.index);
  CHECK_FALSE(world.alive(first));
  CHECK(world.alive(second));
  CHECK_THROWS_AS(world.motion(first), Error);
  CHECK_THROWS_AS(world.remove(first), Error);
}

TEST_CASE("broken numbers are refused at the door") {
  World world(WorldSettings{});
  const double nan = std::nan("");
  CHECK_THROWS_AS(world.create({.shape = Sphere{}, .mass = 0}, {}), Error);
  CHECK_THROWS_AS(world.create({.shape = Sphere{}, .mass = nan}, {}), Error);
  CHECK_THROWS_AS(world.create({.shape = Sphere{nan}}, {}), Error);
  CHECK_THROWS_AS(world.create({.shape = Sphere{}}, {{{nan, 0, 0}}}), Error);
  CHECK_THROWS_AS(world.create({.shape = Sphere{}}, {{{0, 0, 0}, Quat(0, 0, 0, 0)}}), Error);
  CHECK_THROWS_AS(World({.tick_rate = 0}), Error);
  CHECK_THROWS_AS(World({.substeps = 0}), Error);
  const BodyHandle ball = world.create({.shape = Sphere{}}, {});
  CHECK_THROWS_AS(world.force(ball, {nan, 0, 0}), Error);
  CHECK_THROWS_AS(world.set_velocity(ball, {0, INFINITY, 0}), Error);
  CHECK_THROWS_AS(world.ray({0, 0, 0}, {0, 0, 0}, 1), Error);
  world.step();
  CHECK(finite(world.motion(ball).pose.position));
}

TEST_CASE("a body that would stop being a number is stopped and reported") {
  World world(WorldSettings{});
  const BodyHandle ball = world.create({.shape = Sphere{}, .mass = 1e-12}, {});
  world.impulse(ball, Vec3(1e300, 0, 0));
  world.impulse(ball, Vec3(1e300, 0, 0));
  for (int i = 0; i < 3; ++i) world.step();
  CHECK(finite(world.motion(ball).pose.position));
  CHECK(world.body_settings(ball).kind == MotionKind::fixed);
}

TEST_CASE("a ray finds the nearest body") {
  World world(WorldSettings{});
  floor_of(world);
  const BodyHandle ball = world.create({.shape = Sphere{0.5}, .groups = 2}, {{{0, 3, 0}}});
  const auto hit = world.ray({0, 10, 0}, {0, -2, 0}, 100);
  REQUIRE(hit);
  CHECK(hit->body == ball);
  CHECK(hit->hit.distance == Approx(6.5));
  const auto below = world.ray({0, 10, 0}, {0, -1, 0}, 100, {.groups = 1});
  REQUIRE(below);
  CHECK(below->hit.distance == Approx(10));
}

TEST_CASE("a body that is not solid is touched but does not push") {
  World world(WorldSettings{});
  const BodyHandle ghost =
      world.create({.kind = MotionKind::fixed, .shape = Box{{2, 2, 2}}, .solid = false}, {{{0, 0, 0}}});
  const BodyHandle ball = world.create({.shape = Sphere{0.2}}, {{{0, 3, 0}}});
  bool touched = false;
  for (int i = 0; i < 90; ++i) {
    world.step();
    for (const ContactEvent& e : world.contacts()) touched = touched || (e.a == ghost && e.b == ball);
  }
  CHECK(touched);
  CHECK(world.motion(ball).pose.position.y() == Approx(3 - 0.5 * 9.81 * 1.5 * 1.5));
}

TEST_CASE("overlaps, nearest points and sweeps agree with closed forms") {
  World world(WorldSettings{});
  const BodyHandle ground = floor_of(world);
  const BodyHandle cask = world.create({.shape = Cylinder{0.5, 1}, .groups = 2}, {{{0, 2, 0}}});
  CHECK(world.overlapping(Sphere{0.3}, {{0.75, 2, 0}}) == std::vector<BodyHandle>{cask});
  CHECK(world.overlapping(Sphere{0.2}, {{0.75, 2, 0}}).empty());
  CHECK(world.overlapping(Box{{1, 5, 1}}, {{0, 2, 0}}) == std::vector<BodyHandle>{ground, cask});
  CHECK(world.overlapping(Box{{1, 5, 1}}, {{0, 2, 0}}, {.groups = 1}) == std::vector<BodyHandle>{ground});
  const auto near = world.nearest({2, 2.2, 0}, 10);
  REQUIRE(near);
  CHECK(near->body == cask);
  CHECK(near->distance == Approx(1.5).margin(1e-4));
  CHECK(near->normal.x() == Approx(1));
  CHECK_FALSE(world.nearest({2, 5, 0}, 1));
  const auto met = world.sweep(Sphere{0.25}, {{0, 10, 0}}, {0, -20, 0});
  REQUIRE(met);
  CHECK(met->body == cask);
  CHECK(met->distance == Approx(10 - 2.5 - 0.25).margin(1e-5));
  CHECK_FALSE(world.sweep(Sphere{0.25}, {{0, 10, 0}}, {0, -5, 0}));
  CHECK(world.sweep(Sphere{0.25}, {{3, 10, 0}}, {0, -20, 0})->distance == Approx(9.75).margin(1e-5));
}

TEST_CASE("a world goes on from a snapshot exactly as it did before") {
  World world({.tick_rate = 60});
  floor_of(world);
  for (int i = 0; i < 24; ++i)
    world.create({.shape = i % 2 == 0 ? Shape(Box{{0.5, 0.4, 0.6}}) : Shape(Cylinder{0.3, 0.5})},
                 {{{0.8 * (i % 4), 0.6 + 0.8 * (i / 8), 0.8 * (i / 4 % 2)}}});
  run(world, 0.7);
  const WorldSnapshot middle = world.snapshot();
  run(world, 1.5);
  const std::uint64_t end = world.digest();
  const std::int64_t tick = world.tick();
  world.restore(middle);
  CHECK(world.tick() == 42);
  run(world, 1.5);
  CHECK(world.digest() == end);
  CHECK(world.tick() == tick);
  World other(WorldSettings{});
  other.restore(middle);
  run(other, 1.5);
  CHECK(other.digest() == end);
  CHECK_THROWS_AS(other.restore(WorldSnapshot{}), Error);
}

TEST_CASE("a kinematic body pushes others at its own speed and is not pushed back") {
  World world({.tick_rate = 60});
  floor_of(world, {.static_friction = 0, .dynamic_friction = 0});
  const BodyHandle pusher =
      world.create({.kind = MotionKind::kinematic, .shape = Box{{1, 1, 1}}, .surface = {.restitution = 0}},
                   {{{-2, 0.5, 0}}, {1.5, 0, 0}, Vec3::Zero()});
  const BodyHandle crate = world.create({.shape = Box{{1, 1, 1}},
                                         .mass = 500,
                                         .surface = {.static_friction = 0, .dynamic_friction = 0, .restitution = 0}},
                                        {{{0, 0.5, 0}}});
  run(world, 2);
  CHECK(world.motion(pusher).pose.position.x() == Approx(1).margin(1e-9));
  CHECK(world.motion(crate).pose.position.x() == Approx(2).margin(0.01));
  CHECK(world.motion(crate).velocity.x() == Approx(1.5).margin(0.01));
}
