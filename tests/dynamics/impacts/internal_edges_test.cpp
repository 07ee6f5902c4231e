// Balls on ground of facets: gentle creases turn them, sharp ones are hit, and lying between two they rest.
#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>

#include "dynamics/world/world.h"
#include "geometry/shapes/height_field.h"

using namespace bronvel;

namespace {

// Flat to x = 0, then rising by that angle.
Shape bend(double angle) {
  std::vector<double> heights;
  for (int row = 0; row < 3; ++row)
    for (int column = 0; column < 9; ++column) heights.push_back(std::max(0.0, column - 4.0) * std::tan(angle));
  return make_height_field(9, 3, 1, 1, heights);
}

struct OnBend {
  explicit OnBend(double angle, const Surface& surface, double rate = 60, bool planar = false)
      : world({.tick_rate = rate, .planar = planar}) {
    BodySettings ground;
    ground.kind = MotionKind::fixed;
    ground.shape = bend(angle);
    ground.surface = surface;
    world.create(ground, {});
    BodySettings settings;
    settings.shape = Sphere{0.2};
    settings.mass = 3;
    settings.surface = surface;
    ball = world.create(settings, {{{-2, 0.2, 0.1}}, {4, 0, 0}, {0, 0, surface.static_friction > 0 ? -20.0 : 0.0}});
  }
  Vec3 place() const { return world.motion(ball).pose.position; }
  double energy() const { return world.kinetic_energy() + 3 * 9.81 * (place().y() - 0.2); }

  World world;
  BodyHandle ball;
};

Surface surface_of(double friction, double restitution) {
  return {.static_friction = friction, .dynamic_friction = friction, .restitution = restitution};
}

// Ground that falls and rises again by that angle, from x = 0.
Shape groove(double angle) {
  std::vector<double> heights;
  for (int row = 0; row < 9; ++row)
    for (int column = 0; column < 9; ++column) heights.push_back(std::abs(column - 4.0) * std::tan(angle));
  return make_height_field(9, 9, 1, 1, heights);
}

}  // namespace

TEST_CASE("a ball goes over a gentle crease without losing speed, and without a hop whatever its restitution") {
  constexpr double angle = 0.3;
  const Vec3 up(-std::sin(angle), std::cos(angle), 0);
  for (const double rate : {30.0, 60.0, 120.0, 240.0})
    for (const double friction : {0.0, 0.6})
      for (const double restitution : {0.0, 0.7}) {
        CAPTURE(rate, friction, restitution);
        OnBend on(angle, surface_of(friction, restitution), rate);
        for (int i = 0; i < 0.2 * rate; ++i) on.world.step();
        const double before = on.energy();
        double highest = 0;
        while (on.place().x() < 1) {
          on.world.step();
          if (on.place().x() > 0.3) highest = std::max(highest, up.dot(on.place()) - 0.2);
        }
        CHECK(on.energy() / before == Approx(1).margin(0.003));
        CHECK(highest < 1e-3);
      }
}

TEST_CASE("in a planar scene the same") {
  OnBend on(0.3, surface_of(0, 0.5), 60, true);
  on.world.step();
  const double before = on.energy();
  while (on.place().x() < 1) on.world.step();
  CHECK(on.energy() / before == Approx(1).margin(0.003));
  CHECK(on.place().z() == 0.1);
}

TEST_CASE("a facet behind a valley and a ridge does not hold a ball up that has gone on from it") {
  // Where the slope is steepest, facets lie nearly in one plane: that of one behind would rise above the ground again.
  const auto height = [](double x) { return x * x / 8 + 0.15 * std::cos(2 * x); };
  constexpr double spacing = 0.05;
  std::vector<double> heights;
  for (int row = 0; row < 5; ++row)
    for (int column = 0; column <= 160; ++column) heights.push_back(height(-4 + spacing * column));
  World world({.tick_rate = 30});
  BodySettings ground;
  ground.kind = MotionKind::fixed;
  ground.shape = make_height_field(161, 5, spacing, 1, heights);
  ground.surface = surface_of(0, 0);
  world.create(ground, {});
  BodySettings settings;
  settings.shape = Sphere{0.2};
  settings.mass = 1;
  settings.surface = ground.surface;
  const BodyHandle ball = world.create(settings, {{{2.5, height(2.5) + 0.23, 0}}});
  const auto energy = [&] { return world.kinetic_energy() + 9.81 * (world.motion(ball).pose.position.y() - 0.2); };
  for (int tick = 0; tick < 12; ++tick) world.step();
  const double before = energy();
  for (int tick = 0; tick < 200; ++tick) world.step();
  CHECK(energy() == Approx(before).epsilon(1e-3));
}

TEST_CASE("at a sharp bend what runs into the rise is lost, as at any hit") {
  constexpr double angle = 0.6;
  for (const double rate : {60.0, 240.0}) {
    OnBend on(angle, surface_of(0, 0), rate);
    on.world.step();
    const double before = on.energy();
    while (on.place().x() < 0.5) on.world.step();
    CHECK(on.energy() / before == Approx(std::pow(std::cos(angle), 2)).margin(0.01));
  }
}

TEST_CASE("a ball in a groove comes to rest on both sides of it, and a heap of balls lies on it without sinking in") {
  constexpr double angle = 0.2, radius = 0.2;
  World world({.tick_rate = 60});
  BodySettings ground;
  ground.kind = MotionKind::fixed;
  ground.shape = groove(angle);
  ground.surface = surface_of(0.4, 0.2);
  world.create(ground, {});
  BodySettings settings;
  settings.shape = Sphere{radius};
  settings.surface = ground.surface;
  settings.surface.rolling_friction = 0.02;
  SECTION("one") {
    const BodyHandle ball = world.create(settings, {{{0.4, 0.5, 0.3}}});
    for (int i = 0; i < 900; ++i) world.step();
    CHECK(world.asleep(ball));
    CHECK(std::abs(world.motion(ball).pose.position.x()) < 1e-3);
    CHECK(world.motion(ball).pose.position.y() == Approx(radius / std::cos(angle)).margin(5e-4));
  }
  SECTION("twelve") {
    std::vector<BodyHandle> balls;
    for (int i = 0; i < 12; ++i)
      balls.push_back(world.create(settings, {{{0.3 * (i % 3) - 0.3, 0.6 + 0.45 * i, 0.2 * (i % 2)}}}));
    double deepest = 0;
    for (int i = 0; i < 900; ++i) {
      world.step();
      for (const BodyHandle ball : balls) {
        const Vec3 at = world.motion(ball).pose.position;
        if (std::abs(at.x()) < 4 && std::abs(at.z()) < 4)
          deepest = std::max(deepest, radius - std::cos(angle) * (at.y() - std::abs(at.x()) * std::tan(angle)));
      }
    }
    CHECK(deepest < 2e-3);
  }
}
