// What no joint and no hit may change: the momenta of bodies that are left to themselves. And what none may make:
// energy.
#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "dynamics/frames.h"
#include "dynamics/world/world.h"

using namespace bronvel;

namespace {

double number(double low, double high) {
  return low + (high - low) * (*rc::gen::inRange(0, 1000001)) / 1e6;
}

Vec3 vector(double most) {
  return {number(-most, most), number(-most, most), number(-most, most)};
}

Quat turn() {
  return Quat(Eigen::AngleAxisd(number(0, 3), (vector(1) + Vec3(0, 0, 1.5)).normalized()));
}

BodySettings body() {
  BodySettings settings;
  switch (*rc::gen::inRange(0, 3)) {
    case 0:
      settings.shape = Box{{number(0.1, 0.6), number(0.1, 0.6), number(0.1, 0.6)}};
      break;
    case 1:
      settings.shape = Sphere{number(0.1, 0.3)};
      break;
    default:
      settings.shape = Capsule{number(0.05, 0.2), number(0.1, 0.6)};
  }
  settings.mass = std::pow(10, number(-1, 2));
  settings.may_sleep = false;
  return settings;
}

struct Momenta {
  Vec3 linear = Vec3::Zero();   // kg·m/s
  Vec3 angular = Vec3::Zero();  // about the origin, kg·m²/s
  double scale = 0;             // of the sums' parts, kg·m/s
};

Momenta momenta(const World& world) {
  Momenta sum;
  for (const BodyHandle each : world.bodies()) {
    const MassProperties mass = world.mass(each);
    const BodyMotion motion = world.motion(each);
    const Vec3 spin = motion.pose.orientation.conjugate() * motion.angular_velocity;
    const Vec3 linear = mass.mass * world.velocity(each);
    sum.linear += linear;
    sum.angular += world.centre_of_mass(each).cross(linear) + motion.pose.orientation * (mass.inertia * spin);
    sum.scale += linear.norm();
  }
  return sum;
}

// Where B's frame must lie for the joint to be at rest as the bodies stand.
}  // namespace

TEST_CASE("bodies that are joined and left to themselves keep their momenta, and gain no energy", "[random]") {
  CHECK(rc::check("joined", [] {
    World world({.gravity = Vec3::Zero(), .tick_rate = *rc::gen::element(30.0, 60.0, 240.0), .air_density = 0});
    const int count = *rc::gen::inRange(2, 7);
    std::vector<BodyHandle> all;
    for (int i = 0; i < count; ++i) {
      BodyMotion motion;
      motion.pose = {Vec3(0.8 * i, 0, 0) + vector(0.2), turn()};
      motion.velocity = vector(3);
      motion.angular_velocity = vector(4);
      BodySettings settings = body();
      settings.solid = false;  // joints alone
      all.push_back(world.create(settings, motion));
    }
    for (std::size_t i = 1; i < all.size(); ++i) {
      JointSettings joint;
      joint.kind = *rc::gen::element(JointKind::ball, JointKind::hinge, JointKind::slider, JointKind::fixed,
                                     JointKind::distance);
      joint.a = all[static_cast<std::size_t>(*rc::gen::inRange<std::size_t>(0, i))];
      joint.b = all[i];
      const BodyMotion a = world.motion(joint.a), b = world.motion(joint.b);
      const Pose middle{0.5 * (a.pose.position + b.pose.position) + vector(0.2), turn()};
      joint.frame_a = seen_from(a, middle);
      joint.frame_b = seen_from(b, middle);
      if (joint.kind == JointKind::distance) {
        joint.frame_b.position = Vec3::Zero();
        joint.along.freedom = Freedom::limited;
        joint.along.low = 0;
        joint.along.high = (middle.position - b.pose.position).norm() + number(0, 0.2);
      }
      world.join(joint);
    }
    const Momenta before = momenta(world);
    world.step();
    const double energy = world.kinetic_energy();  // what is left when the joints have taken hold
    for (int i = 0; i < 120; ++i) {
      world.step();
      for (const FaultEvent& fault : world.faults()) RC_FAIL(fault.reason);
    }
    const Momenta after = momenta(world);
    RC_LOG() << (after.linear - before.linear).norm() / before.scale << " "
             << (after.angular - before.angular).norm() / before.scale << " " << world.kinetic_energy() / energy;
    RC_ASSERT((after.linear - before.linear).norm() < 1e-10 * before.scale);
    RC_ASSERT((after.angular - before.angular).norm() < 1e-6 * before.scale);
    RC_ASSERT(world.kinetic_energy() < 1.01 * energy);
  }));
}

TEST_CASE("bodies that hit each other and are left to themselves keep their momenta, and gain no energy", "[random]") {
  CHECK(rc::check("hits", [] {
    World world({.gravity = Vec3::Zero(), .tick_rate = *rc::gen::element(60.0, 240.0), .air_density = 0});
    const int count = *rc::gen::inRange(2, 7);
    for (int i = 0; i < count; ++i) {
      BodyMotion motion;
      motion.pose = {Vec3(1.2 * (i % 3) - 1.2, 1.2 * (i / 3) - 0.6, 0) + vector(0.1), turn()};
      // Towards the middle, so that they meet.
      motion.velocity = -number(1, 4) * motion.pose.position + vector(1);
      motion.angular_velocity = vector(4);
      BodySettings settings = body();
      settings.surface.restitution = number(0, 1);
      settings.surface.static_friction = settings.surface.dynamic_friction = number(0, 0.8);
      world.create(settings, motion);
    }
    const Momenta before = momenta(world);
    double energy = world.kinetic_energy();
    bool hit = false;
    for (int i = 0; i < 90; ++i) {
      world.step();
      hit = hit || !world.contacts().empty();
      RC_ASSERT(world.faults().empty());
      RC_ASSERT(world.kinetic_energy() <= (1 + 3e-5) * energy);
      energy = world.kinetic_energy();
    }
    const Momenta after = momenta(world);
    RC_LOG() << (after.linear - before.linear).norm() / before.scale << " "
             << (after.angular - before.angular).norm() / before.scale;
    RC_CLASSIFY(hit);
    RC_ASSERT((after.linear - before.linear).norm() < 1e-10 * before.scale);
    RC_ASSERT((after.angular - before.angular).norm() < 1e-9 * before.scale);
  }));
}

TEST_CASE("bodies that hit each other without loss keep their energy, however they tumble and whoever slept",
          "[random]") {
  CHECK(rc::check("lossless", [] {
    const double rate = *rc::gen::element(30.0, 60.0, 120.0, 240.0);
    World world({.gravity = Vec3::Zero(), .tick_rate = rate, .restitution_speed = 1e-4, .air_density = 0});
    const int count = *rc::gen::inRange(2, 7);
    std::vector<BodyHandle> movers;
    for (int i = 0; i < count; ++i) {
      BodyMotion motion;
      motion.pose = {Vec3(1.2 * (i % 3) - 1.2, 1.2 * (i / 3) - 0.6, 0) + vector(0.1), turn()};
      BodySettings settings = body();
      settings.may_sleep = *rc::gen::inRange(0, 3) == 0;
      settings.surface.restitution = 1;
      settings.surface.static_friction = settings.surface.dynamic_friction = 0;
      const BodyHandle made = world.create(settings, motion);
      if (!settings.may_sleep) movers.push_back(made);
    }
    for (int tick = 0; tick < rate; ++tick) world.step();  // by now who may sleeps
    const double spin = rate < 60 ? 6 : 30;
    for (const BodyHandle each : movers) {
      const Vec3 place = world.motion(each).pose.position;
      world.set_velocity(each, -number(1, 4) * place + vector(1));
      world.set_angular_velocity(each, vector(spin));
    }
    const Momenta before = momenta(world);
    const double energy = world.kinetic_energy();
    bool hit = false;
    for (int tick = 0; tick < 1.5 * rate; ++tick) {
      world.step();
      hit = hit || !world.contacts().empty();
      RC_LOG() << "tick " << tick << ": " << world.kinetic_energy() / energy - 1 << "\n";
      RC_ASSERT(std::abs(world.kinetic_energy() - energy) <= 1e-6 * energy);
    }
    const Momenta after = momenta(world);
    RC_CLASSIFY(hit);
    RC_ASSERT((after.linear - before.linear).norm() <= 1e-10 * before.scale);
    RC_ASSERT((after.angular - before.angular).norm() <= 1e-9 * before.scale);
  }));
}
