// Calling the handlers: the phases of a tick as scripts see them.
#include <utility>

#include "script/calls/host_state.h"
#include "script/calls/values.h"

namespace bronvel {
namespace {

void push_hit(lua_State* lua, const ContactEvent& event, bool for_a) {
  lua_newtable(lua);
  push(lua, for_a ? event.b : event.a);
  lua_setfield(lua, -2, "other");
  push(lua, for_a ? Vec3(-event.normal) : event.normal);
  lua_setfield(lua, -2, "normal");
  if (!event.points.empty()) {
    push(lua, event.points.front());
    lua_setfield(lua, -2, "point");
  }
  lua_newtable(lua);
  for (std::size_t i = 0; i < event.points.size(); ++i) {
    push(lua, event.points[i]);
    lua_rawseti(lua, -2, static_cast<lua_Integer>(i) + 1);
  }
  lua_setfield(lua, -2, "points");
  lua_pushnumber(lua, event.closing_speed);
  lua_setfield(lua, -2, "speed");
  lua_pushnumber(lua, event.normal_impulse);
  lua_setfield(lua, -2, "impulse");
  const World& world = ScriptHost::State::of(lua).running.world;
  lua_pushnumber(lua, world.time() - 1 / world.settings().tick_rate + event.moment);
  lua_setfield(lua, -2, "time");
}

}  // namespace

bool ScriptHost::State::push_handler(std::size_t i, Handler which) {
  ScriptHead& head = heads[i];
  const int reference = head.handler(which);
  if (reference == LUA_NOREF || head.stopped || head.gone || !running.world.alive(head.body)) return false;
  sandbox.push(sandbox.lua, reference);
  return true;
}

const std::vector<std::size_t>& ScriptHost::State::on_body(BodyHandle body) const {
  static const std::vector<std::size_t> none;
  return body.index < instances_of.size() ? instances_of[body.index] : none;
}

void ScriptHost::State::play(std::size_t instance) {
  if (instances[instance].played) return;
  instances[instance].played = true;
  if (push_handler(instance, Handler::play)) run(instance, 0);
}

void ScriptHost::begin_tick() {
  state_->sandbox.begin_tick();
}

void ScriptHost::play() {
  for (std::size_t i = 0; i < state_->instances.size(); ++i) state_->play(i);
}

void ScriptHost::set_action(const std::string& name, double value) {
  State& s = *state_;
  double& now = s.actions[name];
  const bool pressed = now == 0 && value != 0, released = now != 0 && value == 0;
  now = value;
  if (!pressed && !released) return;
  const std::size_t count = s.instances.size();  // what handlers stamp hears of the next
  for (std::size_t i = 0; i < count; ++i) {
    if (!s.push_handler(i, pressed ? Handler::press : Handler::release)) continue;
    lua_pushstring(s.sandbox.lua, name.c_str());
    s.run(i, 1);
  }
}

double ScriptHost::action(const std::string& name) const {
  const auto found = state_->actions.find(name);
  return found == state_->actions.end() ? 0 : found->second;
}

void ScriptHost::grab(BodyHandle body) {
  for (const std::size_t i : state_->on_body(body))
    if (state_->push_handler(i, Handler::grab)) state_->run(i, 0);
}

void ScriptHost::drop(BodyHandle body) {
  for (const std::size_t i : state_->on_body(body))
    if (state_->push_handler(i, Handler::drop)) state_->run(i, 0);
}

void ScriptHost::remove(BodyHandle body) {
  if (!state_->removed(body)) state_->removals.push_back(body);
}

void ScriptHost::tick(double dt) {
  // Scripts added while these run begin with the next tick.
  const std::size_t count = state_->instances.size();
  for (std::size_t i = 0; i < count; ++i) {
    if (!state_->push_handler(i, Handler::tick)) continue;
    lua_pushnumber(state_->sandbox.lua, dt);
    state_->run(i, 1);
  }
}

void ScriptHost::contact(const ContactEvent& event) {
  State& s = *state_;
  if (event.phase == ContactPhase::stay) return;
  const Handler handler = event.phase == ContactPhase::touch ? Handler::touch : Handler::part;
  for (const bool is_a : {true, false}) {
    const BodyHandle body = is_a ? event.a : event.b;
    const Body* settings = s.running.body_of(body);
    if (settings && !settings->reports) continue;
    // By place: handlers may stamp bodies, and with them lengthen the lists.
    for (std::size_t k = 0; k < s.on_body(body).size(); ++k) {
      const std::size_t i = s.on_body(body)[k];
      if (s.heads[i].body != body || !s.push_handler(i, handler)) continue;
      push_hit(s.sandbox.lua, event, is_a);
      s.run(i, 1);
    }
  }
}

void ScriptHost::zone(const ZoneEvent& event) {
  State& s = *state_;
  const std::vector<std::size_t> scripts = s.on_body(event.body);
  for (const std::size_t i : scripts) {
    if (s.heads[i].body != event.body || !s.push_handler(i, event.entered ? Handler::enter : Handler::leave)) continue;
    push(s.sandbox.lua, event.zone);
    s.run(i, 1);
  }
}

void ScriptHost::splash(const SplashEvent& event) {
  State& s = *state_;
  lua_State* lua = s.sandbox.lua;
  const std::vector<std::size_t> scripts = s.on_body(event.body);
  for (const std::size_t i : scripts) {
    if (s.heads[i].body != event.body || !s.push_handler(i, Handler::splash)) continue;
    lua_newtable(lua);
    push(lua, event.zone);
    lua_setfield(lua, -2, "zone");
    lua_pushboolean(lua, event.into);
    lua_setfield(lua, -2, "into");
    lua_pushnumber(lua, event.speed);
    lua_setfield(lua, -2, "speed");
    lua_pushnumber(lua, event.volume);
    lua_setfield(lua, -2, "volume");
    push(lua, event.point);
    lua_setfield(lua, -2, "point");
    s.run(i, 1);
  }
}

void ScriptHost::snap(const JointBreak& event) {
  State& s = *state_;
  lua_State* lua = s.sandbox.lua;
  for (const bool is_a : {true, false}) {
    const BodyHandle body = is_a ? event.settings.a : event.settings.b;
    const BodyHandle other = is_a ? event.settings.b : event.settings.a;
    const std::vector<std::size_t> scripts = s.on_body(body);
    for (const std::size_t i : scripts) {
      if (s.heads[i].body != body || !s.push_handler(i, Handler::snap)) continue;
      lua_newtable(lua);
      lua_pushstring(lua, s.running.name_of(event.joint).c_str());
      lua_setfield(lua, -2, "name");
      lua_pushstring(lua, joint_word(event.settings.kind).c_str());
      lua_setfield(lua, -2, "kind");
      if (other != BodyHandle{}) {
        push(lua, other);
        lua_setfield(lua, -2, "other");
      }
      push(lua, is_a ? Vec3(-event.reading.force) : event.reading.force);
      lua_setfield(lua, -2, "force");
      push(lua, is_a ? Vec3(-event.reading.torque) : event.reading.torque);
      lua_setfield(lua, -2, "torque");
      s.run(i, 1);
    }
  }
}

void ScriptHost::crack(const CrackEvent& event) {
  State& s = *state_;
  lua_State* lua = s.sandbox.lua;
  const std::vector<std::size_t> scripts = s.on_body(event.body);
  for (const std::size_t i : scripts) {
    if (s.heads[i].body != event.body || !s.push_handler(i, Handler::crack)) continue;
    push_list(lua, event.parts);
    lua_newtable(lua);
    push(lua, event.point);
    lua_setfield(lua, -2, "point");
    lua_pushnumber(lua, event.use);
    lua_setfield(lua, -2, "use");
    lua_pushinteger(lua, static_cast<lua_Integer>(event.bonds));
    lua_setfield(lua, -2, "bonds");
    s.run(i, 2);
  }
}

void ScriptHost::State::keep_blown(const Vec3& at, const std::vector<BlastHit>& hits) {
  constexpr std::size_t most_waiting = 10000;
  for (const BlastHit& hit : hits)
    if (blown.size() < most_waiting && !on_body(hit.body).empty()) blown.emplace_back(at, hit);
}

void ScriptHost::blown(const Vec3& at, const std::vector<BlastHit>& hits) {
  state_->keep_blown(at, hits);
}

void ScriptHost::blasts() {
  State& s = *state_;
  lua_State* lua = s.sandbox.lua;
  // Blasts that these handlers set off are told in the next tick.
  const auto told = std::exchange(s.blown, {});
  for (const auto& [at, hit] : told) {
    const std::vector<std::size_t> scripts = s.on_body(hit.body);
    for (const std::size_t i : scripts) {
      if (s.heads[i].body != hit.body || !s.push_handler(i, Handler::blast)) continue;
      lua_newtable(lua);
      push(lua, at);
      lua_setfield(lua, -2, "at");
      push(lua, hit.point);
      lua_setfield(lua, -2, "point");
      push(lua, hit.impulse);
      lua_setfield(lua, -2, "impulse");
      s.run(i, 1);
    }
  }
}

std::vector<std::vector<BodyHandle>> ScriptHost::take_parted() {
  return std::exchange(state_->parted, {});
}

void ScriptHost::take_up(BodyHandle body) {
  const Body* of = state_->running.body_of(body);
  if (!of) return;
  const std::vector<ScriptUse> uses = of->scripts;
  for (const ScriptUse& use : uses) state_->add(body, use);
  const std::vector<std::size_t> scripts = state_->on_body(body);
  for (const std::size_t i : scripts) state_->play(i);
}

}  // namespace bronvel
