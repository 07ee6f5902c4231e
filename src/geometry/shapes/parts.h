// Shapes made of parts: every shape as a row of convex ones, and which of them are near a place.
#pragma once

#include <vector>

#include "geometry/shapes/shape.h"

namespace bronvel {

/// A convex shape somewhere in a whole.
struct Part {
  Shape shape;
  Pose pose{};         ///< in the whole's frame
  double density = 1;  ///< against that of the whole's other parts
  bool operator==(const Part& other) const {
    return shape == other.shape && pose.position == other.pose.position &&
           pose.orientation.coeffs() == other.pose.orientation.coeffs() && density == other.density;
  }
};

/// Compounds, meshes and height fields; all other shapes are one convex part.
inline bool is_composite(const Shape& shape) {
  return std::holds_alternative<Compound>(shape) || std::holds_alternative<Mesh>(shape) ||
         std::holds_alternative<HeightField>(shape);
}

/// How many parts there are; 1 for a convex shape.
std::size_t part_count(const Shape& shape);

/// Part `index` in the frame of the whole.
Part part_of(const Shape& shape, std::uint32_t index);

/// Appends the numbers of the parts that may overlap `bounds` (in the whole's frame), in ascending order.
void parts_near(const Shape& shape, const Bounds& bounds, std::vector<std::uint32_t>& found);

/// Appends the numbers of the parts that a ray of length `reach` may meet, in the whole's frame.
void parts_along(const Shape& shape, const Vec3& origin, const Vec3& direction, double reach,
                 std::vector<std::uint32_t>& found);

}  // namespace bronvel
