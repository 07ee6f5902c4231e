// Zones: who is in them, and what their fields do.
#include <catch2/catch.hpp>

#include "dynamics/runs.h"
#include "dynamics/world/world.h"
#include "geometry/base/curve.h"
#include "geometry/base/error.h"

using namespace bronvel;

namespace {

BodyHandle ball(World& world, const Vec3& at, double radius = 0.5, const Vec3& velocity = Vec3::Zero()) {
  BodySettings s;
  s.shape = Sphere{radius};
  s.mass = 2;
  return world.create(s, {{at, Quat::Identity()}, velocity, Vec3::Zero()});
}

ZoneSettings box_zone(const Vec3& at, const Vec3& size) {
  ZoneSettings z;
  z.shape = Box{size};
  z.pose.position = at;
  return z;
}

}  // namespace

TEST_CASE("a body enters when it first overlaps and leaves when it no longer does") {
  World world({.gravity = Vec3::Zero(), .tick_rate = 100});
  const BodyHandle body = ball(world, {-3, 0, 0}, 0.5, {2, 0, 0});
  const ZoneHandle zone = world.add_zone(box_zone({0, 0, 0}, {2, 2, 2}));
  std::int64_t entered = 0, left = 0;
  for (int i = 0; i < 400; ++i) {
    world.step();
    for (const ZoneEvent& e : world.zone_events()) {
      CHECK(e.body == body);
      CHECK(e.zone == zone);
      (e.entered ? entered : left) = world.tick();
    }
    CHECK(world.inside(zone).size() == (entered > 0 && left == 0 ? 1U : 0U));
  }
  // Surface to surface: 1.5 m at 2 m/s, then the zone's 2 m and the ball's 1 m.
  CHECK(entered == Approx(75).margin(1));
  CHECK(left == Approx(225).margin(1));
}

TEST_CASE("gravity in a zone, instead and as a factor, and wind through drag") {
  World world({.gravity = {0, -10, 0}, .tick_rate = 100});
  ZoneSettings up = box_zone({0, 0, 0}, {8, 100, 8});
  up.gravity = Vec3(0, 3, 0);
  ZoneSettings light = box_zone({20, 0, 0}, {8, 100, 8});
  light.gravity_factor = 0.2;
  ZoneSettings windy = box_zone({60, 0, 0}, {50, 100, 8});
  windy.gravity_factor = 0;
  windy.wind = {6, 0, 0};
  for (const ZoneSettings& z : {up, light, windy}) world.add_zone(z);
  const BodyHandle a = ball(world, {0, 0, 0}), b = ball(world, {20, 0, 0});
  BodySettings sail;
  sail.shape = Sphere{0.5};
  sail.mass = 2;
  sail.linear_drag = 4;
  const BodyHandle c = world.create(sail, {{{50, 0, 0}, Quat::Identity()}, Vec3::Zero(), Vec3::Zero()});
  world.step();
  const double va = world.motion(a).velocity.y(), vb = world.motion(b).velocity.y(), vc = world.motion(c).velocity.x();
  run_ticks(world, 100);
  CHECK(world.motion(a).velocity.y() - va == Approx(3).epsilon(1e-9));
  CHECK(world.motion(b).velocity.y() - vb == Approx(-2).epsilon(1e-9));
  // w − v = (w − v0) e^(−c t / m)
  CHECK(world.motion(c).velocity.x() - vc == Approx((6 - vc) * (1 - std::exp(-4.0 / 2))).epsilon(0.005));
}

TEST_CASE("crossing into a zone is smooth: the field grows with the share inside") {
  World world({.gravity = {0, -10, 0}, .tick_rate = 240});
  ZoneSettings z = box_zone({0, -50, 0}, {100, 100, 100});
  z.gravity = Vec3(0, 10, 0);
  world.add_zone(z);
  const BodyHandle body = ball(world, {0, 1.5, 0}, 0.5, {0, -1, 0});
  double last = -10, greatest_jump = 0;
  for (int i = 0; i < 200; ++i) {
    const double before = world.motion(body).velocity.y();
    world.step();
    const double acceleration = (world.motion(body).velocity.y() - before) * 240;
    if (i > 1) greatest_jump = std::max(greatest_jump, std::abs(acceleration - last));
    last = acceleration;
  }
  CHECK(greatest_jump < 1.5);
  CHECK(ball_share_below(0) == Approx(0.5));
  CHECK(ball_share_below(-2) == 1);
  CHECK(ball_share_below(1) == 0);
}

TEST_CASE("a changed zone wakes what sleeps in it, and a snapshot knows its zones") {
  World world({.tick_rate = 60});
  BodySettings floor;
  floor.kind = MotionKind::fixed;
  floor.shape = Box{{20, 1, 20}};
  world.create(floor, {{{0, -0.5, 0}, Quat::Identity()}, Vec3::Zero(), Vec3::Zero()});
  const BodyHandle body = ball(world, {0, 0.5, 0});
  const ZoneHandle zone = world.add_zone(box_zone({0, 1, 0}, {4, 4, 4}));
  run_ticks(world, 200);
  REQUIRE(world.asleep(body));
  ZoneSettings z = world.zone_settings(zone);
  z.gravity = Vec3(0, 4, 0);
  world.change(zone, z);
  const WorldSnapshot kept = world.snapshot();
  run_ticks(world, 60);
  CHECK(world.motion(body).velocity.y() > 2);
  const std::uint64_t digest = world.digest();
  world.restore(kept);
  run_ticks(world, 60);
  CHECK(world.digest() == digest);
  world.remove(zone);
  CHECK_FALSE(world.alive(zone));
  CHECK_THROWS_AS(world.zone_settings(zone), Error);
  z.linear_damping = -1;
  CHECK_THROWS_AS(world.add_zone(z), Error);
}
