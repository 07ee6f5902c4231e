// Cutting convex polyhedra by planes.
#include "geometry/cutting/cut.h"

#include <algorithm>

#include "geometry/base/error.h"
#include "geometry/shapes/parts.h"

namespace bronvel {
namespace {

constexpr std::uint32_t none = 0xFFFFFFFFU;
constexpr int round_sides = 24;  // of a shape of revolution

void add_face(Facets& f, const std::vector<std::uint32_t>& corners, const Plane& plane) {
  f.loops.insert(f.loops.end(), corners.begin(), corners.end());
  f.starts.push_back(static_cast<std::uint32_t>(f.loops.size()));
  f.planes.push_back(plane);
}

Facets from_hull(const HullData& hull) {
  Facets f;
  f.corners = hull.corners;
  for (std::size_t i = 0; i < hull.faces.size(); ++i) {
    f.loops.insert(f.loops.end(), hull.faces[i].begin(), hull.faces[i].end());
    f.starts.push_back(static_cast<std::uint32_t>(f.loops.size()));
    f.planes.push_back({hull.normals[i], hull.offsets[i]});
  }
  return f;
}

Facets from_box(const Box& box) {
  Facets f;
  const Vec3 h = 0.5 * box.size;
  for (int i = 0; i < 8; ++i)
    f.corners.emplace_back((i & 1) != 0 ? h.x() : -h.x(), (i & 2) != 0 ? h.y() : -h.y(), (i & 4) != 0 ? h.z() : -h.z());
  add_face(f, {0, 4, 6, 2}, {-Vec3::Unit(0), h.x()});
  add_face(f, {1, 3, 7, 5}, {Vec3::Unit(0), h.x()});
  add_face(f, {0, 1, 5, 4}, {-Vec3::Unit(1), h.y()});
  add_face(f, {2, 6, 7, 3}, {Vec3::Unit(1), h.y()});
  add_face(f, {0, 2, 3, 1}, {-Vec3::Unit(2), h.z()});
  add_face(f, {4, 5, 7, 6}, {Vec3::Unit(2), h.z()});
  return f;
}

// Rings of corners about Y, from below, by radius and height; a radius of 0 is a single point. What lies between two
// rings is flat, side by side: no hull has to be looked for.
Facets from_rings(const std::vector<std::pair<double, double>>& rings, double volume) {
  Facets f;
  std::vector<std::uint32_t> below, ring;
  const auto add = [&](const std::vector<std::uint32_t>& loop) {
    const Vec3 &a = f.corners[loop[0]], &b = f.corners[loop[1]], &c = f.corners[loop[2]];
    const Vec3 normal = (b - a).cross(c - a).normalized();
    add_face(f, loop, {normal, normal.dot(a)});
  };
  const auto number = [](const std::vector<std::uint32_t>& of, int i) {
    return of[static_cast<std::size_t>(i) % of.size()];
  };
  for (std::size_t r = 0; r < rings.size(); ++r) {
    const auto& [radius, y] = rings[r];
    if (r > 0 && radius == rings[r - 1].first && y == rings[r - 1].second) continue;
    ring.clear();
    for (int i = 0; i < (radius > 0 ? round_sides : 1); ++i) {
      const double angle = 2 * pi * i / round_sides;
      ring.push_back(static_cast<std::uint32_t>(f.corners.size()));
      f.corners.emplace_back(radius * std::cos(angle), y, radius * std::sin(angle));
    }
    if (below.empty()) {
      if (radius > 0) add(ring);  // angles run clockwise seen from above
    } else {
      for (int i = 0; i < round_sides && (ring.size() > 1 || below.size() > 1); ++i) {
        std::vector<std::uint32_t> side{number(below, i), number(ring, i)};
        if (ring.size() > 1) side.push_back(number(ring, i + 1));
        if (below.size() > 1) side.push_back(number(below, i + 1));
        add(side);
      }
    }
    below = ring;
  }
  if (below.size() > 1) {
    std::reverse(below.begin(), below.end());
    add(below);
  }
  // Out to the volume of what is round.
  const double grow = std::cbrt(volume / volume_of(f).volume);
  for (Vec3& corner : f.corners) corner *= grow;
  for (Plane& plane : f.planes) plane.offset *= grow;
  return f;
}

// Half a circle of the radius about (0, y), from `from` to `to` quarter turns above the horizontal.
void add_arc(std::vector<std::pair<double, double>>& rings, double radius, double y, double from, double to) {
  constexpr int steps = 6;
  for (int i = 0; i <= steps; ++i) {
    const double angle = 0.5 * pi * (from + (to - from) * i / steps);
    rings.emplace_back(std::max(0.0, radius * std::cos(angle)) < 1e-9 * radius ? 0 : radius * std::cos(angle),
                       y + radius * std::sin(angle));
  }
}

}  // namespace

Facets facets_of(const Shape& shape) {
  if (const auto* hull = std::get_if<Hull>(&shape)) return from_hull(*hull->data);
  if (const auto* box = std::get_if<Box>(&shape)) return from_box(*box);
  std::vector<std::pair<double, double>> rings;
  if (const auto* ball = std::get_if<Sphere>(&shape)) {
    add_arc(rings, ball->radius, 0, -1, 1);
  } else if (const auto* capsule = std::get_if<Capsule>(&shape)) {
    add_arc(rings, capsule->radius, -0.5 * capsule->length, -1, 0);
    add_arc(rings, capsule->radius, 0.5 * capsule->length, 0, 1);
  } else if (const auto* cylinder = std::get_if<Cylinder>(&shape)) {
    rings = {{cylinder->radius, -0.5 * cylinder->height}, {cylinder->radius, 0.5 * cylinder->height}};
  } else if (const auto* cone = std::get_if<Cone>(&shape)) {
    rings = {{cone->radius, -0.5 * cone->height}, {0, 0.5 * cone->height}};
  } else {
    throw Error("cut", "wants a convex shape, not a " + shape_word(shape));
  }
  return from_rings(rings, shape_volume(shape));
}

Facets moved(const Facets& facets, const Pose& pose) {
  Facets f = facets;
  for (Vec3& corner : f.corners) corner = pose.to_scene(corner);
  for (Plane& plane : f.planes) {
    plane.normal = pose.orientation * plane.normal;
    plane.offset += plane.normal.dot(pose.position);
  }
  return f;
}

VolumeAndCentre volume_of(const Facets& f) {
  if (f.corners.empty()) return {};
  const Vec3 origin = f.corners[0];
  double six = 0;
  Vec3 moment = Vec3::Zero();
  for (std::size_t face = 0; face < f.face_count(); ++face) {
    const Vec3 a = f.corner(face, 0) - origin;
    for (std::size_t i = 1; i + 1 < f.face_size(face); ++i) {
      const Vec3 b = f.corner(face, i) - origin, c = f.corner(face, i + 1) - origin;
      const double part = a.dot(b.cross(c));
      six += part;
      moment += part * (a + b + c);
    }
  }
  if (!(six > 0)) return {};
  return {six / 6, origin + moment / (4 * six)};
}

Cutter::Result Cutter::keep_inside(Facets& f, const Plane& plane, double thin) {
  heights_.resize(f.corners.size());
  bool above = false, below = false;
  for (std::size_t i = 0; i < f.corners.size(); ++i) {
    double& height = heights_[i] = plane.normal.dot(f.corners[i]) - plane.offset;
    if (std::abs(height) <= thin) height = 0;
    above = above || height > 0;
    below = below || height < 0;
  }
  if (!above) return Result::whole;
  if (!below) return Result::nothing;

  out_.corners.clear();
  out_.loops.clear();
  out_.starts.assign(1, 0);
  out_.planes.clear();
  new_number_.assign(f.corners.size(), none);
  crossings_.clear();
  cap_.clear();
  const auto kept = [&](std::uint32_t corner) {
    std::uint32_t& number = new_number_[corner];
    if (number == none) {
      number = static_cast<std::uint32_t>(out_.corners.size());
      out_.corners.push_back(f.corners[corner]);
      if (heights_[corner] == 0) cap_.push_back(number);
    }
    return number;
  };
  // An edge belongs to two faces: its crossing is made once.
  const auto crossing = [&](std::uint32_t a, std::uint32_t b) {
    if (a > b) std::swap(a, b);
    for (const Crossing& c : crossings_)
      if (c.from == a && c.to == b) return c.number;
    const double share = heights_[a] / (heights_[a] - heights_[b]);
    const auto number = static_cast<std::uint32_t>(out_.corners.size());
    out_.corners.push_back(f.corners[a] + share * (f.corners[b] - f.corners[a]));
    crossings_.push_back({a, b, number});
    cap_.push_back(number);
    return number;
  };
  for (std::size_t face = 0; face < f.face_count(); ++face) {
    const std::size_t start = out_.loops.size(), count = f.face_size(face);
    bool any_below = false;
    for (std::size_t i = 0; i < count; ++i) {
      const std::uint32_t a = f.loops[f.starts[face] + i], b = f.loops[f.starts[face] + (i + 1) % count];
      if (heights_[a] <= 0) out_.loops.push_back(kept(a));
      any_below = any_below || heights_[a] < 0;
      if ((heights_[a] < 0 && heights_[b] > 0) || (heights_[a] > 0 && heights_[b] < 0))
        out_.loops.push_back(crossing(a, b));
    }
    // A face that only touches the plane leaves nothing but an edge.
    if (!any_below || out_.loops.size() < start + 3) {
      out_.loops.resize(start);
      continue;
    }
    out_.starts.push_back(static_cast<std::uint32_t>(out_.loops.size()));
    out_.planes.push_back(f.planes[face]);
  }
  if (cap_.size() >= 3) {
    Vec3 middle = Vec3::Zero();
    for (const std::uint32_t i : cap_) middle += out_.corners[i] / static_cast<double>(cap_.size());
    const Vec3 u = any_perpendicular(plane.normal), v = plane.normal.cross(u);
    angles_.resize(out_.corners.size());
    for (const std::uint32_t i : cap_) {
      const Vec3 arm = out_.corners[i] - middle;
      angles_[i] = std::atan2(arm.dot(v), arm.dot(u));
    }
    std::sort(cap_.begin(), cap_.end(),
              [&](std::uint32_t a, std::uint32_t b) { return std::pair(angles_[a], a) < std::pair(angles_[b], b); });
    out_.loops.insert(out_.loops.end(), cap_.begin(), cap_.end());
    out_.starts.push_back(static_cast<std::uint32_t>(out_.loops.size()));
    out_.planes.push_back(plane);
  }
  std::swap(f, out_);
  return Result::cut;
}

std::optional<Hull> hull_of(const Facets& f) {
  if (f.face_count() < 4) return std::nullopt;
  auto data = std::make_shared<HullData>();
  // Only the corners that some face has.
  std::vector<std::uint32_t> number(f.corners.size(), none);
  data->faces.reserve(f.face_count());
  for (std::size_t face = 0; face < f.face_count(); ++face) {
    std::vector<std::uint32_t>& loop = data->faces.emplace_back();
    loop.reserve(f.face_size(face));
    for (std::uint32_t i = f.starts[face]; i < f.starts[face + 1]; ++i) {
      std::uint32_t& n = number[f.loops[i]];
      if (n == none) {
        n = static_cast<std::uint32_t>(data->corners.size());
        data->corners.push_back(f.corners[f.loops[i]]);
      }
      loop.push_back(n);
    }
    data->normals.push_back(f.planes[face].normal);
    data->offsets.push_back(f.planes[face].offset);
  }
  return finished(std::move(data));
}

std::optional<std::pair<Hull, Hull>> cut_in_two(const Hull& hull, const Plane& plane) {
  const double extent = [&] {
    const Bounds bounds = shape_bounds(hull, Pose{});
    return (bounds.high - bounds.low).maxCoeff();
  }();
  double low = 1e300, high = -1e300;
  for (const Vec3& corner : hull.data->corners) {
    const double height = plane.normal.dot(corner) - plane.offset;
    low = std::min(low, height);
    high = std::max(high, height);
  }
  if (low > -1e-4 * extent || high < 1e-4 * extent) return std::nullopt;
  const double thin = 1e-9 * extent;
  Cutter cutter;
  Facets behind = from_hull(*hull.data), before = behind;
  cutter.keep_inside(behind, plane, thin);
  cutter.keep_inside(before, {-plane.normal, -plane.offset}, thin);
  auto a = hull_of(behind), b = hull_of(before);
  if (!a || !b) return std::nullopt;
  return std::pair(*a, *b);
}

}  // namespace bronvel
