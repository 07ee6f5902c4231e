// Submerged volumes.
#include "geometry/cutting/submerged.h"

#include <array>

#include "geometry/shapes/compound.h"

namespace bronvel {
namespace {

// All in the shape's own frame: the part inside normal · x ≤ offset, the normal of length 1.

Submersion round(const VolumeAndCentre& part, const Plane& plane) {
  Submersion all;
  all.part = part;
  all.plane = plane;
  return all;
}

Submersion below(const Sphere& s, const Plane& plane) {
  // How deep the sphere's lowest point lies, from 0 to the diameter.
  const double r = s.radius, depth = std::clamp(r + plane.offset, 0.0, 2 * r);
  if (depth <= 0) return round({}, plane);
  const double volume = pi * depth * depth * (r - depth / 3);
  // The cap's centroid lies 3 (2r − d)² / (4 (3r − d)) from the middle.
  const double off = 3 * (2 * r - depth) * (2 * r - depth) / (4 * (3 * r - depth));
  return round({volume, -off * plane.normal}, plane);
}

// A solid's corners, from a point in the plane, and their heights above it. Each face's share of the volume beneath:
// tetrahedra to that point, so that the cut's own face adds nothing; and of that face: the triangle between that point
// and the line along which the plane cuts the face.
class ClippedFaces {
 public:
  ClippedFaces(const Plane& plane, std::size_t corners) : plane_(plane), origin_(plane.offset * plane.normal) {
    if (corners > few_.size()) many_.resize(corners);
    corners_ = corners > few_.size() ? many_.data() : few_.data();
  }
  ClippedFaces(const ClippedFaces&) = delete;  // points into itself
  ClippedFaces& operator=(const ClippedFaces&) = delete;
  ~ClippedFaces() = default;

  // Gives its height.
  double set_corner(std::size_t i, const Vec3& place) {
    corners_[i].place = place - origin_;
    const double height = corners_[i].height = plane_.normal.dot(corners_[i].place);
    nearest_ = std::min(nearest_, std::abs(height));
    farthest_ = std::max(farthest_, corners_[i].place.squaredNorm());
    return height;
  }

  // Corners by number, in order around the face.
  template <class Face>
  void add(const Face& face) {
    const auto corner = [&](std::size_t i) -> const Corner& { return corners_[static_cast<std::size_t>(face[i])]; };
    std::size_t beneath = 0;
    for (std::size_t i = 0; i < face.size(); ++i) beneath += corner(i).height <= 0 ? 1 : 0;
    if (beneath == 0) return;
    if (beneath == face.size()) {
      for (std::size_t i = 2; i < face.size(); ++i) add_triangle(corner(0).place, corner(i - 1).place, corner(i).place);
      return;
    }
    Vec3 first = Vec3::Zero(), last = Vec3::Zero(), in = Vec3::Zero(), out = Vec3::Zero();
    int have = 0;
    const auto take = [&](const Vec3& p) {
      if (have == 0)
        first = p;
      else if (have >= 2)
        add_triangle(first, last, p);
      last = p;
      ++have;
    };
    for (std::size_t i = 0, before = face.size() - 1; i < face.size(); before = i++) {
      const Corner &a = corner(before), &b = corner(i);
      if ((a.height <= 0) != (b.height <= 0)) {
        const Vec3 at = a.place + (a.height / (a.height - b.height)) * (b.place - a.place);
        take(at);
        (b.height <= 0 ? in : out) = at;
      }
      if (b.height <= 0) take(b.place);
    }
    add_cut(in, out);
  }

  // A face that is beneath whole: its tetrahedra's volumes are to each other as its triangles' areas.
  void add_whole(const Vec3& area, const Vec3& middle) {
    const Vec3 out = middle - origin_;
    const double part = 2 * area.dot(out);
    six_ += part;
    moment_ += 3 * part * out;
  }

  // What lies beneath as a whole is known, if it is given.
  Submersion sum(const std::optional<VolumeAndCentre>& known = {}) const {
    Submersion all;
    all.plane = plane_;
    all.next_corner = nearest_;
    all.reach = std::sqrt(farthest_);
    if (known)
      all.part = *known;
    else if (six_ > 0)
      all.part = {six_ / 6, origin_ + moment_ / (4 * six_)};
    all.area = area_ / 2;
    all.first = first_ / 6;
    all.second = second_ / 24;
    return all;
  }

 private:
  void add_cut(const Vec3& a, const Vec3& b) {
    const double part = plane_.normal.dot(a.cross(b));
    const Vec3 both = a + b;
    area_ += part;
    first_ += part * both;
    second_ += (part * a) * a.transpose() + (part * b) * b.transpose() + (part * both) * both.transpose();
  }
  void add_triangle(const Vec3& a, const Vec3& b, const Vec3& c) {
    const double part = a.dot(b.cross(c));
    six_ += part;
    moment_ += part * (a + b + c);
  }

  struct Corner {
    Vec3 place;     // m
    double height;  // m
  };

  const Plane& plane_;
  Vec3 origin_;
  Corner* corners_;
  std::array<Corner, 64> few_;
  std::vector<Corner> many_;
  double six_ = 0;
  Vec3 moment_ = Vec3::Zero();
  double area_ = 0;  // twice
  Vec3 first_ = Vec3::Zero();
  Mat3 second_ = Mat3::Zero();
  double nearest_ = 1e300, farthest_ = 0;
};

Submersion below(const Box& box, const Plane& plane) {
  const Vec3 h = 0.5 * box.size;
  const double reach = plane.normal.cwiseAbs().dot(h);
  if (std::abs(plane.offset) >= reach) {
    Submersion all;
    all.plane = plane;
    if (plane.offset > 0) all.part = {box.size.prod(), Vec3::Zero()};
    all.reach = std::abs(plane.offset) + h.norm();
    all.next_corner = std::abs(plane.offset) - reach;
    return all;
  }
  static constexpr std::array<std::array<int, 4>, 6> faces{
      {{0, 4, 6, 2}, {1, 3, 7, 5}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 2, 3, 1}, {4, 5, 7, 6}}};
  ClippedFaces clipped(plane, 8);
  for (std::size_t i = 0; i < 8; ++i)
    clipped.set_corner(
        i, {(i & 1U) != 0 ? h.x() : -h.x(), (i & 2U) != 0 ? h.y() : -h.y(), (i & 4U) != 0 ? h.z() : -h.z()});
  for (const auto& face : faces) clipped.add(face);
  return clipped.sum();
}

Submersion below(const Hull& hull, const Plane& plane) {
  const HullData& data = *hull.data;
  ClippedFaces clipped(plane, data.corners.size());
  std::size_t count = 0;
  std::uint64_t beneath = 0;  // a bit by corner, of the first 64
  for (std::size_t i = 0; i < data.corners.size(); ++i) {
    const bool here = clipped.set_corner(i, data.corners[i]) <= 0;
    count += here ? 1 : 0;
    if (i < 64) beneath |= static_cast<std::uint64_t>(here) << i;
  }
  if (count == data.corners.size()) return clipped.sum(VolumeAndCentre{data.volume, data.centre});
  if (count == 0) return clipped.sum(VolumeAndCentre{});
  for (std::size_t f = 0; f < data.faces.size(); ++f) {
    const std::uint64_t corners = data.corner_sets.empty() ? 0 : data.corner_sets[f];
    if (corners != 0 && (corners & beneath) == 0) continue;
    if (corners != 0 && (corners & ~beneath) == 0)
      clipped.add_whole(data.areas[f], data.middles[f]);
    else
      clipped.add(data.faces[f]);
  }
  return clipped.sum();
}

// Discs across Y summed from `from` to `to`. `radius_at` gives a disc's radius.
class Discs {
 public:
  explicit Discs(const Plane& plane) : plane_(plane), tilt_(std::hypot(plane.normal.x(), plane.normal.z())) {
    if (tilt_ > 1e-12) lean_ = Vec3(plane.normal.x(), 0, plane.normal.z()) / tilt_;
  }

  double tilt() const { return tilt_; }

  template <class Radius>
  void add(double from, double to, std::initializer_list<double> breaks, const Radius& radius_at) {
    // At most two breaks, in order.
    double first = to, second = to;
    for (const double y : breaks)
      if (y > from && y < to) {
        second = first < to ? std::max(first, y) : to;
        first = std::min(first, y);
      }
    const std::array<double, 4> at{from, first, second, to};
    // Gauss and Legendre, 8 points (Abramowitz and Stegun, table 25.4).
    static constexpr std::array<double, 4> points{0.1834346424956498, 0.5255324099163290, 0.7966664774136267,
                                                  0.9602898564975363};
    static constexpr std::array<double, 4> weights{0.3626837833783620, 0.3137066458778873, 0.2223810344533745,
                                                   0.1012285362903763};
    for (std::size_t i = 0; i + 1 < at.size(); ++i) {
      if (!(at[i + 1] > at[i])) continue;
      const double half = 0.5 * (at[i + 1] - at[i]), middle = 0.5 * (at[i + 1] + at[i]);
      for (std::size_t k = 0; k < 4; ++k)
        for (const double side : {-1.0, 1.0}) {
          const double y = middle + side * half * points[k];
          add_disc(y, radius_at(y), half * weights[k]);
        }
    }
  }

  VolumeAndCentre sum() const {
    if (!(volume_ > 0)) return {};
    return {volume_, moment_ / volume_};
  }

 private:
  void add_disc(double y, double radius, double weight) {
    const double chord = plane_.offset - plane_.normal.y() * y;  // tilt × distance of the chord from the middle
    const double r2 = radius * radius;
    double area = pi * r2, off = 0;
    if (chord <= -tilt_ * radius) return;
    if (chord < tilt_ * radius) {
      const double t = chord / (tilt_ * radius), s = std::sqrt(1 - t * t);
      area = r2 * (pi - std::acos(t) + t * s);
      off = -2.0 / 3.0 * r2 * radius * s * s * s;  // first moment along the lean
    }
    volume_ += weight * area;
    moment_ += weight * (Vec3(0, y * area, 0) + off * lean_);
  }

  const Plane& plane_;
  double tilt_;
  Vec3 lean_ = Vec3::Zero();
  double volume_ = 0;
  Vec3 moment_ = Vec3::Zero();
};

// Heights at which a cone's or cylinder's discs, of radius r0 + slope y, begin and cease to be cut.
std::array<double, 2> breaks_of(const Plane& plane, double tilt, double r0, double slope) {
  std::array<double, 2> at{};
  for (std::size_t i = 0; i < 2; ++i) {
    const double side = i == 0 ? -tilt : tilt;
    const double along = plane.normal.y() + side * slope;
    at[i] = std::abs(along) > 1e-12 ? (plane.offset - side * r0) / along : 1e300;
  }
  return at;
}

Submersion below(const Cylinder& c, const Plane& plane) {
  Discs discs(plane);
  const auto [a, b] = breaks_of(plane, discs.tilt(), c.radius, 0);
  discs.add(-0.5 * c.height, 0.5 * c.height, {a, b}, [&](double) { return c.radius; });
  return round(discs.sum(), plane);
}

Submersion below(const Cone& c, const Plane& plane) {
  Discs discs(plane);
  const double slope = -c.radius / c.height;
  const auto [a, b] = breaks_of(plane, discs.tilt(), 0.5 * c.radius, slope);
  discs.add(-0.5 * c.height, 0.5 * c.height, {a, b}, [&](double y) { return 0.5 * c.radius + slope * y; });
  return round(discs.sum(), plane);
}

Submersion below(const Capsule& c, const Plane& plane) {
  const double r = c.radius, half = 0.5 * c.length;
  const double reach = std::abs(plane.normal.y()) * half + r;
  if (plane.offset >= reach) return round({shape_volume(c), Vec3::Zero()}, plane);
  if (plane.offset <= -reach) return round({}, plane);
  Discs discs(plane);
  const auto [a, b] = breaks_of(plane, discs.tilt(), r, 0);
  discs.add(-half, half, {a, b}, [&](double) { return r; });
  for (const double middle : {-half, half}) {
    // The discs that the plane's line touches in the ball's outline.
    const double e = plane.offset - plane.normal.y() * middle;
    const double across = std::abs(e) < r ? discs.tilt() * std::sqrt(r * r - e * e) : 0;
    const double near = middle + plane.normal.y() * e - across, far = middle + plane.normal.y() * e + across;
    const auto ball = [&](double y) { return std::sqrt(std::max(0.0, r * r - (y - middle) * (y - middle))); };
    if (middle < 0)
      discs.add(middle - r, middle, {near, far}, ball);
    else
      discs.add(middle, middle + r, {near, far}, ball);
  }
  return round(discs.sum(), plane);
}

Submersion below(const Compound& compound, const Plane& plane);
Submersion below(const Mesh&, const Plane& plane) {
  return round({}, plane);
}
Submersion below(const HeightField&, const Plane& plane) {
  return round({}, plane);
}
Submersion below(const Facet&, const Plane& plane) {
  return round({}, plane);
}

Submersion below(const Compound& compound, const Plane& plane) {
  Submersion all;
  all.plane = plane;
  all.next_corner = 1e300;
  Vec3 moment = Vec3::Zero();
  for (const Part& part : compound.data->parts) {
    const Submersion one = submersion(part.shape, in_frame(plane, part.pose));
    all.part.volume += one.part.volume;
    moment += one.part.volume * part.pose.to_scene(one.part.centre);
    if (!all.next_corner || !one.next_corner) {
      all.next_corner.reset();
      continue;
    }
    // The plane's point nearest the part's origin, from the one nearest the compound's.
    const Mat3 turn = part.pose.orientation.toRotationMatrix();
    const Vec3 off = part.pose.to_scene(one.plane.offset * one.plane.normal) - plane.offset * plane.normal;
    const Vec3 first = turn * one.first;
    all.area += one.area;
    all.first += first + one.area * off;
    all.second += turn * one.second * turn.transpose() + first * off.transpose() + off * first.transpose() +
                  one.area * off * off.transpose();
    all.reach = std::max(all.reach, one.reach + off.norm());
    all.next_corner = std::min(*all.next_corner, *one.next_corner);
  }
  if (all.part.volume > 0) all.part.centre = moment / all.part.volume;
  return all;
}

}  // namespace

Plane in_frame(const Plane& plane, const Pose& pose) {
  return {pose.orientation.conjugate() * plane.normal, plane.offset - plane.normal.dot(pose.position)};
}

Submersion submersion(const Shape& shape, const Plane& own) {
  return std::visit([&](const auto& s) { return below(s, own); }, shape);
}

std::optional<VolumeAndCentre> moved_on(const Submersion& before, const Plane& own) {
  if (!before.next_corner) return {};
  // The plane is met `rise + slope · r` along its old normal from the point r of the old one.
  const Vec3& normal = before.plane.normal;
  const double along = own.normal.dot(normal);
  if (!(along > 0.5)) return {};
  const double rise = (own.offset - before.plane.offset * along) / along;
  const Vec3 slope = (normal * along - own.normal) / along;
  const double most = std::abs(rise) + slope.norm() * before.reach;
  // A corner's own way is not along the normal.
  if (!(most < 0.9 * *before.next_corner) || !(most < 0.01 * before.reach)) return {};
  if (before.area == 0) return before.part;
  const Vec3 turned = before.second * slope;
  const double risen = rise * before.area + slope.dot(before.first);
  const double squares = rise * rise * before.area + 2 * rise * slope.dot(before.first) + slope.dot(turned);
  const double volume = before.part.volume + risen;
  if (!(volume > 0)) return {};
  const Vec3 moment = before.part.volume * before.part.centre + rise * before.first + turned +
                      (before.plane.offset * risen + 0.5 * squares) * normal;
  return VolumeAndCentre{volume, moment / volume};
}

VolumeAndCentre submerged(const Shape& shape, const Pose& pose, const Plane& surface) {
  VolumeAndCentre found = submersion(shape, in_frame(surface, pose)).part;
  found.centre = pose.to_scene(found.centre);
  return found;
}

VolumeAndCentre submerged(const Shape& shape, const Pose& pose, std::span<const Plane> planes) {
  if (const auto* compound = std::get_if<Compound>(&shape)) {
    VolumeAndCentre all;
    Vec3 moment = Vec3::Zero();
    for (const Part& part : compound->data->parts) {
      const VolumeAndCentre one = submerged(part.shape, pose * part.pose, planes);
      all.volume += one.volume;
      moment += one.volume * one.centre;
    }
    if (all.volume > 0) all.centre = moment / all.volume;
    return all;
  }
  if (!has_volume(shape)) return {};
  // Most planes miss: only those that cut are cut with.
  const Bounds bounds = shape_bounds(shape, pose);
  const Vec3 middle = 0.5 * (bounds.low + bounds.high), half = 0.5 * (bounds.high - bounds.low);
  const Plane* only = nullptr;
  int cutting = 0;
  for (const Plane& plane : planes) {
    const double height = plane.normal.dot(middle) - plane.offset, reach = plane.normal.cwiseAbs().dot(half);
    if (height >= reach) return {};
    if (height > -reach) {
      ++cutting;
      only = &plane;
    }
  }
  if (cutting == 0) return submerged(shape, pose, Plane{Vec3::Unit(1), 1e9});
  if (cutting == 1) return submerged(shape, pose, *only);
  Facets facets = moved(facets_of(shape), pose);
  Cutter cutter;
  for (const Plane& plane : planes)
    if (cutter.keep_inside(facets, plane, 0) == Cutter::Result::nothing) return {};
  return volume_of(facets);
}

std::vector<std::vector<Vec3>> section_of(const Shape& shape, const Pose& pose, const Plane& plane) {
  std::vector<std::vector<Vec3>> loops;
  if (const auto* compound = std::get_if<Compound>(&shape)) {
    for (const Part& part : compound->data->parts)
      for (auto& loop : section_of(part.shape, pose * part.pose, plane)) loops.push_back(std::move(loop));
    return loops;
  }
  if (!has_volume(shape)) return loops;
  Facets facets = moved(facets_of(shape), pose);
  if (Cutter().keep_inside(facets, plane, 0) != Cutter::Result::cut) return loops;
  std::vector<Vec3>& loop = loops.emplace_back();
  const std::size_t cap = facets.face_count() - 1;
  for (std::size_t i = 0; i < facets.face_size(cap); ++i) loop.push_back(facets.corner(cap, i));
  return loops;
}

Section section_properties(const std::vector<Vec3>& loop) {
  Section s;
  if (loop.size() < 3) return s;
  const Vec3& o = loop[0];
  Vec3 moment = Vec3::Zero();
  Mat3 second = Mat3::Zero();  // about o
  Vec3 direction = Vec3::Zero();
  for (std::size_t i = 1; i + 1 < loop.size(); ++i) direction += (loop[i] - o).cross(loop[i + 1] - o);
  const double length = direction.norm();
  if (!(length > 0)) return s;
  direction /= length;
  for (std::size_t i = 1; i + 1 < loop.size(); ++i) {
    const Vec3 a = loop[i] - o, b = loop[i + 1] - o;
    const double area = 0.5 * a.cross(b).dot(direction);
    s.area += area;
    moment += area / 3 * (a + b);
    const Vec3 sum = a + b;
    second += area / 12 * (a * a.transpose() + b * b.transpose() + sum * sum.transpose());
  }
  const Vec3 off = moment / s.area;
  s.centre = o + off;
  s.second = second - s.area * off * off.transpose();
  return s;
}

}  // namespace bronvel
