// Surfaces of triangles, with a tree to find the ones near a place.
#pragma once

#include <array>
#include <vector>

#include "geometry/shapes/shape.h"

namespace bronvel {

/// Triangles list their corners counter-clockwise seen from the front.
struct MeshData {
  std::vector<Vec3> points;
  std::vector<std::array<std::uint32_t, 3>> triangles;
  Bounds bounds;
  bool closed = false;          ///< every edge is shared by two triangles that run along it in opposite ways
  double volume = 0;            ///< m³; 0 unless closed
  Vec3 centre = Vec3::Zero();   ///< of the volume, m
  Mat3 inertia = Mat3::Zero();  ///< about `centre`, for density 1 kg/m³

  Facet facet(std::uint32_t triangle) const;
  void near(const Bounds& box, std::vector<std::uint32_t>& found) const;
  void along(const Vec3& origin, const Vec3& direction, double reach, std::vector<std::uint32_t>& found) const;

  // A tree over the triangles: inner nodes have two children, leaves up to four triangles of `order`.
  struct Node {
    Bounds bounds;
    std::uint32_t first = 0, count = 0;  ///< leaf: triangles in `order`; inner (count 0): children first, first + 1
  };
  std::vector<Node> nodes;
  std::vector<std::uint32_t> order;
  std::vector<std::array<Vec3, 3>> beyond;  ///< normals across each edge of each triangle, zero at a rim
  double depth = 0;                         ///< how far behind its front a triangle still pushes, m
};

/// Throws Error for points that are no numbers, corners that name no point, triangles without area, and a closed mesh
/// that is inside out.
Mesh make_mesh(std::vector<Vec3> points, std::vector<std::array<std::uint32_t, 3>> triangles);

}  // namespace bronvel
