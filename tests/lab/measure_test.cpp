// Measures: each against what a play of known form does.
#include "lab/measures/measure.h"

#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>
#include <set>

#include "geometry/base/error.h"
#include "lab/measured.h"

using namespace bronvel;

TEST_CASE("a throw's measures are those of the parabola, at any tick rate") {
  for (const double rate : {30.0, 60.0, 120.0}) {
    const SceneFolder folder = thrown({3, 4, 0}, rate);
    CHECK(measured(folder, "apex:ball", 2) == Approx(16 / (2 * g)).epsilon(1e-9));
    CHECK(measured(folder, "apex_time:ball", 2) == Approx(4 / g).epsilon(1e-6));
    CHECK(measured(folder, "lowest:ball", 2) == Approx(4 * 2 - 0.5 * g * 4).epsilon(1e-9));
    CHECK(measured(folder, "farthest:ball", 2) == Approx(6).epsilon(1e-9));
    CHECK(measured(folder, "top_speed:ball", 2) == Approx(std::hypot(3, 4 - 2 * g)).epsilon(1e-9));
    CHECK(measured(folder, "at:ball.position.x,0.51", 2) == Approx(1.53).epsilon(1e-9));
    CHECK(measured(folder, "reaches:ball.position.x,1.53", 2) == Approx(0.51).epsilon(1e-9));
    CHECK(measured(folder, "final:ball.velocity.y", 2) == Approx(4 - 2 * g).epsilon(1e-9));
    CHECK(measured(folder, "greatest:ball.velocity.y", 2) == Approx(4));
    CHECK(measured(folder, "least_time:ball.velocity.y", 2) == Approx(2));
    CHECK(measured(folder, "mean:ball.velocity.x", 2) == Approx(3));
    CHECK(measured(folder, "apex:ball@1..2", 2) == Approx(4 - 0.5 * g).epsilon(1e-9));
  }
}

TEST_CASE("touches are measured to the moment and the millimetre") {
  for (const double rate : {30.0, 60.0, 120.0}) {
    CAPTURE(rate);
    // Falls 1 m, less its radius, in √(2 · 0.9 / g).
    const SceneFolder folder = thrown_over(-1, {2, 0, 0}, 0.8, rate);
    const double first = std::sqrt(1.8 / g);
    CHECK(measured(folder, "touch_time:ball,ground", 3) == Approx(first).margin(1e-4));
    CHECK(measured(folder, "touch_time:ball,,2", 3) == Approx(first + 2 * 0.8 * first).margin(3e-4));
    CHECK(measured(folder, "touch_x:ball", 3) == Approx(2 * first).margin(1e-3));
    CHECK(measured(folder, "touch_y:ball", 3) == Approx(-1).margin(1e-3));
    CHECK(measured(folder, "touch_range:ball", 3) == Approx(2 * first).margin(1e-3));
    CHECK(measured(folder, "bounce:ball", 3) == Approx(0.9 * 0.64).epsilon(2e-3));
    CHECK(measured(folder, "bounce:ball,3", 3) == Approx(0.9 * std::pow(0.64, 3)).epsilon(2e-3));
    CHECK(measured(folder, "bounces:ball,0.2", 6) == 3);  // 0.576, 0.369, 0.236, 0.151 m
    CHECK(measured(folder, "hit_speed:ball", 3) == Approx(std::sqrt(1.8 * g)).epsilon(1e-4));
    CHECK(measured(folder, "hardest_hit:ball", 3) == Approx(1.8 * std::sqrt(1.8 * g)).epsilon(1e-2));
    CHECK(measured(folder, "touches:ball,ground@0..0.9", 3) == 1);
    CHECK(std::isnan(measured(folder, "touch_time:ball", 0.3)));
    CHECK(measured(folder, "lost:ball,hit@0..0.6", 3) == Approx(0.36 * 0.9 * g).epsilon(1e-2));
  }
}

TEST_CASE("rest, zones, breaking, joints and what scripts tell are measured") {
  SceneFolder folder =
      full_scene("function on.tick() if scene.time > 0.5 and not told then told = true measure('half', 7) end end");
  CHECK(measured(folder, "told:ball,half", 1) == 7);
  CHECK(std::isnan(measured(folder, "told:ball,half", 0.2)));
  CHECK(measured(folder, "touches:ball", 2) == 1);
  CHECK(measured(folder, "rest_time:ball", 2) == Approx(std::sqrt(4 / g)).margin(0.02));
  CHECK(std::isnan(measured(folder, "rest_time:ball", 0.5)));
  // From 2.5 m down: its lowest point meets the zone's top at 2 m when it has begun to fall.
  CHECK(measured(folder, "enter_time:ball,draught", 2) < 0.1);
  CHECK(measured(folder, "stay:ball,draught", 2) > 1.8);
  CHECK(measured(folder, "holds:cord", 2) == 1);
  folder.scene.joints[0].breaks_at_force = 10;
  folder.scene.bodies[2].position.y() = -9;
  folder.scene.bodies[0].solid = false;
  CHECK(measured(folder, "holds:cord", 2) == 0);
  CHECK(measured(folder, "pieces:stone", 1) == 0);

  SceneFolder ride = full_scene("function on.play() body.kind = 'kinematic' body:ride('ferry', { seconds = 0.5 }) end");
  CHECK(measured(ride, "arrive_time:ball", 1) == Approx(0.5).margin(0.011));
  CHECK(measured(ride, "arrive_x:ball,ferry", 1) == Approx(4).margin(1e-6));
}

TEST_CASE("a body is laid beside what was seen of it") {
  const auto path = std::filesystem::temp_directory_path() / "bronvel-fit";
  std::filesystem::create_directories(path);
  std::ofstream file(path / "film.csv");
  file << "time,x,y\n";
  for (int i = 0; i <= 20; ++i)
    file << 0.051 * i << "," << 3 * 0.051 * i << "," << 4 * 0.051 * i - 0.5 * g * 0.051 * i * 0.051 * i << "\n";
  file.close();
  SceneFolder folder = thrown({3, 4, 0});
  folder.path = path;
  CHECK(measured(folder, "fit:ball,film.csv", 2) < 1e-5);
  folder.scene.bodies[0].velocity.x() = 3.1;
  CHECK(measured(folder, "fit:ball,film.csv", 2) > 0.03);
  CHECK_THROWS_WITH(measured(folder, "fit:ball,none.csv", 2), Catch::Contains("none.csv"));
  CHECK_THROWS_WITH(read_track("time,x\n0,1\n0,2\n", "a.csv"), Catch::Contains("a.csv:3"));
  CHECK_THROWS_WITH(read_track("x,y\n0,1\n", "a.csv"), Catch::Contains("time"));
  CHECK_THROWS_WITH(read_track("time,x\n0,zwei\n", "a.csv"), Catch::Contains("a.csv:2"));
  std::filesystem::remove_all(path);
}

TEST_CASE("a call that is no measure says what and where") {
  const SceneFolder folder = full_scene("");
  const auto fault = [&](const std::string& text) -> std::string {
    try {
      measure_called(text, folder.scene);
    } catch (const Error& e) {
      return e.what();
    }
    return "none";
  };
  using Catch::Contains;
  CHECK_THAT(fault("apx:ball"), Contains("apx:ball") && Contains("perhaps apex"));
  CHECK_THAT(fault("apex:bal"), Contains("\"bal\"") && Contains("perhaps ball"));
  CHECK_THAT(fault("apex"), Contains("wants a body") && Contains("apex:body"));
  CHECK_THAT(fault("apex:ball,ball"), Contains("no more than"));
  CHECK_THAT(fault("at:ball.position,1"), Contains("several numbers"));
  CHECK_THAT(fault("at:ball.height,soon"), Contains("wants a number"));
  CHECK_THAT(fault("at:ball.hight,1"), Contains("no quantity"));
  CHECK_THAT(fault("touches:ball@3..1"), Contains("empty stretch"));
  CHECK_THAT(fault("touches:ball@3"), Contains("@1..3"));
  CHECK_THAT(fault("touch_time:ball,,0"), Contains("whole number"));
  CHECK_THAT(fault("enter_time:ball,drought"), Contains("perhaps draught"));
  CHECK_THAT(fault(""), Contains("no measure"));
  CHECK(measure_words(measure_called("touch_time:ball,stone,2@0..3", folder.scene)) ==
        "touch time of ball with stone, 2, 0..3 s");
}

TEST_CASE("every measure of the list can be asked for and played") {
  const SceneFolder folder = full_scene("");
  std::set<std::string> names;
  for (const MeasureKind& kind : measure_kinds()) {
    CAPTURE(kind.name);
    CHECK(names.insert(kind.name).second);
    if (std::string(kind.name) == "fit") continue;  // wants a file
    std::string text = kind.name + std::string(":"), arguments = kind.arguments;
    const auto replace = [&](const std::string& what, const std::string& by) {
      for (auto at = arguments.find(what); at != std::string::npos; at = arguments.find(what))
        arguments.replace(at, what.size(), by);
    };
    replace("body?", "stone"), replace("channel", "ball.height"), replace("zone", "draught"), replace("path?", "ferry");
    replace("cause?", "hit"), replace("count?", "1"), replace("number?", "1"), replace("number", "1");
    replace("name", "n"), replace("thing", "cord"), replace("body", "ball"), replace(" ", "");
    CHECK_NOTHROW(measured(folder, text + arguments, 0.5));
  }
}
