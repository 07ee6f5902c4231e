// How far apart two convex cores are, or how deep they overlap.
#pragma once

#include "geometry/queries/convex.h"

namespace bronvel {

/// Nearest points of two cores (radii not counted), or the shortest way out when they overlap.
struct Separation {
  Vec3 normal = Vec3::Unit(1);  ///< unit, from A to B
  double distance = 0;          ///< along the normal, m; negative when the cores overlap
  Vec3 on_a = Vec3::Zero(), on_b = Vec3::Zero();
};

/// Apart: the algorithm of Gilbert, Johnson and Keerthi (1988). Overlapping: the expanding polytope of van den Bergen
/// (2001). Begins along `guess`, from A to B, unless it is 0.
Separation separation_of(const Convex& a, const Convex& b, const Vec3& guess = Vec3::Zero());

}  // namespace bronvel
