// What takes record: of every body, from the tick at which it came to that at which it went.
#include "lab/take.h"

#include <catch2/catch.hpp>

#include "script/scenes.h"

using namespace bronvel;

namespace {

// Plays and records so many ticks.
Take recorded(Play& play, int ticks) {
  Take take(play);
  for (int i = 0; i < ticks; ++i) {
    play.step();
    take.record(play);
  }
  return take;
}

}  // namespace

TEST_CASE("a body that stands still and is set free later has a sample for every tick") {
  SceneFolder folder =
      full_scene("function on.tick() if scene.tick == 20 then scene:find('shelf').kind = 'dynamic' end end");
  Body shelf = ball_at("shelf", {10, 9, 0});
  shelf.kind = MotionKind::fixed;
  folder.scene.bodies.push_back(shelf);
  Play play(folder, 1);
  const Take take = recorded(play, 40);
  REQUIRE(take.at("shelf", 0));
  REQUIRE(take.at("shelf", 10));
  REQUIRE(take.at("shelf", 40));
  CHECK(take.at("shelf", 10)->position[1] == 9);
  CHECK(take.at("shelf", 20)->position[1] == 9);
  CHECK(take.at("shelf", 30)->position[1] < 8.97);
  CHECK(take.at("shelf", 40)->position[1] < take.at("shelf", 30)->position[1]);
}

TEST_CASE("a fixed body that a script places elsewhere is recorded where it is") {
  Play play(full_scene("function on.tick() if scene.tick == 5 then scene:find('ground'):place(vec(0, -3, 0)) end end"),
            1);
  const Take take = recorded(play, 10);
  CHECK(take.at("ground", 4)->position[1] == -0.5);
  CHECK(take.at("ground", 9)->position[1] == -3);
}

TEST_CASE("copies are recorded from when they came, removed bodies until they went") {
  Play play(
      full_scene("function on.tick()\n"
                 "  if scene.tick == 10 then scene:stamp('stone', {position = vec(3, 8, 0), scripts = false}) end\n"
                 "  if scene.tick == 30 then scene:find('stone'):remove() end\n"
                 "end"),
      1);
  const Take take = recorded(play, 60);
  const std::string copy = play.running().scene.bodies.back().name;
  REQUIRE(take.knows(copy));
  CHECK_FALSE(take.at(copy, 5));
  REQUIRE(take.at(copy, 12));
  CHECK(take.at(copy, 12)->position[1] == Approx(8).margin(0.1));
  REQUIRE(take.at(copy, 60));
  CHECK(take.at(copy, 60)->position[1] < 7);
  CHECK(take.at("stone", 29));
  CHECK_FALSE(take.at("stone", 40));
  CHECK_FALSE(take.at("nobody", 0));
  CHECK_FALSE(take.at(copy, 61));
}

TEST_CASE("what a take shows is what the play had, tick by tick") {
  const SceneFolder folder = full_scene("function on.tick() body:force(vec(20 * random(-1, 1), 0, 9)) end");
  Play first(folder, 3);
  const Take take = recorded(first, 200);
  Play second(folder, 3);
  for (int tick = 0; tick <= 200; ++tick) {
    const BodyMotion now = motion(second, "ball");
    const Sample* then = take.at("ball", tick);
    REQUIRE(then);
    for (int i = 0; i < 3; ++i) {
      CHECK(then->position[i] == now.pose.position[i]);
      CHECK(then->velocity[i] == Approx(now.velocity[i]).margin(1e-5));
    }
    second.step();
  }
}

TEST_CASE("dials of the same name are turned, recorded and played again each for its own script") {
  SceneFolder folder = full_scene("dials { push = { 1 } } function on.tick() body:force(vec(dials.push, 0, 0)) end");
  folder.scene.bodies[1].scripts.push_back({"other.lua", {}});
  folder.scripts["other.lua"] = "dials { push = { 2 } } function on.tick() body:force(vec(0, 0, dials.push)) end";
  const auto dials = [](Play& play) {
    std::vector<double> values;
    for (const Dial& dial : play.scripts().dials(*play.running().find("ball"))) values.push_back(dial.value);
    return values;
  };
  Play play(folder, 1);
  run(play, 5);
  play.set_dial("ball", "other.lua", "push", 7);
  run(play, 5);
  CHECK(dials(play) == std::vector<double>{1, 7});
  REQUIRE(play.changes().size() == 1);
  CHECK(play.changes()[0].script == "other.lua");

  const std::vector<Input> inputs = read_inputs(inputs_text(play.inputs()), "inputs");
  Play again(folder, 1, inputs);
  run(again, 10);
  CHECK(dials(again) == std::vector<double>{1, 7});
  CHECK(again.running().world.digest() == play.running().world.digest());

  // By a name that two have, nobody can say which is meant.
  CHECK_THROWS_WITH(play.set_from_text("ball.dials.push=3"), Catch::Contains("act.lua/push"));
  play.set_from_text("ball.dials.act.lua/push=3");
  CHECK(dials(play) == std::vector<double>{3, 7});
  CHECK_THROWS_WITH(play.set_from_text("ball.dials.none.lua/push=3"), Catch::Contains("no such dial"));
}
