// The worst that one call of a script may take: each of the bench's calls, in a scene where it has most to do, once by
// itself and again and again until the tick's budget is spent. Ends with 1 where a call is not listed, or takes more
// than 50 ms past its budget.
#include <algorithm>
#include <cstdio>
#include <ctime>
#include <set>

#include "geometry/shapes/compound.h"
#include "play/run/play.h"

using namespace bronvel;

namespace {

double processor_milliseconds() {
  timespec now{};
  clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &now);
  return 1e3 * static_cast<double>(now.tv_sec) + 1e-6 * static_cast<double>(now.tv_nsec);
}

struct Call {
  std::set<std::string> names;  // that it stands for, as ScriptHost::names has them
  const char* source;
  const char* before = "";  // made once, at the top
};

// The scene below has a wall of 2,000 bonded pieces, a pile of 5,000 bodies, 200 zones, 500 joints, a path of 1,000
// points and a compound of 500 parts.
const std::vector<Call> calls{
    {{"body:force"}, "pile[1]:force(vec(0, 1, 0), vec(0, 1, 0))"},
    {{"body:impulse"}, "pile[1]:impulse(vec(0, 1, 0), vec(0, 1, 0))"},
    {{"body:torque"}, "pile[1]:torque(vec(0, 1, 0))"},
    {{"body:angular_impulse"}, "pile[1]:angular_impulse(vec(0, 1, 0))"},
    {{"body:accelerate"}, "pile[1]:accelerate(vec(0, 1, 0))"},
    {{"body:halt"}, "pile[1]:halt()"},
    {{"body:place"}, "pile[1]:place(vec(0, 1, 0), turn(vec(0, 1, 0), 1))"},
    {{"body:advance"}, "mover:advance(vec(100, 0, 0), true)"},
    {{}, "plow:advance(vec(100, 0, 0), true)"},
    {{"body:ride"}, "mover:ride('long', { seconds = 2 })"},
    {{"body:slice"}, "wall:slice(wall.position, vec(1, 0.1, 0.2))"},
    {{}, "many:slice(many.position, vec(1, 0.1, 0.2))"},
    {{"body:shatter"}, "wall:shatter(wall.position, 1e12)"},
    {{}, "many:shatter(many.position, 1e12)"},
    {{"body:remove"}, "pile[#pile]:remove() table.remove(pile)"},
    {{"body:has"}, "body:has('none')"},
    {{"body:part"}, "local x = body:part('none')"},
    {{"pointed"}, "local x = pointed(1e6)"},
    {{"body:tag"}, "i = i + 1 pile[i % #pile + 1]:tag('t' .. i)", "i = 0"},
    {{"body:untag"}, "pile[1]:tag('x') pile[1]:untag('x')"},
    {{"body:velocity_at"}, "local x = pile[1]:velocity_at(vec(1, 2, 3))"},
    {{"body:to_scene"}, "local x = pile[1]:to_scene(vec(1, 2, 3))"},
    {{"body:to_local"}, "local x = pile[1]:to_local(vec(1, 2, 3))"},
    {{}, "local x = pile[1].grounded"},
    {{}, "local x = raft.submerged"},
    {{}, "local x = wall.pieces"},
    {{}, "wall.mass = 5 + random()"},
    {{}, "many.mass = 5 + random()"},
    {{}, "wall.friction = random()"},
    {{}, "pile[1].friction = random()"},
    {{}, "pile[1].tension_strength = 1e6 * random()"},
    {{}, "local x = pile[1].tags"},
    {{"scene:find"}, "local x = scene:find('nothing of that name')"},
    {{"scene:tagged"}, "local x = scene:tagged('pile')"},
    {{"scene:bodies"}, "local x = scene:bodies()"},
    {{"scene:zone"}, "local x = scene:zone('zone_199')"},
    {{"scene:joint"}, "local x = scene:joint('joint_499')"},
    {{"scene:ray"}, "local x = scene:ray(vec(-100, 3, 0.1), vec(1, 0, 0), 1e6)"},
    {{}, "local x = scene:ray(vec(-100, 3, 0.1), vec(1, 0, 0), 1e6, { groups = { 'crates' } })"},
    {{"scene:near"}, "local x = scene:near(vec(0, 0, 0), 1e6)"},
    {{}, "local x = scene:near(vec(0, 0, 0), 1e6, { groups = { 'crates' } })"},
    {{"scene:sweep"}, "local x = scene:sweep(50, vec(1000, 0, 0), vec(-500, 200, 0), { groups = { 'crates' } })"},
    {{}, "local x = scene:sweep(50, vec(1000, 0, 0), vec(-500, 0, 0), { groups = { 'crates' } })"},
    {{}, "local x = scene:sweep(knob, vec(1000, 0, 0), vec(-500, 1, 0), { groups = { 'crates' } })"},
    {{"scene:stamp"},
     "i = i + 1 scene:stamp('loose', { position = vec(i % 100 * 2, 50 + i // 100 * 2, 99) })",
     "i = 0"},
    {{},
     "i = i + 1 scene:stamp('wall', { kind = 'static', position = vec(i % 100 * 20, 50 + i // 100 * 20, 999) })",
     "i = 0"},
    {{},
     "i = i + 1 scene:stamp('many', { kind = 'static', position = vec(i % 100 * 20, 50 + i // 100 * 20, 999) })",
     "i = 0"},
    {{"scene:blast"}, "scene:blast{ at = vec(0, 0, 0), radius = 1e6, impulse = 1 }"},
    {{}, "scene:blast{ at = wall.position, radius = 50, impulse = 1e9 }"},
    {{"scene:join"}, "scene:join{ kind = 'distance', b = pile[1], high = 99 }"},
    {{"zone:has"}, "local x = scene:zone('zone_0'):has(pile[1])"},
    {{}, "local x = scene:zone('zone_0').bodies"},
    {{"zone:level_at"}, "local x = sea:level_at(vec(1, 0, 0))"},
    {{"zone:depth_at"}, "local x = sea:depth_at(vec(1, 0, 0))"},
    {{"zone:flow_at"}, "local x = sea:flow_at(vec(1, 0, 0))"},
    {{"joint:cut"}, "i = i + 1 scene:joint('joint_' .. i % 500):cut()", "i = 0"},
    {{}, "scene:joint('joint_1').stiffness = 5 + random()"},
    {{"vec"}, "local x = vec(1, 2, 3)"},
    {{"vec:length"}, "local x = v:length()", "v = vec(1, 2, 3)"},
    {{"vec:unit"}, "local x = v:unit()", "v = vec(1, 2, 3)"},
    {{"vec:dot"}, "local x = v:dot(v)", "v = vec(1, 2, 3)"},
    {{"vec:cross"}, "local x = v:cross(v)", "v = vec(1, 2, 3)"},
    {{"vec:reflect"}, "local x = v:reflect(v, 1)", "v = vec(1, 0, 0)"},
    {{"vec:limit"}, "local x = v:limit(1)", "v = vec(1, 2, 3)"},
    {{"turn"}, "local x = turn(vec(0, 1, 0), 1)"},
    {{"turn:inverse"}, "local x = q:inverse()", "q = turn(vec(0, 1, 0), 1)"},
    {{"turn:axis"}, "local x = q:axis()", "q = turn(vec(0, 1, 0), 1)"},
    {{"turn:angle"}, "local x = q:angle()", "q = turn(vec(0, 1, 0), 1)"},
    {{"turn:blend"}, "local x = q:blend(q, 0.5)", "q = turn(vec(0, 1, 0), 1)"},
    {{"after"}, "after(1e6, print)"},
    {{"every"}, "every(1e6, print)"},
    {{"timer:cancel"}, "after(1e6, print):cancel()"},
    {{"tell"}, "tell('pile', 'word', 1, 2, 3)"},
    {{"tell_in"}, "tell_in(1e6, 'pile', string.rep('x', 60), 1, 2, 3)"},
    {{"held"}, "local x = held('haul')"},
    {{"axis"}, "local x = axis('haul')"},
    {{"mark"}, "mark(vec(1, 2, 3), long)", "long = string.rep('x', 1e5)"},
    {{"arrow"}, "arrow(vec(1, 2, 3), vec(1, 2, 3), long)", "long = string.rep('x', 1e5)"},
    {{"puff"}, "puff(vec(1, 2, 3))"},
    {{"measure"}, "i = i + 1 measure('m' .. i, 3)", "i = 0"},
    {{"expect"}, "expect(false, ('x'):rep(200))", ""},
    {{"watch"}, "i = i + 1 watch('w' .. i, 3)", "i = 0"},
    {{"sound"}, "sound('knock')"},
    {{"dials"}, "i = i + 1 dials { ['d' .. i] = { 1, from = 0, to = 2 } }", "i = 0"},
    {{"only"}, "local x = only('pile', print)"},
    {{"random"}, "local x = random(1, 5)"},
    {{"print"}, "print(long)", "long = string.rep('x', 1e5)"},
    {{"require"}, "local x = require('shared')"},
    {{"build_on"}, "build_on('lifted')"},
    // Lua's own.
    {{"assert"}, "assert(true)"},
    {{"error", "pcall"}, "pcall(error, long)", "long = string.rep('x', 1e6)"},
    {{"xpcall"}, "xpcall(error, print, 1)"},
    {{"getmetatable", "setmetatable"}, "setmetatable({}, getmetatable('') )"},
    {{"ipairs", "pairs", "select", "rawequal", "rawget", "rawlen", "rawset", "type"},
     "for k in pairs(t) do rawget(t, k) rawset(t, k, 1) rawlen(t) rawequal(t, t) type(k) select('#', k) end",
     "t = {} for i = 1, 1000 do t['k' .. i] = i end"},
    {{"tonumber", "tostring"}, "tonumber(long) tostring(3.5)", "long = string.rep('1', 1e6)"},
    {{}, "table.sort(t)", "t = {} for i = 1, 20000 do t[i] = random() end"},
    {{}, "table.insert(t, 1, 1)", "t = {} for i = 1, 100000 do t[i] = i end"},
    {{}, "table.concat(t, long)", "t = {} for i = 1, 900 do t[i] = 'x' end long = string.rep('x', 1000)"},
    {{}, "string.find(long, 'a.-b.-c.-d.-e')", "long = string.rep('a', 1e6)"},
    {{}, "string.find(long, string.rep('a', 1000) .. 'b', 1, true)", "long = string.rep('a', 1e6)"},
    {{}, "string.gsub(long, 'a', 'bb')", "long = string.rep('a', 5e5)"},
    {{}, "string.format('%99.99f %s', 1e300, long)", "long = string.rep('a', 9e5)"},
    {{}, "string.rep('abc', 3e5)"},
    {{}, "utf8.len(long)", "long = string.rep('a', 1e6)"},
};

Body body_of(const std::string& name, const Shape& shape, const Vec3& at, MotionKind kind = MotionKind::dynamic) {
  Body body;
  body.name = name;
  body.shape = shape;
  body.position = at;
  body.kind = kind;
  return body;
}

SceneFolder worst_scene(const Call& call) {
  SceneFolder folder;
  Scene& s = folder.scene;
  s.bodies.push_back(body_of("floor", Box{{2000, 1, 2000}}, {0, -0.5, 0}, MotionKind::fixed));
  for (int i = 0; i < 5000; ++i) {
    Body stone = body_of("stone_" + std::to_string(i), Box{{0.5, 0.5, 0.5}},
                         {0.5 * (i % 20), 0.25 + 0.5 * (i / 400), 0.5 * (i / 20 % 20)});
    stone.tags = {"pile"};
    s.bodies.push_back(stone);
  }
  Body wall = body_of("wall", Box{{40, 10, 0.5}}, {0, 5, -60});
  wall.breaking.into = Breaking::Into::bricks;
  wall.breaking.brick_length = 0.45;
  wall.breaking.brick_height = 0.45;
  s.bodies.push_back(wall);
  std::vector<Part> parts;
  for (int i = 0; i < 500; ++i) {
    Part part;
    part.shape = Box{{0.5, 0.5, 0.5}};
    part.pose.position = {0.5 * (i % 10), 0.5 * (i / 10 % 10), 0.5 * (i / 100)};
    parts.push_back(part);
  }
  Body many = body_of("many", make_compound(parts), {60, 5, 0});
  many.breaking.into = Breaking::Into::parts;
  s.bodies.push_back(many);
  s.bodies.push_back(body_of("mover", Box{{1, 1, 1}}, {0, 0.5, 30}, MotionKind::kinematic));
  s.bodies.push_back(body_of("plow", Box{{1, 4, 20}}, {-1, 2.2, 5}, MotionKind::kinematic));
  s.bodies.push_back(body_of("knob", Sphere{40}, {0, 500, 0}, MotionKind::fixed));
  s.bodies.push_back(body_of("loose", Box{{1, 1, 1}}, {0, 300, 30}));
  s.bodies.push_back(body_of("raft", Box{{4, 1, 4}}, {300, 0, 0}));
  for (int i = 0; i < 200; ++i) {
    SceneZone zone;
    zone.name = "zone_" + std::to_string(i);
    zone.shape = Box{{20, 20, 20}};
    zone.position = {5, 5, 5};
    s.zones.push_back(zone);
  }
  SceneZone sea;
  sea.name = "sea";
  sea.shape = Box{{100, 10, 100}};
  sea.position = {300, -5, 0};
  sea.water = true;
  s.zones.push_back(sea);
  for (int i = 0; i < 500; ++i) {
    SceneJoint joint;
    joint.name = "joint_" + std::to_string(i);
    joint.kind = JointKind::distance;
    joint.b = "stone_" + std::to_string(i);
    joint.high = 1000;
    s.joints.push_back(joint);
  }
  ScenePath path;
  path.name = "long";
  for (int i = 0; i < 1000; ++i) path.points.push_back({std::cos(0.1 * i), 10 + 0.01 * i, 30 + std::sin(0.1 * i)});
  s.paths.push_back(path);
  s.groups = {"crates"};
  s.actions = {{"haul", {"space"}, {}}};
  const std::string top = std::string(call.before) +
                          "\nfunction on.play() pile = scene:tagged('pile') wall = scene:find('wall') many = "
                          "scene:find('many') mover = scene:find('mover') plow = scene:find('plow') knob = "
                          "scene:find('knob') raft = scene:find('raft') sea = scene:zone('sea') end\n";
  folder.scripts["act.lua"] = top + "function on.tick() if scene.tick == 2 then " + call.source +
                              " end if scene.tick == 3 then while true do " + call.source + " end end end";
  folder.scripts["shared.lua"] = "return {}";
  folder.scripts["lifted.lua"] = "function on.touch() end";
  s.bodies[0].scripts.push_back({"act.lua", {}});
  return folder;
}

struct Took {
  double once = 0, tick = 0;  // ms
  std::string once_said, tick_said;
};

// What the scripts of one tick took, and said.
double tick_of_scripts(ScriptHost& host, std::string& said) {
  host.begin_tick();
  const double start = processor_milliseconds();
  host.tick(1.0 / 60);
  const double milliseconds = processor_milliseconds() - start;
  for (const LogLine& line : host.take_log())
    if (line.level == LogLevel::error) said = line.text;
  return milliseconds;
}

Took took(const Call& call) {
  const SceneFolder folder = worst_scene(call);
  RunningScene running(folder.scene);
  ScriptHost host(running, 1, folder.scripts);
  host.add(*running.find("floor"), {"act.lua", {}});
  host.play();
  Took result;
  for (int tick = 0; tick < 2; ++tick) {
    tick_of_scripts(host, result.once_said);
    running.world.step();
  }
  result.once = tick_of_scripts(host, result.once_said);
  running.world.step();
  result.tick = tick_of_scripts(host, result.tick_said);
  return result;
}

}  // namespace

int main(int argc, char** argv) {
  const std::string only = argc > 1 ? argv[1] : "";
  RunningScene nothing{Scene{}};
  const std::vector<std::string> names = ScriptHost(nothing, 1, {}).names();
  int missing = 0;
  for (const std::string& name : names) {
    const bool listed = name.starts_with("on.") || std::any_of(calls.begin(), calls.end(), [&](const Call& call) {
                          return call.names.contains(name);
                        });
    if (!listed) std::printf("not listed: %s\n", name.c_str());
    missing += listed ? 0 : 1;
  }
  const double budget = took({{}, "local x = 1"}).tick;
  std::printf("a loop of nothing until its budget is spent: %.1f ms\n", budget);
  std::printf("%10s %10s\n", "once, ms", "tick, ms");
  double worst = 0;
  for (const Call& call : calls) {
    if (std::string(call.source).find(only) == std::string::npos) continue;
    const Took each = took(call);
    worst = std::max({worst, each.once, each.tick - budget});
    std::printf("%10.2f %10.1f  %s\n", each.once, each.tick, call.source);
    // Where it is not the budget that ends it, that is part of what it costs.
    for (const std::string* said : {&each.once_said, &each.tick_said})
      if (!said->empty() && said->find("in one tick") == std::string::npos) std::printf("%22s %s\n", "", said->c_str());
    std::fflush(stdout);
  }
  std::printf("worst: %.1f ms (limit 50)\n", worst);
  return missing > 0 || worst > 50 ? 1 : 0;
}
