// Sleep: bodies that touch and have come to rest stop costing anything, together.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// After a tick: counts how long each body has been still, and puts to sleep each island (bodies joined by contacts)
/// whose every body has been still for long enough.
void put_to_sleep(WorldState& state);

/// Wakes the body and, through contacts, all that sleeps with it.
void wake_island(WorldState& state, std::uint32_t body);

/// Before a tick, with the pairs of it found: wakes what an awake body may touch within the tick, and all that hangs
/// together with that, so that a hit finds it awake. True if any was asleep: its own pairs are then to be found.
bool wake_met(WorldState& state);

/// Whether nothing that sleeps has a velocity, as must hold between two ticks.
bool sleepers_lie_still(const WorldState& state);

/// Joins the islands (`disjoint_sets.h`, by body) of dynamic bodies that a joint holds together.
void join_by_joints(const WorldState& state, std::vector<std::uint32_t>& islands);

}  // namespace bronvel
