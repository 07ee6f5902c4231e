// Where handles are: finding them under the mouse, and drawing them.
#include "app/stage/handle_words.h"
#include "app/stage/handles.h"
#include "geometry/base/error.h"
#include "geometry/queries/ray.h"
#include "geometry/shapes/sized.h"
#include "scene/properties/number_entry.h"

namespace bronvel {
namespace {

constexpr double reach_pixels = 9;      // how near the mouse must be
constexpr double arrow_pixels = 46;     // beyond the body
constexpr double ring_pixels = 26;      // beyond the body
constexpr double limit_pixels = 64;     // radius of a limit's arc
constexpr double hollow_turn = pi / 2;  // where limits that are not set are offered

double distance_to_line(const QPointF& p, const QPointF& a, const QPointF& b) {
  const QPointF way = b - a;
  const double length = QPointF::dotProduct(way, way);
  const double share = length > 0 ? std::clamp(QPointF::dotProduct(p - a, way) / length, 0.0, 1.0) : 0;
  return distance(p, a + share * way);
}

}  // namespace

std::vector<Vec3> joint_points(const Scene& scene, const SceneJoint& joint) {
  const Body* a = joint.a.empty() ? nullptr : scene.find(joint.a);
  const Body* b = scene.find(joint.b);
  if (!b || (!joint.a.empty() && !a)) return {};
  std::vector<Vec3> points{a ? pose_of(*a).to_scene(joint.anchor_a) : joint.anchor_a,
                           pose_of(*b).to_scene(joint.anchor_b)};
  if (joint.kind == JointKind::pulley) {
    points.push_back(joint.support_a);
    points.push_back(joint.support_b);
  }
  return points;
}

std::optional<JointFrame> joint_frame(const Scene& scene, const SceneJoint& joint) {
  const std::vector<Vec3> points = joint_points(scene, joint);
  if (points.empty()) return std::nullopt;
  const Body* a = joint.a.empty() ? nullptr : scene.find(joint.a);
  JointFrame frame;
  frame.point = points[0];
  frame.axis = ((a ? a->orientation : Quat::Identity()) * joint.axis).normalized();
  // Angles count from where B's middle is now; where it is on the axis, from any side.
  const Body* b = scene.find(joint.b);
  Vec3 out = b->position - frame.point;
  out -= out.dot(frame.axis) * frame.axis;
  frame.zero = out.norm() > 1e-6 ? Vec3(out.normalized()) : any_perpendicular(frame.axis);
  return frame;
}

std::optional<Handles::Target> Handles::target() const {
  const Scene& scene = session_.scene();
  Target target;
  if (const SceneZone* zone = session_.chosen_zone()) {
    target.pose = {zone->position, zone->orientation};
    target.bounds = shape_bounds(zone->shape, {});
    target.sizable = true;
    target.together = sizes_together(zone->shape);
    return target;
  }
  if (session_.chosen_kind() != ThingKind::body || session_.chosen_bodies().empty()) return std::nullopt;
  const BodyNames& names = session_.chosen_bodies();
  for (const std::string& name : names)
    if (const Body* body = scene.find(name); body && body->locked) return std::nullopt;
  if (names.size() == 1) {
    const Body* body = scene.find(names[0]);
    if (!body) return std::nullopt;
    target.sizable = !std::holds_alternative<Mesh>(body->shape);
    target.together = body->looks ? std::array<int, 3>{0, 0, 0} : sizes_together(body->shape);
    if (snap_.own_axes) {
      target.pose = pose_of(*body);
      target.bounds = shape_bounds(body->shape, {});
    } else {
      target.pose = {body->position, Quat::Identity()};
      const Bounds bounds = shape_bounds(body->shape, pose_of(*body));
      target.bounds = {bounds.low - body->position, bounds.high - body->position};
      // Faces are the body's own: they can only be dragged where its axes lie along the scene's.
      const Mat3 turn = body->orientation.toRotationMatrix();
      target.sizable = target.sizable && (turn - Mat3::Identity()).norm() < 1e-6;
    }
    return target;
  }
  const Bounds bounds = bounds_of(scene, names);
  const Vec3 middle = 0.5 * (bounds.low + bounds.high);
  target.pose = {middle, Quat::Identity()};
  target.bounds = {bounds.low - middle, bounds.high - middle};
  return target;
}

double Handles::arrow_length(const Target& target, int axis, double unit) const {
  return target.bounds.high[axis] + arrow_pixels * unit;
}

std::optional<Vec3> Handles::path_middle(std::size_t after) const {
  const ScenePath* path = session_.chosen_path();
  if (!path) return std::nullopt;
  if (after + 1 < path->points.size()) return 0.5 * (path->points[after] + path->points[after + 1]);
  return path->closed ? std::optional<Vec3>(0.5 * (path->points.back() + path->points.front())) : std::nullopt;
}

Grip Handles::at(const QPointF& pixel, const Camera& camera, const QSize& size, const std::string& body_under) const {
  Pencil pencil(nullptr, camera, size);
  Grip best;
  double nearest = reach_pixels;
  const auto point = [&](const Vec3& where, const Grip& grip) {
    const auto at = pencil.pixel(where);
    if (!at) return;
    const double far = distance(*at, pixel);
    if (far < nearest) {
      nearest = far;
      best = grip;
    }
  };
  if (const SceneJoint* joint = session_.chosen_joint()) {
    const auto frame = joint_frame(session_.scene(), *joint);
    const std::vector<Vec3> points = joint_points(session_.scene(), *joint);
    if (!frame || points.empty()) return best;
    const double unit = pencil.metres_of(frame->point, 1);
    for (std::size_t i = 0; i < points.size(); ++i)
      if (i != 1 || has_two_ends(joint->kind)) point(points[i], {Grip::Kind::joint_point, 0, 1, i});
    const bool has_axis =
        joint->kind == JointKind::hinge || joint->kind == JointKind::slider || joint->kind == JointKind::ball;
    if (has_axis) point(frame->point + 1.5 * limit_pixels * unit * frame->axis, {Grip::Kind::joint_axis});
    if (joint->kind == JointKind::hinge) {
      const auto on_arc = [&](double angle) -> Vec3 {
        return frame->point + limit_pixels * unit * (Eigen::AngleAxisd(angle, frame->axis) * frame->zero);
      };
      point(on_arc(joint->low.value_or(-hollow_turn)), {Grip::Kind::low});
      point(on_arc(joint->high.value_or(hollow_turn)), {Grip::Kind::high});
    } else if (joint->kind == JointKind::slider) {
      point(points[1] + joint->low.value_or(-1) * frame->axis, {Grip::Kind::low});
      point(points[1] + joint->high.value_or(1) * frame->axis, {Grip::Kind::high});
    } else if (joint->kind == JointKind::ball) {
      const Vec3 side = any_perpendicular(frame->axis);
      const Vec3 edge =
          Eigen::AngleAxisd(joint->cone.value_or(pi / 3), side.cross(frame->axis).normalized()) * frame->axis;
      point(frame->point + limit_pixels * unit * edge, {Grip::Kind::cone});
    } else if (joint->kind == JointKind::distance) {
      const Vec3 way = points[1] - points[0];
      if (way.norm() > 1e-9) {
        const Vec3 along = way.normalized();
        if (joint->low) point(points[0] + *joint->low * along, {Grip::Kind::low});
        if (joint->high) point(points[0] + *joint->high * along, {Grip::Kind::high});
      }
    }
    return best;
  }
  if (const ScenePath* path = session_.chosen_path()) {
    for (std::size_t i = 0; i < path->points.size(); ++i) {
      if (const auto middle = path_middle(i)) point(*middle, {Grip::Kind::path_new, 0, 1, i});
      point(path->points[i], {Grip::Kind::path_point, 0, 1, i});
    }
    return best;
  }
  const auto target = this->target();
  if (!target) return best;
  const double unit = pencil.metres_of(target->pose.position, 1);
  for (int axis = 0; axis < 3; ++axis) {
    const Vec3 tip = target->pose.to_scene(Vec3::Unit(axis) * arrow_length(*target, axis, unit));
    point(tip, {Grip::Kind::axis, axis});
    if (target->sizable)
      for (const int sign : {-1, 1}) {
        const double side = sign > 0 ? target->bounds.high[axis] : target->bounds.low[axis];
        point(target->pose.to_scene(Vec3::Unit(axis) * side), {Grip::Kind::face, axis, sign});
      }
  }
  if (best.kind != Grip::Kind::none) return best;
  const double radius = 0.5 * (target->bounds.high - target->bounds.low).norm() + ring_pixels * unit;
  for (int axis = 0; axis < 3; ++axis) {
    const Vec3 normal = target->pose.orientation * Vec3::Unit(axis);
    const Vec3 tip = target->pose.to_scene(Vec3::Unit(axis) * arrow_length(*target, axis, unit));
    const Vec3 foot = target->pose.to_scene(Vec3::Unit(axis) * target->bounds.high[axis]);
    const auto a = pencil.pixel(foot), b = pencil.pixel(tip);
    if (a && b && distance_to_line(pixel, *a, *b) < 0.7 * reach_pixels) return {Grip::Kind::axis, axis};
    const std::vector<Vec3> ring = arc(target->pose.position, normal, any_perpendicular(normal), radius, 0, 2 * pi);
    for (std::size_t i = 1; i < ring.size(); ++i) {
      const auto c = pencil.pixel(ring[i - 1]), d = pencil.pixel(ring[i]);
      if (!c || !d) continue;
      const double far = distance_to_line(pixel, *c, *d);
      if (far < std::min(nearest, 0.6 * reach_pixels)) {
        nearest = far;
        best = {Grip::Kind::ring, axis};
      }
    }
  }
  if (best.kind == Grip::Kind::none && session_.chosen_kind() == ThingKind::body && session_.is_chosen(body_under))
    best.kind = Grip::Kind::body;
  return best;
}

void Handles::draw(Pencil& pencil, const Grip& hovered) const {
  if (const SceneJoint* joint = session_.chosen_joint()) draw_joint(pencil, *joint, hovered);
  if (const ScenePath* path = session_.chosen_path()) draw_path(pencil, *path, hovered);
  if (const auto target = this->target()) draw_target(pencil, *target, hovered);
  if (met_ && active()) {
    // The line that a side was brought to.
    const Vec3 middle = 0.5 * (bounds_.low + bounds_.high) + way_;
    Vec3 from = middle;
    from[met_->first] = met_->second;
    QPen pen(theme::accent, 1.2);
    pen.setDashPattern({3, 3});
    for (int axis = 0; axis < 3; ++axis) {
      if (axis == met_->first || (met_->first != 1 && axis == 1)) continue;
      const double far = (bounds_.high - bounds_.low).norm() + 0.5;
      pencil.line(from - far * Vec3::Unit(axis), from + far * Vec3::Unit(axis), pen);
    }
  }
}

void Handles::draw_target(Pencil& pencil, const Target& target, const Grip& hovered) const {
  const double unit = pencil.metres_of(target.pose.position, 1);
  const double radius = 0.5 * (target.bounds.high - target.bounds.low).norm() + ring_pixels * unit;
  for (int axis = 0; axis < 3; ++axis) {
    const bool ring_on = hovered.kind == Grip::Kind::ring && hovered.axis == axis;
    const bool arrow_on = hovered.kind == Grip::Kind::axis && hovered.axis == axis;
    if (active() && !ring_on && !arrow_on && hovered.kind != Grip::Kind::face) continue;
    const Vec3 normal = target.pose.orientation * Vec3::Unit(axis);
    // Rings are faint, and only the half in front, so that the body stays what one sees.
    QColor faint = theme::chosen;
    faint.setAlpha(ring_on ? 255 : 105);
    const std::vector<Vec3> ring = arc(target.pose.position, normal, any_perpendicular(normal), radius, 0, 2 * pi);
    for (std::size_t i = 1; i < ring.size(); ++i) {
      const bool front = (0.5 * (ring[i] + ring[i - 1]) - target.pose.position).dot(pencil.camera().forward()) <= 1e-9;
      if (front || ring_on) pencil.line(ring[i - 1], ring[i], QPen(faint, ring_on ? 2.0 : 1.1));
    }
    const Vec3 foot = target.pose.to_scene(Vec3::Unit(axis) * (target.bounds.high[axis] + 7 * unit));
    const Vec3 tip = target.pose.to_scene(Vec3::Unit(axis) * arrow_length(target, axis, unit));
    pencil.arrow(foot, tip, QPen(arrow_on ? theme::accent : theme::chosen, arrow_on ? 2.4 : 1.7));
    pencil.letter(tip, {7, 4}, QString(axis_letters[axis]), arrow_on ? theme::accent : theme::chosen);
    if (!target.sizable) continue;
    for (const int sign : {-1, 1}) {
      const bool on = hovered.kind == Grip::Kind::face && hovered.axis == axis && hovered.sign == sign;
      const double side = sign > 0 ? target.bounds.high[axis] : target.bounds.low[axis];
      pencil.dot(target.pose.to_scene(Vec3::Unit(axis) * side), on ? 5.5 : 4, on ? theme::accent : theme::sheet,
                 on ? theme::accent : theme::chosen);
    }
  }
}

void Handles::draw_joint(Pencil& pencil, const SceneJoint& joint, const Grip& hovered) const {
  const QColor plum(0x6E, 0x3F, 0x66);
  const auto frame = joint_frame(session_.scene(), joint);
  const std::vector<Vec3> points = joint_points(session_.scene(), joint);
  if (!frame || points.empty()) return;
  const double unit = pencil.metres_of(frame->point, 1);
  const auto knob = [&](const Vec3& at, const Grip& grip, bool set) {
    const bool on = hovered == grip;
    pencil.dot(at, on ? 6.5 : 5, on ? theme::accent : set ? plum : theme::sheet, on ? theme::accent : plum);
  };
  QPen dashed(plum, 1.3);
  dashed.setDashPattern({3, 3});
  const auto degrees = [](double angle) { return QString::number(angle * 180 / pi, 'f', 0) + "°"; };
  // Which is which: A and B by the bodies' middles.
  if (!joint.a.empty())
    if (const Body* a = session_.scene().find(joint.a)) pencil.line(frame->point, a->position, dashed);
  if (const Body* b = session_.scene().find(joint.b)) pencil.line(points[1], b->position, dashed);
  if (joint.kind == JointKind::hinge || joint.kind == JointKind::slider || joint.kind == JointKind::ball) {
    const Vec3 tip = frame->point + 1.5 * limit_pixels * unit * frame->axis;
    const bool on = hovered.kind == Grip::Kind::joint_axis;
    pencil.arrow(frame->point, tip, QPen(on ? theme::accent : plum, on ? 2.6 : 1.8));
    pencil.words(tip, {9, 4}, "axis", plum);
  }
  if (joint.kind == JointKind::hinge) {
    const double radius = limit_pixels * unit;
    const double low = joint.low.value_or(-hollow_turn), high = joint.high.value_or(hollow_turn);
    const bool limited = joint.low || joint.high;
    pencil.stroke(arc(frame->point, frame->axis, frame->zero, radius, low, high), limited ? QPen(plum, 2.4) : dashed);
    pencil.line(frame->point, frame->point + radius * frame->zero, QPen(plum, 1));
    const auto on_arc = [&](double angle) -> Vec3 {
      return frame->point + radius * (Eigen::AngleAxisd(angle, frame->axis) * frame->zero);
    };
    if (joint.low) pencil.line(frame->point, on_arc(low), QPen(plum, 1));
    if (joint.high) pencil.line(frame->point, on_arc(high), QPen(plum, 1));
    knob(on_arc(low), {Grip::Kind::low}, joint.low.has_value());
    knob(on_arc(high), {Grip::Kind::high}, joint.high.has_value());
    pencil.words(on_arc(low), {10, -4}, joint.low ? degrees(low) : "least", plum);
    pencil.words(on_arc(high), {10, -4}, joint.high ? degrees(high) : "greatest", plum);
  } else if (joint.kind == JointKind::slider) {
    const double low = joint.low.value_or(-1), high = joint.high.value_or(1);
    pencil.line(points[1] + low * frame->axis, points[1] + high * frame->axis,
                joint.low || joint.high ? QPen(plum, 2.4) : dashed);
    knob(points[1] + low * frame->axis, {Grip::Kind::low}, joint.low.has_value());
    knob(points[1] + high * frame->axis, {Grip::Kind::high}, joint.high.has_value());
    pencil.words(points[1] + low * frame->axis, {10, 16}, joint.low ? metres(low) : "least", plum);
    pencil.words(points[1] + high * frame->axis, {10, 16}, joint.high ? metres(high) : "greatest", plum);
  } else if (joint.kind == JointKind::ball) {
    const double cone = joint.cone.value_or(pi / 3), radius = limit_pixels * unit;
    const Vec3 side = any_perpendicular(frame->axis);
    const Vec3 edge = Eigen::AngleAxisd(cone, side.cross(frame->axis).normalized()) * frame->axis;
    const Vec3 middle = frame->point + radius * std::cos(cone) * frame->axis;
    pencil.stroke(arc(middle, frame->axis, side, radius * std::sin(cone), 0, 2 * pi),
                  joint.cone ? QPen(plum, 2) : dashed);
    pencil.line(frame->point, frame->point + radius * edge, QPen(plum, 1));
    knob(frame->point + radius * edge, {Grip::Kind::cone}, joint.cone.has_value());
    pencil.words(frame->point + radius * edge, {10, -4}, joint.cone ? degrees(cone) : "cone", plum);
  } else if (joint.kind == JointKind::distance) {
    const Vec3 way = points[1] - points[0];
    if (way.norm() > 1e-9) {
      const Vec3 along = way.normalized();
      if (joint.high) {
        pencil.line(points[0], points[0] + *joint.high * along, QPen(plum, 1.6));
        knob(points[0] + *joint.high * along, {Grip::Kind::high}, true);
        pencil.words(points[0] + *joint.high * along, {10, 14}, "greatest " + metres(*joint.high), plum);
      }
      if (joint.low) {
        knob(points[0] + *joint.low * along, {Grip::Kind::low}, true);
        pencil.words(points[0] + *joint.low * along, {10, 14}, "least " + metres(*joint.low), plum);
      }
    }
  }
  for (std::size_t i = 0; i < points.size(); ++i)
    if (i != 1 || has_two_ends(joint.kind)) knob(points[i], {Grip::Kind::joint_point, 0, 1, i}, true);
  pencil.words(points[0], {-14, 24}, QString::fromStdString(joint.name), plum);
}

void Handles::draw_path(Pencil& pencil, const ScenePath& path, const Grip& hovered) const {
  for (std::size_t i = 0; i < path.points.size(); ++i) {
    if (const auto middle = path_middle(i)) {
      const bool on = hovered.kind == Grip::Kind::path_new && hovered.index == i;
      pencil.dot(*middle, on ? 5 : 3, theme::sheet, on ? theme::accent : theme::compared);
    }
    const bool on = hovered.kind == Grip::Kind::path_point && hovered.index == i;
    const bool held = i == path_point_;
    pencil.dot(path.points[i], on || held ? 6 : 5,
               on     ? theme::accent
               : held ? theme::compared
                      : theme::sheet,
               theme::compared);
    pencil.letter(path.points[i], {8, -6}, QString::number(i + 1), theme::compared);
  }
}

QString Handles::about(const Grip& grip) {
  switch (grip.kind) {
    case Grip::Kind::none:
      return "";
    case Grip::Kind::body:
      return "drag: slides on what is under it";
    case Grip::Kind::axis:
      return QString("drag: moves along %1; type a number for exact metres").arg(axis_letters[grip.axis]);
    case Grip::Kind::ring:
      return QString("drag: turns about %1; type a number for exact degrees").arg(axis_letters[grip.axis]);
    case Grip::Kind::face:
      return QString("drag: sizes along %1, the other side stays; type a number for the exact size")
          .arg(axis_letters[grip.axis]);
    case Grip::Kind::joint_point:
      return "drag: moves the joint's point onto what is under the mouse";
    case Grip::Kind::joint_axis:
      return "drag: turns the joint's axis";
    case Grip::Kind::low:
    case Grip::Kind::high:
    case Grip::Kind::cone:
      return "drag: sets the limit; type a number for an exact one";
    case Grip::Kind::path_point:
      return "drag: moves the point; Delete takes it away";
    case Grip::Kind::path_new:
      return "drag: a new point here";
  }
  return "";
}

}  // namespace bronvel
