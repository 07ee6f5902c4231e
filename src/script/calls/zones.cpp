// Zones in Lua: `scene:zone(name)`, its water, and what on.enter and on.leave are given.
#include <array>

#include "dynamics/fields/waves.h"
#include "script/calls/cost.h"
#include "script/calls/host_state.h"
#include "script/calls/values.h"

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
  Sandbox::of(lua).take_off(cost::steps(inside.size() / 2));
  lua_pushboolean(lua, std::find(inside.begin(), inside.end(), body) != inside.end());
  return 1;
}

// The zone's water now; what has none stops the script.
WaterNow take_water(lua_State* lua, const char* call) {
  const ZoneHandle zone = take_zone(lua, call);
  const HostState& state = HostState::of(lua);
  if (!state.running.world.zone_settings(zone).water)
    throw ScriptFault(std::string(call) + ": " + state.running.name_of(zone) + " holds no water");
  return state.running.world.water(zone);
}

int level_at(lua_State* lua) {
  const WaterNow water = take_water(lua, "zone:level_at");
  const Vec3 point = take_vector(lua, 2, "zone:level_at", "a point in metres");
  lua_pushnumber(lua, water.height(point.x(), point.z()));
  return 1;
}

int depth_at(lua_State* lua) {
  const WaterNow water = take_water(lua, "zone:depth_at");
  const Vec3 point = take_vector(lua, 2, "zone:depth_at", "a point in metres");
  lua_pushnumber(lua, water.height(point.x(), point.z()) - point.y());
  return 1;
}

int flow_at(lua_State* lua) {
  const WaterNow water = take_water(lua, "zone:flow_at");
  push(lua, water.moving(take_vector(lua, 2, "zone:flow_at", "a point in metres")).velocity);
  return 1;
}

int index(lua_State* lua) {
  const ZoneHandle zone = take_zone(lua, "zone");
  HostState& state = HostState::of(lua);
  const std::string key = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : "";
  if (key == "name") {
    lua_pushstring(lua, state.running.name_of(zone).c_str());
  } else if (key == "bodies") {
    push_list(lua, state.running.world.inside(zone));
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
  HostState& state = HostState::of(lua);
  state.sandbox.spend(cost::of_change(state) + cost::of_name(state.running.scene.zones.size()));
  state.running.set(zone, *p, take_value(lua, 3, *p, "zone"));
  return 0;
}

int equal(lua_State* lua) {
  const ZoneHandle *a = to_zone(lua, 1), *b = to_zone(lua, 2);
  lua_pushboolean(lua, a && b && *a == *b);
  return 1;
}

}  // namespace

void open_zones(lua_State* lua) {
  const NamedCall methods[] = {{"has", lua_guarded<has>},
                               {"level_at", lua_guarded<level_at>},
                               {"depth_at", lua_guarded<depth_at>},
                               {"flow_at", lua_guarded<flow_at>}};
  const NamedCall others[] = {{"__eq", lua_guarded<equal>}};
  open_kind(lua, Kind::zone, methods, lua_guarded<index>, lua_guarded<set_index>, others);
}

}  // namespace bronvel
