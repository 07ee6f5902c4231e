// GJK and the expanding polytope.
#include "geometry/queries/distance.h"

#include <algorithm>
#include <array>
#include <optional>

#include "geometry/queries/expanding_polytope.h"

namespace bronvel {
namespace {

using Corner = DifferencePoint;

Corner corner_along(const Convex& a, const Convex& b, const Vec3& direction) {
  Corner c;
  c.on_a = a.farthest(-direction);
  c.on_b = b.farthest(direction);
  c.w = c.on_b - c.on_a;
  return c;
}

// Of a simplex's corners those of the part that is nearest to the origin, ascending, and the weights of the point
// there.
struct Nearest {
  int count = 0;
  std::array<std::uint8_t, 4> which{};
  std::array<double, 4> weights{};
};

// Up to four corners, and the weights of the point of their hull that is nearest to the origin.
struct Simplex {
  int count = 0;
  std::array<Corner, 4> corners;
  std::array<double, 4> weights{};

  const Vec3& w(int i) const { return corners[static_cast<std::size_t>(i)].w; }
  Vec3 point(const Nearest& nearest) const {
    Vec3 sum = Vec3::Zero();
    for (std::size_t i = 0; i < static_cast<std::size_t>(nearest.count); ++i)
      sum += nearest.weights[i] * corners[nearest.which[i]].w;
    return sum;
  }
  void keep(const Nearest& nearest) {
    count = nearest.count;
    weights = nearest.weights;
    for (std::size_t i = 0; i < static_cast<std::size_t>(count); ++i)
      if (nearest.which[i] != i) corners[i] = corners[nearest.which[i]];
  }
};

Nearest at(std::initializer_list<std::pair<int, double>> which) {
  Nearest n;
  for (const auto& [i, weight] : which) {
    n.which[static_cast<std::size_t>(n.count)] = static_cast<std::uint8_t>(i);
    n.weights[static_cast<std::size_t>(n.count++)] = weight;
  }
  return n;
}

Nearest nearest_on_segment(const Simplex& s, int i, int j) {
  const Vec3& a = s.w(i);
  const Vec3 ab = s.w(j) - a;
  const double t = -a.dot(ab), length = ab.squaredNorm();
  if (t <= 0 || length <= 0) return at({{i, 1.0}});
  if (t >= length) return at({{j, 1.0}});
  return at({{i, 1 - t / length}, {j, t / length}});
}

// By the regions of the triangle (Ericson, Real-Time Collision Detection, 5.1.5).
Nearest nearest_on_triangle(const Simplex& s, int i, int j, int k) {
  const Vec3 &a = s.w(i), &b = s.w(j), &c = s.w(k);
  const Vec3 ab = b - a, ac = c - a;
  const double d1 = -ab.dot(a), d2 = -ac.dot(a);
  if (d1 <= 0 && d2 <= 0) return at({{i, 1.0}});
  const double d3 = -ab.dot(b), d4 = -ac.dot(b);
  if (d3 >= 0 && d4 <= d3) return at({{j, 1.0}});
  const double vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return nearest_on_segment(s, i, j);
  const double d5 = -ab.dot(c), d6 = -ac.dot(c);
  if (d6 >= 0 && d5 <= d6) return at({{k, 1.0}});
  const double vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return nearest_on_segment(s, i, k);
  const double va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) return nearest_on_segment(s, j, k);
  const double sum = va + vb + vc;
  if (sum <= 0) return nearest_on_segment(s, i, j);
  return at({{i, va / sum}, {j, vb / sum}, {k, vc / sum}});
}

// Lower than this against its size, a tetrahedron is flat: rounding alone says on which side of a face its last corner
// is.
constexpr double flattest = 1e-9;

// The origin's place against a face (a, b, c) of a tetrahedron whose last corner is d: beyond it, or on d's side.
bool beyond(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d) {
  const Vec3 n = (b - a).cross(c - a);
  const double last = n.dot(d - a);
  if (std::abs(last) <= flattest * n.norm() * (d - a).norm()) return true;
  return -n.dot(a) * last <= 0;
}

// Nothing where the origin is inside.
std::optional<Nearest> nearest_on_tetrahedron(const Simplex& s) {
  constexpr int faces[4][4] = {{0, 1, 2, 3}, {0, 1, 3, 2}, {0, 2, 3, 1}, {1, 2, 3, 0}};
  std::optional<Nearest> best;
  double least = 1e300;
  for (const auto& f : faces) {
    if (!beyond(s.w(f[0]), s.w(f[1]), s.w(f[2]), s.w(f[3]))) continue;
    const Nearest candidate = nearest_on_triangle(s, f[0], f[1], f[2]);
    const double distance = s.point(candidate).squaredNorm();
    if (distance < least) {
      least = distance;
      best = candidate;
    }
  }
  return best;
}

std::optional<Nearest> nearest_on(const Simplex& s) {
  return s.count == 1   ? at({{0, 1.0}})
         : s.count == 2 ? nearest_on_segment(s, 0, 1)
         : s.count == 3 ? nearest_on_triangle(s, 0, 1, 2)
                        : nearest_on_tetrahedron(s);
}

// Grows the simplex to a tetrahedron around the origin, for the polytope to start from.
bool fill_up(const Convex& a, const Convex& b, ExpandingPolytope& polytope) {
  const std::array<Vec3, 6> ways{Vec3::Unit(0),  -Vec3::Unit(0), Vec3::Unit(1),
                                 -Vec3::Unit(1), Vec3::Unit(2),  -Vec3::Unit(2)};
  const double tiny = 1e-10;
  for (const Vec3& way : ways) {
    if (polytope.corner_count() >= 2) break;
    const Corner c = corner_along(a, b, way);
    if (polytope.corner_count() == 0 || (c.w - polytope.place(0)).norm() > tiny) polytope.add(c);
  }
  if (polytope.corner_count() < 2) return false;
  if (polytope.corner_count() == 2) {
    const Vec3 line = (polytope.place(1) - polytope.place(0)).normalized();
    Vec3 way = any_perpendicular(line);
    for (int i = 0; i < 6 && polytope.corner_count() == 2; ++i) {
      const Corner c = corner_along(a, b, way);
      if ((c.w - polytope.place(0)).cross(line).norm() > tiny) polytope.add(c);
      way = Eigen::AngleAxisd(pi / 3, line) * way;
    }
  }
  if (polytope.corner_count() < 3) return false;
  if (polytope.corner_count() == 3) {
    const Vec3 n = (polytope.place(1) - polytope.place(0)).cross(polytope.place(2) - polytope.place(0)).normalized();
    for (const double sign : {1.0, -1.0}) {
      const Corner c = corner_along(a, b, sign * n);
      if (std::abs((c.w - polytope.place(0)).dot(n)) > tiny) {
        polytope.add(c);
        break;
      }
    }
  }
  return polytope.corner_count() >= 4;
}

Separation overlap_of(const Convex& a, const Convex& b, const Simplex& start) {
  // One for each thread: its arrays stay.
  thread_local ExpandingPolytope kept_polytope;
  ExpandingPolytope& polytope = kept_polytope;
  polytope.clear();
  for (std::size_t i = 0; i < static_cast<std::size_t>(start.count); ++i) polytope.add(start.corners[i]);
  Separation out;
  if (!fill_up(a, b, polytope)) {  // The difference is flat and holds the origin: the way out is square to it.
    const Vec3 apart = b.middle() - a.middle();
    Vec3 out_of = apart.norm() > 1e-12 ? Vec3(apart.normalized()) : Vec3(Vec3::Unit(1));
    if (polytope.corner_count() == 2) {
      const Vec3 line = (polytope.place(1) - polytope.place(0)).normalized();
      const Vec3 across = out_of - line * line.dot(out_of);
      out_of = across.norm() > 1e-6 ? Vec3(across.normalized()) : any_perpendicular(line);
    } else if (polytope.corner_count() == 3) {
      const Vec3 normal =
          (polytope.place(1) - polytope.place(0)).cross(polytope.place(2) - polytope.place(0)).normalized();
      out_of = normal.dot(apart) < 0 ? Vec3(-normal) : normal;
    }
    out.normal = out_of;
    // Where the two meet: the simplex still knows the weights of the origin.
    const Nearest last = start.count < 4 ? *nearest_on(start) : at({{0, 1.0}});
    out.on_a.setZero();
    for (std::size_t i = 0; i < static_cast<std::size_t>(last.count); ++i)
      out.on_a += last.weights[i] * start.corners[last.which[i]].on_a;
    out.on_b = out.on_a;
    return out;
  }
  if (!polytope.begin()) {  // Smaller than rounding: any way out is as good.
    out.on_a = polytope.corner(0).on_a;
    out.on_b = polytope.corner(0).on_b;
    return out;
  }

  // Where the middles are so near each other, against the depth, a hundredth of the depth is near enough.
  constexpr double in_one = 0.05;
  const double apart = (b.middle() - a.middle()).norm();
  // Round shapes need ever smaller faces, until rounding turns some inside out: what was found before that stands.
  // Going out by as far as the difference reaches along any normal parts the two, so the least reach is the answer.
  ExpandingPolytope::Face best = polytope.face(0);
  double least_reach = 1e300, surely = -1e300;
  for (int round = 0; round < 128; ++round) {
    const std::uint32_t nearest = polytope.nearest();
    if (nearest == ExpandingPolytope::no_face) break;
    const ExpandingPolytope::Face& near = polytope.face(nearest);
    const Corner fresh = corner_along(a, b, near.normal);
    const double reached = fresh.w.dot(near.normal);
    if (reached < least_reach) {
      least_reach = reached;
      best = near;
    }
    // The depth lies between the nearest face and the least reach. What is deep and round need not be known as exactly,
    // and where the difference is as round as a ball about the origin no end would come.
    const bool in_one_place = apart < in_one * least_reach;
    const double share = in_one_place && round >= 16 ? 1e-2
                         : round < 24                ? 1e-6
                         : round < 40                ? 1e-5
                         : round < 64                ? 1e-4
                                                     : 1e-3;
    if (least_reach - near.distance <= 1e-9 + share * least_reach) break;
    if (near.distance < surely - 1e-9 * std::max(1.0, std::abs(surely))) break;
    surely = std::max(surely, near.distance);
    polytope.add(fresh);
    if (!polytope.grow(nearest)) break;
  }
  const ExpandingPolytope::Face& face = best;
  if (least_reach > 1e299) least_reach = face.distance;
  // The difference B − A reaches past the origin along the normal: B must move along −normal… from A to B it is
  // −normal.
  out.normal = -face.normal;
  out.distance = -least_reach;
  const Vec3 foot = face.normal * face.distance;
  const Corner &first = polytope.corner(face.corners[0]), &second = polytope.corner(face.corners[1]),
               &third = polytope.corner(face.corners[2]);
  const Vec3 u = second.w - first.w, v = third.w - first.w, p = foot - first.w;
  const double uu = u.dot(u), uv = u.dot(v), vv = v.dot(v), pu = p.dot(u), pv = p.dot(v);
  const double below = uu * vv - uv * uv;
  const double s = below > 0 ? (vv * pu - uv * pv) / below : 0, t = below > 0 ? (uu * pv - uv * pu) / below : 0;
  const auto at = [&](const Vec3& x, const Vec3& y, const Vec3& z) -> Vec3 { return (1 - s - t) * x + s * y + t * z; };
  out.on_a = at(first.on_a, second.on_a, third.on_a);
  out.on_b = at(first.on_b, second.on_b, third.on_b);
  return out;
}

}  // namespace

Separation separation_of(const Convex& a, const Convex& b, const Vec3& guess) {
  Simplex simplex;
  Vec3 nearest = guess.isZero() ? Vec3(b.middle() - a.middle()) : guess;
  if (nearest.squaredNorm() < 1e-24) nearest = Vec3::Unit(0);
  simplex.corners[0] = corner_along(a, b, -nearest);
  simplex.weights[0] = 1;
  simplex.count = 1;
  nearest = simplex.corners[0].w;
  double surely = 0;  // so far apart they are, by a plane between them
  for (int round = 0; round < 64; ++round) {
    const double distance = nearest.norm();
    if (distance < 1e-10) return overlap_of(a, b, simplex);
    const Corner fresh = corner_along(a, b, -nearest);
    // No corner is nearer by more than rounding: this is the distance.
    const double size = fresh.w.norm();
    if (distance * distance - nearest.dot(fresh.w) <= 1e-12 * distance * distance + 1e-15 * distance * size) break;
    surely = std::max(surely, nearest.dot(fresh.w) / distance);
    bool known = false;
    for (std::size_t i = 0; i < static_cast<std::size_t>(simplex.count); ++i)
      known = known || (simplex.corners[i].w - fresh.w).squaredNorm() < 1e-24;
    if (known) break;
    // Beyond the simplex, until it is known that it comes nearer.
    const int before = simplex.count;
    simplex.corners[static_cast<std::size_t>(simplex.count++)] = fresh;
    const std::optional<Nearest> grown = nearest_on(simplex);
    if (!grown && !(surely > 1e-12 * size)) return overlap_of(a, b, simplex);
    // Where a plane parts them, rounding has put the origin inside, and rounding keeps it from coming nearer.
    if (!grown || simplex.point(*grown).squaredNorm() >= nearest.squaredNorm()) {
      simplex.count = before;
      break;
    }
    nearest = simplex.point(*grown);
    simplex.keep(*grown);
  }
  Separation out;
  out.distance = nearest.norm();
  out.normal = nearest / out.distance;
  out.on_a.setZero();
  out.on_b.setZero();
  for (std::size_t i = 0; i < static_cast<std::size_t>(simplex.count); ++i) {
    out.on_a += simplex.weights[i] * simplex.corners[i].on_a;
    out.on_b += simplex.weights[i] * simplex.corners[i].on_b;
  }
  return out;
}

}  // namespace bronvel
