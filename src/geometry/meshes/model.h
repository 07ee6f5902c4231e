// What is drawn of a body that looks other than its shape, and what shapes are fitted to: triangles as they were drawn.
#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include "geometry/base/bounds.h"

namespace bronvel {

/// Triangles in the model's own frame, m; corners counter-clockwise seen from the front. Need not be closed.
struct Model {
  std::vector<Vec3> points;
  std::vector<std::array<std::uint32_t, 3>> triangles;
  bool operator==(const Model&) const = default;
};

/// Why the model can't be used: no triangles, corners that name no point, points that are no numbers or beyond 1e6 m;
/// empty if it can.
std::string model_fault(const Model& model);

Bounds model_bounds(const Model& model);  ///< of a model with points

/// Volume by the divergence theorem, m³; right for closed models only (below 0: inside out).
double model_volume(const Model& model);

/// Whether every edge is shared by two triangles that run along it in opposite ways, after points that coincide are
/// taken as one.
bool model_closed(const Model& model);

/// The same with points closer than `distance` made one, and triangles that have no area left out.
Model welded(const Model& model, double distance);

}  // namespace bronvel
