// Overlaps: bodies whose padded boxes overlap, and the pairs of convex parts that may meet in a tick.
#pragma once

#include <span>

#include "dynamics/state/world_state.h"

namespace bronvel {

/// Whether the two may collide: not kept apart by a joint or by their groups, and one of them dynamic.
bool can_meet(const WorldState& state, std::uint32_t a, std::uint32_t b);

/// How the body's surface has moved from one moment to another.
BodyWay way_of(const BodyRecord& record, const BodyState& before, const BodyState& now);

/// How far the surfaces of A and B may have moved against one another where they meet, m. `between` is from A's centre
/// to B's before.
double way_between(const BodyRecord& a, const BodyWay& way_a, const BodyRecord& b, const BodyWay& way_b,
                   const Vec3& between);

/// The same since the last tick's start, of bodies that were there then.
double way_since_last_tick(const WorldState& state, std::uint32_t a, std::uint32_t b);

/// Once a tick: moves leaves of the tree, adds pairs that may meet, drops those that have parted.
void update_pairs(WorldState& state);

/// The bodies' points are found anew in the next tick, however little they move: centre of mass or surface is another.
void find_points_anew(WorldState& state, std::span<const std::uint32_t> bodies);

/// Drops every pair of the body.
void forget_pairs(WorldState& state, std::uint32_t body);

}  // namespace bronvel
