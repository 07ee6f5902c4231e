// Keeps the list of near pairs.
#pragma once

#include "dynamics/world_state.h"

namespace bronvel {

/// Whether the two may collide: not kept apart by a joint or by their groups, and one of them dynamic.
bool can_meet(const WorldState& state, std::uint32_t a, std::uint32_t b);

/// How far the surfaces of two bodies may have moved against one another since the last tick's start, m.
double way_between(const BodyWay& a, const BodyWay& b);

/// Moves leaves, adds pairs that came near, drops pairs that parted.
void update_pairs(WorldState& state);

/// Drops every pair of the body.
void forget_pairs(WorldState& state, std::uint32_t body);

}  // namespace bronvel
