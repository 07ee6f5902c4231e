// What a joint demands, row by row: how each demand sees the motion of the two bodies, and how far it is from met.
#pragma once

#include <vector>

#include "dynamics/state/world_state.h"

namespace bronvel {

inline constexpr std::uint32_t no_body = BodyHandle{}.index;  ///< the scene, as a joint's end

enum class RowRule {
  equal,     ///< error is to be 0
  at_least,  ///< error is to be 0 or more; only pushes
  motor,     ///< speed is to be `target`, with no more than `most`
  spring     ///< pulls the error to 0 with stiffness and damping
};

/// How a demand sees one body: its rate is linear · velocity + angular · angular velocity.
struct RowEnd {
  Vec3 linear = Vec3::Zero();
  Vec3 angular = Vec3::Zero();
  double rate(const BodyState& m) const { return linear.dot(m.velocity) + angular.dot(m.angular_velocity); }
};

/// One demand on two bodies.
struct JointRow {
  RowEnd a, b;
  RowRule rule = RowRule::equal;
  double error = 0;      ///< m or rad
  double drift = 0;      ///< rate of the error while nothing moves: a rope is paid out
  double target = 0;     ///< motor: m/s or rad/s
  double most = 0;       ///< motor: N or N·m
  double stiffness = 0;  ///< spring: N/m or N·m/rad
  double damping = 0;    ///< spring: N·s/m or N·m·s/rad
};

/// Where a joint is attached: motions of its bodies, and their centres of mass in their own frames.
struct JointEnds {
  const BodyState& a;
  const BodyState& b;
  Vec3 centre_a, centre_b;
};

/// A joint to the scene has the scene's motion, which is none, as that end.
JointEnds joint_ends(const WorldState& state, const FlatArray<BodyState>& motions, const JointRecord& joint);

/// Appends the joint's rows for these motions. Their number and order depend on the settings alone.
void add_joint_rows(const JointRecord& joint, const JointEnds& ends, std::vector<JointRow>& rows);

/// Position of the joint's main axis, as in JointReading: hinge rad, slider m, distance and pulley m, else 0; and how
/// fast it changes as its bodies move now.
struct JointTravel {
  double position = 0, rate = 0;
};
JointTravel joint_travel(const JointRecord& joint, const JointEnds& ends);

/// A's and B's anchors from their centres of mass, scene frame, m.
Vec3 joint_arm_a(const JointRecord& joint, const JointEnds& ends);
Vec3 joint_arm_b(const JointRecord& joint, const JointEnds& ends);

}  // namespace bronvel
