// A joint's insides. Only the dynamics layer includes this.
#pragma once

#include "dynamics/joint.h"
#include "geometry/vector.h"

namespace bronvel {

/// A joint's insides.
struct JointRecord {
  JointSettings settings;
  JointReading reading;
  std::uint32_t generation = 0;
  bool alive = false;
  double angle = 0;                     ///< hinge: where it was last seen, rad, counted on over whole turns
  double paid_out = 0;                  ///< distance: what the greatest length has grown by, m
  Vec3 impulse = Vec3::Zero();          ///< on B over this tick, N·s
  Vec3 angular_impulse = Vec3::Zero();  ///< on B about its anchor, N·m·s
};

}  // namespace bronvel
