// One list of rules: what can't be opened can't be made, nor saved.
#include "scene/files/fault.h"

#include <sys/stat.h>

#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>

#include "geometry/base/error.h"
#include "geometry/shapes/mesh.h"
#include "scene/document/json_place.h"
#include "scene/edits/history.h"
#include "scene/files/folder.h"
#include "scene/files/read.h"
#include "scene/files/write.h"

using namespace bronvel;

namespace {

Scene quay() {
  Scene scene;
  Body body;
  body.name = "cask";
  body.shape = Box{{1, 1, 1}};
  Body mesh = body;
  mesh.name = "rock";
  mesh.kind = MotionKind::fixed;
  mesh.shape = make_mesh({{0, 0, 0}, {1, 0, 0}, {0, 0, 1}, {0, 1, 0}}, {{0, 1, 2}, {0, 2, 3}, {0, 3, 1}, {1, 3, 2}});
  scene.bodies = {body, mesh};
  scene.actions = {{"hop", {"space"}, {}}, {"duck", {"shift"}, {}}};
  return scene;
}

struct Wrong {
  const char* says;
  std::function<void(Scene&)> change;
};

const std::vector<Wrong>& wrongs() {
  static const std::vector<Wrong> all{
      {"rock", [](Scene& s) { s.bodies[1].kind = MotionKind::dynamic; }},
      {"is given twice", [](Scene& s) { s.actions[1].name = "hop"; }},
      {"which is not known", [](Scene& s) { s.actions[0].keys = {"anvil"}; }},
      {"is the name of two bodies", [](Scene& s) { s.bodies[1].name = "cask"; }},
      {"letters, digits and _", [](Scene& s) { s.bodies[0].name = "2 casks"; }},
      {"not among the scene's surfaces", [](Scene& s) { s.bodies[0].surface = "cheese"; }},
      {"not among the scene's groups", [](Scene& s) { s.bodies[0].groups = {"herrings"}; }},
      {"wants a colour", [](Scene& s) { s.bodies[0].colour = "brown"; }},
      {".lua file",
       [](Scene& s) {
         s.bodies[0].scripts.push_back({"../etc/passwd", {}});
       }},
      {"meshes/gull.obj",
       [](Scene& s) {
         s.bodies[0].looks = Looks{"gull", {}, 1};
       }},
      {"static_friction", [](Scene& s) { s.surfaces["oak"].static_friction = -1; }},
      {"restitution", [](Scene& s) { s.surfaces["oak"].restitution = std::nan(""); }},
      {"pitch_spread", [](Scene& s) { s.surfaces["oak"].pitch_spread = 2; }},
      {"air_density", [](Scene& s) { s.world.air_density = 1e9; }},
      {"substeps", [](Scene& s) { s.world.substeps = 0; }},
      {"mass", [](Scene& s) { s.bodies[0].mass = -1; }},
      {"mass", [](Scene& s) { s.bodies[0].mass = std::nan(""); }},
      {"not in the scene",
       [](Scene& s) {
         SceneJoint joint;
         joint.name = "cord";
         joint.a = "cask";
         joint.b = "ghost";
         s.joints.push_back(joint);
       }},
      {"to itself",
       [](Scene& s) {
         SceneJoint joint;
         joint.name = "cord";
         joint.a = joint.b = "cask";
         s.joints.push_back(joint);
       }},
  };
  return all;
}

}  // namespace

TEST_CASE("what a scene may not be is refused by edits, by trying out, by saving and by reading, with words") {
  const std::filesystem::path folder = std::filesystem::temp_directory_path() / "bronvel-fault";
  std::filesystem::remove_all(folder);
  REQUIRE_FALSE(scene_fault(quay()));
  for (const Wrong& wrong : wrongs()) {
    INFO(wrong.says);
    History history(quay());
    CHECK_THROWS_WITH(history.edit("wrong", wrong.change), Catch::Contains(wrong.says));
    CHECK_THROWS_WITH(history.try_out(wrong.change), Catch::Contains(wrong.says));
    CHECK(history.scene() == quay());
    CHECK(history.steps() == 0);
    Scene scene = quay();
    wrong.change(scene);
    CHECK_THROWS_WITH(save_folder({folder, scene, {}}), Catch::Contains(wrong.says));
    CHECK_FALSE(std::filesystem::exists(folder / "scene.json"));
    CHECK_THROWS_AS(read_scene(write_scene(scene), "scene.json", {}), Error);
  }
}

TEST_CASE("text that a JSON reader would stumble over is told with its line") {
  const auto fault = [](const std::string& text) {
    try {
      read_scene(text, "scene.json", {});
    } catch (const Error& e) {
      return std::string(e.what());
    }
    return std::string("read");
  };
  CHECK_THAT(fault("{\"bronvel\": 1,\n \"bodies\": " + std::string(100000, '[')),
             Catch::Contains("scene.json:2: is nested"));
  CHECK_THAT(fault("{\"bronvel\": 1,\n \"bodies\": [],\n \"name\": \"a\", \"name\": \"b\"}"),
             Catch::Contains("scene.json:3: gives \"name\" twice"));
  CHECK_THAT(fault("{\"bronvel\": 1,\n \"name\": \"\xC3\x28\", \"bodies\": []}"),
             Catch::Contains("scene.json:2: is not written in UTF-8"));
  CHECK_THAT(fault("{\"bronvel\": 1, \"name\": \"\xE2\x82\", \"bodies\": []}"), Catch::Contains("UTF-8"));
  CHECK(fault("{\"bronvel\": 1, \"name\": \"Skerrow \xE2\x82\xAC \\\"a\\\": 1\", \"bodies\": []}") == "read");
  CHECK_FALSE(json_text_fault(R"({"a": {"a": 1}, "b": [{"a": 1}, {"a": 2}]})"));
}

TEST_CASE("a pipe or a folder in a file's place is refused, not waited for") {
  const std::filesystem::path folder = std::filesystem::temp_directory_path() / "bronvel-pipe";
  std::filesystem::remove_all(folder);
  std::filesystem::create_directories(folder);
  REQUIRE(mkfifo((folder / "scene.json").c_str(), 0600) == 0);
  CHECK_THROWS_WITH(open_folder(folder), Catch::Contains("is not a regular file"));
  std::filesystem::remove(folder / "scene.json");
  std::filesystem::create_directories(folder / "scene.json");
  CHECK_THROWS_WITH(open_folder(folder), Catch::Contains("is not a regular file"));
}
