// Running the scripts of a scene.
#include "script/host.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>

#include "geometry/error.h"
#include "script/host_state.h"
#include "script/values.h"

namespace bronvel {
namespace {

std::uint64_t hashed(std::uint64_t seed, const std::string& text) {
  for (const char c : text) seed = (seed ^ static_cast<unsigned char>(c)) * 0x100000001b3ULL;
  return seed;
}

void release(lua_State* lua, ScriptInstance& instance) {
  for (int* reference : {&instance.environment, &instance.handlers, &instance.dial_values}) {
    luaL_unref(lua, LUA_REGISTRYINDEX, *reference);
    *reference = LUA_NOREF;
  }
  instance.dials.clear();
}

// Dials in the order in which the text first sets a field of their name.
void sort_dials(std::vector<Dial>& dials, const std::string& source) {
  const auto place = [&](const Dial& dial) {
    for (std::size_t at = source.find(dial.name); at != std::string::npos; at = source.find(dial.name, at + 1)) {
      const std::size_t after = source.find_first_not_of(" \t", at + dial.name.size());
      const bool starts = at == 0 || (std::isalnum(static_cast<unsigned char>(source[at - 1])) == 0 &&
                                      source[at - 1] != '_' && source[at - 1] != '.');
      if (starts && after != std::string::npos && source[after] == '=') return at;
    }
    return source.size();
  };
  std::stable_sort(dials.begin(), dials.end(), [&](const Dial& a, const Dial& b) { return place(a) < place(b); });
}

// Pushes the instance's handler of that name; false (and nothing pushed) if it has none or is stopped.
bool push_handler(ScriptHost::State& state, std::size_t i, const char* name) {
  ScriptInstance& instance = state.instances[i];
  if (instance.stopped || !state.running.world.alive(instance.body)) return false;
  lua_State* lua = state.sandbox.lua;
  lua_rawgeti(lua, LUA_REGISTRYINDEX, instance.handlers);
  lua_pushstring(lua, name);
  lua_rawget(lua, -2);
  lua_remove(lua, -2);
  if (lua_isfunction(lua, -1)) return true;
  lua_pop(lua, 1);
  return false;
}

void push_hit(lua_State* lua, const ContactEvent& event, bool for_a) {
  lua_newtable(lua);
  push_body(lua, for_a ? event.b : event.a);
  lua_setfield(lua, -2, "other");
  push_vector(lua, for_a ? Vec3(-event.normal) : event.normal);
  lua_setfield(lua, -2, "normal");
  if (!event.points.empty()) {
    push_vector(lua, event.points.front());
    lua_setfield(lua, -2, "point");
  }
  lua_newtable(lua);
  for (std::size_t i = 0; i < event.points.size(); ++i) {
    push_vector(lua, event.points[i]);
    lua_rawseti(lua, -2, static_cast<lua_Integer>(i) + 1);
  }
  lua_setfield(lua, -2, "points");
  lua_pushnumber(lua, event.closing_speed);
  lua_setfield(lua, -2, "speed");
  lua_pushnumber(lua, event.normal_impulse);
  lua_setfield(lua, -2, "impulse");
}

}  // namespace

void ScriptHost::State::report(LogLevel level, const ScriptInstance& instance, const std::string& text) {
  LogLine line;
  line.level = level;
  line.tick = running.world.tick();
  line.body = instance.body_name;
  line.script = instance.file;
  line.text = text;
  // Lua puts "file:line: " in front; take it apart so that the log can go there.
  const std::string front = instance.file + ":";
  if (text.starts_with(front)) {
    const auto end = text.find(':', front.size());
    if (end != std::string::npos) {
      line.line = std::atoi(text.c_str() + front.size());
      line.text = text.substr(text.find_first_not_of(' ', end + 1));
    }
  }
  any_error = any_error || level == LogLevel::error;
  log.push_back(line);
}

void ScriptHost::State::run(std::size_t i, int arguments) {
  const std::size_t before = current;
  current = i;
  const std::string fault = sandbox.call(arguments);
  current = before;
  if (fault.empty()) return;
  instances[i].stopped = true;
  report(LogLevel::error, instances[i], fault);
}

ScriptHost::ScriptHost(RunningScene& running, std::uint64_t seed, const SandboxLimits& limits)
    : state_(std::make_unique<State>(running, seed, limits)) {
  lua_State* lua = state_->sandbox.lua;
  lua_rawgeti(lua, LUA_REGISTRYINDEX, state_->sandbox.globals);
  open_vectors(lua);
  open_bodies(lua);
  open_helpers(lua);
  lua_pop(lua, 1);
}

ScriptHost::~ScriptHost() = default;

void ScriptHost::add(BodyHandle body, const ScriptUse& use, const std::string& source) {
  State& s = *state_;
  ScriptInstance instance;
  instance.body = body;
  instance.body_name = s.running.name_of(body);
  instance.file = use.file;
  instance.settings = use.dials;
  instance.random = hashed(hashed(s.seed ^ 0xcbf29ce484222325ULL, instance.body_name), use.file);
  s.instances.push_back(std::move(instance));
  const std::size_t at = s.instances.size() - 1;
  make_environment(s, at);
  const std::string fault = s.sandbox.compile(source, use.file);
  if (!fault.empty()) {
    s.instances[at].stopped = true;
    s.report(LogLevel::error, s.instances[at], fault);
    return;
  }
  lua_rawgeti(s.sandbox.lua, LUA_REGISTRYINDEX, s.instances[at].environment);
  lua_setupvalue(s.sandbox.lua, -2, 1);
  s.run(at, 0);
  sort_dials(s.instances[at].dials, source);
  for (const auto& [name, value] : use.dials) {
    const auto& dials = s.instances[at].dials;
    const bool known =
        std::any_of(dials.begin(), dials.end(), [&wanted = name](const Dial& d) { return d.name == wanted; });
    if (!known && !s.instances[at].stopped)
      s.report(LogLevel::warning, s.instances[at],
               "the scene sets a dial '" + name + "' that the script does not have");
  }
}

bool ScriptHost::reload(const std::string& file, const std::string& source) {
  State& s = *state_;
  lua_State* lua = s.sandbox.lua;
  const std::string fault = s.sandbox.compile(source, file);
  if (!fault.empty()) {
    ScriptInstance nobody;
    nobody.file = file;
    s.report(LogLevel::error, nobody, fault);
    return false;
  }
  lua_pop(lua, 1);
  for (std::size_t i = 0; i < s.instances.size(); ++i) {
    if (s.instances[i].file != file) continue;
    for (Timer& timer : s.timers)
      if (timer.instance == i) {
        luaL_unref(lua, LUA_REGISTRYINDEX, timer.function);
        timer.function = LUA_NOREF;
      }
    release(lua, s.instances[i]);
    s.instances[i].stopped = false;
    make_environment(s, i);
    s.sandbox.compile(source, file);
    lua_rawgeti(lua, LUA_REGISTRYINDEX, s.instances[i].environment);
    lua_setupvalue(lua, -2, 1);
    s.run(i, 0);
    sort_dials(s.instances[i].dials, source);
  }
  return true;
}

void ScriptHost::play() {
  for (std::size_t i = 0; i < state_->instances.size(); ++i)
    if (push_handler(*state_, i, "play")) state_->run(i, 0);
}

void ScriptHost::timers() {
  State& s = *state_;
  lua_State* lua = s.sandbox.lua;
  const std::int64_t now = s.running.world.tick();
  // Timers started while these run are due later, so only those here now need a look.
  const std::size_t count = s.timers.size();
  for (std::size_t i = 0; i < count; ++i) {
    if (s.timers[i].function == LUA_NOREF || s.timers[i].due > now) continue;
    const Timer timer = s.timers[i];
    lua_rawgeti(lua, LUA_REGISTRYINDEX, timer.function);
    if (timer.period > 0) {
      s.timers[i].due += timer.period;
    } else {
      luaL_unref(lua, LUA_REGISTRYINDEX, timer.function);
      s.timers[i].function = LUA_NOREF;
    }
    if (s.instances[timer.instance].stopped)
      lua_pop(lua, 1);
    else
      s.run(timer.instance, 0);
  }
  std::erase_if(s.timers, [](const Timer& t) { return t.function == LUA_NOREF; });
}

void ScriptHost::tick(double dt) {
  for (std::size_t i = 0; i < state_->instances.size(); ++i) {
    if (!push_handler(*state_, i, "tick")) continue;
    lua_pushnumber(state_->sandbox.lua, dt);
    state_->run(i, 1);
  }
}

void ScriptHost::contact(const ContactEvent& event) {
  if (event.phase == ContactPhase::stay) return;
  const char* handler = event.phase == ContactPhase::touch ? "touch" : "part";
  for (std::size_t i = 0; i < state_->instances.size(); ++i) {
    const BodyHandle body = state_->instances[i].body;
    if (body != event.a && body != event.b) continue;
    if (!push_handler(*state_, i, handler)) continue;
    push_hit(state_->sandbox.lua, event, body == event.a);
    state_->run(i, 1);
  }
}

void ScriptHost::snap(const SnapEvent& event) {
  lua_State* lua = state_->sandbox.lua;
  for (std::size_t i = 0; i < state_->instances.size(); ++i) {
    const BodyHandle body = state_->instances[i].body;
    const bool is_a = body == event.settings.a, is_b = body == event.settings.b;
    if ((!is_a && !is_b) || !push_handler(*state_, i, "snap")) continue;
    lua_newtable(lua);
    lua_pushstring(lua, state_->running.name_of(event.joint).c_str());
    lua_setfield(lua, -2, "name");
    lua_pushstring(lua, joint_word(event.settings.kind).c_str());
    lua_setfield(lua, -2, "kind");
    const BodyHandle other = is_a ? event.settings.b : event.settings.a;
    if (other != BodyHandle{}) {
      push_body(lua, other);
      lua_setfield(lua, -2, "other");
    }
    push_vector(lua, is_a ? Vec3(-event.reading.force) : event.reading.force);
    lua_setfield(lua, -2, "force");
    push_vector(lua, is_a ? Vec3(-event.reading.torque) : event.reading.torque);
    lua_setfield(lua, -2, "torque");
    state_->run(i, 1);
  }
}

std::vector<Dial> ScriptHost::dials(BodyHandle body) const {
  std::vector<Dial> all;
  for (const ScriptInstance& instance : state_->instances)
    if (instance.body == body) all.insert(all.end(), instance.dials.begin(), instance.dials.end());
  return all;
}

void ScriptHost::set_dial(BodyHandle body, const std::string& script, const std::string& name, double value) {
  if (!std::isfinite(value)) throw Error("dial " + name, "wants a number");
  for (ScriptInstance& instance : state_->instances) {
    if (instance.body != body || instance.file != script) continue;
    for (Dial& dial : instance.dials) {
      if (dial.name != name) continue;
      dial.value = value;
      instance.settings[name] = value;
      lua_State* lua = state_->sandbox.lua;
      lua_rawgeti(lua, LUA_REGISTRYINDEX, instance.dial_values);
      lua_pushstring(lua, name.c_str());
      lua_pushnumber(lua, value);
      lua_rawset(lua, -3);
      lua_pop(lua, 1);
      return;
    }
  }
  throw Error(state_->running.name_of(body) + ".dials." + name, "there is no such dial");
}

std::vector<LogLine> ScriptHost::take_log() {
  std::vector<LogLine> lines;
  lines.swap(state_->log);
  return lines;
}

bool ScriptHost::any_error() const {
  return state_->any_error;
}

std::vector<Dial> declared_dials(const std::string& file, const std::string& source) {
  Scene scene;
  scene.bodies.push_back({.name = "body", .shape = Sphere{}});
  RunningScene running(scene);
  ScriptHost host(running, 1);
  const BodyHandle body = *running.find("body");
  host.add(body, {file, {}}, source);
  return host.dials(body);
}

}  // namespace bronvel
