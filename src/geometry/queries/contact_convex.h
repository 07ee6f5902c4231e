// Contact of any two convex shapes.
#pragma once

#include "geometry/queries/contact_clip.h"

namespace bronvel {

/// The manifold of two convex shapes: normal and depth from separation_of, points from the two features that face each
/// other, clipped by one another.
Manifold collide_convex(const Shape& a, const Pose& pose_a, const Shape& b, const Pose& pose_b, double reach,
                        const LastManifold& last = {});

/// The part of a face, an edge or a point within the sides of the face `by`, whose outward normal is given.
Polygon clipped_by_sides(Polygon what, const Polygon& by, const Vec3& normal);

/// Facets that turn from their neighbours by no more than this stand for a smooth surface, rad.
inline constexpr double gentlest_corner = 0.35;

/// The same where A is one triangle of a surface: met from its front alone, and never against an edge that it shares
/// with a neighbour unless the two make a ridge there. So what slides over a surface feels no seams. A ball's foot may
/// also be beyond an edge, by up to `reach`, where the surface bends gently: which plane bears there is for those to
/// say who know the neighbours' (dynamics/creases.h).
Manifold collide_facet(const Shape& facet, const Pose& pose_a, const Shape& b, const Pose& pose_b, double reach,
                       const LastManifold& last = {});

}  // namespace bronvel
