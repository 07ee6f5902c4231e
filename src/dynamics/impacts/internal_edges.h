// Internal edges: facets stand for smooth ground, so a ball goes from one to the next without loss.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// At the tick's start: lists the balls that have facets before them.
void find_internal_edges(WorldState& state);

/// A ball that goes along one facet and reaches the next within the sub-step of h seconds, over an edge of at most
/// `gentlest_corner`, has its velocity turned into the next facet's plane at that moment, about the edge and without
/// loss. (Left to impacts, the part that runs into the next facet would be lost at each edge.) Where the ground falls
/// away the ball stays on it unless it would leave a smooth surface: v² κ > g, with κ the edge's angle over the next
/// facet's length. Spin is left alone.
void turn_at_internal_edges(WorldState& state, double h);

/// After the impacts: leaves facets that no ball reaches in this sub-step out of the iterations.
void leave_out_passed(WorldState& state);

/// Before positions: a ball that goes along a facet moves by the mean of its velocities before and after the sub-step
/// of h seconds.
void even_ways(WorldState& state, double h);

}  // namespace bronvel
