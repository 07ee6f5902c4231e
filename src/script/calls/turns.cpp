// `turn`: rotations.
#include <array>

#include "geometry/base/linear.h"
#include "scene/document/ways.h"
#include "script/calls/host_state.h"
#include "script/calls/values.h"

namespace bronvel {
namespace {

Vec3 take_direction(lua_State* lua, int index, const char* call, const char* what) {
  const Vec3 v = take_vector(lua, index, call, what);
  if (!(v.norm() > 1e-12)) throw ScriptFault(std::string(call) + " wants " + what + " that is not zero");
  return v.normalized();
}

// turn(axis, angle). Called through the table, which is the first argument.
int make_turn(lua_State* lua) {
  if (lua_gettop(lua) == 1) {
    push(lua, Quat(Quat::Identity()));
    return 1;
  }
  const Vec3 axis = take_direction(lua, 2, "turn", "an axis");
  push(lua, Quat(Eigen::AngleAxisd(take_number(lua, 3, "turn", "an angle in radians"), axis)));
  return 1;
}

int between(lua_State* lua) {
  push(lua, turn_between(take_direction(lua, 1, "turn.between", "a direction"),
                         take_direction(lua, 2, "turn.between", "a second direction")));
  return 1;
}

// A body's forward is −Z, its up Y.
int facing(lua_State* lua) {
  const Vec3 direction = take_direction(lua, 1, "turn.facing", "a direction");
  const Vec3 up =
      lua_isnoneornil(lua, 2) ? Vec3(Vec3::Unit(1)) : take_direction(lua, 2, "turn.facing", "an up direction");
  push(lua, bronvel::facing(ScriptHost::State::of(lua).running.world.settings(), direction, up));
  return 1;
}

int multiply_turn(lua_State* lua) {
  const Quat q = take_turn(lua, 1, "turn *", "a turn on its left");
  if (const Vec3* v = to_vector(lua, 2))
    push(lua, Vec3(q * *v));
  else
    push(lua, (q * take_turn(lua, 2, "turn *", "a turn or a vector")).normalized());
  return 1;
}
int equal_turns(lua_State* lua) {
  const auto a = to_turn(lua, 1), b = to_turn(lua, 2);
  lua_pushboolean(lua, a && b && a->coeffs() == b->coeffs());
  return 1;
}

int inverse(lua_State* lua) {
  push(lua, take_turn(lua, 1, "turn:inverse", "a turn").conjugate());
  return 1;
}
int axis(lua_State* lua) {
  push(lua, axis_angle(take_turn(lua, 1, "turn:axis", "a turn")).axis);
  return 1;
}
int angle(lua_State* lua) {
  lua_pushnumber(lua, axis_angle(take_turn(lua, 1, "turn:angle", "a turn")).angle);
  return 1;
}
int blend(lua_State* lua) {
  const Quat a = take_turn(lua, 1, "turn:blend", "a turn"), b = take_turn(lua, 2, "turn:blend", "a second turn");
  push(lua, a.slerp(take_number(lua, 3, "turn:blend", "a share from 0 to 1"), b).normalized());
  return 1;
}

int refuse(lua_State*) {
  throw ScriptFault("a turn can't be changed in place; make a new one with turn(axis, angle)");
}

}  // namespace

void open_turns(lua_State* lua) {
  const NamedCall methods[] = {{"inverse", lua_guarded<inverse>},
                               {"axis", lua_guarded<axis>},
                               {"angle", lua_guarded<angle>},
                               {"blend", lua_guarded<blend>}};
  const NamedCall others[] = {{"__mul", lua_guarded<multiply_turn>}, {"__eq", lua_guarded<equal_turns>}};
  open_kind(lua, Kind::turn, methods, nullptr, lua_guarded<refuse>, others);
  lua_newtable(lua);  // what can be called
  lua_newtable(lua);
  const NamedCall makers[] = {{"between", lua_guarded<between>}, {"facing", lua_guarded<facing>}};
  set_functions(lua, makers);
  lua_newtable(lua);
  lua_insert(lua, -2);
  lua_setfield(lua, -2, "__index");
  lua_pushcfunction(lua, lua_guarded<make_turn>);
  lua_setfield(lua, -2, "__call");
  lua_pushcfunction(lua, lua_guarded<refuse>);
  lua_setfield(lua, -2, "__newindex");
  lua_pushboolean(lua, 0);
  lua_setfield(lua, -2, "__metatable");
  lua_setmetatable(lua, -2);
  lua_setfield(lua, -2, "turn");
}

}  // namespace bronvel
