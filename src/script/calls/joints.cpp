// Joints in Lua: `scene:joint(name)` and `scene:join{…}` give one; it can be read, retuned and cut.
#include <array>
#include <cmath>

#include "script/calls/cost.h"
#include "script/calls/host_state.h"
#include "script/calls/values.h"

namespace bronvel {
namespace {

using HostState = ScriptHost::State;

JointHandle take_joint(lua_State* lua, const char* call) {
  const JointHandle* joint = to_joint(lua, 1);
  if (!joint) throw ScriptFault(std::string(call) + " wants a joint before the colon, got " + readable(lua, 1));
  if (!HostState::of(lua).running.world.alive(*joint))
    throw ScriptFault(std::string(call) + ": the joint is gone; ask its .alive first");
  return *joint;
}

int cut(lua_State* lua) {
  HostState::of(lua).running.world.remove(take_joint(lua, "joint:cut"));
  return 0;
}

// A number or flag of a joint that can be tuned while it holds, by its name in the scene file.
const JointProperty* tunable(const std::string& name) {
  if (!counts_in_play({SettingOf::joint, "", name})) return nullptr;
  return static_cast<const JointProperty*>(info_at({SettingOf::joint, "", name}));
}

// Where there is no limit, what the world makes of that: a script reckons with numbers.
std::optional<double> limit_of(const JointSettings& settings, const std::string& name) {
  if (name == "low") return settings.along.low;
  if (name == "high") return settings.along.high;
  if (name == "cone") return settings.cone;
  return std::nullopt;
}

void push_end(lua_State* lua, BodyHandle body) {
  if (body == BodyHandle{})
    lua_pushnil(lua);
  else
    push(lua, body);
}

int index(lua_State* lua) {
  const std::string key = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : "";
  HostState& state = HostState::of(lua);
  const World& world = state.running.world;
  if (const JointHandle* any = to_joint(lua, 1); any && key == "alive") {
    lua_pushboolean(lua, world.alive(*any));
    return 1;
  }
  const JointHandle joint = take_joint(lua, "joint");
  const JointSettings& s = world.joint_settings(joint);
  if (key == "name")
    lua_pushstring(lua, state.running.name_of(joint).c_str());
  else if (key == "kind")
    lua_pushstring(lua, joint_word(s.kind).c_str());
  else if (key == "a")
    push_end(lua, s.a);
  else if (key == "b")
    push_end(lua, s.b);
  else if (key == "force")
    push(lua, world.reading(joint).force);
  else if (key == "torque")
    push(lua, world.reading(joint).torque);
  else if (key == "travel")
    lua_pushnumber(lua, world.reading(joint).position);
  else if (key == "rate")
    lua_pushnumber(lua, world.reading(joint).speed);
  else if (const auto limit = limit_of(s, key))
    lua_pushnumber(lua, *limit);
  else if (tunable(key))
    push_value(lua, state.running.value({SettingOf::joint, state.running.name_of(joint), key}));
  else
    throw ScriptFault("a joint has no '" + key + "'");
  return 1;
}

int set_index(lua_State* lua) {
  const JointHandle joint = take_joint(lua, "joint");
  const std::string key = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : "";
  const JointProperty* property = tunable(key);
  if (!property) throw ScriptFault("a joint's '" + key + "' can't be set");
  HostState& state = HostState::of(lua);
  state.sandbox.spend(cost::of_change(state));
  // So far off it is no limit at all, and reading it back gives as much.
  constexpr double beyond_any = 1e6;
  const bool endless =
      (key == "low" || key == "high") && lua_type(lua, 3) == LUA_TNUMBER && std::abs(lua_tonumber(lua, 3)) > beyond_any;
  state.running.set(joint, *property, endless ? Value() : take_value(lua, 3, *property, "joint"));
  return 0;
}

int equal(lua_State* lua) {
  const JointHandle *a = to_joint(lua, 1), *b = to_joint(lua, 2);
  lua_pushboolean(lua, a && b && *a == *b);
  return 1;
}

}  // namespace

void open_joints(lua_State* lua) {
  const NamedCall methods[] = {{"cut", lua_guarded<cut>}};
  const NamedCall others[] = {{"__eq", lua_guarded<equal>}};
  open_kind(lua, Kind::joint, methods, lua_guarded<index>, lua_guarded<set_index>, others);
}

}  // namespace bronvel
