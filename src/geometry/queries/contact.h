// Where two shapes touch or are about to: a normal and up to four points.
#pragma once

#include <array>
#include <cstdint>

#include "geometry/shapes/shape.h"

namespace bronvel {

/// One point of a manifold. `feature` names the pair of features it came from: it stays the same from tick to tick
/// while the same corner or edge touches the same face, so that impulses can be carried over.
struct ContactPoint {
  Vec3 point = Vec3::Zero();  ///< midway between the two surfaces, scene frame, m
  double separation = 0;      ///< gap along the normal, m; negative where the shapes overlap
  std::uint32_t feature = 0;
};

/// Whose flat face the normal is square to, and turns with.
enum class FaceOf : std::uint8_t { neither, a, b };

/// The contact of shapes A and B. Empty (count 0) when they are farther apart than the reach asked for.
struct Manifold {
  Vec3 normal = Vec3::Unit(1);  ///< unit, from A to B
  int count = 0;
  FaceOf face_of = FaceOf::neither;
  double apart =
      0;  ///< the shapes are at least so far apart, m (round ones within 1e-4); 0: they overlap, or it is not known
  std::array<ContactPoint, 4> points;

  void add(const Vec3& point, double separation, std::uint32_t feature) {
    if (count < 4) points[static_cast<std::size_t>(count++)] = {point, separation, feature};
  }
};

/// Where two shapes met a moment ago: the search begins there, and is spared while they still meet by that face.
struct LastManifold {
  Vec3 normal = Vec3::Zero();  ///< unit, from A to B; 0 if they did not
  FaceOf face_of = FaceOf::neither;
};

/// The manifold of A and B, with every point whose gap is at most `reach` (≥ 0, m).
Manifold collide(const Shape& a, const Pose& pose_a, const Shape& b, const Pose& pose_b, double reach,
                 const LastManifold& last = {});

}  // namespace bronvel
