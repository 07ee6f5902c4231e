// Bounces: heights, energy kept over many hits, grazing hits, combine rules.
#include <cmath>

#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

BodySettings ball_of(double radius, const Surface& surface) {
  BodySettings s;
  s.shape = Sphere{radius};
  s.surface = surface;
  return s;
}

// Tops of the first bounces of a ball dropped from `height`, by its energy: after each touch, height + v²/2g.
std::vector<double> apexes(double rate, double restitution, double height, std::size_t wanted) {
  World world({.tick_rate = rate, .restitution_speed = 0.02});
  const Surface surface{.restitution = restitution};
  add_floor(world, surface);
  constexpr double radius = 0.1;
  const BodyHandle ball = world.create(ball_of(radius, surface), {{{0, radius + height, 0}}});
  std::vector<double> found;
  double last_rise = -1, top = 0;
  for (int i = 0; i < 60 * rate && found.size() < wanted; ++i) {
    world.step();
    const BodyMotion m = world.motion(ball);
    const double rise = m.velocity.y();
    if (last_rise > 0 && rise <= 0) found.push_back(top);
    if (rise > 0) top = m.pose.position.y() - radius + rise * rise / (2 * g);
    last_rise = rise;
  }
  found.resize(wanted, std::nan(""));
  return found;
}

void prove_bounce(Findings& findings) {
  for (const double rate : {30.0, 60.0, 120.0, 240.0})
    for (const double e : {0.2, 0.5, 0.8, 0.95}) {
      const std::vector<double> got = apexes(rate, e, 2, 3);
      double wanted = 2;
      for (std::size_t i = 0; i < got.size(); ++i) {
        wanted *= e * e;
        // The third bounce at e = 0.2 lasts 10 ms: at less than 120 ticks a second no tick need fall into it.
        if (e == 0.2 && i == 2 && rate < 120) continue;
        char name[80];
        std::snprintf(name, sizeof name, "bounce %zu from 2 m, restitution %.2f, %s", i + 1, e, at_rate(rate).c_str());
        findings.relative(name, wanted, got[i], rate < 60 ? 0.03 : 0.01, "m");
      }
    }
  for (const double rate : {60.0, 120.0}) {
    World world({.tick_rate = rate});
    const Surface dead{.restitution = 0};
    add_floor(world, dead);
    const BodyHandle ball = world.create(ball_of(0.1, dead), {{{0, 2.1, 0}}});
    double highest = 0;
    bool down = false;
    for (int i = 0; i < 3 * rate; ++i) {
      world.step();
      const double height = world.motion(ball).pose.position.y() - 0.1;
      if (down) highest = std::max(highest, std::abs(height));
      down = down || height < 1e-3;
    }
    findings.absolute("restitution 0 from 2 m: height after the hit, " + at_rate(rate), 0, highest, 1e-3, "m");

    World walls({.gravity = Vec3::Zero(), .tick_rate = rate});
    BodySettings wall;
    wall.kind = MotionKind::fixed;
    wall.shape = Box{{1, 4, 4}};
    wall.surface = {.static_friction = 0, .dynamic_friction = 0, .restitution = 1};
    walls.create(wall, {{{-1.5, 0, 0}}});
    walls.create(wall, {{{1.5, 0, 0}}});
    const BodyHandle shuttle = walls.create(ball_of(0.1, wall.surface), {{{0, 0, 0}}, {20, 0, 0}, Vec3::Zero()});
    int hits = 0;
    while (hits < 1000) {
      walls.step();
      for (const ContactEvent& c : walls.contacts()) hits += c.phase == ContactPhase::touch ? 1 : 0;
      if (walls.time() > 1000) break;
    }
    findings.relative("speed after 1,000 hits between walls, restitution 1, " + at_rate(rate), 20,
                      walls.motion(shuttle).velocity.norm(), 0.001, "m/s");
    // 1,000 hits are 999 crossings of 1.8 m and the first half: no time may be lost at the walls.
    findings.relative("time of those hits, " + at_rate(rate), (999 * 1.8 + 0.9) / 20, walls.time(), 0.001, "s");

    World graze({.gravity = Vec3::Zero(), .tick_rate = rate});
    const Surface slick{.static_friction = 0, .dynamic_friction = 0, .restitution = 0.5};
    add_floor(graze, slick);
    const double angle = 2 * pi / 180;
    const BodyHandle skimmer = graze.create(
        ball_of(0.1, slick), {{{-20, 0.15, 0}}, {30 * std::cos(angle), -30 * std::sin(angle), 0}, Vec3::Zero()});
    run(graze, 1);
    const Vec3 v = graze.motion(skimmer).velocity;
    findings.relative("grazing hit at 2°: speed along, " + at_rate(rate), 30 * std::cos(angle), v.x(), 1e-3, "m/s");
    findings.relative("grazing hit at 2°: speed away, " + at_rate(rate), 15 * std::sin(angle), v.y(), 0.01, "m/s");
  }
  for (const Combine rule : {Combine::average, Combine::minimum, Combine::maximum, Combine::multiply}) {
    World world({.tick_rate = 120});
    add_floor(world, {.restitution = 0.9, .restitution_combine = rule});
    const BodyHandle ball = world.create(ball_of(0.1, {.restitution = 0.4}), {{{0, 1.1, 0}}});
    double fastest = 0;
    for (int i = 0; i < 70; ++i) {
      world.step();
      fastest = std::max(fastest, world.motion(ball).pose.position.y() > 0.1 ? world.motion(ball).velocity.y() : 0.0);
    }
    const BodyMotion m = world.motion(ball);
    const double energy = m.pose.position.y() - 0.1 + m.velocity.squaredNorm() / (2 * g);
    const double e = combined(rule, 0.9, 0.4);
    findings.relative("restitution 0.9 and 0.4 by " + std::string(combine_word(rule)) + ": height", e * e, energy, 0.01,
                      "m");
  }
}

}  // namespace

void list_bounce(std::vector<Experiment>& list) {
  list.push_back({"bounce", prove_bounce});
}

}  // namespace bronvel
