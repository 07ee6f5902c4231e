// Scripts on real bodies: what they can do, and what they can't.
#include <catch2/catch.hpp>

#include "geometry/base/error.h"
#include "play/run/play.h"
#include "script/calls/reading.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

// A scene with a floor and one ball two metres up that carries the script.
Play play_with(const std::string& source, std::uint64_t seed = 1) {
  SceneFolder folder;
  folder.scene.world.tick_rate = 100;
  Body ground;
  ground.name = "ground";
  ground.kind = MotionKind::fixed;
  ground.shape = Box{{20, 1, 20}};
  ground.position = {0, -0.5, 0};
  ground.tags = {"stone"};
  Body ball;
  ball.name = "ball";
  ball.shape = Sphere{0.5};
  ball.position = {0, 2.5, 0};
  ball.mass = 2;
  ball.scripts.push_back({"act.lua", {}});
  folder.scene.bodies = {ground, ball};
  folder.scripts["act.lua"] = source;
  return {folder, seed};
}

BodyMotion ball(Play& play) {
  return play.running().world.motion(*play.running().find("ball"));
}

std::string only_error(Play& play) {
  std::string found;
  for (const LogLine& line : play.take_log())
    if (line.level == LogLevel::error) found = line.whole();
  return found;
}

}  // namespace

TEST_CASE("on.tick pushes: weight times 1.1 rises with a tenth of gravity") {
  Play play = play_with("function on.tick(dt) body:force(vec(0, body.weight * 1.1, 0)) end");
  run(play, 100);
  CHECK(ball(play).velocity.y() == Approx(0.981).epsilon(1e-6));
}

TEST_CASE("properties are read and set through the one list") {
  Play play = play_with(R"(
    function on.play()
      body.velocity = vec(1, 2, 3)
      body.mass = 4
      body.restitution = 0.25
      body.linear_damping = 0.5
      print(body.name, body.mass, body.velocity.z, body.kind, body.restitution, body.position)
    end)");
  CHECK(texts(play) == std::vector<std::string>{"ball 4 3 dynamic 0.25 (0, 2.5, 0)"});
  CHECK(play.running().world.body_settings(*play.running().find("ball")).linear_damping == 0.5);
}

TEST_CASE("touch tells the other, the normal, the speed and the points") {
  Play play = play_with(R"(
    function on.touch(hit)
      print(hit.other, hit.other:has("stone"), hit.normal.y, math.floor(hit.speed * 1000 + 0.5), #hit.points)
    end
    function on.part(hit) print("parted") end)");
  run(play, 70);
  // The normal points away from the other body; v = sqrt(2 g 2 m).
  const auto lines = texts(play);
  REQUIRE_FALSE(lines.empty());
  CHECK(lines[0] == "ground true 1 6264 1");
}

TEST_CASE("timers are exact to the tick, repeat, and can be cancelled") {
  Play play = play_with(R"(
    function on.play()
      after(0.5, function() print("once") end)
      local n = 0
      local t
      t = every(0.1, function() n = n + 1 print("again", n) if n == 3 then t:cancel() end end)
      after(0.2, function() print("never") end):cancel()
    end)");
  std::vector<std::pair<std::int64_t, std::string>> seen;
  for (int i = 0; i < 80; ++i) {
    play.step();
    for (const LogLine& line : play.take_log()) seen.emplace_back(line.tick, line.text);
  }
  const std::vector<std::pair<std::int64_t, std::string>> wanted{
      {10, "again 1"}, {20, "again 2"}, {30, "again 3"}, {50, "once"}};
  CHECK(seen == wanted);
}

TEST_CASE("dials have units, ranges, an order, and settings of their own for each body") {
  const std::string source =
      "dials { push = { 3, unit = \"N\", from = -1, to = 9, tip = \"sideways\" }, apex = 2 }\n"
      "function on.tick() body:force(vec(dials.push, 0, 0)) end";
  const auto declared = read_script("act.lua", {{"act.lua", source}}).dials;
  REQUIRE(declared.size() == 2);
  CHECK(declared[0].name == "push");
  CHECK(declared[0].unit == "N");
  CHECK(declared[0].from == -1);
  CHECK(declared[1].name == "apex");
  Play play = play_with(source);
  play.set(dial_place("ball", "act.lua", "push"), 8.0);
  play.step();
  CHECK(ball(play).velocity.x() == Approx(8.0 / 2 / 100));
  const auto changes = play.changes();
  REQUIRE(changes.size() == 1);
  CHECK(std::get<double>(changes[0].before) == 3);
  CHECK(std::get<double>(changes[0].after) == 8);
  CHECK_THROWS_AS(play.set(dial_place("ball", "act.lua", "pull"), 1.0), Error);
  CHECK_THROWS_AS(play.set(dial_place("ball", "act.lua", "push"), std::nan("")), Error);
}

TEST_CASE("wrong calls say what, where and with what") {
  struct Case {
    const char* source;
    const char* wanted;
  };
  const Case cases[] = {
      {"function on.tick()\n body:force(nil)\nend",
       "act.lua:2: body:force wants a vector in newtons, got nil (on ball, tick 0)"},
      {"function on.tick() body.force(vec(1,2,3)) end", "body:force wants a body before the colon"},
      {"function on.tick() body.mass = -1 end", "body.mass wants a number above 0"},
      {"function on.tick() body.mas = 1 end", "'mas' can't be set"},
      {"function on.tick() local a = body.mas end", "has no 'mas'"},
      {"function on.tik() end", "on.tik is not a handler; did you mean on.tick?"},
      {"function on.tick() dials.push = 3 end", "can't be set by the script"},
      {"function on.tick() body:force(vec(0/0, 0, 0)) end", "wants a vector in newtons, got ("},
      {"function on.tick() local v = vec(1, 2) end", "vec wants three numbers"},
      {"function on.tick() local v = vec(1,2,3) * vec(1,2,3) end", "a:dot(b)"},
      {"local x = = 3", "act.lua:1: unexpected symbol"},
      {"function on.tick() error({}) end", "not a text but a table"},
  };
  for (const Case& c : cases) {
    CAPTURE(c.source);
    Play play = play_with(c.source);
    play.step();
    CHECK_THAT(only_error(play), Catch::Contains(c.wanted));
    CHECK(play.any_error());
  }
}

TEST_CASE("a script that errs is stopped for its body; all else plays on") {
  Play play = play_with("function on.tick() error(\"no\") end");
  run(play, 50);
  int errors = 0;
  for (const LogLine& line : play.take_log()) errors += line.level == LogLevel::error ? 1 : 0;
  CHECK(errors == 1);
  CHECK(ball(play).velocity.y() == Approx(-9.81 * 0.5));
}

TEST_CASE("hostile scripts are stopped with a message and leave the play alive") {
  const std::pair<const char*, const char*> cases[] = {
      {"function on.tick() while true do end end", "does a loop never end"},
      {"function on.tick() while true do pcall(function() while true do end end) end end", "does a loop never end"},
      {"function on.tick() local t = {} while true do t[#t + 1] = string.rep(\"x\", 100000) .. #t end end",
       "in one tick"},
      {"t = {} function on.tick() for i = 1, 400000 do t[#t + 1] = {i, i, i} end end", "MB of memory"},
      {"function on.tick() local s = string.rep(\"x\", 1000000000) end", "more than a megabyte"},
      {"local function f() return f() + 1 end function on.tick() f() end", "stack overflow"},
      {"function on.tick() coroutine.wrap(function() while true do end end)() end", "does a loop never end"},
      {"function on.tick() xpcall(error, function() error(\"x\") end) body:force(1) end", "wants a vector"},
  };
  for (const auto& [source, wanted] : cases) {
    CAPTURE(source);
    Play play = play_with(source);
    run(play, 15);
    CHECK_THAT(only_error(play), Catch::Contains(wanted));
    CHECK(ball(play).velocity.y() == Approx(-1.4715));
  }
}

TEST_CASE("nothing outside can be reached") {
  for (const char* name : {"io", "os", "debug", "package", "load", "loadstring", "loadfile", "dofile", "collectgarbage",
                           "string.dump", "math.randomseed", "getmetatable(\"\").__index"}) {
    CAPTURE(name);
    Play play = play_with(std::string("local ok, v = pcall(function() return ") + name + " end) print(ok and v)");
    const auto lines = texts(play);
    REQUIRE(lines.size() == 1);
    CHECK((lines[0] == "nil" || lines[0] == "false"));
  }
  Play play = play_with("function on.tick() math.pi = 3 end");
  play.step();
  CHECK_THAT(only_error(play), Catch::Contains("can't be changed"));
}

TEST_CASE("globals of one body are not those of another") {
  SceneFolder folder;
  for (const char* name : {"one", "two"}) {
    Body body;
    body.name = name;
    body.position = {name[0] == 'o' ? 0.0 : 5.0, 0, 0};
    body.scripts.push_back({"count.lua", {}});
    folder.scene.bodies.push_back(body);
  }
  folder.scripts["count.lua"] = "n = 0 function on.tick() n = n + 1 print(n) end";
  Play play(folder, 1);
  run(play, 2);
  CHECK(texts(play) == std::vector<std::string>{"1", "1", "2", "2"});
}

TEST_CASE("pairs has a fixed order and random follows the seed") {
  const std::string source = R"(
    local t = {zebra = 1, apple = 2, [3] = 3, mango = 4, [1] = 5}
    local s = ""
    for k, v in pairs(t) do s = s .. k .. " " end
    print(s)
    print(random(), random(5, 6)))";
  Play one = play_with(source, 7), same = play_with(source, 7), other = play_with(source, 8);
  const auto first = texts(one);
  CHECK(first[0] == "1 3 apple mango zebra ");
  CHECK(first == texts(same));
  CHECK(first != texts(other));
}

TEST_CASE("a new text takes over while playing; one that does not compile does not") {
  Play play = play_with("dials { push = 3 } function on.tick() body:force(vec(dials.push, 0, 0)) end");
  play.set(dial_place("ball", "act.lua", "push"), 10.0);
  play.step();
  CHECK_FALSE(play.reload("act.lua", "function on.tick( body"));
  CHECK_THAT(only_error(play), Catch::Contains("act.lua:1"));
  play.step();
  CHECK(ball(play).velocity.x() == Approx(2 * 10.0 / 2 / 100));
  CHECK(play.reload("act.lua", "dials { push = 3 } function on.tick() body:force(vec(0, 0, dials.push)) end"));
  play.step();
  CHECK(ball(play).velocity.z() == Approx(10.0 / 2 / 100));
}
