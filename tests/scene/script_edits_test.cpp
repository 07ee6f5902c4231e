// Scripts on bodies, and the actions that they say they need.
#include "scene/edits/script_edits.h"

#include <catch2/catch.hpp>

using namespace bronvel;

namespace {

Scene ferry_scene() {
  Scene scene;
  for (const char* name : {"ferry", "pier"}) {
    Body body;
    body.name = name;
    scene.bodies.push_back(body);
  }
  return scene;
}

}  // namespace

TEST_CASE("actions that a script needs are read from its text") {
  const auto needed = needed_actions(
      "-- Steers.\n-- needs action: steer (d / a)\n--needs action: hop (space)\nlocal x = 1 -- needs action: bare\n"
      "-- needs action: odd (no_such_key / left)\n-- needs actions: none\n");
  REQUIRE(needed.size() == 4);
  CHECK(needed[0].name == "steer");
  CHECK(needed[0].keys == std::vector<std::string>{"d"});
  CHECK(needed[0].against == std::vector<std::string>{"a"});
  CHECK(needed[1].name == "hop");
  CHECK(needed[1].keys == std::vector<std::string>{"space"});
  CHECK(needed[1].against.empty());
  CHECK(needed[2].name == "bare");
  CHECK(needed[2].keys.empty());
  CHECK(needed[3].keys.empty());
  CHECK(needed[3].against == std::vector<std::string>{"left"});
  CHECK(needed_actions("").empty());
  CHECK(needed_actions("-- needs action:").empty());
}

TEST_CASE("only actions that the scene lacks are added") {
  Scene scene = ferry_scene();
  scene.actions.push_back({"hop", {"w"}, {}});
  add_actions(scene, {{"hop", {"space"}, {}}, {"steer", {"d"}, {"a"}}, {"steer", {"right"}, {}}});
  REQUIRE(scene.actions.size() == 2);
  CHECK(scene.actions[0] == Action{"hop", {"w"}, {}});
  CHECK(scene.actions[1] == Action{"steer", {"d"}, {"a"}});
}

TEST_CASE("scripts are put on a body and taken off, dials turned") {
  Scene scene = ferry_scene();
  const Scene before = scene;
  put_script(scene, "steer.lua", "ferry");
  put_script(scene, "hop.lua", "ferry");
  REQUIRE(scene.find("ferry")->scripts.size() == 2);
  CHECK(scene.find("ferry")->scripts[1].file == "hop.lua");
  CHECK(scene.find("pier")->scripts.empty());

  turn_dial(scene, "ferry", "steer.lua", "push", 3.0);
  turn_dial(scene, "ferry", "steer.lua", "push", 4.0);
  turn_dial(scene, "ferry", "none.lua", "push", 5.0);
  CHECK(scene.find("ferry")->scripts[0].dials == std::map<std::string, DialValue>{{"push", 4.0}});
  CHECK(scene.find("ferry")->scripts[1].dials.empty());

  take_script(scene, "steer.lua", "ferry");
  take_script(scene, "hop.lua", "ferry");
  CHECK(scene == before);
  for (const auto& edit : {put_script, take_script}) {
    edit(scene, "steer.lua", "nobody");
    CHECK(scene == before);
  }
  turn_dial(scene, "nobody", "steer.lua", "push", 1.0);
  CHECK(scene == before);
}
