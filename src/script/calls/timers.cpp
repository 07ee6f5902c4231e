// What is due later: after, every, tell, tell_in, and calling them off.
#include <array>
#include <cmath>

#include "geometry/base/error.h"
#include "script/calls/host_state.h"
#include "script/calls/values.h"

namespace bronvel {
namespace {

using HostState = ScriptHost::State;

std::int64_t ticks_from(lua_State* lua, int index, const char* call) {
  const double seconds = take_number(lua, index, call, "a number of seconds");
  if (!(seconds >= 0 && seconds < 1e9))
    throw ScriptFault(std::string(call) + " wants 0 seconds or more, got " + readable(lua, index));
  return std::llround(seconds * HostState::of(lua).running.world.settings().tick_rate);
}

int enlist(lua_State* lua, Due due) {
  HostState& state = HostState::of(lua);
  constexpr std::size_t most_waiting = 100000;
  constexpr int most_a_tick = 10000, cost = 50;
  try {
    if (state.due.size() >= most_waiting)
      throw ScriptFault("there are 100,000 timers and messages waiting already; does something start them every tick?");
    state.count(&Spent::timers, most_a_tick, "started more than 10,000 timers and messages");
    state.sandbox.spend(cost);
    state.sandbox.hold(due.bytes());
  } catch (const ScriptFault&) {
    state.sandbox.drop(due.function);
    throw;
  }
  due.id = state.next_due++;
  due.instance = state.current;
  push(lua, Pending{due.id});
  state.due.push_back(std::move(due));
  return 1;
}

int start_timer(lua_State* lua, const char* call, bool repeats) {
  const std::int64_t ticks = ticks_from(lua, 1, call);
  if (!lua_isfunction(lua, 2))
    throw ScriptFault(std::string(call) + " wants a function to call, got " + readable(lua, 2));
  const WorldSettings& settings = HostState::of(lua).running.world.settings();
  const double seconds = lua_tonumber(lua, 1);
  lua_settop(lua, 2);
  Due due;
  due.function = Sandbox::of(lua).keep(lua);
  due.start = HostState::of(lua).running.world.tick();
  due.due = due.start + (repeats ? std::max<std::int64_t>(ticks, 1) : ticks);
  due.every = repeats ? std::max(seconds, 1 / settings.tick_rate) : 0;
  return enlist(lua, std::move(due));
}

int after(lua_State* lua) {
  return start_timer(lua, "after", false);
}
int every(lua_State* lua) {
  return start_timer(lua, "every", true);
}

// Target, name and what goes along, from `first` on.
int send(lua_State* lua, const char* call, int first, std::int64_t ticks) {
  Due due;
  due.message = true;
  due.due = HostState::of(lua).running.world.tick() + ticks;
  if (lua_type(lua, first) == LUA_TSTRING) {
    due.tag = lua_tostring(lua, first);
    HostState::of(lua).sandbox.spend(static_cast<std::int64_t>(HostState::of(lua).running.world.body_count() / 2));
  } else if (to_body(lua, first))
    due.target = *to_body(lua, first);
  else
    throw ScriptFault(std::string(call) + " wants a body or a tag to tell, got " + readable(lua, first));
  due.name = take_text(lua, first + 1, call, "the message's name");
  const int count = lua_gettop(lua);
  lua_createtable(lua, count - first - 1, 0);
  for (int i = first + 2; i <= count; ++i) {
    const int type = lua_type(lua, i);
    if (type == LUA_TFUNCTION || type == LUA_TTABLE || type == LUA_TTHREAD)
      throw ScriptFault(std::string(call) + " can send numbers, texts, vectors, turns and bodies, but not " +
                        readable(lua, i));
    lua_pushvalue(lua, i);
    lua_rawseti(lua, -2, i - first - 1);
  }
  lua_pushinteger(lua, count - first - 1);
  lua_setfield(lua, -2, "n");
  due.function = Sandbox::of(lua).keep(lua);
  return enlist(lua, std::move(due));
}

int tell(lua_State* lua) {
  return send(lua, "tell", 1, 0);
}
int tell_in(lua_State* lua) {
  return send(lua, "tell_in", 2, ticks_from(lua, 1, "tell_in"));
}

int cancel(lua_State* lua) {
  const Pending* pending = to_pending(lua, 1);
  if (!pending) throw ScriptFault("cancel wants a timer before the colon, got " + readable(lua, 1));
  Sandbox::of(lua).spend(static_cast<std::int64_t>(HostState::of(lua).due.size() / 8));  // for the search
  for (Due& due : HostState::of(lua).due)
    if (due.id == pending->id) Sandbox::of(lua).drop(due.function);
  return 0;
}

int pending_field(lua_State* lua) {
  const Pending* pending = to_pending(lua, 1);
  if (!pending || lua_type(lua, 2) != LUA_TSTRING || std::string(lua_tostring(lua, 2)) != "waiting")
    throw ScriptFault("a timer has no '" + readable(lua, 2) + "'; it has cancel and waiting");
  bool waiting = false;
  Sandbox::of(lua).spend(static_cast<std::int64_t>(HostState::of(lua).due.size() / 8));
  for (const Due& due : HostState::of(lua).due)
    waiting = waiting || (due.id == pending->id && due.function != LUA_NOREF);
  lua_pushboolean(lua, waiting);
  return 1;
}

void deliver(HostState& state, const Due& due, int arguments) {
  lua_State* lua = state.sandbox.lua;
  std::vector<BodyHandle> to;
  if (due.target) {
    to.push_back(*due.target);
  } else {
    for (const BodyHandle handle : state.running.world.bodies()) {
      const Body* body = state.running.body_of(handle);
      if (body && std::find(body->tags.begin(), body->tags.end(), due.tag) != body->tags.end()) to.push_back(handle);
    }
  }
  for (const BodyHandle body : to) {
    if (!state.running.world.alive(body)) continue;  // its place may be another's by now
    const std::vector<std::size_t> scripts = state.on_body(body);
    for (const std::size_t i : scripts) {
      if (!state.push_handler(i, Handler::message)) continue;
      lua_pushlstring(lua, due.name.data(), due.name.size());
      state.sandbox.push(lua, arguments);
      lua_getfield(lua, -1, "n");
      const int count = static_cast<int>(lua_tointeger(lua, -1));
      lua_pop(lua, 1);
      const int list = lua_gettop(lua);
      if (lua_checkstack(lua, count + 8) == 0) {
        lua_settop(lua, list - 3);
        state.report(LogLevel::error, state.instances[i], "the message \"" + due.name + "\" brings too much along");
        continue;
      }
      for (int k = 1; k <= count; ++k) lua_rawgeti(lua, list, k);
      lua_remove(lua, list);
      state.run(i, 1 + count);
    }
  }
}

}  // namespace

namespace {

// At the tick nearest to its time, from when it was asked for: so that it never drifts.
std::int64_t next_time(Due& due, double tick_rate) {
  ++due.times;
  return due.start + std::llround(static_cast<double>(due.times + 1) * due.every * tick_rate);
}

}  // namespace

void ScriptHost::timers() {
  State& s = *state_;
  s.acts.clear();
  const std::int64_t now = s.running.world.tick();
  // What is asked for while these run is due later, so only those here now need a look.
  const std::size_t count = s.due.size();
  for (std::size_t i = 0; i < count; ++i) {
    if (s.due[i].function == LUA_NOREF || s.due[i].due > now) continue;
    Due due = s.due[i];
    const bool idle = s.heads[due.instance].gone || (s.heads[due.instance].stopped && !due.message);
    if (due.every > 0 && !idle)
      s.due[i].due = next_time(s.due[i], s.running.world.settings().tick_rate);
    else
      s.due[i].function = LUA_NOREF;
    if (!idle) {
      if (due.message) {
        deliver(s, due, due.function);
      } else {
        s.sandbox.push(s.sandbox.lua, due.function);
        s.run(due.instance, 0);
      }
    }
    if (due.every == 0 || idle) s.sandbox.drop(due.function);
  }
  s.forget_done();
}

void ScriptHost::State::forget_done() {
  std::erase_if(due, [&](const Due& d) {
    if (d.function != LUA_NOREF) return false;
    sandbox.let_go(d.bytes());
    return true;
  });
}

void ScriptHost::cues() {
  State& s = *state_;
  const double rate = s.running.world.settings().tick_rate;
  const std::int64_t now = s.running.world.tick();
  for (const Cue& cue : s.running.scene.cues) {
    const auto tick_of = [&](std::int64_t n) {
      return std::llround((cue.at + static_cast<double>(n) * cue.every) * rate);
    };
    std::int64_t n = 0;
    if (cue.every > 0) n = std::llround((static_cast<double>(now) / rate - cue.at) / cue.every);
    bool due = false;
    for (std::int64_t k = std::max<std::int64_t>(0, n - 1); k <= std::max<std::int64_t>(0, n + 1); ++k)
      due = due || (tick_of(k) == now && (cue.every > 0 || k == 0) && (cue.times == 0 || k < cue.times));
    if (!due) continue;
    const std::size_t count = s.instances.size();  // what handlers stamp begins with the next
    for (std::size_t i = 0; i < count; ++i) {
      if (!s.push_handler(i, Handler::cue)) continue;
      lua_pushstring(s.sandbox.lua, cue.name.c_str());
      s.run(i, 1);
    }
  }
}

void open_timers(lua_State* lua) {
  const NamedCall methods[] = {{"cancel", lua_guarded<cancel>}};
  open_kind(lua, Kind::pending, methods, lua_guarded<pending_field>, nullptr, {});
  const NamedCall calls[] = {{"after", lua_guarded<after>},
                             {"every", lua_guarded<every>},
                             {"tell", lua_guarded<tell>},
                             {"tell_in", lua_guarded<tell_in>}};
  set_functions(lua, calls);
}

}  // namespace bronvel
