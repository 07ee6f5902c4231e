// Contact of any two convex shapes.
#pragma once

#include "geometry/contact.h"

namespace bronvel {

/// The manifold of two convex shapes: normal and depth from separation_of, points from the two features that face each
/// other, clipped by one another.
Manifold collide_convex(const Shape& a, const Pose& pose_a, const Shape& b, const Pose& pose_b, double reach);

}  // namespace bronvel
