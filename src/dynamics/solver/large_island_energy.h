// Keeps large islands from gaining energy by their contacts, however few iterations they have.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

struct ContactSystem;

/// At the tick's start, after part_contacts: which body is in which large island.
void number_large_islands(const WorldState& state, ContactSystem& sys);

/// At a sub-step's end: contacts can only take energy, seen from what the island touches outside. But the warm start of
/// a collision is the impulse of the sub-step before, and few iterations do not take back what it gave too much. Where
/// an island has gained energy, its velocities go back on the straight line towards those that forces alone would have
/// given, until it has not: both ends have the same momentum, and energy is quadratic on the line. Islands that joints
/// hold, or that touch bodies with different velocities or spin, are left alone.
void bound_large_island_energy(WorldState& state);

}  // namespace bronvel
