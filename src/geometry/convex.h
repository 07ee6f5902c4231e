// Convex shapes as a core and a radius around it: the farthest point in a direction, and the face that looks that way.
#pragma once

#include "geometry/contact_clip.h"
#include "geometry/shape.h"

namespace bronvel {

/// A shape at a pose, for distance and contact. A sphere's core is a point, a capsule's a segment, the others' are
/// themselves with radius 0.
class Convex {
 public:
  Convex(const Shape& shape, const Pose& pose)
      : shape_(shape), position_(pose.position), rotation_(pose.orientation.toRotationMatrix()) {}

  double radius() const;  ///< around the core, m
  const Vec3& middle() const { return position_; }

  /// The core's farthest point along `direction`, scene frame.
  Vec3 farthest(const Vec3& direction) const;

  /// The core's feature that looks along the unit `direction`: a face (three corners or more, counter-clockwise seen
  /// from outside), an edge (two) or a point.
  Polygon feature(const Vec3& direction) const;

 private:
  const Shape& shape_;
  Vec3 position_;
  Mat3 rotation_;
};

}  // namespace bronvel
