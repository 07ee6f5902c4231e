// Runs the scripts of a scene: one copy of each script for each body that carries it.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "script/calls/actor.h"
#include "script/running/running_scene.h"
#include "script/sandbox/limits.h"
#include "script/sandbox/log.h"

namespace bronvel {

struct BlastHit;

/// What a script declares for tuning, with its setting for one body: a number, yes or no, one of some words, or a thing
/// of the scene by its name.
struct Dial {
  std::string script;  ///< file name
  std::string name;
  DialValue value = 0.0;          ///< the setting now, of the kind that the script declares
  DialValue default_value = 0.0;  ///< as the script declares it
  std::string unit;
  double from = 0, to = 1;         ///< of a number
  std::vector<std::string> words;  ///< that a word may be
  std::string tip;
};

/// Something that a script drew or sounded in a tick.
struct Drawn {
  enum class Kind { mark, arrow, sound, puff };
  Kind kind = Kind::mark;
  Vec3 from = Vec3::Zero();   ///< scene frame, m
  Vec3 along = Vec3::Zero();  ///< an arrow's vector, in what it stands for
  double size = 1;            ///< a puff's radius, m; a sound's loudness, 0 to 1
  double pitch = 1;           ///< a sound's: 2 is an octave up
  std::string text;           ///< a label; a sound's name
  std::string body{};         ///< a sound's: whose script asked for it
};

/// A number that a script asked to be watched in a tick.
struct Watched {
  std::string body;  ///< whose script
  std::string name;
  double value = 0;
};

/// A ride that came to its end.
struct Arrival {
  BodyHandle body;
  std::string path;
};

/// Something that a script did to a body.
struct ScriptAct {
  enum class Kind { force, impulse, velocity, place };
  Kind kind = Kind::force;
  std::int64_t tick = 0;
  std::string body;    ///< to which it was done
  std::string script;  ///< file
  int line = 0;
  Vec3 vector = Vec3::Zero();  ///< N, N·s, m/s or m; scene frame
  Vec3 before = Vec3::Zero();  ///< velocity or place before it
};

/// The scripts of one running scene. Every call that runs Lua is safe: what goes wrong lands in the log, and the
/// script is stopped for that body while all else goes on.
class ScriptHost {
 public:
  /// `running` must outlive the host; `seed` feeds `random`; `sources` are the texts of the scene's scripts by file.
  ScriptHost(RunningScene& running, std::uint64_t seed, std::map<std::string, std::string> sources,
             const SandboxLimits& limits = {});
  ~ScriptHost();
  ScriptHost(const ScriptHost&) = delete;
  ScriptHost& operator=(const ScriptHost&) = delete;

  /// Puts a script on a body and runs its top level.
  void add(BodyHandle body, const ScriptUse& use);

  /// Puts a new text in place of the script on every body that carries it or builds on it. Dials keep their settings.
  /// A text that does not compile leaves the old one running and returns false.
  bool reload(const std::string& file, const std::string& source);

  void begin_tick();  ///< before anything of it, its inputs too: what scripts may use of a tick is there again
  // The phases of a tick, in their order. Handlers run in the order in which scripts were added.
  void play();  ///< before the first tick
  /// An input: where the pointer's ray begins and which way it goes, for `pointed`. Throws Error where it goes nowhere.
  void point(const Vec3& eye, const Vec3& way);
  void set_action(const std::string& name, double value);  ///< an input; on.press, on.release
  void grab(BodyHandle body);                              ///< on.grab of that body
  void drop(BodyHandle body);                              ///< on.drop of that body
  void timers();  ///< what `after`, `every` and `tell` have due at this tick, in the order they were asked for
  void cues();    ///< on.cue for the cues of this tick
  void tick(double dt);
  void ride();  ///< before the world's step: heads riding bodies for where they are to be
  // … the world's step …
  void contact(const ContactEvent& event);                        ///< on.touch, on.part
  void zone(const ZoneEvent& event);                              ///< on.enter, on.leave
  void splash(const SplashEvent& event);                          ///< on.splash
  void snap(const JointBreak& event);                             ///< on.snap of both bodies of a joint that broke
  void crack(const CrackEvent& event);                            ///< on.crack of a body that broke
  void blown(const Vec3& at, const std::vector<BlastHit>& hits);  ///< a blast pushed these: to be told in this tick
  void blasts();  ///< on.blast of what blasts pushed since the last call
  /// What scripts cut or shattered since the last call: the parts of each, the body itself first.
  std::vector<std::vector<BodyHandle>> take_parted();
  void take_up(BodyHandle body);  ///< the scripts of a body that came in mid-play: added, on.play
  void arrive();                  ///< on.arrive for rides that ended in this tick
  void remove(BodyHandle body);   ///< at the end of this tick
  void clear_away();              ///< removes the bodies that scripts removed; frees memory

  std::vector<Dial> dials(BodyHandle body) const;
  /// Throws Error when the body has no such dial or the value is not a number.
  /// Throws Error when there is no such dial, or the value is not of its kind.
  void set_dial(BodyHandle body, const std::string& script, const std::string& dial, const DialValue& value);
  double action(const std::string& name) const;  ///< value of an input action now

  /// Lines since the last call.
  std::vector<LogLine> take_log();
  /// What was drawn since the last call.
  std::vector<Drawn> take_drawn();
  /// What was asked to be watched since the last call: of each body and name the last value.
  std::vector<Watched> take_watched();
  /// Rides that ended in this tick.
  const std::vector<Arrival>& arrivals() const;
  /// What scripts expected and did not find: of each line and body the first time.
  const std::vector<LogLine>& unmet() const;
  /// What is done to bodies from now on, `what` ("hand", "blast") does, if books are kept.
  void acting(const char* what);
  /// Who acted, by the number in the world's books.
  const Actor& actor(std::uint32_t act) const;
  /// Whether what scripts do is kept, for `acts`. Costs a little for each call.
  void watch(bool on);
  /// What scripts did since the last tick began. Empty unless it is watched.
  const std::vector<ScriptAct>& acts() const;
  /// A script's text as it runs now; "" if there is none of that name.
  std::string source(const std::string& file) const;
  bool any_error() const;      ///< since the start
  std::size_t memory() const;  ///< bytes that scripts use
  std::size_t copies() const;  ///< of scripts, that are kept: those on bodies, and some that are gone

  /// The names of everything that is registered, as the reference writes them ("body:force", "scene:ray", "vec").
  std::vector<std::string> names() const;

  struct State;

 private:
  std::unique_ptr<State> state_;
};

}  // namespace bronvel
