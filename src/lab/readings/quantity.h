// The one list of quantities that can be read of bodies and joints: channels, lanes and the card read them from it.
#pragma once

#include <array>
#include <span>
#include <string>
#include <vector>

#include "play/run/play.h"

namespace bronvel {

/// A body at one moment, in a play or in a take.
struct BodyReading {
  Pose pose;
  Vec3 velocity = Vec3::Zero();          ///< of the centre of mass, m/s
  Vec3 angular_velocity = Vec3::Zero();  ///< rad/s
  MotionKind kind = MotionKind::dynamic;
  MassProperties mass;
  Vec3 gravity = Vec3::Zero();  ///< of the scene at the moment, times the body's own factor, m/s²
  bool asleep = false;
  double submerged = 0;  ///< share of its volume in water, 0 to 1
};

BodyReading body_reading(const World& world, BodyHandle body);

using Components = std::array<double, 4>;

/// A quantity of bodies or of joints.
template <class Reading>
struct Quantity {
  const char* name;
  const char* unit;
  std::vector<std::string> components;  ///< "x", "y", "z"; one nameless for a plain number
  const char* about;
  void (*read)(const Reading&, Components& out);
};

std::span<const Quantity<BodyReading>> body_quantities();
std::span<const Quantity<JointReading>> joint_quantities();

/// Null if there is none of that name.
template <class Reading>
const Quantity<Reading>* find_quantity(std::span<const Quantity<Reading>> all, const std::string& name) {
  for (const Quantity<Reading>& each : all)
    if (name == each.name) return &each;
  return nullptr;
}

/// Energy of motion, J; of a body that moves by its own script too.
double kinetic_energy(const BodyReading& body);

}  // namespace bronvel
