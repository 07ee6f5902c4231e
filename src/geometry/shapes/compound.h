// Compounds: several convex shapes that move as one.
#pragma once

#include <vector>

#include "geometry/shapes/parts.h"

namespace bronvel {

struct CompoundData {
  std::vector<Part> parts;
  std::vector<Bounds> bounds;   ///< of each part, m
  double volume = 0;            ///< of the parts, each times its relative density, m³
  Vec3 centre = Vec3::Zero();   ///< of that mass, m
  Mat3 inertia = Mat3::Zero();  ///< about `centre`, for density 1 kg/m³
};

/// Parts must be convex; what overlaps counts twice in mass. Throws Error.
Compound make_compound(std::vector<Part> parts);

}  // namespace bronvel
