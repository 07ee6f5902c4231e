// Runs the scripts of a scene: one copy of each script for each body that carries it.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "scene/running.h"
#include "script/log.h"
#include "script/sandbox.h"

namespace bronvel {

/// A number that a script declares for tuning, with its setting for one body.
struct Dial {
  std::string script;  ///< file name
  std::string name;
  double value = 0;  ///< the setting now
  double usual = 0;  ///< as the script declares it
  std::string unit;
  double from = 0, to = 1;
  std::string tip;
};

/// The dials that the script declares, in the order it declares them; empty when it does not compile.
std::vector<Dial> declared_dials(const std::string& file, const std::string& source);

/// The scripts of one running scene. Every call that runs Lua is safe: what goes wrong lands in the log, and the
/// script is stopped for that body while all else goes on.
class ScriptHost {
 public:
  /// `running` must outlive the host; `seed` feeds `random`.
  ScriptHost(RunningScene& running, std::uint64_t seed, const SandboxLimits& limits = {});
  ~ScriptHost();
  ScriptHost(const ScriptHost&) = delete;
  ScriptHost& operator=(const ScriptHost&) = delete;

  /// Puts a script on a body and runs its top level.
  void add(BodyHandle body, const ScriptUse& use, const std::string& source);

  /// Puts a new text in place of the script on every body that carries it. Dials keep their settings. A text that does
  /// not compile leaves the old one running and returns false.
  bool reload(const std::string& file, const std::string& source);

  // Handlers, in the order in which scripts were added.
  void play();
  void timers();  ///< runs what `after` and `every` have due at this tick
  void tick(double dt);
  void contact(const ContactEvent& event);
  /// on.snap of both bodies of a joint that broke.
  void snap(const SnapEvent& event);

  std::vector<Dial> dials(BodyHandle body) const;
  /// Throws Error when the body has no such dial or the value is not a number.
  void set_dial(BodyHandle body, const std::string& script, const std::string& dial, double value);

  /// Lines since the last call.
  std::vector<LogLine> take_log();
  bool any_error() const;  ///< since the start

  struct State;

 private:
  std::unique_ptr<State> state_;
};

}  // namespace bronvel
