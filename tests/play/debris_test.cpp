// The parts of a play by themselves: its inputs in order, what was changed, and debris.
#include "play/run/debris.h"

#include <catch2/catch.hpp>

#include "geometry/base/error.h"
#include "play/inputs/input_list.h"
#include "play/run/play_changes.h"
#include "play/run/play_events.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

Input input_at(std::int64_t tick, const std::string& name) {
  Input input;
  input.tick = tick;
  input.name = name;
  return input;
}

std::string names_of(const std::vector<Input>& inputs) {
  std::string all;
  for (const Input& each : inputs) all += each.name;
  return all;
}

}  // namespace

TEST_CASE("inputs act in their ticks, in the order in which they were given") {
  InputList list({input_at(2, "a"), input_at(2, "b"), input_at(5, "c")});
  CHECK(list.acted().empty());
  CHECK_FALSE(list.take_due(1));
  CHECK(list.take_due(2)->name == "a");
  CHECK(list.acted().size() == 1);
  // Given now: after those of this tick, before what is to come.
  list.add(input_at(2, "x"));
  list.add(input_at(2, "y"));
  CHECK(names_of(list.all()) == "abxyc");
  CHECK(list.take_due(2)->name == "b");
  CHECK(list.take_due(2)->name == "x");
  // What acts at once, between ticks, counts as acted where it stands.
  list.add_acted(input_at(2, "z"));
  CHECK(names_of(list.all()) == "abxzyc");
  CHECK(list.acted().size() == 4);
  CHECK(list.take_due(3)->name == "y");  // late, but not lost
  CHECK_FALSE(list.take_due(4));
  CHECK(list.take_due(5)->name == "c");
  CHECK_FALSE(list.take_due(99));
  CHECK(list.acted().size() == list.all().size());
}

TEST_CASE("changes are remembered from what was first to what is last") {
  PlayChanges changes;
  changes.remember({body_place("cask", "mass"), Value(1.0), Value(2.0)});
  changes.remember({body_place("cask", "friction"), Value(), Value(0.5)});
  changes.remember({body_place("cask", "mass"), Value(2.0), Value(3.0)});
  changes.remember(
      {dial_place("cask", "push.lua", "mass"), Value(7.0), Value(8.0)});  // a dial of that name is another thing
  auto real = changes.real();
  REQUIRE(real.size() == 3);
  CHECK(real[0].place.name == "mass");
  CHECK(std::get<double>(real[0].before) == 1);
  CHECK(std::get<double>(real[0].after) == 3);
  CHECK(real[1].place.name == "friction");
  CHECK(real[2].place.script == "push.lua");
  // Back to what it was is no change.
  changes.remember({body_place("cask", "mass"), Value(3.0), Value(1.0)});
  changes.remember({body_place("cask", "friction"), Value(0.5), Value()});
  real = changes.real();
  REQUIRE(real.size() == 1);
  CHECK(real[0].place.script == "push.lua");
}

TEST_CASE("what happened in a tick is told with names, and touches once") {
  Play play(full_scene(""), 1);
  int touches = 0;
  for (int i = 0; i < 100; ++i) {
    play.step();
    PlayEvents again;
    read_events(play.running(), again);
    REQUIRE(again.contacts.size() == play.events().size());
    for (const PlayEvent& event : play.events()) {
      CHECK(event.tick == play.tick());
      CHECK(event.normal.norm() == Approx(1));
      if (event.phase != ContactPhase::touch || (event.a != "ball" && event.b != "ball")) continue;
      ++touches;
      CHECK((event.a == "ground" || event.b == "ground"));
      // It fell 2 m: v = √(2 g h); the impulse is m v, for it does not bounce.
      CHECK(event.speed == Approx(std::sqrt(2 * 9.81 * 2)).epsilon(1e-3));
      CHECK(event.impulse == Approx(2 * event.speed).epsilon(0.05));
    }
  }
  CHECK(touches == 1);
}

TEST_CASE("debris: small parts only, the oldest go first, and they shrink as they go") {
  SceneFolder folder = full_scene("function on.play() pieces = body:shatter(body.position, 40) end\n");
  Body& ball = *folder.scene.find("ball");
  ball.shape = Box{{1, 1, 1}};
  ball.breaking.toughness = 5;
  ball.breaking.debris_below = 10;  // m³: all of them
  ball.breaking.debris_most = 3;
  Play play(folder, 1);
  REQUIRE(play.running().world.body_count() > 8);
  bool faded = false;
  double least = 1;
  for (int i = 0; i < 100; ++i) {
    play.step();
    for (const auto& [body, left] : play.fading()) {
      faded = true;
      CHECK(play.running().world.alive(body));
      CHECK(left >= 0);
      CHECK(left <= 1);
      least = std::min(least, left);
    }
  }
  CHECK(faded);
  CHECK(least < 0.1);
  CHECK(play.fading().empty());
  // The floor, the stone, the body itself and three of its pieces.
  CHECK(play.running().world.body_count() == 6);
  CHECK(errors(play) == "");
}
