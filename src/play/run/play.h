// One running scene: world, scripts, log and what was changed by hand, tick by tick.
#pragma once

#include "play/inputs/hand.h"
#include "play/inputs/input_list.h"
#include "play/run/debris.h"
#include "play/run/play_changes.h"
#include "play/run/play_events.h"
#include "scene/files/folder.h"
#include "script/calls/host.h"

namespace bronvel {

/// A running scene. Not safe to use from two threads at once; Runner takes care of that.
class Play {
 public:
  /// `inputs` are those of an earlier play, to be played again.
  Play(const SceneFolder& folder, std::uint64_t seed, std::vector<Input> inputs = {});

  /// One tick: inputs; timers, messages and cues; on.tick of every script; the world; then what happened: touches and
  /// partings, zones, joints that broke, arrivals; last, what fell out of the scene and what scripts removed.
  void step();

  /// An input for the coming tick. Throws Error when it does not fit the scene.
  void give(Input input);
  /// All inputs so far, with their ticks; of an earlier play's, those to come too.
  const std::vector<Input>& inputs() const { return inputs_.all(); }
  /// Those that have acted.
  std::span<const Input> applied_inputs() const { return inputs_.acted(); }
  const Hand& hand() const { return hand_; }

  RunningScene& running() { return running_; }
  const RunningScene& running() const { return running_; }
  ScriptHost& scripts() { return scripts_; }
  const ScriptHost& scripts() const { return scripts_; }
  std::int64_t tick() const { return running_.world.tick(); }
  double time() const { return running_.world.time(); }
  std::uint64_t seed() const { return seed_; }

  /// Touches and partings of the last tick, in the world's order.
  const std::vector<PlayEvent>& events() const { return events_.contacts; }
  const std::vector<PlaySnap>& snaps() const { return events_.snaps; }
  const std::vector<PlayZoneEvent>& zone_events() const { return events_.zones; }
  const std::vector<PlaySplash>& splashes() const { return events_.splashes; }
  const std::vector<PlayCrack>& cracks() const { return cracks_; }
  /// Debris that is fading away, with the share of it that is left, 1 to 0.
  std::vector<std::pair<BodyHandle, double>> fading() const { return debris_.fading(running_.world); }
  /// What scripts drew in the last tick.
  const std::vector<Drawn>& drawn() const { return drawn_; }
  /// The numbers that scripts asked to be watched in the last tick.
  const std::vector<Watched>& watched() const { return watched_; }
  std::vector<LogLine> take_log();
  bool any_error() const { return scripts_.any_error(); }
  /// How many inputs did not fit the scene as it was.
  int inputs_failed() const { return inputs_failed_; }
  /// What went wrong when the scripts were put on their bodies, before anything was played.
  const std::vector<LogLine>& load_faults() const { return load_faults_; }

  /// A change by hand, remembered for the end of play: of a body, dial, joint, zone, surface or what holds for all.
  /// Throws Error when the value does not fit, or a running play can't take it over (`counts_in_play`).
  void set(const SettingPlace& place, const Value& value);
  /// "fender.mass=4", "fender.position=0,3,0", "fender.dials.push=20", "cord.stiffness=2 kN",
  /// "world.gravity=0,-1.62,0".
  void set_from_text(const std::string& assignment);
  /// What differs from the start of play, in the order in which it was first changed.
  std::vector<Change> changes() const { return changes_.real(); }

  /// See ScriptHost::reload. It is an input: the same play again takes the new text at the same tick.
  bool reload(const std::string& file, const std::string& source);

 private:
  Value set_dial(SettingPlace& place, const Value& value);  // gives what it was, and says whose it is
  BodyHandle body_called(const std::string& name) const;

  void apply(const Input& input);
  void sweep_away();
  void went_to_pieces(const std::vector<BodyHandle>& parts);
  void take_cracks();  // of the world's last tick
  void take_parted();
  void cut(const Input& input);
  void clear_debris();
  void tell_scripts();
  void report(LogLevel level, const std::string& body, const std::string& text);

  RunningScene running_;
  std::uint64_t seed_;
  ScriptHost scripts_;
  PlayEvents events_;
  std::vector<PlayCrack> cracks_;
  std::vector<Drawn> drawn_;
  std::vector<Watched> watched_;
  InputList inputs_;
  bool applying_ = false;  // inputs are being applied: what they set is not an input again
  Hand hand_;
  PlayChanges changes_;
  std::vector<LogLine> log_;
  std::vector<LogLine> load_faults_;
  int inputs_failed_ = 0;
  Debris debris_;
  std::int64_t cut_tick_ = -1;  // the last in which something was cut, and how often
  int cuts_ = 0;
};

}  // namespace bronvel
