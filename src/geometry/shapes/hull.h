// Convex hulls: made once from points, shared by all bodies that have them.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "geometry/shapes/shape.h"

namespace bronvel {

/// The box that a hull is.
struct HullBox {
  Box box;
  Pose pose;  ///< in the hull's frame
};

/// A convex polyhedron. Faces list their corners counter-clockwise seen from outside.
struct HullData {
  std::vector<Vec3> points;   ///< as given, m
  std::vector<Vec3> corners;  ///< those on the hull
  std::vector<std::vector<std::uint32_t>> faces;
  std::vector<Vec3> normals;               ///< outward, unit, one a face
  std::vector<double> offsets;             ///< normal · x of the face's plane
  std::vector<Vec3> areas;                 ///< outward, as long as the face is large, m²
  std::vector<Vec3> middles;               ///< of the faces' areas, m
  std::vector<std::uint64_t> corner_sets;  ///< a bit for each corner of the face; none if the hull has more than 64
  double volume = 0;                       ///< m³
  Vec3 centre = Vec3::Zero();              ///< of the volume, m
  Mat3 inertia = Mat3::Zero();             ///< about `centre`, for density 1 kg/m³
  double inner_radius = 0;                 ///< of the ball about `centre` that touches the nearest face, m
  std::optional<HullBox> box;              ///< if its faces are those of one, to 1e-9
};

/// Of a scene's hull: more is as good as round, and takes as long as a thousand boxes.
inline constexpr std::size_t most_hull_points = 5000;

/// The hull of at least four points that do not lie in a plane. Throws Error otherwise. Built by Qhull.
Hull make_hull(const std::vector<Vec3>& points);

/// A hull whose corners, faces, normals and offsets are known already: works out the rest. None if it is too flat to
/// have a volume (less than 1e-9 of its extent cubed).
std::optional<Hull> finished(std::shared_ptr<HullData> data);

}  // namespace bronvel
