// Time in scripts: timers, messages with a delay and cues come on their ticks at any rate, in order, and never drift.
#include <catch2/catch.hpp>
#include <cmath>

#include "geometry/base/random.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

SceneFolder at_rate(const std::string& source, double rate) {
  SceneFolder folder = full_scene(source);
  folder.scene.world.tick_rate = rate;
  folder.scene.cues.clear();
  return folder;
}

// The ticks at which lines with that text were printed.
std::vector<std::int64_t> ticks_of(Play& play, const std::string& text, int ticks) {
  std::vector<std::int64_t> all;
  for (int i = 0; i < ticks; ++i) {
    play.step();
    for (const LogLine& line : play.take_log())
      if (line.text == text) all.push_back(line.tick);
  }
  return all;
}

std::int64_t nearest_tick(double seconds, double rate) {
  return std::llround(seconds * rate);
}

}  // namespace

TEST_CASE("a timer comes at the tick nearest to its time, whatever the rate") {
  Random random(61);
  for (const double rate : {30.0, 60.0, 100.0, 144.0, 240.0})
    for (int i = 0; i < 6; ++i) {
      const double seconds = random.between(0.02, 1.5);
      INFO(seconds << " s at " << rate << " Hz");
      Play play(
          at_rate("function on.play() after(" + std::to_string(seconds) + ", function() print('now') end) end\n", rate),
          1);
      const auto ticks = ticks_of(play, "now", static_cast<int>(2 * rate));
      REQUIRE(ticks.size() == 1);
      CHECK(std::abs(ticks[0] - nearest_tick(seconds, rate)) <= 1);
    }
}

TEST_CASE("what comes again and again does not drift in a minute") {
  for (const double rate : {60.0, 144.0})
    for (const double every : {0.1, 0.7, 1.0 / 3}) {
      INFO("every " << every << " s at " << rate << " Hz");
      Play play(
          at_rate("function on.play() every(" + std::to_string(every) + ", function() print('beat') end) end\n", rate),
          1);
      const auto ticks = ticks_of(play, "beat", static_cast<int>(60 * rate));
      CHECK(std::abs(static_cast<double>(ticks.size()) - 60 / every) <= 1);
      for (std::size_t n = 0; n < ticks.size(); ++n)
        CHECK(std::abs(static_cast<double>(ticks[n]) - static_cast<double>(n + 1) * every * rate) <= 1);
    }
}

TEST_CASE("cues come on their ticks: once, again and again, so many times") {
  SceneFolder folder = at_rate("function on.cue(name) print(name) end\n", 60);
  folder.scene.cues = {{"once", 0.5, 0, 0}, {"always", 0.25, 0.5, 0}, {"thrice", 0, 1.0 / 3, 3}};
  Play play(folder, 1);
  std::map<std::string, std::vector<std::int64_t>> came;
  for (int i = 0; i < 60 * 10; ++i) {
    play.step();
    for (const LogLine& line : play.take_log()) came[line.text].push_back(line.tick);
  }
  REQUIRE(came["once"].size() == 1);
  CHECK(came["once"][0] == 30);
  CHECK(came["always"].size() == 20);
  for (std::size_t n = 0; n < came["always"].size(); ++n)
    CHECK(came["always"][n] == 15 + 30 * static_cast<std::int64_t>(n));
  REQUIRE(came["thrice"].size() == 3);
  CHECK(came["thrice"][2] - came["thrice"][0] == 40);
}

TEST_CASE("timers of one tick come in the order in which they were asked for, and may ask for more") {
  Play play(
      at_rate("function on.play()\n"
              "  for i = 1, 5 do after(0.1, function() print('t' .. i) end) end\n"
              "  after(0.1, function() after(0.1, function() print('later') end) after(0, function() print('soon') "
              "end) end)\n"
              "end\n",
              100),
      1);
  std::vector<std::string> said;
  for (int i = 0; i < 40; ++i) {
    play.step();
    for (const LogLine& line : play.take_log()) said.push_back(line.text);
  }
  CHECK(said == std::vector<std::string>{"t1", "t2", "t3", "t4", "t5", "soon", "later"});
}

TEST_CASE("a timer that is called off does not come, also by itself and by another of the same tick") {
  Play play(at_rate("local a, b, c\n"
                    "function on.play()\n"
                    "  a = after(0.1, function() print('a') b:cancel() end)\n"
                    "  b = after(0.1, function() print('b') end)\n"
                    "  c = every(0.1, function() print('c') c:cancel() end)\n"
                    "end\n"
                    "function on.tick() if scene.tick == 50 then print(tostring(a.waiting) .. tostring(b.waiting) .. "
                    "tostring(c.waiting)) a:cancel() end end\n",
                    100),
            1);
  std::vector<std::string> said;
  for (int i = 0; i < 60; ++i) {
    play.step();
    for (const LogLine& line : play.take_log()) said.push_back(line.text);
  }
  CHECK(said == std::vector<std::string>{"a", "c", "falsefalsefalse"});
}

TEST_CASE("time is the tick over the rate, and dt what a tick lasts") {
  for (const double rate : {30.0, 144.0}) {
    Play play(
        at_rate("function on.tick(dt) watch('dt', dt) watch('time', scene.time) watch('rate', scene.tick_rate) end",
                rate),
        1);
    for (int i = 0; i < 200; ++i) {
      play.step();
      REQUIRE(play.watched().size() == 3);
      CHECK(play.watched()[0].value == 1 / rate);
      CHECK(play.watched()[1].value == i / rate);
      CHECK(play.watched()[2].value == rate);
    }
  }
}

TEST_CASE("messages with a delay come in time order, and carry what went along as it was") {
  Play play(at_rate("function on.play()\n"
                    "  tell_in(0.3, body, 'third', 3)\n"
                    "  tell_in(0.1, body, 'first', vec(1, 2, 3))\n"
                    "  tell_in(0.2, body, 'second', 'text', true, body)\n"
                    "  tell(body, 'at_once')\n"
                    "end\n"
                    "function on.message(name, x, y, z)\n"
                    "  if name == 'first' then print(name .. ' ' .. x.y) end\n"
                    "  if name == 'second' then print(name .. ' ' .. x .. ' ' .. tostring(y) .. ' ' .. z.name) end\n"
                    "  if name == 'third' then print(name .. ' ' .. x) end\n"
                    "  if name == 'at_once' then print(name) end\n"
                    "end\n",
                    100),
            1);
  std::vector<std::string> said;
  for (int i = 0; i < 50; ++i) {
    play.step();
    for (const LogLine& line : play.take_log()) said.push_back(line.text);
  }
  REQUIRE(said.size() == 4);
  CHECK(said[0] == "at_once");
  CHECK(said[1].rfind("first 2", 0) == 0);
  CHECK(said[2] == "second text true ball");
  CHECK(said[3].rfind("third 3", 0) == 0);
}
