// What a shape looks like: triangles with normals, and the edges to be inked.
#pragma once

#include <vector>

#include "geometry/meshes/model.h"
#include "geometry/shapes/shape.h"

namespace bronvel {

/// In the shape's own frame, m. Triangles and lines are lists of corners, three and two each; one normal a corner.
struct Outline {
  std::vector<Vec3> triangles;
  std::vector<Vec3> normals;
  std::vector<Vec3> lines;
};

/// `coarsely`: what is round has fewer sides, as is enough for what is seen small.
Outline outline_of(const Shape& shape, bool coarsely = false);

/// The model's triangles, with normals shared where they meet at less than 35 degrees, and its sharp edges and rims as
/// lines.
Outline outline_of(const Model& model);

}  // namespace bronvel
