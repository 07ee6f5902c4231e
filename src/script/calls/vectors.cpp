// `vec`: three numbers with the usual sums and a few that games need.
#include <array>

#include "script/calls/values.h"

namespace bronvel {
namespace {

int make_vector(lua_State* lua) {
  const int count = lua_gettop(lua);
  if (count != 3 && count != 0)
    throw ScriptFault("vec wants three numbers x, y, z, got " + std::to_string(count) + " values");
  if (count == 0) {
    push(lua, Vec3(Vec3::Zero()));
    return 1;
  }
  push(lua, Vec3(take_number(lua, 1, "vec", "a number for x"), take_number(lua, 2, "vec", "a number for y"),
                 take_number(lua, 3, "vec", "a number for z")));
  return 1;
}

int add(lua_State* lua) {
  push(lua, take_vector(lua, 1, "+", "a vector on its left") + take_vector(lua, 2, "+", "a vector on its right"));
  return 1;
}
int subtract(lua_State* lua) {
  push(lua, take_vector(lua, 1, "-", "a vector on its left") - take_vector(lua, 2, "-", "a vector on its right"));
  return 1;
}
int multiply_vector(lua_State* lua) {
  const Vec3 *a = to_vector(lua, 1), *b = to_vector(lua, 2);
  if (a && b) throw ScriptFault("vec * vec could mean two things; say a:dot(b) or a:cross(b)");
  if (a)
    push(lua, *a * take_number(lua, 2, "vec *", "a number"));
  else
    push(lua, *b * take_number(lua, 1, "* vec", "a number"));
  return 1;
}
int divide(lua_State* lua) {
  push(lua, take_vector(lua, 1, "/", "a vector on its left") / take_number(lua, 2, "vec /", "a number"));
  return 1;
}
int negate(lua_State* lua) {
  push(lua, -take_vector(lua, 1, "-", "a vector"));
  return 1;
}
int equal_vectors(lua_State* lua) {
  const Vec3 *a = to_vector(lua, 1), *b = to_vector(lua, 2);
  lua_pushboolean(lua, a && b && *a == *b);
  return 1;
}

int length(lua_State* lua) {
  lua_pushnumber(lua, take_vector(lua, 1, "vec:length", "a vector").norm());
  return 1;
}
int unit(lua_State* lua) {
  const Vec3 v = take_vector(lua, 1, "vec:unit", "a vector");
  const double size = v.norm();
  push(lua, size > 0 ? Vec3(v / size) : Vec3(Vec3::Zero()));
  return 1;
}
int dot(lua_State* lua) {
  lua_pushnumber(lua, take_vector(lua, 1, "vec:dot", "a vector").dot(take_vector(lua, 2, "vec:dot", "a vector")));
  return 1;
}
int cross(lua_State* lua) {
  push(lua, take_vector(lua, 1, "vec:cross", "a vector").cross(take_vector(lua, 2, "vec:cross", "a vector")));
  return 1;
}
int reflect(lua_State* lua) {
  const Vec3 v = take_vector(lua, 1, "vec:reflect", "a vector");
  const Vec3 normal = take_vector(lua, 2, "vec:reflect", "a normal").normalized();
  const double share = lua_isnoneornil(lua, 3) ? 1 : take_number(lua, 3, "vec:reflect", "a share to give back");
  push(lua, v - (1 + share) * v.dot(normal) * normal);
  return 1;
}
int limit(lua_State* lua) {
  const Vec3 vector = take_vector(lua, 1, "vec:limit", "a vector");
  const double most = take_number(lua, 2, "vec:limit", "a greatest length");
  if (most < 0) throw ScriptFault("vec:limit: wants a greatest length of 0 or more, got " + readable(lua, 2));
  push(lua, limited(vector, most));
  return 1;
}

const NamedCall methods[] = {{"length", lua_guarded<length>},   {"unit", lua_guarded<unit>},
                             {"dot", lua_guarded<dot>},         {"cross", lua_guarded<cross>},
                             {"reflect", lua_guarded<reflect>}, {"limit", lua_guarded<limit>}};
const NamedCall sums[] = {
    {"__add", lua_guarded<add>},    {"__sub", lua_guarded<subtract>}, {"__mul", lua_guarded<multiply_vector>},
    {"__div", lua_guarded<divide>}, {"__unm", lua_guarded<negate>},   {"__eq", lua_guarded<equal_vectors>}};

int index(lua_State* lua) {
  const Vec3* v = to_vector(lua, 1);
  const char* key = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : "";
  if (v && key[0] >= 'x' && key[0] <= 'z' && key[1] == 0) {
    lua_pushnumber(lua, (*v)[key[0] - 'x']);
    return 1;
  }
  if (v && key == std::string_view("bounce")) {  // as scripts of before call it
    lua_pushcfunction(lua, lua_guarded<reflect>);
    return 1;
  }
  throw ScriptFault("a vector has no '" + readable(lua, 2) +
                    "'; it has x, y, z, length, unit, dot, cross, reflect, limit");
}

int set_index(lua_State*) {
  throw ScriptFault("a vector can't be changed in place; make a new one with vec(x, y, z)");
}

}  // namespace

void open_vectors(lua_State* lua) {
  open_kind(lua, Kind::vector, methods, lua_guarded<index>, lua_guarded<set_index>, sums);
  lua_pushcfunction(lua, lua_guarded<make_vector>);
  lua_setfield(lua, -2, "vec");
}

}  // namespace bronvel
