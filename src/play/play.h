// One running scene: world, scripts, log and what was changed by hand, tick by tick.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "play/hand.h"
#include "play/input.h"
#include "scene/folder.h"
#include "script/host.h"

namespace bronvel {

/// A contact that began or ended, with names instead of handles.
struct PlayEvent {
  std::int64_t tick = 0;
  ContactPhase phase = ContactPhase::touch;
  std::string a, b;
  Vec3 point = Vec3::Zero();
  Vec3 normal = Vec3::Unit(1);  ///< from a to b
  double speed = 0;             ///< closing, before the hit, m/s
  double impulse = 0;           ///< along the normal, over the tick, N·s
  double across = 0;            ///< of friction, over the tick, N·s
  int points = 0;               ///< that touch
  SurfacePair surface;          ///< what the two give together
};

/// A joint that broke.
struct PlaySnap {
  std::int64_t tick = 0;
  std::string joint;
  std::string a, b;   ///< bodies; "" for the scene
  double force = 0;   ///< N
  double torque = 0;  ///< N·m
};

/// A body that came into a zone or left it.
struct PlayZoneEvent {
  std::int64_t tick = 0;
  bool entered = true;
  std::string zone, body;
};

/// A body that came into water or out of it.
struct PlaySplash {
  std::int64_t tick = 0;
  bool into = true;
  std::string zone, body;
  double speed = 0;   ///< m/s
  double volume = 0;  ///< m³
  Vec3 point = Vec3::Zero();
};

/// A body that broke.
struct PlayCrack {
  std::int64_t tick = 0;
  std::string body;
  std::vector<std::string> parts;  ///< all of them, the body itself first
  std::size_t bonds = 0;           ///< that broke
  Vec3 point = Vec3::Zero();       ///< of the bond that was strained most, m
  double use = 0;                  ///< of its strength
};

/// Something that was changed while playing: a body's property, or a dial where `script` is not empty.
struct Change {
  std::string body;
  std::string script;
  std::string name;
  Value before, after;
};

/// Makes the change in the document.
void keep_change(Scene& scene, const Change& change);

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
  const std::vector<Input>& inputs() const { return inputs_; }
  /// Those that have acted.
  std::span<const Input> applied_inputs() const { return std::span(inputs_).first(next_input_); }
  const Hand& hand() const { return hand_; }

  RunningScene& running() { return running_; }
  const RunningScene& running() const { return running_; }
  ScriptHost& scripts() { return scripts_; }
  const ScriptHost& scripts() const { return scripts_; }
  std::int64_t tick() const { return running_.world.tick(); }
  double time() const { return running_.world.time(); }
  std::uint64_t seed() const { return seed_; }

  /// Touches and partings of the last tick, in the world's order.
  const std::vector<PlayEvent>& events() const { return events_; }
  const std::vector<PlaySnap>& snaps() const { return snaps_; }
  const std::vector<PlayZoneEvent>& zone_events() const { return zone_events_; }
  const std::vector<PlaySplash>& splashes() const { return splashes_; }
  const std::vector<PlayCrack>& cracks() const { return cracks_; }
  /// Debris that is fading away, with the share of it that is left, 1 to 0.
  std::vector<std::pair<BodyHandle, double>> fading() const;
  /// What scripts drew in the last tick.
  const std::vector<Drawn>& drawn() const { return drawn_; }
  /// The numbers that scripts asked to be watched in the last tick.
  const std::vector<Watched>& watched() const { return watched_; }
  std::vector<LogLine> take_log();
  bool any_error() const { return scripts_.any_error(); }

  /// Changes by hand, remembered for the end of play. Throw Error when the value does not fit.
  void set(const std::string& body, const std::string& property, const Value& value);
  void set_dial(const std::string& body, const std::string& script, const std::string& dial, double value);
  /// "fender.mass=4", "fender.position=0,3,0", "fender.dials.push=20", and "fender.dials.nudge.lua/push=20" where
  /// several scripts have a dial of that name.
  void set_from_text(const std::string& assignment);
  /// What differs from the start of play, in the order in which it was first changed.
  std::vector<Change> changes() const;

  /// See ScriptHost::reload. It is an input: the same play again takes the new text at the same tick.
  bool reload(const std::string& file, const std::string& source);

 private:
  void remember(const std::string& body, const std::string& script, const std::string& name, const Value& before,
                const Value& after);
  BodyHandle body_called(const std::string& name) const;

  void act_at_once(Input input);
  void apply(const Input& input);
  void sweep_away();
  void take_cracks();  // of the world's last tick
  void take_parted();
  void add_debris(const std::vector<BodyHandle>& parts);
  void cut(const Input& input);
  void clear_debris();
  void report(LogLevel level, const std::string& body, const std::string& text);

  RunningScene running_;
  std::uint64_t seed_;
  ScriptHost scripts_;
  std::vector<PlayEvent> events_;
  std::vector<PlaySnap> snaps_;
  std::vector<PlayZoneEvent> zone_events_;
  std::vector<PlaySplash> splashes_;
  std::vector<PlayCrack> cracks_;
  std::vector<Drawn> drawn_;
  std::vector<Watched> watched_;
  std::vector<Input> inputs_;   // applied, or of an earlier play and still to come
  std::size_t next_input_ = 0;  // the first that is still to come
  bool applying_ = false;       // inputs are being applied: what they set is not an input again
  Hand hand_;
  std::vector<Change> changes_;
  std::vector<LogLine> log_;
  struct Debris {
    BodyHandle body;
    std::string of;              // the body of the scene that it was once part of
    std::int64_t born = 0;       // tick
    std::int64_t fades_at = -1;  // tick at which it began to; −1: not yet
  };
  std::vector<Debris> debris_;  // the oldest first
  // The body of the scene that a part was once part of, however often it broke since.
  std::map<BodyHandle, std::string> wholes_;
};

}  // namespace bronvel
