// A script's own surroundings: `on`, `dials`, `body`, and taking in other scripts with require and build_on.
#include <array>
#include <cmath>

#include "script/calls/host_state.h"
#include "script/calls/values.h"
#include "script/reference/reference.h"

namespace bronvel {
namespace {

using HostState = ScriptHost::State;

constexpr const char* handlers[handler_count] = {"play",  "tick",    "touch", "part",  "enter",  "leave",
                                                 "press", "release", "grab",  "drop",  "arrive", "cue",
                                                 "snap",  "splash",  "crack", "blast", "message"};
// `on` and `dials` are the same two values for all scripts: what they read and set is the running one's.
int handler_place(lua_State* lua) {
  const std::string name = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : readable(lua, 2);
  for (std::size_t i = 0; i < handler_count; ++i)
    if (name == handlers[i]) return static_cast<int>(i);
  const std::string near = nearest_handler(name);
  throw ScriptFault("on." + name + " is not a handler" + (near.empty() ? "" : "; did you mean on." + near + "?"));
}

int set_handler(lua_State* lua) {
  const int place = handler_place(lua);
  if (!lua_isfunction(lua, 3) && !lua_isnil(lua, 3))
    throw ScriptFault(std::string("on.") + handlers[place] + " wants a function, got " + readable(lua, 3));
  HostState& state = HostState::of(lua);
  int& reference = state.heads[state.current].handlers[static_cast<std::size_t>(place)];
  state.sandbox.drop(reference);
  lua_settop(lua, 3);
  const int kept = state.sandbox.keep(lua);
  state.heads[state.current].handlers[static_cast<std::size_t>(place)] = kept;
  return 0;
}

int read_handler(lua_State* lua) {
  HostState& state = HostState::of(lua);
  const auto place = static_cast<std::size_t>(handler_place(lua));
  state.sandbox.push(lua, state.heads[state.current].handlers[place]);
  return 1;
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
      dial.default_value = take_number(lua, -1, ("dial " + dial.name).c_str(), "a number first");
      lua_pop(lua, 1);
      dial.unit = field_text(lua, table, "unit");
      dial.tip = field_text(lua, table, "tip");
      dial.from = field_number(lua, table, "from", std::min(0.0, 2 * dial.default_value), dial.name);
      dial.to = field_number(lua, table, "to", dial.default_value == 0 ? 1 : std::max(0.0, 2 * dial.default_value),
                             dial.name);
    } else {
      dial.default_value = take_number(lua, -1, ("dial " + dial.name).c_str(), "a number");
      dial.from = std::min(0.0, 2 * dial.default_value);
      dial.to = dial.default_value == 0 ? 1 : std::max(0.0, 2 * dial.default_value);
    }
    if (!std::isfinite(dial.default_value) || !(dial.from < dial.to))
      throw ScriptFault("dial " + dial.name + " wants a value that is a number, and from below to");
    const auto set = instance.settings.find(dial.name);
    dial.value = set == instance.settings.end() ? dial.default_value : set->second;
    state.sandbox.spend(20 + static_cast<std::int64_t>(instance.dials.size() / 8));
    declared.push_back(dial);
  }
  std::sort(declared.begin(), declared.end(), [](const Dial& a, const Dial& b) { return a.name < b.name; });
  constexpr std::size_t most_dials = 500;
  for (Dial& dial : declared) {
    // Declared once more, it is the same dial.
    const auto known = std::find_if(instance.dials.begin(), instance.dials.end(),
                                    [&](const Dial& each) { return each.name == dial.name; });
    if (known == instance.dials.end() && instance.dials.size() >= most_dials)
      throw ScriptFault("dials: a script may have 500; are they declared every tick under other names?");
    state.sandbox.hold(bytes_of(dial));
    if (known == instance.dials.end()) {
      instance.dials.push_back(std::move(dial));
      continue;
    }
    state.sandbox.let_go(bytes_of(*known));
    *known = std::move(dial);
  }
  return 0;
}

int refuse_dial(lua_State* lua) {
  throw ScriptFault("dials." + readable(lua, 2) + " can't be set by the script; keep what changes in a local");
}

int read_dial(lua_State* lua) {
  std::size_t length = 0;
  const char* text = lua_type(lua, 2) == LUA_TSTRING ? lua_tolstring(lua, 2, &length) : "";
  const std::string_view name(text, length);
  for (const Dial& dial : HostState::of(lua).now().dials)
    if (name == dial.name) {
      lua_pushnumber(lua, dial.value);
      return 1;
    }
  throw ScriptFault("there is no dial called '" + readable(lua, 2) + "'; declare it in dials { … }");
}

// The text of a scene's script by its name, with or without ".lua".
std::pair<std::string, const std::string*> source_called(HostState& state, const std::string& name, const char* call) {
  const std::string file = name.ends_with(".lua") ? name : name + ".lua";
  const auto found = state.sources.find(file);
  if (found != state.sources.end()) return {file, &found->second};
  std::string known;
  for (const auto& [each, text] : state.sources) known += (known.empty() ? "" : ", ") + each;
  throw ScriptFault(std::string(call) + ": the scene has no script called " + file + "; it has " + known);
}

void take_in(ScriptInstance& instance, const std::string& file) {
  auto& files = instance.built_from;
  if (std::find(files.begin(), files.end(), file) == files.end()) files.push_back(file);
}

// Compiles the file and leaves its function on the stack, with the environment at `environment`.
void push_chunk(lua_State* lua, const std::string& file, const std::string& text, int environment) {
  const std::string fault = Sandbox::of(lua).compile(text, file);
  if (!fault.empty()) throw ScriptFault(fault);
  lua_pushvalue(lua, environment);
  lua_setupvalue(lua, -2, 1);
}

// Runs the function on top of the stack, leaving one result; its error goes on as ours.
void run_chunk(lua_State* lua) {
  if (lua_pcall(lua, 0, 1, 0) == LUA_OK) return;
  const std::string fault = lua_type(lua, -1) == LUA_TSTRING ? lua_tostring(lua, -1) : "failed";
  lua_pop(lua, 1);
  throw ScriptFault(fault);
}

// require(name): what the module returned. It runs once for each body, sees what the script sees, and keeps its own
// globals to itself.
int require_module(lua_State* lua) {
  HostState& state = HostState::of(lua);
  ScriptInstance& instance = state.now();
  const auto [file, text] = source_called(state, take_text(lua, 1, "require", "a module's name"), "require");
  if (instance.modules == LUA_NOREF) {
    lua_newtable(lua);
    instance.modules = state.sandbox.keep(lua);
  }
  state.sandbox.push(lua, instance.modules);
  const int modules = lua_gettop(lua);
  if (lua_getfield(lua, modules, file.c_str()) != LUA_TNIL) {
    if (lua_islightuserdata(lua, -1)) throw ScriptFault("require: " + file + " requires itself, by way of others");
    return 1;
  }
  take_in(instance, file);
  lua_pushlightuserdata(lua, &state);  // while it loads
  lua_setfield(lua, modules, file.c_str());
  lua_newtable(lua);
  lua_newtable(lua);
  state.sandbox.push(lua, instance.environment);
  lua_setfield(lua, -2, "__index");
  lua_setmetatable(lua, -2);
  push_chunk(lua, file, *text, lua_gettop(lua));
  run_chunk(lua);
  if (lua_isnil(lua, -1)) {
    lua_pop(lua, 1);
    lua_pushboolean(lua, 1);
  }
  lua_pushvalue(lua, -1);
  lua_setfield(lua, modules, file.c_str());
  return 1;
}

// build_on(name): runs another script as if its text stood here, dials and all, and returns a table of its handlers,
// so that new ones can call them.
int build_on(lua_State* lua) {
  HostState& state = HostState::of(lua);
  ScriptInstance& instance = state.now();
  const auto [file, text] = source_called(state, take_text(lua, 1, "build_on", "a script's name"), "build_on");
  const bool loops = file == instance.file || std::find(instance.built_from.begin(), instance.built_from.end(), file) !=
                                                  instance.built_from.end();
  if (loops) throw ScriptFault("build_on: " + file + " is taken in already");
  take_in(instance, file);
  state.sandbox.push(lua, instance.environment);
  push_chunk(lua, file, *text, lua_gettop(lua));
  run_chunk(lua);
  lua_newtable(lua);
  for (std::size_t i = 0; i < handler_count; ++i) {
    state.sandbox.push(lua, state.heads[state.current].handlers[i]);
    lua_setfield(lua, -2, handlers[i]);
  }
  return 1;
}

}  // namespace

std::span<const char* const, handler_count> handler_names() {
  return handlers;
}

void open_environment(lua_State* lua) {
  const Named calls[] = {{"require", lua_guarded<require_module>}, {"build_on", lua_guarded<build_on>}};
  set_functions(lua, calls);
  // Blocks of nothing rather than tables, so that rawset can't put anything in them.
  const Named on[] = {{"__index", lua_guarded<read_handler>}, {"__newindex", lua_guarded<set_handler>}};
  const Named dials[] = {{"__index", lua_guarded<read_dial>},
                         {"__newindex", lua_guarded<refuse_dial>},
                         {"__call", lua_guarded<declare_dials>}};
  const auto open = [&](const char* name, std::span<const Named> functions) {
    lua_newuserdatauv(lua, 0, 0);
    lua_newtable(lua);
    set_functions(lua, functions);
    lua_pushboolean(lua, 0);
    lua_setfield(lua, -2, "__metatable");
    lua_setmetatable(lua, -2);
    lua_setfield(lua, -2, name);
  };
  open("on", on);
  open("dials", dials);
  // What every environment has behind it.
  lua_newtable(lua);
  lua_pushvalue(lua, -2);
  lua_setfield(lua, -2, "__index");
  lua_pushboolean(lua, 0);
  lua_setfield(lua, -2, "__metatable");
  HostState::of(lua).behind_environments = luaL_ref(lua, LUA_REGISTRYINDEX);
}

void make_environment(HostState& state, std::size_t at) {
  lua_State* lua = state.sandbox.lua;
  lua_createtable(lua, 0, 1);
  push(lua, state.heads[at].body);
  lua_setfield(lua, -2, "body");
  lua_rawgeti(lua, LUA_REGISTRYINDEX, state.behind_environments);
  lua_setmetatable(lua, -2);
  state.instances[at].environment = state.sandbox.keep(lua);
}

}  // namespace bronvel
