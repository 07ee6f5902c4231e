// Gentle creases of a surface: what rolls or slides over them turns as it would on the smooth surface that they stand
// for.
#pragma once

#include <span>

#include "dynamics/world_state.h"

namespace bronvel {

/// A ball that was put where it would have been had it always gone along its last facet, and how far from where it was.
struct PutElsewhere {
  std::uint32_t ball = 0;
  double by = 0;  ///< m
};

/// Lists which balls have facets of a surface before them in this tick.
void find_creases(WorldState& state);

/// Balls that go along one facet and come upon the next within the sub-step of h seconds, over a crease of no more than
/// `gentlest_corner`, have their velocity turned at that moment into the new one's plane, about the edge between the
/// two and without loss. (By facets alone the part of it that runs into the next facet would be lost at each, or
/// bounce: a valley of 40 facets takes a quarter of the energy in 20 s.) Where the ground falls away they do so too,
/// unless they are so fast that they would leave a smooth surface, v² κ > g, with the crease over the next facet's
/// length for κ. Turning takes no spin.
void turn_at_creases(WorldState& state, double h);

/// Those that it has put elsewhere in this sub-step.
std::span<const PutElsewhere> put_elsewhere_at_creases(const WorldState& state);

/// Tells the solver which facets no ball comes to in this sub-step; after the hits.
void leave_out_passed(WorldState& state);

/// Balls that go along a facet do so by the mean of their speeds before and after the sub-step.
void even_ways(WorldState& state, double h);

}  // namespace bronvel
