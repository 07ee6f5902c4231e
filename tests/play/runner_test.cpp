// Playing in real time, on a thread of its own.
#include "play/runner.h"

#include <atomic>
#include <catch2/catch.hpp>
#include <thread>

using namespace bronvel;

namespace {

SceneFolder demo() {
  return open_folder(BRONVEL_TOP "/examples/skerrow-quay");
}

// Waits for what another thread must do; the time is only a stop for a hang.
template <class Condition>
bool eventually(Condition&& condition) {
  for (int i = 0; i < 60000; ++i) {
    if (condition()) return true;
    std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }
  return false;
}

}  // namespace

TEST_CASE("the runner keeps the clock's time, whatever the speed", "[threads]") {
  std::atomic<double> now{0};
  std::atomic<int> seen{0};
  Runner runner(
      std::make_unique<Play>(demo(), 7), [&] { return now.load(); }, [&](Play&) { ++seen; });
  runner.go();
  const auto tick = [&] { return runner.with([](Play& play) { return play.tick(); }); };
  for (int i = 1; i <= 10; ++i) {
    now = 0.1 * i + 1e-9;
    REQUIRE(eventually([&] { return tick() == 12 * i; }));
  }
  CHECK(seen == 120);
  CHECK(runner.behind() == 0);
  runner.pause();
  now = 5;
  runner.step();
  CHECK(tick() == 121);
  runner.set_speed(0.5);
  runner.go();
  now = 5.2 + 1e-9;
  REQUIRE(eventually([&] { return tick() == 121 + 12; }));
}

TEST_CASE("time that can't be caught up is given up and said") {
  std::atomic<double> now{0};
  Runner runner(
      std::make_unique<Play>(demo(), 7), [&] { return now.load(); }, [](Play&) {});
  runner.go();
  now = 10;
  const auto tick = [&] { return runner.with([](Play& play) { return play.tick(); }); };
  REQUIRE(eventually([&] { return tick() >= 30; }));
  REQUIRE(eventually([&] { return runner.behind() > 5; }));
  CHECK(tick() < 120);
}

TEST_CASE("the play can be asked and changed from another thread at any time", "[threads]") {
  Runner runner(std::make_unique<Play>(demo(), 7), steady_clock(), [](Play&) {});
  runner.set_speed(2);
  runner.go();
  for (int i = 0; i < 200; ++i) {
    runner.with([&](Play& play) { play.set("fender", "mass", 5.0 + i); });
    const double mass = runner.with([](Play& play) {
      return std::get<double>(play.running().value(*play.running().find("fender"), *find_property("mass")));
    });
    REQUIRE(mass == 5.0 + i);
  }
}
