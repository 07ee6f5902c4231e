// Friction where passes are scarce: it leaks so that nothing trembles, and takes back what it has crept.
#include <catch2/catch.hpp>

#include "dynamics/runs.h"
#include "dynamics/world/world.h"

using namespace bronvel;

namespace {

BodySettings solid(const Shape& shape, double mass, double friction) {
  BodySettings body;
  body.shape = shape;
  body.mass = mass;
  body.surface = {.static_friction = friction, .dynamic_friction = friction, .restitution = 0};
  body.may_sleep = false;
  return body;
}

void add_ground(World& world, double friction, double slope = 0) {
  BodySettings ground = solid(Box{{100, 1, 100}}, 1, friction);
  ground.kind = MotionKind::fixed;
  const Quat tilt(Eigen::AngleAxisd(slope, Vec3::Unit(2)));
  world.create(ground, {{tilt * Vec3(0, -0.5, 0), tilt}});
}

// Stacks off to the side, with so many contacts that all have to do with few passes.
void add_stacks(World& world, const Quat& tilt) {
  for (int x = 0; x < 8; ++x)
    for (int y = 0; y < 5; ++y)
      world.create(solid(Box{{0.5, 0.2, 0.5}}, 4, 0.9), {{tilt * Vec3(x - 4, 0.1 + 0.2 * y, -8), tilt}});
}

}  // namespace

TEST_CASE("a block that friction holds on a slope stays there, however few passes there are") {
  const double slope = 0.3;  // rad; tan is 0.31
  const Quat tilt(Eigen::AngleAxisd(slope, Vec3::Unit(2)));
  World world({.tick_rate = GENERATE(60.0, 120.0)});
  add_ground(world, 0.35, slope);
  add_stacks(world, tilt);
  const BodyHandle block = world.create(solid(Box{{0.4, 0.2, 0.4}}, 3, 0.35), {{tilt * Vec3(0, 0.1, 0), tilt}});
  run(world, 1);
  const Vec3 settled = world.motion(block).pose.position;
  run(world, 6);
  CHECK((world.motion(block).pose.position - settled).norm() < 2e-5);
  // And one that it cannot hold slides as alone, by g (sin − μ cos).
  World steep({.tick_rate = world.settings().tick_rate});
  add_ground(steep, 0.2, slope);
  add_stacks(steep, tilt);
  const BodyHandle slides = steep.create(solid(Box{{0.4, 0.2, 0.4}}, 3, 0.2), {{tilt * Vec3(0, 0.1, 0), tilt}});
  run(steep, 1);
  CHECK(steep.motion(slides).velocity.norm() == Approx(9.81 * (std::sin(slope) - 0.2 * std::cos(slope))).epsilon(2e-3));
}

TEST_CASE("what rolls is not held where it touched before, however few passes there are") {
  World world({.tick_rate = 60});
  add_ground(world, 0.9);
  add_stacks(world, Quat::Identity());
  constexpr double radius = 0.3, speed = 2;
  const auto roll = [&](const Shape& shape, double z) {
    BodyMotion motion;
    motion.pose = {{-8, radius, z}, Quat(Eigen::AngleAxisd(0.5 * pi, Vec3::Unit(0)))};
    motion.velocity = {speed, 0, 0};
    motion.angular_velocity = {0, 0, -speed / radius};
    BodySettings body = solid(shape, 5, 0.9);
    body.surface.rolling_friction = 0;
    return world.create(body, motion);
  };
  const BodyHandle cask = roll(Cylinder{radius, 0.8}, 0), ball = roll(Sphere{radius}, 3);
  run(world, 5);
  for (const BodyHandle body : {cask, ball}) {
    CHECK(world.motion(body).velocity.x() == Approx(speed).epsilon(2e-3));
    CHECK(world.motion(body).pose.position.x() == Approx(5 * speed - 8).margin(0.02));
  }
}

TEST_CASE("a block that has been pushed and slid does not go back, and one that was held does") {
  World world({.tick_rate = 60});
  add_ground(world, 0.5);
  add_stacks(world, Quat::Identity());
  const BodyHandle block = world.create(solid(Box{{0.4, 0.2, 0.4}}, 3, 0.5), {{{0, 0.1, 0}}});
  run(world, 1);
  const auto push = [&](double share, double seconds) {
    for (int i = 0; i < static_cast<int>(seconds * 60); ++i) {
      world.force(block, Vec3(share * 0.5 * 3 * 9.81, 0, 0));
      world.step();
    }
  };
  const double start = world.motion(block).pose.position.x();
  push(0.9, 2);
  // Given way a little, 6 µm, and no more with time.
  CHECK(world.motion(block).pose.position.x() - start > 1e-6);
  CHECK(world.motion(block).pose.position.x() - start < 2e-5);
  run(world, 3);
  CHECK(world.motion(block).pose.position.x() - start == Approx(0).margin(1e-6));
  push(1.5, 0.5);
  run(world, 1);
  const double stopped = world.motion(block).pose.position.x();
  CHECK(stopped - start > 0.3);
  run(world, 4);
  CHECK(world.motion(block).pose.position.x() == Approx(stopped).margin(2e-5));
}

TEST_CASE("a crib of crossed logs comes to stand still") {
  World world({.tick_rate = GENERATE(60.0, 120.0)});
  add_ground(world, 0.6);
  constexpr double length = 1.5, thick = 0.2;
  std::vector<BodyHandle> logs;
  for (int storey = 0; storey < 20; ++storey)
    for (const double side : {-0.65, 0.65}) {
      const bool along = storey % 2 == 0;
      const Vec3 size = along ? Vec3(length, thick, thick) : Vec3(thick, thick, length);
      const double height = thick * (storey + 0.5);
      const Vec3 place = along ? Vec3(0, height, side) : Vec3(side, height, 0);
      logs.push_back(world.create(solid(Box{size}, 20, 0.6), {{place}}));
    }
  run(world, 10);
  for (const BodyHandle log : logs) CHECK(world.motion(log).velocity.norm() < 2e-3);
}
