// Dragging handles: each drag is one edit, tried out until it ends.
#include "app/stage/handles.h"

#include <set>

#include "app/stage/handle_words.h"
#include "geometry/base/error.h"
#include "geometry/queries/ray.h"
#include "geometry/shapes/sized.h"
#include "scene/properties/number_entry.h"

namespace bronvel {
namespace {

// How far along the line through `point` the ray passes nearest, m.
double along_line(const ViewRay& ray, const Vec3& point, const Vec3& direction) {
  const Vec3 between = point - ray.origin;
  const double b = direction.dot(ray.direction), d = direction.dot(between), e = ray.direction.dot(between);
  const double below = 1 - b * b;
  return std::abs(below) < 1e-9 ? 0 : (b * e - d) / below;
}

std::optional<Vec3> on_plane(const ViewRay& ray, const Vec3& point, const Vec3& normal) {
  const double slope = ray.direction.dot(normal);
  if (std::abs(slope) < 1e-6) return std::nullopt;
  const double far = (point - ray.origin).dot(normal) / slope;
  if (far <= 0) return std::nullopt;
  return ray.origin + far * ray.direction;
}

// The angle about the axis from `zero` to `direction`, from −π to π.
double angle_about(const Vec3& axis, const Vec3& zero, const Vec3& direction) {
  return std::atan2(zero.cross(direction).dot(axis), zero.dot(direction));
}

const SceneJoint* find_joint(const Scene& scene, const std::string& name) {
  for (const SceneJoint& joint : scene.joints)
    if (joint.name == name) return &joint;
  return nullptr;
}

}  // namespace

bool Handles::begin(const Grip& grip, const QPointF& pixel, const Camera& camera, const QSize& size) {
  if (grip.kind == Grip::Kind::none) return false;
  const auto target = this->target();
  grip_ = grip;
  base_ = session_.scene();
  names_ = session_.chosen_bodies();
  kind_ = session_.chosen_kind();
  thing_ = session_.chosen_thing();
  typed_.clear();
  met_.reset();
  way_.setZero();
  value_ = from_ = 0;
  start_ = target.value_or(Target{});
  if (!names_.empty()) bounds_ = bounds_of(base_, names_);
  const ViewRay ray = camera.ray(pixel, size);
  const Vec3 along = start_.pose.orientation * Vec3::Unit(grip.axis);
  switch (grip.kind) {
    case Grip::Kind::body: {
      clear_ = std::make_unique<Clearance>(base_, names_);
      double nearest = 1e9;
      grabbed_ = start_.pose.position;
      for (const std::string& name : names_)
        if (const Body* body = base_.find(name))
          if (const auto hit = cast_ray(body->shape, pose_of(*body), ray.origin, ray.direction, nearest)) {
            nearest = hit->distance;
            grabbed_ = hit->point;
          }
      break;
    }
    case Grip::Kind::axis:
    case Grip::Kind::face:
      from_ = along_line(ray, start_.pose.position, along);
      break;
    case Grip::Kind::ring: {
      const auto hit = on_plane(ray, start_.pose.position, along);
      grabbed_ = hit ? Vec3(*hit - start_.pose.position) : any_perpendicular(along);
      break;
    }
    case Grip::Kind::path_new:
      path_point_ = grip.index + 1;
      break;
    case Grip::Kind::path_point:
      path_point_ = grip.index;
      break;
    default:
      break;
  }
  if (grip.kind == Grip::Kind::body || grip.kind == Grip::Kind::axis) sides_ = Sides(base_, names_);
  return true;
}

void Handles::move(const QPointF& pixel, const Camera& camera, const QSize& size, bool free) {
  if (!active() || !typed_.isEmpty()) return;
  const ViewRay ray = camera.ray(pixel, size);
  const bool snaps = snap_.on && !free;
  met_.reset();
  const Vec3 along = start_.pose.orientation * Vec3::Unit(grip_.axis);
  switch (grip_.kind) {
    case Grip::Kind::body:
      slide(ray, camera, size, free);
      return;
    case Grip::Kind::axis: {
      double value = along_line(ray, start_.pose.position, along) - from_;
      if (snaps) {
        value = to_grid(value, snap_.grid);
        const bool scene_axis = kind_ == ThingKind::body && std::abs(std::abs(along[grip_.axis]) - 1) < 1e-9;
        if (snap_.faces && scene_axis) {
          const double reach = Pencil(nullptr, camera, size).metres_of(start_.pose.position, 8);
          const double sign = along[grip_.axis] > 0 ? 1 : -1;
          const double moved = sign * (along_line(ray, start_.pose.position, along) - from_);
          if (const auto found = sides_.nearest(grip_.axis, bounds_.low[grip_.axis] + moved,
                                                bounds_.high[grip_.axis] + moved, reach)) {
            value = sign * (moved + found->shift);
            met_ = {grip_.axis, found->at};
          }
        }
      }
      apply(value);
      return;
    }
    case Grip::Kind::ring: {
      const auto hit = on_plane(ray, start_.pose.position, along);
      if (!hit) return;
      double angle = angle_about(along, grabbed_.normalized(), (*hit - start_.pose.position).normalized());
      if (snaps) angle = to_grid(angle, snap_.angle * pi / 180);
      apply(angle);
      return;
    }
    case Grip::Kind::face: {
      const double before = start_.bounds.high[grip_.axis] - start_.bounds.low[grip_.axis];
      double size_now = before + grip_.sign * (along_line(ray, start_.pose.position, along) - from_);
      if (snaps) size_now = to_grid(size_now, snap_.grid);
      apply(std::max(size_now, snaps ? snap_.grid : 1e-3));
      return;
    }
    default:
      move_point(pixel, camera, size, free);
  }
}

// The body goes where the mouse points, and down onto what is under it there.
void Handles::slide(const ViewRay& ray, const Camera& camera, const QSize& size, bool free) {
  const bool snaps = snap_.on && !free;
  const double reach = Pencil(nullptr, camera, size).metres_of(grabbed_, 8);
  // Straight on there is no ground to see: the body moves in the picture.
  const bool in_picture = camera.view.straight && std::abs(camera.forward().y()) < 0.99;
  Vec3 way;
  const auto level = on_plane(ray, grabbed_, in_picture ? camera.forward() : Vec3(Vec3::Unit(1)));
  if (!level) return;
  way = *level - grabbed_;
  if (!in_picture) {
    // What is under the mouse, other than what is dragged, decides where the foot goes.
    const std::set<std::string> own(names_.begin(), names_.end());
    double nearest = ray.direction.y() < -1e-6 ? -ray.origin.y() / ray.direction.y() : 1e6;
    for (const Body& body : base_.bodies)
      if (!own.contains(body.name))
        if (const auto hit = cast_ray(body.shape, pose_of(body), ray.origin, ray.direction, nearest))
          nearest = hit->distance;
    if (nearest < 1e5) {
      // The grabbed point keeps its height above the foot.
      const Vec3 foot = ray.origin + nearest * ray.direction;
      const double height = grabbed_.y() - bounds_.low.y();
      if (const auto raised = on_plane(ray, foot + Vec3(0, height, 0), Vec3::Unit(1))) way = *raised - grabbed_;
    }
    way.y() = 0;
  }
  for (int axis = 0; axis < 3; ++axis) {
    if (!snaps || way[axis] == 0) continue;
    // The whole body's middle comes to the grid.
    const double middle = 0.5 * (bounds_.low[axis] + bounds_.high[axis]);
    const double raw = way[axis];
    way[axis] = to_grid(middle + raw, snap_.grid) - middle;
    if (!snap_.faces) continue;
    if (const auto found = sides_.nearest(axis, bounds_.low[axis] + raw, bounds_.high[axis] + raw, reach)) {
      way[axis] = raw + found->shift;
      met_ = {axis, found->at};
    }
  }
  if (!in_picture) {
    // From above what it may stand on there, down.
    std::vector<std::pair<Shape, Pose>> shapes;
    const double lift = std::max(0.0, bounds_.high.y() - bounds_.low.y()) + 0.5;
    double ground = 0;
    if (ray.direction.y() < -1e-6) {
      const Vec3 foot(0.5 * (bounds_.low.x() + bounds_.high.x()) + way.x(), 0,
                      0.5 * (bounds_.low.z() + bounds_.high.z()) + way.z());
      double best = 1e9;
      const double top = 1e4;
      for (const Body& body : base_.bodies)
        if (std::find(names_.begin(), names_.end(), body.name) == names_.end())
          if (const auto hit = cast_ray(body.shape, pose_of(body), foot + Vec3(0, top, 0), -Vec3::Unit(1), best)) {
            best = hit->distance;
            ground = top - best;
          }
    }
    const double raise = ground + lift - bounds_.low.y();
    for (const std::string& name : names_)
      if (const Body* body = base_.find(name)) {
        Pose pose = pose_of(*body);
        pose.position += Vec3(way.x(), raise, way.z());
        shapes.emplace_back(body->shape, pose);
      }
    const double fall = clear_->along(shapes, Vec3(0, -(ground + lift) - 1, 0));
    way.y() = raise - fall;
  }
  way_ = way;
  session_.try_out([&](Scene& scene) { move_bodies(scene, names_, way_); });
}

void Handles::apply(double value) {
  value_ = value;
  const Vec3 along = start_.pose.orientation * Vec3::Unit(grip_.axis);
  const auto zone_of = [&](Scene& scene) -> SceneZone* {
    for (SceneZone& zone : scene.zones)
      if (kind_ == ThingKind::zone && zone.name == thing_) return &zone;
    return nullptr;
  };
  if (grip_.kind == Grip::Kind::axis) {
    way_ = value * along;
    session_.try_out([&](Scene& scene) {
      if (SceneZone* zone = zone_of(scene))
        zone->position += way_;
      else
        move_bodies(scene, names_, way_);
    });
  } else if (grip_.kind == Grip::Kind::ring) {
    const Quat turn(Eigen::AngleAxisd(value, along));
    session_.try_out([&](Scene& scene) {
      if (SceneZone* zone = zone_of(scene))
        zone->orientation = (turn * zone->orientation).normalized();
      else
        turn_bodies(scene, names_, turn, start_.pose.position);
    });
  } else if (grip_.kind == Grip::Kind::face) {
    const double before = start_.bounds.high[grip_.axis] - start_.bounds.low[grip_.axis];
    if (!(value > 0) || !(before > 0)) return;
    const double factor = value / before;
    Vec3 factors = Vec3::Ones();
    for (int axis = 0; axis < 3; ++axis)
      if (start_.together[static_cast<std::size_t>(axis)] == start_.together[static_cast<std::size_t>(grip_.axis)])
        factors[axis] = factor;
    // The other face stays where it is.
    const double other = grip_.sign > 0 ? start_.bounds.low[grip_.axis] : start_.bounds.high[grip_.axis];
    way_ = along * (other * (1 - factor));
    session_.try_out([&](Scene& scene) {
      if (SceneZone* zone = zone_of(scene)) {
        zone->shape = sized(zone->shape, factors);
        zone->position += way_;
      } else {
        resize_body(scene, names_.front(), factors);
        move_bodies(scene, names_, way_);
      }
    });
  } else if (grip_.kind == Grip::Kind::low || grip_.kind == Grip::Kind::high || grip_.kind == Grip::Kind::cone) {
    session_.try_out([&](Scene& scene) {
      for (SceneJoint& joint : scene.joints) {
        if (joint.name != thing_) continue;
        if (grip_.kind == Grip::Kind::low) joint.low = std::min(value, joint.high.value_or(value));
        if (grip_.kind == Grip::Kind::high) joint.high = std::max(value, joint.low.value_or(value));
        if (grip_.kind == Grip::Kind::cone) joint.cone = std::clamp(value, 1e-3, pi);
      }
    });
  }
}

void Handles::move_point(const QPointF& pixel, const Camera& camera, const QSize& size, bool free) {
  const ViewRay ray = camera.ray(pixel, size);
  const bool snaps = snap_.on && !free;
  // Where the ray meets a body, or the plane through a point that faces the view.
  const auto place = [&](const Vec3& about) -> std::optional<Vec3> {
    double nearest = 1e6;
    for (const Body& body : base_.bodies)
      if (const auto hit = cast_ray(body.shape, pose_of(body), ray.origin, ray.direction, nearest))
        nearest = hit->distance;
    if (nearest < 1e5 && !camera.view.straight) return ray.origin + nearest * ray.direction;
    auto point = on_plane(ray, about, camera.forward());
    return point;
  };
  const auto snapped = [&](Vec3 point) {
    if (snaps)
      for (int axis = 0; axis < 3; ++axis) point[axis] = to_grid(point[axis], 0.5 * snap_.grid);
    return point;
  };
  if (kind_ == ThingKind::path) {
    const auto found = std::find_if(base_.paths.begin(), base_.paths.end(),
                                    [&](const ScenePath& path) { return path.name == thing_; });
    if (found == base_.paths.end()) return;
    ScenePath path = *found;
    if (grip_.kind == Grip::Kind::path_new) {
      const std::size_t next = (grip_.index + 1) % path.points.size();
      const Vec3 middle = 0.5 * (path.points[grip_.index] + path.points[next]);
      path.points.insert(path.points.begin() + static_cast<std::ptrdiff_t>(grip_.index) + 1, middle);
    }
    Vec3& point = path.points[path_point_];
    // Level, but in a view from the side in the picture.
    const bool level = std::abs(camera.forward().y()) > 0.17;
    const auto now = on_plane(ray, point, level ? Vec3(Vec3::Unit(1)) : camera.forward());
    if (!now) return;
    point = snapped(*now);
    way_ = point;
    session_.try_out([&](Scene& scene) {
      for (ScenePath& each : scene.paths)
        if (each.name == thing_) each = path;
    });
    return;
  }
  const SceneJoint* before = find_joint(base_, thing_);
  if (!before) return;
  const auto frame = joint_frame(base_, *before);
  if (!frame) return;
  const std::vector<Vec3> points = joint_points(base_, *before);
  if (grip_.kind == Grip::Kind::joint_point) {
    const auto at = place(points[grip_.index]);
    if (!at) return;
    const Vec3 point = snapped(*at);
    way_ = point;
    session_.try_out([&](Scene& scene) {
      const Body* a = before->a.empty() ? nullptr : scene.find(before->a);
      const Body* b = scene.find(before->b);
      for (SceneJoint& joint : scene.joints) {
        if (joint.name != thing_) continue;
        const bool both = !has_two_ends(joint.kind);
        if (both || grip_.index == 0) joint.anchor_a = a ? pose_of(*a).to_local(point) : point;
        if (both || grip_.index == 1) joint.anchor_b = pose_of(*b).to_local(point);
        if (grip_.index == 2) joint.support_a = point;
        if (grip_.index == 3) joint.support_b = point;
      }
    });
  } else if (grip_.kind == Grip::Kind::joint_axis) {
    const auto at = on_plane(ray, frame->point, camera.forward());
    if (!at || (*at - frame->point).norm() < 1e-9) return;
    Vec3 axis = (*at - frame->point).normalized();
    if (snaps) {
      // The nearest of the scene's axes, if one is within 12 degrees as seen from here.
      for (int i = 0; i < 6; ++i) {
        const Vec3 way = (i % 2 == 0 ? 1.0 : -1.0) * Vec3::Unit(i / 2);
        const Vec3 seen = way - way.dot(camera.forward()) * camera.forward();
        if (seen.norm() > 0.2 && seen.normalized().dot(axis) > std::cos(12 * pi / 180)) {
          axis = way;
          break;
        }
      }
    }
    way_ = axis;
    session_.try_out([&](Scene& scene) {
      const Body* a = before->a.empty() ? nullptr : scene.find(before->a);
      for (SceneJoint& joint : scene.joints)
        if (joint.name == thing_) joint.axis = a ? Vec3(a->orientation.conjugate() * axis) : axis;
    });
  } else if (grip_.kind == Grip::Kind::cone) {
    const auto at = on_plane(ray, frame->point, any_perpendicular(frame->axis).cross(frame->axis).normalized());
    if (!at) return;
    const double angle = std::acos(std::clamp((*at - frame->point).normalized().dot(frame->axis), -1.0, 1.0));
    apply(snaps ? std::max(to_grid(angle, 5 * pi / 180), 5 * pi / 180) : angle);
  } else if (before->kind == JointKind::hinge) {
    const auto at = on_plane(ray, frame->point, frame->axis);
    if (!at) return;
    const double angle = angle_about(frame->axis, frame->zero, (*at - frame->point).normalized());
    apply(snaps ? to_grid(angle, 5 * pi / 180) : angle);
  } else if (before->kind == JointKind::slider) {
    const double travel = along_line(ray, points[1], frame->axis);
    apply(snaps ? to_grid(travel, snap_.grid) : travel);
  } else if (before->kind == JointKind::distance && (points[1] - points[0]).norm() > 1e-9) {
    const double length = along_line(ray, points[0], (points[1] - points[0]).normalized());
    apply(std::max(0.0, snaps ? to_grid(length, snap_.grid) : length));
  }
}

bool Handles::key(int key, const QString& text) {
  if (!active()) return false;
  if (key == Qt::Key_Escape) {
    cancel();
    return true;
  }
  if (key == Qt::Key_Return || key == Qt::Key_Enter) {
    end();
    return true;
  }
  const bool takes_number = grip_.kind != Grip::Kind::body && grip_.kind != Grip::Kind::joint_point &&
                            grip_.kind != Grip::Kind::joint_axis && grip_.kind != Grip::Kind::path_point &&
                            grip_.kind != Grip::Kind::path_new;
  if (!takes_number) return false;
  if (key == Qt::Key_Backspace)
    typed_.chop(1);
  else if (text.size() == 1 && (text[0].isDigit() || QString(".+-*/()mck °").contains(text[0])))
    typed_ += text;
  else
    return false;
  const bool hinge_limit = [&] {
    const SceneJoint* joint = find_joint(base_, thing_);
    return kind_ == ThingKind::joint && joint && (joint->kind == JointKind::hinge || joint->kind == JointKind::ball);
  }();
  const bool turns = grip_.kind == Grip::Kind::ring || grip_.kind == Grip::Kind::cone || hinge_limit;
  QString number = typed_;
  const auto value = entered_number(number.remove(u'°').toStdString(), turns ? "" : "m");
  met_.reset();
  if (value) apply(turns ? *value * pi / 180 : *value);
  return true;
}

QString Handles::reading() const {
  if (!active()) return "";
  const auto shown = [&](double value, bool turns) {
    return turns ? QString::number(value * 180 / pi, 'f', 1) + "°" : metres(value);
  };
  if (!typed_.isEmpty()) return typed_ + "▏";
  switch (grip_.kind) {
    case Grip::Kind::axis:
      return QString(axis_letters[grip_.axis]) + " " + metres(value_);
    case Grip::Kind::ring:
      return QString("about %1 %2").arg(axis_letters[grip_.axis]).arg(shown(value_, true));
    case Grip::Kind::face:
      return QString(axis_letters[grip_.axis]) + " size " + metres(value_);
    case Grip::Kind::low:
    case Grip::Kind::high:
    case Grip::Kind::cone: {
      const SceneJoint* joint = find_joint(base_, thing_);
      return shown(value_, joint && (joint->kind == JointKind::hinge || joint->kind == JointKind::ball));
    }
    case Grip::Kind::body: {
      const Vec3 at = start_.pose.position + way_;
      return QString("%1, %2, %3 m").arg(at.x(), 0, 'f', 2).arg(at.y(), 0, 'f', 2).arg(at.z(), 0, 'f', 2);
    }
    default:
      return QString("%1, %2, %3").arg(way_.x(), 0, 'f', 2).arg(way_.y(), 0, 'f', 2).arg(way_.z(), 0, 'f', 2);
  }
}

QString Handles::step_name() const {
  const QString what = kind_ != ThingKind::body ? QString::fromStdString(thing_)
                       : names_.size() == 1     ? QString::fromStdString(names_.front())
                                                : QString("%1 bodies").arg(names_.size());
  switch (grip_.kind) {
    case Grip::Kind::body:
      return what + ": move";
    case Grip::Kind::axis:
      return what + ": move " + QString(axis_letters[grip_.axis]) + " by " + metres(value_);
    case Grip::Kind::ring:
      return what + ": turn " + QString::number(value_ * 180 / pi, 'f', 1) + "° about " + axis_letters[grip_.axis];
    case Grip::Kind::face:
      return what + ": size " + QString(axis_letters[grip_.axis]) + " " + metres(value_);
    case Grip::Kind::low:
      return what + ": least";
    case Grip::Kind::high:
      return what + ": greatest";
    case Grip::Kind::cone:
      return what + ": cone";
    case Grip::Kind::joint_point:
      return what + ": point";
    case Grip::Kind::joint_axis:
      return what + ": axis";
    case Grip::Kind::path_new:
      return what + ": new point";
    default:
      return what + ": move point";
  }
}

void Handles::end() {
  if (!active()) return;
  const QString name = step_name();
  grip_ = {};
  clear_.reset();
  typed_.clear();
  met_.reset();
  session_.settle(name);
}

void Handles::cancel() {
  if (!active()) return;
  grip_ = {};
  clear_.reset();
  typed_.clear();
  met_.reset();
  session_.let_go();
}

}  // namespace bronvel
