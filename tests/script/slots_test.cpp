// Places that are used again, handlers that make and remove bodies while they run, and calls with any arguments.
#include <catch2/catch.hpp>

#include "script/scenes.h"

using namespace bronvel;

namespace {

std::string all_texts(Play& play) {
  std::string all;
  for (const std::string& text : texts(play)) all += text + "\n";
  return all;
}

}  // namespace

TEST_CASE("a message, a timer or a ride of a removed body does not come to who takes its place") {
  // The stone is removed and a copy made at once: it gets the stone's place in every list.
  SceneFolder folder = full_scene(
      "function on.play()\n"
      "  local stone = scene:find('stone')\n"
      "  tell_in(0.3, stone, 'hello')\n"
      "  tell_in(0.3, 'rock', 'to_all')\n"
      "  stone:remove()\n"
      "end\n"
      "function on.tick()\n"
      "  if scene.tick == 2 then\n"
      "    fresh = scene:stamp('pebble', { position = vec(9, 5, 0) })\n"
      "  end\n"
      "  if scene.tick == 60 then\n"
      "    print(fresh.alive, scene:find('stone'))\n"
      "  end\n"
      "end\n");
  Body& stone = *folder.scene.find("stone");
  stone.scripts.push_back({"hears.lua", {}});
  Body pebble = ball_at("pebble", {9, 0.5, 0});
  pebble.scripts.push_back({"hears.lua", {}});
  pebble.tags = {"rock"};
  folder.scene.bodies.push_back(pebble);
  folder.scripts["hears.lua"] =
      "function on.message(name) print(body.name .. ' heard ' .. name) end\n"
      "after(0.2, function() print(body.name .. ' waited') end)\n";
  Play play(folder, 1);
  run(play, 70);
  const std::string said = all_texts(play);
  INFO(said);
  CHECK(said.find("heard hello") == std::string::npos);
  CHECK(said.find("stone waited") == std::string::npos);
  CHECK(said.find("pebble waited") != std::string::npos);
  CHECK(said.find("pebble heard to_all") != std::string::npos);
  CHECK(said.find("true") != std::string::npos);
}

TEST_CASE("a body may remove itself, or all others, in any handler") {
  const std::vector<std::pair<std::string, std::string>> handlers{
      {"play", ""},    {"tick", ""}, {"touch", ""},   {"part", ""},  {"enter", ""}, {"leave", ""}, {"press", ""},
      {"release", ""}, {"cue", ""},  {"message", ""}, {"blast", ""}, {"grab", ""},  {"drop", ""}};
  for (const char* whom : {"body:remove()", "for _, each in ipairs(scene:bodies()) do each:remove() end"})
    for (const auto& [handler, unused] : handlers) {
      INFO(handler << ": " << whom);
      Play play(full_scene("function on." + handler + "()\n  print('in " + handler + "')\n  " + whom +
                           "\nend\nafter(0.1, function() tell(body, 'x') scene:blast{ at = body.position, radius = 9, "
                           "impulse = 1 } end)\n"),
                1);
      play.step();
      Input grab;
      grab.kind = Input::Kind::grab;
      grab.name = "ball";
      grab.value = 10;
      if (play.running().find("ball")) play.give(grab);
      play.give(press("haul", 1));
      run(play, 12);
      Input drop;
      drop.kind = Input::Kind::drop;
      play.give(drop);
      play.give(press("haul", 0));
      run(play, 140);
      CHECK(errors(play) == "");
    }
}

TEST_CASE("copies made in handlers come to all handlers from then on, and none runs away") {
  for (const char* handler : {"play", "press", "cue", "message"}) {
    INFO(handler);
    Play play(full_scene(std::string("count = 0\nfunction on.") + handler +
                         "()\n  scene:stamp(body, { position = body.position + vec(0, 2, 0) })\nend\n"
                         "after(0.05, function() tell(body, 'go') end)\n"),
              1);
    run(play, 3);
    play.give(press("haul", 1));
    run(play, 30);
    const std::size_t bodies = play.running().scene.bodies.size();
    CHECK(bodies >= 4);
    CHECK(bodies < 6000);  // on.play of a copy makes the next one: as far as the budget goes
    run(play, 5);
  }
}

TEST_CASE("calls with too few, too many and odd arguments stop the script with words, and nothing else") {
  const std::vector<std::string> calls{"body:force",
                                       "body:impulse",
                                       "body:torque",
                                       "body:accelerate",
                                       "body:place",
                                       "body:advance",
                                       "body:ride",
                                       "body:slice",
                                       "body:shatter",
                                       "body:has",
                                       "body:tag",
                                       "body:untag",
                                       "body:velocity_at",
                                       "body:to_scene",
                                       "scene:find",
                                       "scene:tagged",
                                       "scene:zone",
                                       "scene:joint",
                                       "scene:ray",
                                       "scene:near",
                                       "scene:sweep",
                                       "scene:stamp",
                                       "scene:blast",
                                       "scene:join",
                                       "after",
                                       "every",
                                       "tell",
                                       "tell_in",
                                       "held",
                                       "axis",
                                       "mark",
                                       "arrow",
                                       "puff",
                                       "watch",
                                       "measure",
                                       "expect",
                                       "sound",
                                       "only",
                                       "random",
                                       "require",
                                       "build_on",
                                       "turn",
                                       "turn.between",
                                       "turn.facing",
                                       "vec"};
  const std::vector<std::string> arguments{"",
                                           "nil",
                                           "1",
                                           "'x'",
                                           "{}",
                                           "print",
                                           "vec(1, 2, 3)",
                                           "-1, -1",
                                           "nil, nil, nil",
                                           "vec(0, 0, 0), vec(0, 0, 0)",
                                           "1e300, 1e300",
                                           "body, body, body",
                                           "{}, {}",
                                           "'', ''",
                                           "coroutine.create(print)",
                                           "table.unpack({1, 2, 3, 4, 5, 6})"};
  int stopped = 0;
  for (const std::string& call : calls) {
    std::string source = "function on.tick()\n";
    for (const std::string& each : arguments)
      source += "  do local good, why = pcall(function() return " + call + "(" + each +
                ") end)\n  if not good then print('refused: ' .. tostring(why)) end end\n";
    source += "end\n";
    INFO(call);
    Play play(full_scene(source), 1);
    run(play, 2);
    for (const LogLine& line : play.take_log()) {
      if (line.level != LogLevel::print) continue;
      if (line.text.rfind("refused: ", 0) != 0) continue;
      ++stopped;
      CHECK(line.text.size() > 25);
      CHECK(line.text.size() < 600);
    }
    // Whatever went through, the world stands.
    for (const Body& body : play.running().scene.bodies)
      if (const auto handle = play.running().find(body.name))
        CHECK(play.running().world.motion(*handle).pose.position.allFinite());
  }
  CHECK(stopped > 300);
}

TEST_CASE("coroutines of scripts wait, go on, and may hold what is gone by then") {
  Play play(full_scene("local steps = 0\n"
                       "local co = coroutine.wrap(function(stone)\n"
                       "  while true do\n"
                       "    steps = steps + 1\n"
                       "    coroutine.yield(stone.alive)\n"
                       "  end\n"
                       "end)\n"
                       "function on.tick()\n"
                       "  local alive = co(scene:find('stone'))\n"
                       "  watch('alive', alive and 1 or 0)\n"
                       "  watch('steps', steps)\n"
                       "  if scene.tick == 5 then scene:find('stone'):remove() end\n"
                       "end\n"),
            1);
  for (int i = 0; i < 20; ++i) {
    play.step();
    REQUIRE(play.watched().size() == 2);
    CHECK(play.watched()[0].value == (i <= 5 ? 1 : 0));
    CHECK(play.watched()[1].value == i + 1);
  }
  CHECK(errors(play) == "");
}
