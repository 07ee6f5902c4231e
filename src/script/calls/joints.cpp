// Joints in Lua: `scene:joint(name)` and `scene:join{…}` give one; it can be read, retuned and cut.
#include <array>

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

// The numbers of a joint that can be tuned while it holds, by their names in the scene file.
struct Tunable {
  const char* name;
  double JointAxis::*along;
  double JointSettings::*whole;
};
constexpr Tunable tunables[] = {{"low", &JointAxis::low, nullptr},
                                {"high", &JointAxis::high, nullptr},
                                {"stiffness", &JointAxis::stiffness, nullptr},
                                {"damping", &JointAxis::damping, nullptr},
                                {"rest", &JointAxis::rest, nullptr},
                                {"motor_speed", &JointAxis::motor_speed, nullptr},
                                {"motor_most", &JointAxis::motor_most, nullptr},
                                {"pay_out", nullptr, &JointSettings::pay_out},
                                {"breaks_at_force", nullptr, &JointSettings::breaks_at_force},
                                {"breaks_at_torque", nullptr, &JointSettings::breaks_at_torque}};

const Tunable* tunable(const std::string& name) {
  for (const Tunable& t : tunables)
    if (name == t.name) return &t;
  return nullptr;
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
  else if (const Tunable* t = tunable(key))
    lua_pushnumber(lua, t->along ? s.along.*(t->along) : s.*(t->whole));
  else
    throw ScriptFault("a joint has no '" + key + "'");
  return 1;
}

int set_index(lua_State* lua) {
  const JointHandle joint = take_joint(lua, "joint");
  const std::string key = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : "";
  const Tunable* t = tunable(key);
  if (!t) throw ScriptFault("a joint's '" + key + "' can't be set");
  HostState& state = HostState::of(lua);
  state.sandbox.spend(cost::of_change(state));
  World& world = state.running.world;
  JointSettings s = world.joint_settings(joint);
  const double value = take_number(lua, 3, ("joint." + key).c_str(), "a number");
  (t->along ? s.along.*(t->along) : s.*(t->whole)) = value;
  if ((key == "low" || key == "high") && s.along.freedom == Freedom::free) {
    s.along.freedom = Freedom::limited;
    if (key == "low") s.along.high = 1e9;
    if (key == "high") s.along.low = s.kind == JointKind::distance || s.kind == JointKind::pulley ? 0 : -1e9;
  }
  world.change(joint, s);
  return 0;
}

int equal(lua_State* lua) {
  const JointHandle *a = to_joint(lua, 1), *b = to_joint(lua, 2);
  lua_pushboolean(lua, a && b && *a == *b);
  return 1;
}

}  // namespace

void open_joints(lua_State* lua) {
  const Named methods[] = {{"cut", lua_guarded<cut>}};
  const Named others[] = {{"__eq", lua_guarded<equal>}};
  open_kind(lua, Kind::joint, methods, lua_guarded<index>, lua_guarded<set_index>, others);
}

}  // namespace bronvel
