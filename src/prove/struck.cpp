// Blows on what joints hold: bars, doors, see-saws, ropes, chains, at every phase of the tick.
#include <array>
#include <cmath>

#include "geometry/base/linear.h"
#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

constexpr int phases = 24;
constexpr double blow_speed = 3;  // m/s

Surface smooth_of(double restitution) {
  return {.static_friction = 0, .dynamic_friction = 0, .restitution = restitution};
}

BodySettings body_of(const Shape& shape, double mass, double restitution) {
  BodySettings body;
  body.shape = shape;
  body.mass = mass;
  body.surface = smooth_of(restitution);
  return body;
}

// A joint of the body to the scene (or to `a`) at a point of the scene, its axis along `axis`.
JointSettings joint_at(const World& world, JointKind kind, BodyHandle b, const Vec3& point, const Vec3& axis,
                       BodyHandle a = {}) {
  JointSettings joint;
  joint.kind = kind;
  joint.a = a;
  joint.b = b;
  const Quat turn = turn_between(Vec3::Unit(0), axis);
  const auto frame = [&](BodyHandle body) {
    const Pose pose = world.alive(body) ? world.motion(body).pose : Pose{};
    return Pose{pose.to_local(point), pose.orientation.conjugate() * turn};
  };
  joint.frame_a = frame(a);
  joint.frame_b = frame(b);
  return joint;
}

// How far what strikes with that mass and restitution is off, having met `effective` kg at rest; as a share of 3 m/s.
double off_after(double mass, double effective, double restitution, double got) {
  const double wanted = blow_speed * (mass - restitution * effective) / (mass + effective);
  return std::abs(got - wanted) / blow_speed;
}

// Bars of 2 m on a hinge at one end: struck at `at` m from it, awake or asleep, by a ball of 1 kg.
double hinged_bar(double rate, double bar_mass, double at, double restitution) {
  double worst = 0;
  for (int phase = 0; phase < phases; ++phase) {
    World world({.gravity = Vec3::Zero(), .tick_rate = rate});
    const BodyHandle bar = world.create(body_of(Box{{2, 0.2, 0.2}}, bar_mass, restitution), {{{1, 0, 0}}});
    world.join(joint_at(world, JointKind::hinge, bar, Vec3::Zero(), Vec3::Unit(1)));
    run(world, 1);
    const double start = -0.8 - blow_speed / rate * phase / phases;
    const BodyHandle ball =
        world.create(body_of(Sphere{0.1}, 1, restitution), {{{at, 0, start}}, {0, 0, blow_speed}, Vec3::Zero()});
    run(world, 0.35);
    const double inertia = bar_mass * ((4 + 0.04) / 12 + 1), effective = inertia / (at * at);
    worst = std::max(worst, off_after(1, effective, restitution, world.velocity(ball).z()));
    // What the bar took is all that the ball lost.
    const double turned = -world.motion(bar).angular_velocity.y() * inertia;
    worst = std::max(worst, std::abs(turned - at * (blow_speed - world.velocity(ball).z())) / (at * blow_speed));
  }
  return worst;
}

// What three masses in a row make of a blow on the first, one hit after the other until none closes.
std::array<double, 3> passed_on(std::array<double, 3> masses, double first_speed, double restitution) {
  std::array<double, 3> v{first_speed, 0, 0};
  for (int round = 0; round < 100; ++round) {
    bool any = false;
    for (std::size_t i = 0; i < 2; ++i) {
      const double closing = v[i] - v[i + 1];
      if (closing < 1e-9) continue;
      const double impulse = (1 + restitution) * closing * masses[i] * masses[i + 1] / (masses[i] + masses[i + 1]);
      v[i] -= impulse / masses[i];
      v[i + 1] += impulse / masses[i + 1];
      any = true;
    }
    if (!any) break;
  }
  return v;
}

// A see-saw: a ball falls 1 m on one end and throws up what lies on the other. Gives by how much the throw is off.
double see_saw(double rate, double faller, double thrown) {
  constexpr double arm = 1.8, plank_mass = 4, radius = 0.2;
  double worst = 0;
  for (int phase = 0; phase < phases; ++phase) {
    World world({.tick_rate = rate});
    const BodyHandle plank = world.create(body_of(Box{{4, 0.1, 0.5}}, plank_mass, 1), {{{0, 1, 0}}});
    JointSettings hinge = joint_at(world, JointKind::hinge, plank, {0, 1, 0}, Vec3::Unit(2));
    hinge.along.freedom = Freedom::limited;
    hinge.along.low = 0;
    hinge.along.high = 1;
    world.join(hinge);
    const double lying = 1.05 + radius;
    const BodyHandle light = world.create(body_of(Sphere{radius}, thrown, 1), {{{arm, lying, 0}}});
    run(world, 1);
    const double height = 1 + 4.4 / rate * phase / phases;
    const BodyHandle ball = world.create(body_of(Sphere{radius}, faller, 1), {{{-arm, lying + height, 0}}});
    double up = 0;
    while (world.time() < 3 && up < 0.3) {
      world.step();
      up = world.motion(light).velocity.y();
    }
    const double fell = std::sqrt(2 * g * height), since = world.time() - 1 - fell / g;
    const double effective = plank_mass * (16 + 0.01) / 12 / (arm * arm);
    const double wanted = passed_on({faller, effective, thrown}, fell, 1)[2];
    worst = std::max(worst, std::abs(up + g * since - wanted) / wanted);
    if (!world.alive(ball)) worst = 1;
  }
  return worst;
}

// A ball that hangs on a taut rope is struck from above at 45°: the rope does not give.
double roped_ball(double rate, double restitution) {
  double worst = 0;
  for (int phase = 0; phase < phases; ++phase) {
    World world({.tick_rate = rate});
    const BodyHandle hung = world.create(body_of(Sphere{0.25}, 2, restitution), {{{0, 0, 0}}});
    JointSettings rope = joint_at(world, JointKind::distance, hung, Vec3::Zero(), Vec3::Unit(0));
    rope.frame_a.position = {0, 3, 0};
    rope.along.freedom = Freedom::limited;
    rope.along.low = 0;
    rope.along.high = 3;
    world.join(rope);
    run(world, 1);
    const Vec3 way = Vec3(1, -1, 0).normalized();
    BodySettings ball = body_of(Sphere{0.25}, 1, restitution);
    ball.gravity_factor = 0;
    const BodyHandle striker =
        world.create(ball, {{-(1.0 + blow_speed / rate * phase / phases) * way}, blow_speed * way, Vec3::Zero()});
    double got = blow_speed;
    while (world.time() < 2 && got > 0.999 * blow_speed) {
      world.step();
      got = world.velocity(striker).dot(way);
    }
    worst = std::max(worst, off_after(1, 2 / 0.5, restitution, got));
  }
  return worst;
}

// Two like bars in a row, hinged to one another and to the scene: struck at the free end, they are 7/24 of one.
double two_bars(double rate) {
  double worst = 0;
  for (int phase = 0; phase < phases; ++phase) {
    World world({.gravity = Vec3::Zero(), .tick_rate = rate});
    // Thin, so that they turn as lines do.
    const BodySettings bar = body_of(Box{{1, 0.02, 0.02}}, 2, 1);
    const BodyHandle first = world.create(bar, {{{0.5, 0, 0}}}), second = world.create(bar, {{{1.5, 0, 0}}});
    world.join(joint_at(world, JointKind::hinge, first, Vec3::Zero(), Vec3::Unit(1)));
    world.join(joint_at(world, JointKind::hinge, second, {1, 0, 0}, Vec3::Unit(1), first));
    run(world, 1);
    constexpr double at = 1.99;
    const BodyHandle ball =
        world.create(body_of(Sphere{0.05}, 1, 1),
                     {{{at, 0, -0.6 - blow_speed / rate * phase / phases}}, {0, 0, blow_speed}, Vec3::Zero()});
    run(world, 0.25);
    // Of the point at s = 0.99 along the second bar, by the masses of the two angles (Goldstein, Classical Mechanics,
    // §6): M = m L² [[4/3, 1/2], [1/2, 1/3]], the point moving by L (1, s).
    constexpr double s = at - 1;
    const double effective = 2 * (7.0 / 36) / (1.0 / 3 - s + 4.0 / 3 * s * s);
    worst = std::max(worst, off_after(1, effective, 1, world.velocity(ball).z()));
  }
  return worst;
}

// A door against its stop is a wall: a blow that would only press it on its stop comes back whole.
double stopped_door(double rate) {
  double worst = 0;
  for (int phase = 0; phase < phases; ++phase) {
    World world({.gravity = Vec3::Zero(), .tick_rate = rate});
    const BodyHandle door = world.create(body_of(Box{{1, 2, 0.05}}, 20, 1), {{{0.5, 0, 0}}});
    JointSettings hinge = joint_at(world, JointKind::hinge, door, Vec3::Zero(), Vec3::Unit(1));
    hinge.along.freedom = Freedom::limited;
    hinge.along.low = 0;
    hinge.along.high = 1.5;
    world.join(hinge);
    run(world, 1);
    const BodyHandle ball =
        world.create(body_of(Sphere{0.1}, 1, 1),
                     {{{0.8, 0, -0.6 - blow_speed / rate * phase / phases}}, {0, 0, blow_speed}, Vec3::Zero()});
    run(world, 0.3);
    worst = std::max(worst, std::abs(world.velocity(ball).z() + blow_speed) / blow_speed);
  }
  return worst;
}

}  // namespace

void list_struck(std::vector<Experiment>& list) {
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    const std::string hz = ": worst of 24, " + at_rate(rate);
    list.push_back(
        {"struck joints, " + at_rate(rate), [=](Findings& findings) {
           for (const double mass : {3.0, 0.5, 12.0})
             for (const double restitution : {1.0, 0.4}) {
               char name[100];
               std::snprintf(name, sizeof name, "ball on a hinged bar of %g times its mass, e %g", mass, restitution);
               findings.absolute(name + hz, 0, hinged_bar(rate, mass, 1.9, restitution), 2e-3, "");
             }
           findings.absolute("ball on the middle of a hinged bar" + hz, 0, hinged_bar(rate, 3, 1, 1), 2e-3, "");
           findings.absolute("two hinged bars struck at their end" + hz, 0, two_bars(rate), 2e-3, "");
           findings.absolute("ball on a ball that a taut rope holds, e 1" + hz, 0, roped_ball(rate, 1), 2e-3, "");
           findings.absolute("ball on a ball that a taut rope holds, e 0.5" + hz, 0, roped_ball(rate, 0.5), 2e-3, "");
           findings.absolute("ball on a door against its stop" + hz, 0, stopped_door(rate), 2e-3, "");
           findings.absolute("see-saw, 2 kg throw 1 kg" + hz, 0, see_saw(rate, 2, 1), 2e-3, "");
           findings.absolute("see-saw, 8 kg throw 0.5 kg" + hz, 0, see_saw(rate, 8, 0.5), 2e-3, "");
         }});
  }
}

}  // namespace bronvel
