// Words and checks of joints.
#include "dynamics/settings/joint.h"

#include <string_view>

namespace bronvel {
namespace {

constexpr std::array<std::string_view, 7> joint_words{"ball",     "hinge",    "slider", "fixed",
                                                      "distance", "six_axis", "pulley"};

std::optional<std::string> axis_fault(const JointAxis& axis) {
  for (const double value :
       {axis.low, axis.high, axis.stiffness, axis.damping, axis.rest, axis.motor_speed, axis.motor_most})
    if (!finite(value)) return "a limit, spring or motor is not a number";
  if (axis.freedom == Freedom::limited && axis.low > axis.high) return "the low limit is above the high limit";
  if (axis.stiffness < 0 || axis.damping < 0) return "a spring's stiffness and damping must be 0 or more";
  if (axis.motor_most < 0) return "a motor's greatest force or torque must be 0 or more";
  return std::nullopt;
}

}  // namespace

std::string joint_word(JointKind kind) {
  return std::string(joint_words[static_cast<std::size_t>(kind)]);
}

std::optional<JointKind> joint_from_word(std::string_view word) {
  for (std::size_t i = 0; i < joint_words.size(); ++i)
    if (joint_words[i] == word) return static_cast<JointKind>(i);
  return std::nullopt;
}

std::optional<std::string> joint_fault(const JointSettings& s) {
  if (s.a == s.b) return "a joint must tie two different bodies, or one body and the scene";
  for (const Pose& frame : {s.frame_a, s.frame_b}) {
    if (!finite(frame.position)) return "an anchor is not a number";
    if (!finite(frame.orientation) || std::abs(frame.orientation.norm() - 1) > 1e-3)
      return "a joint frame's orientation must be a unit quaternion";
  }
  if (auto fault = axis_fault(s.along)) return fault;
  for (const JointAxis& axis : s.axes)
    if (auto fault = axis_fault(axis)) return fault;
  if (!(s.cone > 0)) return "cone must be above 0 rad";
  if (!finite(s.pay_out)) return "pay_out is not a number";
  if (!finite(s.support_a) || !finite(s.support_b)) return "a support is not a number";
  if (!(s.ratio > 0) || !finite(s.ratio)) return "ratio must be a number above 0";
  if (!(s.breaks_at_force >= 0) || !(s.breaks_at_torque >= 0)) return "a breaking force or torque must be 0 or more";
  if (s.kind == JointKind::distance && s.along.freedom == Freedom::limited && s.along.low < 0)
    return "a length must be 0 or more";
  return std::nullopt;
}

}  // namespace bronvel
