// Tells what touched in a tick.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// Fills state.contacts from the pairs after the tick.
void report_contacts(WorldState& state);

}  // namespace bronvel
