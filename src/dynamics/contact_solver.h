// Contacts as soft constraints, solved a little in each of many short sub-steps.
#pragma once

#include "dynamics/world_state.h"

namespace bronvel {

/// The mass that an impulse along the unit `direction` at the arms' ends has to move, kg; 0 if nothing there moves.
double effective_mass(const Motion& a, const Motion& b, const Vec3& arm_a, const Vec3& arm_b, const Vec3& direction);

/// Effective masses of every active row. Once a tick, before the first sub-step.
void prepare_contacts(WorldState& state);
void prepare_pair(const WorldState& state, Pair& pair);

/// How many passes over the contacts a sub-step can afford, from 1 for piles to 64 for a few bodies.
int contact_passes(const WorldState& state);

/// Gives every contact the impulses of the last sub-step as a first guess: all of them before any is solved.
void warm_start_contacts(WorldState& state);

/// Brings the gaps in line with the bodies' positions. Before each round of passes.
void place_contacts(WorldState& state);

/// One of `passes` passes over all active contacts for a sub-step of h seconds. With `push_out`, overlap is pushed
/// apart as by a stiff, heavily damped spring; without, the speed that pushing gave is taken back, so that overlap
/// never turns into energy. Method: soft constraints from an implicit spring and damper; small steps instead of
/// iterations (Macklin et al., Small Steps in Physics Simulation, 2019); friction of a whole manifold at its middle,
/// bounded by a cone, with twist and rolling.
void solve_contacts(WorldState& state, double h, bool push_out, int passes);

/// Adds the impulses of the sub-step to the rows' totals.
void sum_impulses(WorldState& state);

}  // namespace bronvel
