// What a joint has.
#include "scene/properties/property_makers.h"

namespace bronvel {
namespace {

std::vector<JointProperty> make_joint_list() {
  constexpr const char* what = "What does it tie?";
  constexpr const char* goes = "How far does it go?";
  constexpr const char* pulls = "What pulls on it?";
  constexpr const char* breaks = "When does it break?";
  std::vector<JointProperty> list;
  std::vector<std::string> joint_words;
  joint_words.reserve(7);
  for (int i = 0; i < 7; ++i) joint_words.push_back(joint_word(static_cast<JointKind>(i)));
  list.push_back(
      listed::word("kind", "kind", what, joint_words, &SceneJoint::kind,
                   "ball turns every way; hinge about its axis; slider moves along it; fixed not at all; distance "
                   "keeps two points between a least and a greatest length; pulley is a rope over two supports"));
  list.push_back(
      listed::text("a", "body A", what, &SceneJoint::a, "the body that it hangs on; empty: the scene itself"));
  list.push_back(listed::text("b", "body B", what, &SceneJoint::b, "the body that it holds"));
  list.push_back(listed::vector("anchor_a", "anchor on A", "m", what, &SceneJoint::anchor_a,
                                "in A's own frame; in the scene's where there is no A"));
  list.push_back(listed::vector("anchor_b", "anchor on B", "m", what, &SceneJoint::anchor_b, "in B's own frame"));
  list.push_back(
      listed::vector("axis", "axis", "", what, &SceneJoint::axis,
                     "of hinge, slider, twist and the six axes' X, in A's own frame; B's follows from how the two "
                     "stand when the scene starts, where angle and travel are 0"));
  list.push_back(listed::own_number("low", "least", "", goes, -1e6, 1e6, &SceneJoint::low,
                                    "least angle (rad), travel or length (m)"));
  list.push_back(listed::own_number("high", "greatest", "", goes, -1e6, 1e6, &SceneJoint::high,
                                    "greatest angle (rad), travel or length (m); for a pulley the length of the rope"));
  list.push_back(listed::own_number("cone", "cone", "rad", goes, 1e-6, pi, &SceneJoint::cone,
                                    "ball: how far the axis may lean from where it started"));
  list.push_back(listed::number("stiffness", "stiffness", "", pulls, 0, 1e15, &SceneJoint::stiffness,
                                "of a spring, N/m or N·m/rad; 0: none"));
  list.push_back(listed::number("damping", "damping", "", pulls, 0, 1e15, &SceneJoint::damping, "N·s/m or N·m·s/rad"));
  list.push_back(listed::number("rest", "rest", "", pulls, -1e6, 1e6, &SceneJoint::rest,
                                "angle, travel or length at which the spring pulls nowhere"));
  list.push_back(listed::number("motor_speed", "motor speed", "", pulls, -1e6, 1e6, &SceneJoint::motor_speed,
                                "that the motor tries to keep, rad/s or m/s"));
  list.push_back(listed::number("motor_most", "motor's most", "", pulls, 0, 1e15, &SceneJoint::motor_most,
                                "its greatest torque or force, N·m or N; 0: no motor"));
  list.push_back(listed::number("pay_out", "pay out", "m/s", pulls, -1e6, 1e6, &SceneJoint::pay_out,
                                "distance: how fast the greatest length grows; below 0 it is hauled in"));
  list.push_back(listed::vector("support_a", "support of A", "m", what, &SceneJoint::support_a,
                                "pulley: where the rope of A turns, scene frame"));
  list.push_back(listed::vector("support_b", "support of B", "m", what, &SceneJoint::support_b,
                                "pulley: where the rope of B turns, scene frame"));
  JointProperty ratio = listed::number("ratio", "ratio", "×", what, 0, 1e6, &SceneJoint::ratio,
                                       "pulley: rope given up on A's side for each metre taken on B's");
  ratio.low_open = true;
  list.push_back(ratio);
  list.push_back(listed::flag("bodies_meet", "bodies meet", what, &SceneJoint::bodies_meet,
                              "whether the two bodies collide with each other"));
  list.push_back(listed::number("breaks_at_force", "breaks at force", "N", breaks, 0, 1e15,
                                &SceneJoint::breaks_at_force, "force at which it snaps; 0: never"));
  list.push_back(listed::number("breaks_at_torque", "breaks at torque", "N·m", breaks, 0, 1e15,
                                &SceneJoint::breaks_at_torque, "torque at which it snaps; 0: never"));
  return list;
}

}  // namespace

std::span<const JointProperty> joint_properties() {
  static const std::vector<JointProperty> list = make_joint_list();
  return list;
}

}  // namespace bronvel
