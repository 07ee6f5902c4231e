// GJK and the expanding polytope.
#include "geometry/distance.h"

#include <algorithm>
#include <array>
#include <cstdint>
#include <functional>
#include <limits>
#include <vector>

namespace bronvel {
namespace {

// A point of the difference B − A, with where it came from.
struct Corner {
  Vec3 w, on_a, on_b;
};

Corner corner_along(const Convex& a, const Convex& b, const Vec3& direction) {
  Corner c;
  c.on_a = a.farthest(-direction);
  c.on_b = b.farthest(direction);
  c.w = c.on_b - c.on_a;
  return c;
}

// Up to four corners, and the weights of the point of their hull that is nearest to the origin.
struct Simplex {
  int count = 0;
  std::array<Corner, 4> corners;
  std::array<double, 4> weights{};

  Vec3 nearest() const {
    Vec3 sum = Vec3::Zero();
    for (std::size_t i = 0; i < static_cast<std::size_t>(count); ++i) sum += weights[i] * corners[i].w;
    return sum;
  }
};

// Keeps the corners of `from` listed in `which` with their weights.
Simplex kept(const Simplex& from, std::initializer_list<std::pair<int, double>> which) {
  Simplex s;
  for (const auto& [i, weight] : which) {
    s.corners[static_cast<std::size_t>(s.count)] = from.corners[static_cast<std::size_t>(i)];
    s.weights[static_cast<std::size_t>(s.count++)] = weight;
  }
  return s;
}

Simplex nearest_on_segment(const Simplex& s, int i, int j) {
  const Vec3 a = s.corners[static_cast<std::size_t>(i)].w, ab = s.corners[static_cast<std::size_t>(j)].w - a;
  const double t = -a.dot(ab), length = ab.squaredNorm();
  if (t <= 0 || length <= 0) return kept(s, {{i, 1.0}});
  if (t >= length) return kept(s, {{j, 1.0}});
  return kept(s, {{i, 1 - t / length}, {j, t / length}});
}

// By the regions of the triangle (Ericson, Real-Time Collision Detection, 5.1.5).
Simplex nearest_on_triangle(const Simplex& s, int i, int j, int k) {
  const Vec3 &a = s.corners[static_cast<std::size_t>(i)].w, &b = s.corners[static_cast<std::size_t>(j)].w,
             &c = s.corners[static_cast<std::size_t>(k)].w;
  const Vec3 ab = b - a, ac = c - a;
  const double d1 = -ab.dot(a), d2 = -ac.dot(a);
  if (d1 <= 0 && d2 <= 0) return kept(s, {{i, 1.0}});
  const double d3 = -ab.dot(b), d4 = -ac.dot(b);
  if (d3 >= 0 && d4 <= d3) return kept(s, {{j, 1.0}});
  const double vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return nearest_on_segment(s, i, j);
  const double d5 = -ab.dot(c), d6 = -ac.dot(c);
  if (d6 >= 0 && d5 <= d6) return kept(s, {{k, 1.0}});
  const double vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return nearest_on_segment(s, i, k);
  const double va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) return nearest_on_segment(s, j, k);
  const double sum = va + vb + vc;
  if (sum <= 0) return nearest_on_segment(s, i, j);
  return kept(s, {{i, va / sum}, {j, vb / sum}, {k, vc / sum}});
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

// The count stays 4 when the origin is inside the tetrahedron.
Simplex nearest_on_tetrahedron(const Simplex& s) {
  constexpr int faces[4][4] = {{0, 1, 2, 3}, {0, 1, 3, 2}, {0, 2, 3, 1}, {1, 2, 3, 0}};
  Simplex best = s;
  double least = 1e300;
  bool outside_any = false;
  for (const auto& f : faces) {
    const Vec3 &a = s.corners[static_cast<std::size_t>(f[0])].w, &b = s.corners[static_cast<std::size_t>(f[1])].w,
               &c = s.corners[static_cast<std::size_t>(f[2])].w, &d = s.corners[static_cast<std::size_t>(f[3])].w;
    if (!beyond(a, b, c, d)) continue;
    outside_any = true;
    const Simplex candidate = nearest_on_triangle(s, f[0], f[1], f[2]);
    const double distance = candidate.nearest().squaredNorm();
    if (distance < least) {
      least = distance;
      best = candidate;
    }
  }
  return outside_any ? best : s;
}

constexpr std::uint32_t no_face = std::numeric_limits<std::uint32_t>::max();

struct Face {
  std::array<std::uint32_t, 3> corners{};
  std::array<std::uint32_t, 3> beside{no_face, no_face,
                                      no_face};  // the face beyond the edge from each corner to the next
  Vec3 normal = Vec3::Zero();
  double distance = 0;  // of its plane from the origin
  bool alive = false;
};

bool make_face(const std::vector<Corner>& corners, std::uint32_t i, std::uint32_t j, std::uint32_t k, Face& face) {
  const Vec3 n = (corners[j].w - corners[i].w).cross(corners[k].w - corners[i].w);
  const double length = n.norm();
  if (length < 1e-300) return false;
  face.corners = {i, j, k};
  face.beside = {no_face, no_face, no_face};
  face.normal = n / length;
  face.distance = face.normal.dot(corners[i].w);
  face.alive = true;
  return true;
}

// The polytope that grows within the difference: corners, and faces that know their neighbours. Places of faces that
// went are used again, so that a walk over all stays short.
struct Polytope {
  std::vector<Corner> corners;
  std::vector<Face> faces;
  std::vector<std::uint32_t> unused, hole, fresh;
  std::vector<std::uint32_t> begins;              // by corner: the fresh face whose first it is
  std::vector<std::array<std::uint32_t, 3>> rim;  // from, to, and the face beyond
  // The nearest face on top; of those that went since, entries stay until they come up. A face's place may have been
  // used again: the distance tells.
  std::vector<std::pair<double, std::uint32_t>> by_distance;

  void clear() {
    faces.clear();
    unused.clear();
    by_distance.clear();
  }

  std::uint32_t add(const Face& face) {
    auto at = static_cast<std::uint32_t>(faces.size());
    if (unused.empty()) {
      faces.push_back(face);
    } else {
      at = unused.back();
      unused.pop_back();
      faces[at] = face;
    }
    by_distance.emplace_back(face.distance, at);
    std::push_heap(by_distance.begin(), by_distance.end(), std::greater<>());
    return at;
  }

  void connect(std::uint32_t one, std::uint32_t other) {
    for (std::size_t e = 0; e < 3; ++e)
      for (std::size_t f = 0; f < 3; ++f)
        if (faces[one].corners[e] == faces[other].corners[(f + 1) % 3] &&
            faces[one].corners[(e + 1) % 3] == faces[other].corners[f]) {
          faces[one].beside[e] = other;
          faces[other].beside[f] = one;
        }
  }

  // From the tetrahedron of the first four corners.
  void begin() {
    const auto side = [&](std::uint32_t i, std::uint32_t j, std::uint32_t k, std::uint32_t inner) {
      Face face;
      if (!make_face(corners, i, j, k, face)) return;
      if (face.normal.dot(corners[inner].w - corners[i].w) > 0) make_face(corners, i, k, j, face);
      add(face);
    };
    side(0, 1, 2, 3);
    side(0, 1, 3, 2);
    side(0, 2, 3, 1);
    side(1, 2, 3, 0);
    for (std::uint32_t i = 0; i < faces.size(); ++i)
      for (std::uint32_t j = i + 1; j < faces.size(); ++j) connect(i, j);
  }

  std::uint32_t nearest() {
    while (!by_distance.empty()) {
      const auto [distance, at] = by_distance.front();
      if (faces[at].alive && faces[at].distance == distance) return at;
      std::pop_heap(by_distance.begin(), by_distance.end(), std::greater<>());
      by_distance.pop_back();
    }
    return no_face;
  }

  // Takes away the faces that the last corner can see or lies in, from the nearest one outwards, so that they make one
  // hole: told apart by rounding, faces in one plane would make several, and turn the polytope inside out. The rim of
  // the hole gets new faces. False when nothing is left.
  bool grow(std::uint32_t from) {
    const auto added = static_cast<std::uint32_t>(corners.size() - 1);
    const Vec3 place = corners[added].w;
    const double in_plane = -1e-13 * std::max(1.0, place.norm());
    hole.assign(1, from);
    faces[from].alive = false;
    rim.clear();
    for (std::size_t h = 0; h < hole.size(); ++h) {
      const Face face = faces[hole[h]];
      for (std::size_t e = 0; e < 3; ++e) {
        const std::uint32_t beyond = face.beside[e];
        if (beyond != no_face && !faces[beyond].alive) continue;
        if (beyond != no_face && faces[beyond].normal.dot(place - corners[faces[beyond].corners[0]].w) > in_plane) {
          faces[beyond].alive = false;
          hole.push_back(beyond);
        } else {
          rim.push_back({face.corners[e], face.corners[(e + 1) % 3], beyond});
        }
      }
    }
    // What the hole reached from another side is no rim.
    std::erase_if(rim, [&](const auto& edge) { return edge[2] != no_face && !faces[edge[2]].alive; });
    if (rim.empty()) return false;
    for (const std::uint32_t gone : hole) unused.push_back(gone);
    fresh.clear();
    for (const auto& [i, j, beyond] : rim) {
      Face face;
      if (!make_face(corners, i, j, added, face)) {
        if (beyond != no_face) forget(beyond, i, j);
        continue;
      }
      face.beside[0] = beyond;
      const std::uint32_t at = add(face);
      if (beyond != no_face) meet(beyond, i, j, at);
      fresh.push_back(at);
    }
    // Around the last corner, each meets the one that begins where it ends.
    begins.resize(corners.size(), no_face);
    for (const std::uint32_t at : fresh) begins[faces[at].corners[0]] = at;
    for (const std::uint32_t at : fresh) {
      const std::uint32_t next = begins[faces[at].corners[1]];
      if (next == no_face) continue;
      faces[at].beside[1] = next;
      faces[next].beside[2] = at;
    }
    for (const std::uint32_t at : fresh) begins[faces[at].corners[0]] = no_face;
    return true;
  }

  // The face has a new neighbour beyond its edge between these corners, or none.
  void meet(std::uint32_t face, std::uint32_t i, std::uint32_t j, std::uint32_t neighbour) {
    for (std::size_t e = 0; e < 3; ++e)
      if (faces[face].corners[e] == j && faces[face].corners[(e + 1) % 3] == i) faces[face].beside[e] = neighbour;
  }
  void forget(std::uint32_t face, std::uint32_t i, std::uint32_t j) { meet(face, i, j, no_face); }
};

// Grows the simplex to a tetrahedron around the origin, for the polytope to start from.
bool fill_up(const Convex& a, const Convex& b, std::vector<Corner>& corners) {
  const std::array<Vec3, 6> ways{Vec3::Unit(0),  -Vec3::Unit(0), Vec3::Unit(1),
                                 -Vec3::Unit(1), Vec3::Unit(2),  -Vec3::Unit(2)};
  const double tiny = 1e-10;
  for (const Vec3& way : ways) {
    if (corners.size() >= 2) break;
    const Corner c = corner_along(a, b, way);
    if (corners.empty() || (c.w - corners[0].w).norm() > tiny) corners.push_back(c);
  }
  if (corners.size() < 2) return false;
  if (corners.size() == 2) {
    const Vec3 line = (corners[1].w - corners[0].w).normalized();
    Vec3 way = any_perpendicular(line);
    for (int i = 0; i < 6 && corners.size() == 2; ++i) {
      const Corner c = corner_along(a, b, way);
      if ((c.w - corners[0].w).cross(line).norm() > tiny) corners.push_back(c);
      way = Eigen::AngleAxisd(pi / 3, line) * way;
    }
  }
  if (corners.size() < 3) return false;
  if (corners.size() == 3) {
    const Vec3 n = (corners[1].w - corners[0].w).cross(corners[2].w - corners[0].w).normalized();
    for (const double sign : {1.0, -1.0}) {
      const Corner c = corner_along(a, b, sign * n);
      if (std::abs((c.w - corners[0].w).dot(n)) > tiny) {
        corners.push_back(c);
        break;
      }
    }
  }
  return corners.size() >= 4;
}

Separation overlap_of(const Convex& a, const Convex& b, const Simplex& start) {
  // One for each thread: its arrays stay.
  thread_local Polytope polytope;
  std::vector<Corner>& corners = polytope.corners;
  corners.assign(start.corners.begin(), start.corners.begin() + start.count);
  polytope.clear();
  Separation out;
  if (!fill_up(a, b, corners)) {  // The difference is flat and holds the origin: the way out is square to it.
    const Vec3 apart = b.middle() - a.middle();
    Vec3 out_of = apart.norm() > 1e-12 ? Vec3(apart.normalized()) : Vec3(Vec3::Unit(1));
    if (corners.size() == 2) {
      const Vec3 line = (corners[1].w - corners[0].w).normalized();
      const Vec3 across = out_of - line * line.dot(out_of);
      out_of = across.norm() > 1e-6 ? Vec3(across.normalized()) : any_perpendicular(line);
    } else if (corners.size() == 3) {
      const Vec3 normal = (corners[1].w - corners[0].w).cross(corners[2].w - corners[0].w).normalized();
      out_of = normal.dot(apart) < 0 ? Vec3(-normal) : normal;
    }
    out.normal = out_of;
    // Where the two meet: the simplex still knows the weights of the origin.
    const Simplex last = start.count == 3   ? nearest_on_triangle(start, 0, 1, 2)
                         : start.count == 2 ? nearest_on_segment(start, 0, 1)
                                            : kept(start, {{0, 1.0}});
    out.on_a.setZero();
    for (std::size_t i = 0; i < static_cast<std::size_t>(last.count); ++i)
      out.on_a += last.weights[i] * last.corners[i].on_a;
    out.on_b = out.on_a;
    return out;
  }
  polytope.begin();
  if (polytope.faces.empty()) {  // Smaller than rounding: any way out is as good.
    out.on_a = corners[0].on_a;
    out.on_b = corners[0].on_b;
    return out;
  }

  // Where the middles are so near each other, against the depth, a hundredth of the depth is near enough.
  constexpr double in_one = 0.05;
  const double apart = (b.middle() - a.middle()).norm();
  // Round shapes need ever smaller faces, until rounding turns some inside out: what was found before that stands.
  // Going out by as far as the difference reaches along any normal parts the two, so the least reach is the answer.
  Face best = polytope.faces.front();
  double least_reach = 1e300, surely = -1e300;
  for (int round = 0; round < 128; ++round) {
    const std::uint32_t nearest = polytope.nearest();
    if (nearest == no_face) break;
    const Face near = polytope.faces[nearest];
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
    corners.push_back(fresh);
    if (!polytope.grow(nearest)) break;
  }
  const Face& face = best;
  if (least_reach > 1e299) least_reach = face.distance;
  // The difference B − A reaches past the origin along the normal: B must move along −normal… from A to B it is
  // −normal.
  out.normal = -face.normal;
  out.distance = -least_reach;
  const Vec3 foot = face.normal * face.distance;
  const Vec3 u = corners[face.corners[1]].w - corners[face.corners[0]].w,
             v = corners[face.corners[2]].w - corners[face.corners[0]].w, p = foot - corners[face.corners[0]].w;
  const double uu = u.dot(u), uv = u.dot(v), vv = v.dot(v), pu = p.dot(u), pv = p.dot(v);
  const double below = uu * vv - uv * uv;
  const double s = below > 0 ? (vv * pu - uv * pv) / below : 0, t = below > 0 ? (uu * pv - uv * pu) / below : 0;
  const auto at = [&](const Vec3& x, const Vec3& y, const Vec3& z) -> Vec3 { return (1 - s - t) * x + s * y + t * z; };
  out.on_a = at(corners[face.corners[0]].on_a, corners[face.corners[1]].on_a, corners[face.corners[2]].on_a);
  out.on_b = at(corners[face.corners[0]].on_b, corners[face.corners[1]].on_b, corners[face.corners[2]].on_b);
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
    Simplex grown = simplex;
    grown.corners[static_cast<std::size_t>(grown.count++)] = fresh;
    if (grown.count == 2) {
      grown = nearest_on_segment(grown, 0, 1);
    } else if (grown.count == 3) {
      grown = nearest_on_triangle(grown, 0, 1, 2);
    } else {
      const Simplex whole = grown;
      grown = nearest_on_tetrahedron(whole);
      if (grown.count == 4) {
        // Where a plane parts them, rounding has put the origin inside.
        if (surely > 1e-12 * size) break;
        return overlap_of(a, b, whole);
      }
    }
    const Vec3 next = grown.nearest();
    if (next.squaredNorm() >= nearest.squaredNorm()) break;  // Rounding keeps it from coming nearer.
    simplex = grown;
    nearest = next;
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
