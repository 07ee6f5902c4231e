// Manifold reduction: of a face that many parts make, the points at its rim bear all.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// Where two bodies of several parts rest on one another, each part brings points of its own: dozens in one plane, of
/// which those at the rim, and the deepest, say all that the others do, as a gap between two planes is least at a
/// corner. The others are left out of this tick. Where bodies move against one another all are kept: their friction is
/// that of the whole face. With the contacts of the tick found, before the iterations.
void reduce_manifolds(WorldState& state);

}  // namespace bronvel
