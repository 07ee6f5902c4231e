// Working out how a body floats.
#include "lab/readings/floating_reading.h"

#include "geometry/cutting/submerged.h"

namespace bronvel {

std::optional<FloatingReading> floating_reading(const World& world, BodyHandle body) {
  if (world.body_settings(body).kind != MotionKind::dynamic) return std::nullopt;
  FloatingReading view;
  double volume = 0;
  const Floating* main = nullptr;
  const std::vector<Floating> all = world.floating(body);
  for (const Floating& each : all) {
    view.buoyancy += each.volume * each.centre;
    view.share += each.share;
    view.force += each.force;
    volume += each.volume;
    if (!main || each.volume > main->volume) main = &each;
  }
  if (!main || !(volume > 0)) return std::nullopt;
  view.buoyancy /= volume;
  view.mass = world.centre_of_mass(body);
  const Shape& shape = world.body_settings(body).shape;
  const Pose pose = world.motion(body).pose;
  const Bounds bounds = shape_bounds(shape, pose);
  const Vec3 middle = 0.5 * (bounds.low + bounds.high);
  const Vec3& n = main->surface.normal;
  if (std::abs(n.y()) > 1e-3) {
    const double height = (main->surface.offset - n.x() * middle.x() - n.z() * middle.z()) / n.y();
    view.draft = std::max(0.0, height - bounds.low.y());
  }
  double area = 0;
  Vec3 centre = Vec3::Zero();
  std::vector<Section> sections;
  for (const std::vector<Vec3>& loop : section_of(shape, pose, main->surface)) {
    sections.push_back(section_properties(loop));
    area += sections.back().area;
    centre += sections.back().area * sections.back().centre;
  }
  if (!(area > 0)) return view;
  centre /= area;
  Mat3 second = Mat3::Zero();
  for (const Section& each : sections) {
    const Vec3 off = each.centre - centre;
    second += each.second + each.area * off * off.transpose();
  }
  const Vec3 u = any_perpendicular(n), v = n.cross(u);
  const double uu = u.dot(second * u), vv = v.dot(second * v), uv = u.dot(second * v);
  const double least = 0.5 * (uu + vv) - std::hypot(0.5 * (uu - vv), uv);
  view.metacentre = view.buoyancy + least / volume * n;
  return view;
}

bool rights_itself(const FloatingReading& reading) {
  return !reading.metacentre || reading.metacentre->y() > reading.mass.y();
}

}  // namespace bronvel
