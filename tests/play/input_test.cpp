// Inputs: the hand, flicks, blasts; recorded, written, read, and played again.
#include <catch2/catch.hpp>

#include "geometry/base/error.h"
#include "play/run/play.h"

using namespace bronvel;

namespace {

SceneFolder two_balls() {
  SceneFolder folder;
  folder.scene.world.tick_rate = 120;
  Body floor;
  floor.name = "ground";
  floor.kind = MotionKind::fixed;
  floor.shape = Box{{60, 1, 60}};
  floor.position = {0, -0.5, 0};
  Body ball;
  ball.name = "ball";
  ball.shape = Sphere{0.5};
  ball.position = {0, 0.5, 0};
  ball.mass = 3;
  ball.scripts.push_back({"wander.lua", {}});
  Body other = ball;
  other.name = "other";
  other.position = {4, 0.5, 0};
  other.scripts.clear();
  folder.scene.bodies = {floor, ball, other};
  folder.scene.actions = {{"haul", {}, {}}};
  folder.scripts["wander.lua"] =
      "dials { push = { 3, unit = \"N\" } }\n"
      "function on.tick() body:force(vec(dials.push + 40 * axis('haul'), 0, random(-9, 9))) end";
  return folder;
}

Input input(Input::Kind kind, const std::string& name = "", const Vec3& point = Vec3::Zero()) {
  Input made;
  made.kind = kind;
  made.name = name;
  made.point = point;
  return made;
}

Vec3 place(const Play& play, const char* body) {
  return play.running().world.motion(*play.running().find(body)).pose.position;
}

// A play with every kind of input in it.
void play_about(Play& play) {
  const auto run = [&](int ticks) {
    for (int i = 0; i < ticks; ++i) play.step();
  };
  run(10);
  Input haul = input(Input::Kind::action, "haul");
  haul.value = 0.75;
  play.give(haul);
  run(20);
  Input grab = input(Input::Kind::grab, "other", {0.1, 0.2, 0});
  grab.value = 400;
  play.give(grab);
  for (int i = 0; i < 30; ++i) {
    play.give(input(Input::Kind::carry, "", {4 - 0.05 * i, 0.5 + 0.04 * i, 0.3}));
    play.step();
  }
  play.give(input(Input::Kind::drop));
  run(5);
  Input flick = input(Input::Kind::flick, "ball", place(play, "ball") + Vec3(0, 0.3, 0));
  flick.vector = {0, 6, 2};
  play.give(flick);
  run(15);
  Input blast = input(Input::Kind::blast);
  blast.blast.at = {2, 0, 0};
  blast.blast.radius = 6;
  blast.blast.impulse = 9;
  blast.blast.lift = 0.25;
  blast.blast.falloff = Falloff::square;
  play.give(blast);
  play.set(body_place("ball", "mass"), 4.1);
  play.set(dial_place("ball", "wander.lua", "push"), 7.3);
  run(60);
}

}  // namespace

TEST_CASE("a play is played again from its inputs, bit for bit, through their text") {
  Play first(two_balls(), 5);
  play_about(first);
  const std::string text = inputs_text(first.inputs());
  Play again(two_balls(), 5, read_inputs(text, "inputs", 60));
  while (again.tick() < first.tick()) again.step();
  CHECK(again.running().world.digest() == first.running().world.digest());
  CHECK(inputs_text(again.inputs()) == text);
  Play without(two_balls(), 5);
  while (without.tick() < first.tick()) without.step();
  CHECK(without.running().world.digest() != first.running().world.digest());
}

TEST_CASE("inputs that can't be read say which line and what was wanted") {
  const std::pair<const char*, const char*> cases[] = {
      {"{\"tick\": 1", "inputs:1: is not a line of JSON"},
      {"{\"action\": \"haul\"}", "whole number from 0"},
      {"{\"tick\": 1.5, \"drop\": true}", "whole number from 0"},
      {"{\"tick\": 1, \"jump\": true}", "wants one of action, grab"},
      {"{\"tick\": 1, \"action\": \"haul\", \"value\": 7}", "from -1 to 1"},
      {"{\"tick\": 1, \"flick\": \"ball\", \"at\": [1, 2]}", "three numbers for \"at\""},
      {"{\"tick\": 1, \"blast\": [0, 0, 0], \"falloff\": \"steep\"}", "even, linear or square"},
      {"{\"tick\": 4, \"drop\": true}\n{\"tick\": 3, \"drop\": true}", "inputs:2: comes before"},
  };
  for (const auto& [text, wanted] : cases) CHECK_THROWS_WITH(read_inputs(text, "inputs", 60), Catch::Contains(wanted));
  CHECK(read_inputs("\n\n", "inputs", 60).empty());
}

TEST_CASE("an input that fits nothing is reported and play goes on") {
  Play play(two_balls(), 1,
            read_inputs("{\"tick\": 0, \"grab\": \"nobody\"}\n{\"tick\": 1, \"set\": \"ball.mass=-2\"}\n"
                        "{\"tick\": 1, \"action\": \"hual\"}",
                        "f", 60));
  play.step();
  play.step();
  const auto log = play.take_log();
  REQUIRE(log.size() == 3);
  CHECK_THAT(log[2].text, Catch::Contains("hual: the scene has no action of that name"));
  CHECK_THAT(log[0].text, Catch::Contains("there is no body of that name"));
  CHECK_THAT(log[1].text, Catch::Contains("wants a number above 0"));
  CHECK_THROWS_AS(play.give(input(Input::Kind::grab, "nobody")), Error);
}

TEST_CASE("the hand carries a body to where it is, holds it there, and its throw keeps the speed") {
  Play play(two_balls(), 1);
  Input grab = input(Input::Kind::grab, "other");
  grab.value = 600;
  grab.holding = Holding::locked;
  play.give(grab);
  for (int i = 0; i < 240; ++i) {
    play.give(input(Input::Kind::carry, "", {4, 2, 1}));
    play.step();
  }
  CHECK((place(play, "other") - Vec3(4, 2, 1)).norm() < 2e-3);
  const auto motion = [&] { return play.running().world.motion(*play.running().find("other")); };
  CHECK(motion().velocity.norm() < 1e-3);
  for (int i = 1; i <= 60; ++i) {
    play.give(input(Input::Kind::carry, "", {4 + 0.05 * i, 2, 1}));
    play.step();
  }
  play.give(input(Input::Kind::drop));
  play.step();
  CHECK(motion().velocity.x() == Approx(0.05 * 120).epsilon(0.02));
}

TEST_CASE("the hand pulls with no more than its top force") {
  SceneFolder folder = two_balls();
  folder.scene.bodies[2].mass = 100;
  Play play(folder, 1);
  Input grab = input(Input::Kind::grab, "other");
  grab.value = 500;  // Half of what it weighs.
  play.give(grab);
  for (int i = 0; i < 120; ++i) {
    play.give(input(Input::Kind::carry, "", {4, 5, 0}));
    play.step();
    CHECK(grip_force(play.running().world, play.hand()).norm() <= 500 + 1e-9);
  }
  CHECK(place(play, "other").y() < 0.51);
}

TEST_CASE("a flick gives its impulse at its point") {
  Play play(two_balls(), 1);
  Input flick = input(Input::Kind::flick, "other", {4, 0.5, 0});
  flick.vector = {0, 6, 0};
  play.give(flick);
  play.step();
  CHECK(play.running().world.motion(*play.running().find("other")).velocity.y() ==
        Approx(2 - 9.81 / 120).epsilon(1e-6));
}
