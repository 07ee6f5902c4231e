// Gentle internal edges of a surface: what rolls or slides over them turns as it would on the smooth surface that they
// stand for.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// Lists which balls have facets of a surface before them in this tick.
void find_internal_edges(WorldState& state);

/// Balls that go along one facet and come upon the next within the sub-step of h seconds, over an internal edge of no
/// more than `gentlest_corner`, have their velocity turned at that moment into the new one's plane, about the edge
/// between the two and without loss. (By facets alone the part of it that runs into the next facet would be lost at
/// each, or bounce: a valley of 40 facets takes a quarter of the energy in 20 s.) Where the ground falls away they do
/// so too, unless they are so fast that they would leave a smooth surface, v² κ > g, with the internal edge over the
/// next facet's length for κ. Turning takes no spin.
void turn_at_internal_edges(WorldState& state, double h);

/// Tells the solver which facets no ball comes to in this sub-step; after the hits.
void leave_out_passed(WorldState& state);

/// Balls that go along a facet do so by the mean of their speeds before and after the sub-step.
void even_ways(WorldState& state, double h);

}  // namespace bronvel
