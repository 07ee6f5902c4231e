// What is slow goes on, and what rests sleeps; what lies on a mover goes with it; how fast a joint says it goes.
#include <cmath>

#include "geometry/base/linear.h"
#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

// A puck that slides to rest: its way against v² / 2 μ g, and whether it sleeps in the end.
struct Slid {
  double way = 0;
  bool asleep = false;
};

Slid slow_puck(double rate, double size, double friction, double start) {
  World world({.tick_rate = rate});
  const Surface ice{.static_friction = friction, .dynamic_friction = friction, .restitution = 0};
  add_floor(world, ice);
  BodySettings puck;
  puck.shape = Box{{size, 0.4 * size, size}};
  puck.mass = 500 * shape_volume(puck.shape);
  puck.surface = ice;
  const BodyHandle body = world.create(puck, {{{0, 0.2 * size, 0}}, {start, 0, 0}, Vec3::Zero()});
  run(world, start / (friction * g) + 4);
  return {world.motion(body).pose.position.x(), world.asleep(body)};
}

// Without friction it goes on for ever.
double even_puck(double rate, double speed) {
  World world({.tick_rate = rate});
  const Surface none{.static_friction = 0, .dynamic_friction = 0, .restitution = 0};
  add_floor(world, none);
  BodySettings puck;
  puck.shape = Box{{0.2, 0.1, 0.2}};
  puck.surface = none;
  const BodyHandle body = world.create(puck, {{{0, 0.05, 0}}, {speed, 0, 0}, Vec3::Zero()});
  run(world, 20);
  return world.motion(body).pose.position.x() / (20 * speed);
}

// A door in oil: θ = ω / c (1 − e^(−c t)).
double oiled_door(double rate) {
  constexpr double damping = 0.2, start = 0.02, seconds = 25;
  World world({.tick_rate = rate});
  BodySettings door;
  door.shape = Box{{1, 2, 0.05}};
  door.mass = 30;
  door.angular_damping = damping;
  door.linear_damping = damping;
  const BodyHandle body = world.create(door, {{{0.5, 1, 0}}, {0, 0, -0.5 * start}, {0, start, 0}});
  JointSettings hinge;
  hinge.kind = JointKind::hinge;
  hinge.b = body;
  hinge.frame_a = {{0, 1, 0}, turn_between(Vec3::Unit(0), Vec3::Unit(1))};
  hinge.frame_b = {{-0.5, 0, 0}, hinge.frame_a.orientation};
  const JointHandle joint = world.join(hinge);
  run(world, seconds);
  return std::abs(world.reading(joint).position) / (start / damping * (1 - std::exp(-damping * seconds)));
}

// How many of what was laid down, and stands for a while, sleep after 6 s.
int sleepers(double rate, int& laid) {
  World world({.tick_rate = rate});
  add_floor(world, {});
  std::vector<BodyHandle> all;
  const auto lay = [&](const Shape& shape, const Vec3& at, const Quat& turn = Quat::Identity()) {
    BodySettings body;
    body.shape = shape;
    body.mass = 600 * shape_volume(shape);
    all.push_back(world.create(body, {{at, turn}}));
  };
  for (int i = 0; i < 6; ++i) lay(Box{{0.5, 0.5, 0.5}}, {0, 0.25 + 0.5 * i, 0});
  lay(Sphere{0.3}, {3, 0.3, 0});
  lay(Cylinder{0.3, 0.8}, {5, 0.3, 0}, turn_between(Vec3::Unit(1), Vec3::Unit(0)));
  lay(Capsule{0.2, 0.6}, {7, 0.2, 0}, turn_between(Vec3::Unit(1), Vec3::Unit(0)));
  lay(Box{{0.02, 0.02, 0.02}}, {9, 0.01, 0});
  lay(Box{{8, 4, 8}}, {20, 2, 0});
  for (int i = 0; i < 5; ++i) lay(Box{{0.4, 0.3, 0.4}}, {-3 + 0.9 * i, 1.5, 3}, turn_between({0, 1, 0}, {0.2, 1, 0.1}));
  run(world, 6);
  int asleep = 0;
  for (const BodyHandle body : all) asleep += world.asleep(body) ? 1 : 0;
  laid = static_cast<int>(all.size());
  return asleep;
}

// A block on a platform that is shaken at a share of what friction holds: how far it slips in 8 s.
double shaken(double rate, double share) {
  World world({.tick_rate = rate});
  const Surface surface{.static_friction = 0.5, .dynamic_friction = 0.3, .restitution = 0};
  BodySettings deck;
  deck.kind = MotionKind::kinematic;
  deck.shape = Box{{4, 0.4, 4}};
  deck.surface = surface;
  const BodyHandle platform = world.create(deck, {{{0, -0.2, 0}}});
  BodySettings block;
  block.shape = Box{{0.4, 0.3, 0.4}};
  block.surface = surface;
  const BodyHandle lying = world.create(block, {{{0, 0.15, 0}}});
  constexpr double pace = 2 * pi;
  const double reach = share * 0.5 * g / (pace * pace);
  for (int tick = 1; tick <= 8 * rate; ++tick) {
    const double time = tick / rate, grown = std::min(time / 4, 1.0);
    const double x = reach * grown * grown * (3 - 2 * grown) * std::sin(pace * time);
    world.move_to(platform, {{x, -0.2, 0}});
    world.step();
  }
  const double apart = world.motion(lying).pose.position.x() - world.motion(platform).pose.position.x();
  return std::abs(apart);
}

// A pendulum's rate as its hinge says it, against what energy leaves at that angle; as a share of the greatest.
double rate_told(double rate) {
  World world({.tick_rate = rate});
  BodySettings bob;
  bob.shape = Sphere{0.1};
  bob.mass = 2;
  constexpr double length = 1.5, start = 1;  // m, rad
  const Quat swung(Eigen::AngleAxisd(start, Vec3::Unit(2)));
  const BodyHandle body = world.create(bob, {{swung * Vec3(0, -length, 0), swung}});
  JointSettings hinge;
  hinge.kind = JointKind::hinge;
  hinge.b = body;
  hinge.frame_a = {Vec3::Zero(), turn_between(Vec3::Unit(0), Vec3::Unit(2))};
  hinge.frame_b = {{0, length, 0}, hinge.frame_a.orientation};
  const JointHandle joint = world.join(hinge);
  const double inertia = 2 * (length * length + 0.4 * 0.01), pull = 2 * 2 * g * length / inertia;
  const double greatest = std::sqrt(pull * (1 - std::cos(start)));
  double worst = 0;
  for (int tick = 0; tick < 4 * rate; ++tick) {
    world.step();
    const JointReading told = world.reading(joint);
    const double wanted = std::sqrt(std::max(0.0, pull * (std::cos(told.position) - std::cos(start))));
    worst = std::max(worst, std::abs(std::abs(told.speed) - wanted) / greatest);
  }
  return worst;
}

}  // namespace

void list_rest(std::vector<Experiment>& list) {
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"rest" + hz, [=](Findings& findings) {
                      for (const double size : {0.2, 0.03}) {
                        const Slid slid = slow_puck(rate, size, 0.002, 0.05);
                        char name[100];
                        std::snprintf(name, sizeof name, "%g m puck on ice from 5 cm/s: its way, v² / 2 μ g", size);
                        findings.relative(name + hz, 0.05 * 0.05 / (2 * 0.002 * g), slid.way, 0.01, "m");
                        findings.absolute("it sleeps in the end" + hz, 1, slid.asleep ? 1 : 0, 0, "");
                      }
                      findings.relative("puck without friction at 1 cm/s: its way in 20 s, as a share" + hz, 1,
                                        even_puck(rate, 0.01), 1e-3, "");
                      findings.relative("puck without friction at 1 mm/s: its way in 20 s, as a share" + hz, 1,
                                        even_puck(rate, 0.001), 1e-3, "");
                      findings.relative("door in oil from 0.02 rad/s: its way, as a share" + hz, 1, oiled_door(rate),
                                        0.01, "");
                      int laid = 0;
                      const int asleep = sleepers(rate, laid);
                      findings.absolute("what was laid down sleeps after 6 s, of 16" + hz, laid, asleep, 0, "");
                      findings.absolute("block on a platform shaken at 0.9 of what holds it: slips" + hz, 0,
                                        shaken(rate, 0.9), 2e-3, "m");
                      findings.absolute("rate that a hinge tells of a pendulum: off its greatest" + hz, 0,
                                        rate_told(rate), 5e-3, "");
                    }});
  }
}

}  // namespace bronvel
