// `body` in Lua: properties from the property list, and the calls that push, place and ask.
#include <array>

#include "geometry/base/error.h"
#include "geometry/shapes/parts.h"
#include "scene/document/dials.h"
#include "scene/document/ways.h"
#include "script/calls/cost.h"
#include "script/calls/host_state.h"
#include "script/calls/values.h"

namespace bronvel {
namespace {

using HostState = ScriptHost::State;

World& world_of(lua_State* lua) {
  return HostState::of(lua).running.world;
}

int force(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:force");
  HostState::of(lua).act("force");
  const Vec3 f = take_vector(lua, 2, "body:force", "a vector in newtons");
  HostState::of(lua).note(ScriptAct::Kind::force, body, f);
  if (lua_isnoneornil(lua, 3))
    world_of(lua).force(body, f);
  else
    world_of(lua).force_at(body, f, take_vector(lua, 3, "body:force", "a point in metres"));
  return 0;
}
int impulse(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:impulse");
  HostState::of(lua).act("impulse");
  const Vec3 j = take_vector(lua, 2, "body:impulse", "a vector in newton seconds");
  HostState::of(lua).sandbox.spend(cost::of_waking(HostState::of(lua)));
  HostState::of(lua).note(ScriptAct::Kind::impulse, body, j);
  if (lua_isnoneornil(lua, 3))
    world_of(lua).impulse(body, j);
  else
    world_of(lua).impulse_at(body, j, take_vector(lua, 3, "body:impulse", "a point in metres"));
  return 0;
}
int torque(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:torque");
  HostState::of(lua).act("torque");
  world_of(lua).torque(body, take_vector(lua, 2, "body:torque", "a vector in newton metres"));
  return 0;
}
int angular_impulse(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:angular_impulse");
  HostState::of(lua).act("angular_impulse");
  HostState::of(lua).sandbox.spend(cost::of_waking(HostState::of(lua)));
  world_of(lua).angular_impulse(body, take_vector(lua, 2, "body:angular_impulse", "a vector in newton metre seconds"));
  return 0;
}
int accelerate(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:accelerate");
  HostState::of(lua).act("accelerate");
  const Vec3 a = take_vector(lua, 2, "body:accelerate", "a vector in m/s²");
  world_of(lua).force(body, a * world_of(lua).body_settings(body).mass);
  return 0;
}
int halt(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:halt");
  HostState::of(lua).act("halt");
  HostState::of(lua).sandbox.spend(2 * cost::of_waking(HostState::of(lua)));
  world_of(lua).set_velocity(body, Vec3::Zero());
  world_of(lua).set_angular_velocity(body, Vec3::Zero());
  return 0;
}
int place(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:place");
  HostState::of(lua).act("place");
  HostState::of(lua).sandbox.spend(cost::of_waking(HostState::of(lua)));
  Pose pose = world_of(lua).motion(body).pose;
  pose.position = take_place(lua, 2, "body:place", "a point in metres");
  if (!lua_isnoneornil(lua, 3)) pose.orientation = take_turn(lua, 3, "body:place", "a turn");
  world_of(lua).place(body, pose);
  return 0;
}

// advance(way [, slide]): what was hit, or nil.
int advance(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:advance");
  HostState::of(lua).act("advance");
  const Vec3 way = take_place(lua, 2, "body:advance", "a vector in metres");
  Sandbox::of(lua).spend(cost::of_query + cost::of_waking(HostState::of(lua)));
  const WorldAdvance done = world_of(lua).advance(body, way, lua_toboolean(lua, 3) != 0);
  Sandbox::of(lua).take_off(cost::of_work(done.work));
  if (!done.hit) {
    lua_pushnil(lua);
    return 1;
  }
  lua_newtable(lua);
  push(lua, done.hit->body);
  lua_setfield(lua, -2, "other");
  push(lua, done.hit->point);
  lua_setfield(lua, -2, "point");
  push(lua, done.hit->normal);
  lua_setfield(lua, -2, "normal");
  push(lua, done.moved);
  lua_setfield(lua, -2, "moved");
  return 1;
}

int remove(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:remove");
  HostState& state = HostState::of(lua);
  state.sandbox.spend(20 + static_cast<std::int64_t>(state.removals.size() / 4));
  if (!state.removed(body)) state.removals.push_back(body);
  return 0;
}

// Parting bodies takes long next to other calls: a script that does so without end is stopped.
void count_parting(const HostState& state, const char* call) {
  constexpr std::size_t most_a_tick = 64, most_bodies = 20000;
  if (state.parted.size() >= most_a_tick)
    throw ScriptFault(std::string(call) + ": scripts have parted 64 bodies in this tick already; spread it over ticks");
  if (state.running.world.body_count() >= most_bodies)
    throw ScriptFault(std::string(call) + ": there are 20,000 bodies already; does something break without end?");
}

// What cutting a body costs: each of its parts may be cut, and what bonds hold is put together anew.
std::int64_t cost_of_cutting(const HostState& state, BodyHandle body) {
  const std::size_t parts = part_count(state.running.world.body_settings(body).shape);
  const auto bonds = state.running.world.bonds_now(body);
  return cost::of_cut + cost::of_cut_part * cost::steps(parts + (bonds ? bonds->bonds.size() : 0));
}

// slice(point, normal): the body goes on as the part behind the normal; gives the other.
int slice(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:slice");
  const Vec3 point = take_place(lua, 2, "body:slice", "a point in metres");
  const Vec3 normal = take_vector(lua, 3, "body:slice", "a direction");
  HostState& state = HostState::of(lua);
  count_parting(state, "body:slice");
  state.sandbox.spend(cost_of_cutting(state, body));
  state.hold_made(1, 0);
  const BodyHandle other = state.running.slice(body, point, normal);
  state.parted.push_back({body, other});
  push(lua, other);
  return 1;
}

// shatter(point, energy): all the parts, the body itself first.
int shatter(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:shatter");
  const Vec3 point = take_place(lua, 2, "body:shatter", "a point in metres");
  const double energy = take_number(lua, 3, "body:shatter", "an energy in joules");
  HostState& state = HostState::of(lua);
  count_parting(state, "body:shatter");
  const int pieces = state.running.pieces_of_shatter(body, energy);
  state.sandbox.spend(cost_of_cutting(state, body) + cost::of_new_piece * pieces);
  state.hold_made(static_cast<std::size_t>(pieces), 0);
  const std::vector<BodyHandle> parts = state.running.shatter(body, point, energy);
  state.parted.push_back(parts);
  if (parts.size() >= static_cast<std::size_t>(most_pieces_for_energy))
    state.report(LogLevel::warning, state.now(),
                 "body:shatter made 200 pieces, the most that it makes, however great the energy");
  push_list(lua, parts);
  return 1;
}

std::vector<std::string>* tags_of(lua_State* lua, BodyHandle body) {
  Body* found = HostState::of(lua).running.body_of(body);
  return found ? &found->tags : nullptr;
}

// The fellow of the same copy of a stamp by its name in the stamp: a body, or a joint. Nothing where there is none.
int part(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:part");
  const std::string name = take_text(lua, 2, "body:part", "the name of a body or joint of its stamp");
  const RunningScene& running = HostState::of(lua).running;
  Sandbox::of(lua).take_off(cost::of_name(running.scene.bodies.size() + running.scene.joints.size()));
  const Body* self = running.body_of(body);
  lua_pushnil(lua);
  if (!self || self->stamped.copy.empty()) return 1;
  if (const auto found = running.find(thing_meant(running.scene, *self, {NamedKind::body, name})))
    push(lua, *found);
  else if (const auto joint = running.find_joint(thing_meant(running.scene, *self, {NamedKind::joint, name})))
    push(lua, *joint);
  return 1;
}

int has(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:has");
  const std::string tag = take_text(lua, 2, "body:has", "a tag's name");
  const auto* tags = tags_of(lua, body);
  lua_pushboolean(lua, tags && std::find(tags->begin(), tags->end(), tag) != tags->end());
  return 1;
}

// What it costs that the world takes other settings for a body.
std::int64_t cost_of_new_settings(const HostState& state, BodyHandle body) {
  return cost::of_change(state) + cost::of_weighing(part_count(state.running.world.body_settings(body).shape));
}

// Zones know bodies by their tags: the world has to hear of a change.
void tags_changed(lua_State* lua, BodyHandle body) {
  RunningScene& running = HostState::of(lua).running;
  if (running.scene.zones.empty()) return;
  Sandbox::of(lua).spend(cost_of_new_settings(HostState::of(lua), body));
  running.world.change(body, settings_of(running.scene, *running.body_of(body)));
}

int tag(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:tag");
  const std::string name = take_text(lua, 2, "body:tag", "a tag's name");
  constexpr std::size_t longest = 64, most_tags = 64;
  if (name.size() > longest) throw ScriptFault("body:tag wants a name of no more than 64 letters");
  auto* tags = tags_of(lua, body);
  if (tags && tags->size() >= most_tags) throw ScriptFault("body:tag: a body may have 64 tags");
  if (tags && std::find(tags->begin(), tags->end(), name) == tags->end()) {
    HostState::of(lua).hold_tag(body, name.size());
    tags->push_back(name);
    tags_changed(lua, body);
  }
  return 0;
}
int untag(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:untag");
  const std::string name = take_text(lua, 2, "body:untag", "a tag's name");
  auto* tags = tags_of(lua, body);
  if (!tags || std::erase(*tags, name) == 0) return 0;
  HostState::of(lua).let_go_tag(body, name.size());
  tags_changed(lua, body);
  return 0;
}

int velocity_at(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:velocity_at");
  const Vec3 point = take_vector(lua, 2, "body:velocity_at", "a point in metres");
  const BodyMotion m = world_of(lua).motion(body);
  push(lua, Vec3(m.velocity + m.angular_velocity.cross(point - world_of(lua).centre_of_mass(body))));
  return 1;
}
int to_scene(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:to_scene");
  push(lua, world_of(lua).motion(body).pose.to_scene(take_vector(lua, 2, "body:to_scene", "a point in its own frame")));
  return 1;
}
int to_local(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:to_local");
  push(lua, world_of(lua).motion(body).pose.to_local(take_vector(lua, 2, "body:to_local", "a point of the scene")));
  return 1;
}

// Whether something holds the body up: a contact of the last tick whose normal leans less than 60° from against
// gravity. A body that sleeps on something still stands on it.
bool grounded(HostState& state, BodyHandle body) {
  const World& world = state.running.world;
  if (world.asleep(body)) return world.touching(body);
  if (state.ground_tick != world.tick()) {
    state.ground_tick = world.tick();
    std::fill(state.on_ground.begin(), state.on_ground.end(), 0);
    const Vec3 up = -world.settings().gravity.normalized();
    for (const ContactEvent& contact : world.contacts()) {
      if (contact.phase == ContactPhase::part) continue;
      const double lean = contact.normal.dot(up);
      const std::uint32_t held = lean > 0 ? contact.b.index : contact.a.index;
      state.on_ground.resize(std::max<std::size_t>(state.on_ground.size(), held + 1), 0);
      if (std::abs(lean) > 0.5) state.on_ground[held] = 1;
    }
  }
  return body.index < state.on_ground.size() && state.on_ground[body.index] != 0;
}

void push_tags(lua_State* lua, BodyHandle body) {
  lua_newtable(lua);
  const auto* tags = tags_of(lua, body);
  if (!tags) return;
  Sandbox::of(lua).take_off(15 * cost::steps(1 + tags->size()));
  for (std::size_t i = 0; i < tags->size(); ++i) {
    lua_pushstring(lua, (*tags)[i].c_str());
    lua_rawseti(lua, -2, static_cast<lua_Integer>(i) + 1);
  }
}

int index(lua_State* lua) {
  const BodyHandle* handle = to_body(lua, 1);
  HostState& state = HostState::of(lua);
  World& world = state.running.world;
  std::size_t length = 0;
  const char* text = lua_type(lua, 2) == LUA_TSTRING ? lua_tolstring(lua, 2, &length) : "";
  const std::string_view key(text, length);
  if (handle && key == "alive") {
    lua_pushboolean(lua, world.alive(*handle) && !state.removed(*handle));
    return 1;
  }
  const BodyHandle body = take_body(lua, 1, "body");
  // What scripts ask for every tick goes first; all others come from the property list.
  if (key == "position") {
    push(lua, world.motion(body).pose.position);
  } else if (key == "velocity") {
    push(lua, world.velocity(body));
  } else if (key == "mass") {
    lua_pushnumber(lua, world.body_settings(body).mass);
  } else if (key == "weight") {
    const BodySettings& s = world.body_settings(body);
    lua_pushnumber(lua, s.mass * s.gravity_factor * world.settings().gravity.norm());
  } else if (key == "name") {
    lua_pushstring(lua, state.running.name_of(body).c_str());
  } else if (key == "grounded") {
    lua_pushboolean(lua, grounded(state, body));
  } else if (key == "submerged") {
    state.sandbox.spend(cost::of_wet * (1 + cost::steps(state.running.scene.zones.size() / 8)));
    lua_pushnumber(lua, world.submerged(body));
  } else if (key == "asleep") {
    lua_pushboolean(lua, world.asleep(body));
  } else if (key == "centre") {
    push(lua, world.centre_of_mass(body));
  } else if (key == "tags") {
    push_tags(lua, body);
  } else if (key == "up" || key == "forward" || key == "left") {
    const Ways ways = ways_of_body(world.settings());
    const Vec3 axis = key == "up" ? ways.up : key == "forward" ? ways.forward : Vec3(-ways.across);
    push(lua, Vec3(world.motion(body).pose.orientation * axis));
  } else if (const Property* p = find_property(std::string(key))) {
    push_value(lua, state.running.value(body, *p));
  } else {
    throw ScriptFault("a body has no '" + std::string(key) + "'");
  }
  return 1;
}

// Setting how a body breaks may make its pieces anew.
std::int64_t cost_of_setting(const HostState& state, BodyHandle body, const Property& property, const Value& value) {
  const auto moves = {"position", "orientation", "velocity", "angular_velocity"};
  if (std::find(moves.begin(), moves.end(), property.name) != moves.end()) return cost::of_waking(state);
  const std::int64_t least = cost_of_new_settings(state, body);
  const Body* now = state.running.body_of(body);
  if (!now || !value_fault(property, value).empty()) return least;
  Body then = *now;
  property.set(then, value);
  if (same_pieces(now->breaking, then.breaking)) return least;
  return least + cost::of_cut_part * pieces_expected(then.shape, then.breaking);
}

int set_index(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body");
  HostState& state = HostState::of(lua);
  const std::string key = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : "";
  const Property* p = find_property(key);
  if (!p) throw ScriptFault("a body's '" + key + "' can't be set");
  const Value value = take_value(lua, 3, *p, "body");
  state.sandbox.spend(cost_of_setting(state, body, *p, value));
  state.act(key.c_str());
  if (key == "velocity") state.note(ScriptAct::Kind::velocity, body, std::get<Vec3>(value));
  if (key == "position") state.note(ScriptAct::Kind::place, body, std::get<Vec3>(value));
  state.running.set(body, *p, value);
  return 0;
}

int equal(lua_State* lua) {
  const BodyHandle *a = to_body(lua, 1), *b = to_body(lua, 2);
  lua_pushboolean(lua, a && b && *a == *b);
  return 1;
}

}  // namespace

void push_value(lua_State* lua, const Value& value) {
  if (const auto* x = std::get_if<double>(&value))
    lua_pushnumber(lua, *x);
  else if (const auto* b = std::get_if<bool>(&value))
    lua_pushboolean(lua, *b);
  else if (const auto* s = std::get_if<std::string>(&value))
    lua_pushlstring(lua, s->data(), s->size());
  else if (const auto* v = std::get_if<Vec3>(&value))
    push(lua, *v);
  else if (const auto* q = std::get_if<Quat>(&value))
    push(lua, *q);
  else
    lua_pushnil(lua);
}

Value value_at(lua_State* lua, int index) {
  if (const Vec3* v = to_vector(lua, index)) return *v;
  if (const auto q = to_turn(lua, index)) return *q;
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

Value take_value(lua_State* lua, int index, const PropertyInfo& property, const char* owner) {
  const Value value = value_at(lua, index);
  const std::string fault = value_fault(property, value);
  if (!fault.empty())
    throw ScriptFault(std::string(owner) + "." + property.name + " " + fault.substr(0, fault.rfind(", got ")) +
                      ", got " + readable(lua, index));
  return value;
}

void open_bodies(lua_State* lua) {
  const NamedCall methods[] = {{"force", lua_guarded<force>},
                               {"impulse", lua_guarded<impulse>},
                               {"torque", lua_guarded<torque>},
                               {"angular_impulse", lua_guarded<angular_impulse>},
                               {"accelerate", lua_guarded<accelerate>},
                               {"halt", lua_guarded<halt>},
                               {"place", lua_guarded<place>},
                               {"advance", lua_guarded<advance>},
                               {"ride", lua_guarded<ride>},
                               {"remove", lua_guarded<remove>},
                               {"slice", lua_guarded<slice>},
                               {"shatter", lua_guarded<shatter>},
                               {"has", lua_guarded<has>},
                               {"part", lua_guarded<part>},
                               {"tag", lua_guarded<tag>},
                               {"untag", lua_guarded<untag>},
                               {"velocity_at", lua_guarded<velocity_at>},
                               {"to_scene", lua_guarded<to_scene>},
                               {"to_local", lua_guarded<to_local>}};
  const NamedCall others[] = {{"__eq", lua_guarded<equal>}};
  open_kind(lua, Kind::body, methods, lua_guarded<index>, lua_guarded<set_index>, others);
}

}  // namespace bronvel
