// Convex polyhedra cut by planes: again and again, each part closed by the face of the cut.
#pragma once

#include <optional>
#include <utility>
#include <vector>

#include "geometry/base/plane.h"
#include "geometry/shapes/hull.h"

namespace bronvel {

/// A convex polyhedron by its faces, for cutting. Flat lists: face f has the corners loops[starts[f]] to
/// loops[starts[f + 1] - 1], counter-clockwise seen from outside.
struct Facets {
  std::vector<Vec3> corners;  ///< m
  std::vector<std::uint32_t> loops;
  std::vector<std::uint32_t> starts{0};
  std::vector<Plane> planes;  ///< one a face, outward

  std::size_t face_count() const { return planes.size(); }
  std::size_t face_size(std::size_t face) const { return starts[face + 1] - starts[face]; }
  const Vec3& corner(std::size_t face, std::size_t i) const { return corners[loops[starts[face] + i]]; }
};

/// A convex shape by its faces, in its own frame. What is round gets facets, scaled so that the volume is the shape's.
/// Throws Error for shapes that are not convex.
Facets facets_of(const Shape& shape);

/// The same in the frame that `pose` is given in.
Facets moved(const Facets& facets, const Pose& pose);

/// Six times the volume's sums: volume (m³) and the point that is its centre (m; zero where there is no volume).
struct VolumeAndCentre {
  double volume = 0;
  Vec3 centre = Vec3::Zero();
};
VolumeAndCentre volume_of(const Facets& facets);

/// Cuts away what lies outside the plane, closing what is left with a face in it (after Sutherland and Hodgman, 1974).
/// Scratch room is kept from call to call.
class Cutter {
 public:
  enum class Result { whole, cut, nothing };
  /// What is nearer to the plane than `thin` (m) counts as lying in it.
  Result keep_inside(Facets& facets, const Plane& plane, double thin);

 private:
  std::vector<double> heights_;
  std::vector<std::uint32_t> new_number_;
  struct Crossing {
    std::uint32_t from, to, number;
  };
  std::vector<Crossing> crossings_;
  std::vector<std::uint32_t> cap_;
  std::vector<double> angles_;
  Facets out_;
};

/// The hull with these faces; none if it is thinner than makes sense (volume below 1e-9 of its extent cubed).
std::optional<Hull> hull_of(const Facets& facets);

/// The two parts of a hull, that behind the plane's normal first. None when the plane misses it or leaves one side
/// thinner than 1e-4 of the hull's extent.
std::optional<std::pair<Hull, Hull>> cut_in_two(const Hull& hull, const Plane& plane);

}  // namespace bronvel
