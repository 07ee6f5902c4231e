// Friction: holding, sliding, stopping, rolling.
#include <cmath>

#include "prove/prove.h"
#include "prove/worlds.h"

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

// Spun flat on the floor, a disc and a square plate slow at μ N times the mean distance of their face from its middle
// over their inertia; a small block slides v² / 2 μ g. At phases of the tick, for the block.
void prove_slowing(Findings& findings, double rate, const std::string& hz) {
  constexpr double friction = 0.3, spin = 12;
  const Surface plain{.static_friction = friction, .dynamic_friction = friction, .restitution = 0};
  const auto slows = [&](const std::string& what, const Shape& shape, double mean, double inertia) {
    World world({.tick_rate = rate});
    add_floor(world, plain);
    BodySettings plate;
    plate.shape = shape;
    plate.mass = 1;
    plate.surface = plain;
    const BodyHandle body = world.create(plate, {{{0, 0.05, 0}}, Vec3::Zero(), {0, spin, 0}});
    const double wanted = friction * g * mean / inertia;
    const int ticks = static_cast<int>(0.5 * spin / wanted * rate);
    for (int i = 0; i < ticks; ++i) world.step();
    findings.relative(what + ", spun on its face: slows by" + hz, wanted,
                      (spin - world.motion(body).angular_velocity.y()) * rate / ticks, 0.01, "rad/s²");
  };
  constexpr double radius = 0.3, side = 0.6, mean_of_square = 0.38260;
  slows("disc", Cylinder{radius, 0.1}, radius * 2 / 3, radius * radius / 2);
  slows("square plate", Box{{side, 0.1, side}}, mean_of_square * side, side * side / 6);
  double worst = 0;
  constexpr int phases = 24;
  constexpr double slow = 0.3;
  for (int phase = 0; phase < phases; ++phase) {
    World world({.tick_rate = rate});
    add_floor(world, plain);
    BodySettings cube;
    cube.shape = Box{{0.01, 0.01, 0.01}};
    cube.surface = plain;
    const double speed = slow * (1 + 0.02 * phase);
    const BodyHandle body = world.create(cube, {{{0, 0.005, 0}}, {speed, 0, 0}, Vec3::Zero()});
    run(world, 0.5);
    const double way = speed * speed / (2 * friction * g);
    worst = std::max(worst, std::abs(world.motion(body).pose.position.x() / way - 1));
  }
  findings.absolute("block of 1 cm at 0.3 to 0.44 m/s: worst of 24 stopping ways, of v²/2μg" + hz, 0, worst, 0.01, "");
}

}  // namespace

void list_friction(std::vector<Experiment>& list) {
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"slowing" + hz, [=](Findings& findings) { prove_slowing(findings, rate, hz); }});
  }
  for (const double rate : {60.0, 120.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"friction" + hz, [=](Findings& findings) { prove_friction(findings, rate, hz); }});
  }
}

}  // namespace bronvel
