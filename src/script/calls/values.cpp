// Pushing our kinds of value, taking them as arguments, and how they read.
#include "script/calls/values.h"

#include <array>
#include <cstdio>
#include <new>

#include "geometry/base/linear.h"
#include "script/calls/host_state.h"

namespace bronvel {
namespace {

// Four doubles rather than a Quat: Lua does not align its blocks as Eigen asks.
struct TurnBlock {
  double x, y, z, w;
};

template <class T>
void push_block(lua_State* lua, Kind kind, const T& value) {
  Sandbox& box = Sandbox::of(lua);
  box.take_off(4);
  void* block = lua_newuserdatauv(lua, sizeof(T), 0);
  new (block) T(value);
  lua_rawgeti(lua, LUA_REGISTRYINDEX, box.kind_reference[static_cast<int>(kind)]);
  lua_setmetatable(lua, -2);
}

template <class T>
const T* block_at(lua_State* lua, int index, Kind kind) {
  void* block = lua_touserdata(lua, index);
  if (!block || lua_getmetatable(lua, index) == 0) return nullptr;
  const bool same = lua_topointer(lua, -1) == Sandbox::of(lua).kind_key[static_cast<int>(kind)];
  lua_pop(lua, 1);
  return same ? static_cast<const T*>(block) : nullptr;
}

int read_text(lua_State* lua) {
  lua_pushstring(lua, readable(lua, 1).c_str());
  return 1;
}

// Upvalues: the methods by name, and what answers for all other keys.
int read_field(lua_State* lua) {
  lua_pushvalue(lua, 2);
  if (lua_rawget(lua, lua_upvalueindex(1)) != LUA_TNIL) return 1;
  lua_pop(lua, 1);
  return lua_tocfunction(lua, lua_upvalueindex(2))(lua);
}

int no_field(lua_State* lua) {
  const char* name = lua_tostring(lua, lua_upvalueindex(1));
  throw ScriptFault(std::string("a ") + (name ? name : "value") + " has no '" + readable(lua, 2) + "'");
}

int no_change(lua_State* lua) {
  throw ScriptFault("'" + readable(lua, 2) + "' can't be set here");
}

std::string short_text(const char* format, auto... values) {
  std::array<char, 160> buffer{};
  std::snprintf(buffer.data(), buffer.size(), format, values...);
  return buffer.data();
}

}  // namespace

void push(lua_State* lua, const Vec3& v) {
  push_block(lua, Kind::vector, v);
}
void push(lua_State* lua, const Quat& q) {
  push_block(lua, Kind::turn, TurnBlock{q.x(), q.y(), q.z(), q.w()});
}
void push(lua_State* lua, BodyHandle body) {
  push_block(lua, Kind::body, body);
}
void push(lua_State* lua, ZoneHandle zone) {
  push_block(lua, Kind::zone, zone);
}
void push(lua_State* lua, JointHandle joint) {
  push_block(lua, Kind::joint, joint);
}
void push(lua_State* lua, Pending pending) {
  push_block(lua, Kind::pending, pending);
}

const Vec3* to_vector(lua_State* lua, int index) {
  return block_at<Vec3>(lua, index, Kind::vector);
}
const BodyHandle* to_body(lua_State* lua, int index) {
  return block_at<BodyHandle>(lua, index, Kind::body);
}
const ZoneHandle* to_zone(lua_State* lua, int index) {
  return block_at<ZoneHandle>(lua, index, Kind::zone);
}
const JointHandle* to_joint(lua_State* lua, int index) {
  return block_at<JointHandle>(lua, index, Kind::joint);
}
const Pending* to_pending(lua_State* lua, int index) {
  return block_at<Pending>(lua, index, Kind::pending);
}
std::optional<Quat> to_turn(lua_State* lua, int index) {
  const auto* block = block_at<TurnBlock>(lua, index, Kind::turn);
  return block ? std::optional(Quat(block->w, block->x, block->y, block->z)) : std::nullopt;
}

void push_list(lua_State* lua, std::span<const BodyHandle> bodies) {
  lua_createtable(lua, static_cast<int>(bodies.size()), 0);
  lua_Integer n = 0;
  for (const BodyHandle body : bodies) {
    push(lua, body);
    lua_rawseti(lua, -2, ++n);
  }
}

Vec3 take_vector(lua_State* lua, int index, const char* call, const char* what) {
  const Vec3* v = to_vector(lua, index);
  if (!v || !finite(*v)) throw ScriptFault(std::string(call) + " wants " + what + ", got " + readable(lua, index));
  return *v;
}

Vec3 take_place(lua_State* lua, int index, const char* call, const char* what) {
  constexpr double farthest = 1e9;
  const Vec3 v = take_vector(lua, index, call, what);
  if (v.cwiseAbs().maxCoeff() > farthest)
    throw ScriptFault(std::string(call) + " wants " + what + " within a million kilometres, got " +
                      readable(lua, index));
  return v;
}

double take_number(lua_State* lua, int index, const char* call, const char* what) {
  if (lua_type(lua, index) != LUA_TNUMBER)
    throw ScriptFault(std::string(call) + " wants " + what + ", got " + readable(lua, index));
  return lua_tonumber(lua, index);
}

std::string take_text(lua_State* lua, int index, const char* call, const char* what) {
  if (lua_type(lua, index) != LUA_TSTRING)
    throw ScriptFault(std::string(call) + " wants " + what + ", got " + readable(lua, index));
  return lua_tostring(lua, index);
}

Quat take_turn(lua_State* lua, int index, const char* call, const char* what) {
  const auto q = to_turn(lua, index);
  if (!q || !finite(*q)) throw ScriptFault(std::string(call) + " wants " + what + ", got " + readable(lua, index));
  return *q;
}

BodyHandle take_body(lua_State* lua, int index, const char* call, bool self) {
  const BodyHandle* body = to_body(lua, index);
  if (!body && self)
    throw ScriptFault(std::string(call) + " wants a body before the colon, got " + readable(lua, index) +
                      "; write body:name(…), not body.name(…)");
  if (!body) throw ScriptFault(std::string(call) + " wants a body, got " + readable(lua, index));
  Sandbox::of(lua).take_off(5);  // calls of bodies take longer than an instruction
  if (!ScriptHost::State::of(lua).running.world.alive(*body))
    throw ScriptFault(std::string(call) + ": the body was removed; ask its .alive first");
  return *body;
}

std::string readable(lua_State* lua, int index) {
  if (const Vec3* v = to_vector(lua, index)) return short_text("(%.4g, %.4g, %.4g)", v->x(), v->y(), v->z());
  if (const auto q = to_turn(lua, index)) {
    const AxisAngle turn = axis_angle(*q);
    return short_text("turn of %.4g° about (%.3g, %.3g, %.3g)", turn.angle * 180 / pi, turn.axis.x(), turn.axis.y(),
                      turn.axis.z());
  }
  const auto named = [](const std::string& name, const char* otherwise) { return name.empty() ? otherwise : name; };
  if (const BodyHandle* body = to_body(lua, index)) {
    const RunningScene& running = ScriptHost::State::of(lua).running;
    return running.world.alive(*body) ? running.name_of(*body) : std::string("a removed body");
  }
  if (const ZoneHandle* zone = to_zone(lua, index))
    return named(ScriptHost::State::of(lua).running.name_of(*zone), "a zone");
  if (const JointHandle* joint = to_joint(lua, index))
    return named(ScriptHost::State::of(lua).running.name_of(*joint), "a joint");
  if (to_pending(lua, index)) return "a timer";
  switch (lua_type(lua, index)) {
    case LUA_TNONE:
      return "nothing";
    case LUA_TNIL:
      return "nil";
    case LUA_TBOOLEAN:
      return lua_toboolean(lua, index) != 0 ? "true" : "false";
    case LUA_TNUMBER:
      if (lua_isinteger(lua, index) != 0) return std::to_string(lua_tointeger(lua, index));
      return short_text("%.6g", lua_tonumber(lua, index));
    case LUA_TSTRING: {
      std::size_t length = 0;
      const char* bytes = lua_tolstring(lua, index, &length);
      return {bytes, std::min<std::size_t>(length, 2000)};
    }
    default:
      return std::string("a ") + luaL_typename(lua, index);
  }
}

void set_functions(lua_State* lua, std::span<const NamedCall> functions) {
  for (const NamedCall& f : functions) {
    lua_pushcfunction(lua, f.function);
    lua_setfield(lua, -2, f.name);
  }
}

void open_kind(lua_State* lua, Kind kind, std::span<const NamedCall> methods, lua_CFunction get, lua_CFunction set,
               std::span<const NamedCall> others) {
  Sandbox& box = Sandbox::of(lua);
  lua_newtable(lua);
  lua_newtable(lua);
  set_functions(lua, methods);
  lua_pushcfunction(lua, get ? get : lua_guarded<no_field>);
  lua_pushcclosure(lua, read_field, 2);
  lua_setfield(lua, -2, "__index");
  lua_pushcfunction(lua, set ? set : lua_guarded<no_change>);
  lua_setfield(lua, -2, "__newindex");
  lua_pushcfunction(lua, lua_guarded<read_text>);
  lua_setfield(lua, -2, "__tostring");
  lua_pushstring(lua, kind_word(kind));
  lua_setfield(lua, -2, "__name");
  lua_pushboolean(lua, 0);
  lua_setfield(lua, -2, "__metatable");
  set_functions(lua, others);
  box.kind_key[static_cast<int>(kind)] = lua_topointer(lua, -1);
  box.kind_reference[static_cast<int>(kind)] = luaL_ref(lua, LUA_REGISTRYINDEX);
}

}  // namespace bronvel
