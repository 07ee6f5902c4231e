// Sweeps: the same rows for any number of threads and shares, and what goes wrong is one row.
#include "lab/measures/sweep.h"

#include <catch2/catch.hpp>
#include <filesystem>
#include <mutex>

#include "geometry/base/error.h"
#include "lab/measured.h"
#include "lab/measures/sweep_table.h"

using namespace bronvel;

namespace {

Sweep hops(int count, int seeds = 1) {
  Sweep sweep;
  SceneFolder folder = thrown_over(-0.1, {0, 0, 0}, 0.5);
  folder.scene.bodies[0].scripts = {{"hop.lua", {}}};
  folder.scripts["hop.lua"] =
      "dials { push = { 3, from = 0, to = 9 } }\n"
      "function on.play() body:impulse(vec(0, body.mass * (push_of() ), 0)) end\n"
      "function push_of() return dials.push + random() end";
  sweep.study = Study::of(folder, 1);
  sweep.varied = {{"ball.dials.push", even_values(1, 5, count)}};
  sweep.seeds = seeds;
  sweep.measures = {measure_called("apex:ball", folder.scene), measure_called("touch_time:ball", folder.scene)};
  return sweep;
}

SweepTable played(const Sweep& sweep, int jobs, std::size_t share = 0, std::size_t shares = 1) {
  SweepTable table = table_of(sweep);
  std::vector<std::size_t> plays = coarse_first(sweep);
  std::erase_if(plays, [&](std::size_t play) { return play % shares != share; });
  run_sweep(sweep, plays, jobs, [&](std::size_t play, TrialAnswer&& answer) {
    table.rows[play] = {answer.values, answer.fault};
  });
  return table;
}

}  // namespace

TEST_CASE("a sweep gives the same bytes by one thread, by four, and in shares") {
  const Sweep sweep = hops(9, 3);
  REQUIRE(plays_of(sweep) == 27);
  const std::string one = csv_of(played(sweep, 1));
  CHECK(std::count(one.begin(), one.end(), '\n') == 28);
  CHECK(csv_of(played(sweep, 4)) == one);
  std::vector<std::pair<std::string, std::string>> shares;
  for (const std::size_t k : {2, 0, 1})
    shares.emplace_back("share " + std::to_string(k), share_text(played(sweep, 2, k, 3), k + 1, 3));
  CHECK(csv_of(gathered(shares)) == one);
  // Twice the same share is no harm; what is missing, cut short, changed or of another sweep is said.
  auto more = shares;
  more.push_back(shares[0]);
  CHECK(csv_of(gathered(more)) == one);
  auto fewer = shares;
  fewer.pop_back();
  CHECK_THROWS_WITH(gathered(fewer), Catch::Contains("none numbered 2"));
  auto cut = shares;
  cut[0].second.resize(cut[0].second.size() - 20);
  CHECK_THROWS_WITH(gathered(cut), Catch::Contains("share 2"));
  auto changed = shares;
  changed.push_back(shares[0]);
  changed.back().second.replace(changed.back().second.find("\"values\":[") + 10, 1, "9");
  CHECK_THROWS_WITH(gathered(changed), Catch::Contains("twice, with other numbers"));
  auto other = shares;
  other.emplace_back("other", share_text(played(hops(8, 3), 1), 1, 3));
  CHECK_THROWS_WITH(gathered(other), Catch::Contains("another sweep"));
}

TEST_CASE("a hop's apex is the square of its speed, for every value of the dial") {
  Sweep sweep = hops(5);
  sweep.study.folder.scripts["hop.lua"] =
      "dials { push = { 3, from = 0, to = 9 } }\n"
      "function on.play() body:impulse(vec(0, body.mass * dials.push, 0)) end";
  const SweepTable table = played(sweep, 2);
  for (std::size_t i = 0; i < 5; ++i) {
    const double speed = table.points[i][0];
    CHECK(table.rows.at(i).values[0] == Approx(speed * speed / (2 * g)).epsilon(1e-6));
  }
}

TEST_CASE("a play whose script fails or never ends is one red row") {
  Sweep sweep = hops(4);
  sweep.study.folder.scripts["hop.lua"] =
      "dials { push = { 3, from = 0, to = 9 } }\n"
      "function on.play() if dials.push > 4 then while true do end end if dials.push < 2 then error('small') end end";
  const SweepTable table = played(sweep, 2);
  CHECK_THAT(table.rows.at(0).fault, Catch::Contains("small"));
  CHECK(table.rows.at(1).fault.empty());
  CHECK(table.rows.at(2).fault.empty());
  CHECK_FALSE(table.rows.at(3).fault.empty());
}

TEST_CASE("two things are varied together, and a sweep stops when it is told to") {
  Sweep sweep = hops(4);
  sweep.varied.push_back({"ball.mass", {1, 2, 4}});
  CHECK(plays_of(sweep) == 12);
  const std::vector<std::size_t> order = coarse_first(sweep);
  CHECK(std::set<std::size_t>(order.begin(), order.end()).size() == 12);
  CHECK(point_of(sweep, 5).values == std::vector<double>{even_values(1, 5, 4)[1], 4});
  std::atomic<bool> stop = false;
  std::size_t told = 0;
  run_sweep(
      sweep, order, 1,
      [&](std::size_t, TrialAnswer&&) {
        ++told;
        stop = told == 3;
      },
      &stop);
  CHECK(told == 3);
}

TEST_CASE("what can't be swept says why") {
  using Catch::Contains;
  CHECK_THROWS_WITH(varied_from_text("ball.mass"), Contains("ball.dials.push=1:20:40"));
  CHECK_THROWS_WITH(varied_from_text("ball.mass=1:1:4"), Contains("empty range"));
  CHECK_THROWS_WITH(varied_from_text("ball.mass=1:nan:4"), Contains("a number"));
  CHECK_THROWS_WITH(varied_from_text("ball.mass=0:5:4:ratio"), Contains("by ratio"));
  CHECK_THROWS_WITH(varied_from_text("ball.mass=1:5:2.5"), Contains("whole number"));
  CHECK(varied_from_text("a.mass=1:100:3:ratio").values == std::vector<double>{1, 10, 100});
  CHECK(varied_from_text("a.mass=1,2.5").values == std::vector<double>{1, 2.5});
  Sweep sweep = hops(4);
  sweep.varied[0].name = "boll.mass";
  CHECK_THROWS_WITH(check(sweep), Contains("boll"));
  sweep.varied = {{"ball.mass", {1, -1}}};
  CHECK_THROWS_WITH(check(sweep), Contains("mass"));
  sweep.varied = {{"b*.mass", {1, 2}}};
  CHECK_NOTHROW(check(sweep));
  sweep.varied = {{"x*.mass", {1, 2}}};
  CHECK_THROWS_WITH(check(sweep), Contains("no body"));
}

TEST_CASE("inputs come at their seconds at every tick rate") {
  SceneFolder folder = full_scene("function on.press() body:impulse(vec(0, 40, 0)) end");
  Study study = Study::of(folder, 2);
  Input input = press("haul", 1);
  input.tick = 120;  // 1.2 s
  study.inputs = {input};
  const Measure apex = measure_called("apex:ball@1..2", folder.scene);
  const auto at = [&](const std::string& rate) {
    const TrialSetting setting{"world.tick_rate", rate};
    return try_out(question_of(study, std::span(&setting, 1)), std::span(&apex, 1)).values[0];
  };
  CHECK(at("50") == Approx(at("100")).epsilon(0.01));
  CHECK(at("50") > 2);
}

TEST_CASE("a sweep's table goes into SQLite whole or not at all") {
  const auto file = (std::filesystem::temp_directory_path() / "bronvel-sweep.sqlite").string();
  std::filesystem::remove(file);
  write_sqlite(played(hops(3), 1), file);
  CHECK(std::filesystem::file_size(file) > 1000);
  std::filesystem::remove(file);
  CHECK_THROWS_WITH(write_sqlite(played(hops(3), 1), "/nowhere/at/all.sqlite"), Catch::Contains("can't be written"));
}

TEST_CASE("the spread of values leaves out what never came about") {
  const double none = std::numeric_limits<double>::quiet_NaN();
  const Spread spread = spread_of({4, none, 1, 2, 3, 5});
  CHECK(spread.count == 5);
  CHECK(spread.least == 1);
  CHECK(spread.low == 2);
  CHECK(spread.middle == 3);
  CHECK(spread.high == 4);
  CHECK(spread.greatest == 5);
  CHECK(spread_of({none}).count == 0);
}
