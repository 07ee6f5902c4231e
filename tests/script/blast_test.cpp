// What scripts hear of blasts: on.blast, by hand and by script.
#include <catch2/catch.hpp>

#include "play/run/play.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

std::vector<std::string> printed(Play& play) {
  std::vector<std::string> texts;
  for (const LogLine& line : play.take_log()) texts.push_back(line.text);
  return texts;
}

}  // namespace

TEST_CASE("a blast by hand is told to what it pushed, with place and impulse, and to nothing else") {
  SceneFolder folder = full_scene(
      "function on.blast(b)\n"
      "  print('blown', b.at.x, b.impulse.y > 0, (b.point - b.at):length() < 4, body.velocity.y > 0)\n"
      "end");
  folder.scene.bodies[2].scripts.push_back({"far.lua", {}});
  folder.scripts["far.lua"] = "function on.blast() print('never') end";
  Play play(folder, 1);
  Input input;
  input.kind = Input::Kind::blast;
  input.blast.at = {0, 1, 0};
  input.blast.radius = 3;
  input.blast.impulse = 60;
  play.give(input);
  play.step();
  CHECK(printed(play) == std::vector<std::string>{"blown 0 true true true"});
  play.step();
  CHECK(printed(play).empty());
}

TEST_CASE("a blast set off in on.blast is told in the next tick: no blast answers itself for ever") {
  SceneFolder folder = full_scene(
      "function on.play() scene:blast{ at = body.position - vec(0, 1, 0), radius = 3, impulse = 5 } end\n"
      "function on.blast(b) print('tick', scene.tick) scene:blast{ at = b.at, radius = 9, impulse = 5 } end");
  Play play(folder, 1);
  for (int i = 0; i < 3; ++i) play.step();
  CHECK(printed(play) == std::vector<std::string>{"tick 1", "tick 2", "tick 3"});
}
