// How a body floats: its centres of mass and buoyancy, its metacentre, its draft.
#pragma once

#include <optional>

#include "dynamics/world/world.h"

namespace bronvel {

/// Points in the scene's frame, m.
struct FloatingReading {
  Vec3 mass = Vec3::Zero();          ///< centre of mass
  Vec3 buoyancy = Vec3::Zero();      ///< centre of what it displaces
  std::optional<Vec3> metacentre{};  ///< none where it is wholly under water
  double share = 0;                  ///< of its volume, 0 to 1
  double draft = 0;                  ///< of its lowest point under the surface, m
  double force = 0;                  ///< buoyancy, N
};

/// None for bodies that are not dynamic or in no water. The metacentre is over the centre of buoyancy by BM = I / V of
/// the waterline about the axis that it is least stiff about (Bouguer, 1746).
std::optional<FloatingReading> floating_reading(const World& world, BodyHandle body);

/// Whether it comes back after leaning a little: the metacentre is over the centre of mass, or there is none.
bool rights_itself(const FloatingReading& reading);

}  // namespace bronvel
