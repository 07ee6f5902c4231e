// What a body may be.
#include "dynamics/settings/body.h"

#include "geometry/base/error.h"
#include "geometry/base/linear.h"
#include "geometry/shapes/parts.h"

namespace bronvel {

std::optional<std::string> body_fault(const BodySettings& s, const BodyMotion& m) {
  if (auto fault = shape_fault(s.shape)) return fault;
  if (s.kind == MotionKind::dynamic && !has_volume(s.shape))
    return "a dynamic body can't be a " + shape_word(s.shape) +
           ", a surface without an inside: use a hull or a compound, or make it static";
  if (!(s.mass > 0) || !finite(s.mass)) return "mass must be a number above 0 kg";
  if (s.mass < 1e-12 || s.mass > 1e15) return "mass must be from 1e-12 to 1e15 kg";
  for (const double share : {s.surface.static_friction, s.surface.dynamic_friction, s.surface.rolling_friction,
                             s.linear_damping, s.angular_damping, s.linear_drag, s.drag_area})
    if (!(share >= 0) || !finite(share)) return "friction, damping and drag must be numbers of 0 or more";
  if (!(s.surface.restitution >= 0 && s.surface.restitution <= 1)) return "restitution must be from 0 to 1";
  if (!finite(s.gravity_factor)) return "gravity_factor is not a number";
  if (s.centre_of_mass && !finite(*s.centre_of_mass)) return "centre_of_mass is not a number";
  if (s.inertia) {
    if (!s.inertia->allFinite()) return "inertia is not a number";
    if (!s.inertia->isApprox(s.inertia->transpose(), 1e-9)) return "inertia must be symmetric";
    const Vec3 principal = eigenvalues(*s.inertia);
    if (!(principal[0] > 0)) return "inertia must be above 0 kg·m² about every axis";
    if (principal[0] + principal[1] < principal[2] * (1 - 1e-9))
      return "inertia about one axis is more than about the two others together: no body has that";
  }
  if (!finite(m.pose.position)) return "position is not a number";
  if (m.pose.position.cwiseAbs().maxCoeff() > 1e7) return "position is farther than 1e7 m from the origin";
  if (!finite(m.pose.orientation) || std::abs(m.pose.orientation.norm() - 1) > 1e-3)
    return "orientation must be a unit quaternion";
  if (!finite(m.velocity) || m.velocity.norm() > 1e6) return "velocity must be a number below 1e6 m/s";
  if (!finite(m.angular_velocity) || m.angular_velocity.norm() > 1e6)
    return "angular_velocity must be a number below 1e6 rad/s";
  return std::nullopt;
}

}  // namespace bronvel
