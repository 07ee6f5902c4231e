// Mass, centre of mass and inertia of shapes of even density.
#pragma once

#include "geometry/shapes/shape.h"

namespace bronvel {

/// Mass properties in the shape's own frame.
struct MassProperties {
  double mass = 1;                  ///< kg
  Vec3 centre = Vec3::Zero();       ///< centre of mass, m
  Mat3 inertia = Mat3::Identity();  ///< about the centre of mass, kg·m²
};

/// Of the shape filled with `density` kg/m³. Formulas: any mechanics text, e.g. Goldstein, Classical Mechanics, ch. 5.
MassProperties mass_properties(const Shape& shape, double density);

}  // namespace bronvel
