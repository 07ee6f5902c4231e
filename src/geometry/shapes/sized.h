// Shapes made larger or smaller.
#pragma once

#include <vector>

#include "geometry/shapes/shape.h"

namespace bronvel {

/// The shape stretched by `factors` along its own axes. What is round keeps its roundness: a sphere, and the radius of
/// capsules, cylinders and cones, takes the larger of the factors that apply. Compounds, meshes and height fields take
/// the factors' geometric mean evenly. Throws Error when the result is no shape.
Shape sized(const Shape& shape, const Vec3& factors);

/// Whether each of the shape's three axes can be sized on its own, and which share a size: for each axis the number of
/// the first axis that changes with it.
std::array<int, 3> sizes_together(const Shape& shape);

/// One of the lengths that a shape is given by.
struct ShapeSize {
  const char* name;  ///< "radius", "height", "size x"
  double value = 0;  ///< m
};
/// In a fixed order. Of shapes that have no such lengths: how far they reach along their axes.
std::vector<ShapeSize> shape_sizes(const Shape& shape);

/// The shape with one of them changed. Throws Error when the result is no shape.
Shape with_size(const Shape& shape, std::size_t which, double value);

}  // namespace bronvel
