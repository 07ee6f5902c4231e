// Clipping of convex polygons, and choosing the four points of a contact that matter most.
#pragma once

#include <array>

#include "geometry/base/plane.h"
#include "geometry/queries/contact.h"

namespace bronvel {

/// Up to 32 things in a row, without an allocation; what is added beyond that is left out. Only those that are there
/// are made and copied: rows are short, and made by the ten thousand in a tick.
template <class T>
class Row {
 public:
  static constexpr int most = 32;
  int count = 0;

  Row() = default;
  Row(const Row& other) : count(other.count) { std::copy_n(other.items_.begin(), count, items_.begin()); }
  Row& operator=(const Row& other) {
    count = other.count;
    std::copy_n(other.items_.begin(), count, items_.begin());
    return *this;
  }
  ~Row() = default;

  T& at(int i) { return items_[static_cast<std::size_t>(i)]; }
  const T& at(int i) const { return items_[static_cast<std::size_t>(i)]; }
  void add(const T& item) {
    if (count < most) at(count++) = item;
  }

 private:
  std::array<T, most> items_;
};

struct PolygonPoint {
  Vec3 point;
  std::uint32_t feature;
};

/// A convex polygon, its corners in order.
struct Polygon : Row<PolygonPoint> {
  using Row::add;
  void add(const Vec3& point, std::uint32_t feature) { add({point, feature}); }
};

/// Leaves the part of the polygon inside the plane (Sutherland and Hodgman, 1974), whose normal may be of any length.
/// New corners are named after the corner they were cut from and `plane_id`.
void clip(Polygon& polygon, const Plane& plane, std::uint32_t plane_id);

/// A contact point before the choice of four.
struct FoundPoint {
  Vec3 point;
  double separation;
  std::uint32_t feature;
};
using PointSet = Row<FoundPoint>;

/// Puts at most four of the points into the manifold: the deepest, the farthest from it, and the two that span the
/// greatest area on either side. m.normal must be set.
void keep_four(const PointSet& found, Manifold& m);

}  // namespace bronvel
