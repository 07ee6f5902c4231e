// Moving bodies through a sub-step.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// Acceleration of the body by gravity and the steady force of this tick, m/s² (drag left out); zero for bodies that
/// forces don't move.
Vec3 steady_acceleration(const WorldState& state, std::uint32_t body);

/// Velocities through a sub-step of h seconds: gravity, forces, drags (implicit, so that the terminal speed is exact)
/// and the turning of free bodies about their own axes (implicit midpoint, which keeps energy and angular momentum;
/// Simo and Wong, 1991).
void integrate_velocities(WorldState& state, double h);

/// Positions through a sub-step. A body whose velocity nothing but smooth forces changed moves with the mean of its
/// velocities, which is exact under constant acceleration.
void integrate_positions(WorldState& state, double h);

/// Turns the body for some seconds (backwards if negative) with nothing acting on it: orientation, angular velocity and
/// inertia; angular momentum is kept. In steps of half a radian, or in a few longer ones where it
/// would take more than `most_steps`.
void coast_turning(const BodyRecord& record, BodyState& motion, double seconds, int most_steps = 64);

/// What share s/u of a speed u (m/s, or rad/s) is left after h seconds of drag, from (1 + h l) s + h q s² = u: the
/// implicit step of s' = −l s − q s².
inline double share_after_drag(double u, double linear, double quadratic, double h) {
  const double b = 1 + h * linear;
  return 2 / (b + std::sqrt(b * b + 4 * h * quadratic * u));
}

/// Of the body moving so, J; 0 unless it is dynamic.
double kinetic_energy_of(const BodyRecord& record, const BodyState& motion);

/// Orientation turned by the rotation vector (rad, scene frame).
Quat turned(const Quat& orientation, const Vec3& rotation);

/// How the body's surface has turned from one orientation to another: the least turn that explains it, which leaves out
/// turning about the axis of a body that is round about it, and all turning of a ball.
Quat surface_turn(const BodyRecord& record, const Quat& from, const Quat& to);

/// How fast the surface turns, rad/s: the part of the body's spin that moves it.
double surface_spin(const BodyRecord& record, const BodyState& motion);

/// The pose of the body's shape when its motion is `motion`.
Pose shape_pose(const BodyRecord& record, const BodyState& motion);

/// Brings inverse_inertia in line with the orientation.
void refresh_inertia(const BodyRecord& record, BodyState& motion);

}  // namespace bronvel
