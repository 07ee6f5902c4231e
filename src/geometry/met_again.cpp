// By a plane that stands between the two, or out of which they soonest leave one another.
#include "geometry/met_again.h"

namespace bronvel {

Vec3 face_normal(const Polygon& face) {
  Vec3 n = Vec3::Zero();
  for (int i = 1; i + 1 < face.count; ++i)
    n += (face.at(i).point - face.at(0).point).cross(face.at(i + 1).point - face.at(0).point);
  return n.normalized();
}

namespace {

// How far within the sides of a face, or from the ends of edges, the nearest point must be, against the depth: the way
// out over a side is longer then. So must be the one through A.
constexpr double within = 4, through = 10;

bool thick_enough(const Convex& a, const Separation& found, double deep) {
  return found.normal.dot(found.on_a - a.farthest(-found.normal)) >= through * deep;
}

// If the face of A that looks along `way` is where B is nearest or, barely overlapping, leaves soonest.
std::optional<Separation> by_face(const Convex& a, const Convex& b, const Vec3& way) {
  const Polygon face = a.feature(way);
  if (face.count < 3) return std::nullopt;
  Separation found;
  found.normal = face_normal(face);
  found.on_b = b.farthest(-found.normal);
  found.distance = found.normal.dot(found.on_b - face.at(0).point);
  found.on_a = found.on_b - found.distance * found.normal;
  const double deep = std::max(0.0, -found.distance);
  for (int i = 0; i < face.count; ++i) {
    const Vec3 from = face.at(i).point, along = face.at((i + 1) % face.count).point - from;
    const Vec3 out = along.cross(found.normal);
    if (out.dot(found.on_a - from) > -within * deep * along.norm()) return std::nullopt;
  }
  if (deep > 0 && !thick_enough(a, found, deep)) return std::nullopt;
  return found;
}

// If the edges of A and B that look along `way` and back cross where the two are nearest.
std::optional<Separation> by_edges(const Convex& a, const Convex& b, const Vec3& way) {
  constexpr double least_sine = 1e-3;  // of the angle between them
  constexpr double rounding = 1e-10;   // of an edge's length
  const std::optional<Edge> edge_a = a.edge(way), edge_b = b.edge(-way);
  if (!edge_a || !edge_b) return std::nullopt;
  const Vec3 along_a = edge_a->to - edge_a->from, along_b = edge_b->to - edge_b->from;
  const double length_a = along_a.norm(), length_b = along_b.norm();
  const Vec3 square = along_a.cross(along_b);
  const double area = square.norm();
  if (!(area > least_sine * length_a * length_b)) return std::nullopt;
  Separation found;
  found.normal = square / (square.dot(way) < 0 ? -area : area);
  // The lines' nearest points (Ericson, Real-Time Collision Detection, 5.1.8), as shares of the edges.
  const Vec3 between = edge_b->from - edge_a->from;
  const double share_a = between.cross(along_b).dot(square) / (area * area),
               share_b = between.cross(along_a).dot(square) / (area * area);
  found.distance = between.dot(found.normal);
  const double deep = std::max(0.0, -found.distance);
  // Each edge ends where the other one's side of the parallelogram of the two is.
  const double end_a = within * deep * length_b / area, end_b = within * deep * length_a / area;
  if (!(share_a >= end_a && share_a <= 1 - end_a && share_b >= end_b && share_b <= 1 - end_b)) return std::nullopt;
  found.on_a = edge_a->from + share_a * along_a;
  found.on_b = edge_b->from + share_b * along_b;
  const double past = rounding * (length_a + length_b);
  if (found.normal.dot(a.farthest(found.normal) - found.on_a) > past ||
      found.normal.dot(found.on_b - b.farthest(-found.normal)) > past)
    return std::nullopt;
  if (deep > 0 && !thick_enough(a, found, deep)) return std::nullopt;
  return found;
}

}  // namespace

std::optional<Separation> met_again(const Convex& a, const Convex& b, const LastMet& last) {
  if (last.normal.isZero()) return std::nullopt;
  if (last.face_of == FaceOf::neither) return by_edges(a, b, last.normal);
  if (last.face_of == FaceOf::a) return by_face(a, b, last.normal);
  std::optional<Separation> found = by_face(b, a, -last.normal);
  if (!found) return found;
  found->normal = -found->normal;
  std::swap(found->on_a, found->on_b);
  return found;
}

}  // namespace bronvel
