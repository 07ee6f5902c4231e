// Worlds of wild masses, sizes, speeds and settings: what comes out are numbers, whatever goes in.
#include <rapidcheck.h>

#include <catch2/catch.hpp>
#include <cmath>

#include "dynamics/world/world.h"
#include "geometry/base/error.h"

using namespace bronvel;

namespace {

double power(int low, int high) {
  return std::pow(10.0, *rc::gen::inRange(low * 10, high * 10) / 10.0);
}

double either_way(int low, int high) {
  return (*rc::gen::arbitrary<bool>() ? 1 : -1) * power(low, high);
}

Vec3 wild_vector(int low, int high) {
  return {either_way(low, high), either_way(low, high), either_way(low, high)};
}

Shape wild_shape() {
  switch (*rc::gen::inRange(0, 5)) {
    case 0:
      return Sphere{power(-3, 2)};
    case 1:
      return Box{{power(-3, 2), power(-3, 2), power(-3, 2)}};
    case 2:
      return Capsule{power(-3, 2), power(-3, 2)};
    case 3:
      return Cylinder{power(-3, 2), power(-3, 2)};
    default:
      return Cone{power(-3, 2), power(-3, 2)};
  }
}

BodySettings wild_settings() {
  BodySettings s;
  s.shape = wild_shape();
  s.mass = power(-6, 9);
  s.surface.restitution = *rc::gen::inRange(0, 101) / 100.0;
  s.surface.static_friction = *rc::gen::inRange(0, 301) / 100.0;
  s.surface.dynamic_friction = s.surface.static_friction;
  s.gravity_factor = either_way(-2, 2);
  s.linear_damping = *rc::gen::arbitrary<bool>() ? 0 : power(-2, 2);
  s.drag_area = *rc::gen::arbitrary<bool>() ? 0 : power(-3, 3);
  if (*rc::gen::inRange(0, 5) == 0) s.kind = MotionKind::fixed;
  return s;
}

bool all_numbers(const BodyMotion& m) {
  return m.pose.position.allFinite() && m.pose.orientation.coeffs().allFinite() &&
         std::abs(m.pose.orientation.norm() - 1) < 1e-6 && m.velocity.allFinite() && m.angular_velocity.allFinite();
}

}  // namespace

TEST_CASE("wild worlds: every pose is made of numbers, turns are turns, and what is stopped is told", "[long]") {
  CHECK(rc::check([] {
    WorldSettings settings;
    settings.gravity = wild_vector(-2, 3);
    settings.tick_rate = power(0, 3);
    settings.substeps = *rc::gen::inRange(1, 9);
    World world(settings);
    std::vector<BodyHandle> bodies;
    const int count = *rc::gen::inRange(1, 9);
    for (int i = 0; i < count; ++i) {
      BodyMotion motion;
      motion.pose.position = wild_vector(-2, 1);
      motion.pose.orientation = Quat(Eigen::AngleAxisd(power(-2, 0), wild_vector(-1, 0).normalized()));
      motion.velocity = wild_vector(-2, 4);
      motion.angular_velocity = wild_vector(-2, 3);
      bodies.push_back(world.create(wild_settings(), motion));
    }
    // Some of them joined.
    for (int i = 0; i + 1 < count && *rc::gen::arbitrary<bool>(); ++i) {
      JointSettings joint;
      joint.kind = *rc::gen::element(JointKind::ball, JointKind::hinge, JointKind::fixed);
      joint.a = bodies[static_cast<std::size_t>(i)];
      joint.b = bodies[static_cast<std::size_t>(i) + 1];
      if (!joint_fault(joint)) world.join(joint);
    }
    std::size_t stopped = 0;
    for (int tick = 0; tick < 20; ++tick) {
      if (tick == 5) {
        world.force(bodies[0], wild_vector(0, 12));
        world.impulse(bodies[0], wild_vector(0, 9));
        world.torque(bodies[0], wild_vector(0, 12));
      }
      world.step();
      stopped += world.faults().size();
      for (const BodyHandle body : bodies) RC_ASSERT(all_numbers(world.motion(body)));
    }
    RC_CLASSIFY(stopped > 0, "stopped and told");
  }));
}

TEST_CASE("a body that a brake makes ever faster is stopped, with the reason") {
  for (const bool turning : {true, false}) {
    WorldSettings settings;
    settings.gravity.setZero();
    World world(settings);
    BodySettings s;
    s.shape = Sphere{0.1};
    s.mass = 10;
    BodyMotion motion;
    motion.velocity = Vec3(turning ? 0 : 1, 0, 0);
    motion.angular_velocity = Vec3(0, turning ? 1 : 0, 0);
    const BodyHandle body = world.create(s, motion);
    // Three times what would stop it within the tick.
    const double gain = 3 * settings.tick_rate * (turning ? 0.4 * s.mass * 0.1 * 0.1 : s.mass);
    std::string reason;
    for (int tick = 0; tick < 3000 && reason.empty(); ++tick) {
      const BodyMotion now = world.motion(body);
      if (turning)
        world.torque(body, -gain * now.angular_velocity);
      else
        world.force(body, -gain * now.velocity);
      world.step();
      if (!world.faults().empty()) reason = world.faults()[0].reason;
    }
    CHECK_THAT(reason, Catch::Contains("was braked by a") && Catch::Contains(turning ? "torque" : "force"));
    CHECK(world.motion(body).velocity.norm() == 0);
  }
}

TEST_CASE("masses from a gram to a tonne on one heap: nothing flies off faster than it fell", "[long]") {
  CHECK(rc::check([] {
    World world({});
    BodySettings floor;
    floor.kind = MotionKind::fixed;
    floor.shape = Box{{100, 2, 100}};
    world.create(floor, {{{0, -1, 0}}});
    const int count = *rc::gen::inRange(2, 7);
    std::vector<BodyHandle> bodies;
    double height = 0;
    for (int i = 0; i < count; ++i) {
      BodySettings s;
      s.shape = Box{{0.6, 0.4, 0.5}};
      s.mass = power(-3, 3);
      height += 0.5;
      bodies.push_back(world.create(s, {{{0.02 * i, height, 0}}}));
    }
    const double fastest = 1.5 * std::sqrt(2 * 9.81 * height) + 0.5;
    for (int tick = 0; tick < 90; ++tick) {
      world.step();
      for (const BodyHandle body : bodies) {
        const BodyMotion m = world.motion(body);
        RC_ASSERT(all_numbers(m));
        RC_ASSERT(m.velocity.y() < fastest);
      }
    }
  }));
}
