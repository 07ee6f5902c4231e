// The end of a tick for forces: they have acted, and bodies whose motion is no number any more are stopped.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// What was summed for this tick has acted. Whether all motions are still numbers; of those that are not the sums stay.
bool take_off_forces(WorldState& state);

/// Bodies whose motion is no number go back to where it last made sense, and out of the simulation; each is told as a
/// fault, with the reason.
void stop_the_unsound(WorldState& state);

}  // namespace bronvel
