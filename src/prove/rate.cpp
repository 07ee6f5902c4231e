// The same experiment at 30, 60, 120 and 240 ticks a second.
#include <cmath>

#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

// A block let go at 4 m/s on a floor of friction 0.4: where it stops.
double stopping_distance(double rate) {
  World world({.tick_rate = rate});
  const Surface plank{.static_friction = 0.4, .dynamic_friction = 0.4, .restitution = 0};
  add_floor(world, plank);
  BodySettings block;
  block.shape = Box{{0.5, 0.3, 0.5}};
  block.surface = plank;
  const BodyHandle body = world.create(block, {{{0, 0.15, 0}}, {4, 0, 0}, Vec3::Zero()});
  run(world, 3);
  return world.motion(body).pose.position.x();
}

double first_apex(double rate) {
  World world({.tick_rate = rate});
  const Surface rubber{.restitution = 0.8, .restitution_combine = Combine::maximum};
  add_floor(world, rubber);
  BodySettings ball;
  ball.shape = Sphere{0.1};
  ball.surface = rubber;
  const BodyHandle body = world.create(ball, {{{0, 2.1, 0}}});
  double apex = 0;
  bool bounced = false;
  for (int i = 0; i < 2 * rate; ++i) {
    world.step();
    const BodyMotion m = world.motion(body);
    bounced = bounced || m.velocity.y() > 0;
    // Between two ticks the flight is a parabola: its top follows from height and speed.
    if (bounced && m.velocity.y() >= 0)
      apex = std::max(apex, m.pose.position.y() - 0.1 + m.velocity.y() * m.velocity.y() / (2 * g));
    if (bounced && m.velocity.y() < 0) break;
  }
  return apex;
}

// A bob of 1.5 m let go at 60°: angle 2 s later.
double pendulum_angle(double rate) {
  World world({.tick_rate = rate});
  BodySettings bob;
  bob.shape = Sphere{0.1};
  const double start = pi / 3;
  const BodyHandle body = world.create(bob, {{{1.5 * std::sin(start), -1.5 * std::cos(start), 0}}});
  JointSettings rod;
  rod.kind = JointKind::distance;
  rod.b = body;
  rod.along.freedom = Freedom::limited;
  rod.along.low = rod.along.high = 1.5;
  world.join(rod);
  run(world, 2);
  const Vec3 at = world.motion(body).pose.position;
  return std::atan2(at.x(), -at.y());
}

// θ'' = −(g / l) sin θ, by small steps of the classical Runge-Kutta rule.
double exact_pendulum_angle() {
  double angle = pi / 3, speed = 0;
  constexpr int steps = 20000;
  const double h = 2.0 / steps;
  const auto pull = [](double x) { return -g / 1.5 * std::sin(x); };
  for (int i = 0; i < steps; ++i) {
    const double a1 = speed, s1 = pull(angle);
    const double a2 = speed + 0.5 * h * s1, s2 = pull(angle + 0.5 * h * a1);
    const double a3 = speed + 0.5 * h * s2, s3 = pull(angle + 0.5 * h * a2);
    const double a4 = speed + h * s3, s4 = pull(angle + h * a3);
    angle += h / 6 * (a1 + 2 * a2 + 2 * a3 + a4);
    speed += h / 6 * (s1 + 2 * s2 + 2 * s3 + s4);
  }
  return angle;
}

void prove_rate(Findings& findings) {
  const double swing = exact_pendulum_angle();
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    const std::string hz = ", " + at_rate(rate);
    findings.relative("block slides from 4 m/s at friction 0.4" + hz, 16 / (2 * 0.4 * g), stopping_distance(rate), 0.01,
                      "m");
    findings.relative("ball from 2 m at restitution 0.8: apex" + hz, 1.28, first_apex(rate), 0.01, "m");
    findings.relative("pendulum from 60°: its angle after 2 s" + hz, swing, pendulum_angle(rate), 0.01, "rad");
  }
}

}  // namespace

void list_rate(std::vector<Experiment>& list) {
  list.push_back({"rate", prove_rate});
}

}  // namespace bronvel
