// What matters: the ranking and its sizes against closed forms.
#include "lab/measures/matters.h"

#include <catch2/catch.hpp>

#include "lab/measured.h"

using namespace bronvel;

namespace {

Matters of(const SceneFolder& folder, const std::string& measure, double seconds) {
  return what_matters(Study::of(folder, seconds), measure_called(measure, folder.scene), 2);
}

const Matter& named(const Matters& matters, const std::string& name) {
  for (const Matter& each : matters.all)
    if (each.name == name) return each;
  FAIL("nothing called " << name);
  return matters.all[0];
}

// By how much a tenth more and less changes f(value).
template <class F>
double half_change(double value, const F& f) {
  return 0.5 * (f(1.1 * value) - f(0.9 * value));
}

}  // namespace

TEST_CASE("of a throw, speed matters most, then gravity, and mass not at all") {
  const Matters matters = of(thrown({0, 6, 0}), "apex:ball", 2);
  CHECK(matters.all[0].name == "ball.velocity");
  CHECK(matters.all[0].change() == Approx(half_change(6, [](double v) { return v * v / (2 * g); })).epsilon(0.02));
  CHECK(named(matters, "world.gravity").change() ==
        Approx(half_change(g, [](double a) { return 36 / (2 * a); })).epsilon(0.02));
  CHECK(named(matters, "ball.gravity_factor").change() ==
        Approx(named(matters, "world.gravity").change()).epsilon(0.02));
  CHECK(named(matters, "ball.mass").change() == 0);
}

TEST_CASE("of a fall in air: the terminal speed goes with the root") {
  SceneFolder folder = thrown({0, 0, 0});
  folder.scene.bodies[0].drag_area = 0.5;
  const Matters matters = of(folder, "final:ball.speed", 15);
  const auto speed = [](double mass, double area, double air, double gravity) {
    return std::sqrt(2 * mass * gravity / (air * area));
  };
  CHECK(named(matters, "ball.mass").change() ==
        Approx(half_change(1, [&](double m) { return speed(m, 0.5, 1.2, g); })).epsilon(0.02));
  CHECK(named(matters, "ball.drag_area").change() ==
        Approx(half_change(0.5, [&](double a) { return speed(1, a, 1.2, g); })).epsilon(0.02));
  CHECK(named(matters, "world.air_density").change() ==
        Approx(half_change(1.2, [&](double a) { return speed(1, 0.5, a, g); })).epsilon(0.02));
  // Less air or area does more than as much more of them: they stand before mass and gravity.
  CHECK((matters.all[0].name == "ball.drag_area" || matters.all[0].name == "world.air_density"));
}

TEST_CASE("of a bounce: restitution counts with its sixth power") {
  const Matters matters = of(thrown_over(-1.1, {0, 0, 0}, 0.8), "bounce:ball,3", 4);
  CHECK(matters.as_it_is == Approx(std::pow(0.8, 6)).epsilon(2e-3));
  CHECK(named(matters, "ball.mass").change() == Approx(0).margin(1e-9));
  // Each of the two gives half, or the pair's rule takes it whole: what both give together is known.
  const double both = named(matters, "ball.restitution").change() + named(matters, "ground.restitution").change();
  CHECK(both == Approx(half_change(0.8, [](double e) { return std::pow(e, 6); })).epsilon(0.1));
  CHECK(matters.all[0].name.ends_with("restitution"));
}

TEST_CASE("of a spring: its period goes with the root of mass over stiffness") {
  SceneFolder folder = thrown({1, 0, 0}, 120);
  folder.scene.world.gravity = Vec3::Zero();
  folder.scene.bodies[0].may_sleep = false;
  SceneJoint spring;
  spring.name = "spring";
  spring.kind = JointKind::distance;
  spring.b = "ball";
  spring.anchor_a = {-3, 0, 0};
  spring.rest = 3;
  spring.stiffness = 40;
  folder.scene.joints = {spring};
  const Matters matters = of(folder, "period:ball.position.x", 6);
  const auto period = [](double m, double k) { return 2 * 3.14159265358979 * std::sqrt(m / k); };
  CHECK(matters.as_it_is == Approx(period(1, 40)).epsilon(2e-3));
  CHECK(named(matters, "ball.mass").change() ==
        Approx(half_change(1, [&](double m) { return period(m, 40); })).epsilon(0.02));
  CHECK(named(matters, "spring.stiffness").change() ==
        Approx(half_change(40, [&](double k) { return period(1, k); })).epsilon(0.02));
  CHECK(named(matters, "ball.velocity").change() == Approx(0).margin(2e-3));
}

TEST_CASE("of a script's dial: what it pushes, and what weighs against it") {
  SceneFolder folder = thrown({0, 0, 0});
  folder.scene.world.gravity = Vec3::Zero();
  folder.scene.bodies[0].scripts = {{"push.lua", {}}};
  folder.scripts["push.lua"] =
      "dials { push = { 3, unit = 'N' }, idle = { 0, from = 0, to = 1 } }\n"
      "function on.tick() body:force(vec(dials.push, 0, 0)) end";
  const Matters matters = of(folder, "final:ball.speed", 2);
  CHECK(named(matters, "ball.dials.push.lua/push").change() == Approx(0.6).epsilon(0.02));
  CHECK(named(matters, "ball.mass").change() == Approx(half_change(1, [](double m) { return 6 / m; })).epsilon(0.02));
  CHECK(named(matters, "ball.dials.push.lua/idle").change() == 0);
  CHECK(matters.all[0].name == "ball.mass");  // a tenth less of it is a ninth more of speed
}

TEST_CASE("bodies in a row that are alike are one number") {
  SceneFolder folder;
  for (int i = 1; i <= 3; ++i) {
    folder.scene.bodies.push_back(ball_at("crate_" + std::to_string(i), {3.0 * i, 0, 0}));
  }
  folder.scene.bodies[2].linear_damping = 0.5;
  int masses = 0, damped = 0;
  for (const Matter& each : numbers_of(folder)) {
    masses += each.name.ends_with(".mass") ? 1 : 0;
    damped += each.name == "crate_3.linear_damping" ? 1 : 0;
  }
  CHECK(masses == 1);
  CHECK(damped == 1);
}
