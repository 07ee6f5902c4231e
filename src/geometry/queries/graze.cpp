// Telling grazes from hits, and finding their points.
#include "geometry/queries/graze.h"

#include <optional>

#include "geometry/queries/contact_convex.h"
#include "geometry/queries/convex.h"
#include "geometry/shapes/hull.h"

namespace bronvel {
namespace {

constexpr double standing = 1e-3;        // m/s: slower than this two surfaces neither close nor part
constexpr double same_normal = 5e-7;     // 1 − cos of a thousandth of a radian: an edge as good as its face
constexpr double turned_away = -0.5;     // cos: faces that look away from the other body can't be slid onto
constexpr double least_rounding = 1e-6;  // m/s

// A flat face of a shape, in its own frame.
struct Face {
  Vec3 normal;
  double offset;  // normal · x of its plane, m
};

template <class F>
void each_face(const Shape& shape, const F& f) {
  if (const auto* box = std::get_if<Box>(&shape)) {
    for (int axis = 0; axis < 3; ++axis)
      for (const double sign : {1.0, -1.0}) f(Face{sign * Vec3::Unit(axis), 0.5 * box->size[axis]});
  } else if (const auto* hull = std::get_if<Hull>(&shape)) {
    for (std::size_t i = 0; i < hull->data->normals.size(); ++i)
      f(Face{hull->data->normals[i], hull->data->offsets[i]});
  } else if (const auto* cylinder = std::get_if<Cylinder>(&shape)) {
    for (const double sign : {1.0, -1.0}) f(Face{sign * Vec3::Unit(1), 0.5 * cylinder->height});
  } else if (const auto* cone = std::get_if<Cone>(&shape)) {
    f(Face{-Vec3::Unit(1), 0.5 * cone->height});
  } else if (const auto* facet = std::get_if<Facet>(&shape)) {
    f(Face{facet->normal, facet->normal.dot(facet->corners[0])});
  }
}

bool flat_all_round(const Shape& shape) {
  return std::holds_alternative<Box>(shape) || std::holds_alternative<Hull>(shape) ||
         std::holds_alternative<Facet>(shape);
}

// One body with the face that may be grazed, seen from its side.
struct Side {
  const Shape& own;
  const Pose& pose;
  const Convex& other;
  double to_own;  // 1 where the manifold's normal leads out of it, else −1
};

struct Grazed {
  Vec3 normal;  // of the face, scene frame
  double offset = 0;
  double depth = 0;  // m
  double to_own = 1;
};

void look_at(const Side& side, const Manifold& m, const Vec3& met, double closing, double in,
             const RelativeMotion& motion, const GrazeLimits& limits, std::optional<Grazed>& best, Graze& graze) {
  const double step = limits.step;
  const Vec3 out = side.pose.orientation.conjugate() * (side.to_own * m.normal);
  const Vec3 local = side.pose.to_local(met);
  each_face(side.own, [&](const Face& face) {
    const double alike = face.normal.dot(out);
    if (alike > 1 - same_normal || alike < turned_away) return;
    // At the edge where they meet.
    if (std::abs(face.offset - face.normal.dot(local)) > step) return;
    const Vec3 normal = side.pose.orientation * face.normal;
    const double offset = face.offset + normal.dot(side.pose.position);
    const Vec3 deepest = side.other.farthest(-normal);
    const double depth = offset - normal.dot(deepest) + side.other.radius();
    if (depth > step) return;
    if (graze == Graze::no) graze = Graze::not_now;
    const double onto = -side.to_own * normal.dot(motion.of(deepest));
    if (depth + std::max(onto, 0.0) * in > step) return;
    const bool along = closing > onto + standing;
    // What stands on the ground at a seam can be pushed over it; bodies that lean on one another are left alone.
    const bool stands = !(limits.moves_a && limits.moves_b) && std::abs(closing) <= standing &&
                        std::abs(onto) <= standing &&
                        std::abs(limits.gravity.dot(normal)) > std::abs(limits.gravity.dot(m.normal));
    if ((!along && !stands) || (best && best->depth <= depth)) return;
    best = Grazed{normal, offset, depth, side.to_own};
  });
}

// Who comes onto the other within the tick.
enum class Arrives : std::uint8_t { none, own, other };

// What of the other lies over the face; where one arrives there, all of it that looks at the other: within a tick they
// are not looked at again, and from then on this face bears.
Manifold over_face(const Grazed& grazed, const Convex& own, const Convex& other, Arrives arrives, double reach) {
  Manifold m;
  m.normal = grazed.to_own * grazed.normal;
  m.face_of = grazed.to_own > 0 ? FaceOf::a : FaceOf::b;
  const Polygon face = own.feature(grazed.normal), lowest = other.feature(-grazed.normal);
  Polygon kept = clipped_by_sides(lowest, face, grazed.normal);
  PointSet found;
  if (kept.count == 0 && arrives == Arrives::own) {
    const double gap = -grazed.depth;
    for (int i = 0; i < face.count && gap <= reach; ++i)
      found.add({face.at(i).point + grazed.normal * 0.5 * gap, gap, face.at(i).feature});
  } else {
    if (kept.count == 0 && arrives == Arrives::other) kept = lowest;
    for (int i = 0; i < kept.count; ++i) {
      const Vec3& p = kept.at(i).point;
      const double gap = grazed.normal.dot(p) - grazed.offset - other.radius();
      if (gap <= reach) found.add({p - grazed.normal * (other.radius() + 0.5 * gap), gap, kept.at(i).feature});
    }
  }
  keep_four(found, m);
  return m;
}

// Whether the points span more than a strip along an edge, as almost all manifolds of flat faces do.
bool broad(const Manifold& m, double step) {
  if (m.count < 3) return false;
  double longest = 0, area = 0;  // squared
  for (int i = 1; i < m.count; ++i) {
    const Vec3 side = m.points[static_cast<std::size_t>(i)].point - m.points[0].point;
    for (int k = i + 1; k < m.count; ++k) {
      const Vec3 other = m.points[static_cast<std::size_t>(k)].point - m.points[0].point;
      area = std::max(area, side.cross(other).squaredNorm());
      longest = std::max(longest, (side - other).squaredNorm());
    }
    longest = std::max(longest, side.squaredNorm());
  }
  return area > 4 * step * step * longest;
}

}  // namespace

Graze make_graze(const Shape& shape_a, const Pose& pose_a, const Shape& shape_b, const Pose& pose_b, double reach,
                 const RelativeMotion& motion, const GrazeLimits& limits, Manifold& manifold) {
  if (manifold.count == 0 || !(limits.step > 0) || broad(manifold, limits.step)) return Graze::no;
  Vec3 middle = Vec3::Zero();
  double gap = 1e300;
  for (int i = 0; i < manifold.count; ++i) {
    const ContactPoint& point = manifold.points[static_cast<std::size_t>(i)];
    middle += point.point / manifold.count;
    gap = std::min(gap, point.separation);
  }
  const double closing = -manifold.normal.dot(motion.of(middle));
  if (closing < -standing) return Graze::no;
  const bool apart = gap > GrazeLimits::together;
  if (apart && closing > limits.speed) return Graze::no;
  // On a curved way to the edge it takes longer than at this speed.
  const double in = apart && closing > standing ? limits.ahead : 0;
  const Convex a(shape_a, pose_a), b(shape_b, pose_b);
  std::optional<Grazed> best;
  Graze graze = Graze::no;
  const Vec3 half_gap = 0.5 * gap * manifold.normal;
  look_at({shape_a, pose_a, b, 1}, manifold, middle - half_gap, closing, in, motion, limits, best, graze);
  look_at({shape_b, pose_b, a, -1}, manifold, middle + half_gap, closing, in, motion, limits, best, graze);
  if (!best) return graze;
  const bool of_a = best->to_own > 0;
  // What is round may lean on an edge that its deepest point is not over, and roll off it: unless it comes onto it.
  const bool round = !flat_all_round(of_a ? shape_b : shape_a);
  if (round && closing < least_rounding) return Graze::not_now;
  const bool comes = round || (closing > standing && gap < closing * limits.ahead);
  const bool only_a = limits.moves_a && !limits.moves_b, only_b = limits.moves_b && !limits.moves_a;
  const Arrives arrives = !comes || (!only_a && !only_b) ? Arrives::none
                          : only_a == of_a               ? Arrives::own
                                                         : Arrives::other;
  manifold = over_face(*best, of_a ? a : b, of_a ? b : a, arrives, reach);
  return Graze::yes;
}

}  // namespace bronvel
