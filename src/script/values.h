// Vectors and bodies as Lua values: pushing them, and taking arguments with messages that say what was wanted.
#pragma once

#include <string>

#include "dynamics/body.h"
#include "geometry/vector.h"
#include "script/sandbox.h"

namespace bronvel {

void push_vector(lua_State* lua, const Vec3& v);
void push_body(lua_State* lua, BodyHandle body);

/// The value at `index` if it is a vector or body, else null.
const Vec3* to_vector(lua_State* lua, int index);
const BodyHandle* to_body(lua_State* lua, int index);

/// Arguments. `call` and `what` make the message: "body:force wants a vector in newtons, got nil".
Vec3 take_vector(lua_State* lua, int index, const char* call, const char* what);
double take_number(lua_State* lua, int index, const char* call, const char* what);
BodyHandle take_body(lua_State* lua, int index, const char* call);

/// How a value reads in the log: numbers short, vectors as (1.00, 2.00, 3.00), bodies by name.
std::string readable(lua_State* lua, int index);

/// Registers the vector type and `vec` in the table on top of the stack.
void open_vectors(lua_State* lua);

/// Names of the metatables in the registry.
inline constexpr const char* vector_type = "vec";
inline constexpr const char* body_type = "body";

}  // namespace bronvel
