// Differences between scenes: whatever an edit changes, undoing gives back and doing again brings anew.
#include "scene/edits/change.h"

#include <catch2/catch.hpp>
#include <functional>

#include "geometry/base/random.h"
#include "scene/document/starting_surfaces.h"

using namespace bronvel;

namespace {

Scene rich_scene() {
  Scene scene;
  scene.surfaces = starting_surfaces();
  for (int i = 0; i < 6; ++i) {
    Body body;
    body.name = "crate_" + std::to_string(i);
    scene.bodies.push_back(body);
    SceneJoint joint;
    joint.name = "rope_" + std::to_string(i);
    joint.b = body.name;
    scene.joints.push_back(joint);
    SceneZone zone;
    zone.name = "basin_" + std::to_string(i);
    scene.zones.push_back(zone);
    scene.paths.push_back({"way_" + std::to_string(i), {{0, 0, 0}, {1, 0, 0}}, true, false});
    scene.cues.push_back({"bell_" + std::to_string(i), 1, 0, 0});
    scene.actions.push_back({"haul_" + std::to_string(i), {"space"}, {}});
  }
  return scene;
}

void check_both_ways(const Scene& before, const Scene& after) {
  const SceneChange change = change_between(before, after);
  CHECK(change.empty() == (before == after));
  Scene scene = before;
  apply(change, scene);
  CHECK(scene == after);
  take_back(change, scene);
  CHECK(scene == before);
}

}  // namespace

// One for each field of a Scene: what is left out of the differences would be lost by the first undo.
TEST_CASE("every field of a scene is part of the difference") {
  const std::vector<std::pair<const char*, std::function<void(Scene&)>>> edits{
      {"name", [](Scene& s) { s.name = "another"; }},
      {"about", [](Scene& s) { s.about = "of something"; }},
      {"tasks", [](Scene& s) { s.tasks = {"try this"}; }},
      {"gravity", [](Scene& s) { s.world.gravity.y() = 3; }},
      {"tick rate", [](Scene& s) { s.world.tick_rate = 30; }},
      {"sub-steps", [](Scene& s) { s.world.substeps = 9; }},
      {"restitution speed", [](Scene& s) { s.world.restitution_speed = 1; }},
      {"rest way", [](Scene& s) { s.world.rest_way = 1; }},
      {"air", [](Scene& s) { s.world.air_density = 0; }},
      {"planar", [](Scene& s) { s.world.planar = true; }},
      {"seed", [](Scene& s) { s.seed = 77; }},
      {"view", [](Scene& s) { s.view.tilt = 50; }},
      {"surfaces", [](Scene& s) { s.surfaces.begin()->second.restitution = 0.123; }},
      {"a surface's voice", [](Scene& s) { s.surfaces.begin()->second.voice = "glass"; }},
      {"groups", [](Scene& s) { s.groups = {"crew"}; }},
      {"a body", [](Scene& s) { s.bodies[3].mass = 9; }},
      {"a joint", [](Scene& s) { s.joints[3].ratio = 9; }},
      {"a zone", [](Scene& s) { s.zones[3].pull = 9; }},
      {"a path", [](Scene& s) { s.paths[3].closed = true; }},
      {"a cue", [](Scene& s) { s.cues[3].at = 9; }},
      {"an action", [](Scene& s) { s.actions[3].against = {"a"}; }},
      {"sweeping away", [](Scene& s) { s.sweep_away = SweepAway{}; }},
      {"models", [](Scene& s) { s.models["crane"] = std::make_shared<Model>(); }},
      {"stamps",
       [](Scene& s) {
         s.stamps.push_back({"crane", {}, {}});
       }},
      {"views",
       [](Scene& s) {
         s.views.push_back({"from the pier", {}});
       }},
      {"lanes", [](Scene& s) { s.lanes = {"height"}; }}};
  const Scene before = rich_scene();
  for (const auto& [name, edit] : edits) {
    INFO(name);
    Scene after = before;
    edit(after);
    REQUIRE_FALSE(after == before);
    check_both_ways(before, after);
  }
  check_both_ways(before, before);
  check_both_ways(before, Scene{});
}

TEST_CASE("lists that things come into, leave and change places in") {
  for (std::uint64_t seed = 1; seed <= 60; ++seed) {
    INFO("seed " << seed);
    Random random(seed);
    const Scene before = rich_scene();
    Scene after = before;
    const auto any = [&](const auto& list) { return static_cast<std::ptrdiff_t>(random.bits() % list.size()); };
    for (int i = 0; i < 4; ++i) {
      const double what = random.share();
      auto& bodies = after.bodies;
      if (what < 0.3 && !bodies.empty()) {
        bodies.erase(bodies.begin() + any(bodies));
      } else if (what < 0.6) {
        Body body;
        body.name = "new_" + std::to_string(i);
        bodies.insert(bodies.begin() + static_cast<std::ptrdiff_t>(random.bits() % (bodies.size() + 1)), body);
      } else if (what < 0.8 && !bodies.empty()) {
        std::swap(bodies.front(), bodies[static_cast<std::size_t>(any(bodies))]);
      } else if (!after.joints.empty()) {
        after.joints.erase(after.joints.begin() + any(after.joints));
      }
    }
    check_both_ways(before, after);
  }
}

TEST_CASE("a small edit of a large scene takes little memory") {
  Scene before;
  for (int i = 0; i < 5000; ++i) {
    Body body;
    body.name = "crate_" + std::to_string(i);
    before.bodies.push_back(body);
  }
  Scene after = before;
  after.bodies[2500].mass = 4;
  CHECK(change_between(before, after).bytes() < 20000);
  after = before;
  after.bodies.erase(after.bodies.begin() + 17);
  CHECK(change_between(before, after).bytes() < 20000);
}
