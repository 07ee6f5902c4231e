// Time of impact: when two bodies meet within a sub-step.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// What the search for an impact found.
struct Hit {
  bool any = false;
  double moment = 0;           ///< s into the sub-step
  double met = 0;              ///< points nearer than this are met, m
  Manifold manifold;           ///< at the moment
  bool by_own_planes = false;  ///< the manifold is the pair's own, point by point
  bool stale = false;          ///< none, but the planes that the pair knows say so: the manifold is that of now
};

/// Whether and when the pair meets within this sub-step of h seconds faster than the scene's restitution speed. Swept
/// pairs also learn whether they pass by each other (`PairState::passing`).
Hit find_time_of_impact(WorldState& state, Pair& pair, double h);

/// Whether the pair is apart and without load, and may close faster than the restitution speed within the sub-step of h
/// seconds, as it moves now or as the paths of its points bend because its bodies turn.
bool may_come_near(const WorldState& state, const Pair& pair, double h);

/// The body after `moment` seconds of this steady acceleration (m/s²) and nothing else.
BodyState carried_on(const BodyRecord& record, const BodyState& body, const Vec3& acceleration, double moment);

/// Seconds until a gap (m) closes at speed u (m/s) that grows by a (m/s²), 0 if it is closed; more than `h` if it does
/// not close.
double time_to_close(double gap, double u, double a, double h);

}  // namespace bronvel
