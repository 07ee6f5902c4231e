// Joints: what they hold, what they let go, what they refuse.
#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "dynamics/world/world.h"
#include "geometry/base/error.h"

using namespace bronvel;

namespace {

BodySettings ball(double mass = 1) {
  BodySettings s;
  s.shape = Sphere{0.1};
  s.mass = mass;
  s.may_sleep = false;
  return s;
}

JointSettings hang(BodyHandle body, JointKind kind, const Vec3& anchor_b) {
  JointSettings s;
  s.kind = kind;
  s.b = body;
  s.frame_b.position = anchor_b;
  return s;
}

}  // namespace

TEST_CASE("a joint refuses what makes no sense, and says why") {
  World world({});
  const BodyHandle a = world.create(ball(), {});
  JointSettings s = hang(a, JointKind::hinge, Vec3::Zero());
  s.a = a;
  CHECK_THROWS_WITH(world.join(s), Catch::Contains("two different bodies"));
  s.a = {};
  s.along.freedom = Freedom::limited;
  s.along.low = 1;
  s.along.high = 0;
  CHECK_THROWS_WITH(world.join(s), Catch::Contains("low limit is above"));
  s.along = {};
  s.frame_b.position.x() = std::nan("");
  CHECK_THROWS_AS(world.join(s), Error);
  s.frame_b = {};
  s.b = {77, 1};
  CHECK_THROWS_WITH(world.join(s), Catch::Contains("gone"));
  CHECK(world.joints().empty());
}

TEST_CASE("a joint goes with its body, and its handle is not taken for another's") {
  World world({});
  const BodyHandle a = world.create(ball(), {});
  const JointHandle first = world.join(hang(a, JointKind::ball, {0, 1, 0}));
  CHECK(world.alive(first));
  world.remove(a);
  CHECK_FALSE(world.alive(first));
  const BodyHandle b = world.create(ball(), {});
  const JointHandle second = world.join(hang(b, JointKind::ball, {0, 1, 0}));
  CHECK(world.alive(second));
  CHECK_FALSE(world.alive(first));
  CHECK_THROWS_AS(world.reading(first), Error);
}

TEST_CASE("joined bodies pass through each other unless told otherwise") {
  for (const bool meet : {false, true}) {
    World world({.gravity = Vec3::Zero()});
    const BodyHandle a = world.create(ball(), {{{-0.3, 0, 0}}, {1, 0, 0}, Vec3::Zero()});
    const BodyHandle b = world.create(ball(), {{{0.3, 0, 0}}, {-1, 0, 0}, Vec3::Zero()});
    JointSettings rope;
    rope.kind = JointKind::distance;
    rope.a = a;
    rope.b = b;
    rope.along.freedom = Freedom::limited;
    rope.along.high = 5;
    rope.bodies_meet = meet;
    world.join(rope);
    for (int i = 0; i < 60; ++i) world.step();
    const double x = world.motion(a).pose.position.x();
    if (meet)
      CHECK(x < 0);
    else
      CHECK(x == Approx(0.7).margin(1e-9));
  }
}

TEST_CASE("a joint that breaks says so once, and lets go") {
  World world({});
  const BodyHandle a = world.create(ball(10), {{{0, -1, 0}}});
  JointSettings s = hang(a, JointKind::ball, {0, 1, 0});
  s.breaks_at_force = 50;
  const JointHandle joint = world.join(s);
  world.step();
  REQUIRE(world.snaps().size() == 1);
  CHECK(world.snaps()[0].joint == joint);
  CHECK(world.snaps()[0].reading.force.norm() == Approx(98.1).epsilon(0.01));
  CHECK_FALSE(world.alive(joint));
  for (int i = 0; i < 60; ++i) {
    world.step();
    CHECK(world.snaps().empty());
  }
  CHECK(world.motion(a).velocity.y() == Approx(-9.81).epsilon(0.01));
}

TEST_CASE("a hanging weight sleeps, and wakes when it is pushed or its joint is cut") {
  World world({});
  BodySettings weight = ball();
  weight.may_sleep = true;
  const BodyHandle a = world.create(weight, {{{0, -1, 0}}});
  const JointHandle joint = world.join(hang(a, JointKind::ball, {0, 1, 0}));
  for (int i = 0; i < 60; ++i) world.step();
  CHECK(world.asleep(a));
  world.impulse(a, {1, 0, 0});
  CHECK_FALSE(world.asleep(a));
  for (int i = 0; i < 5; ++i) world.step();
  CHECK(world.motion(a).pose.position.norm() == Approx(1).margin(1e-9));
  world.remove(joint);
  world.step();
  CHECK(world.motion(a).pose.position.norm() > 1);
}

TEST_CASE("a motor keeps its body awake") {
  World world({});
  BodySettings wheel = ball();
  wheel.may_sleep = true;
  const BodyHandle a = world.create(wheel, {});
  JointSettings s = hang(a, JointKind::hinge, Vec3::Zero());
  s.along.motor_speed = 0;
  s.along.motor_most = 5;
  world.join(s);
  for (int i = 0; i < 120; ++i) world.step();
  CHECK_FALSE(world.asleep(a));
}

TEST_CASE("a mover too slow to keep anything awake still draws what it holds along") {
  for (const bool told : {false, true}) {
    World world({.gravity = Vec3::Zero()});
    BodySettings tug = ball();
    tug.kind = MotionKind::kinematic;
    const BodyHandle mover = world.create(tug, {});
    BodySettings towed = ball();
    towed.may_sleep = true;
    const BodyHandle body = world.create(towed, {{{1, 0, 0}}});
    JointSettings rod = hang(body, JointKind::distance, Vec3::Zero());
    rod.a = mover;
    rod.along.freedom = Freedom::limited;
    rod.along.low = rod.along.high = 1;
    world.join(rod);
    for (int i = 0; i < 60; ++i) world.step();
    CHECK(world.asleep(body));
    if (!told) world.set_velocity(mover, {-0.01, 0, 0});
    for (int i = 1; i <= 120; ++i) {
      if (told) world.move_to(mover, {{-0.01 * i / 60, 0, 0}});
      world.step();
    }
    CHECK(world.motion(body).pose.position.x() == Approx(0.98).margin(1e-9));
  }
}

TEST_CASE("bodies that a changed joint lets meet do meet") {
  World world({.gravity = Vec3::Zero()});
  const BodyHandle a = world.create(ball(), {{{-0.05, 0, 0}}});
  const BodyHandle b = world.create(ball(), {{{0.05, 0, 0}}});
  JointSettings rope = hang(b, JointKind::distance, Vec3::Zero());
  rope.a = a;
  rope.along.freedom = Freedom::limited;
  rope.along.high = 5;
  const JointHandle joint = world.join(rope);
  for (int i = 0; i < 30; ++i) world.step();
  CHECK(world.motion(b).pose.position.x() == 0.05);
  rope.bodies_meet = true;
  world.change(joint, rope);
  for (int i = 0; i < 60; ++i) world.step();
  CHECK(world.motion(b).pose.position.x() - world.motion(a).pose.position.x() > 0.19);
}

TEST_CASE("a crate on the floor at the end of a slack rope rests as if there were none") {
  World world({});
  world.create({.kind = MotionKind::fixed, .shape = Box{{20, 1, 20}}}, {{{0, -0.5, 0}}});
  BodySettings crate;
  crate.shape = Box{};
  crate.may_sleep = false;
  const BodyHandle a = world.create(crate, {{{0, 0.5, 0}}});
  JointSettings rope = hang(a, JointKind::distance, Vec3::Zero());
  rope.frame_a.position = {0, 3, 0};
  rope.along.freedom = Freedom::limited;
  rope.along.high = 4;
  const JointHandle joint = world.join(rope);
  for (int i = 0; i < 240; ++i) world.step();
  CHECK(world.motion(a).pose.position.y() == Approx(0.5).margin(2e-3));
  CHECK(world.reading(joint).force.norm() < 1e-6);
  // Hauled in, it hangs.
  rope.along.high = 1.5;
  world.change(joint, rope);
  for (int i = 0; i < 600; ++i) world.step();
  CHECK(world.motion(a).pose.position.y() == Approx(1.5).margin(0.02));
}

TEST_CASE("ropes of any masses and lengths hold their ends together", "[random]") {
  CHECK(rc::check("distance joints are never longer than they may be", [] {
    World world({});
    const double mass = *rc::gen::inRange(1, 100000) * 0.01, length = *rc::gen::inRange(10, 500) * 0.01;
    const double sideways = *rc::gen::inRange(-1000, 1000) * 0.01;
    const BodyHandle a = world.create(ball(mass), {{{0, -length, 0}}, {sideways, 0, 0}, Vec3::Zero()});
    JointSettings rope = hang(a, JointKind::distance, Vec3::Zero());
    rope.along.freedom = Freedom::limited;
    rope.along.high = length;
    world.join(rope);
    for (int i = 0; i < 60; ++i) {
      world.step();
      RC_ASSERT(world.motion(a).pose.position.norm() <= length + 1e-8);
    }
  }));
}

TEST_CASE("a snapshot holds joints: what comes after it is the same again") {
  World world({});
  const BodyHandle a = world.create(ball(), {{{0.6, -0.8, 0}}});
  const BodyHandle b = world.create(ball(), {{{1.6, -0.8, 0}}});
  world.join(hang(a, JointKind::ball, {-0.6, 0.8, 0}));
  JointSettings rod = hang(b, JointKind::distance, Vec3::Zero());
  rod.a = a;
  rod.along.freedom = Freedom::limited;
  rod.along.low = rod.along.high = 1;
  world.join(rod);
  for (int i = 0; i < 30; ++i) world.step();
  const WorldSnapshot kept = world.snapshot();
  for (int i = 0; i < 30; ++i) world.step();
  const std::uint64_t digest = world.digest();
  world.restore(kept);
  for (int i = 0; i < 30; ++i) world.step();
  CHECK(world.digest() == digest);
}

TEST_CASE("anchors that were set apart come together at a measured speed, and fling nothing") {
  World world({.gravity = {0, 0, 0}});
  // A taut chain, its first end 5 cm off, on a heavy body.
  BodySettings heavy;
  heavy.shape = Box{{1, 1, 1}};
  heavy.mass = 3000;
  BodyHandle before{};
  for (int i = 0; i < 8; ++i) {
    BodySettings link;
    link.shape = Capsule{0.05, 0.4};
    link.mass = 4;
    const BodyHandle body =
        world.create(link, {{{0.25 + 0.5 * i, 0, 0}, Quat(Eigen::AngleAxisd(pi / 2, Vec3::Unit(2)))}});
    JointSettings ball;
    ball.kind = JointKind::ball;
    ball.a = before;
    ball.b = body;
    ball.frame_a.position = i == 0 ? Vec3(-0.05, 0, 0) : Vec3(0, -0.25, 0);
    ball.frame_b.position = {0, 0.25, 0};
    world.join(ball);
    before = body;
  }
  const BodyHandle barge = world.create(heavy, {{{4.5, 0, 0}}});
  JointSettings last;
  last.kind = JointKind::ball;
  last.a = before;
  last.b = barge;
  last.frame_a.position = {0, -0.25, 0};
  last.frame_b.position = {-0.5, 0, 0};
  world.join(last);
  double fastest = 0;
  for (int i = 0; i < 120; ++i) {
    world.step();
    for (const BodyHandle body : world.bodies()) fastest = std::max(fastest, world.velocity(body).norm());
  }
  CHECK(fastest < 8);
  // The first end is where it belongs, and the chain holds together.
  const BodyHandle first = world.bodies()[0];
  CHECK((world.motion(first).pose.to_scene({0, 0.25, 0}) - Vec3(-0.05, 0, 0)).norm() < 0.02);
  CHECK((world.motion(before).pose.to_scene({0, -0.25, 0}) - world.motion(barge).pose.to_scene({-0.5, 0, 0})).norm() <
        0.02);
}

TEST_CASE("light links carry a hundred times their weight, from a mover too, and touched by their load") {
  for (const bool mover : {false, true}) {
    CAPTURE(mover);
    World world({});
    constexpr double link = 0.1;
    constexpr int links = 20;
    BodyHandle above{};
    if (mover) {
      above = world.create({.kind = MotionKind::kinematic, .shape = Sphere{0.02}, .solid = false}, {});
      world.set_velocity(above, {0.3, 0, 0});
    }
    const auto hang_from_above = [&](BodyHandle body, double height) {
      JointSettings s;
      s.a = above;
      s.b = body;
      s.frame_a.position = world.alive(above) ? world.motion(above).pose.to_local({0, height, 0}) : Vec3::Zero();
      s.frame_b.position = world.motion(body).pose.to_local({0, height, 0});
      world.join(s);
      above = body;
    };
    for (int i = 0; i < links; ++i) {
      const BodySettings one{.shape = Box{{0.03, link, 0.03}}, .mass = 0.1, .may_sleep = false};
      hang_from_above(world.create(one, {{{0, -link * (i + 0.5), 0}}}), -link * i);
    }
    const BodySettings heavy{.shape = Sphere{0.3}, .mass = 200, .may_sleep = false};
    const BodyHandle load = world.create(heavy, {{{0, -link * links - 0.3, 0}}, {0.5, 0, 0}});
    hang_from_above(load, -link * links);
    double longest = 0;
    for (int i = 0; i < 180; ++i) {
      world.step();
      REQUIRE(world.faults().empty());
      const Vec3 top(mover ? 0.3 * world.time() : 0, 0, 0);
      longest = std::max(longest, (world.motion(load).pose.to_scene({0, 0.3, 0}) - top).norm());
      // Its swing at the start is the most that it ever has; a mover adds its own speed.
      REQUIRE(world.kinetic_energy() < (mover ? 120 : 26));
    }
    CHECK(longest < 1.001 * link * links);
  }
}
