// Zones in Lua: `scene:zone(name)`, and what on.enter and on.leave are given.
#include <array>

#include "script/host_state.h"
#include "script/values.h"

namespace bronvel {
namespace {

using HostState = ScriptHost::State;

ZoneHandle take_zone(lua_State* lua, const char* call) {
  const ZoneHandle* zone = to_zone(lua, 1);
  if (!zone) throw ScriptFault(std::string(call) + " wants a zone before the colon, got " + readable(lua, 1));
  if (!HostState::of(lua).running.world.alive(*zone)) throw ScriptFault(std::string(call) + ": the zone is gone");
  return *zone;
}

int has(lua_State* lua) {
  const ZoneHandle zone = take_zone(lua, "zone:has");
  const BodyHandle body = take_body(lua, 2, "zone:has", false);
  const auto inside = HostState::of(lua).running.world.inside(zone);
  lua_pushboolean(lua, std::find(inside.begin(), inside.end(), body) != inside.end());
  return 1;
}

int index(lua_State* lua) {
  const ZoneHandle zone = take_zone(lua, "zone");
  HostState& state = HostState::of(lua);
  const std::string key = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : "";
  if (key == "name") {
    lua_pushstring(lua, state.running.name_of(zone).c_str());
  } else if (key == "bodies") {
    lua_newtable(lua);
    lua_Integer n = 0;
    for (const BodyHandle body : state.running.world.inside(zone)) {
      push(lua, body);
      lua_rawseti(lua, -2, ++n);
    }
  } else if (const ZoneProperty* p = find_zone_property(key)) {
    push_value(lua, state.running.value(zone, *p));
  } else {
    throw ScriptFault("a zone has no '" + key + "'");
  }
  return 1;
}

int set_index(lua_State* lua) {
  const ZoneHandle zone = take_zone(lua, "zone");
  const std::string key = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : "";
  const ZoneProperty* p = find_zone_property(key);
  if (!p) throw ScriptFault("a zone's '" + key + "' can't be set");
  HostState::of(lua).running.set(zone, *p, take_value(lua, 3, *p, "zone"));
  return 0;
}

int equal(lua_State* lua) {
  const ZoneHandle *a = to_zone(lua, 1), *b = to_zone(lua, 2);
  lua_pushboolean(lua, a && b && *a == *b);
  return 1;
}

}  // namespace

void open_zones(lua_State* lua) {
  const std::array<Named, 1> methods{{{"has", lua_guarded<has>}}};
  const std::array<Named, 1> others{{{"__eq", lua_guarded<equal>}}};
  open_kind(lua, Kind::zone, methods, lua_guarded<index>, lua_guarded<set_index>, others);
}

}  // namespace bronvel
