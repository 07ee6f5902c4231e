// Running the scripts of a scene.
#include "script/calls/host.h"

#include <algorithm>
#include <cmath>
#include <tuple>

#include "geometry/base/error.h"
#include "script/calls/host_state.h"
#include "script/calls/setting.h"
#include "script/calls/values.h"

namespace bronvel {
namespace {

std::uint64_t hashed(std::uint64_t seed, const std::string& text) {
  for (const char c : text) seed = (seed ^ static_cast<unsigned char>(c)) * 0x100000001b3ULL;
  return seed;
}

void release(ScriptHost::State& state, std::size_t i) {
  ScriptInstance& instance = state.instances[i];
  state.sandbox.drop(instance.environment);
  state.sandbox.drop(instance.modules);
  for (int& handler : state.heads[i].handlers) state.sandbox.drop(handler);
  for (const Dial& dial : instance.dials) state.sandbox.let_go(bytes_of(dial));
  instance.dials.clear();
  instance.built_from.clear();
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

}  // namespace

ScriptHost::State::State(RunningScene& running_scene, std::uint64_t the_seed, const SandboxLimits& limits)
    : running(running_scene),
      seed(the_seed),
      sandbox(limits, this),
      bodies_at_start(running_scene.world.body_count()),
      joints_at_start(running_scene.scene.joints.size()) {}

namespace {

// What the world, the scene and the records of a play hold of a body and of a joint.
std::size_t bytes_of_made(std::size_t bodies, std::size_t joints) {
  constexpr std::size_t of_a_body = 8000, of_a_joint = 2000;
  return bodies * of_a_body + joints * of_a_joint;
}

}  // namespace

void ScriptHost::State::hold_made(std::size_t bodies, std::size_t joints) {
  const std::size_t bytes = bytes_of_made(bodies, joints);
  sandbox.hold(bytes);
  made_bytes += bytes;
}

void ScriptHost::State::hold_tag(BodyHandle body, std::size_t bytes) {
  sandbox.hold(bytes);
  tag_bytes.resize(std::max<std::size_t>(tag_bytes.size(), body.index + 1));
  tag_bytes[body.index] += bytes;
}

void ScriptHost::State::let_go_tag(BodyHandle body, std::size_t bytes) {
  if (body.index >= tag_bytes.size()) return;
  const std::size_t held = std::min(bytes, tag_bytes[body.index]);  // the scene's own tags were never counted
  tag_bytes[body.index] -= held;
  sandbox.let_go(held);
}

void ScriptHost::State::count_made() {
  const auto more = [](std::size_t now, std::size_t before) { return now > before ? now - before : 0; };
  const std::size_t now = bytes_of_made(more(running.world.body_count(), bodies_at_start),
                                        more(running.scene.joints.size(), joints_at_start));
  sandbox.hold_instead(made_bytes, now);
  made_bytes = now;
}

void ScriptHost::State::report(LogLevel level, const ScriptInstance& instance, const std::string& text) {
  LogLine line;
  line.level = level;
  line.tick = running.world.tick();
  line.body = instance.body_name;
  line.script = instance.file;
  // So that the log can go there. The file may be a module.
  constexpr std::size_t most_bytes = 2000;
  const std::string shown = text.size() > most_bytes ? text.substr(0, most_bytes) + " … (cut after 2,000 bytes)" : text;
  put_place(line, shown, [&](const std::string& file) { return file == instance.file || sources.contains(file); });
  any_error = any_error || level == LogLevel::error;
  log.push_back(line);
}

void ScriptHost::State::run(std::size_t i, int arguments) {
  const std::size_t before = current;
  current = i;
  const std::string fault = sandbox.call(arguments, instances[i].spent);
  current = before;
  if (fault.empty()) return;
  heads[i].stopped = true;
  report(LogLevel::error, instances[i], fault);
}

void ScriptHost::State::count(int Spent::*what, int most, const char* told) {
  if (++(sandbox.of_this_tick(now().spent).*what) > most)
    throw ScriptFault(std::string(told) + " in one tick, and was stopped; does something do so without end?");
}

bool ScriptHost::State::removed(BodyHandle body) const {
  return std::find(removals.begin(), removals.end(), body) != removals.end();
}

void ScriptHost::State::add(BodyHandle body, const ScriptUse& use) {
  ScriptInstance instance;
  instance.body_name = running.name_of(body);
  instance.file = use.file;
  instance.settings = use.dials;
  instance.random = hashed(hashed(seed ^ 0xcbf29ce484222325ULL, instance.body_name), use.file);
  instances.push_back(std::move(instance));
  heads.emplace_back();
  heads.back().body = body;
  instances_of.resize(std::max<std::size_t>(instances_of.size(), body.index + 1));
  instances_of[body.index].push_back(instances.size() - 1);
  const std::size_t at = instances.size() - 1;
  start(at);
  const ScriptInstance& added = instances[at];
  for (const auto& [name, value] : use.dials) {
    const bool known = std::any_of(added.dials.begin(), added.dials.end(),
                                   [&wanted = name](const Dial& d) { return d.name == wanted; });
    if (!known && !heads[at].stopped)
      report(LogLevel::warning, added, "the scene sets a dial '" + name + "' that the script does not have");
  }
}

void ScriptHost::State::start(std::size_t at) {
  make_environment(*this, at);
  const auto source = sources.find(instances[at].file);
  const std::string fault = source == sources.end() ? "the scene has no script called " + instances[at].file
                                                    : sandbox.compile(source->second, instances[at].file);
  if (!fault.empty()) {
    heads[at].stopped = true;
    report(LogLevel::error, instances[at], fault);
    return;
  }
  sandbox.push(sandbox.lua, instances[at].environment);
  lua_setupvalue(sandbox.lua, -2, 1);
  run(at, 0);
  sort_dials(instances[at].dials, source->second);
}

ScriptHost::ScriptHost(RunningScene& running, std::uint64_t seed, std::map<std::string, std::string> sources,
                       const SandboxLimits& limits)
    : state_(std::make_unique<State>(running, seed, limits)) {
  state_->sources = std::move(sources);
  lua_State* lua = state_->sandbox.lua;
  lua_rawgeti(lua, LUA_REGISTRYINDEX, state_->sandbox.globals);
  for (const auto open : {open_vectors, open_turns, open_bodies, open_zones, open_joints, open_scene, open_timers,
                          open_helpers, open_environment})
    open(lua);
  lua_pop(lua, 1);
}

ScriptHost::~ScriptHost() = default;

void ScriptHost::add(BodyHandle body, const ScriptUse& use) {
  state_->add(body, use);
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
  s.sources[file] = source;
  for (std::size_t i = 0; i < s.instances.size(); ++i) {
    const std::vector<std::string>& from = s.instances[i].built_from;
    const bool concerned = s.instances[i].file == file || std::find(from.begin(), from.end(), file) != from.end();
    if (!concerned || s.heads[i].gone) continue;
    s.call_off(i);
    release(s, i);
    s.heads[i].stopped = false;
    s.start(i);
  }
  return true;
}

void ScriptHost::State::call_off(std::size_t instance) {
  for (Due& each : due)
    if (each.instance == instance) sandbox.drop(each.function);
}

void ScriptHost::State::forget_gone() {
  constexpr std::ptrdiff_t few = 64;
  const auto gone = std::count_if(heads.begin(), heads.end(), [](const ScriptHead& head) { return head.gone; });
  if (gone < few || 2 * gone < static_cast<std::ptrdiff_t>(heads.size())) return;
  forget_done();
  std::vector<std::size_t> to(heads.size(), 0);
  std::size_t kept = 0;
  for (std::size_t i = 0; i < heads.size(); ++i) {
    if (heads[i].gone) continue;
    if (kept != i) {
      heads[kept] = heads[i];
      instances[kept] = std::move(instances[i]);
    }
    to[i] = kept++;
  }
  heads.resize(kept);
  instances.resize(kept);
  for (std::vector<std::size_t>& list : instances_of)
    for (std::size_t& i : list) i = to[i];
  for (Due& each : due) each.instance = to[each.instance];
  current = 0;
}

void ScriptHost::clear_away() {
  State& s = *state_;
  // In the order of the calls; a script may have removed what removes others.
  const std::vector<BodyHandle> gone = std::move(s.removals);
  s.removals.clear();
  for (const BodyHandle body : gone) {
    if (!s.running.world.alive(body)) continue;
    s.running.remove(body);
    if (body.index < s.tag_bytes.size()) s.let_go_tag(body, s.tag_bytes[body.index]);
    const std::vector<std::size_t> scripts = s.on_body(body);
    for (const std::size_t i : scripts) {
      if (s.heads[i].body != body) continue;
      s.heads[i].gone = true;
      s.call_off(i);
      release(s, i);
    }
    if (body.index < s.instances_of.size()) s.instances_of[body.index].clear();
  }
  if (!gone.empty()) s.forget_gone();
  s.count_made();
  constexpr int steps_for_garbage = 500;  // in a tick
  s.sandbox.collect(steps_for_garbage);
}

void ScriptHost::point(const Vec3& eye, const Vec3& way) {
  if (!finite(eye) || !finite(way) || !(way.norm() > 1e-9)) throw Error("pointer", "wants a point and a direction");
  state_->pointer = {eye, way.normalized()};
}

std::vector<Dial> ScriptHost::dials(BodyHandle body) const {
  std::vector<Dial> all;
  for (const std::size_t i : state_->on_body(body)) {
    const std::vector<Dial>& dials = state_->instances[i].dials;
    all.insert(all.end(), dials.begin(), dials.end());
  }
  return all;
}

void ScriptHost::set_dial(BodyHandle body, const std::string& script, const std::string& name, const DialValue& value) {
  for (const std::size_t i : state_->on_body(body)) {
    ScriptInstance& instance = state_->instances[i];
    if (instance.file != script) continue;
    for (Dial& dial : instance.dials) {
      if (dial.name != name) continue;
      if (const std::string fault = dial_fault(dial, value); !fault.empty())
        throw Error(state_->running.name_of(body) + ".dials." + name, fault);
      dial.value = value;
      instance.settings[name] = value;
      return;
    }
  }
  throw Error(state_->running.name_of(body) + ".dials." + name, "there is no such dial");
}

namespace {

// Adds prefix + key for every function in the table on top of the stack, and pops it.
void list_functions(lua_State* lua, const std::string& prefix, std::vector<std::string>& names) {
  for (lua_pushnil(lua); lua_next(lua, -2) != 0; lua_pop(lua, 1))
    if (lua_type(lua, -2) == LUA_TSTRING && lua_isfunction(lua, -1)) names.push_back(prefix + lua_tostring(lua, -2));
  lua_pop(lua, 1);
}

// Pushes the first upvalue of the function at the field of the table on top of the stack, in the table's place.
void push_upvalue(lua_State* lua, const char* field) {
  lua_getfield(lua, -1, field);
  lua_getupvalue(lua, -1, 1);
  lua_replace(lua, -3);
  lua_pop(lua, 1);
}

}  // namespace

std::vector<std::string> ScriptHost::names() const {
  lua_State* lua = state_->sandbox.lua;
  std::vector<std::string> names;
  for (int k = 0; k < kind_count; ++k) {
    lua_rawgeti(lua, LUA_REGISTRYINDEX, state_->sandbox.kind_reference[k]);
    push_upvalue(lua, "__index");
    const std::string kind = kind_word(static_cast<Kind>(k));
    list_functions(lua, (kind == "vector" ? "vec" : kind) + ":", names);
  }
  lua_rawgeti(lua, LUA_REGISTRYINDEX, state_->sandbox.globals);
  lua_getfield(lua, -1, "scene");
  lua_getmetatable(lua, -1);
  lua_replace(lua, -2);
  push_upvalue(lua, "__index");
  list_functions(lua, "scene:", names);
  list_functions(lua, "", names);
  for (const char* handler : handler_names()) names.push_back(std::string("on.") + handler);
  std::sort(names.begin(), names.end());
  return names;
}

void ScriptHost::State::note(ScriptAct::Kind kind, BodyHandle body, const Vec3& vector) {
  constexpr std::size_t most_acts = 2000;  // of a tick: enough to see habits by
  if (!watched || acts.size() >= most_acts) return;
  ScriptAct act;
  act.kind = kind;
  act.tick = running.world.tick();
  act.body = running.name_of(body);
  std::tie(act.script, act.line) = line_now();
  act.vector = vector;
  const BodyMotion motion = running.world.motion(body);
  act.before = kind == ScriptAct::Kind::place ? motion.pose.position : motion.velocity;
  acts.push_back(std::move(act));
}

std::pair<std::string, int> ScriptHost::State::line_now() const {
  lua_Debug debug;
  if (lua_getstack(sandbox.lua, 1, &debug) == 0 || lua_getinfo(sandbox.lua, "Sl", &debug) == 0)
    return {instances[current].file, 0};
  return {debug.source[0] == '@' ? debug.source + 1 : instances[current].file, std::max(0, debug.currentline)};
}

void ScriptHost::State::act(const char* what) {
  if (!running.world.keeps_books()) return;
  const auto [file, line] = line_now();
  running.world.acting(actors.number_of({what, file, line}));
}

void ScriptHost::acting(const char* what) {
  if (state_->running.world.keeps_books()) state_->running.world.acting(state_->actors.number_of({what, "", 0}));
}

const Actor& ScriptHost::actor(std::uint32_t act) const {
  return state_->actors[act];
}

std::string ScriptHost::source(const std::string& file) const {
  const auto found = state_->sources.find(file);
  return found == state_->sources.end() ? "" : found->second;
}

void ScriptHost::watch(bool on) {
  state_->watched = on;
}

const std::vector<ScriptAct>& ScriptHost::acts() const {
  return state_->acts;
}

std::vector<Drawn> ScriptHost::take_drawn() {
  std::vector<Drawn> drawn;
  drawn.swap(state_->drawn);
  return drawn;
}

std::vector<Watched> ScriptHost::take_watched() {
  std::vector<Watched> watched;
  watched.swap(state_->watched_numbers);
  return watched;
}

const std::vector<Arrival>& ScriptHost::arrivals() const {
  return state_->arrivals;
}

const std::vector<LogLine>& ScriptHost::unmet() const {
  return state_->unmet;
}

std::size_t ScriptHost::memory() const {
  return state_->sandbox.memory_used();
}

std::size_t ScriptHost::copies() const {
  return state_->instances.size();
}

std::vector<LogLine> ScriptHost::take_log() {
  std::vector<LogLine> lines;
  lines.swap(state_->log);
  if (state_->lines_left_out > 0) {
    LogLine rest;
    rest.level = LogLevel::warning;
    rest.tick = state_->running.world.tick();
    rest.text = "and " + std::to_string(state_->lines_left_out) + " lines more that scripts printed in this tick";
    lines.push_back(std::move(rest));
    state_->lines_left_out = 0;
  }
  return lines;
}

bool ScriptHost::any_error() const {
  return state_->any_error;
}

}  // namespace bronvel
