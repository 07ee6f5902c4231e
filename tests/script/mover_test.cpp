// Movers: what rides or is told where to be reads the speed at which it goes, and what stands on it goes along.
#include <catch2/catch.hpp>

#include "script/scenes.h"

using namespace bronvel;

TEST_CASE("a ride reads the speed at which it goes, and 0 when it has arrived") {
  SceneFolder folder = full_scene("function on.play() body:ride('ferry', { seconds = 2 }) end");
  folder.scene.bodies[1].kind = MotionKind::kinematic;
  folder.scene.paths[0].smooth = false;
  Play play(folder, 1);
  const double length = play.running().find_path("ferry")->length();
  run(play, 50);
  CHECK(motion(play, "ball").velocity.norm() == Approx(length / 2).epsilon(0.01));
  CHECK(play.running().world.velocity(*play.running().find("ball")).norm() == Approx(length / 2).epsilon(0.01));
  run(play, 160);
  CHECK(motion(play, "ball").velocity.norm() == 0);
}

TEST_CASE("what advances reads the speed at which it got along") {
  SceneFolder folder = full_scene(
      "function on.tick() if scene.tick < 30 then body:advance(vec(0.01, 0, 0)) body:advance(vec(0, 0, 0.02)) end end");
  folder.scene.bodies[1].kind = MotionKind::kinematic;
  Play play(folder, 1);
  run(play, 10);
  const Vec3 velocity = motion(play, "ball").velocity;
  CHECK(velocity.x() == Approx(1));
  CHECK(velocity.z() == Approx(2));
  run(play, 30);
  CHECK(motion(play, "ball").velocity.norm() == 0);
}

TEST_CASE("what stands on a lift that creeps goes along, and does not fall asleep on the way") {
  World world({.tick_rate = 60});
  BodySettings lift;
  lift.kind = MotionKind::kinematic;
  lift.shape = Box{{2, 0.2, 2}};
  const BodyHandle platform = world.create(lift, {});
  BodySettings cask;
  cask.shape = Box{{0.5, 0.5, 0.5}};
  const BodyHandle rider = world.create(cask, {{{0, 0.35, 0}}});
  constexpr double speed = 0.01;  // m/s: slower than what counts as still
  for (int tick = 1; tick <= 600; ++tick) {
    world.move_to(platform, {{0, speed * tick / 60, 0}, Quat::Identity()});
    world.step();
  }
  CHECK(world.motion(rider).pose.position.y() == Approx(0.35 + speed * 10).margin(1e-3));
}

TEST_CASE("what does nothing is told when play begins") {
  SceneFolder folder = full_scene("function on.play() end");
  folder.scene.joints[0].high.reset();
  SceneJoint pulley;
  pulley.name = "hoist";
  pulley.kind = JointKind::pulley;
  pulley.a = "ball";
  pulley.b = "stone";
  folder.scene.joints.push_back(pulley);
  folder.scene.bodies[2].breaking.into = Breaking::Into::planes;
  Play play(folder, 1);
  const std::string said = errors(play);
  CHECK_THAT(said, Catch::Contains("cord") && Catch::Contains("holds nothing") && Catch::Contains("hoist") &&
                       Catch::Contains("stone") && Catch::Contains("breaks into planes"));
  CHECK_FALSE(play.any_error());
  Play good(full_scene("function on.play() end"), 1);
  CHECK(errors(good).empty());
}
