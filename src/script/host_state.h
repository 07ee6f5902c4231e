// What the script host holds inside. Only the script layer includes this.
#pragma once

#include <map>

#include "script/host.h"

namespace bronvel {

/// One copy of a script, on one body.
struct ScriptInstance {
  BodyHandle body;
  std::string body_name;
  std::string file;
  std::map<std::string, double> settings;  ///< dial settings that differ from the script's own
  std::vector<Dial> dials;
  int environment = LUA_NOREF;  ///< registry references
  int handlers = LUA_NOREF;
  int dial_values = LUA_NOREF;
  bool stopped = false;
  std::uint64_t random = 0;  ///< state of its own random stream
};

struct Timer {
  std::uint64_t id = 0;
  std::int64_t due = 0;     ///< tick
  std::int64_t period = 0;  ///< ticks; 0 for once
  std::size_t instance = 0;
  int function = LUA_NOREF;
};

struct ScriptHost::State {
  State(RunningScene& running_scene, std::uint64_t the_seed, const SandboxLimits& limits)
      : running(running_scene), seed(the_seed), sandbox(limits, this) {}

  RunningScene& running;
  std::uint64_t seed;
  Sandbox sandbox;
  std::vector<ScriptInstance> instances;
  std::vector<Timer> timers;
  std::uint64_t next_timer = 1;
  std::size_t current = 0;  ///< the instance whose code runs
  std::vector<LogLine> log;
  bool any_error = false;

  static State& of(lua_State* lua) { return *static_cast<State*>(Sandbox::of(lua).user); }
  ScriptInstance& now() { return instances[current]; }
  void report(LogLevel level, const ScriptInstance& instance, const std::string& text);
  /// Calls the function below its arguments as the instance's code; stops the instance if it fails.
  void run(std::size_t instance, int arguments);
};

/// Registers bodies and the scene in the globals table on top of the stack.
void open_bodies(lua_State* lua);

/// Registers dials, on, after, every, random and print in the globals table on top of the stack.
void open_helpers(lua_State* lua);

/// Makes the instance's environment with its own `dials`, `on` and `body`; sets the references.
void make_environment(ScriptHost::State& state, std::size_t instance);

}  // namespace bronvel
