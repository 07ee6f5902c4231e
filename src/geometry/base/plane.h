// A half-space.
#pragma once

#include "geometry/base/vector.h"

namespace bronvel {

/// The half-space normal·x ≤ offset.
struct Plane {
  Vec3 normal = Vec3::Unit(1);
  double offset = 0;
};

}  // namespace bronvel
