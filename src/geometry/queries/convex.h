// Convex shapes as a core and a radius around it: the farthest point in a direction, and the face that looks that way.
#pragma once

#include <optional>

#include "geometry/queries/contact_clip.h"
#include "geometry/shapes/shape.h"

namespace bronvel {

/// An edge of a core, scene frame.
struct Edge {
  Vec3 from = Vec3::Zero(), to = Vec3::Zero();
};

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

  /// The core's edge that looks along `direction`: from its farthest corner to the next farthest. Only of boxes,
  /// hulls and capsules.
  std::optional<Edge> edge(const Vec3& direction) const;

 private:
  const Shape& shape_;
  Vec3 position_;
  Mat3 rotation_;
};

}  // namespace bronvel
