// Cutting models into convex parts.
#include "geometry/meshes/decompose.h"

#include <array>
#include <optional>
#include <set>

#include "geometry/base/error.h"
#include "geometry/base/triangle.h"
#include "geometry/shapes/hull.h"

namespace bronvel {
namespace {

constexpr std::size_t part_corners = 32;
constexpr std::size_t scored_points = 600;  // of each side when cuts are compared

constexpr std::size_t compared_triangles = 20000;  // of a piece, when its hull is held against it
constexpr std::size_t measured_corners = 400;      // of the hull that a piece is held against

struct Piece {
  std::vector<Vec3> corners;  // three a triangle
  std::optional<Hull> hull;
  double hollow = 0;           // how deep its surface lies under its hull, m
  Vec3 corner = Vec3::Zero();  // its surface's point that lies deepest under the hull
  Vec3 bridge = Vec3::Zero();  // the hull's point that stands farthest off the surface
};

std::optional<Hull> hull_or_none(const std::vector<Vec3>& points) {
  try {
    return make_hull(points);
  } catch (const Error&) {
    return std::nullopt;  // flat, or hardly anything
  }
}

// Every so-manieth, so that no more than `most` are left.
std::vector<Vec3> thinned(const std::vector<Vec3>& points, std::size_t most) {
  if (points.size() <= most) return points;
  std::vector<Vec3> some;
  const std::size_t step = points.size() / most + 1;
  for (std::size_t i = 0; i < points.size(); i += step) some.push_back(points[i]);
  return some;
}

using GoOn = std::function<bool()>;

// Those that stand farthest out in many directions spread evenly (a Fibonacci sphere, Swinbank and Purser 2006), where
// there are so many that trying each would take too long.
std::vector<Vec3> outermost(const std::vector<Vec3>& corners) {
  constexpr std::size_t few = 2000;
  constexpr int directions = 1500;
  if (corners.size() <= few) return corners;
  std::set<std::size_t> out;
  for (int i = 0; i < directions; ++i) {
    const double y = 1 - 2 * (i + 0.5) / directions, turn = 2.399963229728653 * i, r = std::sqrt(1 - y * y);
    const Vec3 way(r * std::cos(turn), y, r * std::sin(turn));
    std::size_t best = 0;
    double farthest = -1e300;
    for (std::size_t k = 0; k < corners.size(); ++k)
      if (const double along = corners[k].dot(way); along > farthest) farthest = along, best = k;
    out.insert(best);
  }
  std::vector<Vec3> chosen;
  chosen.reserve(out.size());
  for (const std::size_t i : out) chosen.push_back(corners[i]);
  return chosen;
}

void measure(Piece& piece, const GoOn& go_on) {
  piece.hull = hull_or_none(piece.corners);
  piece.hollow = 0;
  if (!piece.hull) return;
  // Held against a hull of few faces: one of very many tells no more, and each of them would be held against all.
  if (piece.hull->data->corners.size() > measured_corners)
    piece.hull = simple_hull(piece.hull->data->corners, measured_corners, go_on);
  piece.corner = piece.bridge = piece.hull->data->centre;
  const HullData& hull = *piece.hull->data;
  std::size_t looked = 0;
  const auto now_and_then = [&] {
    constexpr std::size_t looks_between = 512;
    if (++looked % looks_between == 0) ask_to_go_on(go_on);
  };
  const auto look = [&](const Vec3& p) {
    double depth = 1e300;
    for (std::size_t f = 0; f < hull.normals.size() && depth > piece.hollow; ++f)
      depth = std::min(depth, hull.offsets[f] - hull.normals[f].dot(p));
    if (depth > piece.hollow) {
      piece.hollow = depth;
      piece.corner = p;
    }
  };
  for (std::size_t i = 0; i + 2 < piece.corners.size(); i += 3) {
    now_and_then();
    for (std::size_t k = 0; k < 3; ++k) look(piece.corners[i + k]);
    look((piece.corners[i] + piece.corners[i + 1] + piece.corners[i + 2]) / 3);
  }
  // And how far the hull's own faces stand off the surface: a ring's hull closes its hole.
  const std::size_t step = 3 * (1 + piece.corners.size() / (3 * compared_triangles));
  const auto off = [&](const Vec3& p) {
    double nearest = 1e300;
    for (std::size_t i = 0; i + 2 < piece.corners.size() && nearest > piece.hollow * piece.hollow; i += step)
      nearest = std::min(nearest,
                         distance_squared_to_triangle(p, piece.corners[i], piece.corners[i + 1], piece.corners[i + 2]));
    if (nearest > piece.hollow * piece.hollow) {
      piece.hollow = std::sqrt(nearest);
      piece.bridge = p;
    }
  };
  for (const auto& face : hull.faces) {
    ask_to_go_on(go_on);
    Vec3 middle = Vec3::Zero();
    for (const std::uint32_t corner : face) middle += hull.corners[corner] / static_cast<double>(face.size());
    off(middle);
    for (std::size_t i = 0; i < face.size(); ++i) off((2 * middle + hull.corners[face[i]]) / 3);
  }
}

// The triangles on one side of the plane, cut along it (Sutherland and Hodgman 1974).
std::vector<Vec3> side_of(const std::vector<Vec3>& corners, int axis, double at, double sign) {
  std::vector<Vec3> kept;
  for (std::size_t i = 0; i + 2 < corners.size(); i += 3) {
    std::array<Vec3, 4> polygon;
    std::size_t count = 0;
    for (std::size_t k = 0; k < 3; ++k) {
      const Vec3 &a = corners[i + k], &b = corners[i + (k + 1) % 3];
      const double da = sign * (a[axis] - at), db = sign * (b[axis] - at);
      if (da >= 0) polygon[count++] = a;
      if ((da > 0 && db < 0) || (da < 0 && db > 0)) polygon[count++] = a + (b - a) * (da / (da - db));
    }
    for (std::size_t k = 1; k + 1 < count; ++k) {
      kept.push_back(polygon[0]);
      kept.push_back(polygon[k]);
      kept.push_back(polygon[k + 1]);
    }
  }
  return kept;
}

// Whether a point lies inside a closed model: by how often a ray crosses it (Jordan's theorem).
bool is_inside(const std::vector<Vec3>& corners, const Vec3& p) {
  // A way that runs along nothing that anyone draws.
  const Vec3 way = Vec3(0.8123, 0.3571, 0.4613).normalized();
  bool inside = false;
  for (std::size_t i = 0; i + 2 < corners.size(); i += 3) {
    // Möller and Trumbore (1997).
    const Vec3 ab = corners[i + 1] - corners[i], ac = corners[i + 2] - corners[i];
    const Vec3 across = way.cross(ac);
    const double determinant = ab.dot(across);
    if (std::abs(determinant) < 1e-300) continue;
    const Vec3 ap = p - corners[i];
    const double u = ap.dot(across) / determinant;
    if (u < 0 || u > 1) continue;
    const Vec3 q = ap.cross(ab);
    const double v = way.dot(q) / determinant;
    if (v >= 0 && u + v <= 1 && ac.dot(q) / determinant > 0) inside = !inside;
  }
  return inside;
}

// The cut face of a solid belongs to both sides, but no triangle of the surface lies in it: points of it do.
void add_cut_face(const std::vector<Vec3>& solid, const Bounds& bounds, int axis, double at, Piece& first,
                  Piece& second, const GoOn& go_on) {
  constexpr int steps = 24;
  const int b = (axis + 1) % 3, c = (axis + 2) % 3;
  for (int i = 0; i <= steps; ++i)
    for (int k = 0; k <= steps; ++k) {
      ask_to_go_on(go_on);
      Vec3 p;
      p[axis] = at;
      p[b] = bounds.low[b] + (bounds.high[b] - bounds.low[b]) * i / steps;
      p[c] = bounds.low[c] + (bounds.high[c] - bounds.low[c]) * k / steps;
      if (!is_inside(solid, p)) continue;
      for (Piece* side : {&first, &second}) side->corners.insert(side->corners.end(), 3, p);
    }
}

// The cut whose two hulls hold least together (`solid`: the whole model, if it is closed); the sides are empty if none
// divides the piece.
std::pair<Piece, Piece> best_cut(const Piece& piece, const std::vector<Vec3>& solid, const GoOn& go_on) {
  Bounds bounds{piece.corners.front(), piece.corners.front()};
  for (const Vec3& p : piece.corners) bounds = {bounds.low.cwiseMin(p), bounds.high.cwiseMax(p)};
  // A ring halved has hulls as large as before: what gains little is cut where it is hollowest, across its length.
  const double own = hull_or_none(thinned(piece.corners, scored_points)).value_or(*piece.hull).data->volume;
  int across = 0;
  (bounds.high - bounds.low).maxCoeff(&across);
  std::pair<Piece, Piece> best, fallback;
  double least = 1e300, best_at = 0;
  const double fallback_at = piece.bridge[across];
  int best_axis = 0;
  for (int axis = 0; axis < 3; ++axis) {
    const double low = bounds.low[axis], high = bounds.high[axis];
    std::vector<double> places{piece.bridge[axis], piece.corner[axis]};
    for (int i = 1; i <= 7; ++i) places.push_back(low + (high - low) * i / 8);
    for (const double at : places) {
      if (at - low < 1e-3 * (high - low) || high - at < 1e-3 * (high - low)) continue;
      ask_to_go_on(go_on);
      Piece first, second;
      first.corners = side_of(piece.corners, axis, at, 1);
      second.corners = side_of(piece.corners, axis, at, -1);
      const auto a = hull_or_none(thinned(first.corners, scored_points)),
                 b = hull_or_none(thinned(second.corners, scored_points));
      if (!a || !b) continue;
      const double volume = a->data->volume + b->data->volume;
      if (axis == across && at == piece.bridge[axis]) fallback = {first, second};
      if (volume >= least) continue;
      least = volume;
      best_axis = axis;
      best_at = at;
      best = {std::move(first), std::move(second)};
    }
  }
  if (least > 0.97 * own && !fallback.first.corners.empty()) {
    best = std::move(fallback);
    best_axis = across;
    best_at = fallback_at;
  }
  if (!best.first.corners.empty() && !solid.empty())
    add_cut_face(solid, bounds, best_axis, best_at, best.first, best.second, go_on);
  return best;
}

}  // namespace

void ask_to_go_on(const std::function<bool()>& go_on) {
  if (go_on && !go_on()) throw Error("", "it was given up before it was done");
}

Hull simple_hull(const std::vector<Vec3>& points, std::size_t most, const std::function<bool()>& go_on) {
  const Hull whole = make_hull(points);
  if (whole.data->corners.size() <= most) return make_hull(whole.data->corners);
  // From the outermost corners, the one that stands farthest out of the hull so far joins, one after another.
  const std::vector<Vec3> corners = outermost(whole.data->corners);
  std::set<std::size_t> chosen;
  const auto farthest = [&](const Vec3& way) {
    std::size_t best = 0;
    for (std::size_t i = 1; i < corners.size(); ++i)
      if (corners[i].dot(way) > corners[best].dot(way)) best = i;
    chosen.insert(best);
  };
  for (int i = 0; i < 14; ++i) {
    const Vec3 corner((i & 1) != 0 ? 1 : -1, (i & 2) != 0 ? 1 : -1, (i & 4) != 0 ? 1 : -1);
    farthest(i < 8 ? corner : Vec3((i % 2 == 0 ? 1.0 : -1.0) * Vec3::Unit((i - 8) / 2)));
  }
  for (;;) {
    ask_to_go_on(go_on);
    std::vector<Vec3> some;
    some.reserve(chosen.size());
    for (const std::size_t i : chosen) some.push_back(corners[i]);
    const auto hull = hull_or_none(some);
    if (hull && chosen.size() >= most) return *hull;
    double farthest_out = 0;
    std::size_t next = corners.size();
    for (std::size_t i = 0; i < corners.size(); ++i) {
      if (chosen.contains(i)) continue;
      double out = hull ? -1e300 : 1;
      if (hull)
        for (std::size_t f = 0; f < hull->data->normals.size(); ++f)
          out = std::max(out, hull->data->normals[f].dot(corners[i]) - hull->data->offsets[f]);
      if (out > farthest_out) {
        farthest_out = out;
        next = i;
      }
    }
    if (next == corners.size()) return hull ? *hull : whole;
    chosen.insert(next);
  }
}

std::vector<Hull> convex_parts(const Model& model, int most, double concavity, const std::function<bool()>& go_on) {
  Piece whole;
  for (const auto& t : model.triangles)
    for (const std::uint32_t corner : t) whole.corners.push_back(model.points[corner]);
  measure(whole, go_on);
  if (!whole.hull) throw Error("set of hulls", "points that lie in a plane have no hull");
  const std::vector<Vec3> solid = model_closed(model) ? whole.corners : std::vector<Vec3>{};
  const Bounds bounds = model_bounds(model);
  const double good = concavity * (bounds.high - bounds.low).maxCoeff();
  std::vector<Piece> pieces;
  pieces.push_back(std::move(whole));
  while (pieces.size() < static_cast<std::size_t>(std::max(1, most))) {
    const auto worst = std::max_element(pieces.begin(), pieces.end(),
                                        [](const Piece& a, const Piece& b) { return a.hollow < b.hollow; });
    if (worst->hollow <= good) break;
    auto [first, second] = best_cut(*worst, solid, go_on);
    if (first.corners.empty() || second.corners.empty()) {
      worst->hollow = 0;  // it can't be divided
      continue;
    }
    measure(first, go_on);
    measure(second, go_on);
    *worst = std::move(first);
    pieces.push_back(std::move(second));
  }
  std::vector<Hull> hulls;
  for (const Piece& piece : pieces)
    if (piece.hull) hulls.push_back(simple_hull(piece.hull->data->corners, part_corners, go_on));
  return hulls;
}

}  // namespace bronvel
