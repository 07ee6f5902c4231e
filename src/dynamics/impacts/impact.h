// Hits: what happens at the very moment that two bodies meet at speed.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// To be called in each tick once its active pairs are known.
void begin_impacts(WorldState& state);

/// Finds the contacts that will be hit within the sub-step of h seconds at more than the scene's restitution speed, and
/// gives each its impulse: Newton's restitution along the normal, Coulomb friction across. Hits are passed on from
/// pair to pair until nothing closes any more, so a row of touching balls hands the collision impulse to its last.
/// The impulse belongs to a moment inside the sub-step; bodies are put where they would have been at its start had they
/// always moved as they do after the hit, so that no height or time is lost.
void resolve_impacts(WorldState& state, double h);

/// At the sub-step's end. A pair without load that comes near at speed and was not found to meet is left alone by the
/// iterations until then: joints, or its spin, may lead it another way than was reckoned, and what iterations stop has
/// no restitution. If it has met after all, it is hit at the next sub-step's start.
void forget_missed(WorldState& state);

}  // namespace bronvel
