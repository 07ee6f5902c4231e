// Rates: the plain game loop by its own closed form, and lines whose effect depends on the tick rate.
#include "lab/measures/rates.h"

#include <catch2/catch.hpp>

#include "lab/measured.h"

using namespace bronvel;

namespace {

Rates at_rates(const SceneFolder& folder, const std::string& measure, double seconds) {
  const Measure one = measure_called(measure, folder.scene);
  const std::array<double, 2> rates{30, 60};
  return play_at_rates(Study::of(folder, seconds), std::span(&one, 1), rates_of(folder, rates, {}, true), 2);
}

SceneFolder pushed(const std::string& line, const std::string& before = "") {
  SceneFolder folder = thrown({2, 0, 0});
  folder.scene.world.gravity = Vec3::Zero();
  folder.scene.bodies[0].scripts = {{"act.lua", {}}};
  folder.scripts["act.lua"] = before + "function on.tick(dt)\n  " + line + "\nend";
  return folder;
}

std::string named(const std::string& line) {
  const std::vector<RateLine> lines = lines_by_rate(Study::of(pushed(line), 1), 30, 120);
  if (lines.empty()) return "";
  CHECK(lines[0].script == "act.lua");
  CHECK(lines[0].line == 2);
  CHECK(lines[0].body == "ball");
  return lines[0].why;
}

}  // namespace

TEST_CASE("a hop by the half-implicit rule is lower by half a tick's way") {
  const Rates rates = at_rates(thrown({0, 5, 0}), "apex:ball", 2);
  REQUIRE(rates.rates.size() == 4);
  for (const RateAnswer& each : rates.rates) {
    // Σ h (v − k g h) up to where it turns: v²/2g − v h/2, and less by what the last tick rounds off.
    const double h = 1 / each.rate.tick_rate;
    double height = 0, speed = 5;
    while (speed - g * h > 0) {
      speed -= g * h;
      height += h * speed;
    }
    CAPTURE(each.rate.tick_rate, each.rate.game_loop);
    const double found = each.answer.values[0];
    if (each.rate.game_loop) {
      CHECK(found == Approx(height).epsilon(1e-9));
      const double closed = 25 / (2 * g) - 2.5 * h;
      CHECK(found >= closed - 1e-9);
      CHECK(found <= closed + g * h * h / 8 + 1e-9);
    } else {
      CHECK(found == Approx(25 / (2 * g)).epsilon(1e-9));
    }
  }
}

TEST_CASE("damping by the half-implicit rule is taken once a tick") {
  SceneFolder folder = pushed("");
  folder.scene.bodies[0].linear_damping = 2;
  const Rates rates = at_rates(folder, "final:ball.speed", 1);
  for (const RateAnswer& each : rates.rates) {
    const double rate = each.rate.tick_rate;
    CHECK(each.answer.values[0] ==
          Approx(each.rate.game_loop ? 2 * std::pow(1 - 2 / rate, rate) : 2 * std::exp(-2)).epsilon(1e-6));
  }
}

TEST_CASE("a spring by the half-implicit rule swings on, with the rule's own period") {
  SceneFolder folder = thrown({1, 0, 0}, 60);
  folder.scene.world.gravity = Vec3::Zero();
  folder.scene.bodies[0].may_sleep = false;
  folder.scene.bodies[0].scripts = {{"act.lua", {}}};
  folder.scripts["act.lua"] = "function on.tick() body:force(body.position * -400) end";
  const Rates rates = at_rates(folder, "period:ball.position.x", 4);
  for (const RateAnswer& each : rates.rates) {
    if (!each.rate.game_loop) continue;
    // cos(ω' h) = 1 − ω² h² / 2.
    const double h = 1 / each.rate.tick_rate, turned = std::acos(1 - 0.5 * 400 * h * h);
    CHECK(each.answer.values[0] == Approx(2 * 3.14159265358979 * h / turned).epsilon(5e-3));
  }
}

TEST_CASE("a line that acts once a tick is named, one that acts by the second is not") {
  CHECK_THAT(named("body:impulse(vec(0.1, 0, 0))"), Catch::Contains("impulse each tick"));
  CHECK_THAT(named("body.velocity = body.velocity * 0.98"), Catch::Contains("multiplies its velocity by 0.98"));
  CHECK_THAT(named("body:force(vec(0, 60 * dt, 0))"), Catch::Contains("times the time step"));
  CHECK_THAT(named("body.velocity = body.velocity + vec(0, 0.05, 0)"), Catch::Contains("adds to its velocity"));
  CHECK(named("body:force(vec(0, 3, 0))").empty());
  CHECK(named("body:accelerate(vec(0, 3, 0))").empty());
  CHECK(named("body.velocity = body.velocity + vec(0, 3, 0) * dt").empty());
  CHECK(named("body:impulse(vec(3, 0, 0) * dt)").empty());
  CHECK(named("body.velocity = vec(3, 0, 0)").empty());
  CHECK(named("if scene.tick == 5 then body:impulse(vec(1, 0, 0)) end").empty());
}
