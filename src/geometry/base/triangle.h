// Distance to a triangle.
#pragma once

#include "geometry/base/vector.h"

namespace bronvel {

/// From the point to the nearest of the triangle's, squared, m². By the region that the point lies in (Ericson,
/// Real-Time Collision Detection, 2005, section 5.1.5).
double distance_squared_to_triangle(const Vec3& p, const Vec3& a, const Vec3& b, const Vec3& c);

}  // namespace bronvel
