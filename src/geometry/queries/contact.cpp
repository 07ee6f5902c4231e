// Contact of spheres with spheres and boxes, and the choice of method for each pair of shapes.
#include "geometry/queries/contact.h"

#include "geometry/queries/contact_box.h"
#include "geometry/queries/contact_convex.h"
#include "geometry/shapes/hull.h"

namespace bronvel {
namespace {

FaceOf flipped(FaceOf face) {
  return face == FaceOf::neither ? face : face == FaceOf::a ? FaceOf::b : FaceOf::a;
}

Manifold flipped(Manifold m) {
  m.normal = -m.normal;
  m.face_of = flipped(m.face_of);
  return m;
}

Manifold collide_pair(const Sphere& a, const Pose& pose_a, const Sphere& b, const Pose& pose_b, double reach) {
  Manifold m;
  const Vec3 between = pose_b.position - pose_a.position;
  const double distance = between.norm();
  const double separation = distance - a.radius - b.radius;
  m.apart = std::max(0.0, separation);
  if (separation > reach) return m;
  if (distance > 0) m.normal = between / distance;
  m.add(pose_a.position + m.normal * (a.radius + 0.5 * separation), separation, 0);
  return m;
}

Manifold collide_pair(const Box& a, const Pose& pose_a, const Sphere& b, const Pose& pose_b, double reach) {
  Manifold m;
  const Vec3 half = 0.5 * a.size;
  const Vec3 centre = pose_a.to_local(pose_b.position);
  const Vec3 nearest = centre.cwiseMax(-half).cwiseMin(half);
  const Vec3 out = centre - nearest;
  const double distance = out.norm();
  double separation = distance - b.radius;
  m.apart = std::max(0.0, separation);
  if (separation > reach) return m;
  Vec3 normal;
  if (distance > 1e-9 * half.maxCoeff()) {
    normal = out / distance;
  } else {  // The centre is inside: leave by the nearest face.
    int axis = 0;
    double deepest = -1e300;
    for (int i = 0; i < 3; ++i) {
      const double depth = std::abs(centre[i]) - half[i];
      if (depth > deepest) {
        deepest = depth;
        axis = i;
      }
    }
    normal = Vec3::Zero();
    normal[axis] = std::copysign(1.0, centre[axis]);
    separation = deepest - b.radius;
  }
  m.normal = pose_a.orientation * normal;
  m.add(pose_b.position - m.normal * (b.radius + 0.5 * separation), separation, 0);
  return m;
}

Manifold collide_pair(const Sphere& a, const Pose& pose_a, const Box& b, const Pose& pose_b, double reach) {
  return flipped(collide_pair(b, pose_b, a, pose_a, reach));
}

Manifold collide_pair(const Box& a, const Pose& pose_a, const Box& b, const Pose& pose_b, double reach) {
  bool surely_apart = false;
  const Manifold m = collide_boxes(a, pose_a, b, pose_b, reach, surely_apart);
  if (m.count > 0 || surely_apart) return m;
  // Apart corner to corner or edge to edge no face overlaps the other: their distance is another method's business.
  const Vec3 between = pose_b.position - pose_a.position;
  if (between.norm() > 0.5 * (a.size.norm() + b.size.norm()) + reach) return m;
  return collide_convex(a, pose_a, b, pose_b, reach);
}

// The shape as a box, where it is one.
struct PlacedBox {
  const Box* box = nullptr;
  Pose pose;
};
PlacedBox as_box(const Shape& shape, const Pose& pose) {
  if (const auto* box = std::get_if<Box>(&shape)) return {box, pose};
  const auto* hull = std::get_if<Hull>(&shape);
  if (!hull || !hull->data->box) return {};
  return {&hull->data->box->box, pose * hull->data->box->pose};
}

// Hulls that are boxes, with one another, with boxes and with balls.
std::optional<Manifold> collide_as_boxes(const Shape& a, const Pose& pose_a, const Shape& b, const Pose& pose_b,
                                         double reach) {
  const bool hull_a = std::holds_alternative<Hull>(a), hull_b = std::holds_alternative<Hull>(b);
  if (!hull_a && !hull_b) return std::nullopt;
  const PlacedBox box_a = as_box(a, pose_a), box_b = as_box(b, pose_b);
  if (box_a.box && box_b.box) return collide_pair(*box_a.box, box_a.pose, *box_b.box, box_b.pose, reach);
  const auto *ball_a = std::get_if<Sphere>(&a), *ball_b = std::get_if<Sphere>(&b);
  if (box_a.box && ball_b) return collide_pair(*box_a.box, box_a.pose, *ball_b, pose_b, reach);
  if (ball_a && box_b.box) return collide_pair(*ball_a, pose_a, *box_b.box, box_b.pose, reach);
  return std::nullopt;
}

}  // namespace

Manifold collide(const Shape& a, const Pose& pose_a, const Shape& b, const Pose& pose_b, double reach,
                 const LastManifold& last) {
  // A pose that is no longer a number touches nothing: the world will stop such a body at the end of its tick.
  if (!finite(pose_a.position) || !finite(pose_b.position) || !finite(pose_a.orientation) ||
      !finite(pose_b.orientation))
    return {};
  if (std::holds_alternative<Facet>(a)) return collide_facet(a, pose_a, b, pose_b, reach, last);
  if (std::holds_alternative<Facet>(b))
    return flipped(collide_facet(b, pose_b, a, pose_a, reach, {-last.normal, flipped(last.face_of)}));
  if (std::optional<Manifold> boxes = collide_as_boxes(a, pose_a, b, pose_b, reach)) return *boxes;
  return std::visit(
      [&](const auto& sa, const auto& sb) {
        if constexpr (requires { collide_pair(sa, pose_a, sb, pose_b, reach); })
          return collide_pair(sa, pose_a, sb, pose_b, reach);
        else
          return collide_convex(a, pose_a, b, pose_b, reach, last);
      },
      a, b);
}

}  // namespace bronvel
