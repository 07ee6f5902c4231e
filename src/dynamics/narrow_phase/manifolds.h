// Brings the contact points of near pairs up to date.
#pragma once

#include "dynamics/state/world_state.h"
#include "geometry/queries/graze.h"

namespace bronvel {

/// Where the friction of a pair with points acts, scene frame at the tick's start.
struct FrictionPlace {
  explicit FrictionPlace(const Pair& pair);
  Vec3 arm_a = Vec3::Zero(), arm_b = Vec3::Zero();  ///< from the centres of mass to the middle of the points, m
};

/// Whether the points of the pair stand on the rim of a round face: a cylinder's or a cone's, seen from above.
bool on_round_face(const WorldState& state, const Pair& pair);

/// Finds the contact points of every pair with an awake body, or takes them along where it has hardly moved, carrying
/// impulses over by feature, and lists the pairs to be solved in state.scratch.active, in order of body indices.
void update_contacts(WorldState& state);

/// Whether no point of the pair gave an impulse in the last sub-step; after `fetch_pair`.
bool bears_nothing(const Pair& pair);

/// Puts a manifold, found at the bodies' present poses within the tick, into the pair: arms and gaps are told back to
/// the tick's start.
void set_manifold_on_the_way(const WorldState& state, Pair& pair, const Manifold& manifold);

/// The manifold of the pair's parts with their bodies at these motions, that of a face where they only graze an edge of
/// it (geometry/graze.h); and how far apart the parts are. `graze` notes whether they do; seen to, they do also while
/// they are still apart.
Manifold collide_parts(const WorldState& state, const Pair& pair, const BodyState& a, const BodyState& b, double reach,
                       Graze& graze);
struct PartGap {
  double gap = 0;               ///< m, negative where they overlap
  Vec3 normal = Vec3::Unit(1);  ///< unit, from A to B
};
PartGap part_gap(const WorldState& state, const Pair& pair, const BodyState& a, const BodyState& b);

}  // namespace bronvel
