// Friction: holding, sliding, stopping, rolling.
#include <cmath>

#include "lab/prove.h"
#include "lab/prove_worlds.h"

namespace bronvel {
namespace {

using namespace prove;

struct Slope {
  World world;
  Quat tilt;
  Vec3 down;
  BodyHandle body;
};

Slope on_slope(double rate, double angle, const Surface& surface, const Shape& shape, double lift) {
  Slope s{World({.tick_rate = rate}), Quat(Eigen::AngleAxisd(-angle, Vec3::Unit(2))), Vec3::Zero(), {}};
  s.down = s.tilt * Vec3(1, 0, 0);
  BodySettings plank;
  plank.kind = MotionKind::fixed;
  plank.shape = Box{{200, 1, 20}};
  plank.surface = surface;
  s.world.create(plank, {{s.tilt * Vec3(0, -0.5, 0), s.tilt}});
  BodySettings body;
  body.shape = shape;
  body.surface = surface;
  body.may_sleep = false;
  s.body = s.world.create(body, {{s.tilt * Vec3(-60, lift, 0), s.tilt}});
  run(s.world, 0.5);
  return s;
}

void prove_friction(Findings& findings, double rate, const std::string& hz) {
  const Surface rough{.static_friction = 0.5, .dynamic_friction = 0.4, .restitution = 0};
  const Box block{{1, 0.5, 1}};
  const double limit_angle = std::atan(0.5);
  Slope held = on_slope(rate, limit_angle - 0.01, rough, block, 0.25);
  const Vec3 start = held.world.motion(held.body).pose.position;
  run(held.world, 5);
  findings.absolute("block just below atan(μs): slips in 5 s" + hz, 0,
                    (held.world.motion(held.body).pose.position - start).norm(), 1e-3, "m");

  const double steep = limit_angle + 0.01;
  Slope slides = on_slope(rate, steep, rough, block, 0.25);
  const double before = slides.world.motion(slides.body).velocity.dot(slides.down);
  run(slides.world, 2);
  const double gained = slides.world.motion(slides.body).velocity.dot(slides.down) - before;
  findings.relative("block just above it: acceleration g (sin θ − μd cos θ)" + hz,
                    g * (std::sin(steep) - 0.4 * std::cos(steep)), gained / 2, 0.01, "m/s²");

  World flat({.tick_rate = rate});
  add_floor(flat, rough);
  BodySettings sled;
  sled.shape = block;
  sled.surface = rough;
  const BodyHandle stone = flat.create(sled, {{{0, 0.25, 0}}, {6, 0, 0}, Vec3::Zero()});
  run(flat, 4);
  findings.relative("stopping distance v²/2μg from 6 m/s" + hz, 36 / (2 * 0.4 * g),
                    flat.motion(stone).pose.position.x(), 0.01, "m");

  const double gentle = 20 * pi / 180;
  const Surface grippy{.static_friction = 0.9, .dynamic_friction = 0.9, .restitution = 0};
  Slope rolls = on_slope(rate, gentle, grippy, Sphere{0.5}, 0.5);
  const double rolling = rolls.world.motion(rolls.body).velocity.dot(rolls.down);
  run(rolls.world, 2);
  findings.relative("rolling sphere: acceleration 5/7 g sin θ" + hz, 5.0 / 7 * g * std::sin(gentle),
                    (rolls.world.motion(rolls.body).velocity.dot(rolls.down) - rolling) / 2, 0.01, "m/s²");

  World alley({.tick_rate = rate});
  const Surface waxed{.static_friction = 0.2, .dynamic_friction = 0.2, .restitution = 0};
  add_floor(alley, waxed);
  BodySettings bowl;
  bowl.shape = Sphere{0.5};
  bowl.surface = waxed;
  const BodyHandle ball = alley.create(bowl, {{{0, 0.5, 0}}, {7, 0, 0}, Vec3::Zero()});
  run(alley, 3);
  findings.relative("sliding ball ends rolling at 5/7 v0" + hz, 5, alley.motion(ball).velocity.x(), 0.01, "m/s");
}

}  // namespace

void list_friction(std::vector<Experiment>& list) {
  for (const double rate : {60.0, 120.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"friction" + hz, [=](Findings& findings) { prove_friction(findings, rate, hz); }});
  }
}

}  // namespace bronvel
