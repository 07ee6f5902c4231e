// Where and when a touch is told: at the moment at which two bodies meet, whatever their speed.
#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "dynamics/world/world.h"

using namespace bronvel;

namespace {

constexpr double face = 0.99, radius = 0.05;

WorldSettings still_air(double tick_rate) {
  WorldSettings settings;
  settings.gravity = Vec3::Zero();
  settings.tick_rate = tick_rate;
  return settings;
}

BodySettings plate(double bounce) {
  BodySettings settings;
  settings.kind = MotionKind::fixed;
  settings.shape = Box{{0.02, 40, 40}};
  settings.surface.restitution = bounce;
  return settings;
}

BodySettings ball(double bounce) {
  BodySettings settings;
  settings.shape = Sphere{radius};
  settings.surface.restitution = bounce;
  return settings;
}

struct Told {
  ContactEvent event;
  double time = 0;  // s
};

// A ball flies from a distance (m) to the plate's face, with so much speed along it and across; the first touch.
std::optional<Told> first_touch(double tick_rate, double speed, double across, double away, double bounce,
                                bool ball_first) {
  World world(still_air(tick_rate));
  BodyMotion of_ball, of_plate;
  of_ball.pose.position = {face - radius - away, 0, 0};
  of_ball.velocity = {speed, across, 0};
  of_plate.pose.position = {face + 0.01, 0, 0};
  if (ball_first) world.create(ball(bounce), of_ball);
  world.create(plate(bounce), of_plate);
  if (!ball_first) world.create(ball(bounce), of_ball);
  const int ticks = static_cast<int>(away / speed * tick_rate) + 4;
  for (int i = 0; i < ticks; ++i) {
    world.step();
    for (const ContactEvent& event : world.contacts())
      if (event.phase == ContactPhase::touch) return Told{event, world.time() - 1 / tick_rate + event.moment};
  }
  return std::nullopt;
}

}  // namespace

TEST_CASE("a ball meets a plate: the point is on the face and the moment is right, at any speed, rate and phase") {
  for (const double tick_rate : {30.0, 60.0, 120.0, 240.0})
    for (const double speed : {0.05, 0.5, 2.0, 20.0, 200.0})
      for (const double phase : {0.0, 0.23, 0.51, 0.87})
        for (const bool ball_first : {false, true}) {
          const double away = (2 + phase) * speed / tick_rate, across = 0.3 * speed;
          const auto told = first_touch(tick_rate, speed, across, away, 0.5, ball_first);
          CAPTURE(tick_rate, speed, phase, ball_first);
          REQUIRE(told);
          const double when = away / speed;
          REQUIRE_FALSE(told->event.points.empty());
          CHECK(told->event.points[0].x() == Approx(face).margin(1e-3));
          CHECK(told->event.points[0].y() == Approx(across * when).margin(1e-3));
          CHECK(told->time == Approx(when).margin(0.1 / tick_rate));
        }
}

TEST_CASE("random balls meet random plates: their points lie on the plates") {
  CHECK(rc::check("to a millimetre", [] {
    const double rate = *rc::gen::element(30.0, 60.0, 120.0, 240.0);
    const double speed = std::pow(10.0, *rc::gen::inRange(-100, 250) / 100.0);
    const double away = speed / rate * (*rc::gen::inRange(0, 300) / 100.0) + 1e-3;
    const auto told = first_touch(rate, speed, 0.01 * *rc::gen::inRange(-100, 100) * speed, away,
                                  *rc::gen::inRange(0, 100) / 100.0, *rc::gen::arbitrary<bool>());
    RC_ASSERT(told.has_value());
    RC_ASSERT(std::abs(told->event.points.at(0).x() - face) < 1e-3);
    RC_ASSERT(std::abs(told->time - away / speed) < 0.1 / rate);
  }));
}

TEST_CASE("all points that touch at once are told: a box flat on a plate has four, at its corners") {
  World world(still_air(60));
  BodySettings box = ball(0);
  box.shape = Box{{0.2, 0.4, 0.6}};
  BodyMotion motion;
  motion.pose.position = {face - 0.1 - 1.234, 0, 0};
  motion.velocity = {80, 0, 0};
  world.create(box, motion);
  BodyMotion of_plate;
  of_plate.pose.position = {face + 0.01, 0, 0};
  world.create(plate(0), of_plate);
  for (int i = 0; i < 4; ++i) {
    world.step();
    for (const ContactEvent& event : world.contacts()) {
      if (event.phase != ContactPhase::touch) continue;
      REQUIRE(event.points.size() == 4);
      for (const Vec3& point : event.points) {
        CHECK(point.x() == Approx(face).margin(1e-3));
        CHECK(std::abs(point.y()) == Approx(0.2).margin(1e-3));
        CHECK(std::abs(point.z()) == Approx(0.3).margin(1e-3));
      }
      return;
    }
  }
  FAIL("no touch");
}

TEST_CASE("a kinematic body that is advanced against others is felt, and pushes what can be moved") {
  World world(still_air(60));
  BodySettings mover = ball(0);
  mover.kind = MotionKind::kinematic;
  mover.shape = Box{{0.4, 0.4, 0.4}};
  BodySettings crate = mover;
  crate.kind = MotionKind::dynamic;
  BodyMotion at, of_crate;
  of_crate.pose.position = {1, 0, 0};
  const BodyHandle pusher = world.create(mover, at);
  const BodyHandle pushed = world.create(crate, of_crate);
  int touches = 0;
  for (int tick = 0; tick < 60; ++tick) {
    world.advance(pusher, {1.5 / 60, 0, 0}, false);
    world.step();
    for (const ContactEvent& event : world.contacts()) touches += event.phase == ContactPhase::touch ? 1 : 0;
    if (touches == 1 && world.motion(pushed).velocity.x() > 0) {
      CHECK(world.motion(pushed).velocity.x() == Approx(1.5).margin(0.02));
      touches += 100;
    }
  }
  CHECK(touches > 100);
  CHECK(world.motion(pushed).pose.position.x() > 1.4);
}

TEST_CASE("advanced against a wall: one touch, then it stays, then it parts") {
  World world(still_air(60));
  BodySettings mover = ball(0);
  mover.kind = MotionKind::kinematic;
  const BodyHandle body = world.create(mover, {});
  BodyMotion of_plate;
  of_plate.pose.position = {0.3, 0, 0};
  world.create(plate(0), of_plate);
  std::vector<ContactPhase> phases;
  for (int tick = 0; tick < 40; ++tick) {
    world.advance(body, {tick < 30 ? 0.02 : -0.02, 0, 0}, false);
    world.step();
    for (const ContactEvent& event : world.contacts()) {
      if (phases.empty() || event.phase != phases.back()) phases.push_back(event.phase);
      if (event.phase == ContactPhase::touch) {
        CHECK(event.points.at(0).x() == Approx(0.29).margin(1e-3));
        CHECK(event.closing_speed == Approx(0.02 * 60));
      }
    }
  }
  CHECK(phases == std::vector<ContactPhase>{ContactPhase::touch, ContactPhase::stay, ContactPhase::part});
}
