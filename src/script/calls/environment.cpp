// A script's own surroundings: `on`, `dials`, `body`, and taking in other scripts with require and build_on.
#include <array>
#include <cmath>

#include "scene/document/dials.h"
#include "scene/document/names.h"
#include "script/calls/cost.h"
#include "script/calls/host_state.h"
#include "script/calls/setting.h"
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

// Of { tag = "crate", … }: a thing by its name. None for other tables.
std::optional<NamedThing> take_named(lua_State* lua, int table, const std::string& dial) {
  for (int kind = 0; kind < std::ssize(named_words); ++kind) {
    lua_getfield(lua, table, named_words[kind]);
    const bool there = !lua_isnil(lua, -1);
    if (there && lua_type(lua, -1) != LUA_TSTRING)
      throw ScriptFault("dial " + dial + ": " + named_words[kind] + " wants a name, \"\" for none, got " +
                        readable(lua, -1));
    const std::string name = there ? lua_tostring(lua, -1) : "";
    lua_pop(lua, 1);
    if (!there) continue;
    if (const std::string fault = text_fault(name); !fault.empty()) throw ScriptFault("dial " + dial + " " + fault);
    return NamedThing{static_cast<NamedKind>(kind), name};
  }
  return std::nullopt;
}

// one_of = { "soft", "hard" }.
std::vector<std::string> take_words(lua_State* lua, int table, const std::string& dial) {
  constexpr lua_Integer most_words = 64;
  std::vector<std::string> words;
  lua_getfield(lua, table, "one_of");
  if (!lua_istable(lua, -1))
    throw ScriptFault("dial " + dial + " is a word, and wants those that it may be: one_of = { \"soft\", \"hard\" }");
  const auto count = static_cast<lua_Integer>(lua_rawlen(lua, -1));
  if (count > most_words) throw ScriptFault("dial " + dial + ": one_of may have 64 words");
  for (lua_Integer i = 1; i <= count; ++i) {
    lua_rawgeti(lua, -1, i);
    words.push_back(take_text(lua, -1, ("dial " + dial + ", one_of").c_str(), "words"));
    if (const std::string fault = text_fault(words.back()); !fault.empty())
      throw ScriptFault("dial " + dial + ", one_of " + fault);
    lua_pop(lua, 1);
  }
  lua_pop(lua, 1);
  return words;
}

void take_range(Dial& dial, double from, double to) {
  dial.from = from;
  dial.to = to;
  if (!std::isfinite(number_of(dial.default_value)) || !(dial.from < dial.to))
    throw ScriptFault("dial " + dial.name + " wants a value that is a number, and from below to");
}

// What stands for a dial on top of the stack: 3, true, { 3, unit =, from =, to = }, { true },
// { "soft", one_of = { … } } or { tag = "crate" }; a table may have a tip.
void take_dial(lua_State* lua, Dial& dial) {
  const int top = lua_gettop(lua);
  const bool in_table = lua_istable(lua, top);
  if (in_table) {
    dial.tip = field_text(lua, top, "tip");
    if (const auto named = take_named(lua, top, dial.name)) {
      dial.default_value = *named;
      return;
    }
    lua_rawgeti(lua, top, 1);
  }
  const int type = lua_type(lua, -1);
  if (type == LUA_TBOOLEAN) {
    dial.default_value = lua_toboolean(lua, -1) != 0;
  } else if (type == LUA_TSTRING && in_table) {
    dial.default_value = std::string(lua_tostring(lua, -1));
    dial.words = take_words(lua, top, dial.name);
    if (const std::string fault = dial_fault(dial, dial.default_value); !fault.empty())
      throw ScriptFault("dial " + dial.name + " " + fault);
  } else {
    const double value = take_number(lua, -1, ("dial " + dial.name).c_str(),
                                     "a number, true or false, a word with one_of, or a thing: { tag = \"crate\" }");
    dial.default_value = value;
    if (in_table) {
      dial.unit = field_text(lua, top, "unit");
      take_range(dial, field_number(lua, top, "from", std::min(0.0, 2 * value), dial.name),
                 field_number(lua, top, "to", value == 0 ? 1 : std::max(0.0, 2 * value), dial.name));
    } else {
      take_range(dial, std::min(0.0, 2 * value), value == 0 ? 1 : std::max(0.0, 2 * value));
    }
  }
  lua_settop(lua, top);
}

// dials { name = …, … }: see `take_dial`.
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
    take_dial(lua, dial);
    // A setting of another kind is of what the script declared before.
    const auto set = instance.settings.find(dial.name);
    const bool fits = set != instance.settings.end() && dial_fault(dial, set->second).empty();
    dial.value = fits ? set->second : dial.default_value;
    if (set != instance.settings.end() && !fits)
      state.report(LogLevel::warning, instance,
                   "dial " + dial.name + " is set to " + value_text(value_of(set->second)) + " in the scene, but " +
                       dial_fault(dial, set->second) + "; it is as the script declares it");
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

// What a dial names, as scripts use it: bodies, joints and zones themselves, of all else the name. Nothing where it
// names none, or what is gone.
void push_named(lua_State* lua, const HostState& state, const NamedThing& named) {
  const RunningScene& running = state.running;
  std::string name = named.name;
  const Body* self = running.body_of(state.heads[state.current].body);
  const bool part = self && !self->stamped.copy.empty();
  if (part || named.kind != NamedKind::body) {
    Sandbox::of(lua).take_off(cost::of_name(running.scene.bodies.size() + running.scene.joints.size()));
    if (self) name = thing_meant(running.scene, *self, named);
  }
  lua_pushnil(lua);
  if (name.empty()) return;
  if (named.kind == NamedKind::body) {
    if (const auto body = running.find(name)) push(lua, *body);
  } else if (named.kind == NamedKind::joint) {
    if (const auto joint = running.find_joint(name)) push(lua, *joint);
  } else if (named.kind == NamedKind::zone) {
    if (const auto zone = running.find_zone(name)) push(lua, *zone);
  } else {
    lua_pushstring(lua, name.c_str());
  }
}

int read_dial(lua_State* lua) {
  std::size_t length = 0;
  const char* text = lua_type(lua, 2) == LUA_TSTRING ? lua_tolstring(lua, 2, &length) : "";
  const std::string_view name(text, length);
  const HostState& state = HostState::of(lua);
  for (const Dial& dial : state.instances[state.current].dials) {
    if (name != dial.name) continue;
    if (const auto* number = std::get_if<double>(&dial.value))
      lua_pushnumber(lua, *number);
    else if (const auto* on = std::get_if<bool>(&dial.value))
      lua_pushboolean(lua, *on);
    else if (const auto* word = std::get_if<std::string>(&dial.value))
      lua_pushstring(lua, word->c_str());
    else
      push_named(lua, state, std::get<NamedThing>(dial.value));
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
  const NamedCall calls[] = {{"require", lua_guarded<require_module>}, {"build_on", lua_guarded<build_on>}};
  set_functions(lua, calls);
  // Blocks of nothing rather than tables, so that rawset can't put anything in them.
  const NamedCall on[] = {{"__index", lua_guarded<read_handler>}, {"__newindex", lua_guarded<set_handler>}};
  const NamedCall dials[] = {{"__index", lua_guarded<read_dial>},
                             {"__newindex", lua_guarded<refuse_dial>},
                             {"__call", lua_guarded<declare_dials>}};
  const auto open = [&](const char* name, std::span<const NamedCall> functions) {
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
