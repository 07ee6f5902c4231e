// Ray casts in the shape's own frame.
#include "geometry/queries/ray.h"

#include "geometry/queries/distance.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/parts.h"

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

// A hull: the last face entered before the first one left (Haines, 1991).
std::optional<LocalHit> cast(const Hull& h, const Vec3& o, const Vec3& d, double reach) {
  double enter = 0, leave = reach;
  std::size_t face = h.data->normals.size();
  for (std::size_t i = 0; i < h.data->normals.size(); ++i) {
    const double closing = h.data->normals[i].dot(d), above = h.data->normals[i].dot(o) - h.data->offsets[i];
    if (closing == 0) {
      if (above > 0) return std::nullopt;
      continue;
    }
    const double there = -above / closing;
    if (closing < 0) {
      if (there > enter) {
        enter = there;
        face = i;
      }
    } else {
      leave = std::min(leave, there);
    }
    if (enter > leave) return std::nullopt;
  }
  if (face == h.data->normals.size()) return LocalHit{0, -d};  // It starts inside.
  return LocalHit{enter, h.data->normals[face]};
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

// A triangle from either side (Möller and Trumbore, 1997).
std::optional<LocalHit> cast(const Facet& f, const Vec3& o, const Vec3& d, double reach) {
  const Vec3 u = f.corners[1] - f.corners[0], v = f.corners[2] - f.corners[0];
  const Vec3 p = d.cross(v);
  const double determinant = u.dot(p);
  if (std::abs(determinant) < 1e-300) return std::nullopt;
  const Vec3 t = o - f.corners[0], q = t.cross(u);
  const double along_u = t.dot(p) / determinant, along_v = d.dot(q) / determinant;
  // A hair of overlap, so that no ray slips between two triangles.
  constexpr double hair = 1e-12;
  if (along_u < -hair || along_v < -hair || along_u + along_v > 1 + hair) return std::nullopt;
  const double distance = v.dot(q) / determinant;
  if (distance < 0 || distance > reach) return std::nullopt;
  return LocalHit{distance, f.normal.dot(d) > 0 ? Vec3(-f.normal) : f.normal};
}

std::optional<RayHit> cast_composite(const Shape& shape, const Pose& pose, const Vec3& origin, const Vec3& direction,
                                     double reach) {
  std::vector<std::uint32_t> parts;
  parts_along(shape, pose.to_local(origin), pose.orientation.conjugate() * direction, reach, parts);
  std::optional<RayHit> best;
  for (const std::uint32_t i : parts) {
    const Part part = part_of(shape, i);
    const auto hit = cast_ray(part.shape, pose * part.pose, origin, direction, reach);
    if (hit && (!best || hit->distance < best->distance)) best = hit;
  }
  return best;
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
  else if (const auto* hull = std::get_if<Hull>(&shape))
    hit = cast(*hull, local_origin, local_direction, reach);
  else if (const auto* facet = std::get_if<Facet>(&shape))
    hit = cast(*facet, local_origin, local_direction, reach);
  else if (is_composite(shape))
    return cast_composite(shape, pose, origin, direction, reach);
  else
    return cast_convex(shape, pose, origin, direction, reach);
  if (!hit) return std::nullopt;
  return RayHit{hit->distance, origin + direction * hit->distance, pose.orientation * hit->normal};
}

}  // namespace bronvel
