// The world's calls about joints.
#include "dynamics/islands/sleep.h"
#include "dynamics/joints/joint_rows.h"
#include "dynamics/joints/joint_solver.h"
#include "dynamics/state/world_state.h"
#include "dynamics/world/world.h"
#include "geometry/base/error.h"

namespace bronvel {
namespace {

void check(const WorldState& state, const JointSettings& settings) {
  if (auto fault = joint_fault(settings)) throw Error("joint", *fault);
  // Two fixed bodies may be joined: one of them may become dynamic in play.
  for (const BodyHandle body : {settings.a, settings.b})
    if (body != BodyHandle{}) static_cast<void>(state.index_of(body));
}

std::uint32_t joint_index(const WorldState& state, JointHandle joint) {
  if (joint.index >= state.joints.size() || !state.joints[joint.index].alive ||
      state.joints[joint.index].generation != joint.generation)
    throw Error("joint", "the joint is gone", "it broke or was cut");
  return joint.index;
}

void wake_ends(WorldState& state, const JointSettings& settings) {
  for (const BodyHandle body : {settings.a, settings.b})
    if (body != BodyHandle{}) wake_island(state, body.index);
}

// The bodies may meet from now on: they are looked for among each other's neighbours again.
void look_around(WorldState& state, const JointSettings& settings) {
  wake_ends(state, settings);
  for (const BodyHandle body : {settings.a, settings.b})
    if (body != BodyHandle{}) state.records[body.index].moved = true;
}

// Lists again which bodies the joint keeps from colliding.
void keep_apart(WorldState& state, const JointSettings& settings) {
  if (settings.bodies_meet || settings.a == BodyHandle{} || settings.b == BodyHandle{}) return;
  ++state.collision_exclusions[unordered_key(settings.a.index, settings.b.index)];
}

}  // namespace

JointHandle World::join(const JointSettings& settings) {
  WorldState& s = *state_;
  check(s, settings);
  std::uint32_t index;
  if (s.unused_joints.empty()) {
    index = static_cast<std::uint32_t>(s.joints.size());
    s.joints.emplace_back();
  } else {
    index = s.unused_joints.back();
    s.unused_joints.pop_back();
  }
  const std::uint32_t generation = s.joints[index].generation + 1;
  JointRecord& joint = s.joints[index];
  joint = JointRecord{};
  joint.settings = settings;
  joint.generation = generation;
  joint.alive = true;
  keep_apart(s, settings);
  mark_jointed(s);
  wake_ends(s, settings);
  joint.reading.position = joint.angle = where_joint_is(s, joint);
  return {index, generation};
}

void World::remove(JointHandle joint) {
  const std::uint32_t j = joint_index(*state_, joint);
  look_around(*state_, state_->joints[j].settings);
  forget_joint(*state_, j);
}

void World::change(JointHandle joint, const JointSettings& settings) {
  const std::uint32_t j = joint_index(*state_, joint);
  check(*state_, settings);
  const JointRecord old = state_->joints[j];
  forget_joint(*state_, j);
  state_->unused_joints.pop_back();
  state_->joints[j] = old;
  state_->joints[j].settings = settings;
  state_->joints[j].last_impulses = {};  // its rows may be others
  keep_apart(*state_, settings);
  mark_jointed(*state_);
  look_around(*state_, settings);
}

bool World::alive(JointHandle joint) const {
  return joint.index < state_->joints.size() && state_->joints[joint.index].alive &&
         state_->joints[joint.index].generation == joint.generation;
}

std::vector<JointHandle> World::joints() const {
  std::vector<JointHandle> all;
  for (std::uint32_t j = 0; j < state_->joints.size(); ++j)
    if (state_->joints[j].alive) all.push_back({j, state_->joints[j].generation});
  return all;
}

const JointSettings& World::joint_settings(JointHandle joint) const {
  return state_->joints[joint_index(*state_, joint)].settings;
}

JointReading World::reading(JointHandle joint) const {
  return state_->joints[joint_index(*state_, joint)].reading;
}

std::span<const JointBreak> World::snaps() const {
  return state_->snaps;
}

}  // namespace bronvel
