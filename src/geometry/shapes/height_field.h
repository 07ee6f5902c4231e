// Ground as heights over a grid, two triangles a cell.
#pragma once

#include <vector>

#include "geometry/shapes/shape.h"

namespace bronvel {

/// Heights along Y over points in X (columns) and Z (rows), the grid's middle at the origin.
struct HeightFieldData {
  std::uint32_t columns = 0, rows = 0;
  double spacing_x = 1, spacing_z = 1;  ///< m
  std::vector<double> heights;          ///< row by row, m
  Bounds bounds;

  Vec3 point(std::uint32_t column, std::uint32_t row) const;
  std::size_t facet_count() const;
  Facet facet(std::uint32_t index) const;
  void near(const Bounds& box, std::vector<std::uint32_t>& found) const;
  void along(const Vec3& origin, const Vec3& direction, double reach, std::vector<std::uint32_t>& found) const;
};

/// Throws Error for fewer than 2 × 2 points, a count of heights that does not fit, or heights that are no numbers.
HeightField make_height_field(std::uint32_t columns, std::uint32_t rows, double spacing_x, double spacing_z,
                              std::vector<double> heights);

}  // namespace bronvel
