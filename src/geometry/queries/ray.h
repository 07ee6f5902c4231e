// Rays against shapes.
#pragma once

#include <optional>

#include "geometry/shapes/shape.h"

namespace bronvel {

/// Where a ray met a shape, in the frame that the ray was given in.
struct RayHit {
  double distance = 0;          ///< along the ray's unit direction, m
  Vec3 point = Vec3::Zero();    ///< m
  Vec3 normal = Vec3::Unit(1);  ///< outward, unit
};

/// First hit of the ray from `origin` along the unit vector `direction`, no farther than `reach` m.
/// A ray that starts inside hits at distance 0 with the normal against its direction.
std::optional<RayHit> cast_ray(const Shape& shape, const Pose& pose, const Vec3& origin, const Vec3& direction,
                               double reach);

}  // namespace bronvel
