// Joints as the world's users see them: what ties two bodies together, and what it carries.
#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <optional>
#include <string>

#include "dynamics/settings/body.h"

namespace bronvel {

/// Names a joint for as long as it lives.
struct JointHandle {
  std::uint32_t index = std::numeric_limits<std::uint32_t>::max();
  std::uint32_t generation = 0;
  auto operator<=>(const JointHandle&) const = default;
};

enum class JointKind {
  ball,      ///< the two anchors stay together
  hinge,     ///< and the two X axes too: turns about X
  slider,    ///< moves along A's X, does not turn
  fixed,     ///< neither moves nor turns
  distance,  ///< keeps the anchors between a least and a greatest distance: a rod, a rope, a spring
  six_axis,  ///< each of the three moves and three turns is set on its own
  pulley     ///< a rope from A over two supports to B
};

std::string joint_word(JointKind kind);
std::optional<JointKind> joint_from_word(std::string_view word);

/// How one way of moving or turning is held.
enum class Freedom { locked, limited, free };

/// One way of moving (m, N) or turning (rad, N·m) of B against A.
struct JointAxis {
  Freedom freedom = Freedom::free;
  double low = 0, high = 0;  ///< where it stops, when limited
  double stiffness = 0;      ///< of a spring to `rest`, N/m or N·m/rad
  double damping = 0;        ///< of that spring, N·s/m or N·m·s/rad
  double rest = 0;
  double motor_speed = 0;  ///< m/s or rad/s
  double motor_most = 0;   ///< the motor's greatest force or torque; 0: no motor
  bool operator==(const JointAxis&) const = default;

  bool sprung() const { return stiffness > 0 || damping > 0; }
  bool driven() const { return motor_most > 0; }
};

/// A joint between A and B. A handle that names no body stands for the scene itself.
struct JointSettings {
  JointKind kind = JointKind::ball;
  BodyHandle a{}, b{};
  Pose frame_a{}, frame_b{};  ///< the joint's frame in each body's own frame (in the scene's where there is no body)
  /// hinge: the turn about X. slider: the move along X. distance: the length. ball: the twist about X.
  JointAxis along{};
  double cone = pi;                 ///< ball: greatest angle between the two X axes, rad
  std::array<JointAxis, 6> axes{};  ///< six_axis: moves along A's X, Y, Z; turns about them (as a rotation vector)
  double pay_out = 0;               ///< distance: the greatest length grows at this rate, m/s
  Vec3 support_a = Vec3::Zero(), support_b = Vec3::Zero();  ///< pulley: where the rope turns, scene frame, m
  double ratio = 1;             ///< pulley: rope given up on A's side for each metre taken on B's
  bool bodies_meet = false;     ///< whether A and B collide with each other
  double breaks_at_force = 0;   ///< N; 0: never
  double breaks_at_torque = 0;  ///< N·m; 0: never
};

/// What a joint did in the last tick.
struct JointReading {
  Vec3 force = Vec3::Zero();   ///< on B at its anchor, mean over the tick, scene frame, N
  Vec3 torque = Vec3::Zero();  ///< on B about its anchor, N·m
  double position = 0;         ///< hinge: angle, rad; slider: travel, m; distance and pulley: length, m
  double speed = 0;            ///< its rate
};

/// A joint that broke.
struct JointBreak {
  JointHandle joint;
  JointSettings settings;
  JointReading reading;  ///< of the tick that broke it
};

/// Why these settings can't be used; empty if they can. (That the bodies live is the world's to check.)
std::optional<std::string> joint_fault(const JointSettings& settings);

}  // namespace bronvel
