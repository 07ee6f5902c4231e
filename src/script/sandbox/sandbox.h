// A Lua state that can't reach out, run for ever or eat the memory.
#pragma once

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <exception>
#include <lua.hpp>
#include <memory>
#include <string>
#include <vector>

#include "script/sandbox/limits.h"
#include "script/sandbox/small_blocks.h"

namespace bronvel {

/// Thrown inside functions that Lua calls; becomes a Lua error with the script's file and line in front.
class ScriptFault : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

/// What each call of a function of ours costs, beside what it does.
inline constexpr std::int64_t steps_of_a_call = 10;

/// Takes that off what the running script has left. Throws ScriptFault when nothing is.
void charge_call(lua_State* lua);
/// And what a fault costs beside that; throws nothing.
void charge_fault(lua_State* lua);

/// Turns a C++ function that may throw into one that Lua can call: no exception passes through Lua, and no Lua error
/// jumps over C++ objects.
template <int (*function)(lua_State*)>
int lua_guarded(lua_State* lua) {
  bool failed = false;
  int results = 0;
  try {
    charge_call(lua);
    results = function(lua);
  } catch (const std::exception& e) {
    luaL_where(lua, 1);
    lua_pushstring(lua, e.what());
    lua_concat(lua, 2);
    failed = true;
  }
  if (failed) {
    charge_fault(lua);
    return lua_error(lua);
  }
  return results;
}

/// Our own kinds of Lua value.
enum class Kind { vector, turn, body, zone, joint, pending };
inline constexpr int kind_count = 6;
const char* kind_word(Kind kind);  ///< "vector", "turn" …

/// A step is an instruction of Lua, or what takes about as long: so many bytes of new text or table, a step of a
/// pattern. Calls of the library and the bench cost by what they do.
inline constexpr std::size_t bytes_in_a_step = 64;

/// What one script used of a tick.
struct Spent {
  std::int64_t tick = -1;
  std::int64_t steps = 0;
  int lines = 0, drawings = 0, timers = 0, joints = 0;
};

/// The state with our safe libraries: base without loading, math, string, table, utf8, coroutine. `user` can be got
/// back in a Lua function with Sandbox::of.
class Sandbox {
 public:
  Sandbox(const SandboxLimits& limits, void* user);
  ~Sandbox();
  Sandbox(const Sandbox&) = delete;
  Sandbox& operator=(const Sandbox&) = delete;

  static Sandbox& of(lua_State* lua);

  lua_State* lua = nullptr;
  void* user = nullptr;

  /// A new tick begins, with a new budget.
  void begin_tick();
  /// What the script has spent of this tick, counted anew in each.
  Spent& of_this_tick(Spent& spent) const;
  /// Calls the function below its `arguments` on the stack within what the script has left of the tick; a call within a
  /// call has what is left of the outer one's. Returns "" or the error's text, with the stack popped either way.
  std::string call(int arguments, Spent& spent);

  /// Compiles `source`; leaves the chunk on the stack, its only upvalue being the environment. Returns "" or the error.
  std::string compile(const std::string& source, const std::string& file);

  /// Registry reference of the table that every environment falls back on.
  int globals = LUA_NOREF;

  bool over_budget() const { return steps_left_ <= 0; }
  /// Why nothing is left, as an error says it.
  const char* budget_fault() const { return faults_[static_cast<int>(lacking_)].c_str(); }
  void take_off(std::int64_t steps) { steps_left_ -= steps; }
  /// Takes `steps` off what the running call has left, for work done in C++. Throws ScriptFault when none is left.
  void spend(std::int64_t steps);

  /// A kind's metatable: its address, to know values by, and its registry reference.
  const void* kind_key[kind_count] = {};
  int kind_reference[kind_count] = {LUA_NOREF, LUA_NOREF, LUA_NOREF, LUA_NOREF, LUA_NOREF, LUA_NOREF};

  // Lua values held from C++, by number. Unlike the registry they lie in many small tables, so that the collector never
  // has to look through all of them in one go.
  // `on` is the stack: that of the coroutine that calls, if one does.
  int keep(lua_State* on);             ///< pops the value on top and gives its number; LUA_NOREF for nil
  void push(lua_State* on, int kept);  ///< nil for LUA_NOREF
  void drop(int& kept);                ///< lets it go and makes the number LUA_NOREF

  /// Frees what scripts no longer use, in at most so many of the collector's small steps. Counted, not timed: when
  /// memory runs out must not depend on the clock. Between calls only: no garbage is collected while a script runs,
  /// unless memory is short.
  void collect(int most_steps);
  /// Bytes that scripts use: Lua's own, and what is held for them in C++.
  std::size_t memory_used() const { return memory_used_ + held_; }
  /// Counts so many bytes that a call keeps for scripts outside of Lua; `let_go` takes them off again. Throws
  /// ScriptFault when all scripts together would have more than they may.
  void hold(std::size_t bytes);
  void let_go(std::size_t bytes) { held_ -= std::min(bytes, held_); }
  /// Counts `now` bytes in place of `before`, for what was counted anew; whether that is too much the next call finds.
  void hold_instead(std::size_t before, std::size_t now) {
    let_go(before);
    held_ += now;
  }

  /// The thread's steps are counted; finely from where nothing is left of the budget.
  void watch(lua_State* thread) const;

 private:
  static void* allocate(void* self, void* block, std::size_t old_size, std::size_t new_size);
  static void count(lua_State* lua, lua_Debug* debug);
  void count_step(lua_State* on, lua_Debug* debug);
  void open_libraries();

  SandboxLimits limits_;
  SmallBlocks small_;
  std::size_t memory_used_ = 0;
  std::size_t held_ = 0;
  std::int64_t tick_ = 0;
  std::int64_t steps_left_ = 0;      // of the running call
  std::int64_t all_steps_left_ = 0;  // of the tick, for all scripts
  enum class Lacking { own, all, time };
  Lacking lacking_ = Lacking::own;  // what the running call has least of
  std::string faults_[3];
  std::size_t longest_text_ = 0;  // bytes: comparing two costs as much, and no hook sees it
  bool text_too_long_ = false;    // why memory was refused
  int hooks_ = 0;
  double seconds_ = 0;  // of a processor's time, when the running call began
  int calls_ = 0;       // that are running, one within the other
  static constexpr int kept_in_a_table = 512;
  std::vector<int> kept_tables_;  // registry references
  std::vector<int> kept_unused_;  // numbers
  bool collecting_ = false;       // in the middle of a round
  std::size_t collected_at_ = 0;  // memory in use when the last round of collecting ended
};

/// string.find, match, gmatch and gsub with Lua's own patterns (Lua 5.4 Reference Manual, 6.4.1), but with every step
/// counted against the script's budget, so that no pattern can run for ever. Sets them in the table on top of the
/// stack.
void set_patterns(lua_State* lua);

/// Pushes a stand-in through which the table on top of the stack can be read but not changed; replaces the table.
void make_read_only(lua_State* lua, const char* name);

}  // namespace bronvel
