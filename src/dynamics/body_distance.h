// How near a shape is to a body of the world, whatever the body is made of. Only the dynamics layer includes this.
#pragma once

#include "dynamics/world_state.h"

namespace bronvel {

/// Surface to surface; the normal points away from the body. Of a body of several parts the nearest within `reach` m;
/// with none there the distance is beyond it.
WorldNearest distance_to_body(const WorldState& state, std::uint32_t body, const Shape& shape, const Pose& pose,
                              double reach);

}  // namespace bronvel
