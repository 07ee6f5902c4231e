// Scenes in and out of text, on disk, and their history.
#include <rapidcheck.h>

#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>

#include "folders.h"
#include "geometry/base/error.h"
#include "scene/edits/history.h"
#include "scene/files/folder.h"
#include "scene/files/json_text.h"
#include "scene/files/read.h"
#include "scene/files/schema.h"
#include "scene/files/write.h"
#include "scene/properties/number_entry.h"
#include "scene/properties/property.h"
#include "script/running/running_scene.h"

using namespace bronvel;
namespace fs = std::filesystem;

namespace {

fs::path fresh_folder(const std::string& name) {
  const fs::path path = fs::temp_directory_path() / ("bronvel-" + name);
  fs::remove_all(path);
  fs::create_directories(path);
  return path;
}

std::string fault_of(const std::string& text) {
  try {
    read_scene(text);
  } catch (const Error& e) {
    return e.what();
  }
  return "";
}

double any_number(double low, double high) {
  return low + (high - low) * (*rc::gen::inRange(0, 1000000)) / 1e6;
}

Scene any_scene() {
  Scene scene;
  scene.name = *rc::gen::string<std::string>();
  for (char& c : scene.name)
    if (static_cast<unsigned char>(c) < 32 || static_cast<unsigned char>(c) > 126) c = '?';
  scene.seed = static_cast<std::uint64_t>(*rc::gen::inRange(0, 1000000));
  scene.world.gravity = {any_number(-3, 3), any_number(-20, 0), 0};
  scene.surfaces["oak"] = Surface{.static_friction = any_number(0, 2), .restitution = any_number(0, 1)};
  scene.surfaces["ice"] = Surface{.friction_combine = Combine::minimum};
  const int count = *rc::gen::inRange(0, 12);
  for (int i = 0; i < count; ++i) {
    Body b;
    b.name = "body_" + std::to_string(i);
    b.kind = static_cast<MotionKind>(*rc::gen::inRange(0, 3));
    if (*rc::gen::arbitrary<bool>())
      b.shape = Sphere{any_number(0.01, 5)};
    else
      b.shape = Box{{any_number(0.01, 5), any_number(0.01, 5), any_number(0.01, 5)}};
    b.position = {any_number(-100, 100), any_number(-100, 100), any_number(-100, 100)};
    b.orientation = Quat(any_number(0.1, 1), any_number(-1, 1), any_number(-1, 1), any_number(-1, 1)).normalized();
    b.mass = any_number(0.001, 1000);
    if (*rc::gen::arbitrary<bool>()) b.surface = "oak";
    if (*rc::gen::arbitrary<bool>()) b.restitution = any_number(0, 1);
    b.solid = *rc::gen::arbitrary<bool>();
    if (*rc::gen::arbitrary<bool>()) b.tags = {"cargo", "wet"};
    if (*rc::gen::arbitrary<bool>()) b.scripts.push_back({"haul.lua", {{"pull", any_number(-5, 5)}}});
    scene.bodies.push_back(b);
  }
  return scene;
}

}  // namespace

TEST_CASE("a scene that is written and read is the same scene", "[random]") {
  CHECK(rc::check("round trip", [] {
    const Scene scene = any_scene();
    const std::string text = write_scene(scene);
    const Scene back = read_scene(text);
    RC_ASSERT(back == scene);
    RC_ASSERT(write_scene(back) == text);
    RC_ASSERT(schema_fault(Json::parse(text)).empty());
  }));
}

TEST_CASE("the published schema is the one that loads are checked against") {
  CHECK(read_file(in_checkout("/docs/scene.schema.json")) == json_text(scene_schema()));
}

TEST_CASE("a fault is told with file, line and place") {
  const std::string text =
      "{\n \"bronvel\": 1,\n \"bodies\": [\n  {\"name\": \"cask\",\n   \"shape\": {\"sphere\": {\"radius\": 1}},\n   "
      "\"mass\": -4}\n ]\n}\n";
  CHECK(fault_of(text) == "scene.json:6: bodies[0].mass (cask): wants a number above 0, up to 1e+12 kg, got -4");
  CHECK(fault_of("{\n\"bronvel\": 1,\n\"bodies\": [,]}").find("scene.json:3: is not JSON") == 0);
  CHECK(fault_of("{\"bronvel\": 99, \"bodies\": []}").find("newer Bronvel") != std::string::npos);
}

TEST_CASE("what the reader refuses, the schema refuses too") {
  const auto with_body = [](const std::string& inner) {
    return "{\"bronvel\": 1, \"bodies\": [{\"name\": \"b\", \"shape\": {\"sphere\": {\"radius\": 1}}" + inner + "}]}";
  };
  for (const char* inner :
       {", \"mass\": -1", ", \"mass\": \"heavy\"", ", \"kind\": \"lively\"", ", \"position\": [1, 2]",
        ", \"restitution\": 1.5", ", \"colour\": \"red\"", ", \"weight\": 3", ", \"solid\": 1"}) {
    CAPTURE(inner);
    const std::string text = with_body(inner);
    CHECK_FALSE(fault_of(text).empty());
    CHECK_FALSE(schema_fault(Json::parse(text)).empty());
  }
  CHECK(fault_of(with_body("")).empty());
}

TEST_CASE("a folder is saved whole and opened again") {
  const fs::path path = fresh_folder("save");
  SceneFolder folder;
  folder.path = path;
  Body cask;
  cask.name = "cask";
  cask.shape = Sphere{0.4};
  cask.scripts.push_back({"roll.lua", {{"push", 3.0}}});
  folder.scene.bodies.push_back(cask);
  folder.scripts["roll.lua"] = "function on.tick() end\n";
  save_folder(folder);
  const SceneFolder back = open_folder(path);
  CHECK(back.scene == folder.scene);
  CHECK(back.scripts == folder.scripts);
  fs::remove(path / "scripts" / "roll.lua");
  CHECK_THROWS_WITH(open_folder(path), Catch::Contains("roll.lua") && Catch::Contains("cask"));
  CHECK_THROWS_WITH(open_folder(path / "nowhere"), Catch::Contains("not a scene folder"));
}

TEST_CASE("a save that can't be made leaves the old file whole") {
  const fs::path path = fresh_folder("atomic");
  write_atomically(path / "scene.json", "old");
  fs::create_directory(path / "scene.json.saving");  // The place for the new text is taken.
  CHECK_THROWS_AS(write_atomically(path / "scene.json", "new"), Error);
  CHECK(read_file(path / "scene.json") == "old");
  fs::remove(path / "scene.json.saving");
  write_atomically(path / "scene.json", "new");
  CHECK(read_file(path / "scene.json") == "new");
  CHECK_FALSE(fs::exists(path / "scene.json.saving"));
}

TEST_CASE("every edit can be undone and redone", "[random]") {
  CHECK(rc::check("history", [] {
    History history(any_scene());
    std::vector<Scene> seen{history.scene()};
    const int edits = *rc::gen::inRange(1, 40);
    for (int i = 0; i < edits; ++i) {
      history.edit("edit " + std::to_string(i), [&](Scene& scene) {
        if (scene.bodies.empty() || i % 3 == 0) {
          Body b;
          b.name = "new_" + std::to_string(i);
          scene.bodies.push_back(b);
        } else if (i % 3 == 1) {
          scene.bodies.back().mass = any_number(0.1, 9);
        } else {
          scene.bodies.erase(scene.bodies.begin());
        }
      });
      if (!(history.scene() == seen.back())) seen.push_back(history.scene());
    }
    for (std::size_t i = seen.size(); i-- > 1;) {
      RC_ASSERT(history.scene() == seen[i]);
      RC_ASSERT(history.undo());
    }
    RC_ASSERT(history.scene() == seen[0]);
    RC_ASSERT(!history.undo());
    for (std::size_t i = 1; i < seen.size(); ++i) {
      RC_ASSERT(history.redo());
      RC_ASSERT(history.scene() == seen[i]);
    }
    RC_ASSERT(!history.redo());
  }));
}

TEST_CASE("an edit that fails changes nothing") {
  History history(Scene{});
  CHECK_THROWS(history.edit("bad", [](Scene& s) {
    s.name = "half done";
    throw std::runtime_error("no");
  }));
  CHECK(history.scene().name == "untitled");
  CHECK(history.undo_name().empty());
}

TEST_CASE("typed numbers take sums, brackets, prefixes and units") {
  CHECK(entered_number("12*3", "kg") == 36);
  CHECK(entered_number(" 2.5 kN", "N") == 2500);
  CHECK(entered_number("-(1+2)/4 m", "m") == -0.75);
  CHECK(entered_number("30 cm", "m") == Approx(0.3).epsilon(1e-15));
  CHECK(entered_number("2 t", "kg") == 2000);
  CHECK(entered_number("180 °", "rad").value() == Approx(pi));
  CHECK(entered_number("7", "") == 7);
  for (const char* bad : {"", "abc", "1+", "2 kg", "1/0", "(1", "1 2", "nan"}) {
    CAPTURE(bad);
    CHECK_FALSE(entered_number(bad, "N"));
  }
  CHECK_FALSE(entered_number(std::string(5000, '('), ""));
}

TEST_CASE("properties read and write what they say") {
  Body body;
  for (const Property& p : body_properties()) {
    CAPTURE(p.name);
    CHECK_FALSE(p.tip.empty());
    const Value value = p.get(body);
    CHECK(value_fault(p, value).empty());
    Body copy = body;
    p.set(copy, value);
    CHECK(copy == body);
  }
  CHECK(std::get<Vec3>(value_from_text(*find_property("velocity"), "1,2,-3", "x")).z() == -3);
  CHECK_THROWS_AS(value_from_text(*find_property("mass"), "heavy", "x"), Error);
  CHECK_THROWS_AS(value_from_text(*find_property("kind"), "lively", "x"), Error);
}

TEST_CASE("a running scene takes changes without touching the document") {
  Scene scene;
  scene.surfaces["ice"] = Surface{.static_friction = 0.05, .restitution = 0.1};
  Body cask;
  cask.name = "cask";
  cask.mass = 5;
  scene.bodies.push_back(cask);
  RunningScene running(scene);
  const BodyHandle body = running.find("cask").value();
  running.set(body, *find_property("mass"), 8.0);
  running.set(body, *find_property("surface"), std::string("ice"));
  running.set(body, *find_property("restitution"), 0.9);
  CHECK(running.world.body_settings(body).mass == 8);
  CHECK(running.world.body_settings(body).surface.static_friction == 0.05);
  CHECK(running.world.body_settings(body).surface.restitution == 0.9);
  CHECK(scene.bodies[0].mass == 5);
  CHECK_THROWS_AS(running.set(body, *find_property("surface"), std::string("jam")), Error);
  CHECK_THROWS_AS(running.set(body, *find_property("mass"), -1.0), Error);
}

namespace {

// A scene of one body, with more put in.
std::string scene_with(const std::string& shape, const std::string& body = "", const std::string& top = "") {
  return R"({"bronvel": 1, )" + top + R"("bodies": [{"name": "hook", "shape": )" + shape + body + "}]}";
}

const std::string ball = R"({"sphere": {"radius": 0.5}})";

}  // namespace

TEST_CASE("joints, groups and shapes of several parts come back as they were written") {
  const std::string text = R"({"bronvel": 1, "groups": ["gulls", "crew"], "world": {"planar": true}, "bodies": [
    {"name": "deck", "kind": "static", "shape": {"height_field": {"columns": 2, "rows": 3, "spacing": [1, 2],
      "heights": [0, 0.5, 0, 0.25, 0, 1]}}, "groups": ["crew"], "meets": ["gulls"]},
    {"name": "net", "kind": "static", "shape": {"mesh": {"points": [[0,0,0],[1,0,0],[0,0,1]], "triangles": [[0,2,1]]}}},
    {"name": "sled", "shape": {"compound": {"parts": [{"shape": {"box": {"size": [1, 0.2, 1]}}},
      {"shape": {"sphere": {"radius": 0.2}}, "position": [0, 0.3, 0], "density": 2}]}}, "inertia": [1, 2, 1.5],
      "centre_of_mass": [0, 0.1, 0], "locked_turns": "xz", "locked_moves": "z", "sweeping": "always"}],
    "joints": [{"name": "rope", "kind": "distance", "b": "sled", "anchor_a": [0, 5, 0], "high": 4, "pay_out": 0.1},
      {"name": "rig", "kind": "six_axis", "a": "deck", "b": "sled",
       "axes": {"move_x": {"freedom": "limited", "low": -1, "high": 1, "stiffness": 20}, "turn_y": {"freedom": "free"}}},
      {"name": "door", "kind": "hinge", "a": "net", "b": "sled", "axis": [0, 1, 0], "low": -1, "high": 2,
       "motor_speed": 1, "motor_most": 30, "breaks_at_torque": 100}]})";
  const Scene scene = read_scene(text);
  CHECK(scene.world.planar);
  CHECK(scene.joints.size() == 3);
  CHECK(scene.joints[1].axes[0].stiffness == 20);
  CHECK(scene.joints[1].axes[1].freedom == Freedom::locked);
  CHECK(scene.joints[1].axes[4].freedom == Freedom::free);
  CHECK(scene.bodies[2].locked_turns == std::array<bool, 3>{true, false, true});
  CHECK(read_scene(write_scene(scene)) == scene);
  const BodySettings deck = settings_of(scene, scene.bodies[0]);
  CHECK(deck.groups == 4);
  CHECK(deck.meets == 2);
  const JointSettings door = settings_of(scene, scene.joints[2]);
  CHECK((door.frame_a.orientation * Vec3::Unit(0) - Vec3::Unit(1)).norm() < 1e-12);
  CHECK(door.along.freedom == Freedom::limited);
  CHECK_NOTHROW(RunningScene(scene).world.step());
}

TEST_CASE("faulty joints, groups and shapes get one message each, with the place") {
  const auto joint = [](const std::string& inside) {
    return R"({"bronvel": 1, "bodies": [{"name": "hook", "shape": {"sphere": {"radius": 0.5}}}],
 "joints": [{"name": "cord", )" +
           inside + "}]}";
  };
  CHECK_THAT(fault_of(joint(R"("kind": "ball", "b": "hawser")")),
             Catch::Contains("scene.json:2: ") && Catch::Contains("cord") &&
                 Catch::Contains("\"hawser\", which is not in the scene"));
  CHECK_THAT(fault_of(joint(R"("kind": "ball")")), Catch::Contains("has no \"b\""));
  CHECK_THAT(fault_of(joint(R"("kind": "glue", "b": "hook")")), Catch::Contains("wants one of ball, hinge"));
  CHECK_THAT(fault_of(joint(R"("kind": "ball", "a": "hook", "b": "hook")")), Catch::Contains("ties hook to itself"));
  CHECK_THAT(fault_of(joint(R"("kind": "hinge", "b": "hook", "axis": [0, 0, 0])")),
             Catch::Contains("direction that is not zero"));
  CHECK_THAT(fault_of(joint(R"("kind": "hinge", "b": "hook", "low": 2, "high": 1)")),
             Catch::Contains("low limit is above"));
  CHECK_THAT(fault_of(joint(R"("kind": "hinge", "b": "hook", "low": null)")), Catch::Contains("wants a number"));
  CHECK_THAT(fault_of(joint(R"("kind": "hinge", "b": "hook", "stifness": 4)")),
             Catch::Contains("is not a name known here"));
  CHECK_THAT(fault_of(joint(R"("kind": "six_axis", "b": "hook", "axes": {"move_w": {}})")), Catch::Contains("move_w"));
  CHECK_THAT(fault_of(joint(R"("kind": "six_axis", "b": "hook", "axes": {"move_x": {"freedom": "loose"}})")),
             Catch::Contains("locked, limited, free"));
  CHECK_THAT(fault_of(R"({"bronvel": 1, "bodies": [{"name": "hook", "shape": {"sphere": {"radius": 0.5}}}],
 "joints": [{"name": "hook", "kind": "ball", "b": "hook"}]})"),
             Catch::Contains("name of a body or another joint"));
  CHECK_THAT(fault_of(scene_with(ball, R"(, "groups": ["gulls"])")), Catch::Contains("not among the scene's groups"));
  CHECK_THAT(fault_of(scene_with(ball, R"(, "inertia": [1, 1, 9])")), Catch::Contains("no body has that"));
  CHECK_THAT(fault_of(scene_with(ball, R"(, "locked_turns": "w")")), Catch::Contains("none, x, y, z"));
  CHECK_THAT(fault_of(scene_with(R"({"compound": {"parts": []}})")), Catch::Contains("at least one part"));
  CHECK_THAT(
      fault_of(scene_with(
          R"({"compound": {"parts": [{"shape": {"mesh": {"points": [[0,0,0],[1,0,0],[0,0,1]], "triangles": [[0,2,1]]}}}]}})")),
      Catch::Contains("convex"));
  CHECK_THAT(fault_of(scene_with(R"({"mesh": {"points": [[0,0,0],[1,0,0],[0,0,1]], "triangles": [[0,1,9]]}})")),
             Catch::Contains("names point 10 of 3"));
  CHECK_THAT(fault_of(scene_with(R"({"mesh": {"points": [[0,0,0],[1,0,0],[0,0,1]], "triangles": [[0,1,-2]]}})")),
             Catch::Contains("whole number"));
  CHECK_THAT(fault_of(scene_with(R"({"mesh": {"points": [[0,0,0],[1,0,0],[0,0,1]], "triangles": [[0,2,1]]}})")),
             Catch::Contains("a dynamic body can't be a mesh"));
  CHECK_THAT(fault_of(scene_with(R"({"height_field": {"columns": 3, "rows": 2, "spacing": [1, 1], "heights": [1, 2]}})",
                                 R"(, "kind": "static")")),
             Catch::Contains("6 heights"));
}

TEST_CASE("a change typed for many: a number for all, or times, over and plus for each") {
  CHECK(entered_change("×1.5", "kg")->of(4) == 6);
  CHECK(entered_change("*1.5", "kg")->of(4) == 6);
  CHECK(entered_change("x1.5", "kg")->of(4) == 6);
  CHECK(entered_change("/4", "kg")->of(2) == 0.5);
  CHECK(entered_change("+2 t", "kg")->of(1) == 2001);
  CHECK(entered_change("+-0.5", "kg")->of(2) == 1.5);
  CHECK(entered_change(" 3*4", "kg")->of(99) == 12);
  CHECK(entered_change("-3", "")->of(99) == -3);
  for (const char* bad : {"", " ", "×", "x", "/0", "heavy", "+", "× kg"}) CHECK_FALSE(entered_change(bad, "kg"));
}
