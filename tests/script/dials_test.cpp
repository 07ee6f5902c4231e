// Dials that are no numbers, and what else scripts share: the parts of a copy, the scene's state, the pointer.
#include "scene/document/dials.h"

#include <catch2/catch.hpp>

#include "folders.h"
#include "geometry/base/error.h"
#include "scene/edits/stamps.h"
#include "scene/files/fault.h"
#include "scene/files/read.h"
#include "scene/files/write.h"
#include "script/calls/setting.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

constexpr const char* all_kinds =
    "dials { push = { 3, unit = 'N' }, on_it = { true, tip = 'whether' }, off = false,\n"
    "  how = { 'soft', one_of = { 'soft', 'hard' } }, who = { tag = '' }, gate = { body = '' },\n"
    "  rope = { joint = 'cord' }, sea = { zone = '' }, way = { path = 'track' }, top = { surface = '' },\n"
    "  by = { action = 'hop' }, when = { cue = '' } }\n";

// A floor, two balls tied by a cord, a zone, a path, an action, a cue, a surface.
SceneFolder scene_of_all(const std::string& script) {
  SceneFolder folder;
  Scene& scene = folder.scene;
  Body ball = ball_at("ball", {0, 3, 0}), gate = ball_at("gate", {3, 3, 0});
  ball.scripts.push_back({"act.lua", {}});
  gate.tags = {"crate"};
  scene.bodies = {fixed_floor(), ball, gate};
  SceneJoint cord;
  cord.name = "cord";
  cord.kind = JointKind::distance;
  cord.a = "ball";
  cord.b = "gate";
  cord.high = 5;
  scene.joints = {cord};
  SceneZone sea;
  sea.name = "sea";
  scene.zones = {sea};
  scene.paths = {{"track", {{0, 3, 0}, {5, 3, 0}}, true, false}};
  scene.actions = {{"hop", {"space"}, {}}, {"dive", {"x"}, {}}};
  scene.cues = {{"bell", 1, 0, 0}};
  scene.surfaces["ice"] = Surface{};
  folder.scripts["act.lua"] = script;
  return folder;
}

std::string printed(Play& play) {
  std::string all;
  for (const LogLine& line : play.take_log()) all += (all.empty() ? "" : "\n") + line.text;
  return all;
}

}  // namespace

TEST_CASE("a dial may be a number, yes or no, a word, or a thing by its name") {
  SceneFolder folder = scene_of_all(std::string(all_kinds) +
                                    "print(dials.push, dials.on_it, dials.off, dials.how, dials.who, dials.gate, "
                                    "dials.rope.name, dials.sea, dials.way, dials.top, dials.by, dials.when)");
  {
    Play play(folder, 1);
    CHECK(printed(play) == "3 true false soft nil nil cord nil track nil hop nil");
  }
  for (const char* set : {"ball.dials.push=4 N", "ball.dials.on_it=false", "ball.dials.off=yes", "ball.dials.how=hard",
                          "ball.dials.who=crate", "ball.dials.gate=gate", "ball.dials.rope=none", "ball.dials.sea=sea",
                          "ball.dials.way=none", "ball.dials.top=ice", "ball.dials.by=dive", "ball.dials.when=bell"})
    put_setting(folder, set);
  folder.scripts["act.lua"] = std::string(all_kinds) +
                              "print(dials.push, dials.on_it, dials.off, dials.how, dials.who, dials.gate, dials.rope, "
                              "dials.sea.name, dials.way, dials.top, dials.by, dials.when)";
  // It reads back from its file as it was written.
  folder.scene = read_scene(write_scene(folder.scene), "scene.json");
  Play play(folder, 1);
  CHECK(printed(play) == "4 false true hard crate gate nil sea nil ice dive bell");
}

TEST_CASE("a dial is refused what is not of its kind, in settings, in play and in the file") {
  SceneFolder folder = scene_of_all(all_kinds);
  Play play(folder, 1);
  for (const char* wrong : {"push=soft", "push=nan", "on_it=3", "how=loud", "how=", "gate=nobody", "rope=gate",
                            "sea=cord", "way=sea", "top=tar", "by=swim", "when=noon", "none=3"}) {
    INFO(wrong);
    SceneFolder set = folder;
    CHECK_THROWS_AS(put_setting(set, std::string("ball.dials.") + wrong), Error);
    CHECK(set.scene == folder.scene);
    CHECK_THROWS_AS(play.set_from_text(std::string("ball.dials.") + wrong), Error);
  }
  CHECK_NOTHROW(play.set_from_text("ball.dials.who=whatever"));  // a tag may come in play
  CHECK(play.changes().size() == 1);
  for (const char* wrong : {R"({"body": "nobody"})", R"({"boat": "gate"})", R"({"body": 3})", "null", "[1]",
                            R"({"body": "gate", "tag": "x"})"}) {
    INFO(wrong);
    std::string text = write_scene(folder.scene);
    const std::string use = "\"file\": \"act.lua\"";
    REQUIRE(text.find(use) != std::string::npos);
    text.replace(text.find(use), use.size(), use + ", \"dials\": {\"gate\": " + wrong + "}");
    CHECK_THROWS_AS(read_scene(text, "scene.json"), Error);
  }
  // What the script declared otherwise since is told, and the script's own value counts.
  folder.scene.bodies[1].scripts[0].dials["push"] = true;
  Play other(folder, 1);
  CHECK(printed(other).find("dial push is set to true in the scene, but wants a number") != std::string::npos);
}

TEST_CASE("wrong declarations stop the script with words") {
  for (const char* wrong : {"dials { how = { 'soft' } }", "dials { how = { 'soft', one_of = { 'hard' } } }",
                            "dials { how = 'soft' }", "dials { who = { tag = 3 } }", "dials { x = { one_of = {} } }",
                            "dials { x = { nil } }", "dials { x = function() end }", "dials { x = { body = {} } }"}) {
    INFO(wrong);
    Play play(scene_of_all(wrong), 1);
    CHECK(play.any_error());
    CHECK(printed(play).find("dial") != std::string::npos);
  }
}

TEST_CASE("a named dial that is set in play counts at once, and again as an input") {
  const SceneFolder folder = scene_of_all(
      std::string(all_kinds) + "function on.tick() if dials.gate then dials.gate:force(vec(50, 0, 0)) end end");
  Play play(folder, 1);
  run(play, 10);
  CHECK(motion(play, "gate").velocity.x() == Approx(0).margin(1e-9));
  play.set_from_text("ball.dials.gate=gate");
  play.set_from_text("ball.dials.off=true");
  run(play, 10);
  CHECK(motion(play, "gate").velocity.x() > 1);
  REQUIRE(play.changes().size() == 2);
  CHECK(setting_text(play.changes()[0]) == "ball.dials.act.lua/gate=gate");
  Play again(folder, 1, play.inputs());
  run(again, 20);
  CHECK(again.running().world.digest() == play.running().world.digest());
  Scene kept = folder.scene;
  for (const Change& change : play.changes()) set_value_at(kept, change.place, change.after);
  CHECK(kept.bodies[1].scripts[0].dials.at("gate") == DialValue(NamedThing{NamedKind::body, "gate"}));
  CHECK(kept.bodies[1].scripts[0].dials.at("off") == DialValue(true));
}

TEST_CASE("dials follow what they name when it is called otherwise, copied, or gone") {
  SceneFolder folder = scene_of_all(all_kinds);
  Scene& scene = folder.scene;
  auto& dials = scene.bodies[1].scripts[0].dials;
  dials["gate"] = NamedThing{NamedKind::body, "gate"};
  dials["rope"] = NamedThing{NamedKind::joint, "cord"};
  dials["who"] = NamedThing{NamedKind::tag, "gate"};  // a tag of that name is another thing
  rename_body(scene, "gate", "door");
  rename_joint(scene, "cord", "line");
  const auto named = [&](const char* body, const char* dial) {
    return std::get<NamedThing>(scene.find(body)->scripts[0].dials.at(dial)).name;
  };
  CHECK(named("ball", "gate") == "door");
  CHECK(named("ball", "rope") == "line");
  CHECK(named("ball", "who") == "gate");
  // Copied with what it names, a copy names the copy; copied alone, the first one's.
  const BodyNames both = duplicate(scene, {"ball", "door"}, {0, 0, 5});
  CHECK(named(both[0].c_str(), "gate") == both[1]);
  CHECK(named(both[0].c_str(), "rope") == scene.joints[1].name);
  const BodyNames alone = duplicate(scene, {"ball"}, {0, 0, 9});
  CHECK(named(alone[0].c_str(), "gate") == "door");
  const Scene before = scene;
  remove_bodies(scene, {"door"});
  const std::vector<std::string> cleared = clear_lost_names(before, scene);
  CHECK(cleared == std::vector<std::string>{"ball's gate", "ball's rope", alone[0] + "'s gate", alone[0] + "'s rope"});
  CHECK(named("ball", "gate").empty());
  CHECK_FALSE(scene_fault(scene));
}

TEST_CASE("in a stamp's copies a dial and body:part mean the part of the same copy") {
  SceneFolder folder = scene_of_all(
      "dials { gate = { body = 'gate' } }\n"
      "function on.play() print(body.name, dials.gate.name, body:part('gate').name, body:part('cord').name,\n"
      "  body:part('none')) end");
  Scene& scene = folder.scene;
  make_stamp(scene, {"ball", "gate"}, "pair");
  place_stamp(scene, "pair", {{10, 0, 0}, Quat::Identity()});
  CHECK_FALSE(scene_fault(scene));
  {
    Play play(folder, 1);
    CHECK(printed(play) == "ball gate gate cord nil\nball_2 gate_2 gate_2 cord_2 nil");
  }
  // A copy that is freed goes on with its own fellow.
  const std::string copy = scene.find("ball_2")->stamped.copy;
  scene.find("ball_2")->scripts[0].dials["gate"] = NamedThing{NamedKind::body, "gate"};
  free_copy(scene, copy);
  CHECK(std::get<NamedThing>(scene.find("ball_2")->scripts[0].dials.at("gate")).name == "gate_2");
  // And one that is made in play knows its own.
  folder.scripts["make.lua"] =
      "function on.tick() if scene.tick == 3 then scene:stamp('pair', { position = vec(0, 9, 0) }) end end";
  scene.find("ground")->scripts.push_back({"make.lua", {}});
  Play play(folder, 1);
  static_cast<void>(printed(play));
  run(play, 5);
  const std::string made = printed(play);
  CHECK(made.find("gate_") != std::string::npos);
  const std::string fellow = made.substr(made.find(' ') + 1, made.find(' ', made.find(' ') + 1) - made.find(' ') - 1);
  CHECK(fellow != "gate");
  CHECK(made.find(" " + fellow + " " + fellow) != std::string::npos);
}

TEST_CASE("scene.state is one table for all scripts of the play") {
  SceneFolder folder = scene_of_all("function on.tick() scene.state.count = (scene.state.count or 0) + 1 end");
  folder.scripts["read.lua"] = "function on.tick() if scene.tick == 4 then print(scene.state.count) end end";
  folder.scene.bodies[2].scripts.push_back({"read.lua", {}});
  for (int i = 0; i < 2; ++i) {
    Play play(folder, 1);
    run(play, 6);
    CHECK(printed(play) == "5");  // empty as play begins
  }
}

TEST_CASE("pointed says what the pointer is on, and is an input") {
  const SceneFolder folder = scene_of_all(
      "function on.tick() local p = pointed()\n"
      "if not p then print('nothing') elseif p.body then print(p.body.name, p.point.y, p.normal.y) else print(p.way) "
      "end end");
  Play play(folder, 1);
  play.step();
  CHECK(printed(play) == "nothing");
  Input ray;
  ray.kind = Input::Kind::point;
  ray.point = {20, 5, 20};
  ray.vector = {0, -2, 0};
  play.give(ray);
  play.step();
  CHECK(printed(play) == "ground 0 1");
  ray.vector = {0, 1, 0};
  play.give(ray);
  play.step();
  CHECK(printed(play) == "(0, 1, 0)");
  const std::vector<Input> again = read_inputs(inputs_text(play.inputs()), "inputs", 60);
  REQUIRE(again.size() == 2);
  CHECK(again[0].point == Vec3(20, 5, 20));
  CHECK(again[1].vector == Vec3(0, 1, 0));
  CHECK_THROWS_AS(read_inputs("{\"tick\": 1, \"eye\": [0, 0, 0], \"way\": 3}", "inputs", 60), Error);
  ray.vector = Vec3::Zero();
  play.give(ray);
  play.step();
  CHECK(play.inputs_failed() == 1);
}

TEST_CASE("a blast pushes only those with the tag, and upward as far as it is told") {
  SceneFolder folder = scene_of_all(
      "function on.tick() if scene.tick == 2 then\n"
      "scene:blast { at = vec(1.5, 3, 0), radius = 9, impulse = 10, falloff = 'even', only = 'crate', upward = 1 } end "
      "end");
  folder.scene.world.gravity = Vec3::Zero();
  folder.scene.joints.clear();
  Play play(folder, 1);
  run(play, 4);
  CHECK(motion(play, "ball").velocity.norm() == 0);
  CHECK(motion(play, "gate").velocity.y() == Approx(10 / folder.scene.bodies[2].mass).epsilon(1e-6));
  CHECK(std::abs(motion(play, "gate").velocity.x()) < 1e-9);
}

TEST_CASE("up, across and forward come from gravity and plane") {
  const auto told = [](const Vec3& gravity, bool planar) {
    SceneFolder folder = scene_of_all("print(scene.up, scene.across, scene.forward, body.forward, body.left, body.up)");
    folder.scene.world.gravity = gravity;
    folder.scene.world.planar = planar;
    Play play(folder, 1);
    return printed(play);
  };
  const std::string x = "(1, 0, 0)", y = "(0, 1, 0)", z = "(0, 0, 1)", minus_x = "(-1, 0, 0)", minus_z = "(0, 0, -1)";
  const auto line = [](std::initializer_list<std::string> all) {
    std::string text;
    for (const std::string& each : all) text += (text.empty() ? "" : " ") + each;
    return text;
  };
  CHECK(told({0, -9.81, 0}, false) == line({y, x, minus_z, minus_z, minus_x, y}));
  CHECK(told(Vec3::Zero(), false) == line({y, x, minus_z, minus_z, minus_x, y}));
  CHECK(told({0, -9.81, 0}, true) == line({y, x, minus_z, x, minus_z, y}));
  CHECK(told(Vec3::Zero(), true) == line({z, x, y, x, y, z}));
}
