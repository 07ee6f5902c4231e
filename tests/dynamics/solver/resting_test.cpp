// What rests: on movers, against walls on ropes, spinning on the spot, against the closed form.
#include <catch2/catch.hpp>

#include "dynamics/runs.h"
#include "dynamics/world/world.h"

using namespace bronvel;

namespace {

constexpr double g = 9.81;

BodyHandle add_fixed(World& world, const Vec3& size, const Vec3& at, const Surface& surface) {
  BodySettings settings;
  settings.kind = MotionKind::fixed;
  settings.shape = Box{size};
  settings.surface = surface;
  return world.create(settings, {{at, Quat::Identity()}, Vec3::Zero(), Vec3::Zero()});
}

}  // namespace

TEST_CASE("what lies on a slow turntable goes along with it") {
  for (const Shape& shape : {Shape(Box{{0.4, 0.3, 0.4}}), Shape(Cylinder{0.2, 0.3})}) {
    World world({.tick_rate = 60});
    const Surface oak{.static_friction = 0.6, .dynamic_friction = 0.5, .restitution = 0};
    BodySettings table;
    table.kind = MotionKind::kinematic;
    table.shape = Cylinder{2, 0.2};
    table.surface = oak;
    const BodyHandle turntable = world.create(table, {{{0, -0.1, 0}}});
    BodySettings settings;
    settings.shape = shape;
    settings.surface = oak;
    settings.may_sleep = false;
    const BodyHandle rider = world.create(settings, {{{1.2, 0.15, 0}}});
    run(world, 1);
    const auto seen_from_table = [&] {
      const Pose on = world.motion(turntable).pose;
      return Vec3(on.orientation.conjugate() * (world.motion(rider).pose.position - on.position));
    };
    const Vec3 before = seen_from_table();
    const double start = world.time();
    // 0.02 rad/s: less in a tick than after which contact points are found anew.
    for (int i = 0; i < 600; ++i) {
      const double angle = 0.02 * (world.time() + 1.0 / 60 - start);
      world.move_to(turntable, {{0, -0.1, 0}, Quat(Eigen::AngleAxisd(angle, Vec3::Unit(1)))});
      world.step();
    }
    CHECK((seen_from_table() - before).norm() < 2e-4);
    CHECK(std::abs(world.motion(rider).pose.position.y() - 0.15) < 1e-4);
  }
}

TEST_CASE("a ball on a rope against a smooth wall: pull and pressure") {
  // The rope is held at the wall, above; it and the weight are along the same way from the ball's middle.
  for (const double mass : {1.0, 500.0}) {
    World world({.tick_rate = 120});
    const Surface smooth{};
    add_fixed(world, {1, 10, 10}, {-0.5, 0, 0}, smooth);
    constexpr double radius = 0.3, rope = 1.0;
    const double down = std::sqrt(rope * rope - radius * radius);
    BodySettings ball;
    ball.shape = Sphere{radius};
    ball.mass = mass;
    ball.surface = smooth;
    const BodyHandle body = world.create(ball, {{{radius, 2 - down, 0}}});
    JointSettings cord;
    cord.kind = JointKind::distance;
    cord.b = body;
    cord.frame_a.position = {0, 2, 0};
    cord.along.freedom = Freedom::limited;
    cord.along.low = 0;
    cord.along.high = rope;
    cord.bodies_meet = true;
    const JointHandle joint = world.join(cord);
    run(world, 0.3);
    CHECK(world.reading(joint).force.norm() == Approx(mass * g * rope / down).epsilon(1e-4));
    REQUIRE(world.contacts().size() == 1);
    CHECK(world.contacts()[0].normal_impulse * 120 == Approx(mass * g * radius / down).epsilon(1e-3));
    CHECK(world.motion(body).velocity.norm() < 1e-5);
  }
}

TEST_CASE("what resists rolling resists spinning on the spot as much") {
  constexpr double radius = 0.25, spin = 6, rolling = 0.02;
  for (const bool resists : {true, false}) {
    World world({.tick_rate = 120});
    const Surface surface{
        .static_friction = 0.6, .dynamic_friction = 0.5, .rolling_friction = resists ? rolling : 0, .restitution = 0};
    add_fixed(world, {10, 1, 10}, {0, -0.5, 0}, surface);
    BodySettings ball;
    ball.shape = Sphere{radius};
    ball.surface = surface;
    ball.may_sleep = false;
    const BodyHandle body = world.create(ball, {{{0, radius, 0}}, Vec3::Zero(), {0, spin, 0}});
    run(world, 1);
    // Torque rolling × radius × weight, inertia 2/5 m r².
    const double slower = resists ? rolling * g / (0.4 * radius) : 0;
    CHECK(world.motion(body).angular_velocity.y() == Approx(spin - slower).epsilon(2e-3));
    run(world, 5);
    CHECK(std::abs(world.motion(body).angular_velocity.y()) == Approx(resists ? 0 : spin).margin(1e-9));
  }
}

TEST_CASE("heavy and light boxes by turns stand still") {
  World world({.tick_rate = 120});
  const Surface oak{.static_friction = 0.6, .dynamic_friction = 0.5, .restitution = 0};
  add_fixed(world, {20, 1, 20}, {0, -0.5, 0}, oak);
  std::vector<BodyHandle> stack;
  for (int i = 0; i < 30; ++i) {
    BodySettings box;
    box.shape = Box{{1, 1, 1}};
    box.mass = i % 2 == 0 ? 1 : 10;
    box.surface = oak;
    box.may_sleep = false;
    stack.push_back(world.create(box, {{{0, 0.5 + i, 0}}}));
  }
  run(world, 5);
  double fastest = 0;
  for (int i = 0; i < 120; ++i) {
    world.step();
    for (const BodyHandle box : stack) fastest = std::max(fastest, world.motion(box).velocity.norm());
  }
  CHECK(fastest < 0.01);
}

TEST_CASE("another centre of mass moves nothing that rests") {
  World world({.tick_rate = 60});
  add_fixed(world, {10, 1, 10}, {0, -0.5, 0}, {});
  BodySettings box;
  box.shape = Box{{1, 1, 1}};
  box.may_sleep = false;
  const BodyHandle body = world.create(box, {{{0, 0.5, 0}}});
  run(world, 2);
  const double height = world.motion(body).pose.position.y();
  // Less than after which contact points are found anew.
  box.centre_of_mass = Vec3(0, 5e-5, 0);
  world.change(body, box);
  world.step();
  CHECK(std::abs(world.motion(body).pose.position.y() - height) < 1e-7);
  CHECK(world.motion(body).velocity.norm() < 1e-5);
}
