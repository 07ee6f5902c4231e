// What of a shape lies below a plane: volume and centre, for things that float; and the outline of the cut.
#pragma once

#include <span>
#include <vector>

#include "geometry/contact_clip.h"
#include "geometry/cut.h"

namespace bronvel {

/// The part of the shape at `pose` that lies inside the plane, scene frame. Exact for spheres (the cap's closed form),
/// boxes and hulls (the divergence theorem over their clipped faces); for capsules, cylinders and cones the discs
/// across their axis are summed (Gauss and Legendre, 8 points a stretch; within 0.1 %). Compounds add up; meshes and
/// height fields have no inside.
VolumeAndCentre submerged(const Shape& shape, const Pose& pose, const Plane& surface);

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
