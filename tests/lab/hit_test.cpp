// The hit sheet against the closed form of the hit.
#include "lab/takes/hit.h"

#include <catch2/catch.hpp>

#include "lab/takes/take.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

// Two balls that meet head on along X, without gravity.
SceneFolder head_on(double mass_a, double mass_b, double restitution) {
  SceneFolder folder;
  folder.scene.world.gravity = Vec3::Zero();
  Body left = ball_at("left", {-2, 0, 0}, mass_a), right = ball_at("right", {2, 0, 0}, mass_b);
  left.restitution = right.restitution = restitution;
  left.velocity = {3, 0, 0};
  right.velocity = {-1, 0, 0};
  folder.scene.bodies = {left, right};
  return folder;
}

Take taken(const SceneFolder& folder, int ticks) {
  Play play(folder, 1);
  TakeRecorder recorder(folder, play);
  for (int i = 0; i < ticks; ++i) {
    play.step();
    recorder.record(play, play.take_log());
  }
  return recorder.take();
}

std::optional<HitReport> first_hit(const Take& take, const std::string& body) {
  const auto event = touch_at(take, body, 0);
  REQUIRE(event);
  TakeReader reader;
  return hit_report(take, reader, *event, body);
}

}  // namespace

TEST_CASE("what a hit did is what Newton's rule says, whatever the masses") {
  for (const double restitution : {0.0, 0.3, 1.0})
    for (const double mass : {0.2, 1.0, 7.0}) {
      INFO("e " << restitution << ", " << mass << " kg");
      const Take take = taken(head_on(mass, 1, restitution), 120);
      const auto hit = first_hit(take, "left");
      REQUIRE(hit);
      const double reduced = mass * 1 / (mass + 1);
      CHECK(hit->a.body == "left");
      CHECK(hit->b.body == "right");
      CHECK(hit->number == 1);
      CHECK(hit->closing_speed == Approx(4).epsilon(1e-5));
      CHECK(hit->along == Approx(reduced * 4 * (1 + restitution)).epsilon(1e-5));
      CHECK(hit->across == Approx(0).margin(1e-9));
      CHECK(hit->normal.x() == Approx(1));
      // They meet where the gap of 3 m is used up, at 0.75 s; the place is that of the tick's start.
      CHECK(hit->point.x() == Approx(0.75).margin(0.07));
      CHECK(hit->time == Approx(0.75).margin(0.02));
      CHECK(hit->pair.restitution == Approx(restitution));
      const double after_a = 3 - hit->along / mass, after_b = -1 + hit->along;
      CHECK(hit->a.speed_before == Approx(3).epsilon(1e-5));
      CHECK(hit->a.speed_after == Approx(std::abs(after_a)).margin(1e-4));
      CHECK(hit->b.speed_after == Approx(std::abs(after_b)).margin(1e-4));
      const double lost = hit->a.energy_before + hit->b.energy_before - hit->a.energy_after - hit->b.energy_after;
      CHECK(lost == Approx(0.5 * reduced * 16 * (1 - restitution * restitution)).margin(1e-3));
    }
}

TEST_CASE("a hit is told of from either side, and none of what is not there") {
  const Take take = taken(head_on(2, 1, 0.5), 120);
  const auto event = touch_at(take, "right", 0);
  REQUIRE(event);
  TakeReader reader;
  const auto from_right = hit_report(take, reader, *event, "right");
  REQUIRE(from_right);
  CHECK(from_right->a.body == "right");
  CHECK(from_right->normal.x() == Approx(-1));
  CHECK(from_right->a.own_restitution);
  CHECK_FALSE(from_right->a.own_friction);
  CHECK_FALSE(hit_report(take, reader, 9999));
  CHECK_FALSE(touch_at(take, "nobody", 0));
  CHECK_FALSE(touch_at(take, "left", 119));
  for (std::size_t i = 0; i < take.events.size(); ++i)
    CHECK(hit_report(take, reader, i).has_value() == (take.events[i].phase == ContactPhase::touch));
}

TEST_CASE("a slanting hit slides where friction can't hold, and tells so") {
  for (const double friction : {0.05, 2.0}) {
    INFO(friction);
    SceneFolder folder;
    Body ball = ball_at("ball", {0, 2, 0}, 3), floor = fixed_floor();
    ball.velocity = {8, -2, 0};
    ball.friction = floor.friction = friction;
    folder.scene.bodies = {floor, ball};
    const auto hit = first_hit(taken(folder, 60), "ball");
    REQUIRE(hit);
    CHECK(hit->a.kind == MotionKind::dynamic);
    CHECK(hit->b.kind == MotionKind::fixed);
    CHECK(hit->b.energy_after == 0);
    CHECK(hit->slid == (friction < 1));
    if (friction < 1) CHECK(hit->across == Approx(friction * hit->along).epsilon(0.02));
    // What is held rolls: friction gave 2/7 m v.
    if (friction > 1) CHECK(hit->across == Approx(3 * 8 * 2 / 7.0).epsilon(0.02));
  }
}
