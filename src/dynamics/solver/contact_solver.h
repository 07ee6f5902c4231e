// Resting contacts as soft constraints, solved a little in each of many short sub-steps.
#pragma once

#include <span>

#include "dynamics/state/world_state.h"

namespace bronvel {

/// Sorts the active pairs into colours and blocks. Once a tick, before the first sub-step.
void begin_contacts(WorldState& state);

/// The places in `active` of the contacts that are solved in double, ascending: of all where they are few; else of
/// islands (contacts and joints) that are no large islands, the largest first, as long as together they are few. What
/// has nothing to do with a large island keeps its digits and its iterations beside it. After begin_contacts.
std::span<const std::uint32_t> solved_in_double(const WorldState& state);

/// The share (0 to 1) of where a contact is that goes with B, the rest goes with A: it moves with the smaller of the
/// two, and with a ball on anything else. A static body never carries it.
double share_towards_b(const BodyRecord& a, const BodyRecord& b);

/// What a round of iterations is for.
enum class SolveStage {
  warm_start,  ///< warm start, then push overlap apart
  push_apart,  ///< push overlap apart
  after_move   ///< take back the speed that pushing gave, so that overlap never turns into energy
};

/// Joints and contacts take turns where joints hold what contacts bear on: in how many, and whether they have agreed.
struct Rounds {
  int count = 1;
  bool agreed = false;
};

/// Iterations over all active contacts, for a sub-step of h seconds: as many as are needed, and as can be afforded,
/// from 1 for piles to 64 for a few bodies; a share of these where they take turns with joints, and one once these
/// agree. Overlap is pushed apart as by a stiff, heavily damped spring. `last` adds the impulses to the tick's totals.
/// Method: soft constraints from an implicit spring and damper; small steps instead of iterations (Macklin et al.,
/// Small Steps in Physics Simulation, 2019); friction of a whole manifold at its middle, bounded by a cone, with twist
/// and rolling.
void solve_contacts(WorldState& state, double h, SolveStage kind, const Rounds& rounds, bool last);

/// Before positions are integrated over h seconds: what slides on a flat face goes along it by the mean of its speeds
/// before and after, not by the last alone. Ways to a stop would else be short by v h / 2, which is much for small
/// things. Not in piles.
void even_slides(WorldState& state, double h);

/// Before a sub-step of h seconds: which active pairs may close faster than the restitution speed within it. What is
/// not among them surely has no hit by the planes that it knows.
void look_for_closing(WorldState& state, double h);
bool may_close(const WorldState& state, const ActiveEnds& ends);

/// Brings the pair's impulses up to date with the iterations, and back. Before and after a hit gives it a new manifold.
void fetch_pair(WorldState& state, Pair& pair);
void send_pair(WorldState& state, Pair& pair);

/// Tells the iterations which fast pairs pass by in this sub-step.
void send_passing(WorldState& state);
void send_passing(WorldState& state, const Pair& pair);

/// Marks bodies that contacts bear on, by body.
void mark_loaded(const WorldState& state, std::vector<char>& loaded);

/// Impulses of the last sub-step and totals of the tick back into the pairs.
void end_contacts(WorldState& state);

}  // namespace bronvel
