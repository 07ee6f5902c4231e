// Zones, paths, cues, actions and the sweep-away floor in scene.json: there and back, and what is refused.
#include <catch2/catch.hpp>

#include "geometry/base/error.h"
#include "scene/files/read.h"
#include "scene/files/write.h"

using namespace bronvel;

TEST_CASE("zones, paths, cues, actions and sweep-away come back as they were written") {
  Scene s;
  SceneZone zone;
  zone.name = "draught";
  zone.shape = Capsule{1, 2};
  zone.position = {1, 2, 3};
  zone.orientation = Quat(Eigen::AngleAxisd(0.3, Vec3(0, 1, 0)));
  zone.tags = {"light", "cork"};
  zone.gravity = Vec3(0, -1, 0.5);
  zone.gravity_factor = 0.5;
  zone.wind = {2, 0, 1};
  zone.linear_damping = 0.1;
  zone.angular_damping = 0.2;
  SceneZone plain;
  plain.name = "plain";
  s.zones = {zone, plain};
  s.paths = {{"ferry", {{0, 0, 0}, {1, 0, 0.1}, {2, 1, 0}}, false, true}};
  s.cues = {{"bell", 1.5, 0.35294117647058826, 8}, {"once", 2, 0, 0}};
  s.actions = {{"steer", {"d", "right"}, {"a", "left"}}, {"hop", {"space", "mouse_left"}, {}}};
  s.sweep_away = SweepAway{-12.5, false};
  const std::string text = write_scene(s);
  const Scene back = read_scene(text, "scene.json");
  CHECK(back == s);
  CHECK(write_scene(back) == text);
}

TEST_CASE("what does not fit is refused with its place") {
  const std::pair<const char*, const char*> cases[] = {
      {R"("zones": [{"name": "a"}])", "zones[0] (a): has no shape"},
      {R"("zones": [{"name": "a", "shape": {"sphere": {"radius": 1}}, "linear_damping": -1}])", "wants a number"},
      {R"("zones": [{"name": "a", "shape": {"mesh": {"points": [[0,0,0],[1,0,0],[0,1,0]], "triangles": [[0,1,2]]}}}])",
       "wants a convex shape"},
      {R"("zones": [{"name": "a", "shape": {"sphere": {"radius": 1}}}, {"name": "a", "shape": {"sphere": {"radius": 1}}}])",
       "given twice"},
      {R"("paths": [{"name": "p", "points": [[0, 0, 0]]}])", "at least two points"},
      {R"("paths": [{"name": "p", "points": [[0, 0, 0], [0, 0, 0]]}])", "same point twice"},
      {R"("cues": [{"name": "c", "every": 1, "beats_per_minute": 60}])", "keep one of them"},
      {R"("actions": [{"name": "a", "keys": ["hyper"]}])", "which is not known"},
      {R"("sweep_away": {"below": -3, "then": "burn"})", "wants one of back, remove"},
  };
  for (const auto& [part, wanted] : cases) {
    CAPTURE(part);
    CHECK_THROWS_WITH(read_scene(std::string("{\"bronvel\": 1, \"bodies\": [], ") + part + "}", "scene.json"),
                      Catch::Contains(wanted));
  }
  CHECK(read_scene(R"({"bronvel": 1, "bodies": [], "cues": [{"name": "c", "beats_per_minute": 120}]})", "s")
            .cues[0]
            .every == 0.5);
}
