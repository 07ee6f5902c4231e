// Where moves on the stage come to rest: the grid, angles, and the faces of other bodies.
#pragma once

#include <array>
#include <vector>

#include "scene/edits/edits.h"

namespace bronvel {

struct SnapSettings {
  bool on = true;
  double grid = 0.1;      ///< m
  double angle = 15;      ///< degrees
  bool faces = true;      ///< bring sides in line with other bodies'
  bool own_axes = false;  ///< arrows along the body's own axes instead of the scene's
};

/// The sides of bodies along the scene's axes.
class Sides {
 public:
  Sides() = default;
  Sides(const Scene& scene, const BodyNames& except);
  struct Found {
    double shift = 0;  ///< to add, m
    double at = 0;     ///< the line met, m
  };
  /// The least shift along the axis that brings the low or high side in line with another's; none within `reach` m.
  std::optional<Found> nearest(int axis, double low, double high, double reach) const;

 private:
  std::array<std::vector<double>, 3> places_;  // in ascending order
};

double to_grid(double value, double step);

}  // namespace bronvel
