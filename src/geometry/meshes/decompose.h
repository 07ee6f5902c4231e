// Models as few convex parts.
#pragma once

#include <functional>
#include <vector>

#include "geometry/meshes/model.h"
#include "geometry/shapes/shape.h"

namespace bronvel {

/// Hulls that together stand for the model: it is cut in two again and again, the part whose hull stands farthest off
/// its surface first, until all are nearer than `concavity` (share of the model's extent) or there are `most`. Throws
/// Error for a model that is flat, and when `go_on` (asked now and then, if there is one) gives it up.
std::vector<Hull> convex_parts(const Model& model, int most, double concavity, const std::function<bool()>& go_on = {});

/// The hull of at most `most` of the points, chosen so that little stands out of it. Throws Error.
Hull simple_hull(const std::vector<Vec3>& points, std::size_t most, const std::function<bool()>& go_on = {});

/// Throws Error when `go_on` gives the work up.
void ask_to_go_on(const std::function<bool()>& go_on);

}  // namespace bronvel
