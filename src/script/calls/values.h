// What passes between C++ and Lua: our own kinds of value, arguments with messages that say what was wanted, and the
// registering of functions.
#pragma once

#include <span>
#include <string>

#include "dynamics/settings/body.h"
#include "dynamics/settings/joint.h"
#include "dynamics/settings/zone.h"
#include "geometry/base/vector.h"
#include "script/sandbox/sandbox.h"

namespace bronvel {

/// Names something that `cancel` can call off: a timer or a message.
struct Pending {
  std::uint64_t id = 0;
};

void push(lua_State* lua, const Vec3& v);
void push(lua_State* lua, const Quat& q);
void push(lua_State* lua, BodyHandle body);
void push(lua_State* lua, ZoneHandle zone);
void push(lua_State* lua, JointHandle joint);
void push(lua_State* lua, Pending pending);
void push_list(lua_State* lua, std::span<const BodyHandle> bodies);

/// The value at `index` if it is of that kind, else null.
const Vec3* to_vector(lua_State* lua, int index);
const BodyHandle* to_body(lua_State* lua, int index);
const ZoneHandle* to_zone(lua_State* lua, int index);
const JointHandle* to_joint(lua_State* lua, int index);
const Pending* to_pending(lua_State* lua, int index);
std::optional<Quat> to_turn(lua_State* lua, int index);

// Arguments. `call` and `what` make the message: "body:force wants a vector in newtons, got nil". All throw
// ScriptFault.
Vec3 take_vector(lua_State* lua, int index, const char* call, const char* what);
/// Within a million kilometres of the scene's origin: beyond, numbers have no room for millimetres.
Vec3 take_place(lua_State* lua, int index, const char* call, const char* what);
double take_number(lua_State* lua, int index, const char* call, const char* what);  ///< finite
std::string take_text(lua_State* lua, int index, const char* call, const char* what);
Quat take_turn(lua_State* lua, int index, const char* call, const char* what);
/// A body that lives. `self` says that it stands before the colon.
BodyHandle take_body(lua_State* lua, int index, const char* call, bool self = true);

/// How a value reads in the log: numbers short, vectors as (1.00, 2.00, 3.00), bodies by name.
std::string readable(lua_State* lua, int index);

/// A function and its name in Lua.
struct NamedCall {
  const char* name;
  lua_CFunction function;
};

/// Sets the functions as fields of the table on top of the stack.
void set_functions(lua_State* lua, std::span<const NamedCall> functions);

/// Makes a kind's metatable: `methods` and, for all other keys, `get(object, key)`; assignments go to
/// `set(object, key, value)`. Either may be null. `others` are further metamethods.
void open_kind(lua_State* lua, Kind kind, std::span<const NamedCall> methods, lua_CFunction get, lua_CFunction set,
               std::span<const NamedCall> others);

// Each registers its kind and its calls in the table of globals on top of the stack.
void open_vectors(lua_State* lua);
void open_turns(lua_State* lua);

}  // namespace bronvel
