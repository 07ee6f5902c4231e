// Manifolds: where pairs of convex parts touch, kept from tick to tick.
#pragma once

#include "dynamics/state/world_state.h"
#include "geometry/queries/graze.h"

namespace bronvel {

/// The middle of a manifold, where its friction acts; scene frame, at the tick's start.
struct FrictionPlace {
  explicit FrictionPlace(const Pair& pair);
  Vec3 arm_a = Vec3::Zero(), arm_b = Vec3::Zero();  ///< from the centres of mass to the middle of the points, m
};

/// Whether the points stand on the rim of a round face: a cylinder's or a cone's end.
bool on_round_face(const WorldState& state, const Pair& pair);

/// Once a tick: finds the manifold of every pair with an awake body, or moves it along where the pair has hardly moved;
/// impulses carry over to the nearest points. Lists the pairs to be solved in TickScratch::active, by body indices.
void update_contacts(WorldState& state);

/// Whether no point of the pair gave an impulse in the last sub-step; after `fetch_pair`.
bool bears_nothing(const Pair& pair);

/// Puts a manifold found at the bodies' present poses within the tick into the pair; arms and gaps are told back to the
/// tick's start.
void set_manifold_on_the_way(const WorldState& state, Pair& pair, const Manifold& manifold);

/// The manifold of the pair's parts with the bodies at these states. Where they only graze an edge it is that of the
/// face beyond (geometry/queries/graze.h). `graze` tells whether they do; given as `yes`, they count as grazing also
/// while still apart.
Manifold collide_parts(const WorldState& state, const Pair& pair, const BodyState& a, const BodyState& b, double reach,
                       Graze& graze);
struct PartGap {
  double gap = 0;               ///< m, negative where they overlap
  Vec3 normal = Vec3::Unit(1);  ///< unit, from A to B
};
PartGap part_gap(const WorldState& state, const Pair& pair, const BodyState& a, const BodyState& b);

}  // namespace bronvel
