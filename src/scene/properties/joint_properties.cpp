// What a joint has.
#include "scene/document/joint_axes.h"
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

std::vector<JointProperty> make_axis_list() {
  std::vector<JointProperty> list;
  for (std::size_t axis = 0; axis < axis_names.size(); ++axis) {
    const std::string name = axis_names[axis];
    const bool moves = axis < 3;
    constexpr const char* group = "How free is each axis?";
    JointProperty freedom = listed::described<SceneJoint>(PropertyKind::word, (name + ".freedom").c_str(),
                                                          ((moves ? "move " : "turn ") + name.substr(5)).c_str(), "",
                                                          group, "locked, limited by a least and a greatest, or free");
    freedom.words.assign(freedom_words.begin(), freedom_words.end());
    freedom.get = [axis](const SceneJoint& j) {
      return Value(std::string(freedom_words[static_cast<std::size_t>(j.axes[axis].freedom)]));
    };
    freedom.set = [axis](SceneJoint& j, const Value& value) {
      const auto* found = std::find(freedom_words.begin(), freedom_words.end(), std::get<std::string>(value));
      j.axes[axis].freedom = static_cast<Freedom>(found - freedom_words.begin());
    };
    list.push_back(freedom);
    for (const AxisNumber& number : axis_numbers) {
      const std::string word = number.name;
      const char* unit = word == "stiffness"     ? (moves ? "N/m" : "N·m")
                         : word == "damping"     ? (moves ? "N·s/m" : "N·m·s")
                         : word == "motor_speed" ? (moves ? "m/s" : "rad/s")
                         : word == "motor_most"  ? (moves ? "N" : "N·m")
                                                 : (moves ? "m" : "rad");
      JointProperty p = listed::described<SceneJoint>(PropertyKind::number, (name + "." + word).c_str(),
                                                      ("  " + word).c_str(), unit, group, "of this axis");
      std::replace(p.label.begin(), p.label.end(), '_', ' ');
      p.low = number.low;
      p.high = 1e15;
      p.get = [axis, field = number.field](const SceneJoint& j) { return Value(j.axes[axis].*field); };
      p.set = [axis, field = number.field](SceneJoint& j, const Value& v) {
        j.axes[axis].*field = std::get<double>(v);
      };
      list.push_back(p);
    }
  }
  return list;
}

}  // namespace

std::span<const JointProperty> joint_properties() {
  static const std::vector<JointProperty> list = make_joint_list();
  return list;
}

std::span<const JointProperty> axis_properties() {
  static const std::vector<JointProperty> list = make_axis_list();
  return list;
}

}  // namespace bronvel
