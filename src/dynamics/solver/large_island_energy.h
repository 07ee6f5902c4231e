// Large islands make no energy, however few iterations they have.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

struct ContactSystem;

/// At the tick's start, once its contacts are parted: which bodies are of which large island.
void number_large_islands(const WorldState& state, ContactSystem& sys);

/// At a sub-step's end. Seen from what a large island meets from outside, contacts can only take its energy away. Where
/// many boxes run into many, the first guess of the next sub-step is the collision impulse of the last, and the few
/// iterations that a large island can afford do not take all of it back: what was crushed would fly apart again. As
/// much of what the contacts changed as keeps the large island's energy stays: velocities go on a straight line from
/// those that forces alone have given to those that the iterations have, and energy is a square on it. Both ends have
/// the same momentum. Large islands that joints hold, or that meet what goes at several speeds or turns, are left
/// alone.
void bound_large_island_energy(WorldState& state);

}  // namespace bronvel
