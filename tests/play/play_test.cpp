// Plays, their takes, and playing in real time.
#include <atomic>
#include <catch2/catch.hpp>
#include <thread>

#include "geometry/error.h"
#include "lab/channel.h"
#include "lab/take.h"
#include "play/runner.h"

using namespace bronvel;

namespace {

SceneFolder demo() {
  return open_folder(std::string(BRONVEL_TOP) + "/examples/skerrow-quay");
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

TEST_CASE("the demo gives the same bits for the same seed and others for another") {
  const auto digest = [](std::uint64_t seed) {
    Play play(demo(), seed);
    for (int i = 0; i < 400; ++i) play.step();
    return play.running().world.digest();
  };
  CHECK(digest(7) == digest(7));
  CHECK(digest(7) != digest(8));
}

TEST_CASE("what was changed in play can be kept in the document, one by one") {
  const SceneFolder folder = demo();
  Play play(folder, 7);
  play.set("fender", "mass", 12.0);
  play.set("fender", "restitution", 0.5);
  play.set("net_float", "mass", 1.4);  // as it was
  play.set_dial("fender", "nudge.lua", "push", 8);
  const auto changes = play.changes();
  REQUIRE(changes.size() == 3);
  Scene scene = folder.scene;
  keep_change(scene, changes[0]);
  keep_change(scene, changes[2]);
  CHECK(scene.find("fender")->mass == 12);
  CHECK_FALSE(scene.find("fender")->restitution);
  CHECK(scene.find("fender")->scripts[0].dials.at("push") == 8);
  CHECK_THROWS_AS(play.set("nobody", "mass", 1.0), Error);
  CHECK_THROWS_AS(play.set("fender", "colour", 1.0), Error);
}

TEST_CASE("a take holds every tick of what moved, and the events") {
  Play play(demo(), 7);
  Take take(play);
  for (int i = 0; i < 120; ++i) {
    play.step();
    take.record(play);
  }
  CHECK(take.ticks() == 121);
  CHECK(take.at("fender", 0)->position[1] == Approx(3.32));
  const Vec3 now = play.running().world.motion(*play.running().find("fender")).pose.position;
  CHECK(take.at("fender", 120)->position[1] == now.y());
  CHECK(take.at("quay", 50)->position[1] == Approx(0.5));
  CHECK(take.at("nobody", 0) == nullptr);
  bool hit = false;
  for (const PlayEvent& e : take.events())
    hit = hit || (e.phase == ContactPhase::touch && e.b == "fender" && e.speed > 6);
  CHECK(hit);
}

TEST_CASE("channels are named after body, quantity and component") {
  const SceneFolder folder = demo();
  const Play play(folder, 7);
  const auto channels = channels_called("fender.position,fender.speed,quay.position.y", folder.scene);
  REQUIRE(channels.size() == 3);
  CHECK(channels[0].columns == std::vector<std::string>{"fender.position.x", "fender.position.y", "fender.position.z"});
  CHECK(channels[1].columns == std::vector<std::string>{"fender.speed"});
  CHECK(read_channel(channels[2], play) == std::vector<double>{0.5});
  CHECK_THROWS_AS(channel_called("nobody.position", folder.scene), Error);
  CHECK_THROWS_AS(channel_called("fender.smell", folder.scene), Error);
  CHECK_THROWS_AS(channel_called("fender.position.w", folder.scene), Error);
}

TEST_CASE("the runner keeps the clock's time, whatever the speed") {
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

TEST_CASE("the play can be asked and changed from another thread at any time") {
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
