// Heaps make no energy, however few passes they have.
#pragma once

#include "dynamics/world_state.h"

namespace bronvel {

struct ContactSystem;

/// At the tick's start, once its contacts are parted: which bodies are of which heap.
void number_heaps(const WorldState& state, ContactSystem& sys);

/// At a sub-step's end. Seen from what a heap meets from outside, contacts can only take its energy away. Where many
/// boxes run into many, the first guess of the next sub-step is the blow of the last, and the few passes that a heap
/// can afford do not take all of it back: what was crushed would fly apart again. As much of what the contacts changed
/// as keeps the heap's energy stays: velocities go on a straight line from those that forces alone have given to those
/// that the passes have, and energy is a square on it. Both ends have the same momentum. Heaps that joints hold, or
/// that meet what goes at several speeds or turns, are left alone.
void keep_heap_energy(WorldState& state);

}  // namespace bronvel
