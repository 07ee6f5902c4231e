// Islands: bodies that hang together by contacts and joints, which fall asleep and wake together.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// After a tick: puts to sleep each island whose every body has been at rest for long enough (docs/solver.md, "After
/// the sub-steps").
void put_to_sleep(WorldState& state);

/// Wakes the body and, through contacts, all that sleeps with it.
void wake_island(WorldState& state, std::uint32_t body);

/// Before a tick, once pairs are found: wakes what an awake body may touch within the tick, with its island, so that an
/// impact finds it awake. True if it woke any: call update_pairs and this again.
bool wake_met(WorldState& state);

/// Invariant between two ticks: nothing that sleeps has a velocity.
bool sleepers_lie_still(const WorldState& state);

/// Joins the islands (`disjoint_sets.h`, by body) of dynamic bodies that a joint holds together.
void join_by_joints(const WorldState& state, std::vector<std::uint32_t>& islands);

}  // namespace bronvel
