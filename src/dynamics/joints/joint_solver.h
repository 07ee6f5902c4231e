// Joints, solved all at once: without iterations over single joints, drift or softness.
//
// In each sub-step the impulses of all joints are found so that every row is met at the sub-step's end, to rounding,
// and then once more so that velocities agree: constrained velocity Verlet, which keeps energy (Andersen, RATTLE, 1983;
// Hairer, Lubich and Wanner, Geometric Numerical Integration, 2006, ch. VII). All rows make one sparse system. Springs
// are taken by the implicit midpoint rule; limits and motors are an active set.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// Lists the joints with an awake body. Once a tick, before the first sub-step; false if there are none.
bool begin_joints(WorldState& state);

/// After velocities were integrated: rows where the bodies are now. Bodies that only joints hold move through the
/// sub-step with the velocity of its middle.
void prepare_joints(WorldState& state, double h);

/// Finds the impulses that meet the joints' demands at the sub-step's end. Returns the most that it changed the
/// velocity of a body that contacts bear on, m/s: where that is next to nothing, another round of both would find
/// nothing new. Without end where it left its work to the last round.
double hold_joints(WorldState& state, double h);

/// After positions moved: the other half of the smooth forces, and rows where the bodies are now.
void turn_joints(WorldState& state);

/// Brings velocities in line with the joints. Returns as hold_joints does.
double rest_joints(WorldState& state, double h);

/// Before the sub-step's impacts, and once velocities are in line: islands on which only joints, impacts and steady
/// forces act keep their energy (`joint_energy.h`).
void note_joint_energy(WorldState& state);
void keep_joint_energy(WorldState& state, double h);

/// After the last sub-step: readings, and joints that broke.
void report_joints(WorldState& state);

/// How many rounds of joints and contacts a sub-step takes: 1 where no body has both.
int joint_rounds(const WorldState& state);

/// Position of the joint's main axis now, as in JointReading.
double where_joint_is(const WorldState& state, const JointRecord& joint);

/// Brings the bodies' marks in line with the joints that live. After any joint came, went or changed.
void mark_jointed(WorldState& state);

void forget_joints(WorldState& state, std::uint32_t body);
void forget_joint(WorldState& state, std::uint32_t joint);

}  // namespace bronvel
