// Collision impulses of one impact.
#pragma once

#include <memory>
#include <optional>

#include "dynamics/impacts/impulse_propagation.h"
#include "dynamics/impacts/time_of_impact.h"

namespace bronvel {

/// Response of two struck bodies, and of all that joints tie to them, to an impulse.
struct JointedResponse {
  ImpulseResponse a, b;
  std::vector<ImpulseResponse> of_group;
};

/// One point at which two bodies are struck.
struct StruckPoint {
  StruckPoint(const BodyState& a, const BodyState& b, const ContactPoint& point, const Vec3& normal);
  /// The same where joints hold the bodies, which respond within the impact.
  void take_joints(const WorldState& state, const Pair& pair, const StruckGroup& group, const Vec3& normal);

  Vec3 arm_a, arm_b;    ///< from the centres of mass, m
  Mat3 turn_a, turn_b;  ///< spin that each body takes from an impulse of 1 here
  Mat3 mobility;        ///< velocity of B against A here that an impulse of 1 on B, and −1 on A, gives, 1/kg
  double mass = 0;      ///< that such an impulse along the normal has to move, kg
  std::unique_ptr<JointedResponse> jointed;  ///< null where no joint holds either body
};

/// Impulses of an impact by point: restitution along the normal, friction across; iterated until nothing changes.
struct PointImpulses {
  std::array<double, 4> normal{};  ///< N·s
  std::array<Vec3, 4> friction{Vec3::Zero(), Vec3::Zero(), Vec3::Zero(), Vec3::Zero()};

  /// Of point i, on B, N·s; `along`: the normal.
  Vec3 impulse(std::size_t i, const Vec3& along) const { return along * normal[i] + friction[i]; }
};
struct CollisionImpulse : PointImpulses {
  std::array<std::optional<StruckPoint>, 4> points;  ///< nothing where a point is not met
};

/// Finds the impulses of the impact and gives them to A and B as they are at its moment, and to `group` (null where no
/// joint holds either). Tells the pair how fast it closed.
CollisionImpulse impulses_of(const WorldState& state, BodyState& a, BodyState& b, const Hit& hit, Pair& pair,
                             StruckGroup* group);

}  // namespace bronvel
