// Clipping of convex polygons, and choosing the four points of a contact that matter most.
#pragma once

#include <array>

#include "geometry/contact.h"

namespace bronvel {

struct PolygonPoint {
  Vec3 point = Vec3::Zero();
  std::uint32_t feature = 0;
};

/// A convex polygon of at most 32 corners, in order. Corners beyond that are left out.
struct Polygon {
  static constexpr int most = 32;
  int count = 0;
  std::array<PolygonPoint, most> corners;

  PolygonPoint& at(int i) { return corners[static_cast<std::size_t>(i)]; }
  const PolygonPoint& at(int i) const { return corners[static_cast<std::size_t>(i)]; }
  void add(const Vec3& point, std::uint32_t feature) {
    if (count < most) at(count++) = {point, feature};
  }
};

/// The half-space normal·x ≤ offset.
struct Plane {
  Vec3 normal = Vec3::Unit(1);
  double offset = 0;
};

/// The part of the polygon inside the plane (Sutherland and Hodgman, 1974). New corners are named after the corner
/// they were cut from and `plane_id`.
Polygon clipped(const Polygon& polygon, const Plane& plane, std::uint32_t plane_id);

/// Contact points before the choice of four.
struct PointSet {
  int count = 0;
  std::array<ContactPoint, Polygon::most> points;

  ContactPoint& at(int i) { return points[static_cast<std::size_t>(i)]; }
  const ContactPoint& at(int i) const { return points[static_cast<std::size_t>(i)]; }
  void add(const ContactPoint& p) {
    if (count < Polygon::most) at(count++) = p;
  }
};

/// Puts at most four of the points into the manifold: the deepest, the farthest from it, and the two that span the
/// greatest area on either side. m.normal must be set.
void keep_four(const PointSet& found, Manifold& m);

}  // namespace bronvel
