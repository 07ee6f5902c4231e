// Bodies that ride paths: where they are at each tick, and what happens when they arrive.
#include "geometry/base/error.h"
#include "scene/document/ways.h"
#include "script/calls/cost.h"
#include "script/calls/host_state.h"
#include "script/calls/values.h"

namespace bronvel {
namespace {

using HostState = ScriptHost::State;

Quat facing_along(const WorldSettings& world, const Vec3& direction) {
  if (world.planar) return facing(world, direction, Vec3::Unit(1));
  const Vec3 back = -direction;
  const Vec3 up = back.cross(Vec3::Unit(1)).norm() > 1e-6 ? Vec3(Vec3::Unit(1)) : Vec3(Vec3::Unit(0));
  const Vec3 right = up.cross(back).normalized();
  Mat3 axes;
  axes << right, back.cross(right), back;
  return Quat(axes).normalized();
}

Pose pose_on(const WorldSettings& world, const Ride& ride, const Curve& curve, double share, const Quat& otherwise) {
  const double along = (ride.from + (ride.to - ride.from) * share) * curve.length();
  const Vec3 forward = curve.tangent(along) * (ride.to < ride.from ? -1 : 1);
  return {curve.at(along), ride.face ? facing_along(world, forward) : otherwise};
}

// Seconds, ease, from, to, face and release from the table of how.
Ride how_to_ride(lua_State* lua, int table) {
  Ride r;
  double seconds = 0;
  const double rate = HostState::of(lua).running.world.settings().tick_rate;
  each_field(lua, table, "body:ride", [&](const std::string& name) {
    if (name == "seconds") {
      seconds = take_number(lua, -1, "body:ride, seconds", "a number above 0");
    } else if (name == "from" || name == "to") {
      double& share = name == "from" ? r.from : r.to;
      share = take_number(lua, -1, ("body:ride, " + name).c_str(), "a share from 0 to 1");
      if (!(share >= 0 && share <= 1))
        throw ScriptFault("body:ride, " + name + " wants a share from 0 to 1, got " + readable(lua, -1));
    } else if (name == "ease") {
      const std::string word = take_text(lua, -1, "body:ride, ease", "\"even\" or \"smooth\"");
      if (word != "even" && word != "smooth")
        throw ScriptFault("body:ride, ease wants \"even\" or \"smooth\", got " + word);
      r.smooth = word == "smooth";
    } else if (name == "face") {
      r.face = lua_toboolean(lua, -1) != 0;
    } else if (name == "release") {
      r.release = lua_toboolean(lua, -1) != 0;
    } else {
      throw ScriptFault("body:ride has no '" + name + "'; it has seconds, ease, from, to, face, release");
    }
  });
  if (!(seconds > 0 && seconds < 1e6)) throw ScriptFault("body:ride wants seconds above 0, as in { seconds = 2.5 }");
  r.ticks = std::max<std::int64_t>(1, std::llround(seconds * rate));
  return r;
}

}  // namespace

RidePlace ride_place(const Ride& ride, std::int64_t tick) {
  const double n = static_cast<double>(ride.ticks);
  const double t = std::clamp(static_cast<double>(tick - ride.start) / n, 0.0, 1.0);
  if (!ride.smooth) return {t, 1 / n};
  return {t * t * (3 - 2 * t), 6 * t * (1 - t) / n};
}

int ride(lua_State* lua) {
  const BodyHandle body = take_body(lua, 1, "body:ride");
  HostState& state = HostState::of(lua);
  if (lua_isnil(lua, 2)) {  // ride(nil) gets off
    std::erase_if(state.rides, [&](const Ride& r) { return r.body == body; });
    return 0;
  }
  const std::string path = take_text(lua, 2, "body:ride", "a path's name");
  if (!state.running.find_path(path)) throw ScriptFault("body:ride: the scene has no path called '" + path + "'");
  if (state.running.world.body_settings(body).kind != MotionKind::kinematic)
    throw ScriptFault("body:ride wants a kinematic body; say body.kind = \"kinematic\" first");
  state.sandbox.spend(cost::of_waking(state) + 4 * cost::steps(state.rides.size()));
  Ride r = how_to_ride(lua, 3);
  r.body = body;
  r.path = path;
  r.start = state.running.world.tick();
  std::erase_if(state.rides, [&](const Ride& other) { return other.body == body; });
  state.rides.push_back(r);
  // It begins where the path begins.
  const Pose now = state.running.world.motion(body).pose;
  state.running.world.place(
      body, pose_on(state.running.world.settings(), r, *state.running.find_path(path), 0, now.orientation));
  return 0;
}

void ScriptHost::ride() {
  State& s = *state_;
  World& world = s.running.world;
  std::erase_if(s.rides, [&](const Ride& r) {
    return !world.alive(r.body) || world.body_settings(r.body).kind != MotionKind::kinematic;
  });
  for (Ride& r : s.rides) {
    const RidePlace place = ride_place(r, world.tick() + 1);
    world.move_to(r.body, pose_on(world.settings(), r, *s.running.find_path(r.path), place.share,
                                  world.motion(r.body).pose.orientation));
    r.arrived = world.tick() + 1 >= r.start + r.ticks;
  }
}

void ScriptHost::arrive() {
  State& s = *state_;
  World& world = s.running.world;
  std::vector<Ride> arrived;
  for (const Ride& r : s.rides)
    if (r.arrived) arrived.push_back(r);
  std::erase_if(s.rides, [](const Ride& r) { return r.arrived; });
  s.arrivals.clear();
  for (const Ride& r : arrived) {
    if (!world.alive(r.body)) continue;
    s.arrivals.push_back({r.body, r.path});
    if (r.release) {
      // On with the velocity that it had on the path.
      const Curve& curve = *s.running.find_path(r.path);
      const double rate = ride_place(r, r.start + r.ticks).rate * world.settings().tick_rate;
      const Vec3 velocity = curve.tangent(r.to * curve.length()) * (curve.length() * (r.to - r.from) * rate);
      try {
        s.running.set(r.body, *find_property("kind"), std::string("dynamic"));
        acting("ride's end");
        world.set_velocity(r.body, velocity);
      } catch (const Error& e) {
        LogLine line;
        line.level = LogLevel::error;
        line.tick = world.tick();
        line.body = s.running.name_of(r.body);
        line.text = "can't be released from the path " + r.path + ": " + e.what();
        s.log.push_back(line);
        s.any_error = true;
      }
    }
    for (const std::size_t i : s.on_body(r.body)) {
      if (!s.push_handler(i, Handler::arrive)) continue;
      lua_pushstring(s.sandbox.lua, r.path.c_str());
      s.run(i, 1);
    }
  }
}

}  // namespace bronvel
