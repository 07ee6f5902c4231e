// What all moving bodies of a world have together.
#pragma once

#include "dynamics/world/world.h"

namespace bronvel {

struct Sums {
  double mass = 0;               ///< kg
  double energy = 0;             ///< of motion, J
  Vec3 momentum = Vec3::Zero();  ///< kg·m/s
  Vec3 turning = Vec3::Zero();   ///< angular momentum about the origin, kg·m²/s
  double size = 0;               ///< of all momenta, kg·m/s
};

inline Sums sums_of(const World& world) {
  Sums sums;
  for (const BodyHandle body : world.bodies()) {
    if (world.body_settings(body).kind != MotionKind::dynamic) continue;
    const BodyMotion motion = world.motion(body);
    const MassProperties mass = world.mass(body);
    const Mat3 turn = motion.pose.orientation.toRotationMatrix();
    const Vec3 momentum = mass.mass * motion.velocity;
    sums.mass += mass.mass;
    sums.momentum += momentum;
    sums.turning +=
        world.centre_of_mass(body).cross(momentum) + turn * mass.inertia * turn.transpose() * motion.angular_velocity;
    sums.size += momentum.norm();
  }
  sums.energy = world.kinetic_energy();
  return sums;
}

}  // namespace bronvel
