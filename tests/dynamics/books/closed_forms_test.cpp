// Forces read off the books against closed forms, within 0.1 %.
#include <catch2/catch.hpp>

#include "dynamics/runs.h"
#include "dynamics/settings/books.h"

using namespace bronvel;

namespace {

constexpr double g = 9.81, rate = 120;

World heavy_world(double air = 0) {
  WorldSettings settings;
  settings.gravity = {0, -g, 0};
  settings.tick_rate = rate;
  settings.air_density = air;
  return World(settings);
}

BodySettings block(double mass, const Vec3& size, double friction = 0.5) {
  BodySettings settings;
  settings.shape = Box{size};
  settings.mass = mass;
  settings.surface.static_friction = settings.surface.dynamic_friction = friction;
  settings.surface.restitution = 0;
  settings.may_sleep = false;
  return settings;
}

BodySettings ball(double mass, double radius) {
  BodySettings settings = block(mass, Vec3::Ones());
  settings.shape = Sphere{radius};
  return settings;
}

BodyHandle ground_of(World& world, double friction = 0.5, double restitution = 0, double tilt = 0) {
  BodySettings settings = block(1, {60, 1, 60}, friction);
  settings.surface.restitution = restitution;
  settings.kind = MotionKind::fixed;
  const Quat turn(Eigen::AngleAxisd(tilt, Vec3::Unit(2)));
  return world.create(settings, {{turn * Vec3(0, -0.5, 0), turn}});
}

const BodyBooks& books_of(const World& world, BodyHandle body) {
  for (const BodyBooks& books : world.books())
    if (books.body == body) return books;
  FAIL("no books");
  throw 0;
}

// The sum of all lines of a cause in the last tick, as a mean force (N) and torque (N·m).
Vec3 force(const World& world, BodyHandle body, Cause cause) {
  Vec3 sum = Vec3::Zero();
  for (const BookLine& line : books_of(world, body).lines)
    if (line.cause == cause) sum += rate * line.impulse;
  return sum;
}

double work(const World& world, BodyHandle body, Cause cause) {
  double sum = 0;
  for (const BookLine& line : books_of(world, body).lines)
    if (line.cause == cause) sum += line.work;
  return sum;
}

constexpr double good = 1e-3;

}  // namespace

TEST_CASE("a block on an incline: weight, normal force and friction, at rest and sliding") {
  const double tilt = 0.3, mass = 5;
  for (const double friction : {0.6, 0.1}) {
    World world = heavy_world();
    ground_of(world, friction, 0, tilt);
    const Quat turn(Eigen::AngleAxisd(tilt, Vec3::Unit(2)));
    const BodyHandle body = world.create(block(mass, {0.6, 0.4, 0.6}, friction), {{turn * Vec3(0, 0.2, 0), turn}});
    world.keep_books({body});
    run(world, 0.5);
    CHECK(force(world, body, Cause::weight).norm() == Approx(mass * g).epsilon(1e-12));
    CHECK(force(world, body, Cause::normal).norm() == Approx(mass * g * std::cos(tilt)).epsilon(good));
    const bool holds = friction > std::tan(tilt);
    const double expected = holds ? mass * g * std::sin(tilt) : friction * mass * g * std::cos(tilt);
    CHECK(force(world, body, Cause::friction).norm() == Approx(expected).epsilon(good));
    if (holds) CHECK(std::abs(work(world, body, Cause::friction)) < 1e-6);
  }
}

TEST_CASE("a sphere at its terminal speed: drag is weight") {
  World world = heavy_world(1.2);
  BodySettings settings = ball(2, 0.2);
  settings.drag_area = 0.4;
  const BodyHandle body = world.create(settings, {});
  world.keep_books({body});
  run(world, 20);
  CHECK(force(world, body, Cause::air_drag).y() == Approx(2 * g).epsilon(1e-9));
}

TEST_CASE("drag and damping share what they take by how strong they are") {
  World world({.gravity = Vec3::Zero(), .tick_rate = rate, .air_density = 0});
  BodySettings settings = ball(2, 0.2);
  settings.linear_damping = 0.3;
  settings.linear_drag = 0.2;  // as much as a damping of 0.1
  BodyMotion motion;
  motion.velocity = {4, 0, 0};
  const BodyHandle body = world.create(settings, motion);
  world.keep_books({body});
  world.step();
  CHECK(force(world, body, Cause::damping).x() == Approx(3 * force(world, body, Cause::air_drag).x()).epsilon(1e-9));
  CHECK(force(world, body, Cause::damping).x() == Approx(-0.3 * 2 * 4).epsilon(0.01));
}

TEST_CASE("a hung load: the rope carries its weight, and three times as much at the bottom of a swing from 90°") {
  for (const bool swings : {false, true}) {
    World world = heavy_world();
    const double length = 2, mass = 3;
    const BodyHandle body =
        world.create(ball(mass, 0.05), {{swings ? Vec3(length, 0, 0) : Vec3(0, -length, 0), Quat::Identity()}});
    JointSettings rope;
    rope.kind = JointKind::distance;
    rope.b = body;
    rope.along.freedom = Freedom::limited;
    rope.along.high = length;
    world.join(rope);
    world.keep_books({body});
    double most = 0;
    for (int i = 0; i < 2 * static_cast<int>(rate); ++i) {
      world.step();
      most = std::max(most, (force(world, body, Cause::limit) + force(world, body, Cause::joint)).norm());
    }
    CHECK(most == Approx((swings ? 3 : 1) * mass * g).epsilon(good));
  }
}

TEST_CASE("what floats: buoyancy is weight") {
  World world = heavy_world();
  ZoneSettings sea;
  sea.shape = Box{{20, 10, 20}};
  sea.pose.position = {0, -5, 0};
  sea.water = Water{};
  sea.linear_damping = 2;
  world.add_zone(sea);
  const BodyHandle body = world.create(block(100, {0.5, 0.5, 0.5}), {{{0, -0.1, 0}, Quat::Identity()}});
  world.keep_books({body});
  run(world, 30);
  CHECK(force(world, body, Cause::buoyancy).y() == Approx(100 * g).epsilon(good));
}

TEST_CASE("a bounce: the hit takes 1 - e² of what came") {
  World world = heavy_world();
  const double e = 0.6, height = 1.7, mass = 2;
  ground_of(world, 0.5, e);
  BodySettings settings = ball(mass, 0.1);
  settings.surface.restitution = e;
  settings.surface.friction_combine = Combine::multiply;
  settings.surface.restitution_combine = Combine::maximum;
  const BodyHandle body = world.create(settings, {{{0, height + 0.1, 0}, Quat::Identity()}});
  world.keep_books({body});
  double lost = 0;
  for (int i = 0; i < 100; ++i) {
    world.step();
    lost -= work(world, body, Cause::hit);
    if (lost > 0) break;
  }
  CHECK(lost == Approx(mass * g * height * (1 - e * e)).epsilon(good));
}

TEST_CASE("a sphere that rolls down: friction is 2/7 of the slope's pull, and takes nothing") {
  const double tilt = 0.2, mass = 4;
  World world = heavy_world();
  ground_of(world, 0.8, 0, tilt);
  const BodyHandle body = world.create(
      ball(mass, 0.3), {{Quat(Eigen::AngleAxisd(tilt, Vec3::Unit(2))) * Vec3(0, 0.3, 0), Quat::Identity()}});
  world.keep_books({body});
  run(world, 1);
  CHECK(force(world, body, Cause::friction).norm() == Approx(2.0 / 7 * mass * g * std::sin(tilt)).epsilon(good));
  CHECK(std::abs(work(world, body, Cause::friction)) < 0.01 * std::abs(work(world, body, Cause::weight)));
}

TEST_CASE("rolling friction: its power is c N v / R") {
  const double c = 0.05, mass = 4, radius = 0.3;
  World world = heavy_world();
  ground_of(world, 0.8);
  BodySettings settings = ball(mass, radius);
  settings.surface.rolling_friction = 2 * c;  // the floor has none, and the mean counts
  BodyMotion motion{{{0, radius, 0}, Quat::Identity()}, {3, 0, 0}, {0, 0, -10}};
  const BodyHandle body = world.create(settings, motion);
  world.keep_books({body});
  run(world, 0.5);
  const double speed = world.velocity(body).x();
  // The torque c N R slows turning; with friction of the surface it takes c N v.
  const double taken = -rate * work(world, body, Cause::rolling);
  CHECK(taken == Approx(c * mass * g * speed).epsilon(0.01));
}

TEST_CASE("a motor that lifts: its power is weight times speed") {
  World world = heavy_world();
  const double mass = 6, speed = 0.7;
  const BodyHandle body = world.create(block(mass, {0.3, 0.3, 0.3}), {});
  JointSettings slider;
  slider.kind = JointKind::slider;
  slider.b = body;
  const Quat up(Eigen::AngleAxisd(pi / 2, Vec3::Unit(2)));
  slider.frame_a = slider.frame_b = {Vec3::Zero(), up};
  slider.along.motor_speed = speed;
  slider.along.motor_most = 1000;
  world.join(slider);
  world.keep_books({body});
  run(world, 1);
  CHECK(rate * work(world, body, Cause::motor) == Approx(mass * g * speed).epsilon(good));
  CHECK(force(world, body, Cause::motor).y() == Approx(mass * g).epsilon(good));
}

TEST_CASE("a pulley: both sides feel the same pull") {
  World world = heavy_world();
  const double a = 3, b = 5;
  const BodyHandle left = world.create(ball(a, 0.1), {{{-1, 0, 0}, Quat::Identity()}}),
                   right = world.create(ball(b, 0.1), {{{1, 0, 0}, Quat::Identity()}});
  JointSettings pulley;
  pulley.kind = JointKind::pulley;
  pulley.a = left;
  pulley.b = right;
  pulley.support_a = {-1, 3, 0};
  pulley.support_b = {1, 3, 0};
  pulley.along.freedom = Freedom::limited;
  pulley.along.high = 6;
  world.join(pulley);
  world.keep_all_books();
  run(world, 0.5);
  const double pull = 2 * a * b * g / (a + b);
  for (const BodyHandle body : {left, right})
    CHECK((force(world, body, Cause::joint) + force(world, body, Cause::limit)).y() == Approx(pull).epsilon(good));
}

TEST_CASE("three crates stacked: each contact carries its share") {
  World world = heavy_world();
  const BodyHandle floor = ground_of(world);
  std::vector<BodyHandle> crates;
  for (int i = 0; i < 3; ++i)
    crates.push_back(world.create(block(10, {0.5, 0.5, 0.5}), {{{0, 0.25 + 0.5 * i, 0}, Quat::Identity()}}));
  world.keep_all_books();
  run(world, 2);
  const auto carried = [&](std::size_t k, BodyHandle by) {
    Vec3 sum = Vec3::Zero();
    for (const BookLine& line : books_of(world, crates[k]).lines)
      if (line.cause == Cause::normal && line.by == CauseBy{by.index, by.generation}) sum += rate * line.impulse;
    return sum.y();
  };
  CHECK(carried(0, floor) == Approx(30 * g).epsilon(good));
  CHECK(carried(0, crates[1]) == Approx(-20 * g).epsilon(good));
  CHECK(carried(1, crates[0]) == Approx(20 * g).epsilon(good));
  CHECK(carried(2, crates[1]) == Approx(10 * g).epsilon(good));
}

TEST_CASE("a rider on a merry-go-round: friction is m ω² r") {
  World world = heavy_world();
  const double spin = 1.5, r = 1.2, mass = 3;
  BodySettings disc = block(1, {6, 0.2, 6}, 0.9);
  disc.kind = MotionKind::kinematic;
  BodyMotion turning{{{0, -0.1, 0}, Quat::Identity()}, Vec3::Zero(), {0, spin, 0}};
  world.create(disc, turning);
  BodyMotion riding{{{r, 0.1, 0}, Quat::Identity()}, {0, 0, -spin * r}, {0, spin, 0}};
  const BodyHandle rider = world.create(block(mass, {0.2, 0.2, 0.2}, 0.9), riding);
  world.keep_books({rider});
  run(world, 1);
  CHECK(force(world, rider, Cause::friction).norm() == Approx(mass * spin * spin * r).epsilon(5e-3));
}

TEST_CASE("what is done from outside is booked under its number, where it acted") {
  World world({.gravity = Vec3::Zero(), .tick_rate = rate, .air_density = 0});
  const BodyHandle body = world.create(ball(2, 0.2), {});
  world.keep_books({body});
  world.acting(7);
  world.force_at(body, {3, 0, 0}, {0, 0.1, 0});
  world.acting(8);
  world.impulse_at(body, {0, 4, 0}, {0.2, 0, 0});
  world.acting(9);
  world.set_angular_velocity(body, {0, 0, 5});
  world.step();
  const auto line = [&](Cause cause, std::uint32_t act) {
    for (const BookLine& each : books_of(world, body).lines)
      if (each.cause == cause && each.by.index == act) return each;
    FAIL("no such line");
    return BookLine{};
  };
  CHECK((rate * line(Cause::force, 7).impulse - Vec3(3, 0, 0)).norm() < 1e-12);
  CHECK((rate * line(Cause::force, 7).turn - Vec3(0, 0, -0.3)).norm() < 1e-12);
  CHECK((line(Cause::force, 7).at - Vec3(0, 0.1, 0)).norm() < 1e-12);
  CHECK((line(Cause::impulse, 8).impulse - Vec3(0, 4, 0)).norm() < 1e-12);
  CHECK((line(Cause::impulse, 8).turn - Vec3(0, 0, 0.8)).norm() < 1e-12);
  CHECK(line(Cause::impulse, 8).work > 0);
  CHECK(line(Cause::set_velocity, 9).turn.norm() > 0);
}

TEST_CASE("an overlap counts while it lasts: what is pushed out of it and flies has none any more") {
  World world = heavy_world();
  ground_of(world);
  const BodyHandle body = world.create(block(2, {0.4, 0.4, 0.4}), {{{0, 0.15, 0}, Quat::Identity()}});
  world.keep_books({body});
  world.step();
  CHECK(work(world, body, Cause::overlap) > 0);
  run(world, 1);
  world.impulse(body, {0, 20, 0});
  run_ticks(world, 10);
  CHECK(std::abs(work(world, body, Cause::overlap)) == 0);
}

TEST_CASE("books of nobody are kept once none are asked for") {
  World world = heavy_world();
  const BodyHandle body = world.create(ball(2, 0.2), {});
  CHECK(world.books().empty());
  world.keep_books({body});
  world.step();
  CHECK(world.books().size() == 1);
  world.keep_books({});
  world.step();
  CHECK(world.books().empty());
  CHECK_FALSE(world.keeps_books());
}
