// Manifolds of convex shapes.
#include "geometry/queries/contact_convex.h"

#include <optional>

#include "geometry/queries/distance.h"
#include "geometry/queries/manifold_coherence.h"

namespace bronvel {
namespace {

constexpr double face_on = 1e-14;  // 1 − cos of the angle between a normal and that of a face

// Two edges side by side: the stretch that they share, as points of `edge`.
Polygon shared_stretch(const Polygon& edge, const Polygon& beside) {
  Polygon out = edge;
  const Vec3 along = edge.at(1).point - edge.at(0).point;
  const double length = along.squaredNorm();
  if (length <= 0) return out;
  double t0 = along.dot(beside.at(0).point - edge.at(0).point) / length;
  double t1 = along.dot(beside.at(1).point - edge.at(0).point) / length;
  if (t0 > t1) std::swap(t0, t1);
  t0 = std::max(t0, 0.0);
  t1 = std::min(t1, 1.0);
  if (t0 >= t1) {
    out.count = 0;
    return out;
  }
  out.at(0).point = edge.at(0).point + t0 * along;
  out.at(1).point = edge.at(0).point + t1 * along;
  return out;
}

bool nearly_parallel(const Polygon& e, const Polygon& f) {
  const Vec3 a = (e.at(1).point - e.at(0).point).normalized(), b = (f.at(1).point - f.at(0).point).normalized();
  return a.cross(b).norm() < 0.1;
}

// Whether the surface bends gently over the edge.
bool gentle(const Facet& f, std::size_t edge) {
  static const double least = std::cos(gentlest_corner);
  return f.normal.dot(f.beyond[edge]) >= least;
}

// The directions in which a facet may push: its own normal, and beyond ridges and rims those of their edges.
bool may_push(const Facet& f, const Vec3& way, bool ball) {
  const double squarely = f.normal.dot(way);
  if (squarely > 1 - 1e-7) return true;
  const Vec3 across = way - squarely * f.normal;
  std::size_t edge = 0;
  double most = -1e300;
  Vec3 out = Vec3::Zero();
  for (std::size_t i = 0; i < 3; ++i) {
    const Vec3 here = (f.corners[(i + 1) % 3] - f.corners[i]).cross(f.normal).normalized();
    if (here.dot(across) <= most) continue;
    most = here.dot(across);
    edge = i;
    out = here;
  }
  const Vec3& beyond = f.beyond[edge];
  if (beyond.isZero()) return squarely > -0.01;    // a rim
  if (beyond.dot(out) < 0.02) return false;        // flat, or a valley
  if (ball && gentle(f, edge)) return false;       // its plane does
  return squarely >= f.normal.dot(beyond) - 0.01;  // a ridge: no farther round than the neighbour looks
}

// A ball's foot above the facet, or within reach beyond an edge at which the surface bends. Over a neighbour that rises
// the facet's plane lies below the surface, and holds nothing up.
bool near_foot(const Facet& f, const Vec3& foot, double reach) {
  constexpr double bends = 1e-7;  // how far the neighbour leans in or out
  for (std::size_t i = 0; i < 3; ++i) {
    const Vec3 out = (f.corners[(i + 1) % 3] - f.corners[i]).cross(f.normal).normalized();
    const double leans = f.beyond[i].dot(out);
    const bool over = leans < -bends || (leans > bends && gentle(f, i));
    if (out.dot(foot - f.corners[i]) > (over ? reach : 0)) return false;
  }
  return true;
}

Manifold ball_above_facet(const Facet& f, const Pose& pose, const Convex& ball, double reach) {
  Manifold m;
  m.normal = pose.orientation * f.normal;
  m.face_of = FaceOf::a;
  const Vec3& middle = ball.middle();
  const double gap = m.normal.dot(middle - pose.to_scene(f.corners[0])) - ball.radius();
  if (gap > reach || gap < -f.depth || !near_foot(f, pose.to_local(middle), reach)) return m;
  m.count = 1;
  m.points[0] = {middle - m.normal * (ball.radius() + 0.5 * gap), gap, 0};
  return m;
}

// What of B's face, edge or point that looks at the facet lies above it.
Manifold above_facet(const Facet& f, const Pose& pose, const Convex& b, double reach) {
  Manifold m;
  m.normal = pose.orientation * f.normal;
  m.face_of = FaceOf::a;
  Polygon face;
  for (std::size_t i = 0; i < 3; ++i) face.add(pose.to_scene(f.corners[i]), static_cast<std::uint32_t>(i));
  const Polygon kept = clipped_by_sides(b.feature(-m.normal), face, m.normal);
  PointSet found;
  for (int i = 0; i < kept.count; ++i) {
    const Vec3& p = kept.at(i).point;
    const double gap = m.normal.dot(p - face.at(0).point) - b.radius();
    if (gap > reach || gap < -f.depth) continue;
    found.add({p - m.normal * (b.radius() + 0.5 * gap), gap, kept.at(i).feature});
  }
  keep_four(found, m);
  return m;
}

}  // namespace

Polygon clipped_by_sides(Polygon what, const Polygon& by, const Vec3& normal) {
  for (int i = 0; i < by.count && what.count > 0; ++i) {
    const Vec3 from = by.at(i).point, to = by.at((i + 1) % by.count).point;
    const Vec3 out = (to - from).cross(normal);
    const Plane side{out, out.dot(from)};
    if (what.count > 2) {
      clip(what, side, static_cast<std::uint32_t>(i + 1));
      continue;
    }
    // An edge or a point: clip it as what it is, not as a closed polygon.
    const double h0 = side.normal.dot(what.at(0).point) - side.offset;
    const double h1 = what.count == 2 ? side.normal.dot(what.at(1).point) - side.offset : h0;
    if (h0 > 0 && h1 > 0) {
      what.count = 0;
    } else if (what.count == 2 && (h0 > 0) != (h1 > 0)) {
      const Vec3 cut = what.at(0).point + h0 / (h0 - h1) * (what.at(1).point - what.at(0).point);
      what.at(h0 > 0 ? 0 : 1).point = cut;
    }
  }
  return what;
}

Manifold collide_facet(const Shape& shape_a, const Pose& pose_a, const Shape& shape_b, const Pose& pose_b, double reach,
                       const LastManifold& last) {
  const Facet& facet = std::get<Facet>(shape_a);
  const Convex b(shape_b, pose_b);
  // Whose middle is behind the front is not met.
  const Vec3 front = pose_a.orientation * facet.normal;
  if (front.dot(b.middle() - pose_a.to_scene(facet.corners[0])) < -facet.depth) return {};
  const bool ball = std::holds_alternative<Sphere>(shape_b);
  Manifold m = collide_convex(shape_a, pose_a, shape_b, pose_b, reach, last);
  if (m.count == 0 || may_push(facet, pose_a.orientation.conjugate() * m.normal, ball)) return m;
  return ball ? ball_above_facet(facet, pose_a, b, reach) : above_facet(facet, pose_a, b, reach);
}

Manifold collide_convex(const Shape& shape_a, const Pose& pose_a, const Shape& shape_b, const Pose& pose_b,
                        double reach, const LastManifold& last) {
  const Convex a(shape_a, pose_a), b(shape_b, pose_b);
  const double radii = a.radius() + b.radius();
  Manifold m;
  const std::optional<MetAgain> known = met_again(a, b, last);
  // Most that are near but apart are so along the line of their middles: no need to search for the distance.
  const Vec3 between = b.middle() - a.middle();
  const double far = between.norm();
  if (!known && far > 0) {
    const Vec3 along = between / far;
    m.apart = std::max(0.0, along.dot(b.farthest(-along) - a.farthest(along)) - radii);
    if (m.apart > reach) return m;
  }
  const Separation apart = known ? known->apart : separation_of(a, b, last.normal);
  const double separation = apart.distance - radii;
  m.apart = std::max(0.0, separation);
  if (separation > reach) return m;
  m.normal = apart.normal;

  const auto known_face = [&](FaceOf of) { return known && last.face_of == of; };
  const Polygon feature_a = known_face(FaceOf::a) ? known->face : a.feature(m.normal);
  const Polygon feature_b = known_face(FaceOf::b) ? known->face : b.feature(-m.normal);
  PointSet found;
  if (feature_a.count >= 2 && feature_b.count >= 2) {
    const bool face_a = feature_a.count > 2, face_b = feature_b.count > 2;
    const Vec3 normal_a = face_a ? face_normal(feature_a) : m.normal;
    const Vec3 normal_b = face_b ? face_normal(feature_b) : Vec3(-m.normal);
    if (face_a && normal_a.dot(m.normal) > 1 - face_on)
      m.face_of = FaceOf::a;
    else if (face_b && -normal_b.dot(m.normal) > 1 - face_on)
      m.face_of = FaceOf::b;
    // The reference is the face that looks most squarely along the normal; the other is clipped by its sides.
    const bool a_is_reference = face_a && (!face_b || normal_a.dot(m.normal) >= -normal_b.dot(m.normal));
    Polygon kept;
    Vec3 plane_normal = m.normal;  // from A to B
    Vec3 plane_point = apart.on_a;
    bool kept_on_b = true;
    if (a_is_reference) {
      kept = clipped_by_sides(feature_b, feature_a, normal_a);
      plane_normal = normal_a;
      plane_point = feature_a.at(0).point;
    } else if (face_b) {
      kept = clipped_by_sides(feature_a, feature_b, normal_b);
      plane_normal = -normal_b;
      plane_point = feature_b.at(0).point;
      kept_on_b = false;
    } else if (nearly_parallel(feature_a, feature_b)) {
      kept = shared_stretch(feature_b, feature_a);
    }
    for (int i = 0; i < kept.count; ++i) {
      const Vec3& p = kept.at(i).point;
      // Along the contact normal, not the face's; and no point of a convex shape is deeper than the deepest.
      const double height = plane_normal.dot(p - plane_point) / plane_normal.dot(m.normal) * (kept_on_b ? 1 : -1);
      const double gap = std::max(height - radii, separation);
      if (gap > reach) continue;
      // Midway between the two surfaces, radii counted.
      const Vec3 to_surface = m.normal * (kept_on_b ? -b.radius() : a.radius());
      const Vec3 middle = p + to_surface + m.normal * ((kept_on_b ? -0.5 : 0.5) * gap);
      found.add({middle, gap, kept.at(i).feature});
    }
  }
  // The features may miss the nearest points (edges that cross, corners): these must always be there.
  int deepest = 0;
  for (int i = 1; i < found.count; ++i)
    if (found.at(i).separation < found.at(deepest).separation) deepest = i;
  const double size = (feature_a.count > 1 ? (feature_a.at(0).point - feature_a.at(1).point).norm() : 0.0) + radii;
  const double missed = found.count > 0 ? found.at(deepest).separation - separation : 1e300;
  if (missed > 5e-5 + 1e-4 * size) {
    if (missed > 1e-4 + 0.02 * size) found.count = 0;
    const Vec3 middle = 0.5 * (apart.on_a + m.normal * a.radius() + apart.on_b - m.normal * b.radius());
    const bool beside = found.count > 0 && (found.at(deepest).point - middle).norm() < 0.02 * size;
    if (beside)
      found.at(deepest) = {middle, separation, found.at(deepest).feature};
    else
      found.add({middle, separation, 0});
  }
  keep_four(found, m);
  return m;
}

}  // namespace bronvel
