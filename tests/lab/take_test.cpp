// What takes record: of every body, from the tick at which it came to that at which it went.
#include <catch2/catch.hpp>
#include <cmath>
#include <filesystem>

#include "lab/ask/ask.h"
#include "lab/takes/take_file.h"
#include "lab/takes/take_reader.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

// Plays and records so many ticks.
Take recorded(const SceneFolder& folder, Play& play, int ticks) {
  TakeRecorder recorder(folder, play);
  for (int i = 0; i < ticks; ++i) {
    play.step();
    recorder.record(play, play.take_log());
  }
  return recorder.take();
}

double height(const Take& take, const std::string& body, int tick) {
  TakeReader reader;
  const auto found = reader.body(take, body, tick);
  return found ? found->pose.position.y() : std::nan("");
}

bool there(const Take& take, const std::string& body, int tick) {
  TakeReader reader;
  return reader.body(take, body, tick).has_value();
}

}  // namespace

TEST_CASE("a body that stands still and is set free later has a sample for every tick") {
  SceneFolder folder =
      full_scene("function on.tick() if scene.tick == 20 then scene:find('shelf').kind = 'dynamic' end end");
  Body shelf = ball_at("shelf", {10, 9, 0});
  shelf.kind = MotionKind::fixed;
  folder.scene.bodies.push_back(shelf);
  Play play(folder, 1);
  const Take take = recorded(folder, play, 40);
  CHECK(height(take, "shelf", 0) == 9);
  CHECK(height(take, "shelf", 10) == 9);
  CHECK(height(take, "shelf", 20) == 9);
  CHECK(height(take, "shelf", 30) < 8.97);
  CHECK(height(take, "shelf", 40) < height(take, "shelf", 30));
  TakeReader reader;
  CHECK(reader.settings(take, "shelf", 20)->kind == MotionKind::fixed);
  CHECK(reader.settings(take, "shelf", 21)->kind == MotionKind::dynamic);
}

TEST_CASE("a fixed body that a script places elsewhere is recorded where it is") {
  const SceneFolder folder =
      full_scene("function on.tick() if scene.tick == 5 then scene:find('ground'):place(vec(0, -3, 0)) end end");
  Play play(folder, 1);
  const Take take = recorded(folder, play, 10);
  CHECK(height(take, "ground", 4) == -0.5);
  CHECK(height(take, "ground", 9) == -3);
}

TEST_CASE("copies are recorded from when they came, removed bodies until they went") {
  const SceneFolder folder = full_scene(
      "function on.tick()\n"
      "  if scene.tick == 10 then scene:stamp(scene:find('stone'), {position = vec(3, 8, 0), scripts = false}) end\n"
      "  if scene.tick == 30 then scene:find('stone'):remove() end\n"
      "end");
  Play play(folder, 1);
  const Take take = recorded(folder, play, 60);
  const std::string copy = play.running().scene.bodies.back().name;
  REQUIRE(take.body_of.contains(copy));
  CHECK_FALSE(there(take, copy, 5));
  CHECK(height(take, copy, 12) == Approx(8).margin(0.1));
  CHECK(height(take, copy, 60) < 7);
  CHECK(there(take, "stone", 29));
  CHECK_FALSE(there(take, "stone", 40));
  CHECK_FALSE(there(take, "nobody", 0));
  CHECK_FALSE(there(take, copy, 61));
  TakeReader reader;
  CHECK(reader.frame(take, 5).bodies.size() == 3);
  CHECK(reader.frame(take, 12).bodies.size() == 4);
  CHECK(reader.frame(take, 40).bodies.size() == 3);
}

TEST_CASE("what a take shows is what the play had, tick by tick") {
  const SceneFolder folder = full_scene("function on.tick() body:force(vec(20 * random(-1, 1), 0, 9)) end");
  Play first(folder, 3);
  const Take take = recorded(folder, first, 200);
  TakeReader reader;
  Play second(folder, 3);
  for (int tick = 0; tick <= 200; ++tick) {
    const BodyMotion now = motion(second, "ball");
    const auto then = reader.body(take, "ball", tick);
    REQUIRE(then);
    CHECK((then->pose.position - now.pose.position).norm() < 1e-6);
    CHECK((then->velocity - now.velocity).norm() < 2e-6);
    second.step();
  }
}

TEST_CASE("joints, zones, dials, watched numbers, drawings and the log are in a take") {
  SceneFolder folder = full_scene(
      "dials { push = { 1 } }\n"
      "function on.tick()\n"
      "  if scene.tick % 2 == 0 then watch('twice', 2 * scene.tick) end\n"
      "  if scene.tick == 20 then scene:zone('basin').level = -0.25 end\n"
      "  if scene.tick == 30 then puff(body.position) print('thirty') end\n"
      "  if scene.tick == 31 then arrow(body.position, vec(0, 1, 0), 'up') end\n"
      "end");
  Play play(folder, 1);
  TakeRecorder recorder(folder, play);
  for (int i = 0; i < 60; ++i) {
    if (i == 40) play.set(dial_place("ball", "act.lua", "push"), 7.0);
    play.step();
    recorder.record(play, play.take_log());
  }
  INFO(errors(play));
  const Take& take = recorder.take();
  TakeReader reader;
  const auto read = [&](const std::string& name, int tick) {
    return reader.number(take, channel_called(name, take.owners()), 0, tick);
  };
  CHECK(read("cord.reaction", 60) >= 0);
  CHECK(read("cord.travel", 60) == Approx(2.5).margin(0.01));
  CHECK(read("ball.dials.push", 39) == 1);
  CHECK(read("ball.dials.push", 50) == 7);
  CHECK(read("ball.dials.act.lua/push", 50) == 7);
  CHECK(read("ball.watch.twice", 31) == 60);  // told before the world's step that ends with tick 31
  CHECK(std::isnan(read("ball.watch.twice", 32)));
  CHECK(std::isnan(read("ball.watch.never", 31)));
  CHECK(read("ball.energy", 0) == Approx(2 * 9.81 * 2.5));
  CHECK_THROWS_WITH(read("ball.smell", 0), Catch::Contains("known:"));
  const auto level = [&](int tick) { return reader.frame(take, tick).zones.at(1).level; };
  CHECK_FALSE(level(15));
  CHECK(level(25).value_or(0) == -0.25);
  CHECK(reader.frame(take, 31).passing.size() == 1);
  CHECK(reader.frame(take, 60).passing.at(0).age == Approx(0.29));
  CHECK(reader.frame(take, 32).drawn.at(0).text == "up");
  CHECK(reader.frame(take, 33).drawn.empty());
  REQUIRE(take.log.size() == 1);
  CHECK(take.log[0].text == "thirty");
  CHECK(reader.frame(take, 10).joints.size() == 1);
}

TEST_CASE("a body's properties are numbers of a take too") {
  const SceneFolder folder = full_scene(
      "function on.tick()\n"
      "  if scene.tick == 10 then body.mass = 7 body.linear_damping = 0.5 end\n"
      "end");
  Play play(folder, 1);
  const Take take = recorded(folder, play, 30);
  TakeReader reader;
  const auto read = [&](const std::string& name, int tick) {
    return reader.number(take, channel_called(name, take.owners()), 0, tick);
  };
  CHECK(read("ball.mass", 5) == 2);
  CHECK(read("ball.mass", 20) == 7);
  CHECK(read("ball.linear_damping", 5) == 0);
  CHECK(read("ball.linear_damping", 20) == 0.5);
  CHECK(read("ball.restitution", 20) == 0);
  CHECK(std::isnan(read("ball.friction", 20)));  // its surface's
  CHECK(read_channel(channel_called("ball.mass", take.owners()), play).at(0) == 7);
  const Channel mass = channel_called("ball.mass", take.owners());
  CHECK(mass.unit == "kg");
  CHECK_THROWS_WITH(channel_called("ball.colour", take.owners()), Catch::Contains("known:"));
  CHECK_THROWS_WITH(channel_called("ball.mass.y", take.owners()), Catch::Contains("component"));
}

TEST_CASE("how a body floated is told of any moment, waves included") {
  SceneFolder folder = full_scene("");
  Body raft = ball_at("raft", {-60, -0.2, 0}, 900);  // beside the floor
  raft.shape = Box{{2, 0.6, 2}};
  folder.scene.bodies.push_back(raft);
  SceneZone& basin = folder.scene.zones[1];
  basin.shape = Box{{30, 8, 30}};
  basin.position = {-60, -4, 0};
  basin.wave_height = 0.4;
  basin.wave_length = 9;
  Play play(folder, 5);
  TakeRecorder recorder(folder, play);
  std::map<int, FloatingReading> wanted;
  for (int i = 1; i <= 200; ++i) {
    play.step();
    recorder.record(play, {});
    if (i % 50 == 0) wanted[i] = floating_reading(play.running().world, *play.running().find("raft")).value();
  }
  TakeReader reader;
  for (const int tick : {150, 50, 200, 100}) {
    INFO(tick);
    const auto found = reader.floating(recorder.take(), "raft", tick);
    REQUIRE(found);
    const FloatingReading& then = wanted[tick];
    CHECK(found->share == Approx(then.share).epsilon(1e-4));
    CHECK(found->draft == Approx(then.draft).margin(1e-4));
    CHECK(found->force == Approx(then.force).epsilon(1e-4));
    CHECK((found->buoyancy - then.buoyancy).norm() < 1e-4);
    REQUIRE(found->metacentre);
    CHECK((*found->metacentre - *then.metacentre).norm() < 1e-2);
  }
  CHECK_FALSE(reader.floating(recorder.take(), "stone", 50));
}

TEST_CASE("a take that takes too much memory stops being recorded, and says so") {
  const SceneFolder folder = full_scene("function on.tick() body:force(vec(20 * random(-1, 1), 0, 9)) end");
  Play play(folder, 3);
  TakeRecorder recorder(folder, play, 20000);
  for (int i = 0; i < 2000; ++i) {
    play.step();
    recorder.record(play, play.take_log());
  }
  CHECK(recorder.take().full);
  CHECK(recorder.take().ticks < 1500);
  CHECK(recorder.take().bytes() < 30000);
}

TEST_CASE("dials of the same name are turned, recorded and played again each for its own script") {
  SceneFolder folder = full_scene("dials { push = { 1 } } function on.tick() body:force(vec(dials.push, 0, 0)) end");
  folder.scene.bodies[1].scripts.push_back({"other.lua", {}});
  folder.scripts["other.lua"] = "dials { push = { 2 } } function on.tick() body:force(vec(0, 0, dials.push)) end";
  const auto dials = [](Play& play) {
    std::vector<double> values;
    for (const Dial& dial : play.scripts().dials(*play.running().find("ball"))) values.push_back(number_of(dial.value));
    return values;
  };
  Play play(folder, 1);
  run(play, 5);
  play.set(dial_place("ball", "other.lua", "push"), 7.0);
  run(play, 5);
  CHECK(dials(play) == std::vector<double>{1, 7});
  REQUIRE(play.changes().size() == 1);
  CHECK(play.changes()[0].place.script == "other.lua");

  const std::vector<Input> inputs = read_inputs(inputs_text(play.inputs()), "inputs", 60);
  Play again(folder, 1, inputs);
  run(again, 10);
  CHECK(dials(again) == std::vector<double>{1, 7});
  CHECK(again.running().world.digest() == play.running().world.digest());

  // By a name that two have, nobody can say which is meant.
  CHECK_THROWS_WITH(play.set_from_text("ball.dials.push=3"), Catch::Contains("act.lua/push"));
  play.set_from_text("ball.dials.act.lua/push=3");
  CHECK(dials(play) == std::vector<double>{3, 7});
  CHECK_THROWS_WITH(play.set_from_text("ball.dials.none.lua/push=3"), Catch::Contains("no such dial"));
}

TEST_CASE("a take tells which piece a joint holds, before and after the break, and so does its file") {
  SceneFolder folder =
      full_scene("function on.tick() if scene.tick == 20 then body:slice(body.position, vec(1, 0, 0)) end end");
  SceneJoint& cord = folder.scene.joints[0];
  cord.b = "ball";
  cord.anchor_a = {0.4, 6, 0};
  cord.anchor_b = {0.4, 0, 0};
  cord.high = 5;
  const auto asked = ask({folder, 1, {}, 60});
  const auto cord_ends_at_its_body = [](const Take& take, std::int64_t tick) {
    TakeReader reader;
    const Frame frame = reader.frame(take, tick);
    REQUIRE(frame.joints.size() == 1);
    const JointEndsFrom ends = ends_of(take.joints[0], tick);
    const auto body = reader.body(take, ends.b, tick);
    REQUIRE(body);
    // The cord's cylinder goes from the scene to the anchor on the body.
    const BodyView& view = frame.joints[0];
    const Vec3 end =
        view.pose.position - 0.5 * std::get<Cylinder>(view.shape).height * (view.pose.orientation * Vec3::Unit(1));
    const Vec3 other = 2 * view.pose.position - end, anchor = body->pose.to_scene(ends.anchor_b);
    CHECK(std::min((end - anchor).norm(), (other - anchor).norm()) < 1e-6);
  };
  asked->with([&](const Take& take) {
    CHECK(ends_of(take.joints[0], 10).b == "ball");
    CHECK(ends_of(take.joints[0], 50).b == "ball_1");
    cord_ends_at_its_body(take, 10);
    cord_ends_at_its_body(take, 50);
    const auto file = std::filesystem::temp_directory_path() / "bronvel-joint-ends.take";
    save_take(take, {}, file);
    const TakeFile back = open_take(file);
    CHECK(ends_of(back.take.joints[0], 50).b == "ball_1");
    cord_ends_at_its_body(back.take, 50);
    std::filesystem::remove(file);
    return 0;
  });
}

TEST_CASE("what came and went leaves nothing behind in the play: lists stay as long as what lives") {
  SceneFolder folder = full_scene(
      "function on.tick()\n"
      "  local copy = scene:stamp('stone', { position = vec(20, 3, 0), velocity = vec(0, 0, 0), mass = 1 })\n"
      "  after(0.1, function() copy:remove() end)\n"
      "end");
  folder.scene.bodies[2].scripts.push_back({"lifted.lua", {}});
  Play play(folder, 1);
  TakeRecorder recorder(folder, play);
  for (int i = 0; i < 2000; ++i) {
    play.step();
    recorder.record(play, play.take_log());
  }
  const std::size_t alive = play.running().world.body_count();
  CHECK(alive < 20);
  CHECK(play.running().scene.bodies.size() < 2 * alive + 130);
  CHECK(play.scripts().copies() < 2 * alive + 130);
  // The recording knows all of them, each from when it came to when it went.
  const Take& take = recorder.take();
  REQUIRE(take.bodies.size() > 1990);
  int wrong = 0;
  for (const BodyTrack& track : take.bodies) {
    if (track.name.rfind("stone_", 0) != 0 || track.end < 0) continue;
    if (track.end - track.first != 10 || track.rows.rows() != 10 || track.settings.size() != 1 ||
        track.settings[0].body->name != track.name)
      ++wrong;
  }
  CHECK(wrong == 0);
}
