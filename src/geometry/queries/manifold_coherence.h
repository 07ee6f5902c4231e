// The separation of cores that met a moment ago, where they still meet by the same face or the same two edges.
#pragma once

#include <optional>

#include "geometry/queries/contact.h"
#include "geometry/queries/distance.h"

namespace bronvel {

/// The outward normal of a face of three corners or more.
Vec3 face_normal(const Polygon& face);

/// How two cores meet that met the same way before.
struct MetAgain {
  Separation apart;
  Polygon face;  ///< that which they meet by; empty for edges
};

/// What separation_of would find (of polyhedra of about a metre within 1e-8 m,
/// tests/geometry/queries/manifold_coherence_test.cpp) without a search: the nearest points on the face or the edges by
/// which the two met last, if no corner of either is past the plane between them. None if they meet elsewhere now,
/// overlap by so much that another way out may be shorter, or did not meet.
std::optional<MetAgain> met_again(const Convex& a, const Convex& b, const LastManifold& last);

}  // namespace bronvel
