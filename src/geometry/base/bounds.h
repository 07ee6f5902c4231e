// Axis-aligned boxes, for finding what may touch.
#pragma once

#include "geometry/base/vector.h"

namespace bronvel {

/// The box from `low` to `high` in the scene's frame, m.
struct Bounds {
  Vec3 low = Vec3::Zero();
  Vec3 high = Vec3::Zero();

  bool overlaps(const Bounds& other) const {
    return low.x() <= other.high.x() && other.low.x() <= high.x() && low.y() <= other.high.y() &&
           other.low.y() <= high.y() && low.z() <= other.high.z() && other.low.z() <= high.z();
  }
  bool contains(const Bounds& other) const {
    return (low.array() <= other.low.array()).all() && (other.high.array() <= high.array()).all();
  }
  Bounds grown(double by) const { return {low.array() - by, high.array() + by}; }
  Bounds joined(const Bounds& other) const { return {low.cwiseMin(other.low), high.cwiseMax(other.high)}; }
  /// Stretched to hold itself moved by `shift` as well.
  Bounds swept(const Vec3& shift) const { return {low + shift.cwiseMin(0.0), high + shift.cwiseMax(0.0)}; }
  /// The bounds of this box when it is taken along by a pose.
  Bounds turned(const Pose& pose) const;
  double half_area() const {
    const Vec3 d = high - low;
    return d.x() * d.y() + d.y() * d.z() + d.z() * d.x();
  }
};

/// 1 / direction, with a huge number where a part is next to zero.
inline Vec3 inverse_direction(const Vec3& direction) {
  Vec3 inverse;
  for (int i = 0; i < 3; ++i) inverse[i] = 1.0 / (std::abs(direction[i]) < 1e-300 ? 1e-300 : direction[i]);
  return inverse;
}

/// Whether the segment from `origin` along `direction` (1/direction given) up to `most` meets the box (slab test).
inline bool meets_segment(const Bounds& box, const Vec3& origin, const Vec3& inverse_direction, double most) {
  const Eigen::Array3d a = (box.low - origin).array() * inverse_direction.array();
  const Eigen::Array3d b = (box.high - origin).array() * inverse_direction.array();
  // A direction of zero gives 0·inf = NaN on the slab's face; std::max/min with the NaN second keep the other value.
  double near = 0, far = most;
  for (int i = 0; i < 3; ++i) {
    near = std::max(near, std::min(a[i], b[i]));
    far = std::min(far, std::max(a[i], b[i]));
  }
  return near <= far;
}

}  // namespace bronvel
