// What of a shape lies below a plane: volume and centre, for things that float; and the outline of the cut.
#pragma once

#include <optional>
#include <span>
#include <vector>

#include "geometry/cutting/cut.h"

namespace bronvel {

/// The part of the shape at `pose` that lies inside the plane, scene frame. Exact for spheres (the cap's closed form),
/// boxes and hulls (the divergence theorem over their clipped faces); for capsules, cylinders and cones the discs
/// across their axis are summed (Gauss and Legendre, 8 points a stretch; within 0.1 %). Compounds add up; meshes and
/// height fields have no inside.
VolumeAndCentre submerged(const Shape& shape, const Pose& pose, const Plane& surface);

/// The plane as seen from a frame that lies at `pose`.
Plane in_frame(const Plane& plane, const Pose& pose);

/// What lies inside a plane, and what little moves of the plane make of it, in the shape's own frame.
struct Submersion {
  VolumeAndCentre part;
  Plane plane;
  /// Of the area that the plane cuts, about the plane's point nearest the frame's origin: it, ∫ r dA, ∫ r rᵀ dA.
  double area = 0;                      ///< m²
  Vec3 first = Vec3::Zero();            ///< m³
  Mat3 second = Mat3::Zero();           ///< m⁴
  double reach = 0;                     ///< how far the shape goes from that point, m
  std::optional<double> next_corner{};  ///< how far off the plane the nearest corner is, m; none of round shapes
};
Submersion submersion(const Shape& shape, const Plane& own);

/// The same for a plane that has come a little way since: first order in the cut's sides, second in the plane's
/// turning. None if it may have come past a corner or by more than a hundredth of the shape's reach, or the shape is
/// round anywhere.
std::optional<VolumeAndCentre> moved_on(const Submersion& before, const Plane& own);

/// The same inside several planes. Where more than one of them cuts a round shape its facets stand for it.
VolumeAndCentre submerged(const Shape& shape, const Pose& pose, std::span<const Plane> planes);

/// Where the plane cuts the shape's surface: a closed loop of corners for each convex part that it cuts, counter-
/// clockwise about the plane's normal, scene frame. What is round gives its facets' outline.
std::vector<std::vector<Vec3>> section_of(const Shape& shape, const Pose& pose, const Plane& plane);

/// Area and second moments of a flat loop.
struct Section {
  double area = 0;             ///< m²
  Vec3 centre = Vec3::Zero();  ///< m
  Mat3 second = Mat3::Zero();  ///< ∫ r rᵀ dA about `centre`, m⁴
};
Section section_properties(const std::vector<Vec3>& loop);

}  // namespace bronvel
