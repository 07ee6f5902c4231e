// Sleep: bodies that touch and have come to rest stop costing anything, together.
#pragma once

#include "dynamics/world_state.h"

namespace bronvel {

/// After a tick: counts how long each body has been still, and puts to sleep each island (bodies joined by contacts)
/// whose every body has been still for long enough.
void put_to_sleep(WorldState& state);

/// Wakes the body and, through contacts, all that sleeps with it.
void wake_island(WorldState& state, std::uint32_t body);

/// Before a tick: wakes what is touched by an awake body.
void wake_touched(WorldState& state);

}  // namespace bronvel
