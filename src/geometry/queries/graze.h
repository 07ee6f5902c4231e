// Grazing: what slides onto a face that lies flush with the one it comes from does not meet the edge between them.
#pragma once

#include "geometry/queries/contact.h"

namespace bronvel {

/// How B moves against A, scene frame.
struct RelativeMotion {
  Vec3 at = Vec3::Zero();        ///< m
  Vec3 velocity = Vec3::Zero();  ///< of B's point there against A's, m/s
  Vec3 spin = Vec3::Zero();      ///< rad/s

  Vec3 of(const Vec3& point) const { return velocity + spin.cross(point - at); }
};

/// What counts as grazing.
struct GrazeLimits {
  double step = 0;                          ///< how far one may lie below the other's face, m
  double ahead = 0;                         ///< how long it is seen ahead where what is still apart will be, s
  Vec3 gravity = Vec3::Zero();              ///< m/s²: where neither closes, the face that bears weight counts
  bool moves_a = true, moves_b = true;      ///< which of them is moved by what it meets
  double speed = 0;                         ///< what is apart and closes faster is no graze yet, m/s
  static constexpr double together = 1e-4;  ///< m: nearer than this it is not apart
};

enum class Graze : std::uint8_t {
  no,
  not_now,  ///< by where they are, but not as they move
  yes
};

/// Whether the manifold is that of a graze: the two meet across an edge, but one lies above another face at that edge,
/// or below it by no more than the step, and closes on that face more slowly. Then the manifold becomes that of this
/// face: its normal, and the points over it, if there are any. (A floor of slabs is met as if it were one: the side of
/// a slab whose top is level with the last is hidden. One that stands up by more than the step is met as ever.)
Graze make_graze(const Shape& a, const Pose& pose_a, const Shape& b, const Pose& pose_b, double reach,
                 const RelativeMotion& motion, const GrazeLimits& limits, Manifold& manifold);

}  // namespace bronvel
