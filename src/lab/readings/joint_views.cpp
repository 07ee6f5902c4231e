// Building the shapes that stand for joints.
#include "lab/readings/joint_views.h"

#include "geometry/base/linear.h"

namespace bronvel {
namespace {

constexpr const char* plum = "#6E3F66";
constexpr double cord_radius = 0.018, pin_radius = 0.07;  // m

BodyView view(const Shape& shape, const Pose& pose) {
  return {"", shape, pose, plum, MotionKind::fixed, false};
}

void add_cord(std::vector<BodyView>& views, const Vec3& from, const Vec3& to) {
  const Vec3 along = to - from;
  const double length = along.norm();
  if (length < 1e-6) return;
  views.push_back(view(Cylinder{cord_radius, length}, {0.5 * (from + to), turn_between(Vec3::Unit(1), along)}));
}

}  // namespace

void add_joint_views(std::vector<BodyView>& views, const SceneJoint& joint,
                     const std::function<std::optional<Pose>(const std::string&)>& pose_of) {
  const std::optional<Pose> a = joint.a.empty() ? std::optional(Pose{}) : pose_of(joint.a), b = pose_of(joint.b);
  if (!a || !b) return;
  const Vec3 at_a = a->to_scene(joint.anchor_a), at_b = b->to_scene(joint.anchor_b);
  switch (joint.kind) {
    case JointKind::distance:
      add_cord(views, at_a, at_b);
      break;
    case JointKind::pulley:
      add_cord(views, joint.support_a, at_a);
      add_cord(views, joint.support_a, joint.support_b);
      add_cord(views, joint.support_b, at_b);
      break;
    case JointKind::hinge: {
      // The pin lies along the axis.
      const Vec3 axis = a->orientation * joint.axis;
      views.push_back(view(Cylinder{pin_radius, 8 * pin_radius}, {at_a, turn_between(Vec3::Unit(1), axis)}));
      break;
    }
    case JointKind::slider:
      add_cord(views, at_a, at_b);
      [[fallthrough]];
    case JointKind::ball:
    case JointKind::fixed:
    case JointKind::six_axis:
      views.push_back(view(Sphere{pin_radius}, {at_a, Quat::Identity()}));
      break;
  }
}

}  // namespace bronvel
