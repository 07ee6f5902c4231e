// Checks: kept with the scene, played, and told as a build server reads them.
#include <catch2/catch.hpp>
#include <filesystem>

#include "folders.h"
#include "geometry/base/error.h"
#include "lab/measured.h"
#include "lab/measures/checks.h"
#include "scene/files/read.h"
#include "scene/files/write.h"

using namespace bronvel;

namespace {

Wish wish(const std::string& measure, Wish::Is is, double value = 0) {
  Wish one;
  one.measure = measure;
  one.is = is;
  one.value = value;
  one.seconds = 2;
  return one;
}

}  // namespace

TEST_CASE("a wish is met as it says") {
  const double none = std::numeric_limits<double>::quiet_NaN();
  CHECK(met(wish("m", Wish::Is::equal, 3), 3.02));
  CHECK_FALSE(met(wish("m", Wish::Is::equal, 3), 3.04));
  Wish close = wish("m", Wish::Is::equal, 3);
  close.within = 0.001;
  CHECK_FALSE(met(close, 3.02));
  CHECK(met(wish("m", Wish::Is::at_most, 3), 3));
  CHECK_FALSE(met(wish("m", Wish::Is::at_most, 3), 3.0001));
  CHECK(met(wish("m", Wish::Is::at_least, 3), 3));
  CHECK(met(wish("m", Wish::Is::never), none));
  for (const Wish::Is is : {Wish::Is::equal, Wish::Is::at_most, Wish::Is::at_least})
    CHECK_FALSE(met(wish("m", is), none));
  CHECK_FALSE(met(wish("m", Wish::Is::never), 1.2));
}

TEST_CASE("checks are kept in scene.json, and a wrong one is said with its place") {
  Scene scene = thrown({0, 5, 0}).scene;
  Wish all = wish("apex:ball", Wish::Is::equal, 1.27);
  all.within = 0.01;
  all.seeds = 3;
  all.rates = {30, 60};
  all.inputs = "keys.jsonl";
  scene.checks = {all, wish("touch_time:ball", Wish::Is::never), wish("apex:ball", Wish::Is::at_least, 1)};
  const Scene again = read_scene(write_scene(scene), "scene.json");
  CHECK(again.checks == scene.checks);
  const auto broken = [&](const std::string& check) {
    return "{\"bronvel\": 1, \"bodies\": [], \"checks\": [" + check + "]}";
  };
  using Catch::Contains;
  CHECK_THROWS_WITH(read_scene(broken(R"({"measure": "apex:ball"})"), "s"), Contains("one of equals"));
  CHECK_THROWS_WITH(read_scene(broken(R"({"measure": "a:b", "at_most": 1, "never": true})"), "s"), Contains("one of"));
  CHECK_THROWS_WITH(read_scene(broken(R"({"measure": "a:b", "at_most": "1"})"), "s"), Contains("at_most"));
  CHECK_THROWS_WITH(read_scene(broken(R"({"at_most": 1})"), "s"), Contains("names no measure"));
  CHECK_THROWS_WITH(read_scene(broken(R"({"measure": "a:b", "at_most": 1, "rates": [0]})"), "s"),
                    Contains("10,000 Hz"));
  CHECK_THROWS_WITH(read_scene(broken(R"({"measure": "a:b", "at_most": 1, "seeds": 0})"), "s"), Contains("seeds"));
  CHECK_THROWS_WITH(read_scene(broken(R"({"measure": "a:b", "at_most": 1, "inputs": "../k"})"), "s"),
                    Contains("in the scene's folder"));
}

TEST_CASE("a wish follows the names of what it measures") {
  std::vector<Wish> wishes{wish("apex:ball", Wish::Is::never), wish("at:ball.height,2@1..3", Wish::Is::never),
                           wish("touches:float,ball@1..2", Wish::Is::never), wish("apex:ball_2", Wish::Is::never)};
  rename_in_wishes(wishes, "ball", "cork");
  CHECK(wishes[0].measure == "apex:cork");
  CHECK(wishes[1].measure == "at:cork.height,2@1..3");
  CHECK(wishes[2].measure == "touches:float,cork@1..2");
  CHECK(wishes[3].measure == "apex:ball_2");
}

TEST_CASE("checks pass, fail by how much, and say what can't be played") {
  SceneFolder folder = thrown({0, 5, 0});
  folder.scene.checks = {wish("apex:ball", Wish::Is::equal, 25 / (2 * g)), wish("apex:ball", Wish::Is::at_most, 1),
                         wish("apex:boll", Wish::Is::at_most, 1)};
  folder.scene.checks[0].rates = {30, 60, 120};
  folder.scene.checks[0].seeds = 2;
  const std::vector<CheckAnswer> answers = run_checks(folder, folder.scene.checks, 2);
  REQUIRE(answers.size() == 3);
  CHECK(answers[0].passed());
  CHECK(answers[0].plays.size() == 6);
  CHECK_FALSE(answers[1].passed());
  CHECK(answers[1].text() == "apex of ball is 1.2742 m, wanted ≤ 1 m");
  CHECK_THAT(answers[2].text(), Catch::Contains("boll"));
  // The take of a failure is what was played.
  const Question question = question_of(folder, answers[1].wish, *answers[1].worst());
  CHECK(question.ticks == 120);
  CHECK(ask(question)->with([](const Take& take) { return take.ticks; }) == 121);

  const std::vector<std::pair<std::string, std::vector<CheckAnswer>>> scenes{{"a <b> & \"c\"", answers}};
  const std::string xml = junit_of(scenes);
  CHECK_THAT(xml, Catch::Contains("tests=\"3\" failures=\"2\"") && Catch::Contains("a &lt;b&gt; &amp; &quot;c&quot;"));
}

TEST_CASE("what a script expects and does not find fails a check") {
  SceneFolder folder = thrown({0, 5, 0});
  folder.scene.bodies[0].scripts = {{"act.lua", {}}};
  folder.scripts["act.lua"] = "function on.tick() expect(body.position.y < 1, 'it stays below a metre') end";
  folder.scene.checks = {wish("apex:ball", Wish::Is::at_least, 1)};
  const std::vector<CheckAnswer> answers = run_checks(folder, folder.scene.checks, 1);
  CHECK_FALSE(answers[0].passed());
  CHECK_THAT(answers[0].text(), Catch::Contains("act.lua:1: expected it stays below a metre"));
  Play play(folder, 1);
  run(play, 60);
  CHECK(play.scripts().unmet().size() == 1);  // said once
  CHECK_FALSE(play.any_error());
}

TEST_CASE("every example has a check, and passes it", "[long]") {
  for (const auto& entry : std::filesystem::directory_iterator(in_checkout("/examples"))) {
    if (!std::filesystem::exists(entry.path() / "scene.json")) continue;
    const SceneFolder folder = open_folder(entry.path());
    CAPTURE(folder.scene.name);
    CHECK_FALSE(folder.scene.checks.empty());
    for (const CheckAnswer& answer : run_checks(folder, folder.scene.checks, 2)) {
      INFO(answer.text());
      CHECK(answer.passed());
    }
  }
}
