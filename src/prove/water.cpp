// Floating, waves, drag and drift.
#include <cmath>

#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

ZoneSettings lake(double drag) {
  ZoneSettings zone;
  zone.shape = Box{{400, 60, 400}};
  zone.pose.position = {0, -30, 0};
  zone.water = Water{};
  zone.water->drag = drag;
  return zone;
}

BodySettings solid(const Shape& shape, double density) {
  BodySettings body;
  body.shape = shape;
  body.mass = density * shape_volume(shape);
  return body;
}

// How deep the lowest point of a ball lies that floats at this density ratio: d² (3r − d) = 4 r³ s, by bisection.
double ball_draft(double radius, double ratio) {
  double low = 0, high = 2 * radius;
  for (int i = 0; i < 200; ++i) {
    const double d = 0.5 * (low + high);
    (d * d * (3 * radius - d) < 4 * radius * radius * radius * ratio ? low : high) = d;
  }
  return low;
}

void prove_draft(Findings& findings, double rate, const std::string& hz) {
  for (const double ratio : {0.3, 0.7}) {
    World world({.tick_rate = rate});
    ZoneSettings zone = lake(1);
    zone.linear_damping = 2;
    world.add_zone(zone);
    const BodyHandle box = world.create(solid(Box{{1, 0.4, 1.2}}, 1000 * ratio), {{{0, 0.1, 0}}});
    const BodyHandle ball = world.create(solid(Sphere{0.5}, 1000 * ratio), {{{9, 0.1, 0}}});
    run(world, 20);
    const std::string at = ", density ratio " + std::string(ratio < 0.5 ? "0.3" : "0.7") + hz;
    findings.relative("draft of a floating box" + at, 0.4 * ratio, 0.2 - world.motion(box).pose.position.y(), 5e-3,
                      "m");
    findings.relative("draft of a floating ball" + at, ball_draft(0.5, ratio),
                      0.5 - world.motion(ball).pose.position.y(), 5e-3, "m");
  }
}

// Balls dropped so that they meet the water at 24 phases of a tick: each is told in that very tick.
void prove_splash(Findings& findings, double rate, const std::string& hz) {
  int late = 0, unheard = 0;
  double worst = 0;
  constexpr int drops = 24;
  for (int drop = 0; drop < drops; ++drop) {
    World world({.tick_rate = rate});
    world.add_zone(lake(0));
    const double time = (20 + (drop + 0.5) / drops) / rate, height = 0.5 * g * time * time;
    world.create(solid(Sphere{0.2}, 600), {{{0, 0.2 + height, 0}}});
    int heard = 0;
    for (int tick = 1; tick <= 30 && heard == 0; ++tick) {
      world.step();
      if (world.splashes().empty()) continue;
      heard = tick;
      worst = std::max(worst, std::abs(world.splashes()[0].speed / (g * time) - 1));
    }
    unheard += heard == 0 ? 1 : 0;
    late += heard == 0 || heard == 21 ? 0 : 1;
  }
  findings.absolute("24 balls into the water: splashes told in another tick than theirs" + hz, 0, late + unheard, 0,
                    "");
  findings.absolute("24 balls into the water: worst speed of a splash" + hz, 0, worst, 0.06, "");
}

void prove_heave(Findings& findings, double rate, const std::string& hz) {
  World world({.tick_rate = rate});
  world.add_zone(lake(0));
  const double height = 0.6, density = 400;
  const double rest = height * (0.5 - density / 1000);
  const BodyHandle box = world.create(solid(Box{{2, height, 2}}, density), {{{0, rest + 0.05, 0}}});
  double first = -1, last = -1, before = 0.05;
  int swings = 0;
  while (swings < 21) {
    world.step();
    const double now = world.motion(box).pose.position.y() - rest;
    if (before > 0 && now <= 0) {
      last = world.time() - 1 / rate * (0 - now) / (before - now);
      if (first < 0) first = last;
      ++swings;
    }
    before = now;
  }
  findings.relative("heave period of a box without drag" + hz, 2 * pi * std::sqrt(density * height / (1000 * g)),
                    (last - first) / 20, 0.02, "s");
}

// A long bar of square section, by the angle that one of its sides makes with the water: flat 0, on edge 45°.
void prove_bar(Findings& findings, double rate, const std::string& hz) {
  const auto rests_at = [&](double ratio) {
    World world({.tick_rate = rate});
    ZoneSettings zone = lake(1);
    zone.linear_damping = zone.angular_damping = 1;
    world.add_zone(zone);
    const BodyHandle bar = world.create(solid(Box{{6, 0.5, 0.5}}, 1000 * ratio),
                                        {{{0, 0.25 - 0.5 * ratio, 0}, Quat(Eigen::AngleAxisd(0.2, Vec3::Unit(0)))}});
    run(world, 60);
    const Vec3 up = world.motion(bar).pose.orientation * Vec3::Unit(1);
    double lean = std::atan2(std::abs(up.z()), std::abs(up.y()));
    lean = std::min(lean, pi / 2 - lean);
    return lean * 180 / pi;
  };
  // The stable angle for a ratio s floating with one side's both corners under water: tan² θ = 12 s (1 − s) − 2,
  // flat where that is below 0 (from the metacentre of the leaning waterline: Rorres, 2004).
  const double between = std::atan(std::sqrt(12 * 0.25 * 0.75 - 2)) * 180 / pi;
  findings.absolute("square bar at density ratio 0.15 floats flat" + hz, 0, rests_at(0.15), 1, "deg");
  findings.absolute("square bar at density ratio 0.25 floats between" + hz, between, rests_at(0.25), 1, "deg");
  findings.absolute("square bar at density ratio 0.5 floats on edge" + hz, 45, rests_at(0.5), 1, "deg");
}

void prove_terminal(Findings& findings, double rate, const std::string& hz) {
  for (const double density : {300.0, 2500.0}) {
    World world({.tick_rate = rate});
    ZoneSettings zone = lake(0.5);
    zone.shape = Box{{400, 4000, 400}};
    zone.pose.position = {0, 0, 0};
    world.add_zone(zone);
    const double r = 0.2;
    const BodyHandle ball = world.create(solid(Sphere{r}, density), {{{0, 0, 0}}});
    run(world, 12);
    // ½ ρ C π r² v² = |ρ_ball − ρ| g V
    const double volume = 4.0 / 3.0 * pi * r * r * r;
    const double speed = std::sqrt(std::abs(density - 1000) * g * volume / (0.5 * 1000 * 0.5 * pi * r * r));
    findings.relative(std::string("terminal speed of a ball ") + (density < 1000 ? "rising" : "sinking") + hz,
                      density < 1000 ? speed : -speed, world.velocity(ball).y(), 0.01, "m/s");
  }
}

void prove_drift(Findings& findings, double rate, const std::string& hz) {
  {
    World world({.tick_rate = rate});
    ZoneSettings zone = lake(1);
    zone.water->current = {0.8, 0, 0.3};
    world.add_zone(zone);
    const BodyHandle box = world.create(solid(Box{{0.3, 0.2, 0.3}}, 500), {{{0, 0, 0}}});
    run(world, 60);
    findings.relative("a float drifts at the current's speed" + hz, Vec3(0.8, 0, 0.3).norm(),
                      world.velocity(box).norm(), 0.01, "m/s");
  }
  {
    World world({.tick_rate = rate});
    ZoneSettings zone = lake(1);
    zone.linear_damping = 1;
    zone.angular_damping = 1;
    zone.water->wave_height = 1;
    zone.water->wave_length = 20;
    world.add_zone(zone);
    const BodyHandle box = world.create(solid(Box{{0.4, 0.2, 0.4}}, 500), {{{0, 0, 0}}});
    run(world, 20);
    double low = 1e9, high = -1e9;
    for (int i = 0; i < 20 * rate; ++i) {
      world.step();
      low = std::min(low, world.motion(box).pose.position.y());
      high = std::max(high, world.motion(box).pose.position.y());
    }
    findings.relative("a float rides waves of 1 m" + hz, 1, high - low, 0.05, "m");
  }
}

}  // namespace

void list_water(std::vector<Experiment>& list) {
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"splash" + hz, [=](Findings& findings) { prove_splash(findings, rate, hz); }});
  }
  for (const double rate : {60.0, 120.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"draft" + hz, [=](Findings& findings) { prove_draft(findings, rate, hz); }});
    list.push_back({"heave" + hz, [=](Findings& findings) { prove_heave(findings, rate, hz); }});
    list.push_back({"bar" + hz, [=](Findings& findings) { prove_bar(findings, rate, hz); }});
    list.push_back({"terminal speed" + hz, [=](Findings& findings) { prove_terminal(findings, rate, hz); }});
    list.push_back({"drift" + hz, [=](Findings& findings) { prove_drift(findings, rate, hz); }});
  }
}

}  // namespace bronvel
