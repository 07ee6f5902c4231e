// What a script finds around it: random, print, inputs, and drawing on the stage.
#include <algorithm>
#include <array>
#include <cmath>

#include "script/calls/host_state.h"
#include "script/calls/values.h"

namespace bronvel {
namespace {

using HostState = ScriptHost::State;

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

// Whose script called, and from which of its lines.
LogLine line_of_caller(lua_State* lua) {
  HostState& state = HostState::of(lua);
  LogLine line;
  line.tick = state.running.world.tick();
  line.body = state.now().body_name;
  line.script = state.now().file;
  lua_Debug debug;
  if (lua_getstack(lua, 1, &debug) != 0 && lua_getinfo(lua, "Sl", &debug) != 0) {
    line.line = std::max(0, debug.currentline);
    if (debug.source[0] == '@') line.script = debug.source + 1;  // a module's own file
  }
  return line;
}

int print(lua_State* lua) {
  HostState& state = HostState::of(lua);
  std::string text;
  constexpr std::size_t most_bytes = 2000;
  for (int i = 1; i <= lua_gettop(lua) && text.size() <= most_bytes; ++i) text += (i > 1 ? " " : "") + readable(lua, i);
  state.sandbox.spend(50 + static_cast<std::int64_t>(text.size() / 8));
  if (text.size() > most_bytes) {
    text.resize(most_bytes);
    text += " … (cut after 2,000 bytes)";
  }
  constexpr int most_lines = 1000;
  state.count(&Spent::lines, most_lines, "printed more than 1,000 lines");
  LogLine line = line_of_caller(lua);
  line.text = text;
  constexpr std::size_t most_waiting = 5000;
  if (state.log.size() < most_waiting)
    state.log.push_back(line);
  else
    ++state.lines_left_out;
  return 0;
}

const std::string& known_action(lua_State* lua, const char* call) {
  HostState& state = HostState::of(lua);
  const std::string name = take_text(lua, 1, call, "an action's name");
  for (const Action& action : state.running.scene.actions)
    if (action.name == name) return action.name;
  throw ScriptFault(std::string(call) + ": the scene has no action called '" + name + "'");
}

double action_value(lua_State* lua, const char* call) {
  const auto& actions = HostState::of(lua).actions;
  const auto found = actions.find(known_action(lua, call));
  return found == actions.end() ? 0 : found->second;
}

int held(lua_State* lua) {
  lua_pushboolean(lua, action_value(lua, "held") != 0);
  return 1;
}
int axis(lua_State* lua) {
  lua_pushnumber(lua, action_value(lua, "axis"));
  return 1;
}

int draw(lua_State* lua, Drawn drawn) {
  constexpr std::size_t most_waiting = 5000;
  constexpr int most_of_one = 1000, cost = 20;
  HostState& state = HostState::of(lua);
  state.count(&Spent::drawings, most_of_one, "drew more than 1,000 things");
  state.sandbox.spend(cost);
  auto& list = state.drawn;
  if (list.size() < most_waiting) list.push_back(std::move(drawn));
  return 0;
}

// Cut where a letter ends (UTF-8), so that it stays a text.
std::string label_at(lua_State* lua, int index) {
  constexpr std::size_t most_bytes = 200;
  std::string label = lua_isnoneornil(lua, index) ? "" : readable(lua, index);
  if (label.size() <= most_bytes) return label;
  Sandbox::of(lua).spend(static_cast<std::int64_t>(label.size() / 8));
  std::size_t end = most_bytes;
  while (end > 0 && (static_cast<unsigned char>(label[end]) & 0xC0U) == 0x80U) --end;
  return label.substr(0, end) + "…";
}

int mark(lua_State* lua) {
  Drawn drawn;
  drawn.from = take_vector(lua, 1, "mark", "a point in metres");
  drawn.text = label_at(lua, 2);
  return draw(lua, drawn);
}
int arrow(lua_State* lua) {
  Drawn drawn;
  drawn.kind = Drawn::Kind::arrow;
  drawn.from = take_vector(lua, 1, "arrow", "a point in metres");
  drawn.along = take_vector(lua, 2, "arrow", "a vector");
  drawn.text = label_at(lua, 3);
  return draw(lua, drawn);
}
int sound(lua_State* lua) {
  Drawn drawn;
  HostState& state = HostState::of(lua);
  drawn.kind = Drawn::Kind::sound;
  drawn.text = take_text(lua, 1, "sound", "a sound's name");
  constexpr std::size_t longest_name = 200;
  if (drawn.text.size() > longest_name) throw ScriptFault("sound wants a name of no more than 200 letters");
  drawn.size = lua_isnoneornil(lua, 2) ? 1 : take_number(lua, 2, "sound", "a loudness from 0 to 1");
  constexpr double lowest_pitch = 0.05, highest_pitch = 20;
  if (!lua_isnoneornil(lua, 3)) drawn.pitch = take_number(lua, 3, "sound", "a pitch, 1 as it is");
  if (drawn.pitch < lowest_pitch || drawn.pitch > highest_pitch)
    throw ScriptFault("sound wants a pitch from 0.05 to 20, got " + readable(lua, 3));
  if (state.running.world.alive(state.heads[state.current].body))
    drawn.from = state.running.world.motion(state.heads[state.current].body).pose.position;
  drawn.body = state.running.name_of(state.heads[state.current].body);
  return draw(lua, drawn);
}
int puff(lua_State* lua) {
  Drawn drawn;
  drawn.kind = Drawn::Kind::puff;
  drawn.from = take_vector(lua, 1, "puff", "a point in metres");
  drawn.size = lua_isnoneornil(lua, 2) ? 0.5 : take_number(lua, 2, "puff", "a radius in metres");
  return draw(lua, drawn);
}

// A number of this tick by name: "watch" asks for it every tick, "measure" when it is known.
int note_number(lua_State* lua, const char* call) {
  constexpr std::size_t longest_name = 64, most_watched = 256;
  constexpr int cost = 20;
  HostState& state = HostState::of(lua);
  state.sandbox.spend(cost + static_cast<std::int64_t>(state.watched_numbers.size()));
  Watched number;
  number.name = take_text(lua, 1, call, "a name");
  number.value = lua_isboolean(lua, 2) ? lua_toboolean(lua, 2) : take_number(lua, 2, call, "a number");
  if (number.name.empty() || number.name.size() > longest_name ||
      number.name.find_first_of(".,/ \t\n") != std::string::npos)
    throw ScriptFault(std::string(call) +
                      " wants a name of 1 to 64 letters without dots, commas, slashes and spaces, "
                      "got '" +
                      number.name + "'");
  number.body = state.now().body_name;
  auto& all = state.watched_numbers;
  for (Watched& each : all)
    if (each.name == number.name && each.body == number.body) {
      each.value = number.value;
      return 0;
    }
  if (all.size() >= most_watched)
    throw ScriptFault(std::string(call) + ": all scripts together may tell 256 numbers in a tick");
  all.push_back(std::move(number));
  return 0;
}

// watch("thrust", f): a lane of its own in takes.
int watch(lua_State* lua) {
  return note_number(lua, "watch");
}

// measure("caught", n): what a wish can be about.
int measure(lua_State* lua) {
  return note_number(lua, "measure");
}

// expect(n == 3, "three are caught"): told once for each line and body where it is not so, and fails a check.
int expect(lua_State* lua) {
  constexpr std::size_t most_unmet = 100, longest_words = 200;
  HostState& state = HostState::of(lua);
  state.sandbox.spend(20 + static_cast<std::int64_t>(state.unmet.size()));
  if (lua_isnone(lua, 1)) throw ScriptFault("expect wants a condition first, got nothing");
  std::string words = lua_isnoneornil(lua, 2) ? "" : take_text(lua, 2, "expect", "words");
  if (words.size() > longest_words) throw ScriptFault("expect wants no more than 200 letters");
  const bool so = lua_toboolean(lua, 1) != 0;
  lua_pushboolean(lua, so);
  if (so) return 1;
  LogLine line = line_of_caller(lua);
  line.level = LogLevel::warning;
  line.text = "expected " + (words.empty() ? "what is not so" : words);
  const auto same = [&](const LogLine& each) {
    return each.line == line.line && each.script == line.script && each.body == line.body;
  };
  auto& unmet = state.unmet;
  if (unmet.size() >= most_unmet || std::any_of(unmet.begin(), unmet.end(), same)) return 1;
  unmet.push_back(line);
  state.log.push_back(std::move(line));
  return 1;
}

// Upvalue: a function, or a table of functions by tag. The hit or zone decides which of them is called.
int call_if_tagged(lua_State* lua) {
  const int arguments = lua_gettop(lua);
  BodyHandle other;
  if (lua_istable(lua, 1)) {
    lua_getfield(lua, 1, "other");
    if (const BodyHandle* found = to_body(lua, -1)) other = *found;
    lua_pop(lua, 1);
  }
  const Body* body = HostState::of(lua).running.body_of(other);
  if (!body) return 0;
  for (const std::string& tag : body->tags) {
    lua_getfield(lua, lua_upvalueindex(1), tag.c_str());
    if (!lua_isfunction(lua, -1)) {
      lua_pop(lua, 1);
      continue;
    }
    luaL_checkstack(lua, arguments + 1, "too much is handed on");
    for (int i = 1; i <= arguments; ++i) lua_pushvalue(lua, i);
    lua_call(lua, arguments, 0);
    return 0;
  }
  return 0;
}

// only("stone", f), or only{ stone = f, rope = g }: a handler for hits with bodies of these tags.
int only(lua_State* lua) {
  if (lua_istable(lua, 1)) {
    lua_settop(lua, 1);
  } else {
    take_text(lua, 1, "only", "a tag's name");
    if (!lua_isfunction(lua, 2)) throw ScriptFault("only wants a function second, got " + readable(lua, 2));
    lua_settop(lua, 2);
    lua_newtable(lua);
    lua_insert(lua, 1);
    lua_settable(lua, 1);
  }
  Sandbox::of(lua).take_off(20);
  lua_pushcclosure(lua, call_if_tagged, 1);
  return 1;
}

}  // namespace

void open_helpers(lua_State* lua) {
  const NamedCall calls[] = {{"random", lua_guarded<random_number>},
                             {"print", lua_guarded<print>},
                             {"held", lua_guarded<held>},
                             {"axis", lua_guarded<axis>},
                             {"mark", lua_guarded<mark>},
                             {"arrow", lua_guarded<arrow>},
                             {"sound", lua_guarded<sound>},
                             {"puff", lua_guarded<puff>},
                             {"watch", lua_guarded<watch>},
                             {"measure", lua_guarded<measure>},
                             {"expect", lua_guarded<expect>},
                             {"only", lua_guarded<only>}};
  set_functions(lua, calls);
}

}  // namespace bronvel
