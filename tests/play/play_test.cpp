// Plays and their takes.
#include "play/run/play.h"

#include <catch2/catch.hpp>

#include "allocations.h"
#include "geometry/base/error.h"
#include "lab/readings/channel.h"
#include "lab/takes/take_reader.h"
#include "play/demo.h"

using namespace bronvel;

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
  play.set(body_place("fender", "mass"), 12.0);
  play.set(body_place("fender", "restitution"), 0.5);
  play.set(body_place("net_float", "mass"), 1.4);  // as it was
  play.set(dial_place("fender", "nudge.lua", "push"), 8.0);
  const auto changes = play.changes();
  REQUIRE(changes.size() == 3);
  Scene scene = folder.scene;
  set_value_at(scene, changes[0].place, changes[0].after);
  set_value_at(scene, changes[2].place, changes[2].after);
  CHECK(scene.find("fender")->mass == 12);
  CHECK_FALSE(scene.find("fender")->restitution);
  CHECK(scene.find("fender")->scripts[0].dials.at("push") == DialValue(8.0));
  CHECK_THROWS_AS(play.set(body_place("nobody", "mass"), 1.0), Error);
  CHECK_THROWS_AS(play.set(body_place("fender", "colour"), 1.0), Error);
}

TEST_CASE("a take holds every tick of what moved, and the events") {
  Play play(demo(), 7);
  TakeRecorder recorder(demo(), play);
  for (int i = 0; i < 120; ++i) {
    play.step();
    recorder.record(play, play.take_log());
  }
  const Take& take = recorder.take();
  TakeReader reader;
  CHECK(take.ticks == 121);
  CHECK(reader.body(take, "fender", 0)->pose.position.y() == Approx(3.32));
  const Vec3 now = play.running().world.motion(*play.running().find("fender")).pose.position;
  CHECK((reader.body(take, "fender", 120)->pose.position - now).norm() < 1e-6);
  CHECK(reader.body(take, "quay", 50)->pose.position.y() == Approx(0.5));
  CHECK_FALSE(reader.body(take, "nobody", 0));
  bool hit = false;
  for (const PlayEvent& e : take.events)
    hit = hit || (e.phase == ContactPhase::touch && e.b == "fender" && e.speed > 6);
  CHECK(hit);
}

TEST_CASE("channels are named after body, quantity and component") {
  const SceneFolder folder = demo();
  const Play play(folder, 7);
  const auto channels =
      channels_called("fender.position,fender.speed,quay.position.y", ChannelOwners::of(folder.scene));
  REQUIRE(channels.size() == 3);
  CHECK(channels[0].columns == std::vector<std::string>{"fender.position.x", "fender.position.y", "fender.position.z"});
  CHECK(channels[1].columns == std::vector<std::string>{"fender.speed"});
  CHECK(read_channel(channels[2], play) == std::vector<double>{0.5});
  CHECK_THROWS_AS(channel_called("nobody.position", ChannelOwners::of(folder.scene)), Error);
  CHECK_THROWS_AS(channel_called("fender.smell", ChannelOwners::of(folder.scene)), Error);
  CHECK_THROWS_AS(channel_called("fender.position.w", ChannelOwners::of(folder.scene)), Error);
}

TEST_CASE("what merely lies there takes no memory from the heap in a tick, however many contacts it has") {
  SceneFolder folder;
  Body floor;
  floor.name = "floor";
  floor.kind = MotionKind::fixed;
  floor.shape = Box{{20, 1, 20}};
  floor.position = {0, -0.5, 0};
  folder.scene.bodies.push_back(floor);
  for (int i = 0; i < 100; ++i) {
    Body crate;
    crate.name = "crate_" + std::to_string(i);
    crate.shape = Box{{0.5, 0.5, 0.5}};
    crate.position = {0.6 * (i % 10) - 3, 0.25, 0.6 * (i / 10) - 3};
    crate.may_sleep = false;
    folder.scene.bodies.push_back(crate);
  }
  Play play(folder, 1);
  for (int i = 0; i < 60; ++i) play.step();
  REQUIRE(play.running().world.contacts().size() == 100);
  const long before = allocations();
  for (int i = 0; i < 30; ++i) play.step();
  CHECK(allocations() - before <= 30);
}
