// Which bodies are in which zones, and what the zones do to them. Only the dynamics layer includes this.
#pragma once

#include "dynamics/world_state.h"

namespace bronvel {

/// After a tick: who is in each zone now, and who came or left since. Events are in the order of zones, then bodies.
void update_zones(WorldState& state);

/// Before a tick: what the zones make of gravity and air for each body that is in one.
void apply_zones(WorldState& state);

}  // namespace bronvel
