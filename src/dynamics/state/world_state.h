// What a world keeps from tick to tick: flat arrays by body index and by pair. Only the dynamics layer includes this.
#pragma once

#include <memory>
#include <optional>
#include <unordered_map>
#include <vector>

#include "dynamics/settings/events.h"
#include "dynamics/settings/step_times.h"
#include "dynamics/settings/world_settings.h"
#include "dynamics/state/break_record.h"
#include "dynamics/state/joint_record.h"
#include "dynamics/state/tick_scratch.h"
#include "dynamics/state/zone_record.h"

namespace bronvel {

/// The world's insides.
struct WorldState {
  WorldSettings settings;
  std::int64_t tick = 0;
  FlatArray<BodyRecord> records;
  FlatArray<BodyState> bodies;
  std::vector<std::uint32_t> unused;
  std::vector<MoverRecord> movers;  ///< in no order that matters
  BroadPhase broad_phase;
  FlatArray<Pair> pairs;
  std::vector<std::uint32_t> unused_pairs;
  bool pairs_left_out = false;      ///< in the last tick more were near each other than pairs can be kept of
  FlatArray<std::uint32_t> listed;  ///< pairs that live, in order of their keys
  /// Pairs that `near` does not lead to: of what has several parts, and those that are only kept to tell that they
  /// parted.
  std::unordered_map<PairKey, std::uint32_t, PairKeyHash> pair_of;
  FlatArray<Overlap> overlaps;  ///< many more than pairs, and small; in order of (a, b)
  std::unordered_map<std::uint64_t, PartOverlaps> part_overlaps;  ///< by bodies (`unordered_key`), where one has parts
  std::vector<std::uint32_t>
      first_overlap;  ///< by body, and one more: the first of `near` whose a it is, or a later body
  std::vector<JointRecord> joints;
  std::vector<std::uint32_t> unused_joints;
  int joint_parts = 1;  ///< in how many parts the joints' bodies last had to go through a sub-step
  std::unordered_map<std::uint64_t, int> collision_exclusions;  ///< how many joints say that two bodies do not meet
  std::vector<AdvanceHit> advance_hits;                         ///< since the last tick, one of two bodies
  std::vector<AdvanceHit> told_advance_hits;                    ///< those that the last tick told of
  FlatArray<ContactEvent> contacts;  ///< the first contact_count; the rest keep their room for later
  std::size_t contact_count = 0;
  std::vector<ZoneRecord> zones;
  std::vector<ZoneEvent> zone_events;
  FlatArray<Medium> media;  ///< by body; empty when no zone has a field
  std::vector<SplashEvent> splashes;
  bool unsensed = true;                 ///< something came, was moved or changed since zones last sensed
  std::vector<BreakRecord> breakables;  ///< in no order that matters, but always the same
  std::unordered_map<std::uint32_t, Vec3> frame_shifts;  ///< by body (World::frame_shift), where it is not zero
  std::vector<CrackEvent> cracks;
  std::vector<JointBreak> snaps;
  std::vector<FaultEvent> faults;

  StepTimes times;
  /// By body: acceleration in the last sub-step, hits apart, m/s². Only in worlds with joints.
  FlatArray<Vec3> borne_acceleration;
  bool disturbed = true;  ///< something was done to the world since the last tick
  bool quiet = false;     ///< after the last tick nothing moved

  FlatArray<BodyState> at_start;  ///< motions at the tick's start

  NotCopied<TickScratch> scratch;

  /// Gravity where the body is, zones counted, m/s².
  const Vec3& gravity_on(std::size_t body) const {
    return body < media.size() ? media[body].gravity : settings.gravity;  // made since: not looked at yet
  }
  std::uint32_t index_of(BodyHandle body) const;  ///< throws Error when the body is gone
  double tick_length() const { return 1.0 / settings.tick_rate; }
};

}  // namespace bronvel
