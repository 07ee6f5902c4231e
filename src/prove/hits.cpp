// Hits on what sleeps, and bounces of what spins: at every phase of the tick.
#include <algorithm>
#include <cmath>

#include "geometry/shapes/hull.h"
#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

constexpr int phases = 24;
const Surface smooth{.static_friction = 0, .dynamic_friction = 0, .restitution = 1};

BodySettings ball_of(double mass) {
  BodySettings ball;
  ball.shape = Sphere{0.25};
  ball.mass = mass;
  ball.surface = smooth;
  return ball;
}

// What is hit and dropped: all of them half a metre high and, where the ball meets them, half a metre wide.
struct Named {
  std::string word;
  Shape shape;
};
std::vector<Named> shapes_struck() {
  std::vector<Vec3> corners;  // of a prism with six sides, one of them across the ball's way
  constexpr double half = 0.25;
  for (int i = 0; i < 6; ++i) {
    const double angle = pi / 6 + i * pi / 3, far = half / std::cos(pi / 6);
    for (const double y : {-half, half}) corners.emplace_back(far * std::cos(angle), y, far * std::sin(angle));
  }
  return {{"ball", Sphere{half}}, {"box", Box{{2 * half, 2 * half, 2 * half}}}, {"prism", make_hull(corners)}};
}

// A ball at 3 m/s meets what has slept on a smooth floor. Gives the worst share by which the two speeds are off.
double hit_on_sleeper(double rate, double ratio, const Shape& shape) {
  double worst = 0;
  for (int phase = 0; phase < phases; ++phase) {
    World world({.tick_rate = rate});
    add_floor(world, {.static_friction = 0, .dynamic_friction = 0, .restitution = 0});
    BodySettings struck = ball_of(ratio);
    struck.shape = shape;
    const BodyHandle sleeper = world.create(struck, {{{0, 0.25, 0}}});
    run(world, 1);
    const bool slept = world.asleep(sleeper);
    constexpr double speed = 3;
    const double start = -1 - speed / rate * phase / phases;
    const BodyHandle striker = world.create(ball_of(1), {{{start, 0.25, 0}}, {speed, 0, 0}, Vec3::Zero()});
    run(world, 0.6);
    const double after = speed * (1 - ratio) / (1 + ratio), given = 2 * speed / (1 + ratio);
    const double off = std::max(std::abs(world.motion(striker).velocity.x() - after),
                                std::abs(world.motion(sleeper).velocity.x() - given));
    worst = std::max(worst, slept ? off / speed : 1);
  }
  return worst;
}

// Five balls in a row, all asleep: the blow goes through to the last.
double hit_on_row(double rate) {
  double worst = 0;
  for (int phase = 0; phase < phases; ++phase) {
    World world({.tick_rate = rate});
    add_floor(world, {.static_friction = 0, .dynamic_friction = 0, .restitution = 0});
    std::vector<BodyHandle> row;
    row.reserve(5);
    for (int i = 0; i < 5; ++i) row.push_back(world.create(ball_of(1), {{{0.5 * i, 0.25, 0}}}));
    run(world, 1);
    const double start = -1 - 3 / rate * phase / phases;
    world.create(ball_of(1), {{{start, 0.25, 0}}, {3, 0, 0}, Vec3::Zero()});
    run(world, 0.6);
    double momentum = 0;
    for (const BodyHandle each : row) momentum += world.motion(each).velocity.x();
    worst = std::max(worst, std::abs(world.motion(row.back()).velocity.x() - 3) / 3);
    worst = std::max(worst, std::abs(momentum - 3) / 3);
  }
  return worst;
}

// A smooth ball that spins falls 1 m: spin moves no surface of it, and is kept.
double spun_bounce(double rate, double spin) {
  double worst = 0;
  for (int phase = 0; phase < phases; ++phase) {
    World world({.tick_rate = rate});
    add_floor(world, {.static_friction = 0, .dynamic_friction = 0, .restitution = 0.8});
    BodySettings ball = ball_of(1);
    ball.surface.restitution = 0.8;
    const double height = 1 + 4.4 / rate * phase / phases;
    const BodyHandle body = world.create(ball, {{{0, 0.25 + height, 0}}, Vec3::Zero(), spin * Vec3(0.6, 0, 0.8)});
    const auto climbs = [&] { return world.motion(body).velocity.y() > 0; };
    while (!climbs() && world.time() < 2) world.step();
    double apex = 0;
    while (climbs()) {
      apex = std::max(apex, world.motion(body).pose.position.y() - 0.25);
      world.step();
    }
    // The apex lies between two ticks: from the last reading by its speed.
    const BodyMotion m = world.motion(body);
    apex = std::max(apex, m.pose.position.y() - 0.25 + m.velocity.y() * m.velocity.y() / (2 * g));
    worst = std::max(worst, std::abs(std::sqrt(apex / height) / 0.8 - 1));
    if (spin > 0) worst = std::max(worst, std::abs(m.angular_velocity.norm() / spin - 1));
  }
  return worst;
}

// A touch is told when its hit is over: with all of its impulse, and the velocity turned round. Gives the worst share
// by which the impulse is off (m (1 + e) v), and in how many of the drops the body was not yet on its way back.
struct Told {
  double off = 0;
  int too_early = 0;
};

Told touch_told(double rate, const Shape& shape, double restitution, double spin) {
  Told worst;
  for (int phase = 0; phase < phases; ++phase) {
    World world({.tick_rate = rate});
    const Surface surface{.static_friction = 0, .dynamic_friction = 0, .restitution = restitution};
    add_floor(world, surface);
    BodySettings dropped = ball_of(2);
    dropped.surface = surface;
    dropped.shape = shape;
    const double height = 1.2 + 0.1 * phase / phases;
    const BodyHandle body = world.create(dropped, {{{0, height, 0}}, Vec3::Zero(), {0, spin, 0}});
    bool told = false;
    for (int tick = 0; tick < rate && !told; ++tick) {
      world.step();
      for (const ContactEvent& contact : world.contacts()) {
        if (contact.phase != ContactPhase::touch) continue;
        told = true;
        const double speed = std::sqrt(2 * g * (height - 0.25));
        worst.off = std::max(worst.off, std::abs(contact.normal_impulse / (2 * (1 + restitution) * speed) - 1));
        // At most a tick of falling since.
        const double back = world.motion(body).velocity.y();
        if (back < restitution * speed * 0.999 - g / rate) ++worst.too_early;
      }
    }
    if (!told) worst.off = 1;
  }
  return worst;
}

}  // namespace

void list_hits(std::vector<Experiment>& list) {
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"hits on sleepers" + hz, [=](Findings& findings) {
                      for (const double ratio : {1.0, 3.0, 0.2})
                        for (const Named& struck : shapes_struck()) {
                          char name[100];
                          std::snprintf(name, sizeof name, "ball hits a sleeping %s of %g times its mass: worst of 24",
                                        struck.word.c_str(), ratio);
                          findings.absolute(name + hz, 0, hit_on_sleeper(rate, ratio, struck.shape), 1e-3, "");
                        }
                      findings.absolute("ball hits five that sleep in a row: worst of 24" + hz, 0, hit_on_row(rate),
                                        1e-3, "");
                    }});
    list.push_back(
        {"touches told" + hz, [=](Findings& findings) {
           for (const auto& [what, shape] : shapes_struck()) {
             double off = 0;
             int too_early = 0;
             for (const double restitution : {1.0, 0.8, 0.3})
               for (const double spin : {0.0, 9.0}) {
                 const Told told = touch_told(rate, shape, restitution, spin);
                 off = std::max(off, told.off);
                 too_early += told.too_early;
               }
             findings.absolute("touch of a dropped " + what + ": impulse, worst of 144" + hz, 0, off, 1e-3, "");
             findings.absolute("touch of a dropped " + what + ": told before it is over" + hz, 0, too_early, 0, "");
           }
         }});
    list.push_back({"spinning bounces" + hz, [=](Findings& findings) {
                      for (const double spin : {0.0, 5.0, 30.0, 200.0}) {
                        char name[100];
                        std::snprintf(name, sizeof name, "smooth ball at %g rad/s bounces: worst of 24", spin);
                        findings.absolute(name + hz, 0, spun_bounce(rate, spin), 1e-3, "");
                      }
                    }});
  }
}

}  // namespace bronvel
