// A script's own surroundings: `on`, `dials`, `body`, and taking in other scripts with require and build_on.
#include <array>
#include <cmath>

#include "script/host_state.h"
#include "script/values.h"

namespace bronvel {
namespace {

using HostState = ScriptHost::State;

constexpr const char* handlers[] = {"play",    "tick", "touch", "part",   "enter", "leave", "press",
                                    "release", "grab", "drop",  "arrive", "cue",   "snap",  "message"};
// The handler name that is nearest to a misspelt one, by Levenshtein's distance; "" if none is near.
std::string nearest_handler(const std::string& word) {
  std::string best;
  std::size_t least = 3;
  for (const std::string name : handlers) {
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
  for (const char* handler : handlers) known = known || name == handler;
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
  lua_rawgeti(lua, LUA_REGISTRYINDEX, instance.modules);
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
  lua_rawgeti(lua, LUA_REGISTRYINDEX, instance.environment);
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
  lua_rawgeti(lua, LUA_REGISTRYINDEX, instance.environment);
  push_chunk(lua, file, *text, lua_gettop(lua));
  run_chunk(lua);
  lua_newtable(lua);
  lua_rawgeti(lua, LUA_REGISTRYINDEX, instance.handlers);
  for (const char* handler : handlers) {
    lua_pushstring(lua, handler);
    lua_rawget(lua, -2);
    lua_setfield(lua, -3, handler);
  }
  lua_pop(lua, 1);
  return 1;
}

}  // namespace

std::span<const char* const> handler_names() {
  return handlers;
}

void open_modules(lua_State* lua) {
  const std::array<Named, 2> calls{{{"require", lua_guarded<require_module>}, {"build_on", lua_guarded<build_on>}}};
  set_functions(lua, calls);
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

  push(lua, instance.body);
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

  lua_newtable(lua);
  instance.modules = luaL_ref(lua, LUA_REGISTRYINDEX);
  instance.environment = luaL_ref(lua, LUA_REGISTRYINDEX);
}

}  // namespace bronvel
