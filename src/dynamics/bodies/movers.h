// Movers: kinematic bodies that are told every tick where to be or how fast to go. A body placed only once jumps.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// In the coming tick the body goes to this pose, of its shape.
void head_for(WorldState& state, std::uint32_t body, const Pose& target);

/// The body is about to be placed elsewhere, before the coming tick. If it was before the last one too, and is not put
/// far off, it goes there within the tick instead of jumping.
void note_placed(WorldState& state, std::uint32_t body);

/// The body's velocity was set: if it changes evenly from tick to tick, it does so within them too.
void note_led(WorldState& state, std::uint32_t body);

/// The body was moved by so much (m) before the coming tick, as if it had gone there within the last.
void note_moved(WorldState& state, std::uint32_t body, const Vec3& way);

/// How the body went to where it was told to be, if it came there just before tick number `tick`; else null. Its own
/// velocity is 0 again by then.
const MoverRecord* came_there(const WorldState& state, std::uint32_t body, std::int64_t tick);

/// The body is gone, or is no mover any more.
void forget_mover(WorldState& state, std::uint32_t body);

/// At the tick's start: movers with a target, or placed again and again, get the speed that takes them there.
void head_for_targets(WorldState& state);

/// The velocity of each of these in the middle of a sub-step, so that they come to the mean of the tick.
void lead_movers(WorldState& state, int substep);

/// At the tick's end: they are there, and stand still.
void arrive_at_targets(WorldState& state);

}  // namespace bronvel
