// Everything that can be tuned while it plays: taken from the next tick on, and the same again as an input.
#include <catch2/catch.hpp>

#include "geometry/base/error.h"
#include "play/run/play.h"

using namespace bronvel;

namespace {

constexpr double tick = 1.0 / 120;

Body ball_at(const char* name, const Vec3& position) {
  Body ball;
  ball.name = name;
  ball.shape = Sphere{0.5};
  ball.position = position;
  ball.mass = 2;
  ball.may_sleep = false;
  return ball;
}

// A floor, a ball in the air over it, one hung on a spring, one that a zone lies about.
SceneFolder bench_of_all() {
  SceneFolder folder;
  Scene& scene = folder.scene;
  scene.world.tick_rate = 120;
  scene.surfaces["cork"] = Surface{0.5, 0.4, 0, 0.2, Combine::maximum, Combine::maximum};
  Body floor;
  floor.name = "quay";
  floor.kind = MotionKind::fixed;
  floor.shape = Box{{60, 1, 60}};
  floor.position = {0, -0.5, 0};
  floor.surface = "cork";
  Body bouncer = ball_at("bouncer", {0, 2.5, 0});
  bouncer.surface = "cork";
  scene.bodies = {floor, bouncer, ball_at("hung", {6, 5, 0}), ball_at("blown", {-8, 30, 0})};
  SceneJoint spring;
  spring.name = "spring";
  spring.kind = JointKind::distance;
  spring.b = "hung";
  spring.anchor_a = {6, 6, 0};
  spring.stiffness = 200;
  spring.damping = 20;
  spring.rest = 1;
  scene.joints = {spring};
  SceneZone draught;
  draught.name = "draught";
  draught.shape = Box{{8, 200, 8}};
  draught.position = {-8, 0, 0};
  scene.zones = {draught};
  return folder;
}

BodyMotion motion(const Play& play, const char* body) {
  return play.running().world.motion(*play.running().find(body));
}

void run(Play& play, double seconds) {
  for (int i = 0; i < std::lround(seconds / tick); ++i) play.step();
}

}  // namespace

TEST_CASE("gravity that is set in play pulls from the next tick on") {
  Play play(bench_of_all(), 1);
  run(play, 0.1);
  const double before = motion(play, "bouncer").velocity.y();
  play.set_from_text("world.gravity=0,-1.62,0");
  run(play, 0.1);
  CHECK(motion(play, "bouncer").velocity.y() - before == Approx(-0.162).epsilon(1e-6));
}

TEST_CASE("a surface that is set in play bounces what has it, on both sides") {
  Play play(bench_of_all(), 1);
  run(play, 0.3);
  play.set_from_text("surfaces.cork.restitution=0.9");
  double up = 0;
  for (int i = 0; i < 120; ++i) {
    play.step();
    up = std::max(up, motion(play, "bouncer").velocity.y());
  }
  CHECK(up == Approx(0.9 * std::sqrt(2 * 9.81 * 2)).epsilon(0.01));
}

TEST_CASE("a joint's spring that is set in play holds the weight where it says") {
  Play play(bench_of_all(), 1);
  run(play, 2);
  play.set({SettingOf::joint, "spring", "stiffness"}, 400.0);
  play.set({SettingOf::joint, "spring", "damping"}, 60.0);
  run(play, 8);
  CHECK(5 - motion(play, "hung").pose.position.y() == Approx(2 * 9.81 / 400).epsilon(0.001));
  // It is what scripts and the card read, too.
  CHECK(std::get<double>(play.running().value({SettingOf::joint, "spring", "stiffness"})) == 400);
}

TEST_CASE("a zone that is set in play blows and pulls from then on") {
  Play play(bench_of_all(), 1);
  run(play, 0.2);
  play.set_from_text("draught.gravity=0,3,0");
  const double before = motion(play, "blown").velocity.y();
  run(play, 0.5);
  CHECK(motion(play, "blown").velocity.y() - before == Approx(1.5).epsilon(0.01));
  play.set_from_text("draught.size_x=1 cm");
  play.set_from_text("draught.position=40,0,0");
  const double still = motion(play, "blown").velocity.y();
  run(play, 0.1);
  CHECK(motion(play, "blown").velocity.y() - still == Approx(-0.981).epsilon(0.01));
}

TEST_CASE("the fall rule that is set in play is kept") {
  Play play(bench_of_all(), 1);
  play.set_from_text("world.falls_out=true");
  play.set_from_text("world.falls_below=20");
  play.set_from_text("world.bring_back=true");
  run(play, 2);
  CHECK(motion(play, "blown").pose.position.y() > 20 - 15 * tick);
}

TEST_CASE("what a play can't take over says so and changes nothing") {
  Play play(bench_of_all(), 1);
  for (const char* later : {"world.tick_rate=30", "world.planar=true", "world.seed=4", "spring.kind=ball",
                            "spring.b=blown", "spring.anchor_a=0,0,0", "draught.tags=buoy"})
    CHECK_THROWS_WITH(play.set_from_text(later), Catch::Contains("next play"));
  for (const char* wrong :
       {"spring.stiffness=-1", "world.gravity=nan,0,0", "world.substeps=1.5", "surfaces.cork.restitution=3",
        "surfaces.tar.restitution=1", "world.wind=3", "nobody.mass=3", "draught.gusts=2", "spring.low=7 m"})
    CHECK_NOTHROW([&] {
      try {
        play.set_from_text(wrong);
        if (std::string(wrong) != "spring.low=7 m") FAIL(wrong << " was taken");
      } catch (const Error&) {
      }
    }());
  CHECK(play.running().world.settings().tick_rate == 120);
}

TEST_CASE("what was set in play is listed once each, and played again as an input to the same bits") {
  Play play(bench_of_all(), 1);
  run(play, 0.2);
  for (const char* set :
       {"world.gravity=0,-5,0", "world.gravity=0,-6,0", "world.air_density=3", "world.restitution_speed=1",
        "world.substeps=8", "surfaces.cork.restitution=0.7", "spring.stiffness=333", "spring.high=2",
        "spring.breaks_at_force=1 kN", "draught.wind=4,0,0", "draught.linear_damping=0.3", "bouncer.mass=5"})
    play.set_from_text(set);
  run(play, 2);
  REQUIRE(play.changes().size() == 11);
  CHECK(setting_text(play.changes()[0]) == "world.gravity=0,-6,0");
  Play again(bench_of_all(), 1, read_inputs(inputs_text(play.inputs()), "inputs", 120));
  run(again, 2.2);
  CHECK(again.inputs_failed() == 0);
  CHECK(again.running().world.digest() == play.running().world.digest());
  // Kept, they are the scene's.
  Scene scene = bench_of_all().scene;
  for (const Change& change : play.changes()) set_value_at(scene, change.place, change.after);
  CHECK(scene.world.gravity == Vec3(0, -6, 0));
  CHECK(scene.world.substeps == 8);
  CHECK(scene.joints[0].breaks_at_force == 1000);
  CHECK(scene.zones[0].wind == Vec3(4, 0, 0));
  CHECK(scene.surfaces.at("cork").restitution == 0.7);
}

TEST_CASE("six axes are set by their names, from scripts too") {
  SceneFolder folder = bench_of_all();
  SceneJoint clutch;
  clutch.name = "clutch";
  clutch.kind = JointKind::six_axis;
  clutch.b = "blown";
  clutch.anchor_a = {-8, 30, 0};
  clutch.axes[0].freedom = Freedom::free;
  folder.scene.joints.push_back(clutch);
  folder.scene.bodies[3].scripts.push_back({"drive.lua", {}});
  folder.scripts["drive.lua"] =
      "function on.tick() if scene.tick == 60 then local c = scene:joint('clutch')\n"
      "c['move_x.motor_speed'] = 2; c['move_x.motor_most'] = 1e4; c.bodies_meet = true end end";
  Play play(folder, 1);
  run(play, 1);
  for (const LogLine& line : play.take_log()) INFO(line.text);
  CHECK_FALSE(play.any_error());
  CHECK(motion(play, "blown").velocity.x() == Approx(2).epsilon(0.01));
  play.set_from_text("clutch.move_x.freedom=locked");
  play.set_from_text("clutch.move_x.motor_most=0");
  run(play, 0.5);
  CHECK(std::abs(motion(play, "blown").velocity.x()) < 0.01);
}

TEST_CASE("many surfaces at once are as one after the other") {
  const auto put = [](World& world) {
    std::vector<BodyHandle> bodies;
    BodySettings floor;
    floor.kind = MotionKind::fixed;
    floor.shape = Box{{40, 1, 40}};
    bodies.push_back(world.create(floor, {{{0, -0.5, 0}, Quat::Identity()}, Vec3::Zero(), Vec3::Zero()}));
    BodySettings box;
    box.shape = Box{{0.5, 0.5, 0.5}};
    for (int i = 0; i < 12; ++i)
      bodies.push_back(world.create(box, {{{0.1 * i, 0.4 + 0.6 * i, 0}, Quat::Identity()}, {0.2, 0, 0}, Vec3::Zero()}));
    for (int i = 0; i < 90; ++i) world.step();
    return bodies;
  };
  World one({}), all({});
  const std::vector<BodyHandle> ones = put(one), alls = put(all);
  Surface ice;
  ice.static_friction = ice.dynamic_friction = 0.02;
  ice.restitution = 0.6;
  std::vector<std::pair<BodyHandle, Surface>> surfaces;
  for (std::size_t i = 0; i < ones.size(); ++i) {
    BodySettings settings = one.body_settings(ones[i]);
    settings.surface = ice;
    one.change(ones[i], settings);
    surfaces.emplace_back(alls[i], ice);
  }
  all.set_surfaces(surfaces);
  for (int i = 0; i < 200; ++i) {
    one.step();
    all.step();
    REQUIRE(one.digest() == all.digest());
  }
  ice.restitution = 2;
  surfaces[3].second = ice;
  CHECK_THROWS_AS(all.set_surfaces(surfaces), Error);
  CHECK(all.body_settings(alls[0]).surface.restitution == 0.6);
  all.remove(alls[5]);
  CHECK_THROWS_AS(all.set_surfaces(surfaces), Error);
}
