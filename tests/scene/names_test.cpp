// Names: which are allowed, which are free, and which was most likely meant.
#include "scene/document/names.h"

#include <rapidcheck.h>

#include <catch2/catch.hpp>

using namespace bronvel;

TEST_CASE("names that are allowed, and what is said of the others") {
  for (const char* good : {"cask", "Cask_2", "_x", "a", "x9"}) CHECK(name_fault(good).empty());
  for (const char* bad : {"", "2nd", "a b", "a-b", "ü", "a.b", "a/b", "\n"})
    CHECK_THAT(name_fault(bad), Catch::StartsWith("wants letters, digits and _"));
  CHECK(name_fault(std::string(5000, '!')).size() < 200);
  CHECK(name_fault("a\nb").find('\n') == std::string::npos);
}

TEST_CASE("texts that can be tags, groups and dials") {
  CHECK(text_fault("über alles, 100 %").empty());
  CHECK(text_fault("").empty());
  CHECK(text_fault(std::string(200, 'x')).empty());
  CHECK_THAT(text_fault(std::string(201, 'x')), Catch::Contains("201"));
  CHECK_FALSE(text_fault("a\tb").empty());
  CHECK_FALSE(text_fault("\x7F").empty());
  CHECK_THAT(text_fault("\xFF\xFE"), Catch::Contains("UTF-8"));
}

TEST_CASE("any text becomes a name that is allowed, and an allowed name stays as it is") {
  CHECK(allowed_name("Wuson 2", "thing") == "Wuson_2");
  CHECK(rc::check("allowed", [](const std::string& text) {
    const std::string name = allowed_name(text, "thing");
    RC_ASSERT(name_fault(name).empty());
    if (name_fault(text).empty()) RC_ASSERT(name == text);
    RC_ASSERT(allowed_name(name, "thing") == name);
  }));
}

TEST_CASE("fresh names count on, and never come twice") {
  Scene scene;
  for (const char* name : {"cask", "cask_2", "cask_4", "pier_9"}) {
    Body body;
    body.name = name;
    scene.bodies.push_back(body);
  }
  SceneJoint rope;
  rope.name = "rope";
  scene.joints.push_back(rope);
  Names names(scene);
  CHECK(names.taken("rope"));
  CHECK_FALSE(names.taken("rope_2"));
  CHECK(names.fresh("cask") == "cask_3");
  CHECK(names.fresh("cask") == "cask_5");
  CHECK(names.fresh("cask_3") == "cask_6");
  CHECK(names.fresh("pier_9") == "pier_2");
  CHECK(names.fresh("buoy") == "buoy");
  CHECK(names.fresh("rope") == "rope_2");
  CHECK(names.fresh("_7") == "_7");
  CHECK(names.fresh("_7") == "_7_2");
  std::set<std::string> seen;
  for (int i = 0; i < 2000; ++i) CHECK(seen.insert(names.fresh("crate")).second);
  CHECK(free_name(scene.bodies, "cask") == "cask_3");
  CHECK(free_name(scene.bodies, "buoy") == "buoy");
}

TEST_CASE("the name that was most likely meant") {
  const std::vector<std::string> known{"mass", "restitution", "friction", "position", "kind", "may_sleep"};
  CHECK(nearest_name("masss", known) == "mass");
  CHECK(nearest_name("ressitution", known) == "restitution");
  CHECK(nearest_name("frition", known) == "friction");
  CHECK(nearest_name("mass", known) == "mass");
  CHECK(nearest_name("Position", known) == "position");
  CHECK(nearest_name("may sleep", known) == "may_sleep");
  CHECK(nearest_name("velocity", known).empty());
  CHECK(nearest_name("x", known).empty());
  CHECK(nearest_name("", known).empty());
  CHECK(nearest_name("mass", {}).empty());
  CHECK(nearest_name("tik", {"tick", "touch"}) == "tick");
}

TEST_CASE("what is shown of a text is short and on one line") {
  CHECK(shown("a\nb\tc") == "a?b?c");
  CHECK(shown(std::string(300, 'y')).size() < 70);
  CHECK(shown("short") == "short");
}
