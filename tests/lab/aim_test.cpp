// Aims come out as their closed forms say, within a thousandth and few plays.
#include "lab/measures/aim.h"

#include <catch2/catch.hpp>

#include "geometry/base/error.h"
#include "lab/measured.h"

using namespace bronvel;

namespace {

AimAnswer found(const SceneFolder& folder, double seconds, const std::string& want,
                const std::vector<std::string>& moved) {
  Aim aim;
  aim.study = Study::of(folder, seconds);
  wish_from_text(aim, want);
  for (const std::string& each : moved) aim.turned.push_back(turned_from_text(each));
  const AimAnswer answer = find_aim(aim);
  CAPTURE(want, aim_text(aim, answer));
  CHECK(answer.reached);
  if (moved.size() == 1) CHECK(answer.tries.size() <= 15);
  return answer;
}

SceneFolder with_script(SceneFolder folder, const std::string& source) {
  folder.scene.bodies[0].scripts = {{"act.lua", {}}};
  folder.scripts["act.lua"] = source;
  return folder;
}

}  // namespace

TEST_CASE("the hop's speed for an apex") {
  const SceneFolder folder =
      with_script(thrown({0, 0, 0}),
                  "dials { v = { 3, from = 0, to = 20 } } function on.play() body.velocity = vec(0, dials.v, 0) end");
  const AimAnswer answer = found(folder, 3, "apex:ball=3", {"ball.dials.v=0:20"});
  CHECK(answer.best.values[0] == Approx(std::sqrt(2 * g * 3)).epsilon(1e-3));
  // One more m/s lifts it by v / g.
  CHECK(answer.sensitivity == Approx(answer.best.values[0] / g).epsilon(0.05));
}

TEST_CASE("the restitution for the third bounce") {
  const AimAnswer answer = found(thrown_over(-1.1, {0, 0, 0}, 0.9), 6, "bounce:ball,3=0.4", {"*.restitution=0.3:1"});
  CHECK(answer.best.values[0] == Approx(std::pow(0.4, 1.0 / 6)).epsilon(1e-3));
}

TEST_CASE("the drag for a terminal speed") {
  const AimAnswer answer = found(thrown({0, 0, 0}), 20, "final:ball.speed=12", {"ball.drag_area=0.01:2"});
  CHECK(answer.best.values[0] == Approx(2 * g / (1.2 * 144)).epsilon(1e-3));
}

TEST_CASE("the friction for a stopping distance") {
  SceneFolder folder = thrown_over(-0.1, {4, 0, 0}, 0);
  folder.scene.bodies[0].shape = Box{{0.2, 0.2, 0.2}};
  const AimAnswer answer = found(folder, 6, "farthest:ball=2", {"*.friction=0:1"});
  CHECK(answer.best.values[0] == Approx(16 / (2 * g * 2)).epsilon(1e-3));
}

TEST_CASE("the mass for a draft") {
  SceneFolder folder = full_scene("");
  folder.scene.bodies.erase(folder.scene.bodies.begin());  // the basin lies in the floor
  Body raft = ball_at("raft", {-12, 0, 0}, 100);
  raft.shape = Box{{1, 0.5, 1}};
  raft.angular_damping = 5;
  raft.linear_damping = 2;
  folder.scene.bodies.push_back(raft);
  // The basin's water stands to y = 0: half a metre of raft, 0.3 m of it below.
  const AimAnswer answer = found(folder, 15, "final:raft.submerged=0.6", {"raft.mass=50:450"});
  CHECK(answer.best.values[0] == Approx(0.6 * 0.5 * 1000).epsilon(1e-3));
}

TEST_CASE("the speed and the angle for a range") {
  const SceneFolder folder =
      with_script(thrown_over(-0.1, {0, 0, 0}, 0),
                  "dials { v = { 3, from = 1, to = 20 }, angle = { 0.7, from = 0.1, to = 1.4 } }\n"
                  "function on.play() body.velocity = vec(dials.v * math.cos(dials.angle), dials.v * "
                  "math.sin(dials.angle), 0) end");
  const AimAnswer answer = found(folder, 5, "touch_range:ball=12", {"ball.dials.v=1:20", "ball.dials.angle=0.1:1.4"});
  const double v = answer.best.values[0], angle = answer.best.values[1];
  CHECK(v * v * std::sin(2 * angle) / g == Approx(12).epsilon(2e-3));
}

TEST_CASE("the spring for a period") {
  SceneFolder folder = thrown({0, 0, 0});
  folder.scene.world.gravity = Vec3::Zero();
  folder.scene.bodies[0].velocity = {1, 0, 0};
  folder.scene.bodies[0].may_sleep = false;
  SceneJoint spring;
  spring.name = "spring";
  spring.kind = JointKind::distance;
  spring.b = "ball";
  spring.anchor_a = {-3, 0, 0};
  spring.rest = 3;
  spring.stiffness = 40;
  folder.scene.joints = {spring};
  const AimAnswer answer = found(folder, 6, "period:ball.position.x=0.8", {"spring.stiffness=10:300"});
  const double omega = 2 * 3.14159265358979 / 0.8;
  CHECK(answer.best.values[0] == Approx(omega * omega).epsilon(2e-3));
}

TEST_CASE("the greatest load of a cord between its two bounds") {
  SceneFolder folder = full_scene("");
  folder.scene.bodies[2].position = {6, -1, 0};  // hangs by its cord, the floor is away
  folder.scene.bodies[0].position = {0, 50, 0};
  folder.scene.bodies[0].gravity_factor = 0;
  folder.scene.bodies.erase(folder.scene.bodies.begin());
  folder.scene.joints[0].breaks_at_force = 100;
  const AimAnswer answer = found(folder, 2, "holds:cord=yes", {"stone.mass=2:30"});
  REQUIRE(answer.holds_at);
  REQUIRE(answer.fails_at);
  CHECK(*answer.holds_at <= 100 / g);
  CHECK(*answer.fails_at >= 100 / g);
  CHECK(*answer.fails_at - *answer.holds_at < 0.05);
}

TEST_CASE("what can't be reached is said, with the nearest") {
  SceneFolder folder = thrown({0, 4, 0});
  Aim aim;
  aim.study = Study::of(folder, 2);
  wish_from_text(aim, "apex:ball=3");
  aim.turned = {turned_from_text("ball.mass=1:5")};
  AimAnswer answer = find_aim(aim);
  CHECK_FALSE(answer.reached);
  CHECK_THAT(aim_text(aim, answer), Catch::Contains("can't be made = 3 m"));
  aim.turned = {turned_from_text("ball.gravity_factor=0.5:2")};
  answer = find_aim(aim);
  CHECK_FALSE(answer.reached);
  CHECK(answer.best.values[0] == Approx(0.5).margin(0.01));  // highest where it is lightest
}

TEST_CASE("bounds, least and most") {
  const SceneFolder folder =
      with_script(thrown({0, 0, 0}),
                  "dials { v = { 3, from = 0, to = 20 } } function on.play() body.velocity = vec(0, dials.v, 0) end");
  const AimAnswer bound = found(folder, 3, "apex:ball<=3", {"ball.dials.v=0:20"});
  CHECK(bound.best.measured <= 3);
  CHECK(bound.best.values[0] == Approx(std::sqrt(2 * g * 3)).epsilon(1e-2));
  const SceneFolder angled = with_script(
      thrown_over(-0.1, {0, 0, 0}, 0),
      "dials { angle = { 0.7, from = 0.1, to = 1.4 } }\n"
      "function on.play() body.velocity = vec(10 * math.cos(dials.angle), 10 * math.sin(dials.angle), 0) end");
  const AimAnswer most = found(angled, 4, "touch_range:ball=most", {"ball.dials.angle=0.1:1.4"});
  CHECK(most.best.values[0] == Approx(3.14159265 / 4).epsilon(0.02));
  CHECK(most.best.measured == Approx(100 / g).epsilon(1e-3));
}

TEST_CASE("what is no aim says why") {
  Aim aim;
  aim.study = Study::of(thrown({0, 4, 0}), 1);
  using Catch::Contains;
  CHECK_THROWS_WITH(wish_from_text(aim, "apex:ball"), Contains("what it shall be"));
  CHECK_THROWS_WITH(wish_from_text(aim, "apex:ball=nan"), Contains("wants a number"));
  CHECK_THROWS_WITH(wish_from_text(aim, "apex:boll=3"), Contains("boll"));
  CHECK_THROWS_WITH(turned_from_text("ball.mass=3:3"), Contains("empty range"));
  wish_from_text(aim, "apex:ball=3");
  CHECK_THROWS_WITH(find_aim(aim), Contains("--move"));
  aim.turned = {{"ball.mass", -1, 2}};
  CHECK_THROWS_WITH(find_aim(aim), Contains("mass"));
}
