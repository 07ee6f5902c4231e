// Ray casts in the shape's own frame.
#include "geometry/ray.h"

#include "geometry/distance.h"

namespace bronvel {
namespace {

struct LocalHit {
  double distance;
  Vec3 normal;
};

std::optional<LocalHit> cast(const Sphere& s, const Vec3& o, const Vec3& d, double reach) {
  const double b = o.dot(d), c = o.squaredNorm() - s.radius * s.radius;
  if (c <= 0) return LocalHit{0, -d};
  const double under_root = b * b - c;
  if (b > 0 || under_root < 0) return std::nullopt;
  const double distance = -b - std::sqrt(under_root);
  if (distance > reach) return std::nullopt;
  return LocalHit{distance, (o + d * distance).normalized()};
}

std::optional<LocalHit> cast(const Box& box, const Vec3& o, const Vec3& d, double reach) {
  const Vec3 half = 0.5 * box.size;
  if ((o.cwiseAbs().array() <= half.array()).all()) return LocalHit{0, -d};
  double near = 0, far = reach;
  int face = -1;
  for (int i = 0; i < 3; ++i) {
    if (d[i] == 0) {
      if (std::abs(o[i]) > half[i]) return std::nullopt;
      continue;
    }
    const double enter = (-std::copysign(half[i], d[i]) - o[i]) / d[i];
    const double leave = (std::copysign(half[i], d[i]) - o[i]) / d[i];
    if (enter > near) {
      near = enter;
      face = i;
    }
    far = std::min(far, leave);
  }
  if (face < 0 || near > far) return std::nullopt;
  Vec3 normal = Vec3::Zero();
  normal[face] = -std::copysign(1.0, d[face]);
  return LocalHit{near, normal};
}

// Any convex shape: step along the ray by the distance to the shape over the speed of closing (conservative
// advancement; van den Bergen, Ray Casting against General Convex Objects, 2004).
std::optional<RayHit> cast_convex(const Shape& shape, const Pose& pose, const Vec3& origin, const Vec3& direction,
                                  double reach) {
  const Shape point = Sphere{1e-6};
  const Convex target(shape, pose);
  double travelled = 0;
  Vec3 facing = -direction;  // outward at the surface, as last seen from outside
  for (int step = 0; step < 64; ++step) {
    const Pose here{origin + direction * travelled, Quat::Identity()};
    const Separation apart = separation_of(Convex(point, here), target);
    const double gap = apart.distance - target.radius();
    const double tolerance = 1e-7 * (1 + travelled);
    if (gap <= tolerance) return RayHit{travelled, here.position, facing};
    facing = -apart.normal;
    const double closing = direction.dot(apart.normal);
    if (closing <= 1e-12) return std::nullopt;
    travelled += gap / closing;
    if (travelled > reach) return std::nullopt;
  }
  return std::nullopt;
}

}  // namespace

std::optional<RayHit> cast_ray(const Shape& shape, const Pose& pose, const Vec3& origin, const Vec3& direction,
                               double reach) {
  const Vec3 local_origin = pose.to_local(origin);
  const Vec3 local_direction = pose.orientation.conjugate() * direction;
  std::optional<LocalHit> hit;
  if (const auto* sphere = std::get_if<Sphere>(&shape))
    hit = cast(*sphere, local_origin, local_direction, reach);
  else if (const auto* box = std::get_if<Box>(&shape))
    hit = cast(*box, local_origin, local_direction, reach);
  else
    return cast_convex(shape, pose, origin, direction, reach);
  if (!hit) return std::nullopt;
  return RayHit{hit->distance, origin + direction * hit->distance, pose.orientation * hit->normal};
}

}  // namespace bronvel
