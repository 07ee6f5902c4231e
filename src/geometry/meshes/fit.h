// Simple shapes for a model to collide with, and how well they fit it.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "geometry/meshes/model.h"
#include "geometry/shapes/shape.h"

namespace bronvel {

enum class FitKind { box, sphere, capsule, cylinder, hull, hulls, exact };

/// "box", …, "set of hulls", "exact mesh".
std::string fit_word(FitKind kind);

/// How far a shape is from the model it stands for.
struct Misfit {
  double volume_ratio = 0;  ///< of the shape's volume over the model's; 0 where the model has none
  double gap = 0;           ///< greatest distance between the two surfaces, either way, m
};

/// A shape for the model, standing at `pose` in the model's frame.
struct Fit {
  FitKind kind = FitKind::box;
  Shape shape;
  Pose pose;
  Misfit misfit;
  int parts = 1;      ///< convex parts, or triangles of the exact mesh
  std::string fault;  ///< why there is no such shape; the rest then says nothing
};

/// Asked now and then during long work; false gives it up. May be empty.
using GoOn = std::function<bool()>;

struct FitPlan {
  int most_hulls = 16;         ///< of a set of hulls
  double concavity = 0.03;     ///< as deep as a set's parts may be hollow, share of the model's extent
  std::size_t samples = 4000;  ///< points at which gaps are measured
  GoOn go_on{};                ///< what is given up has a fault that says so
};

/// One kind. Never throws: what can't be done is told in `fault`. The box is the smallest among those that lie flat on
/// a face of the hull (O'Rourke's least box is rarely better by more than a few per cent) or along the principal axes;
/// the sphere is the least one (Welzl 1991, in Gärtner's move-to-front form); capsule and cylinder lie along the
/// principal axis that makes them smallest; the set of hulls comes from cutting the model in two again and again where
/// its hull stands farthest off.
Fit fit_to(const Model& model, FitKind kind, const FitPlan& plan = {});

/// Distances both ways, measured at points spread over both surfaces.
Misfit misfit_of(const Model& model, const Shape& shape, const Pose& pose, std::size_t samples, const GoOn& go_on = {});

/// Distance from a point to the surface of a shape at its origin, inside or out, m.
double distance_to_surface(const Shape& shape, const Vec3& point);

}  // namespace bronvel
