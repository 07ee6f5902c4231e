// Impacts: bodies that meet at speed get their collision impulses at the very moment of meeting.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// Once a tick, after the active pairs are known.
void begin_impacts(WorldState& state);

/// Finds the contacts that close within the sub-step of h seconds faster than the scene's restitution speed and gives
/// each its impulse at that moment: Newton's restitution along the normal, Coulomb friction across. Soonest first, in
/// rounds, until nothing closes: a row of touching balls hands the impulse on to its last. Bodies are put where they
/// would have been at the sub-step's start had they always moved as they do after the impact, so that no height and no
/// time is lost.
void resolve_impacts(WorldState& state, double h);

/// At the sub-step's end. A pair without load that may close at speed, and was not found to meet, was left out of the
/// iterations, which know no restitution. If it has met after all, its impact is found at the next sub-step's start.
void forget_missed(WorldState& state);

}  // namespace bronvel
