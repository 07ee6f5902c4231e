// A joint's insides. Only the dynamics layer includes this.
#pragma once

#include <array>

#include "dynamics/settings/joint.h"
#include "geometry/base/vector.h"

namespace bronvel {

/// Six axes, each with two limits, a spring and a motor.
inline constexpr std::size_t most_joint_rows = 24;

/// A joint's insides.
struct JointRecord {
  JointSettings settings;
  JointReading reading;
  std::uint32_t generation = 0;
  bool alive = false;
  double angle = 0;     ///< hinge: where it was last seen, rad, counted on over whole turns
  double paid_out = 0;  ///< distance: what the greatest length has grown by, m
  std::array<double, most_joint_rows> last_impulses{};  ///< of its rows, in the last sub-step, N·s or N·m·s
  Vec3 impulse = Vec3::Zero();                          ///< on B over this tick, N·s
  Vec3 angular_impulse = Vec3::Zero();                  ///< on B about its anchor, N·m·s
};

}  // namespace bronvel
