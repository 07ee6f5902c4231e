// One running scene: world, scripts, log and what was changed by hand, tick by tick.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

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
  double impulse = 0;           ///< N·s
};

/// A joint that broke.
struct PlaySnap {
  std::int64_t tick = 0;
  std::string joint;
  std::string a, b;   ///< bodies; "" for the scene
  double force = 0;   ///< N
  double torque = 0;  ///< N·m
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
  Play(const SceneFolder& folder, std::uint64_t seed);

  /// One tick: timers, on.tick of every script, the world, then on.touch and on.part, then on.snap.
  void step();

  RunningScene& running() { return running_; }
  const RunningScene& running() const { return running_; }
  ScriptHost& scripts() { return scripts_; }
  std::int64_t tick() const { return running_.world.tick(); }
  double time() const { return running_.world.time(); }
  std::uint64_t seed() const { return seed_; }

  /// Touches and partings of the last tick, in the world's order.
  const std::vector<PlayEvent>& events() const { return events_; }
  const std::vector<PlaySnap>& snaps() const { return snaps_; }
  std::vector<LogLine> take_log();
  bool any_error() const { return scripts_.any_error(); }

  /// Changes by hand, remembered for the end of play. Throw Error when the value does not fit.
  void set(const std::string& body, const std::string& property, const Value& value);
  void set_dial(const std::string& body, const std::string& script, const std::string& dial, double value);
  /// "fender.mass=4", "fender.position=0,3,0", "fender.dials.push=20".
  void set_from_text(const std::string& assignment);
  /// What differs from the start of play, in the order in which it was first changed.
  std::vector<Change> changes() const;

  /// See ScriptHost::reload.
  bool reload(const std::string& file, const std::string& source) { return scripts_.reload(file, source); }

 private:
  void remember(const std::string& body, const std::string& script, const std::string& name, const Value& before,
                const Value& after);
  BodyHandle body_called(const std::string& name) const;

  RunningScene running_;
  std::uint64_t seed_;
  ScriptHost scripts_;
  std::vector<PlayEvent> events_;
  std::vector<PlaySnap> snaps_;
  std::vector<Change> changes_;
  std::vector<LogLine> log_;
};

}  // namespace bronvel
