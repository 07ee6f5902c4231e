// `body` in Lua: properties from the property list, and the calls that push.
#include <array>
#include <cstdio>
#include <cstring>

#include "script/host_state.h"
#include "script/values.h"

namespace bronvel {
namespace {

using HostState = ScriptHost::State;

World& world_of(lua_State* lua) {
  return HostState::of(lua).running.world;
}

BodyHandle self(lua_State* lua, const char* call) {
  return take_body(lua, 1, call);
}

int force(lua_State* lua) {
  const BodyHandle body = self(lua, "body:force");
  const Vec3 f = take_vector(lua, 2, "body:force", "a vector in newtons");
  if (lua_isnoneornil(lua, 3))
    world_of(lua).force(body, f);
  else
    world_of(lua).force_at(body, f, take_vector(lua, 3, "body:force", "a point in metres"));
  return 0;
}
int impulse(lua_State* lua) {
  const BodyHandle body = self(lua, "body:impulse");
  const Vec3 j = take_vector(lua, 2, "body:impulse", "a vector in newton seconds");
  if (lua_isnoneornil(lua, 3))
    world_of(lua).impulse(body, j);
  else
    world_of(lua).impulse_at(body, j, take_vector(lua, 3, "body:impulse", "a point in metres"));
  return 0;
}
int torque(lua_State* lua) {
  const BodyHandle body = self(lua, "body:torque");
  world_of(lua).torque(body, take_vector(lua, 2, "body:torque", "a vector in newton metres"));
  return 0;
}
int angular_impulse(lua_State* lua) {
  const BodyHandle body = self(lua, "body:angular_impulse");
  world_of(lua).angular_impulse(body, take_vector(lua, 2, "body:angular_impulse", "a vector in newton metre seconds"));
  return 0;
}
int accelerate(lua_State* lua) {
  const BodyHandle body = self(lua, "body:accelerate");
  const Vec3 a = take_vector(lua, 2, "body:accelerate", "a vector in m/s²");
  world_of(lua).force(body, a * world_of(lua).body_settings(body).mass);
  return 0;
}
int halt(lua_State* lua) {
  const BodyHandle body = self(lua, "body:halt");
  world_of(lua).set_velocity(body, Vec3::Zero());
  world_of(lua).set_angular_velocity(body, Vec3::Zero());
  return 0;
}
int has(lua_State* lua) {
  const BodyHandle body = self(lua, "body:has");
  if (lua_type(lua, 2) != LUA_TSTRING) throw ScriptFault("body:has wants a tag's name, got " + readable(lua, 2));
  const char* tag = lua_tostring(lua, 2);
  const Body* b = HostState::of(lua).running.body_of(body);
  lua_pushboolean(lua, b && std::find(b->tags.begin(), b->tags.end(), tag) != b->tags.end());
  return 1;
}

struct Method {
  const char* name;
  lua_CFunction function;
};
const std::array<Method, 7> methods{{{"force", lua_guarded<force>},
                                     {"impulse", lua_guarded<impulse>},
                                     {"torque", lua_guarded<torque>},
                                     {"angular_impulse", lua_guarded<angular_impulse>},
                                     {"accelerate", lua_guarded<accelerate>},
                                     {"halt", lua_guarded<halt>},
                                     {"has", lua_guarded<has>}}};

void push_value(lua_State* lua, const Value& value) {
  if (const auto* x = std::get_if<double>(&value))
    lua_pushnumber(lua, *x);
  else if (const auto* b = std::get_if<bool>(&value))
    lua_pushboolean(lua, *b);
  else if (const auto* s = std::get_if<std::string>(&value))
    lua_pushlstring(lua, s->data(), s->size());
  else if (const auto* v = std::get_if<Vec3>(&value))
    push_vector(lua, *v);
  else
    lua_pushnil(lua);
}

Value value_at(lua_State* lua, int index) {
  if (const Vec3* v = to_vector(lua, index)) return *v;
  switch (lua_type(lua, index)) {
    case LUA_TNUMBER:
      return lua_tonumber(lua, index);
    case LUA_TBOOLEAN:
      return lua_toboolean(lua, index) != 0;
    case LUA_TSTRING:
      return std::string(lua_tostring(lua, index));
    default:
      return {};
  }
}

int index(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body");
  HostState& state = HostState::of(lua);
  World& world = state.running.world;
  const std::string_view key = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : "";
  for (const Method& m : methods)
    if (key == m.name) {
      lua_pushcfunction(lua, m.function);
      return 1;
    }
  // The four that scripts ask for every tick go first; all others come from the property list.
  if (key == "position") {
    push_vector(lua, world.motion(body).pose.position);
  } else if (key == "velocity") {
    push_vector(lua, world.motion(body).velocity);
  } else if (key == "mass") {
    lua_pushnumber(lua, world.body_settings(body).mass);
  } else if (key == "weight") {
    const BodySettings& s = world.body_settings(body);
    lua_pushnumber(lua, s.mass * s.gravity_factor * world.settings().gravity.norm());
  } else if (key == "name") {
    lua_pushstring(lua, state.running.name_of(body).c_str());
  } else if (key == "grounded") {
    lua_pushboolean(lua, world.touching(body));
  } else if (key == "up" || key == "forward" || key == "left") {
    const Vec3 axis = key == "up" ? Vec3::Unit(1) : key == "forward" ? Vec3(-Vec3::Unit(2)) : Vec3(-Vec3::Unit(0));
    push_vector(lua, world.motion(body).pose.orientation * axis);
  } else if (const Property* p = find_property(std::string(key)); p && p->kind != PropertyKind::rotation) {
    push_value(lua, state.running.value(body, *p));
  } else {
    throw ScriptFault("a body has no '" + std::string(key) + "'");
  }
  return 1;
}

int set_index(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body");
  HostState& state = HostState::of(lua);
  const std::string key = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : "";
  const Property* p = find_property(key);
  if (!p || p->kind == PropertyKind::rotation) throw ScriptFault("a body's '" + key + "' can't be set");
  const Value value = value_at(lua, 3);
  const std::string fault = value_fault(*p, value);
  if (!fault.empty()) {
    const auto cut = fault.rfind(", got ");
    throw ScriptFault("body." + key + " " + fault.substr(0, cut) + ", got " + readable(lua, 3));
  }
  state.running.set(body, *p, value);
  return 0;
}

int text(lua_State* lua) {
  lua_pushstring(lua, readable(lua, 1).c_str());
  return 1;
}
int equal(lua_State* lua) {
  const BodyHandle *a = to_body(lua, 1), *b = to_body(lua, 2);
  lua_pushboolean(lua, a && b && *a == *b);
  return 1;
}

int find(lua_State* lua) {
  if (lua_type(lua, 2) != LUA_TSTRING) throw ScriptFault("scene:find wants a body's name, got " + readable(lua, 2));
  const auto found = HostState::of(lua).running.find(lua_tostring(lua, 2));
  if (found)
    push_body(lua, *found);
  else
    lua_pushnil(lua);
  return 1;
}

}  // namespace

void push_body(lua_State* lua, BodyHandle body) {
  void* block = lua_newuserdatauv(lua, sizeof(BodyHandle), 0);
  std::memcpy(block, &body, sizeof body);
  luaL_setmetatable(lua, body_type);
}

const BodyHandle* to_body(lua_State* lua, int index) {
  return static_cast<const BodyHandle*>(luaL_testudata(lua, index, body_type));
}

Vec3 take_vector(lua_State* lua, int index, const char* call, const char* what) {
  const Vec3* v = to_vector(lua, index);
  if (!v) throw ScriptFault(std::string(call) + " wants " + what + ", got " + readable(lua, index));
  if (!finite(*v)) throw ScriptFault(std::string(call) + " wants " + what + ", got " + readable(lua, index));
  return *v;
}

double take_number(lua_State* lua, int index, const char* call, const char* what) {
  if (lua_type(lua, index) != LUA_TNUMBER)
    throw ScriptFault(std::string(call) + " wants " + what + ", got " + readable(lua, index));
  return lua_tonumber(lua, index);
}

BodyHandle take_body(lua_State* lua, int index, const char* call) {
  const BodyHandle* body = to_body(lua, index);
  if (!body)
    throw ScriptFault(std::string(call) + " wants a body before the colon, got " + readable(lua, index) +
                      "; write body:name(…), not body.name(…)");
  if (!world_of(lua).alive(*body)) throw ScriptFault(std::string(call) + ": the body was removed");
  return *body;
}

std::string readable(lua_State* lua, int index) {
  if (const Vec3* v = to_vector(lua, index)) {
    std::array<char, 128> buffer{};
    std::snprintf(buffer.data(), buffer.size(), "(%.4g, %.4g, %.4g)", v->x(), v->y(), v->z());
    return buffer.data();
  }
  if (const BodyHandle* body = to_body(lua, index)) {
    const std::string& name = HostState::of(lua).running.name_of(*body);
    return name.empty() ? "a removed body" : name;
  }
  switch (lua_type(lua, index)) {
    case LUA_TNONE:
      return "nothing";
    case LUA_TNIL:
      return "nil";
    case LUA_TBOOLEAN:
      return lua_toboolean(lua, index) != 0 ? "true" : "false";
    case LUA_TNUMBER:
      if (lua_isinteger(lua, index) != 0) return std::to_string(lua_tointeger(lua, index));
      {
        std::array<char, 40> buffer{};
        std::snprintf(buffer.data(), buffer.size(), "%.6g", lua_tonumber(lua, index));
        return buffer.data();
      }
    case LUA_TSTRING: {
      std::size_t length = 0;
      const char* bytes = lua_tolstring(lua, index, &length);
      return {bytes, std::min<std::size_t>(length, 2000)};
    }
    default:
      return std::string("a ") + luaL_typename(lua, index);
  }
}

void open_bodies(lua_State* lua) {
  luaL_newmetatable(lua, body_type);
  const std::array<Method, 4> metamethods{{{"__index", lua_guarded<index>},
                                           {"__newindex", lua_guarded<set_index>},
                                           {"__tostring", lua_guarded<text>},
                                           {"__eq", lua_guarded<equal>}}};
  for (const Method& m : metamethods) {
    lua_pushcfunction(lua, m.function);
    lua_setfield(lua, -2, m.name);
  }
  lua_pushboolean(lua, 0);
  lua_setfield(lua, -2, "__metatable");
  lua_pop(lua, 1);

  lua_newtable(lua);
  lua_pushcfunction(lua, lua_guarded<find>);
  lua_setfield(lua, -2, "find");
  make_read_only(lua, "scene");
  lua_setfield(lua, -2, "scene");
}

}  // namespace bronvel
