// `scene` in Lua: finding things, asking about space, and making things happen in it.
#include <array>

#include "dynamics/breaking/bonds.h"
#include "dynamics/world/blast.h"
#include "geometry/base/error.h"
#include "geometry/shapes/parts.h"
#include "scene/document/names.h"
#include "scene/document/ways.h"
#include "scene/edits/stamps.h"
#include "script/calls/cost.h"
#include "script/calls/host_state.h"
#include "script/calls/values.h"

namespace bronvel {
namespace {

using HostState = ScriptHost::State;

// Calls are written scene:name(…): the first argument is the scene's stand-in.
void check_colon(lua_State* lua, const char* call) {
  if (lua_type(lua, 1) != LUA_TTABLE)
    throw ScriptFault(std::string(call) + " wants scene before the colon; write scene:name(…), not scene.name(…)");
}

int find(lua_State* lua) {
  check_colon(lua, "scene:find");
  const std::string name = take_text(lua, 2, "scene:find", "a body's name");
  HostState::of(lua).sandbox.spend(static_cast<std::int64_t>(10 + name.size() / 4));
  const auto found = HostState::of(lua).running.find(name);
  found ? push(lua, *found) : lua_pushnil(lua);
  return 1;
}

int zone(lua_State* lua) {
  check_colon(lua, "scene:zone");
  HostState& state = HostState::of(lua);
  state.sandbox.spend(cost::of_name(state.running.scene.zones.size()));
  const auto found = state.running.find_zone(take_text(lua, 2, "scene:zone", "a zone's name"));
  found ? push(lua, *found) : lua_pushnil(lua);
  return 1;
}

int joint(lua_State* lua) {
  check_colon(lua, "scene:joint");
  HostState& state = HostState::of(lua);
  state.sandbox.spend(cost::of_name(state.running.scene.joints.size()));
  const auto found = state.running.find_joint(take_text(lua, 2, "scene:joint", "a joint's name"));
  found ? push(lua, *found) : lua_pushnil(lua);
  return 1;
}

std::vector<BodyHandle> bodies_with(HostState& state, const std::string* tag) {
  state.sandbox.spend(20 + 6 * cost::steps(state.running.world.body_count()));
  std::vector<BodyHandle> found;
  for (const BodyHandle handle : state.running.world.bodies()) {
    const Body* body = state.running.body_of(handle);
    const bool wanted = body && (!tag || std::find(body->tags.begin(), body->tags.end(), *tag) != body->tags.end());
    if (wanted && !state.removed(handle)) found.push_back(handle);
  }
  return found;
}

int tagged(lua_State* lua) {
  check_colon(lua, "scene:tagged");
  const std::string tag = take_text(lua, 2, "scene:tagged", "a tag's name");
  push_list(lua, bodies_with(HostState::of(lua), &tag));
  return 1;
}

int bodies(lua_State* lua) {
  check_colon(lua, "scene:bodies");
  push_list(lua, bodies_with(HostState::of(lua), nullptr));
  return 1;
}

// { groups = {"…"}, except = body or false, solid = true } at `index`, or nothing. The body whose script asks is left
// out unless it says otherwise.
QueryFilter take_filter(lua_State* lua, int index, const char* call) {
  HostState& state = HostState::of(lua);
  QueryFilter filter;
  filter.except = state.heads[state.current].body;
  if (lua_isnoneornil(lua, index)) return filter;
  each_field(lua, index, call, [&](const std::string& name) {
    if (name == "except") {
      filter.except = lua_isboolean(lua, -1) ? BodyHandle{} : take_body(lua, -1, call, false);
    } else if (name == "solid") {
      filter.solid_only = lua_toboolean(lua, -1) != 0;
    } else if (name == "groups") {
      if (!lua_istable(lua, -1)) throw ScriptFault(std::string(call) + ": groups wants a list of names");
      filter.groups = 0;
      const lua_Integer count = luaL_len(lua, -1);
      for (lua_Integer i = 1; i <= count; ++i) {
        lua_rawgeti(lua, -1, i);
        const std::string group = take_text(lua, -1, call, "names of groups");
        const std::vector<std::string>& known = state.running.scene.groups;
        const auto at = std::find(known.begin(), known.end(), group);
        if (at == known.end()) throw ScriptFault(std::string(call) + ": the scene has no group called '" + group + "'");
        filter.groups |= 2U << (at - known.begin());
        lua_pop(lua, 1);
      }
    } else {
      throw ScriptFault(std::string(call) + " has no '" + name + "'; it has groups, except, solid");
    }
  });
  return filter;
}

void push_found(lua_State* lua, BodyHandle body, const Vec3& point, const Vec3& normal, double distance) {
  lua_createtable(lua, 0, 4);
  push(lua, body);
  lua_setfield(lua, -2, "body");
  push(lua, point);
  lua_setfield(lua, -2, "point");
  push(lua, normal);
  lua_setfield(lua, -2, "normal");
  lua_pushnumber(lua, distance);
  lua_setfield(lua, -2, "distance");
}

// ray(from, direction [, reach [, filter]])
int ray(lua_State* lua) {
  check_colon(lua, "scene:ray");
  const Vec3 from = take_vector(lua, 2, "scene:ray", "a point in metres");
  const Vec3 direction = take_vector(lua, 3, "scene:ray", "a direction");
  Sandbox::of(lua).spend(cost::of_query);
  const double reach = lua_isnoneornil(lua, 4) ? 1000 : take_number(lua, 4, "scene:ray", "a reach in metres");
  const auto hit = HostState::of(lua).running.world.ray(from, direction, reach, take_filter(lua, 5, "scene:ray"));
  if (!hit) {
    lua_pushnil(lua);
    return 1;
  }
  push_found(lua, hit->body, from + direction.normalized() * hit->hit.distance, hit->hit.normal, hit->hit.distance);
  return 1;
}

// near(point, radius [, filter]): bodies, the nearest first.
int near(lua_State* lua) {
  check_colon(lua, "scene:near");
  HostState& state = HostState::of(lua);
  const Vec3 point = take_vector(lua, 2, "scene:near", "a point in metres");
  const double radius = take_number(lua, 3, "scene:near", "a radius in metres");
  if (!(radius > 0 && radius <= 1e6)) throw ScriptFault("scene:near wants a radius above 0, got " + readable(lua, 3));
  const World& world = state.running.world;
  state.sandbox.spend(cost::of_query);
  QueryWork work;
  const auto found =
      world.overlapping(Sphere{radius}, {point, Quat::Identity()}, take_filter(lua, 4, "scene:near"), &work);
  state.sandbox.take_off(cost::of_work(work) + cost::of_found * cost::steps(found.size()));
  std::vector<std::pair<double, BodyHandle>> sorted;
  for (const BodyHandle body : found) {
    if (state.removed(body)) continue;
    const auto nearest = world.nearest_on(body, point, radius);
    sorted.emplace_back(nearest ? nearest->distance : radius, body);
  }
  std::sort(sorted.begin(), sorted.end());
  lua_createtable(lua, static_cast<int>(sorted.size()), 0);
  lua_Integer n = 0;
  for (const auto& [distance, body] : sorted) {
    push(lua, body);
    lua_rawseti(lua, -2, ++n);
  }
  return 1;
}

// sweep(body or radius, way [, from [, filter]]): the first body met.
int sweep(lua_State* lua) {
  check_colon(lua, "scene:sweep");
  HostState& state = HostState::of(lua);
  const World& world = state.running.world;
  const Vec3 way = take_vector(lua, 3, "scene:sweep", "a way in metres");
  state.sandbox.spend(cost::of_query);
  Shape shape = Sphere{0.1};
  Pose pose;
  QueryFilter filter = take_filter(lua, 5, "scene:sweep");
  if (to_body(lua, 2)) {
    const BodyHandle body = take_body(lua, 2, "scene:sweep", false);
    shape = world.body_settings(body).shape;
    if (is_composite(shape)) throw ScriptFault("scene:sweep wants a body of one convex shape, or a radius");
    pose = world.motion(body).pose;
    if (lua_isnoneornil(lua, 5)) filter.except = body;
  } else {
    shape = Sphere{take_number(lua, 2, "scene:sweep", "a body or a radius in metres")};
    pose.position = state.running.world.motion(state.heads[state.current].body).pose.position;
  }
  if (!lua_isnoneornil(lua, 4)) pose.position = take_vector(lua, 4, "scene:sweep", "a point to start from");
  QueryWork work;
  const auto met = world.sweep(shape, pose, way, filter, &work);
  state.sandbox.take_off(cost::of_work(work));
  if (!met) {
    lua_pushnil(lua);
    return 1;
  }
  push_found(lua, met->body, met->point, met->normal, met->distance);
  return 1;
}

constexpr std::size_t most_bodies = 20000;

// Each copy of what breaks has the state of its own bonds.
std::int64_t cost_of_pieces(const Body& body) {
  constexpr std::int64_t of_a_piece = 8;
  if (body.breaking.into == Breaking::Into::nothing) return 0;
  return of_a_piece * cost::steps(pieces_of(body.shape, body.breaking)->pieces.size());
}

// Enters a body that a script made, and lets its scripts begin. Throws ScriptFault when it is one too many.
BodyHandle enter(HostState& state, const Body& body, const std::string& stem) {
  RunningScene& running = state.running;
  if (running.world.body_count() >= most_bodies)
    throw ScriptFault("scene:stamp: there are 20,000 bodies already; does something stamp without end?");
  state.sandbox.spend(cost::of_stamp + cost::of_weighing(part_count(body.shape)) + cost_of_pieces(body));
  state.hold_made(1, 0);
  // Bodies inside one another are each in contact with every other: a heap of them would stop the world.
  constexpr std::size_t most_inside = 30;
  if (!is_composite(body.shape) &&
      running.world.overlapping(body.shape, {body.position, body.orientation}).size() > most_inside)
    throw ScriptFault("scene:stamp: there are more than 30 bodies at that place already; give each a place of its own");
  const BodyHandle made = running.create(body, stem);
  std::size_t tags = 0;
  for (const std::string& tag : body.tags) tags += tag.size();
  if (tags > 0) state.hold_tag(made, tags);
  return made;
}

// Lets the scripts of bodies that were just entered begin.
void begin_scripts(HostState& state, const std::vector<std::pair<BodyHandle, std::vector<ScriptUse>>>& entered) {
  constexpr int deepest = 8;
  if (state.stamps_within >= deepest)
    throw ScriptFault("scene:stamp: stamps within stamps, eight deep; does a copy stamp itself as it starts?");
  ++state.stamps_within;
  for (const auto& [body, uses] : entered) {
    const std::size_t first = state.instances.size();
    for (const ScriptUse& use : uses) state.add(body, use);
    const std::size_t end = state.instances.size();
    for (std::size_t i = first; i < end; ++i)
      if (state.heads[i].body == body) state.play(i);
  }
  --state.stamps_within;
}

// A stamp of the scene: its bodies and joints, the frame where the table says; gives a list of the bodies.
int stamp_assembly(lua_State* lua, HostState& state, const Stamp& assembly) {
  Pose frame;
  if (!lua_isnoneornil(lua, 3))
    each_field(lua, 3, "scene:stamp", [&](const std::string& name) {
      const Property* p = name == "position" || name == "orientation" ? find_property(name) : nullptr;
      if (!p) throw ScriptFault("scene:stamp: a stamp takes position and orientation, not '" + name + "'");
      const Value value = take_value(lua, -1, *p, "scene:stamp");
      if (name == "position") frame.position = std::get<Vec3>(value);
      if (name == "orientation") frame.orientation = std::get<Quat>(value);
    });
  std::vector<std::pair<BodyHandle, std::vector<ScriptUse>>> entered;
  std::map<std::string, std::string> called;
  // Its parts know each other as those of a copy that was placed.
  const std::string copy = assembly.name + "_" + std::to_string(state.running.world.tick()) + "_" +
                           std::to_string(state.running.scene.bodies.size());
  for (Body body : stamp_bodies(assembly, frame)) {
    body.stamped = {assembly.name, copy, body.name};
    entered.emplace_back(enter(state, body, body.name), body.scripts);
    called[body.name] = state.running.name_of(entered.back().first);
  }
  for (SceneJoint joint : assembly.joints) {
    carry(joint, frame);
    if (!joint.a.empty()) joint.a = called.at(joint.a);
    joint.b = called.at(joint.b);
    joint.stamped = {assembly.name, copy, joint.name};
    state.running.join(joint);
  }
  std::vector<BodyHandle> bodies;
  bodies.reserve(entered.size());
  for (const auto& each : entered) bodies.push_back(each.first);
  push_list(lua, bodies);
  begin_scripts(state, entered);
  return 1;
}

// A list of tags: { "stone", "wet" }.
std::vector<std::string> take_tags(lua_State* lua, int index) {
  constexpr lua_Integer most_tags = 64;
  constexpr std::size_t longest = 64;
  if (!lua_istable(lua, index))
    throw ScriptFault("scene:stamp, tags wants a list of names, got " + readable(lua, index));
  const int list = lua_absindex(lua, index);
  std::vector<std::string> tags;
  const auto count = static_cast<lua_Integer>(lua_rawlen(lua, list));
  if (count > most_tags) throw ScriptFault("scene:stamp, tags: a body may have 64");
  for (lua_Integer i = 1; i <= count; ++i) {
    lua_rawgeti(lua, list, i);
    tags.push_back(take_text(lua, -1, "scene:stamp, tags", "a list of names"));
    if (tags.back().size() > longest) throw ScriptFault("scene:stamp, tags wants names of no more than 64 letters");
    lua_pop(lua, 1);
  }
  return tags;
}

// stamp(body or name, { position =, velocity =, mass =, … }): a copy of a body or of a stamp, with what differs.
int stamp(lua_State* lua) {
  check_colon(lua, "scene:stamp");
  HostState& state = HostState::of(lua);
  RunningScene& running = state.running;
  Body copy;
  if (to_body(lua, 2)) {
    copy = *running.body_of(take_body(lua, 2, "scene:stamp", false));
  } else {
    const std::string name = take_text(lua, 2, "scene:stamp", "a body, or the name of a body or a stamp");
    for (const Stamp& assembly : running.scene.stamps)
      if (assembly.name == name) return stamp_assembly(lua, state, Stamp(assembly));
    // A name also finds a body that is gone: what it was can still be stamped.
    const Body* found = running.scene.find(name);
    if (!found) throw ScriptFault("scene:stamp: the scene has no body and no stamp called '" + name + "'");
    copy = *found;
  }
  const std::string stem = copy.name;
  if (!lua_isnoneornil(lua, 3))
    each_field(lua, 3, "scene:stamp", [&](const std::string& name) {
      if (name == "scripts") {
        if (lua_toboolean(lua, -1) == 0) copy.scripts.clear();
        return;
      }
      if (name == "tags") {
        copy.tags = take_tags(lua, -1);
        return;
      }
      const Property* p = find_property(name);
      if (!p) throw ScriptFault("scene:stamp: a body has no '" + name + "'");
      p->set(copy, take_value(lua, -1, *p, "scene:stamp"));
    });
  const BodyHandle made = enter(state, copy, stem);
  begin_scripts(state, {{made, copy.scripts}});
  push(lua, made);
  return 1;
}

// blast{ at =, radius =, impulse =, falloff =, lift =, except = }: the bodies it pushed.
int blast(lua_State* lua) {
  check_colon(lua, "scene:blast");
  HostState& state = HostState::of(lua);
  Blast b;
  bool placed = false;
  BodyHandle except;
  std::string only;
  each_field(lua, 2, "scene:blast", [&](const std::string& name) {
    if (name == "at") {
      b.at = take_vector(lua, -1, "scene:blast, at", "a point in metres");
      placed = true;
    } else if (name == "radius") {
      b.radius = take_number(lua, -1, "scene:blast, radius", "metres");
    } else if (name == "impulse") {
      b.impulse = take_number(lua, -1, "scene:blast, impulse", "newton seconds");
    } else if (name == "upward") {
      b.upward = take_number(lua, -1, "scene:blast, upward", "a share from 0 to 1");
    } else if (name == "only") {
      only = take_text(lua, -1, "scene:blast, only", "a tag");
    } else if (name == "lift") {  // as scripts of before say it
      b.lift = take_number(lua, -1, "scene:blast, lift", "metres");
    } else if (name == "except") {
      except = take_body(lua, -1, "scene:blast, except", false);
    } else if (name == "falloff") {
      const std::string word = take_text(lua, -1, "scene:blast, falloff", "even, linear or square");
      if (word != "even" && word != "linear" && word != "square")
        throw ScriptFault("scene:blast, falloff wants even, linear or square, got " + word);
      b.falloff = word == "even" ? Falloff::even : word == "linear" ? Falloff::linear : Falloff::square;
    } else {
      throw ScriptFault("scene:blast has no '" + name + "'; it has at, radius, impulse, falloff, upward, only, except");
    }
  });
  if (!placed) throw ScriptFault("scene:blast wants { at = a point, … }");
  state.sandbox.spend(cost::of_blast);
  QueryWork work;
  const auto carries = [&](BodyHandle handle, const std::string& tag) {
    const Body* body = state.running.body_of(handle);
    return body && std::find(body->tags.begin(), body->tags.end(), tag) != body->tags.end();
  };
  state.act("blast");
  const auto hits = set_off(
      state.running.world, b, [&](BodyHandle body) { return body != except && (only.empty() || carries(body, only)); },
      &work);
  std::size_t blown = hits.size();
  for (const BlastHit& hit : hits)
    if (const auto bonds = state.running.world.bonds_now(hit.body)) blown += bonds->set->pieces.size();
  state.sandbox.take_off(cost::of_work(work) + cost::of_blown * cost::steps(blown));
  state.keep_blown(b.at, hits);  // on.blast comes when the tick is over: here other code is running
  std::vector<BodyHandle> pushed;
  pushed.reserve(hits.size());
  for (const BlastHit& hit : hits) pushed.push_back(hit.body);
  push_list(lua, pushed);
  return 1;
}

// join{ kind =, a =, b =, at =, axis =, … }: `at` and `axis` are the scene's; all else as in the scene file.
int join(lua_State* lua) {
  check_colon(lua, "scene:join");
  HostState& state = HostState::of(lua);
  RunningScene& running = state.running;
  constexpr int most_joints_a_tick = 500;
  state.count(&Spent::joints, most_joints_a_tick, "joined more than 500 times");
  state.sandbox.spend(cost::of_change(state));
  state.hold_made(0, 1);
  SceneJoint j;
  std::optional<BodyHandle> a, b;
  std::optional<Vec3> at, axis;
  bool anchored = false;
  each_field(lua, 2, "scene:join", [&](const std::string& name) {
    anchored = anchored || name.starts_with("anchor_");
    if (name == "a" || name == "b") {
      (name == "a" ? a : b) = take_body(lua, -1, "scene:join", false);
    } else if (name == "at") {
      at = take_vector(lua, -1, "scene:join, at", "a point in metres");
    } else if (name == "axis") {
      axis = take_vector(lua, -1, "scene:join, axis", "a direction");
      if (!(axis->norm() > 1e-9)) throw ScriptFault("scene:join, axis wants a direction that is not zero");
    } else if (name == "name") {
      j.name = take_text(lua, -1, "scene:join, name", "a text");
      constexpr std::size_t longest = 64;
      if (const std::string fault = name_fault(j.name); !fault.empty() || j.name.size() > longest)
        throw ScriptFault("scene:join, name " + (fault.empty() ? "wants no more than 64 letters" : fault));
    } else {
      const auto all = joint_properties();
      const auto p = std::find_if(all.begin(), all.end(), [&](const JointProperty& each) { return each.name == name; });
      if (p == all.end()) throw ScriptFault("scene:join: a joint has no '" + name + "'");
      p->set(j, take_value(lua, -1, *p, "scene:join"));
    }
  });
  if (!b) throw ScriptFault("scene:join wants { b = the body that it holds, … }");
  const auto pose = [&](const std::optional<BodyHandle>& body) {
    return body ? running.world.motion(*body).pose : Pose{};
  };
  // Where nothing is said it holds the body where it is, not at the scene's origin.
  const bool two_ends = j.kind == JointKind::distance || j.kind == JointKind::pulley;
  if (!at && !anchored && !two_ends) at = pose(b).position;
  if (a) j.a = running.name_of(*a);
  j.b = running.name_of(*b);
  if (at) {
    j.anchor_a = pose(a).to_local(*at);
    j.anchor_b = pose(b).to_local(*at);
  }
  if (axis) j.axis = pose(a).orientation.conjugate() * *axis;
  push(lua, running.join(j));
  return 1;
}

// What all scripts of the scene share: one table, empty as play begins.
int push_state(lua_State* lua) {
  static const char key = 0;
  if (lua_rawgetp(lua, LUA_REGISTRYINDEX, &key) == LUA_TTABLE) return 1;
  lua_pop(lua, 1);
  lua_newtable(lua);
  lua_pushvalue(lua, -1);
  lua_rawsetp(lua, LUA_REGISTRYINDEX, &key);
  return 1;
}

// pointed([reach [, filter]]): what the pointer is on, and where its ray runs.
int pointed(lua_State* lua) {
  const HostState& state = HostState::of(lua);
  Sandbox::of(lua).spend(cost::of_query);
  const double reach = lua_isnoneornil(lua, 1) ? 1000 : take_number(lua, 1, "pointed", "a reach in metres");
  if (!state.pointer) {
    lua_pushnil(lua);
    return 1;
  }
  const auto [eye, way] = *state.pointer;
  if (const auto hit = state.running.world.ray(eye, way, reach, take_filter(lua, 2, "pointed")))
    push_found(lua, hit->body, eye + way * hit->hit.distance, hit->hit.normal, hit->hit.distance);
  else
    lua_newtable(lua);
  push(lua, eye);
  lua_setfield(lua, -2, "eye");
  push(lua, way);
  lua_setfield(lua, -2, "way");
  return 1;
}

int index(lua_State* lua) {
  const World& world = HostState::of(lua).running.world;
  const std::string key = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : "";
  if (key == "state")
    push_state(lua);
  else if (key == "gravity")
    push(lua, world.settings().gravity);
  else if (key == "tick")
    lua_pushinteger(lua, world.tick());
  else if (key == "time")
    lua_pushnumber(lua, world.time());
  else if (key == "tick_rate")
    lua_pushnumber(lua, world.settings().tick_rate);
  else if (key == "up" || key == "across" || key == "forward") {
    const Ways ways = ways_of_scene(world.settings());
    push(lua, key == "up" ? ways.up : key == "across" ? ways.across : ways.forward);
  } else
    throw ScriptFault("the scene has no '" + key + "'");
  return 1;
}

// Upvalue: the calls by name.
int find_call(lua_State* lua) {
  lua_pushvalue(lua, 2);
  if (lua_rawget(lua, lua_upvalueindex(1)) != LUA_TNIL) return 1;
  lua_pop(lua, 1);
  return lua_guarded<index>(lua);
}

int set_index(lua_State* lua) {
  const std::string key = lua_type(lua, 2) == LUA_TSTRING ? lua_tostring(lua, 2) : "";
  if (key != "gravity") throw ScriptFault("the scene's '" + key + "' can't be set by a script");
  HostState::of(lua).running.set({SettingOf::world, "", key}, take_vector(lua, 3, "scene.gravity", "a vector in m/s²"));
  return 0;
}

}  // namespace

void each_field(lua_State* lua, int index, const char* call, const std::function<void(const std::string&)>& each) {
  if (!lua_istable(lua, index))
    throw ScriptFault(std::string(call) + " wants a table { name = value, … }, got " + readable(lua, index));
  const int table = lua_absindex(lua, index);
  std::vector<std::string> names;
  for (lua_pushnil(lua); lua_next(lua, table) != 0; lua_pop(lua, 1)) {
    if (lua_type(lua, -2) != LUA_TSTRING)
      throw ScriptFault(std::string(call) + " wants a table with names, { name = value, … }");
    names.emplace_back(lua_tostring(lua, -2));
  }
  // Lua's own order differs from run to run.
  std::sort(names.begin(), names.end());
  for (const std::string& name : names) {
    lua_pushstring(lua, name.c_str());
    lua_rawget(lua, table);
    each(name);
    lua_pop(lua, 1);
  }
}

void open_scene(lua_State* lua) {
  const NamedCall calls[] = {
      {"find", lua_guarded<find>},     {"zone", lua_guarded<zone>},     {"joint", lua_guarded<joint>},
      {"tagged", lua_guarded<tagged>}, {"bodies", lua_guarded<bodies>}, {"ray", lua_guarded<ray>},
      {"near", lua_guarded<near>},     {"sweep", lua_guarded<sweep>},   {"stamp", lua_guarded<stamp>},
      {"blast", lua_guarded<blast>},   {"join", lua_guarded<join>}};
  lua_newtable(lua);
  lua_newtable(lua);
  lua_newtable(lua);
  set_functions(lua, calls);
  lua_pushcclosure(lua, find_call, 1);
  lua_setfield(lua, -2, "__index");
  lua_pushcfunction(lua, lua_guarded<set_index>);
  lua_setfield(lua, -2, "__newindex");
  lua_pushboolean(lua, 0);
  lua_setfield(lua, -2, "__metatable");
  lua_setmetatable(lua, -2);
  lua_setfield(lua, -2, "scene");
  lua_pushcfunction(lua, lua_guarded<pointed>);
  lua_setfield(lua, -2, "pointed");
}

}  // namespace bronvel
