// By a plane that stands between the two, or out of which they soonest leave one another.
#include "geometry/queries/manifold_coherence.h"

#include <algorithm>

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
std::optional<MetAgain> by_face(const Convex& a, const Convex& b, const Vec3& way) {
  std::optional<MetAgain> met(std::in_place);
  met->face = a.feature(way);
  const Polygon& face = met->face;
  if (face.count < 3) return std::nullopt;
  Separation& found = met->apart;
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
  return met;
}

// Whether no corner is past the planes through the two nearest points.
bool parts(const Convex& a, const Convex& b, const Separation& found, double rounding) {
  return found.normal.dot(a.farthest(found.normal) - found.on_a) <= rounding &&
         found.normal.dot(found.on_b - b.farthest(-found.normal)) <= rounding;
}

// If two edges, of A and of B that look along `way` and back, hold the nearest points: where they cross or, apart, at
// an end of one or both.
std::optional<MetAgain> by_edges(const Convex& a, const Convex& b, const Vec3& way) {
  constexpr double least_sine = 1e-3;  // of the angle between them
  constexpr double rounding = 1e-10;   // of an edge's length
  constexpr double least_gap = 1e-6;   // of it: from less, the direction is not known
  const std::optional<Edge> edge_a = a.edge(way), edge_b = b.edge(-way);
  if (!edge_a || !edge_b) return std::nullopt;
  const Vec3 along_a = edge_a->to - edge_a->from, along_b = edge_b->to - edge_b->from;
  const double length_a = along_a.norm(), length_b = along_b.norm(), lengths = length_a + length_b;
  const Vec3 square = along_a.cross(along_b);
  const double area = square.norm();
  if (!(area > least_sine * length_a * length_b)) return std::nullopt;
  std::optional<MetAgain> met(std::in_place);
  Separation& found = met->apart;
  found.normal = square / (square.dot(way) < 0 ? -area : area);
  // The lines' nearest points (Ericson, Real-Time Collision Detection, 5.1.8), as shares of the edges.
  const Vec3 between = edge_b->from - edge_a->from;
  double share_a = between.cross(along_b).dot(square) / (area * area),
         share_b = between.cross(along_a).dot(square) / (area * area);
  found.distance = between.dot(found.normal);
  const auto place = [&] {
    found.on_a = edge_a->from + share_a * along_a;
    found.on_b = edge_b->from + share_b * along_b;
  };
  if (!(share_a >= 0 && share_a <= 1 && share_b >= 0 && share_b <= 1)) {
    // Those of the edges themselves (5.1.9).
    share_a = std::clamp(share_a, 0.0, 1.0);
    share_b = along_b.dot(share_a * along_a - between) / (length_b * length_b);
    if (share_b < 0 || share_b > 1) {
      share_b = std::clamp(share_b, 0.0, 1.0);
      share_a = std::clamp(along_a.dot(between + share_b * along_b) / (length_a * length_a), 0.0, 1.0);
    }
    place();
    const Vec3 gap = found.on_b - found.on_a;
    found.distance = gap.norm();
    if (!(found.distance > least_gap * lengths)) return std::nullopt;
    found.normal = gap / found.distance;
    if (!parts(a, b, found, rounding * lengths)) return std::nullopt;
    return met;
  }
  place();
  if (!parts(a, b, found, rounding * lengths)) return std::nullopt;
  const double deep = std::max(0.0, -found.distance);
  if (deep == 0) return met;
  // Each edge ends where the other one's side of the parallelogram of the two is.
  const double end_a = within * deep * length_b / area, end_b = within * deep * length_a / area;
  const bool well_within = share_a >= end_a && share_a <= 1 - end_a && share_b >= end_b && share_b <= 1 - end_b;
  if (!well_within || !thick_enough(a, found, deep)) return std::nullopt;
  return met;
}

}  // namespace

std::optional<MetAgain> met_again(const Convex& a, const Convex& b, const LastManifold& last) {
  if (last.normal.isZero()) return std::nullopt;
  if (last.face_of == FaceOf::neither) return by_edges(a, b, last.normal);
  if (last.face_of == FaceOf::a) return by_face(a, b, last.normal);
  std::optional<MetAgain> met = by_face(b, a, -last.normal);
  if (!met) return met;
  met->apart.normal = -met->apart.normal;
  std::swap(met->apart.on_a, met->apart.on_b);
  return met;
}

}  // namespace bronvel
