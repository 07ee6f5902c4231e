// Every handler, call and helper, on real bodies.
#include <catch2/catch.hpp>
#include <set>

#include "folders.h"
#include "geometry/base/error.h"
#include "scene/edits/stamps.h"
#include "script/reference/reference.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

// What a script printed after some ticks, with no error allowed.
std::vector<std::string> printed(const std::string& source, int ticks = 1) {
  Play play(full_scene(source), 1);
  run(play, ticks);
  std::vector<std::string> lines;
  for (const LogLine& line : play.take_log()) {
    CHECK(line.level == LogLevel::print);
    lines.push_back(line.text);
  }
  return lines;
}

std::string fault(const std::string& source, int ticks = 1) {
  Play play(full_scene(source), 1);
  run(play, ticks);
  return errors(play);
}

using Lines = std::vector<std::string>;

}  // namespace

TEST_CASE("every example of the reference runs without a fault") {
  for (const ReferenceEntry& e : reference()) {
    CAPTURE(e.name, e.example);
    Play play(full_scene(e.example), 1);
    run(play, 40);
    play.give(press("haul", 1));
    run(play, 10);
    play.give(press("haul", 0));
    run(play, 40);
    CHECK(errors(play).empty());
  }
}

TEST_CASE("the reference names everything that is registered, and nothing else") {
  Play play(full_scene(""), 1);
  std::set<std::string> said;
  for (const ReferenceEntry& e : reference()) said.insert(e.name);
  std::set<std::string> there;
  const std::set<std::string> of_lua{"assert",       "error",    "ipairs",   "pairs",  "pcall",  "xpcall",
                                     "rawequal",     "rawlen",   "rawget",   "rawset", "select", "setmetatable",
                                     "getmetatable", "tonumber", "tostring", "type"};
  for (const std::string& name : play.scripts().names())
    if (!of_lua.contains(name)) there.insert(name);
  for (const std::string& name : there) {
    CAPTURE(name);
    CHECK(said.contains(name));
  }
  for (const std::string& name : said) {
    CAPTURE(name);
    // Tables that are called, and fields, are not among the functions.
    const bool call = name.find('.') == std::string::npos && name != "turn" && name != "dials";
    CHECK((!call || there.contains(name)));
  }
}

// What the worst call of each costs is measured there; a call that is added has to be listed too.
TEST_CASE("every call is in the list of what calls cost at most") {
  const std::string bench = read_file(in_checkout("/bench/worst_calls_bench.cpp"));
  Play play(full_scene(""), 1);
  for (const std::string& name : play.scripts().names()) {
    CAPTURE(name);
    CHECK((name.starts_with("on.") || bench.find('"' + name + '"') != std::string::npos));
  }
}

TEST_CASE("a tick goes in the order that the reference says") {
  SceneFolder folder = full_scene(R"(
    body.kind = "kinematic"
    function on.play() body:ride("ferry", { seconds = 0.02 }) every(0.01, function() print("timer") end) tell(body, "hey") end
    function on.press() print("press") end
    function on.release() print("release") end
    function on.grab() print("grab") end
    function on.drop() print("drop") end
    function on.message(name) print("message", name) end
    function on.cue(name) print("cue", name) end
    function on.tick() print("tick") end
    function on.arrive() print("arrive") end
    function on.enter() print("enter") end)");
  folder.scene.zones[0].shape = Box{{1, 1, 1}};
  folder.scene.zones[0].position = {4, 3, 2};
  folder.scene.cues[0].at = 0.01;
  Play play(folder, 1);
  play.step();
  CHECK(texts(play) == Lines{"message hey", "tick"});
  play.give(press("haul", 1));
  Input grab;
  grab.kind = Input::Kind::grab;
  grab.name = "ball";
  play.give(grab);
  play.step();
  CHECK(texts(play) == Lines{"press", "grab", "timer", "cue bell", "tick", "enter", "arrive"});
}

TEST_CASE("scripts run in the order of bodies, and a body's in theirs") {
  SceneFolder folder = full_scene("function on.tick() print(body.name, 1) end");
  folder.scripts["second.lua"] = "function on.tick() print(body.name, 2) end";
  folder.scene.bodies[1].scripts.push_back({"second.lua", {}});
  folder.scene.bodies[2].scripts.push_back({"act.lua", {}});
  Play play(folder, 1);
  play.step();
  CHECK(texts(play) == Lines{"ball 1", "ball 2", "stone 1"});
}

TEST_CASE("turns turn as rotations do") {
  CHECK(printed(R"(
    local q = turn(vec(0, 1, 0), math.pi / 2)
    local v = q * vec(1, 0, 0)
    print(math.abs(v.x) < 1e-12, v.z)
    print((q * q):angle() * 180 / math.pi)
    print((q * q:inverse()):angle() < 1e-12)
    print((turn.facing(vec(1, 0, 0)) * vec(0, 0, -1)).x)
    print((turn.between(vec(1, 0, 0), vec(0, 1, 0)) * vec(1, 0, 0)).y)
    print(turn():blend(q, 0.5):angle() * 4 / math.pi)
    print(q, q == turn(vec(0, 1, 0), math.pi / 2)))") ==
        Lines{"true -1", "180", "true", "1", "1", "1", "turn of 90° about (0, 1, 0) true"});
  CHECK_THAT(fault("local q = turn(vec(0, 0, 0), 1)"), Catch::Contains("not zero"));
  CHECK_THAT(fault("local q = turn(vec(0, 1, 0), 1) * 3"), Catch::Contains("a turn or a vector, got 3"));
  CHECK_THAT(fault("body.orientation = vec(0, 1, 0)"), Catch::Contains("wants a unit quaternion"));
}

TEST_CASE("place, orientation and the frames of a body agree") {
  CHECK(printed(R"(
    body:place(vec(1, 2, 3), turn(vec(0, 1, 0), math.pi / 2))
    print(body.position, body:to_scene(vec(0, 0, -1)), body:to_local(vec(1, 2, 3)))
    body.velocity = vec(1, 0, 0)
    body.angular_velocity = vec(0, 0, 2)
    print(body:velocity_at(body.position + vec(0, 1, 0))))") == Lines{"(1, 2, 3) (0, 2, 3) (0, 0, 0)", "(-1, 0, 0)"});
}

TEST_CASE("queries see the scene and leave out the one who asks") {
  CHECK(printed(R"(
    local below = scene:ray(body.position, vec(0, -1, 0), 10)
    print(below.body, below.distance, below.normal)
    print(scene:ray(body.position, vec(0, -1, 0), 1))
    print(scene:ray(body.position, vec(1, 0, 0), 10, { except = false }).body)
    print(#scene:near(body.position, 3), scene:near(vec(5, 0.5, 0), 1)[1])
    local ahead = scene:sweep(body, vec(0, -5, 0))
    print(ahead.body, math.floor(ahead.distance * 1000 + 0.5))
    print(scene:sweep(0.25, vec(0, 0, 5)))
    print(#scene:bodies(), #scene:tagged("stone"), scene:find("nobody")))") ==
        Lines{"ground 2.5 (0, 1, 0)", "nil", "ball", "1 ground", "ground 2000", "nil", "3 2 nil"});
  CHECK_THAT(fault("scene:ray(body.position, vec(0, 0, 0))"), Catch::Contains("direction that is not zero"));
  CHECK_THAT(fault("scene:ray(body.position, vec(0, 1, 0), 5, { groups = {\"crew\"} })"),
             Catch::Contains("no group called 'crew'"));
  CHECK_THAT(fault("scene.find(\"ball\")"), Catch::Contains("scene:name"));
}

TEST_CASE("grounded means held up from below, not touched from the side or above") {
  CHECK(printed("function on.tick() if scene.tick == 99 then print(body.grounded) end end", 100) == Lines{"true"});
  SceneFolder folder = full_scene("function on.tick() if scene.tick == 20 then print(body.grounded) end end");
  folder.scene.zones.clear();
  folder.scene.bodies[1].gravity_factor = 0;
  folder.scene.bodies[1].velocity = {5, 0, 0};
  Body wall = fixed_floor();
  wall.name = "wall";
  wall.shape = Box{{1, 20, 20}};
  wall.position = {1.5, 0, 0};
  folder.scene.bodies.push_back(wall);
  Play play(folder, 1);
  run(play, 30);
  CHECK(texts(play) == Lines{"false"});
}

TEST_CASE("a stamp is a copy with what differs, runs its scripts at once, and has a name of its own") {
  SceneFolder folder = full_scene(R"(
    function on.play()
      local copy = scene:stamp("stone", { position = vec(-5, 4, 0), mass = 0.5, velocity = vec(0, 1, 0) })
      print(copy, copy.mass, copy:has("stone"), copy.velocity)
    end)");
  folder.scripts["hello.lua"] = "function on.play() print(body.name, \"is here\") end";
  folder.scene.bodies[2].scripts.push_back({"hello.lua", {}});
  Play play(folder, 1);
  run(play, 2);
  CHECK(texts(play) == Lines{"stone_1 is here", "stone_1 0.5 true (0, 1, 0)", "stone is here"});
  CHECK(motion(play, "stone_1").velocity.y() == Approx(1 - 2 * 9.81 / 100));
  CHECK_THAT(fault("scene:stamp(\"stone\", { mass = -1 })"), Catch::Contains("wants a number above 0"));
  CHECK_THAT(fault("scene:stamp(\"stone\", { weight = 1 })"), Catch::Contains("a body has no 'weight'"));
}

TEST_CASE("a removed body goes at the end of the tick, and only its .alive can be asked") {
  SceneFolder folder = full_scene(R"(
    local stone
    function on.play() stone = scene:find("stone") end
    function on.tick()
      if scene.tick == 1 then stone:remove() print(stone.alive, stone.position) end
      if scene.tick == 2 then print(stone.alive, stone) print(#scene:bodies()) stone:halt() end
    end)");
  Play play(folder, 1);
  run(play, 3);
  const auto lines = play.take_log();
  REQUIRE(lines.size() == 4);
  CHECK(lines[0].text == "false (6, 0.5, 0)");
  CHECK(lines[1].text == "false a removed body");
  CHECK(lines[2].text == "2");
  CHECK_THAT(lines[3].text, Catch::Contains("was removed; ask its .alive first"));
  CHECK_FALSE(play.running().find("stone"));
}

TEST_CASE("a blast gives each body its impulse by distance, thrown up by lift") {
  SceneFolder folder = full_scene(
      "function on.play() local hit = scene:blast { at = vec(0, 2.5, 0), radius = 8,"
      " impulse = 12 } print(#hit, hit[1], hit[2]) end");
  folder.scene.zones.clear();
  folder.scene.joints.clear();
  folder.scene.world.gravity = Vec3::Zero();
  folder.scene.bodies[2].position = {4.5, 2.5, 0};
  Play play(folder, 1);
  // The stone's surface is 4 m off: half of the radius, so half of the impulse over its 5 kg.
  CHECK(motion(play, "stone").velocity.x() == Approx(12 * 0.5 / 5).epsilon(1e-6));
  CHECK(texts(play) == Lines{"2 ball stone"});
  CHECK_THAT(fault("scene:blast { radius = 3 }"), Catch::Contains("at = a point"));
  CHECK_THAT(fault("scene:blast { at = vec(), radius = -3 }"), Catch::Contains("radius above 0"));
}

TEST_CASE("a joint made by a script holds, is read, retuned and cut") {
  SceneFolder folder = full_scene(R"(
    local rope
    function on.play()
      rope = scene:join { kind = "distance", b = body, at = body.position, high = 1, name = "tether" }
      rope.high = 1.5
      print(rope, rope.kind, rope.a, rope.b, rope.high)
    end
    function on.tick()
      if scene.tick == 300 then print(math.floor(rope.force.y * 1000 + 0.5), math.floor(rope.travel * 1000 + 0.5)) end
      if scene.tick == 301 then rope:cut() print(rope.alive) end
    end)");
  folder.scene.zones.clear();
  folder.scene.bodies[1].position = {0, 12, 0};
  Play play(folder, 1);
  run(play, 330);
  CHECK(texts(play) == Lines{"tether distance nil ball 1.5", "19620 1500", "false"});
  CHECK(motion(play, "ball").velocity.y() < -1);
  CHECK_THAT(fault("scene:join { kind = \"ball\" }"), Catch::Contains("b = the body that it holds"));
  CHECK_THAT(fault("scene:join { kind = \"knot\", b = body }"), Catch::Contains("wants one of ball, hinge"));
}

TEST_CASE("messages reach a body or all with a tag, carry values, wait, and can be called off") {
  SceneFolder folder = full_scene(R"(
    function on.play()
      tell("stone", "hello", 3, vec(1, 2, 3), body)
      tell_in(0.05, scene:find("stone"), "later")
      tell_in(0.05, "stone", "never"):cancel()
    end)");
  folder.scripts["hear.lua"] = "function on.message(name, ...) print(scene.tick, body.name, name, ...) end";
  folder.scene.bodies[0].scripts.push_back({"hear.lua", {}});
  folder.scene.bodies[2].scripts.push_back({"hear.lua", {}});
  Play play(folder, 1);
  run(play, 10);
  CHECK(texts(play) == Lines{"0 ground hello 3 (1, 2, 3) ball", "0 stone hello 3 (1, 2, 3) ball", "5 stone later"});
  CHECK_THAT(fault("tell(body, \"x\", {})"), Catch::Contains("but not a table"));
}

TEST_CASE("zones tell who comes and goes, and can be changed by a script") {
  SceneFolder folder = full_scene(R"(
    function on.enter(zone) print("in", zone.name, zone:has(body)) zone.gravity = vec(0, 9.81, 0) end
    function on.leave(zone) print("out", #zone.bodies) end)");
  Play play(folder, 1);
  run(play, 300);
  CHECK(texts(play).at(0) == "in draught true");
  CHECK(motion(play, "ball").pose.position.y() > 0.6);  // It was sent up again inside.
}

TEST_CASE("zones that name tags sense only bodies with them, and tags can change") {
  SceneFolder folder = full_scene(R"(
    function on.enter(zone) print("in") end
    function on.leave(zone) print("out") end
    function on.tick() if scene.tick == 3 then body:tag("light") end if scene.tick == 5 then body:untag("light") end end)");
  folder.scene.zones[0].tags = {"light"};
  folder.scene.zones[0].position = {0, 2.5, 0};
  Play play(folder, 1);
  run(play, 10);
  CHECK(texts(play) == Lines{"in", "out"});
}

TEST_CASE("actions are held, have a value, and tell when they are pressed and let go") {
  Play play(full_scene(R"(
    function on.press(a) print("press", a, axis(a)) end
    function on.release(a) print("release", a, held(a)) end)"),
            1);
  play.give(press("haul", -0.5));
  run(play, 3);
  play.give(press("haul", 0.5));
  play.step();
  play.give(press("haul", 0));
  play.step();
  CHECK(texts(play) == Lines{"press haul -0.5", "release haul false"});
  CHECK_THAT(fault("print(held(\"jump\"))"), Catch::Contains("no action called 'jump'"));
}

TEST_CASE("a ride takes its time to the tick, eases, faces along, and lets go with its velocity") {
  SceneFolder folder = full_scene(R"(
    body.kind = "kinematic"
    function on.play() body:ride("ferry", { seconds = 2.5, face = true, release = true }) end
    function on.arrive(path) print(path, scene.tick, body.kind) end)");
  folder.scene.world.tick_rate = 120;
  folder.scene.paths[0] = {"ferry", {{0, 3, 0}, {5, 3, 0}}, true, false};
  folder.scene.zones.clear();
  Play play(folder, 1);
  run(play, 150);
  CHECK(motion(play, "ball").pose.position.x() == Approx(2.5).epsilon(1e-9));
  CHECK((motion(play, "ball").pose.orientation * Vec3(0, 0, -1)).x() == Approx(1));
  run(play, 149);
  CHECK(texts(play).empty());
  play.step();
  CHECK(texts(play) == Lines{"ferry 300 dynamic"});
  CHECK(motion(play, "ball").pose.position.x() == Approx(5).epsilon(1e-9));
  CHECK(motion(play, "ball").velocity.x() == Approx(2).epsilon(1e-6));
  CHECK_THAT(fault("body:ride(\"ferry\", { seconds = 1 })"), Catch::Contains("wants a kinematic body"));
  CHECK_THAT(fault("body.kind = \"kinematic\" body:ride(\"road\", { seconds = 1 })"),
             Catch::Contains("no path called 'road'"));
}

TEST_CASE("cues come on their ticks, without drifting") {
  SceneFolder folder = full_scene("function on.cue(name) print(name, scene.tick) end");
  folder.scene.cues = {{"beat", 0, 60.0 / 170, 4}, {"once", 0.3, 0, 0}};
  Play play(folder, 1);
  run(play, 200);
  CHECK(texts(play) == Lines{"beat 0", "once 30", "beat 35", "beat 71", "beat 106"});
}

TEST_CASE("only hears of bodies with the tag") {
  SceneFolder folder = full_scene("on.touch = only(\"stone\", function(hit) print(hit.other) end)");
  folder.scene.zones.clear();
  Body plank = ball_at("plank", {0, 1.1, 0});
  plank.shape = Box{{1, 0.2, 1}};
  folder.scene.bodies.push_back(plank);
  folder.scene.bodies[1].velocity = {3, 0, 0};
  Play play(folder, 1);
  run(play, 150);
  CHECK(texts(play) == Lines{"ground"});
  CHECK(printed("on.touch = only { stone = function(hit) print(hit.other, 2) end }", 90) == Lines{"ground 2"});
}

TEST_CASE("modules run once for each body and keep to themselves; a script builds on another") {
  CHECK(printed("local s = require(\"shared\") print(s.twice(4), require(\"shared\") == s, twice)") ==
        Lines{"8 true nil"});
  Play play(full_scene("local base = build_on(\"lifted\")\n"
                       "function on.tick(dt) base.tick(dt) body:force(vec(2, 0, 0)) end"),
            1);
  run(play, 100);
  CHECK(motion(play, "ball").velocity.y() == Approx(0).margin(1e-9));
  CHECK(motion(play, "ball").velocity.x() == Approx(1));
  CHECK_THAT(fault("require(\"lost\")"), Catch::Contains("no script called lost.lua; it has act.lua"));
  CHECK_THAT(fault("build_on(\"act\")"), Catch::Contains("taken in already"));
}

TEST_CASE("a module that is saved takes over wherever it is used") {
  SceneFolder folder = full_scene("local s = require(\"shared\") function on.tick() print(s.twice(1)) end");
  Play play(folder, 1);
  play.step();
  CHECK(play.reload("shared.lua", "return { twice = function(x) return 20 * x end }"));
  play.step();
  CHECK(texts(play) == Lines{"2", "20"});
  CHECK(play.reload("shared.lua", "error(\"torn\")"));
  CHECK_THAT(errors(play), Catch::Contains("shared.lua:1: torn (on ball"));
}

TEST_CASE("what is drawn is there for its tick") {
  Play play(full_scene(R"(
    function on.tick()
      if scene.tick ~= 1 then return end
      mark(vec(1, 2, 3), "here") arrow(vec(), vec(0, 1, 0), "up") puff(vec(), 2) sound("bell", 0.5)
    end)"),
            1);
  play.step();
  CHECK(play.drawn().empty());
  play.step();
  REQUIRE(play.drawn().size() == 4);
  CHECK(play.drawn()[0].text == "here");
  CHECK(play.drawn()[1].along == Vec3(0, 1, 0));
  CHECK(play.drawn()[2].size == 2);
  CHECK(play.drawn()[3].kind == Drawn::Kind::sound);
  play.step();
  CHECK(play.drawn().empty());
}

TEST_CASE("advance moves a kinematic body to what it hits") {
  SceneFolder folder = full_scene(R"(
    body.kind = "kinematic"
    function on.play() local hit = body:advance(vec(0, -5, 0)) print(hit.other, math.floor(hit.moved.y * 100 + 0.5)) end)");
  Play play(folder, 1);
  CHECK(texts(play) == Lines{"ground -200"});
  CHECK_THAT(fault("body:advance(vec(1, 0, 0))"), Catch::Contains("wants a kinematic body"));
}

TEST_CASE("what falls out of the scene is put back or removed") {
  SceneFolder folder = full_scene("");
  folder.scene.bodies.erase(folder.scene.bodies.begin());
  folder.scene.sweep_away = SweepAway{-3, true};
  Play back(folder, 1);
  run(back, 107);
  CHECK(motion(back, "ball").pose.position.y() > 2);
  CHECK_THAT(texts(back).at(0), Catch::Contains("put back to its start"));
  folder.scene.sweep_away = SweepAway{-3, false};
  Play gone(folder, 1);
  run(gone, 110);
  CHECK_FALSE(gone.running().find("ball"));
}

TEST_CASE("a body that does not report has no touches") {
  SceneFolder folder = full_scene("function on.touch() print(\"touch\") end");
  folder.scene.bodies[1].reports = false;
  Play play(folder, 1);
  run(play, 100);
  CHECK(texts(play).empty());
}

TEST_CASE("a stamp of the scene is made whole: bodies, joints, scripts, where it is told to") {
  SceneFolder folder = full_scene(R"(
    function on.play()
      local made = scene:stamp("davit", { position = vec(20, 0, 0), orientation = turn(vec(0, 1, 0), math.pi / 2) })
      print(#made, made[1].name, made[2].name)
    end)");
  Scene& scene = folder.scene;
  scene.bodies.push_back(ball_at("post", {10, 0.5, 0}));
  scene.bodies.back().kind = MotionKind::fixed;
  scene.bodies.push_back(ball_at("arm", {12, 0.5, 0}));
  SceneJoint hinge;
  hinge.name = "pivot";
  hinge.kind = JointKind::distance;
  hinge.a = "post";
  hinge.b = "arm";
  hinge.high = 2;
  scene.joints.push_back(hinge);
  make_stamp(scene, {"post", "arm"}, "davit");
  Play play(folder, 1);
  play.step();
  CHECK(play.running().world.joints().size() == scene.joints.size() + 1);
  const auto post = play.running().find("post_1"), arm = play.running().find("arm_1");
  REQUIRE(post);
  REQUIRE(arm);
  // A metre to each side of the frame, which is turned a quarter.
  const Vec3 way = play.running().world.motion(*arm).pose.position - play.running().world.motion(*post).pose.position;
  CHECK(std::abs(way.x()) < 0.01);
  CHECK(std::abs(way.z()) == Approx(2).margin(0.01));
  CHECK(0.5 *
            (play.running().world.motion(*arm).pose.position + play.running().world.motion(*post).pose.position).x() ==
        Approx(20).margin(0.01));
}
