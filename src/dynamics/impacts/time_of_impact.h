// When two bodies meet within a sub-step. Only the dynamics layer includes this.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// A pair that will be hit.
struct Hit {
  bool any = false;
  double moment = 0;           ///< s into the sub-step
  double met = 0;              ///< points nearer than this are met, m
  Manifold manifold;           ///< at the moment
  bool by_own_planes = false;  ///< the manifold is the pair's own, point by point
  bool stale = false;          ///< none, but the planes that the pair knows say so: the manifold is that of now
};

/// Whether and when the pair is hit in this sub-step of h seconds, at more than the scene's restitution speed. Notes of
/// a swept pair whether it passes by.
Hit find_time_of_impact(WorldState& state, Pair& pair, double h);

/// Whether the pair is wholly apart, without load, and may come near faster than the restitution speed within the
/// sub-step of h seconds: as it moves now, or as its points' ways bend since its bodies turn.
bool may_come_near(const WorldState& state, const Pair& pair, double h);

/// The body as it will be in `moment` seconds if nothing but this steady acceleration (m/s²) acts on it.
BodyState carried_on(const BodyRecord& record, const BodyState& body, const Vec3& acceleration, double moment);

/// Seconds until a gap (m) closes at speed u (m/s) that grows by a (m/s²), 0 if it is closed; more than `h` if it does
/// not close.
double time_to_close(double gap, double u, double a, double h);

}  // namespace bronvel
