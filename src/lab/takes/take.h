// A take: the whole of one play, kept tick by tick.
#pragma once

#include <map>
#include <mutex>

#include "lab/readings/channel.h"
#include "lab/readings/frame.h"
#include "lab/readings/quantity.h"
#include "lab/tracks/bond_track.h"
#include "lab/tracks/contact_track.h"
#include "lab/tracks/packed_rows.h"

namespace bronvel {

/// What a body's settings were from a tick on.
struct SettingsFrom {
  std::int64_t tick = 0;
  std::shared_ptr<const Body> body;
  MassProperties mass;
};

/// A body, a copy or a part, from the tick at which it came to that at which it was gone.
struct BodyTrack {
  std::string name;
  std::int64_t first = 0;
  std::int64_t end = -1;  ///< −1: it is there to the end
  std::vector<SettingsFrom> settings;
  PackedRows rows;  ///< `body_columns`
};

/// What a joint held from a tick on: its bodies may have broken, and it stays with the pieces.
struct JointEndsFrom {
  std::int64_t tick = 0;
  std::string a, b;
  Vec3 anchor_a = Vec3::Zero(), anchor_b = Vec3::Zero();  ///< as SceneJoint's
};

struct JointTrack {
  SceneJoint joint;  ///< as it began
  std::int64_t first = 0, end = -1;
  std::vector<JointEndsFrom> ends;  ///< where they changed since
  PackedRows rows;                  ///< `joint_columns`
};

/// What it holds at the tick.
JointEndsFrom ends_of(const JointTrack& track, std::int64_t tick);

/// A number by name: a dial, or what a script watches.
struct NumberTrack {
  std::string name;  ///< as channels call it: "fender.dials.nudge.lua/push", "fender.watch.climb"
  std::string unit;
  std::int64_t first = 0;
  PackedRows rows;  ///< one column; not a number where it was not told
};

struct ZonesFrom {
  std::int64_t tick = 0;
  std::vector<SceneZone> zones;
};

/// What the scene's gravity was from a tick on, m/s².
struct GravityFrom {
  std::int64_t tick = 0;
  Vec3 gravity = Vec3::Zero();
};

struct HandAt {
  std::int64_t tick = 0;
  HandHold hand;
};

struct DrawnAt {
  std::int64_t tick = 0;
  std::vector<Drawn> drawn;
};

/// Positions to 2.4e-7 m, orientations to 2.4e-7, velocities to 5e-7 m/s and rad/s; single floats for the rest.
inline constexpr std::array<double, 16> body_columns{0x1p-21, 0x1p-21, 0x1p-21, 0x1p-21, 0x1p-21, 0x1p-21,
                                                     0x1p-21, 0x1p-20, 0x1p-20, 0x1p-20, 0x1p-20, 0x1p-20,
                                                     0x1p-20, 1,       0x1p-16, 0x1p-10};
inline constexpr std::array<double, 8> joint_columns{0, 0, 0, 0, 0, 0, 0, 0};
inline constexpr std::array<double, 1> number_columns{0};

/// A plain value: what it was played from, and what it did. Tick 0 is the start.
struct Take {
  SceneFolder folder;  ///< scene and scripts as they were at the start
  std::uint64_t seed = 0;
  std::vector<Input> inputs;  ///< that acted, in their order

  std::int64_t ticks = 0;  ///< recorded, the start included
  bool full = false;       ///< the memory for takes was used up: what came after is not here
  /// Of the world at the last tick, if the play came to its end in order.
  std::optional<std::uint64_t> digest{};
  std::vector<BodyTrack> bodies;
  std::vector<JointTrack> joints;
  std::vector<NumberTrack> numbers;
  ContactTrack contacts;  ///< by places in `bodies`
  BondTrack bonds;        ///< likewise
  std::vector<ZonesFrom> zones;
  std::vector<GravityFrom> gravity;  ///< empty in takes of before it was kept: the scene's
  std::vector<DrawnAt> drawn;
  std::vector<HandAt> hand;  ///< of the ticks in which it held something
  std::vector<PlayEvent> events;
  std::vector<PlaySnap> snaps;
  std::vector<PlayZoneEvent> zone_events;
  std::vector<PlaySplash> splashes;
  std::vector<PlayCrack> cracks;
  std::vector<LogLine> log;
  std::map<std::string, std::size_t> body_of, joint_of, number_of;  ///< places by name; the last of that name

  double tick_rate() const { return folder.scene.world.tick_rate; }
  double seconds() const { return static_cast<double>(std::max<std::int64_t>(ticks - 1, 0)) / tick_rate(); }
  std::size_t bytes() const;  ///< about how much memory it takes
  /// The scripts' faults, each of which stopped one on a body, in their order.
  std::vector<LogLine> stops() const;
  /// What it was played from may be looked up by name: bodies that came in play too.
  ChannelOwners owners() const;
};

/// Joints, surfaces and what holds for all, as they had been set by hand by that tick: no bodies, and no zones, which
/// have tracks of their own.
Scene settings_at(const Take& take, std::int64_t tick);

/// Records a play into a take, tick by tick.
class TakeRecorder {
 public:
  /// Begins with the state of `play` now. `folder` is what it was made from.
  TakeRecorder(const SceneFolder& folder, const Play& play, std::size_t most_bytes = most);
  /// Adds the play's state and events after a tick, and what was logged since the last.
  void record(const Play& play, std::span<const LogLine> log);
  void finish(const Play& play);  ///< nothing more will come
  /// Lines that came between two ticks.
  void add_log(std::span<const LogLine> log);
  const Take& take() const { return take_; }
  const std::vector<Touching>& touching() const { return touching_; }  ///< after the last tick
  void set_most(std::size_t bytes) { most_bytes_ = bytes; }

  static constexpr std::size_t most = std::size_t{1} << 30;  ///< bytes that one take may have

 private:
  void record_bodies(const Play& play);
  void record_joints(const Play& play);
  void record_numbers(const Play& play);
  void record_contacts(const World& world);
  void look_at_dials(const Play& play);

  Take take_;
  Packer packer_;
  std::size_t most_bytes_;
  template <class Handle>
  struct Live {
    Handle handle;
    std::uint32_t track = 0;
    std::uint32_t changes = 0;  // of its settings, when they were last looked at
  };
  std::vector<Live<BodyHandle>> live_bodies_;  // in the order of their tracks
  std::vector<Live<JointHandle>> live_joints_;
  template <class Handle>
  struct Known {
    Handle handle;
    std::uint32_t track = 0;
  };
  std::vector<Known<BodyHandle>> track_of_;  // by the handle's index
  std::vector<Known<JointHandle>> track_of_joint_;
  std::vector<Touching> touching_;
  std::vector<double> number_now_;  // of each number track
  std::uint32_t zone_changes_ = 0, joint_changes_ = 0;
  std::size_t inputs_seen_ = 0;
  int until_counted_ = 0;
};

/// A take that one thread may still be recording while others look at it.
class SharedTake {
 public:
  SharedTake(const SceneFolder& folder, const Play& play) : recorder_(std::in_place, folder, play) {}
  explicit SharedTake(Take take) : whole_(std::move(take)) {}
  void record(const Play& play, std::span<const LogLine> log) {
    const std::lock_guard<std::mutex> lock(mutex_);
    recorder_->record(play, log);
  }
  void finish(const Play& play) {
    const std::lock_guard<std::mutex> lock(mutex_);
    recorder_->finish(play);
  }
  void add_log(std::span<const LogLine> log) {
    const std::lock_guard<std::mutex> lock(mutex_);
    recorder_->add_log(log);
  }
  /// What touches after the last tick; nothing once it is whole.
  std::vector<Touching> touching() const {
    const std::lock_guard<std::mutex> lock(mutex_);
    return recorder_ ? recorder_->touching() : std::vector<Touching>{};
  }
  /// How much memory it may have from now on; nothing of what it has is given back.
  void set_most(std::size_t bytes) {
    const std::lock_guard<std::mutex> lock(mutex_);
    if (recorder_) recorder_->set_most(bytes);
  }
  /// Runs `use` with the take as it is now. Nothing of it may be kept after that.
  template <class Use>
  auto with(Use&& use) const {
    const std::lock_guard<std::mutex> lock(mutex_);
    return use(recorder_ ? recorder_->take() : *whole_);
  }

 private:
  mutable std::mutex mutex_;
  std::optional<TakeRecorder> recorder_;
  std::optional<Take> whole_;
};

}  // namespace bronvel
