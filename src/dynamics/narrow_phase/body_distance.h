// How near a shape is to a body of the world, whatever the body is made of. Only the dynamics layer includes this.
#pragma once

#include "dynamics/settings/queries.h"
#include "dynamics/state/world_state.h"
#include "geometry/shapes/parts.h"

namespace bronvel {

/// The body's parts that may reach into the bounds (scene frame), where they stand in the scene. A convex body is its
/// one part, wherever it is.
std::vector<Part> parts_within(const WorldState& state, std::uint32_t body, const Bounds& bounds);

/// Surface to surface, to one part of the body as `parts_within` gives it; the normal points away from the body.
WorldNearest distance_to_part(const WorldState& state, std::uint32_t body, const Part& part, const Shape& shape,
                              const Pose& pose);

/// Of a body of several parts the nearest within `reach` m; with none there the distance is beyond it.
WorldNearest distance_to_body(const WorldState& state, std::uint32_t body, const Shape& shape, const Pose& pose,
                              double reach);

}  // namespace bronvel
