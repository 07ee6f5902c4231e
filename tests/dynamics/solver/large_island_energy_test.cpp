// What is crushed does not fly apart: heaps, which have few passes, make no energy of a blow.
#include "dynamics/solver/large_island_energy.h"

#include <catch2/catch.hpp>

#include "dynamics/sums.h"
#include "dynamics/world/world.h"

using namespace bronvel;

namespace {

constexpr double edge = 0.5;  // m
constexpr int side = 7;       // boxes

BodySettings crate(double restitution, double friction) {
  BodySettings box;
  box.shape = Box{{edge, edge, edge}};
  box.mass = 2;
  box.surface.restitution = restitution;
  box.surface.static_friction = box.surface.dynamic_friction = friction;
  box.may_sleep = false;
  return box;
}

// A cube of crates that touch one another.
std::vector<BodyHandle> add_cube(World& world, const BodySettings& box, const Vec3& corner, const Vec3& velocity) {
  std::vector<BodyHandle> made;
  for (int i = 0; i < side * side * side; ++i) {
    const Vec3 place(i % side, i / side % side, i / (side * side));
    BodyMotion motion;
    motion.pose.position = corner + edge * place;
    motion.velocity = velocity;
    made.push_back(world.create(box, motion));
  }
  return made;
}

}  // namespace

TEST_CASE("two heaps that run into one another never gain energy") {
  const double restitution = GENERATE(0.0, 0.6, 1.0), friction = GENERATE(0.0, 0.4);
  World world({.gravity = Vec3::Zero()});
  constexpr double speed = 3;  // m/s
  const BodySettings box = crate(restitution, friction);
  add_cube(world, box, Vec3::Zero(), Vec3(0, 0, speed));
  add_cube(world, box, Vec3(0.3, 0.2, edge * side + 0.5), Vec3(0, 0, -speed));
  const double first = world.kinetic_energy();
  double energy = first, greatest_gain = 0;
  for (int tick = 0; tick < 40; ++tick) {
    world.step();
    const double now = world.kinetic_energy();
    greatest_gain = std::max(greatest_gain, (now - energy) / first);
    energy = now;
  }
  CAPTURE(restitution, friction);
  CHECK(greatest_gain < 1e-5);
  CHECK(energy < 0.3 * first);  // they did meet
  CHECK(sums_of(world).momentum.norm() < 1e-3 * sums_of(world).size);
}

TEST_CASE("a heap gains what a mover gives it, and no more") {
  World world({.gravity = Vec3::Zero()});
  const BodySettings box = crate(0, 0.4);
  const std::vector<BodyHandle> island = add_cube(world, box, Vec3::Zero(), Vec3::Zero());
  constexpr double speed = 5;  // m/s
  BodySettings plate;
  plate.shape = Box{{edge * side * 1.5, edge * side * 1.5, 0.2}};
  plate.kind = MotionKind::kinematic;
  plate.surface.restitution = 0;
  BodyMotion motion;
  motion.pose.position = Vec3(0.5 * edge * (side - 1), 0.5 * edge * (side - 1), -0.5 * edge - 0.1 - 0.2);
  motion.velocity = Vec3(0, 0, speed);
  world.create(plate, motion);
  for (int tick = 0; tick < 60; ++tick) world.step();
  double slowest = 1e9, mean = 0;
  for (const BodyHandle body : island) {
    slowest = std::min(slowest, world.velocity(body).z());
    mean += world.velocity(body).z() / static_cast<double>(island.size());
  }
  CHECK(slowest > 0.98 * speed);
  CHECK(mean < 1.07 * speed);  // 1.35 before heaps were held to their energy
}

TEST_CASE("a heap stays on a lift, however fast it goes") {
  const double speed = GENERATE(-20.0, 3.0, 20.0);  // m/s, upwards
  World world({});
  const BodySettings box = crate(0, 0.4);
  BodySettings plate;
  plate.shape = Box{{edge * side * 3, 0.2, edge * side * 3}};
  plate.kind = MotionKind::kinematic;
  BodyMotion motion;
  motion.pose.position = Vec3(0.5 * edge * (side - 1), -0.5 * edge - 0.1, 0.5 * edge * (side - 1));
  motion.velocity = Vec3(0, speed, 0);
  const BodyHandle lift = world.create(plate, motion);
  const std::vector<BodyHandle> island = add_cube(world, box, Vec3::Zero(), Vec3(0, speed, 0));
  for (int tick = 0; tick < 120; ++tick) world.step();
  double lowest = 1e9, mean = 0;
  for (const BodyHandle body : island) {
    const double above = world.centre_of_mass(body).y() - world.centre_of_mass(lift).y() - 0.1;
    lowest = std::min(lowest, above);
    mean += above / static_cast<double>(island.size());
  }
  CAPTURE(speed);
  CHECK(lowest > 0.5 * edge - 0.01);
  CHECK(std::abs(mean - 0.5 * edge * side) < 0.02);
}
