// Playing in real time, on a thread of its own.
#include "play/run/runner.h"

#include <atomic>
#include <catch2/catch.hpp>
#include <condition_variable>
#include <mutex>
#include <stdexcept>
#include <thread>

#include "play/demo.h"
#include "play/run/thread_choice.h"

using namespace bronvel;

namespace {

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
    runner.with([&](Play& play) { play.set(body_place("fender", "mass"), 5.0 + i); });
    const double mass = runner.with([](Play& play) {
      return std::get<double>(play.running().value(*play.running().find("fender"), *find_property("mass")));
    });
    REQUIRE(mass == 5.0 + i);
  }
}

namespace {

// A tick that lasts until it is let go.
struct LongTick {
  std::mutex mutex;
  std::condition_variable changed;
  bool holding = true, inside = false;

  void run() {
    std::unique_lock<std::mutex> lock(mutex);
    inside = true;
    changed.notify_all();
    changed.wait(lock, [this] { return !holding; });
  }
  void wait_for_it() {
    std::unique_lock<std::mutex> lock(mutex);
    changed.wait(lock, [this] { return inside; });
  }
  void let_go() {
    const std::lock_guard<std::mutex> lock(mutex);
    holding = false;
    changed.notify_all();
  }
};

}  // namespace

TEST_CASE("nobody waits for a tick that takes long: pause, speed, step and giving up answer at once", "[threads]") {
  const auto tick = std::make_shared<LongTick>();
  {
    Runner runner(std::make_unique<Play>(demo(), 7), steady_clock(), [tick](Play&) { tick->run(); });
    runner.go();
    tick->wait_for_it();
    CHECK(runner.in_tick() >= 0);
    runner.pause();
    runner.set_speed(2);
    CHECK_FALSE(runner.going());
    CHECK_FALSE(runner.try_with(0, [](Play&) { FAIL("the tick still runs"); }));
    CHECK_FALSE(runner.step(0.01));
  }
  // The runner is gone; its thread ends when the tick does, and is counted until then.
  CHECK(Runner::any_given_up());
  tick->let_go();
  CHECK(eventually([] { return !Runner::any_given_up(); }));
}

TEST_CASE("after a long tick the play is there for who wanted it, and goes on", "[threads]") {
  const auto tick = std::make_shared<LongTick>();
  Runner runner(std::make_unique<Play>(demo(), 7), steady_clock(), [tick](Play&) { tick->run(); });
  runner.go();
  tick->wait_for_it();
  CHECK_FALSE(runner.try_with(0, [](Play&) {}));
  tick->let_go();
  std::int64_t seen = 0;
  CHECK(eventually([&] { return runner.try_with(0, [&](Play& play) { seen = play.tick(); }); }));
  CHECK(seen >= 1);
  CHECK(eventually([&] { return runner.with([](Play& play) { return play.tick(); }) > seen; }));
}

TEST_CASE("what a tick throws ends the play, not the program, and is told", "[threads]") {
  Runner runner(std::make_unique<Play>(demo(), 7), steady_clock(), [](Play& play) {
    if (play.tick() == 3) throw std::runtime_error("the third is cursed");
  });
  runner.go();
  REQUIRE(eventually([&] { return runner.fault().has_value(); }));
  CHECK(*runner.fault() == "tick 3 could not be played: the third is cursed");
  CHECK_FALSE(runner.going());
  CHECK(runner.with([](Play& play) { return play.tick(); }) == 3);
  runner.go();
  CHECK_FALSE(runner.going());
  CHECK(runner.step());  // and does not wait for ever
}

TEST_CASE("long ticks are played by all threads, short ones by one, and one long tick changes nothing") {
  ThreadChoice choice(4);
  CHECK(choice.threads() == 1);
  for (int i = 0; i < 100; ++i) CHECK(choice.after_tick(2e-4) == 1);
  CHECK(choice.after_tick(8e-3) == 1);
  for (int i = 0; i < 100; ++i) choice.after_tick(2e-4);
  for (int i = 0; i < 100; ++i) choice.after_tick(5e-3);
  CHECK(choice.threads() == 4);
  // Between the two it stays as it is.
  for (int i = 0; i < 100; ++i) choice.after_tick(1e-3);
  CHECK(choice.threads() == 4);
  for (int i = 0; i < 100; ++i) choice.after_tick(2e-4);
  CHECK(choice.threads() == 1);
}
