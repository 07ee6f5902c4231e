// Brings the contact points of near pairs up to date.
#pragma once

#include "dynamics/world_state.h"
#include "geometry/graze.h"

namespace bronvel {

/// A resting body must be seen to touch although it floats a hair above: points this near are always kept.
inline constexpr double least_reach = 0.005;  // m
/// Where no points were found, it was looked so much farther than need be: none will be until the surfaces come so much
/// nearer.
inline constexpr double looked_farther = 0.002;  // m

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

/// Whether one of the two has turned by more than 0.03 rad within the tick: its contacts' planes no longer hold.
bool turned_far(const WorldState& state, const Pair& pair);

/// Whether no point of the pair gave an impulse in the last sub-step; after `fetch_pair`.
bool bears_nothing(const Pair& pair);

/// Within the tick: finds anew the contacts of round bodies that have moved on, where the normal has changed: on curved
/// or triangulated ground a plane of the tick's start would lift them or let them sink. And those of bodies
/// that have turned far: what tumbles past a corner would be stopped by the plane that the corner's side had, and sink
/// in with the next corner. Only in scenes that are solved in double: heaps are spared the time.
void follow_contacts(WorldState& state);

/// Puts a manifold, found at the bodies' present poses within the tick, into the pair: arms and gaps are told back to
/// the tick's start.
void set_manifold_on_the_way(const WorldState& state, Pair& pair, const Manifold& manifold);

/// The manifold of the pair's parts with their bodies at these motions, that of a face where they only graze an edge of
/// it (geometry/graze.h); and how far apart the parts are. `graze` notes whether they do; seen to, they do also while
/// they are still apart.
Manifold collide_parts(const WorldState& state, const Pair& pair, const Motion& a, const Motion& b, double reach,
                       Graze& graze);
struct PartGap {
  double gap = 0;               ///< m, negative where they overlap
  Vec3 normal = Vec3::Unit(1);  ///< unit, from A to B
};
PartGap part_gap(const WorldState& state, const Pair& pair, const Motion& a, const Motion& b);

/// The pose of the body's shape when its motion is `motion`.
Pose shape_pose(const BodyRecord& record, const Motion& motion);

/// The body's points are found anew in the next tick, however little it moves: its centre of mass is another.
void find_points_anew(WorldState& state, std::uint32_t body);

}  // namespace bronvel
