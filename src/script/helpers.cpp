// What a script finds around it: dials, on, after, every, random, print.
#include <cmath>

#include "script/host_state.h"
#include "script/values.h"

namespace bronvel {
namespace {

using HostState = ScriptHost::State;

constexpr const char* handler_names[] = {"play", "tick", "touch",  "part", "enter", "leave", "press",  "release",
                                         "grab", "drop", "arrive", "cue",  "snap",  "crack", "message"};
constexpr const char* timer_type = "timer";

// The handler name that is nearest to a misspelt one, by Levenshtein's distance; "" if none is near.
std::string nearest_handler(const std::string& word) {
  std::string best;
  std::size_t least = 3;
  for (const std::string name : handler_names) {
    std::vector<std::size_t> row(name.size() + 1);
    for (std::size_t j = 0; j <= name.size(); ++j) row[j] = j;
    for (std::size_t i = 1; i <= word.size(); ++i) {
      std::size_t corner = row[0];
      row[0] = i;
      for (std::size_t j = 1; j <= name.size(); ++j) {
        const std::size_t above = row[j];
        row[j] = std::min({row[j] + 1, row[j - 1] + 1, corner + (word[i - 1] == name[j - 1] ? 0 : 1)});
        corner = above;
      }
    }
    if (row.back() < least) {
      least = row.back();
      best = name;
    }
  }
  return best;
}

int set_handler(lua_State* lua) {
  const std::string name = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : readable(lua, 2);
  bool known = false;
  for (const char* handler : handler_names) known = known || name == handler;
  if (!known) {
    const std::string near = nearest_handler(name);
    throw ScriptFault("on." + name + " is not a handler" + (near.empty() ? "" : "; did you mean on." + near + "?"));
  }
  if (!lua_isfunction(lua, 3) && !lua_isnil(lua, 3))
    throw ScriptFault("on." + name + " wants a function, got " + readable(lua, 3));
  lua_rawset(lua, 1);
  return 0;
}

double field_number(lua_State* lua, int table, const char* key, double otherwise, const std::string& dial) {
  lua_getfield(lua, table, key);
  const double value =
      lua_isnil(lua, -1) ? otherwise : take_number(lua, -1, ("dial " + dial + ", " + key).c_str(), "a number");
  lua_pop(lua, 1);
  return value;
}

std::string field_text(lua_State* lua, int table, const char* key) {
  lua_getfield(lua, table, key);
  std::string value = lua_type(lua, -1) == LUA_TSTRING ? lua_tostring(lua, -1) : "";
  lua_pop(lua, 1);
  return value;
}

// dials { name = { value, unit =, from =, to =, tip = } } or dials { name = value }.
int declare_dials(lua_State* lua) {
  HostState& state = HostState::of(lua);
  ScriptInstance& instance = state.now();
  if (!lua_istable(lua, 2)) throw ScriptFault("dials wants a table { name = { value, unit = … } }");
  std::vector<Dial> declared;
  for (lua_pushnil(lua); lua_next(lua, 2) != 0; lua_pop(lua, 1)) {
    if (lua_type(lua, -2) != LUA_TSTRING)
      throw ScriptFault("each dial needs a name: dials { push = { 12, unit = \"N\" } }");
    Dial dial;
    dial.script = instance.file;
    dial.name = lua_tostring(lua, -2);
    if (lua_istable(lua, -1)) {
      const int table = lua_gettop(lua);
      lua_rawgeti(lua, table, 1);
      dial.usual = take_number(lua, -1, ("dial " + dial.name).c_str(), "a number first");
      lua_pop(lua, 1);
      dial.unit = field_text(lua, table, "unit");
      dial.tip = field_text(lua, table, "tip");
      dial.from = field_number(lua, table, "from", std::min(0.0, 2 * dial.usual), dial.name);
      dial.to = field_number(lua, table, "to", dial.usual == 0 ? 1 : std::max(0.0, 2 * dial.usual), dial.name);
    } else {
      dial.usual = take_number(lua, -1, ("dial " + dial.name).c_str(), "a number");
      dial.from = std::min(0.0, 2 * dial.usual);
      dial.to = dial.usual == 0 ? 1 : std::max(0.0, 2 * dial.usual);
    }
    if (!std::isfinite(dial.usual) || !(dial.from < dial.to))
      throw ScriptFault("dial " + dial.name + " wants a value that is a number, and from below to");
    const auto set = instance.settings.find(dial.name);
    dial.value = set == instance.settings.end() ? dial.usual : set->second;
    declared.push_back(dial);
  }
  std::sort(declared.begin(), declared.end(), [](const Dial& a, const Dial& b) { return a.name < b.name; });
  lua_rawgeti(lua, LUA_REGISTRYINDEX, instance.dial_values);
  for (const Dial& dial : declared) {
    lua_pushnumber(lua, dial.value);
    lua_setfield(lua, -2, dial.name.c_str());
  }
  lua_pop(lua, 1);
  instance.dials.insert(instance.dials.end(), declared.begin(), declared.end());
  return 0;
}

int refuse_dial(lua_State* lua) {
  throw ScriptFault("dials." + readable(lua, 2) + " can't be set by the script; keep what changes in a local");
}

int missing_dial(lua_State* lua) {
  throw ScriptFault("there is no dial called '" + readable(lua, 2) + "'; declare it in dials { … }");
}

int start_timer(lua_State* lua, const char* call, bool repeats) {
  HostState& state = HostState::of(lua);
  const double seconds = take_number(lua, 1, call, "a number of seconds");
  if (!(seconds >= 0 && seconds < 1e9))
    throw ScriptFault(std::string(call) + " wants a number of seconds of 0 or more, got " + readable(lua, 1));
  if (!lua_isfunction(lua, 2)) throw ScriptFault(std::string(call) + " wants a function, got " + readable(lua, 2));
  const double rate = state.running.world.settings().tick_rate;
  const auto ticks = std::max<std::int64_t>(1, std::llround(seconds * rate));
  lua_pushvalue(lua, 2);
  Timer timer;
  timer.function = luaL_ref(lua, LUA_REGISTRYINDEX);
  timer.id = state.next_timer++;
  timer.due = state.running.world.tick() + ticks;
  timer.period = repeats ? ticks : 0;
  timer.instance = state.current;
  state.timers.push_back(timer);
  auto* block = static_cast<std::uint64_t*>(lua_newuserdatauv(lua, sizeof(std::uint64_t), 0));
  *block = timer.id;
  luaL_setmetatable(lua, timer_type);
  return 1;
}

int after(lua_State* lua) {
  return start_timer(lua, "after", false);
}
int every(lua_State* lua) {
  return start_timer(lua, "every", true);
}

int cancel(lua_State* lua) {
  const auto* id = static_cast<const std::uint64_t*>(luaL_testudata(lua, 1, timer_type));
  if (!id) throw ScriptFault("cancel wants a timer before the colon, got " + readable(lua, 1));
  HostState& state = HostState::of(lua);
  for (Timer& timer : state.timers)
    if (timer.id == *id && timer.function != LUA_NOREF) {
      luaL_unref(lua, LUA_REGISTRYINDEX, timer.function);
      timer.function = LUA_NOREF;
    }
  return 0;
}

// SplitMix64 (Steele, Lea and Flood, 2014): small, and good enough for games.
double next_random(std::uint64_t& state) {
  state += 0x9E3779B97F4A7C15ULL;
  std::uint64_t z = state;
  z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9ULL;
  z = (z ^ (z >> 27)) * 0x94D049BB133111EBULL;
  z ^= z >> 31;
  return static_cast<double>(z >> 11) * 0x1.0p-53;
}

int random_number(lua_State* lua) {
  const double share = next_random(HostState::of(lua).now().random);
  if (lua_gettop(lua) == 0) {
    lua_pushnumber(lua, share);
    return 1;
  }
  const double low = take_number(lua, 1, "random", "a lowest and a highest number");
  const double high = take_number(lua, 2, "random", "a lowest and a highest number");
  lua_pushnumber(lua, low + (high - low) * share);
  return 1;
}

int print(lua_State* lua) {
  HostState& state = HostState::of(lua);
  std::string text;
  for (int i = 1; i <= lua_gettop(lua); ++i) text += (i > 1 ? " " : "") + readable(lua, i);
  lua_Debug debug;
  LogLine line;
  line.level = LogLevel::print;
  line.tick = state.running.world.tick();
  line.body = state.now().body_name;
  line.script = state.now().file;
  if (lua_getstack(lua, 1, &debug) != 0 && lua_getinfo(lua, "l", &debug) != 0)
    line.line = std::max(0, debug.currentline);
  line.text = text;
  constexpr std::size_t most_waiting = 20000;
  if (state.log.size() < most_waiting) state.log.push_back(line);
  return 0;
}

}  // namespace

void open_helpers(lua_State* lua) {
  luaL_newmetatable(lua, timer_type);
  lua_newtable(lua);
  lua_pushcfunction(lua, lua_guarded<cancel>);
  lua_setfield(lua, -2, "cancel");
  lua_setfield(lua, -2, "__index");
  lua_pushboolean(lua, 0);
  lua_setfield(lua, -2, "__metatable");
  lua_pop(lua, 1);

  lua_pushcfunction(lua, lua_guarded<after>);
  lua_setfield(lua, -2, "after");
  lua_pushcfunction(lua, lua_guarded<every>);
  lua_setfield(lua, -2, "every");
  lua_pushcfunction(lua, lua_guarded<random_number>);
  lua_setfield(lua, -2, "random");
  lua_pushcfunction(lua, lua_guarded<print>);
  lua_setfield(lua, -2, "print");
}

void make_environment(HostState& state, std::size_t at) {
  lua_State* lua = state.sandbox.lua;
  ScriptInstance& instance = state.instances[at];
  lua_newtable(lua);  // the environment
  lua_newtable(lua);  // falls back on the globals
  lua_rawgeti(lua, LUA_REGISTRYINDEX, state.sandbox.globals);
  lua_setfield(lua, -2, "__index");
  lua_pushboolean(lua, 0);
  lua_setfield(lua, -2, "__metatable");
  lua_setmetatable(lua, -2);

  push_body(lua, instance.body);
  lua_setfield(lua, -2, "body");

  lua_newtable(lua);  // on
  lua_newtable(lua);
  lua_pushcfunction(lua, lua_guarded<set_handler>);
  lua_setfield(lua, -2, "__newindex");
  lua_pushboolean(lua, 0);
  lua_setfield(lua, -2, "__metatable");
  lua_setmetatable(lua, -2);
  lua_pushvalue(lua, -1);
  instance.handlers = luaL_ref(lua, LUA_REGISTRYINDEX);
  lua_setfield(lua, -2, "on");

  lua_newtable(lua);  // the dials' values, behind a table that can be called but not written
  lua_newtable(lua);
  lua_pushcfunction(lua, lua_guarded<missing_dial>);
  lua_setfield(lua, -2, "__index");
  lua_setmetatable(lua, -2);
  lua_pushvalue(lua, -1);
  instance.dial_values = luaL_ref(lua, LUA_REGISTRYINDEX);
  lua_newtable(lua);
  lua_newtable(lua);
  lua_pushvalue(lua, -3);
  lua_setfield(lua, -2, "__index");
  lua_pushcfunction(lua, lua_guarded<refuse_dial>);
  lua_setfield(lua, -2, "__newindex");
  lua_pushcfunction(lua, lua_guarded<declare_dials>);
  lua_setfield(lua, -2, "__call");
  lua_pushboolean(lua, 0);
  lua_setfield(lua, -2, "__metatable");
  lua_setmetatable(lua, -2);
  lua_setfield(lua, -3, "dials");
  lua_pop(lua, 1);

  instance.environment = luaL_ref(lua, LUA_REGISTRYINDEX);
}

}  // namespace bronvel
