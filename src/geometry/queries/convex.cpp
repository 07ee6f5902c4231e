// Support points and features of convex shapes.
#include "geometry/queries/convex.h"

#include <concepts>
#include <utility>

#include "geometry/shapes/hull.h"

namespace bronvel {
namespace {

// A round face is touched as a polygon of this many corners.
constexpr int round_corners = 12;
// A side counts as looked at when it is within this angle's sine of square to the direction.
constexpr double side_on = 0.06;

Vec3 farthest_of(const Sphere&, const Vec3&) {
  return Vec3::Zero();
}

Vec3 farthest_of(const Box& b, const Vec3& d) {
  return {std::copysign(0.5 * b.size.x(), d.x()), std::copysign(0.5 * b.size.y(), d.y()),
          std::copysign(0.5 * b.size.z(), d.z())};
}

Vec3 farthest_of(const Capsule& c, const Vec3& d) {
  return {0, std::copysign(0.5 * c.length, d.y()), 0};
}

Vec3 rim(double radius, double height, const Vec3& d) {
  const double across = std::sqrt(d.x() * d.x() + d.z() * d.z());
  if (across < 1e-300) return {radius, height, 0};
  return {radius * d.x() / across, height, radius * d.z() / across};
}

Vec3 farthest_of(const Cylinder& c, const Vec3& d) {
  return rim(c.radius, std::copysign(0.5 * c.height, d.y()), d);
}

Vec3 farthest_of(const Cone& c, const Vec3& d) {
  const Vec3 apex(0, 0.5 * c.height, 0), base = rim(c.radius, -0.5 * c.height, d);
  return apex.dot(d) > base.dot(d) ? apex : base;
}

// The number of the one that reaches farthest along the direction.
std::size_t farthest_along(const std::vector<Vec3>& all, const Vec3& d) {
  std::size_t best = 0;
  double most = all[0].dot(d);
  for (std::size_t i = 1; i < all.size(); ++i) {
    const double along = all[i].dot(d);
    if (along > most) {
      most = along;
      best = i;
    }
  }
  return best;
}

Vec3 farthest_of(const Hull& h, const Vec3& d) {
  return h.data->corners[farthest_along(h.data->corners, d)];
}

Polygon feature_of(const Sphere&, const Vec3&) {
  Polygon p;
  p.add(Vec3::Zero(), 0);
  return p;
}

Polygon feature_of(const Box& b, const Vec3& d) {
  int axis = 0;
  d.cwiseAbs().maxCoeff(&axis);
  const double sign = std::copysign(1.0, d[axis]);
  const int u = (axis + 1) % 3, v = (axis + 2) % 3;
  Polygon face;
  for (int i = 0; i < 4; ++i) {
    Vec3 corner;
    corner[axis] = 0.5 * sign * b.size[axis];
    corner[u] = (i == 1 || i == 2 ? 0.5 : -0.5) * b.size[u];
    corner[v] = (i >= 2 ? 0.5 : -0.5) * b.size[v] * sign;
    face.add(corner, static_cast<std::uint32_t>((sign > 0 ? 4 : 0) + 8 * axis + i));
  }
  return face;
}

Polygon feature_of(const Capsule& c, const Vec3& d) {
  Polygon p;
  if (std::abs(d.y()) > side_on * 4) {
    p.add(farthest_of(c, d), d.y() > 0 ? 0 : 1);
    return p;
  }
  p.add({0, 0.5 * c.length, 0}, 0);
  p.add({0, -0.5 * c.length, 0}, 1);
  return p;
}

Polygon disc(double radius, double height, bool up) {
  Polygon p;
  for (int i = 0; i < round_corners; ++i) {
    const double angle = 2 * pi * i / round_corners * (up ? -1 : 1);
    p.add({radius * std::cos(angle), height, radius * std::sin(angle)}, static_cast<std::uint32_t>(i));
  }
  return p;
}

Polygon feature_of(const Cylinder& c, const Vec3& d) {
  const double across = std::sqrt(d.x() * d.x() + d.z() * d.z());
  if (std::abs(d.y()) > across) return disc(c.radius, std::copysign(0.5 * c.height, d.y()), d.y() > 0);
  Polygon p;
  const Vec3 out = rim(c.radius, 0, d);
  if (std::abs(d.y()) > side_on * 4) {
    p.add(farthest_of(c, d), d.y() > 0 ? 0 : 1);
    return p;
  }
  p.add(out + Vec3(0, 0.5 * c.height, 0), 0);
  p.add(out - Vec3(0, 0.5 * c.height, 0), 1);
  return p;
}

Polygon feature_of(const Cone& c, const Vec3& d) {
  const double slant = std::hypot(c.radius, c.height);
  const double across = std::sqrt(d.x() * d.x() + d.z() * d.z());
  if (-d.y() > 0.7) return disc(c.radius, -0.5 * c.height, false);
  // How square the direction is to the slanting side that looks its way.
  const double off_side = std::abs((d.y() * c.height - across * c.radius) / slant);
  Polygon p;
  if (off_side < side_on * 4 && across > 1e-9) {
    p.add({0, 0.5 * c.height, 0}, 0);
    p.add(rim(c.radius, -0.5 * c.height, d), 1);
    return p;
  }
  p.add(farthest_of(c, d), 2);
  return p;
}

Polygon feature_of(const Hull& h, const Vec3& d) {
  Polygon p;
  for (const std::uint32_t corner : h.data->faces[farthest_along(h.data->normals, d)])
    p.add(h.data->corners[corner], corner);
  return p;
}

// The three of these are never met whole, only part by part (geometry/parts.h).
template <class Whole>
requires std::same_as<Whole, Compound> || std::same_as<Whole, Mesh> || std::same_as<Whole, HeightField> Vec3
farthest_of(const Whole&, const Vec3&) {
  return Vec3::Zero();
}

template <class Whole>
requires std::same_as<Whole, Compound> || std::same_as<Whole, Mesh> || std::same_as<Whole, HeightField> Polygon
feature_of(const Whole&, const Vec3&) {
  return {};
}

Vec3 farthest_of(const Facet& f, const Vec3& d) {
  std::size_t best = 0;
  for (std::size_t i = 1; i < 3; ++i)
    if (f.corners[i].dot(d) > f.corners[best].dot(d)) best = i;
  return f.normal.dot(d) >= 0 ? f.corners[best] : Vec3(f.corners[best] - f.depth * f.normal);
}

Polygon feature_of(const Facet& f, const Vec3& d) {
  Polygon p;
  for (std::size_t i = 0; i < 3; ++i) p.add(f.corners[i], static_cast<std::uint32_t>(i));
  if (f.normal.dot(d) > 0.05) return p;
  // Seen from the side: the edge that looks that way.
  std::size_t best = 0;
  double most = -1e300;
  for (std::size_t i = 0; i < 3; ++i) {
    const double out = (f.corners[(i + 1) % 3] - f.corners[i]).cross(f.normal).normalized().dot(d);
    if (out <= most) continue;
    most = out;
    best = i;
  }
  Polygon edge;
  edge.add(f.corners[best], static_cast<std::uint32_t>(best));
  edge.add(f.corners[(best + 1) % 3], static_cast<std::uint32_t>((best + 1) % 3));
  return edge;
}

std::optional<Edge> edge_of(const Box& b, const Vec3& d) {
  int axis = 0;
  d.cwiseAbs().cwiseProduct(b.size).minCoeff(&axis);
  Edge e{farthest_of(b, d), farthest_of(b, d)};
  e.to[axis] = -e.to[axis];
  return e;
}

std::optional<Edge> edge_of(const Capsule& c, const Vec3&) {
  return Edge{{0, 0.5 * c.length, 0}, {0, -0.5 * c.length, 0}};
}

// Of a convex body the next farthest corner is a neighbour of the farthest.
std::optional<Edge> edge_of(const Hull& h, const Vec3& d) {
  const std::vector<Vec3>& corners = h.data->corners;
  std::size_t best = 0, next = 0;
  double most = -1e300, second = -1e300;
  for (std::size_t i = 0; i < corners.size(); ++i) {
    const double along = corners[i].dot(d);
    if (along > most) {
      second = std::exchange(most, along);
      next = std::exchange(best, i);
    } else if (along > second) {
      second = along;
      next = i;
    }
  }
  return Edge{corners[best], corners[next]};
}

template <class Other>
std::optional<Edge> edge_of(const Other&, const Vec3&) {
  return std::nullopt;
}

}  // namespace

double Convex::radius() const {
  if (const auto* sphere = std::get_if<Sphere>(&shape_)) return sphere->radius;
  if (const auto* capsule = std::get_if<Capsule>(&shape_)) return capsule->radius;
  return 0;
}

Vec3 Convex::farthest(const Vec3& direction) const {
  const Vec3 local = rotation_.transpose() * direction;
  return position_ + rotation_ * std::visit([&](const auto& s) { return farthest_of(s, local); }, shape_);
}

Polygon Convex::feature(const Vec3& direction) const {
  const Vec3 local = rotation_.transpose() * direction;
  Polygon p = std::visit([&](const auto& s) { return feature_of(s, local); }, shape_);
  for (int i = 0; i < p.count; ++i) p.at(i).point = position_ + rotation_ * p.at(i).point;
  return p;
}

std::optional<Edge> Convex::edge(const Vec3& direction) const {
  const Vec3 local = rotation_.transpose() * direction;
  std::optional<Edge> e = std::visit([&](const auto& s) { return edge_of(s, local); }, shape_);
  if (e) *e = {position_ + rotation_ * e->from, position_ + rotation_ * e->to};
  return e;
}

}  // namespace bronvel
