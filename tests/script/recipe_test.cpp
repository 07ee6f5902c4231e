// The ready behaviours do what their first line says.
#include <catch2/catch.hpp>

#include "folders.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

// A floor and a ball that carries the recipe, at 120 Hz; the recipe's actions are there.
SceneFolder with_recipe(const std::string& name, const Vec3& at = {0, 0.5, 0}) {
  SceneFolder folder;
  Scene& s = folder.scene;
  s.world.tick_rate = 120;
  Body ball = ball_at("ball", at);
  ball.scripts.push_back({name + ".lua", {}});
  s.bodies = {fixed_floor(), ball};
  folder.scripts[name + ".lua"] = read_file(in_checkout("/recipes/") + name + ".lua");
  for (const char* action : {"push", "steer", "go", "hop", "thrust", "serve", "spray"})
    s.actions.push_back({action, {}, {}});
  s.paths = {{"way", {{0, 3, 0}, {5, 3, 0}}, true, false}};
  return folder;
}

Vec3 place(Play& play) {
  return motion(play, "ball").pose.position;
}
Vec3 velocity(Play& play) {
  return motion(play, "ball").velocity;
}

Input take_up(const Vec3& to) {
  Input input;
  input.kind = Input::Kind::grab;
  input.name = "ball";
  input.value = 500;
  input.point = to;
  return input;
}

Input of(Input::Kind kind, const Vec3& point = Vec3::Zero()) {
  Input input;
  input.kind = kind;
  input.point = point;
  return input;
}

}  // namespace

TEST_CASE("every recipe runs for ten seconds, pressed and let go, without a fault") {
  int count = 0;
  for (const auto& entry : std::filesystem::directory_iterator(in_checkout("/recipes"))) {
    const std::string name = entry.path().stem().string();
    CAPTURE(name);
    Play play(with_recipe(name), 1);
    for (int i = 0; i < 10; ++i) {
      for (const Action& action : play.running().scene.actions) play.give(press(action.name, i % 2));
      run(play, 120);
    }
    CHECK(errors(play).empty());
    const std::string text = read_file(entry.path());
    CHECK(text.starts_with("-- "));
    CHECK(text.find("tip = ") != std::string::npos);
    ++count;
  }
  CHECK(count >= 19);
}

TEST_CASE("push by force: a = F / m on ice") {
  SceneFolder folder = with_recipe("push_by_force");
  folder.scene.bodies[0].friction = folder.scene.bodies[1].friction = 0;
  Play play(folder, 1);
  play.give(press("push", 1));
  run(play, 120);
  CHECK(velocity(play).z() == Approx(-60.0 / 2).epsilon(1e-3));  // forward is −Z
}

TEST_CASE("drive on two axes keeps what gravity does") {
  Play play(with_recipe("drive_two_axes", {0, 8, 0}), 1);
  play.give(press("steer", 1));
  run(play, 60);
  CHECK(velocity(play).x() == Approx(4));
  CHECK(velocity(play).y() == Approx(-9.81 * 0.5).epsilon(1e-6));
}

TEST_CASE("hop rises as high as its dial says, and only from the ground") {
  Play play(with_recipe("hop"), 1);
  run(play, 30);
  double top = 0;
  for (int i = 0; i < 120; ++i) {
    play.give(press("hop", i % 2));  // Pressing on in the air does nothing.
    play.step();
    if (i < 100) top = std::max(top, place(play).y());
  }
  CHECK(top == Approx(0.5 + 1.2).margin(0.02));
}

TEST_CASE("hover holds within a millimetre for ten seconds; at nine tenths it sinks with a tenth of gravity") {
  Play still(with_recipe("hover", {0, 3, 0}), 1);
  for (int i = 0; i < 1200; ++i) {
    still.step();
    REQUIRE(std::abs(place(still).y() - 3) < 1e-3);
  }
  SceneFolder folder = with_recipe("hover", {0, 30, 0});
  folder.scene.bodies[1].scripts[0].dials["factor"] = 0.9;
  Play sinking(folder, 1);
  run(sinking, 120);
  CHECK(velocity(sinking).y() == Approx(-0.981).epsilon(1e-6));
}

TEST_CASE("thrust comes to its limit and holds it") {
  SceneFolder folder = with_recipe("thrust", {0, 9, 0});
  folder.scene.bodies[1].gravity_factor = 0;
  Play play(folder, 1);
  play.give(press("thrust", 1));
  double fastest = 0;
  for (int i = 0; i < 240; ++i) {
    play.step();
    fastest = std::max(fastest, velocity(play).norm());
  }
  CHECK(fastest < 6 + 1e-6);
  CHECK(velocity(play).norm() == Approx(6).epsilon(1e-6));
}

TEST_CASE("there and back reaches both marks and faces the way it goes") {
  Play play(with_recipe("there_and_back"), 1);
  double farthest = 0;
  for (int i = 0; i < 120 * 3; ++i) {
    play.step();
    farthest = std::max(farthest, place(play).x());
  }
  CHECK(farthest == Approx(4).margin(0.02));
  CHECK((motion(play, "ball").pose.orientation * Vec3(0, 0, -1)).x() == Approx(-1));
  run(play, 120 * 3);
  CHECK(place(play).x() < 1.5);
}

TEST_CASE("return comes once after a drop or a blow, and never while the hand holds it") {
  SceneFolder folder = with_recipe("return_to_start");
  Play play(folder, 1);
  run(play, 60);
  play.give(take_up({0, 0, 0}));
  for (int i = 0; i < 120; ++i) {
    play.give(of(Input::Kind::carry, {0.02 * i, 2, 0}));
    play.step();
  }
  play.give(of(Input::Kind::drop));
  run(play, 60);
  play.give(take_up({0, 0, 0}));  // Up again half a second later: the return is called off.
  for (int i = 0; i < 480; ++i) {
    play.give(of(Input::Kind::carry, {3, 2, 0}));
    play.step();
    REQUIRE(place(play).x() > 1);
  }
  play.give(of(Input::Kind::drop));
  int jumps = 0;
  Vec3 last = place(play);
  for (int i = 0; i < 900; ++i) {
    play.step();
    if ((place(play) - last).norm() > 0.5) ++jumps;
    last = place(play);
  }
  CHECK(jumps == 1);
  CHECK((place(play) - Vec3(0, 0.5, 0)).norm() < 1e-3);
}

TEST_CASE("ride arrives on its tick and lets go with a nudge") {
  Play play(with_recipe("ride_then_let_go"), 1);
  run(play, 300);
  CHECK(place(play).x() == Approx(5).margin(1e-9));
  CHECK(play.running().world.body_settings(*play.running().find("ball")).kind == MotionKind::dynamic);
  CHECK((velocity(play) - Vec3(2, 0, 0)).norm() <= 1 + 1e-9);
  CHECK((velocity(play) - Vec3(2, 0, 0)).norm() > 0);
}

TEST_CASE("kicks send off what touches, each in its own way") {
  for (const char* name : {"kick_by_normal", "kick_by_centre", "kick_by_blast"}) {
    CAPTURE(name);
    SceneFolder folder = with_recipe(name, {0, 0.5, 0});
    folder.scene.bodies[1].kind = MotionKind::fixed;
    folder.scene.bodies.push_back(ball_at("comer", {-3, 0.9, 0}));
    folder.scene.bodies.back().velocity = {5, 0, 0};
    folder.scene.bodies.back().gravity_factor = 0;
    Play play(folder, 1);
    run(play, 120);
    CHECK(motion(play, "comer").velocity.x() < -2);
  }
}

TEST_CASE("what is kicked leaves at the kick's speed, however fast it came; others are left alone") {
  for (const char* name : {"kick_by_normal", "kick_by_centre"})
    for (const double speed : {1.0, 2.5, 3.9, 8.0})
      for (const bool meant : {true, false}) {
        CAPTURE(name, speed, meant);
        SceneFolder folder = with_recipe(name, {0, 0.5, 0});
        Body& post = folder.scene.bodies[1];
        post.kind = MotionKind::fixed;
        post.restitution = 0;
        post.friction = 0;
        post.scripts[0].dials["who"] = NamedThing{NamedKind::tag, "ball"};
        Body comer = ball_at("comer", {-3, 0.5, 0});
        comer.velocity = {speed, 0, 0};
        comer.gravity_factor = 0;
        comer.friction = 0;
        if (meant) comer.tags = {"ball"};
        folder.scene.bodies.push_back(comer);
        Play play(folder, 1);
        run(play, 400);
        CHECK(motion(play, "comer").velocity.x() == Approx(meant ? -4 : 0).margin(1e-6));
      }
}

TEST_CASE("in the plane seen from above drive, thrust and push away go over the plane") {
  const auto flat = [](const char* name) {
    SceneFolder folder = with_recipe(name, {0, 0, 0});
    folder.scene.world.gravity = Vec3::Zero();
    folder.scene.world.planar = true;
    folder.scene.bodies.erase(folder.scene.bodies.begin());  // the floor
    return folder;
  };
  {
    Play play(flat("drive_two_axes"), 1);
    play.give(press("go", 1));
    run(play, 10);
    CHECK((velocity(play) - Vec3(0, 4, 0)).norm() < 1e-9);
  }
  {
    Play play(flat("thrust"), 1);
    play.give(press("thrust", 1));
    run(play, 240);
    CHECK(velocity(play).x() == Approx(6).epsilon(1e-3));
  }
  SceneFolder folder = flat("push_away_slowing");
  folder.scene.bodies.push_back(ball_at("comer", {0, -1.6, 0}, 0.2));
  folder.scene.bodies.back().velocity = {0, 6, 0};
  Play play(folder, 1);
  double most = 0;
  for (int i = 0; i < 60; ++i) {
    play.step();
    most = std::max(most, velocity(play).y());
  }
  CHECK(most == Approx(5).epsilon(1e-6));
}

TEST_CASE("two bats with keys of their own need one script") {
  SceneFolder folder = with_recipe("push_by_force", {0, 0.5, 0});
  folder.scene.bodies[0].friction = 0;
  Body other = folder.scene.bodies[1];
  other.name = "other";
  other.position.x() = 5;
  other.scripts[0].dials["by"] = NamedThing{NamedKind::action, "thrust"};
  folder.scene.bodies.push_back(other);
  Play play(folder, 1);
  play.give(press("thrust", 1));
  run(play, 30);
  CHECK(velocity(play).norm() < 1e-9);
  CHECK(motion(play, "other").velocity.norm() > 1);
}

TEST_CASE("a fountain that holds up nine tenths of its copies' weight") {
  SceneFolder folder = with_recipe("spray", {0, 0.5, 0});
  folder.scene.bodies[1].scripts[0].dials["soften"] = 0.9;
  Play play(folder, 1);
  play.give(press("spray", 1));
  run(play, 60);
  int copies = 0;
  for (const Body& body : play.running().scene.bodies)
    if (body.name.starts_with("ball_")) {
      ++copies;
      CHECK(body.gravity_factor == Approx(0.1));
    }
  CHECK(copies > 2);
}

TEST_CASE("faster at each hit, up to the limit") {
  SceneFolder folder = with_recipe("faster_each_hit", {0, 3, 0});
  Body& ball = folder.scene.bodies[1];
  ball.velocity = {5, 0, 0};
  ball.restitution = 1;
  folder.scene.world.gravity = Vec3::Zero();
  for (const double side : {-1.0, 1.0}) {
    Body wall = fixed_floor();
    wall.name = side < 0 ? "left" : "right";
    wall.shape = Box{{1, 10, 10}};
    wall.position = {side * 4, 3, 0};
    wall.restitution = 1;
    wall.tags = {"wall"};
    folder.scene.bodies.push_back(wall);
  }
  {  // What is static does not count unless it is named.
    Play play(folder, 1);
    run(play, 600);
    CHECK(velocity(play).norm() == Approx(5).epsilon(1e-3));
  }
  folder.scene.bodies[1].scripts[0].dials["who"] = NamedThing{NamedKind::tag, "wall"};
  folder.scene.bodies[1].restitution = 0.5;  // what the bounce takes is not missed
  Play play(folder, 1);
  run(play, 110);
  CHECK(velocity(play).norm() == Approx(5.5).epsilon(1e-3));
  run(play, 3000);
  CHECK(velocity(play).norm() == Approx(12).epsilon(1e-3));
}

TEST_CASE("bounce off reflects and is turned by the other's motion") {
  SceneFolder folder = with_recipe("bounce_off", {0, 2, 0});
  folder.scene.bodies[1].velocity = {0, -5, 0};
  folder.scene.world.gravity = Vec3::Zero();
  folder.scene.bodies[0].kind = MotionKind::kinematic;
  folder.scene.bodies[0].velocity = {4, 0, 0};
  folder.scene.bodies[0].friction = 0;
  Play play(folder, 1);
  run(play, 60);
  CHECK(velocity(play).norm() == Approx(5).epsilon(1e-3));
  CHECK(velocity(play).x() / velocity(play).y() == Approx(2.0 / 5).epsilon(1e-2));
}

TEST_CASE("serve goes out at its speed within its cone, the same way for the same seed") {
  const auto serve = [](std::uint64_t seed) {
    SceneFolder folder = with_recipe("serve", {0, 3, 0});
    folder.scene.world.gravity = Vec3::Zero();
    Play play(folder, seed);
    play.give(press("serve", 1));
    play.step();
    return velocity(play);
  };
  const Vec3 v = serve(3);
  CHECK(v.norm() == Approx(6));
  CHECK(v.x() / 6 >= std::cos(0.4) - 1e-9);
  CHECK(v == serve(3));
  CHECK(v != serve(4));
}

TEST_CASE("pushed away, it slows by the same share each second at every tick rate, and comes to rest") {
  const auto after = [](double rate) {
    SceneFolder folder = with_recipe("push_away_slowing");
    folder.scene.world.tick_rate = rate;
    folder.scene.bodies[0].friction = folder.scene.bodies[1].friction = 0;
    folder.scene.bodies.push_back(ball_at("comer", {-1.6, 0.5, 0}, 0.2));
    folder.scene.bodies.back().velocity = {6, 0, 0};
    folder.scene.bodies.back().linear_damping = 3;
    Play play(folder, 1);
    while (velocity(play).x() < 1 && play.tick() < 1000) play.step();
    const double fast = velocity(play).x();
    run(play, static_cast<int>(rate));
    const double slow = velocity(play).x();
    run(play, static_cast<int>(4 * rate));
    CHECK(std::abs(velocity(play).x()) < 1e-6);
    return slow / fast;
  };
  constexpr double pause = 0.3;  // s at full speed first
  CHECK(after(60) == Approx(std::exp(-2 * (1 - pause))).epsilon(0.05));
  CHECK(after(240) == Approx(std::exp(-2 * (1 - pause))).epsilon(0.05));
}

TEST_CASE("a blast on impact pushes its neighbours and takes the body away") {
  SceneFolder folder = with_recipe("blast_on_impact", {0, 6, 0});
  folder.scene.bodies.push_back(ball_at("near", {2, 0.5, 0}));
  Play play(folder, 1);
  run(play, 240);
  CHECK_FALSE(play.running().find("ball"));
  CHECK(motion(play, "near").pose.position.x() > 2.5);
}

TEST_CASE("spray makes copies of less mass that go again") {
  Play play(with_recipe("spray"), 1);
  run(play, 30);
  play.give(press("spray", 1));
  run(play, 120);
  CHECK(play.running().world.body_count() == Approx(2 + 8).margin(1));
  CHECK(play.running().world.body_settings(*play.running().find("ball_1")).mass == Approx(0.6));
  play.give(press("spray", 0));
  run(play, 120 * 5);
  CHECK(play.running().world.body_count() == 2);
}

TEST_CASE("zone recipes act inside and give back what they took") {
  for (const char* name : {"slow_zone", "light_zone", "wind_zone"}) {
    CAPTURE(name);
    SceneFolder folder = with_recipe(name, {-4, 3, 0});
    folder.scene.bodies[1].velocity = {12, 0, 0};
    folder.scene.bodies[1].gravity_factor = std::string(name) == "light_zone" ? 0.5 : 0;
    SceneZone zone;
    zone.name = "here";
    zone.shape = Box{{2, 20, 20}};
    zone.position = {0, 3, 0};
    folder.scene.zones = {zone};
    Play play(folder, 1);
    const BodyHandle ball = *play.running().find("ball");
    bool was_inside = false;
    while (place(play).x() < 1.8 && play.tick() < 2000) {
      play.step();
      const BodySettings& s = play.running().world.body_settings(ball);
      if (std::abs(place(play).x()) < 0.5) {
        was_inside = true;
        if (std::string(name) == "slow_zone") CHECK(s.linear_damping == 4);
        if (std::string(name) == "light_zone") CHECK(s.gravity_factor == Approx(0.1));
      }
    }
    CHECK(was_inside);
    const BodySettings& s = play.running().world.body_settings(ball);
    CHECK(s.linear_damping == 0);
    CHECK(s.gravity_factor == Approx(folder.scene.bodies[1].gravity_factor));
    if (std::string(name) == "slow_zone") CHECK(velocity(play).x() < 9);
    if (std::string(name) == "wind_zone") CHECK(velocity(play).x() > 12.5);
  }
}

TEST_CASE("an example's script that has a recipe's name is that recipe") {
  const std::filesystem::path top(in_checkout(""));
  int same = 0;
  for (const auto& script : std::filesystem::recursive_directory_iterator(top / "examples")) {
    const auto recipe = top / "recipes" / script.path().filename();
    if (script.path().extension() != ".lua" || !std::filesystem::exists(recipe)) continue;
    CAPTURE(script.path().string());
    CHECK(read_file(script.path()) == read_file(recipe));
    ++same;
  }
  CHECK(same >= 19);
}
