// The safe Lua state.
#include "script/sandbox/sandbox.h"

#include <algorithm>
#include <cstdlib>
#include <cstring>
#include <ctime>

namespace bronvel {
namespace {

constexpr int hook_step = 997;  // instructions between looks at the budget; prime, so as not to keep step with a loop
constexpr std::size_t longest_text = (std::size_t{1} << 20) + 1024;  // a megabyte and Lua's own part of it

// Of this thread: a busy machine must not stop a script.
double processor_seconds() {
  timespec now{};
  clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
  return static_cast<double>(now.tv_sec) + 1e-9 * static_cast<double>(now.tv_nsec);
}

std::string type_word(lua_State* lua, int index) {
  return luaL_typename(lua, index);
}

}  // namespace

Sandbox::Sandbox(const SandboxLimits& limits, void* user_data) : user(user_data), limits_(limits) {
  lua = lua_newstate(allocate, this);
  if (!lua) throw std::bad_alloc();
  *static_cast<Sandbox**>(lua_getextraspace(lua)) = this;
  const auto millions = [](std::int64_t steps) { return std::to_string(steps / 1'000'000) + " million steps"; };
  const std::string hint = " and was stopped; does a loop never end, or a pattern try too many ways?";
  faults_[static_cast<int>(Lacking::own)] = "took more than " + millions(limits.steps) + " in one tick" + hint;
  faults_[static_cast<int>(Lacking::all)] =
      "was stopped, as all scripts together took more than " + millions(limits.all_steps) + " in one tick";
  faults_[static_cast<int>(Lacking::time)] =
      "took more than " + std::to_string(static_cast<int>(limits.seconds)) + " s of the processor in one tick" + hint;
  open_libraries();
  begin_tick();
  lua_sethook(lua, count, LUA_MASKCOUNT, hook_step);
  constexpr int pause = 200, work = 100, step = 10;  // a step of 2^10 bytes worth of work
  lua_gc(lua, LUA_GCINC, pause, work, step);
  lua_gc(lua, LUA_GCSTOP);
}

Sandbox::~Sandbox() {
  lua_sethook(lua, nullptr, 0, 0);
  lua_close(lua);
}

Sandbox& Sandbox::of(lua_State* lua) {
  return **static_cast<Sandbox**>(lua_getextraspace(lua));
}

void* Sandbox::allocate(void* self, void* block, std::size_t old_size, std::size_t new_size) {
  auto& box = *static_cast<Sandbox*>(self);
  const std::size_t had = block ? old_size : 0;
  const auto small = [](std::size_t size) { return size > 0 && size <= SmallBlocks::largest; };
  // Only what scripts do is limited: outside of a call an error would have nowhere to go.
  if (box.calls_ > 0 && new_size > had) {
    const bool text = !block && old_size == LUA_TSTRING;  // Lua tells what a new block is for
    box.text_too_long_ = text && new_size > longest_text;
    if (box.text_too_long_ || box.memory_used() - had + new_size > box.limits_.memory) {
      // Lua now looks through all its memory for what could go.
      constexpr std::size_t bytes_looked_through = 256;
      box.steps_left_ -= static_cast<std::int64_t>(box.memory_used_ / bytes_looked_through);
      return nullptr;
    }
    if (text) box.longest_text_ = std::max(box.longest_text_, new_size);
    box.steps_left_ -= static_cast<std::int64_t>((new_size - had) / bytes_in_a_step);
  }
  void* got = nullptr;
  if (!small(had) && !small(new_size)) {
    if (new_size == 0)
      std::free(block);
    else
      got = std::realloc(block, new_size);
  } else {
    if (new_size > 0) got = small(new_size) ? box.small_.take(new_size) : std::malloc(new_size);
    if (got && had > 0) std::memcpy(got, block, std::min(had, new_size));
    if (got || new_size == 0) {
      if (small(had))
        box.small_.give(block, had);
      else
        std::free(block);
    }
  }
  if (got || new_size == 0) box.memory_used_ = box.memory_used_ - had + new_size;
  return got;
}

void Sandbox::count(lua_State* lua, lua_Debug* debug) {
  Sandbox& box = of(lua);
  box.count_step(lua, debug);
  constexpr int hooks_between = 16;
  if (!box.over_budget() && ++box.hooks_ % hooks_between == 0 &&
      processor_seconds() - box.seconds_ > box.limits_.seconds) {
    box.lacking_ = Lacking::time;
    box.steps_left_ = 0;
  }
  if (!box.over_budget()) return;
  // What still runs now, such as what closes variables, is stopped at its first step: else each could go on for a
  // thousand, and begin more of its kind.
  box.watch(lua);
  lua_getinfo(lua, "Sl", debug);  // luaL_error would name the caller's line
  lua_pushfstring(lua, "%s:%d: %s", debug->short_src, debug->currentline, box.budget_fault());
  lua_error(lua);
}

// Some instructions cost by what they work on: comparing texts by their length, handing on arguments by their number.
void Sandbox::count_step(lua_State* on, lua_Debug* debug) {
  constexpr std::size_t short_text = 2048;
  std::int64_t each = 1 + static_cast<std::int64_t>(longest_text_ / short_text);
  int several = 64;
  while (several <= (1 << 20) && lua_checkstack(on, 1) != 0 && lua_getlocal(on, debug, -several) != nullptr) {
    lua_pop(on, 1);
    each += several / 8;
    several *= 2;
  }
  steps_left_ -= hook_step * each;
}

void Sandbox::watch(lua_State* thread) const {
  // Not set anew where it is so already: that would begin counting anew, and what is called often for a moment each
  // would never be counted.
  const int wanted = over_budget() ? 1 : hook_step;
  if (lua_gethook(thread) != count || lua_gethookcount(thread) != wanted)
    lua_sethook(thread, count, LUA_MASKCOUNT, wanted);
}

void Sandbox::hold(std::size_t bytes) {
  if (memory_used() + bytes > limits_.memory)
    throw ScriptFault("the scripts used more than " + std::to_string(limits_.memory >> 20) +
                      " MB of memory and this one was stopped; does something grow without end?");
  held_ += bytes;
}

void Sandbox::begin_tick() {
  ++tick_;
  all_steps_left_ = limits_.all_steps;
}

Spent& Sandbox::of_this_tick(Spent& spent) const {
  if (spent.tick != tick_) {
    spent = Spent{};
    spent.tick = tick_;
  }
  return spent;
}

void charge_fault(lua_State* lua) {
  constexpr std::int64_t of_throwing = 300;
  Sandbox::of(lua).take_off(of_throwing);
}

void charge_call(lua_State* lua) {
  Sandbox::of(lua).spend(steps_of_a_call);
}

void Sandbox::spend(std::int64_t steps) {
  take_off(steps);
  if (over_budget()) throw ScriptFault(budget_fault());
}

int Sandbox::keep(lua_State* on) {
  if (lua_isnil(on, -1)) {
    lua_pop(on, 1);
    return LUA_NOREF;
  }
  if (kept_unused_.empty()) {
    lua_createtable(on, kept_in_a_table, 0);
    const int first = static_cast<int>(kept_tables_.size()) * kept_in_a_table;
    kept_tables_.push_back(luaL_ref(on, LUA_REGISTRYINDEX));
    for (int i = kept_in_a_table; i-- > 0;) kept_unused_.push_back(first + i);
  }
  const int kept = kept_unused_.back();
  kept_unused_.pop_back();
  lua_rawgeti(on, LUA_REGISTRYINDEX, kept_tables_[static_cast<std::size_t>(kept / kept_in_a_table)]);
  lua_insert(on, -2);
  lua_rawseti(on, -2, kept % kept_in_a_table + 1);
  lua_pop(on, 1);
  return kept;
}

void Sandbox::push(lua_State* on, int kept) {
  if (kept == LUA_NOREF) {
    lua_pushnil(on);
    return;
  }
  lua_rawgeti(on, LUA_REGISTRYINDEX, kept_tables_[static_cast<std::size_t>(kept / kept_in_a_table)]);
  lua_rawgeti(on, -1, kept % kept_in_a_table + 1);
  lua_replace(on, -2);
}

void Sandbox::drop(int& kept) {
  if (kept == LUA_NOREF) return;
  lua_rawgeti(lua, LUA_REGISTRYINDEX, kept_tables_[static_cast<std::size_t>(kept / kept_in_a_table)]);
  lua_pushboolean(lua, 0);  // not nil, so that the table keeps its array
  lua_rawseti(lua, -2, kept % kept_in_a_table + 1);
  lua_pop(lua, 1);
  kept_unused_.push_back(kept);
  kept = LUA_NOREF;
}

void Sandbox::collect(int most_steps) {
  // Begin a round when what is in use has grown by half since the last one, as Lua's own collector would.
  constexpr std::size_t small = std::size_t{1} << 20;
  if (memory_used_ < collected_at_ + collected_at_ / 2 + small && !collecting_) return;
  collecting_ = true;
  for (int i = 0; i < most_steps; ++i) {
    // 0: one small step, and not all that is owed since the last.
    if (lua_gc(lua, LUA_GCSTEP, 0) == 0) continue;
    collecting_ = false;
    collected_at_ = memory_used_;
    return;
  }
}

const char* kind_word(Kind kind) {
  constexpr const char* words[kind_count] = {"vector", "turn", "body", "zone", "joint", "timer"};
  return words[static_cast<int>(kind)];
}

std::string Sandbox::call(int arguments, Spent& spent) {
  const bool outermost = calls_ == 0;
  std::int64_t had = 0;
  if (outermost) {
    const std::int64_t own = limits_.steps - of_this_tick(spent).steps;
    const std::int64_t all = std::max(all_steps_left_, limits_.least_steps);
    had = std::min(own, all);
    lacking_ = all < own ? Lacking::all : Lacking::own;
    constexpr std::int64_t of_a_call = 20;
    steps_left_ = had - of_a_call;
    seconds_ = processor_seconds();
    watch(lua);
  }
  ++calls_;
  const int status = lua_pcall(lua, arguments, 0, 0);
  --calls_;
  if (outermost) {
    spent.steps += had - steps_left_;
    all_steps_left_ -= had - steps_left_;
  }
  if (status == LUA_OK) return "";
  std::string text;
  if (status == LUA_ERRMEM && text_too_long_) {
    text = "made a text of more than a megabyte and was stopped; does a text grow without end?";
  } else if (status == LUA_ERRMEM) {
    text = "the scripts used more than " + std::to_string(limits_.memory >> 20) +
           " MB of memory and this one was stopped; does a table or a text grow without end?";
    lua_gc(lua, LUA_GCCOLLECT, 0);
  } else if (lua_type(lua, -1) == LUA_TSTRING) {
    text = lua_tostring(lua, -1);
  } else {
    text = "an error that is not a text but a " + type_word(lua, -1);
  }
  lua_pop(lua, 1);
  return text;
}

std::string Sandbox::compile(const std::string& source, const std::string& file) {
  const std::string chunk = "@" + file;
  if (luaL_loadbufferx(lua, source.data(), source.size(), chunk.c_str(), "t") == LUA_OK) return "";
  std::string text = lua_tostring(lua, -1);
  lua_pop(lua, 1);
  return text;
}

}  // namespace bronvel
