// The contact solver: projected Gauss-Seidel on soft constraints in short sub-steps (docs/solver.md, "Contacts and
// joints").
#pragma once

#include <span>

#include "dynamics/state/world_state.h"

namespace bronvel {

/// Sorts the active pairs into colours and blocks. Once a tick, before the first sub-step.
void begin_contacts(WorldState& state);

/// Places in `TickScratch::active` of the contacts that are solved in double, ascending. All of them where they are
/// few. Otherwise those of small islands (by contacts and joints), the largest first, as long as they are few together.
/// Valid after begin_contacts.
std::span<const std::uint32_t> solved_in_double(const WorldState& state);

/// The share (0 to 1) of a friction anchor's motion that follows B's frame; the rest follows A's. The anchor sticks to
/// the smaller body, and to a ball whatever it rests on. A static body never carries it.
double anchor_share_of_b(const BodyRecord& a, const BodyRecord& b);

/// Which iterations of a sub-step these are.
enum class SolveStage {
  warm_start,  ///< warm start, then push overlap apart
  push_apart,  ///< push overlap apart
  after_move   ///< take back the speed that pushing gave, so that overlap never turns into energy
};

/// Where a body has both joints and contacts, the two are solved in turn: in how many rounds, and whether they agree
/// already.
struct Rounds {
  int count = 1;
  bool agreed = false;
};

/// Iterates over all active contacts, for a sub-step of h seconds, until the largest change of velocity is small or the
/// most that the scene can afford are done (1 to 64); in each of several rounds a share of these, and one once joints
/// and contacts agree. Overlap is pushed apart at the Baumgarte rate. `last`: adds the impulses to the tick's totals.
/// Soft constraints from an implicit spring and damper; sub-steps instead of more iterations (Macklin et al., Small
/// Steps in Physics Simulation, 2019); friction of a whole manifold at its middle, bounded by a cone, with torsional
/// and rolling friction.
void solve_contacts(WorldState& state, double h, SolveStage kind, const Rounds& rounds, bool last);

/// Before positions are integrated over h seconds: a body that slides on a flat face moves along it by the mean of its
/// velocities before and after the sub-step. By the last one alone a stopping distance would be v h / 2 short. Not in
/// large islands.
void even_slides(WorldState& state, double h);

/// Before a sub-step of h seconds: marks the active pairs that may close faster than the restitution speed within it.
/// All others surely have no impact, by the planes that they know.
void look_for_closing(WorldState& state, double h);
bool may_close(const WorldState& state, const ActiveEnds& ends);

/// fetch_pair copies the pair's impulses from its block, send_pair the pair into its block. Call them before and after
/// the pair gets a new manifold within the tick.
void fetch_pair(WorldState& state, Pair& pair);
void send_pair(WorldState& state, Pair& pair);

/// Leaves fast pairs that pass by each other out of this sub-step's iterations.
void send_passing(WorldState& state);
void send_passing(WorldState& state, const Pair& pair);

/// Marks bodies that contacts bear on, by body.
void mark_loaded(const WorldState& state, std::vector<char>& loaded);

/// Impulses of the last sub-step and totals of the tick back into the pairs.
void end_contacts(WorldState& state);

}  // namespace bronvel
