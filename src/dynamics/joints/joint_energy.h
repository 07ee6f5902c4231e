// Energy and angular momentum of bodies that nothing but joints holds: what only holds does no work. Only the joint
// solver includes this.
//
// A sub-step of RATTLE keeps the energy to the second order, and what swings fast gains and loses by turns. Where
// nothing but demands that only hold acts on an island of joints, what a sub-step has made of it is known: what weight
// and steady forces did on the way. The motion within the island is then made so much faster or slower (projection on
// the energy's manifold; Hairer, Lubich and Wanner, Geometric Numerical Integration, IV.4): it is a motion that the
// joints allow, and momentum and angular momentum stay as they were. After collision impulses the angular momentum is
// first made what they and the weight have left of it.
#pragma once

#include "dynamics/joints/joint_system.h"
#include "dynamics/state/world_state.h"

namespace bronvel {

/// Which of the joints' bodies hang together, and whether something that does not move holds them.
void find_joint_islands(const WorldState& state, JointSystem& sys);

/// At a sub-step's start, before hits and forces: what the islands' energy is, and which of them may be held to it.
void note_joint_energy(const WorldState& state, JointSystem& sys);

/// When forces have been given: not those on which more acts than joints, collision impulses and forces that stay as
/// they are.
void leave_out_others(const WorldState& state, JointSystem& sys);

/// At the end of the sub-step of h seconds: holds them to it.
void keep_joint_energy(WorldState& state, JointSystem& sys, double h);

}  // namespace bronvel
