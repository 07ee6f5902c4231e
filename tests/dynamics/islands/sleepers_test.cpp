// Sleepers a hair apart: a blow goes through them as through bodies that are awake, however many there are.
#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "dynamics/world/world.h"

using namespace bronvel;

namespace {

struct SleepingRow {
  World world;
  std::vector<BodyHandle> balls;
};

// Balls of 0.2 m in a row on nothing, without gravity, with these gaps (m) between them, all at rest and asleep.
SleepingRow sleeping_row(double tick_rate, const std::vector<double>& gaps, double bounce, bool sleeping) {
  WorldSettings settings;
  settings.gravity = {0, -9.81, 0};
  settings.tick_rate = tick_rate;
  SleepingRow row{World(settings), {}};
  BodySettings floor;
  floor.kind = MotionKind::fixed;
  floor.shape = Box{{400, 1, 40}};
  floor.surface = {};
  floor.surface.static_friction = floor.surface.dynamic_friction = 0;
  floor.surface.friction_combine = Combine::minimum;
  BodyMotion at;
  at.pose.position = {0, -0.5, 0};
  row.world.create(floor, at);
  double x = 0;
  for (std::size_t i = 0; i <= gaps.size(); ++i) {
    BodySettings ball;
    ball.shape = Sphere{0.1};
    ball.may_sleep = sleeping;
    ball.surface.restitution = bounce;
    ball.surface.restitution_combine = Combine::maximum;
    ball.surface.static_friction = ball.surface.dynamic_friction = 0;
    at.pose.position = {x, 0.1, 0};
    row.balls.push_back(row.world.create(ball, at));
    if (i < gaps.size()) x += 0.2 + gaps[i];
  }
  for (int i = 0; i < static_cast<int>(4 * tick_rate); ++i) row.world.step();
  for (const BodyHandle ball : row.balls) REQUIRE(row.world.asleep(ball) == sleeping);
  return row;
}

double momentum(const SleepingRow& row) {
  double sum = 0;
  for (const BodyHandle ball : row.balls) sum += row.world.motion(ball).velocity.x();
  return sum;
}

// A ball comes along the row at 3 m/s; what the balls have when all is over.
std::vector<double> struck(SleepingRow& row, double speed, double seconds) {
  BodySettings ball = row.world.body_settings(row.balls[0]);
  ball.may_sleep = true;
  BodyMotion at;
  at.pose.position = {-0.5, 0.1, 0};
  at.velocity = {speed, 0, 0};
  row.balls.insert(row.balls.begin(), row.world.create(ball, at));
  const int steps = static_cast<int>(seconds * row.world.settings().tick_rate);
  for (int i = 0; i < steps; ++i) {
    row.world.step();
    for (const BodyHandle each : row.balls)
      if (row.world.asleep(each)) REQUIRE(row.world.motion(each).velocity.isZero());
  }
  std::vector<double> speeds;
  for (const BodyHandle each : row.balls) speeds.push_back(row.world.motion(each).velocity.x());
  return speeds;
}

}  // namespace

TEST_CASE("a blow goes through sleepers a hair apart to the last, at every rate") {
  for (const double rate : {30.0, 60.0, 120.0, 240.0})
    for (const double gap : {0.0, 1e-4, 1e-3, 5e-3, 2e-2}) {
      CAPTURE(rate, gap);
      SleepingRow row = sleeping_row(rate, {gap, gap, gap}, 1, true);
      const std::vector<double> speeds = struck(row, 3, 0.8);
      CHECK(speeds.back() == Approx(3).epsilon(1e-3));
      for (std::size_t i = 0; i + 1 < speeds.size(); ++i) CHECK(std::abs(speeds[i]) < 3e-3);
    }
}

TEST_CASE("sleepers a hair apart without restitution keep the momentum") {
  for (const double rate : {30.0, 60.0, 120.0, 240.0})
    for (const double gap : {1e-4, 1e-3, 5e-3}) {
      CAPTURE(rate, gap);
      SleepingRow row = sleeping_row(rate, std::vector<double>(14, gap), 0, true);
      struck(row, 6, 1.5);
      CHECK(momentum(row) == Approx(6).epsilon(1e-6));
    }
}

TEST_CASE("random rows of sleepers: as if they had been awake") {
  CHECK(rc::check("momentum and energy", [] {
    const auto count = *rc::gen::inRange<std::size_t>(1, 9);
    const double rate = *rc::gen::element(30.0, 60.0, 120.0, 240.0);
    std::vector<double> gaps;
    for (std::size_t i = 0; i < count; ++i) gaps.push_back(1e-5 * std::pow(10, *rc::gen::inRange(0, 350) / 100.0));
    const double bounce = *rc::gen::inRange(0, 101) / 100.0, speed = *rc::gen::inRange(50, 900) / 100.0;
    SleepingRow asleep = sleeping_row(rate, gaps, bounce, true), awake = sleeping_row(rate, gaps, bounce, false);
    const std::vector<double> one = struck(asleep, speed, 0.6), other = struck(awake, speed, 0.6);
    RC_ASSERT(std::abs(momentum(asleep) - speed) < 1e-6 * speed);
    double energy = 0, energy_awake = 0;
    for (std::size_t i = 0; i < one.size(); ++i) energy += one[i] * one[i], energy_awake += other[i] * other[i];
    RC_ASSERT(std::abs(energy - energy_awake) < 0.02 * speed * speed);
  }));
}
