// Mass, inertia, radii and symmetry of a body from its settings.
#include "dynamics/bodies/derived.h"

#include "dynamics/bodies/integrate.h"
#include "geometry/shapes/parts.h"

namespace bronvel {

namespace {

Symmetry symmetry_of(const Shape& shape, const Vec3& centre) {
  const double off_axis = std::hypot(centre.x(), centre.z());
  if (std::holds_alternative<Sphere>(shape)) {
    if (centre.isZero()) return Symmetry::ball;
    return off_axis == 0 ? Symmetry::axis : Symmetry::none;
  }
  const bool turned = std::holds_alternative<Capsule>(shape) || std::holds_alternative<Cylinder>(shape) ||
                      std::holds_alternative<Cone>(shape);
  return turned && off_axis == 0 ? Symmetry::axis : Symmetry::none;
}

}  // namespace

void take_settings(BodyRecord& record, BodyState& motion, const BodySettings& settings, bool planar) {
  record.settings = settings;
  record.kind = settings.kind;
  record.solid = settings.solid;
  record.groups = settings.groups;
  record.meets = settings.meets;
  record.weight = settings.mass * settings.gravity_factor;
  record.gravity_factor = settings.gravity_factor;
  record.resisted =
      settings.linear_damping > 0 || settings.angular_damping > 0 || settings.linear_drag > 0 || settings.drag_area > 0;
  record.composite = is_composite(settings.shape);
  record.sweeping = settings.sweeping;
  record.cross_area.setZero();
  record.bounds_reach = -1;
  const double volume = shape_volume(settings.shape);
  record.mass = mass_properties(settings.shape, volume > 0 ? settings.mass / volume : 1);
  record.mass.mass = settings.mass;
  if (settings.centre_of_mass) record.mass.centre = *settings.centre_of_mass;
  if (settings.inertia) record.mass.inertia = *settings.inertia;
  record.locks = settings.locks;
  if (planar) record.locks.move[2] = record.locks.turn[0] = record.locks.turn[1] = true;
  const Bounds bounds = shape_bounds(settings.shape, Pose{});
  record.inner_radius = inner_radius(settings.shape);
  record.free_turning = !record.locks.any_turn();
  const double scale = record.mass.inertia.trace() / 3;
  record.round = (record.mass.inertia - scale * Mat3::Identity()).cwiseAbs().maxCoeff() <= 1e-12 * scale;
  record.symmetry = symmetry_of(settings.shape, record.mass.centre);
  const Vec3 far_side = (bounds.high - record.mass.centre).cwiseMax(record.mass.centre - bounds.low);
  record.radius = far_side.norm();
  if (record.dynamic()) {
    record.inverse_inertia = record.mass.inertia.inverse();
    motion.inverse_mass = Vec3::Constant(1 / settings.mass);
    for (int i = 0; i < 3; ++i) {
      const auto axis = static_cast<std::size_t>(i);
      if (record.locks.move[axis]) motion.inverse_mass[i] = motion.velocity[i] = 0;
      if (record.locks.turn[axis]) motion.angular_velocity[i] = 0;
    }
  } else {
    record.inverse_inertia.setZero();
    motion.inverse_mass.setZero();
    record.asleep = false;
    if (settings.kind == MotionKind::fixed) {
      motion.velocity.setZero();
      motion.angular_velocity.setZero();
    }
  }
  refresh_inertia(record, motion);
}

}  // namespace bronvel
