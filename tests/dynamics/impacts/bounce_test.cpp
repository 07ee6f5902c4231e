// A dropped ball rises to e² of its height.
#include <catch2/catch.hpp>

#include "dynamics/world/world.h"

using namespace bronvel;

namespace {

// Height of the ball's lowest point at each apex after each bounce, dropped from `height` on a fixed slab.
std::vector<double> apexes(double rate, double restitution, double height, int wanted) {
  World world({.tick_rate = rate, .restitution_speed = 0.02});
  Surface surface{.restitution = restitution};
  world.create({.kind = MotionKind::fixed, .shape = Box{{10, 1, 10}}, .surface = surface}, {{{0, -0.5, 0}}});
  const BodyHandle ball =
      world.create({.shape = Sphere{0.1}, .surface = surface, .may_sleep = false}, {{{0, 0.1 + height, 0}}});
  std::vector<double> found;
  double before = -1;
  double highest = 0;
  for (int i = 0; i < 20 * rate && static_cast<int>(found.size()) < wanted; ++i) {
    world.step();
    const BodyMotion m = world.motion(ball);
    const double rise = m.velocity.y();
    // Between ticks the height follows the parabola: take its top.
    if (before > 0 && rise <= 0) found.push_back(highest);
    if (rise > 0) highest = m.pose.position.y() - 0.1 + rise * rise / (2 * 9.81);
    before = rise;
  }
  return found;
}

}  // namespace

TEST_CASE("a ball rises to the square of its restitution") {
  for (const double rate : {60.0, 120.0}) {
    for (const double e : {0.2, 0.5, 0.8, 0.95}) {
      CAPTURE(rate, e);
      const auto got = apexes(rate, e, 2.0, 3);
      REQUIRE(got.size() == 3);
      double wanted = 2.0;
      for (const double apex : got) {
        wanted *= e * e;
        CHECK(apex == Approx(wanted).epsilon(0.01));
      }
    }
  }
  CHECK(apexes(120, 0.8, 2.0, 1).at(0) == Approx(1.28).epsilon(0.01));
}

TEST_CASE("a ball without restitution stays down") {
  World world({.tick_rate = 120});
  const Surface dead{.restitution = 0};
  world.create({.kind = MotionKind::fixed, .shape = Box{{10, 1, 10}}, .surface = dead}, {{{0, -0.5, 0}}});
  const BodyHandle ball = world.create({.shape = Sphere{0.1}, .surface = dead}, {{{0, 2.1, 0}}});
  for (int i = 0; i < 120; ++i) world.step();
  for (int i = 0; i < 240; ++i) {
    world.step();
    REQUIRE(world.motion(ball).pose.position.y() == Approx(0.1).margin(1e-4));
  }
}

TEST_CASE("what lies deep in another is parted and not thrown back") {
  // 0.7 m in one another, closing at 20 m/s, and as lively as can be.
  World world({.gravity = Vec3::Zero(), .air_density = 0});
  const Surface lively{.restitution = 1};
  const auto box = [&](double x, double speed) {
    return world.create({.shape = Box{}, .surface = lively, .may_sleep = false},
                        {{{x, 0, 0}, Quat::Identity()}, {speed, 0, 0}, Vec3::Zero()});
  };
  const BodyHandle left = box(-0.15, 10), right = box(0.15, -10);
  double fastest = 0;
  for (int i = 0; i < 60; ++i) {
    world.step();
    fastest = std::max(fastest, world.velocity(right).x() - world.velocity(left).x());
  }
  CHECK(fastest < 4);
  CHECK(world.centre_of_mass(right).x() - world.centre_of_mass(left).x() > 0.99);
}
