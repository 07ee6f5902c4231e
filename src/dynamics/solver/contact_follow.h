// Manifolds found anew within the tick, where rolling or tumbling has left them behind.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// Whether one of the two has turned by more than 0.03 rad within the tick: its contacts' planes no longer hold.
bool turned_far(const WorldState& state, const Pair& pair);

/// Within the tick: finds anew the contacts of round bodies that have moved on, where the normal has changed: on curved
/// or triangulated ground a plane of the tick's start would lift them or let them sink. And those of bodies
/// that have turned far: what tumbles past a corner would be stopped by the plane that the corner's side had, and sink
/// in with the next corner. Only in scenes that are solved in double: large islands are spared the time.
void follow_contacts(WorldState& state);

}  // namespace bronvel
