// Asking again: every example, with things done to it, plays to the same bits, and what its take shows is what it had.
#include "lab/ask/ask.h"

#include <catch2/catch.hpp>
#include <filesystem>
#include <random>

#include "folders.h"
#include "lab/takes/take_reader.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

Input at(std::int64_t tick, Input::Kind kind, const std::string& name = "") {
  Input input;
  input.tick = tick;
  input.kind = kind;
  input.name = name;
  return input;
}

// Whatever can be done to a scene: its actions, the hand, a flick, a blast, a value set, a script's new text.
std::vector<Input> things_done(const SceneFolder& folder) {
  std::vector<Input> inputs;
  for (const Action& action : folder.scene.actions)
    for (const std::int64_t tick : {10, 40, 90}) {
      Input press = at(tick, Input::Kind::action, action.name);
      press.value = tick == 40 ? 0 : 1;
      inputs.push_back(press);
    }
  const Body* first = nullptr;
  const Body* last = nullptr;
  for (const Body& body : folder.scene.bodies)
    if (body.kind == MotionKind::dynamic) {
      if (!first) first = &body;
      last = &body;
    }
  if (first) {
    Input grab = at(20, Input::Kind::grab, last->name);
    grab.value = 40 * last->mass;
    inputs.push_back(grab);
    for (std::int64_t tick = 21; tick < 50; ++tick) {
      Input carry = at(tick, Input::Kind::carry);
      carry.point = last->position + Vec3(0.03, 0.04, 0) * static_cast<double>(tick - 20);
      inputs.push_back(carry);
    }
    inputs.push_back(at(50, Input::Kind::drop));
    Input flick = at(60, Input::Kind::flick, first->name);
    flick.point = first->position;
    flick.vector = Vec3(0.5, 1.5, 0.2) * first->mass;
    inputs.push_back(flick);
    inputs.push_back(at(70, Input::Kind::set, first->name + ".mass=" + number_text(first->mass * 1.25)));
    Input blast = at(80, Input::Kind::blast);
    blast.blast.at = last->position;
    blast.blast.radius = 4;
    blast.blast.impulse = 3 * last->mass;
    inputs.push_back(blast);
  }
  if (!folder.scripts.empty()) {
    Input script = at(100, Input::Kind::script, folder.scripts.begin()->first);
    script.text = folder.scripts.begin()->second + "\n-- as typed again\n";
    inputs.push_back(script);
  }
  std::stable_sort(inputs.begin(), inputs.end(), [](const Input& a, const Input& b) { return a.tick < b.tick; });
  return inputs;
}

// The scene with `seconds` of play, asked twice; then any of its ticks looked at in any order against a third play.
void check_scene_twice(const std::string& name, double seconds) {
  INFO(name);
  const SceneFolder folder = open_folder(in_checkout("/examples/" + name));
  Question question{folder, 5, things_done(folder), std::llround(seconds * folder.scene.world.tick_rate)};
  const auto first = ask(question);
  const Take take = first->with([](const Take& t) { return t; });
  REQUIRE(take.ticks == question.ticks + 1);
  CHECK(take.inputs.size() == question.inputs.size());
  CHECK(ask(question_of(take))->with([](const Take& t) { return t.digest; }) == take.digest);

  // Ticks in any order, those of the third play in its own.
  std::mt19937_64 random(7);
  std::vector<std::int64_t> ticks{0, take.ticks - 1};
  while (ticks.size() < 200)
    ticks.push_back(static_cast<std::int64_t>(random() % static_cast<std::uint64_t>(take.ticks)));
  TakeReader reader;
  std::map<std::int64_t, Frame> frames;
  std::map<std::int64_t, std::vector<std::pair<std::string, BodyReading>>> readings;
  for (const std::int64_t tick : ticks) {
    frames[tick] = reader.frame(take, tick);
    readings[tick].clear();
    for (const BodyView& view : frames[tick].bodies)
      readings[tick].emplace_back(view.name, *reader.body(take, view.name, tick));
  }
  Play play(folder, question.seed, question.inputs);
  double far = 0, turned = 0, faster = 0;
  int unlike = 0;
  for (std::int64_t tick = 0; tick < take.ticks; ++tick) {
    if (tick > 0) play.step();
    const auto found = frames.find(tick);
    if (found == frames.end()) continue;
    const Frame now = frame_of(play);
    const Frame& then = found->second;
    REQUIRE(then.bodies.size() == now.bodies.size());
    REQUIRE(then.joints.size() == now.joints.size());
    if (then.zones != now.zones) ++unlike;
    for (std::size_t i = 0; i < now.bodies.size(); ++i) {
      const BodyView &a = then.bodies[i], &b = now.bodies[i];
      if (a.name != b.name || a.asleep != b.asleep || a.kind != b.kind || !(a.shape == b.shape) ||
          a.colour != b.colour || std::abs(a.left - b.left) > 1e-3)
        ++unlike;
      const BodyMotion m = play.running().world.motion(*play.running().find(b.name));
      const BodyReading& r = readings[tick][i].second;
      far = std::max(far, (r.pose.position - m.pose.position).norm());
      turned = std::max(turned, (r.pose.orientation.coeffs() - m.pose.orientation.coeffs()).norm());
      faster = std::max(faster, (r.velocity - m.velocity).norm() + (r.angular_velocity - m.angular_velocity).norm());
    }
  }
  CHECK(play.running().world.digest() == take.digest.value_or(0));
  CHECK(far < 1e-6);
  CHECK(turned < 1e-6);
  CHECK(faster < 4e-6);
  CHECK(unlike == 0);
}

}  // namespace

TEST_CASE("every example, with things done to it: asked again it is the same, and its take shows what it had",
          "[long]") {
  for (const auto& entry : std::filesystem::directory_iterator(in_checkout("/examples")))
    check_scene_twice(entry.path().filename().string(), 3);
}

// Left out but where it is asked for by name.
TEST_CASE("every example for 20 s", "[.whole][long]") {
  for (const auto& entry : std::filesystem::directory_iterator(in_checkout("/examples")))
    check_scene_twice(entry.path().filename().string(), 20);
}

TEST_CASE("asked of another scene, the values that were changed there count, and the others as set by hand") {
  SceneFolder folder = full_scene("dials { push = { 1 } } function on.tick() body:force(vec(dials.push, 0, 0)) end");
  Question question{folder, 1, {}, 100};
  question.inputs = {at(0, Input::Kind::set, "ball.dials.act.lua/push=4"), at(0, Input::Kind::set, "stone.mass=7")};
  const Take take = ask(question)->with([](const Take& t) { return t; });
  REQUIRE(take.inputs.size() == 2);

  SceneFolder now = folder;
  CHECK(question_of(take, now).inputs.size() == 2);
  now.scene.find("ball")->scripts[0].dials["push"] = 9.0;
  const Question again = question_of(take, now);
  REQUIRE(again.inputs.size() == 1);
  CHECK(again.inputs[0].name == "stone.mass=7");
  const Take other = ask(again)->with([](const Take& t) { return t; });
  TakeReader a, b;
  CHECK(b.body(other, "ball", 40)->velocity.x() ==
        Approx(9.0 / 4 * a.body(take, "ball", 40)->velocity.x()).epsilon(1e-3));
  CHECK(differences(folder, now) == std::vector<std::string>{"ball push 1 → 9"});
}

TEST_CASE("a question can be given up, and a scene that can't be played is told") {
  const SceneFolder folder = full_scene("");
  int ticks = 0;
  const auto take = ask({folder, 1, {}, 1000}, nullptr, [&](Play&) { return ++ticks < 10; });
  CHECK(take->with([](const Take& t) { return t.ticks; }) == 11);
  SceneFolder broken = folder;
  broken.scripts.erase("act.lua");
  CHECK_THROWS_WITH(ask({broken, 1, {}, 10}), Catch::Contains("act.lua"));
}

TEST_CASE("differences are said in a few words") {
  SceneFolder before = full_scene("-- one"), after = before;
  CHECK(differences(before, after).empty());
  after.scene.find("stone")->mass = 12;
  after.scene.find("stone")->position.y() += 1;
  after.scene.world.gravity = {0, -1.62, 0};
  after.scripts["act.lua"] = "-- two";
  CHECK(differences(before, after) == std::vector<std::string>{"stone position (6, 0.5, 0) → (6, 1.5, 0)",
                                                               "stone mass 5 → 12",
                                                               "gravity (0, -9.81, 0) → (0, -1.62, 0)", "act.lua"});
  after = before;
  for (Body& body : after.scene.bodies) body.gravity_factor = 0.5;
  after.scene.bodies.push_back(ball_at("another", {0, 9, 0}));
  CHECK(differences(before, after) == std::vector<std::string>{"gravity factor 1 → 0.5 of 3", "1 body more"});
}

TEST_CASE("the values of a take come back into the scene") {
  SceneFolder folder = full_scene("dials { push = { 1 } }");
  Question question{folder, 1, {}, 10};
  question.inputs = {at(2, Input::Kind::set, "ball.dials.act.lua/push=4"), at(3, Input::Kind::set, "stone.mass=7"),
                     at(4, Input::Kind::set, "stone.position=0,9,0"), at(5, Input::Kind::set, "gone.mass=3")};
  const Take take = ask(question)->with([](const Take& t) { return t; });
  Scene scene = folder.scene;
  scene.find("stone")->mass = 1;
  scene.find("stone")->linear_damping = 3;
  scene.world.gravity = {0, -2, 0};
  scene.bodies.push_back(ball_at("another", {0, 9, 0}));
  take_values_back(scene, take);
  CHECK(scene.find("stone")->mass == 7);
  CHECK(scene.find("stone")->linear_damping == 0);
  CHECK(scene.find("stone")->position == Vec3(6, 0.5, 0));
  CHECK(scene.world.gravity.y() == -9.81);
  CHECK(scene.find("ball")->scripts[0].dials.at("push") == DialValue(4.0));
  CHECK(scene.find("another"));
}

TEST_CASE("every setting that a play depends on is told as a difference") {
  const SceneFolder before = full_scene("");
  const auto told = [&](const std::function<void(SceneFolder&)>& change) {
    SceneFolder after = before;
    change(after);
    CHECK_FALSE(plays_alike(before, after));
    return on_one_line(differences(before, after));
  };
  CHECK_THAT(told([](SceneFolder& f) { f.scene.world.planar = true; }), Catch::Contains("planar"));
  CHECK_THAT(told([](SceneFolder& f) { f.scene.world.substeps = 8; }), Catch::Contains("sub-steps 4 → 8"));
  CHECK_THAT(told([](SceneFolder& f) { f.scene.cues.push_back({"bell", 1, 0, 0}); }), Catch::Contains("cues"));
  CHECK_THAT(told([](SceneFolder& f) {
               f.scene.actions.push_back({"hop", {"space"}, {}});
             }),
             Catch::Contains("actions"));
  CHECK_THAT(told([](SceneFolder& f) { f.scene.stamps.push_back({"kit", {}, {}}); }), Catch::Contains("stamps"));
  CHECK_THAT(told([](SceneFolder& f) { f.scene.sweep_away = SweepAway{}; }), Catch::Contains("falls out"));
  CHECK_THAT(told([](SceneFolder& f) { f.scene.groups.push_back("ropes"); }), Catch::Contains("groups"));
  for (const WorldProperty& property : world_properties()) {
    if (property.kind != PropertyKind::number) continue;
    CHECK_THAT(told([&](SceneFolder& f) {
                 const double now = std::get<double>(property.get(f.scene.world));
                 property.set(f.scene.world, Value(property.whole ? now + 1 : now * 1.25 + 1e-3));
               }),
               Catch::Contains(property.label));
  }
}

TEST_CASE("asked at another tick rate, a take is as long and each input comes at its time") {
  SceneFolder folder = full_scene("");
  folder.scene.world.tick_rate = 120;
  std::vector<Input> inputs;
  for (const std::int64_t tick : {12, 61, 200}) inputs.push_back(at(tick, Input::Kind::set, "stone.mass=6"));
  const Take take = ask({folder, 1, inputs, 240})->with([](const Take& t) { return t; });
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    SceneFolder other = folder;
    other.scene.world.tick_rate = rate;
    const Question question = question_of(take, other);
    CHECK(static_cast<double>(question.ticks) / rate == Approx(2));
    REQUIRE(question.inputs.size() == inputs.size());
    for (std::size_t i = 0; i < inputs.size(); ++i)
      CHECK(static_cast<double>(question.inputs[i].tick) / rate ==
            Approx(static_cast<double>(inputs[i].tick) / 120).margin(0.5 / rate + 1e-9));
  }
}

TEST_CASE("a body's energy goes by the gravity that it feels, in play and in takes") {
  SceneFolder folder =
      full_scene("function on.tick() if scene.tick == 50 then scene.gravity = vec(0, -1.62, 0) end end");
  folder.scene.find("ball")->gravity_factor = 0.25;
  folder.scene.find("ball")->position = {0, 30, 0};
  folder.scene.zones.clear();
  Play play(folder, 1);
  TakeRecorder recorder(folder, play);
  const ChannelOwners owners = ChannelOwners::of(folder.scene);
  const Channel energy = channel_called("ball.energy", owners);
  const auto in_play = [&] { return read_channel(energy, play)[0]; };
  const double start = in_play();
  for (int i = 0; i < 50; ++i) {
    play.step();
    recorder.record(play, play.take_log());
  }
  // Nothing took any: it falls freely, at a quarter of the scene's gravity.
  CHECK(in_play() == Approx(start).epsilon(1e-9));
  const double fallen = in_play();
  for (int i = 0; i < 50; ++i) {
    play.step();
    recorder.record(play, play.take_log());
  }
  CHECK(in_play() < 0.3 * fallen);
  TakeReader reader;
  CHECK(reader.number(recorder.take(), energy, 0, 50) == Approx(fallen).epsilon(1e-4));
  CHECK(reader.number(recorder.take(), energy, 0, 100) == Approx(in_play()).epsilon(1e-4));
}

TEST_CASE("a body that goes its own way has energy of motion") {
  SceneFolder folder = full_scene("body.kind = 'kinematic' function on.tick(dt) body.velocity = vec(1.5, 0, 0) end");
  Play play(folder, 1);
  for (int i = 0; i < 5; ++i) play.step();
  const auto owners = ChannelOwners::of(folder.scene);
  CHECK(read_channel(channel_called("ball.kinetic_energy", owners), play)[0] == Approx(0.5 * 2 * 1.5 * 1.5));
}

TEST_CASE("what differs of joints and zones is named with its values") {
  SceneFolder before;
  SceneJoint cord;
  cord.name = "cord";
  cord.kind = JointKind::six_axis;
  SceneZone sea;
  sea.name = "sea";
  before.scene.joints = {cord};
  before.scene.zones = {sea};
  SceneFolder after = before;
  after.scene.joints[0].stiffness = 40;
  after.scene.joints[0].axes[4].motor_speed = 2;
  after.scene.zones[0].wind = {3, 0, 0};
  after.scene.zones[0].shape = Box{{2, 1, 1}};
  CHECK(on_one_line(differences(before, after)) ==
        "cord stiffness 0 → 40, cord   motor speed 0 → 2, sea wind (0, 0, 0) → (3, 0, 0), sea size x 1 → 2");
  after = before;
  after.scene.joints.push_back(cord);
  CHECK(on_one_line(differences(before, after)) == "joints");
}

TEST_CASE("a named dial that was set in a take is taken back with its values") {
  SceneFolder folder;
  Body ball;
  ball.name = "ball";
  ball.shape = Sphere{0.5};
  ball.scripts.push_back({"act.lua", {}});
  Body gate = ball;
  gate.name = "gate";
  gate.position = {5, 0, 0};
  gate.scripts.clear();
  folder.scene.bodies = {ball, gate};
  folder.scripts["act.lua"] = "dials { open = { body = '' }, loud = false, push = 3 }";
  Play play(folder, 1);
  TakeRecorder recorder(folder, play);
  for (const char* set : {"ball.dials.open=ball", "ball.dials.open=gate", "ball.dials.loud=true", "ball.dials.push=5"})
    play.set_from_text(set);
  play.step();
  recorder.record(play, play.take_log());
  Scene scene = folder.scene;
  take_values_back(scene, recorder.take());
  const auto& dials = scene.find("ball")->scripts[0].dials;
  CHECK(dials.at("open") == DialValue(NamedThing{NamedKind::body, "gate"}));
  CHECK(dials.at("loud") == DialValue(true));
  CHECK(dials.at("push") == DialValue(5.0));
  // Asked of a scene without the body, nothing sets it.
  SceneFolder without = folder;
  without.scene.bodies.erase(without.scene.bodies.begin());
  CHECK(question_of(recorder.take(), without).inputs.empty());
}
