// What hits must conserve, and piles must not gain.
#include <algorithm>
#include <cmath>

#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

Vec3 linear_momentum(const World& world) {
  Vec3 sum = Vec3::Zero();
  for (const BodyHandle body : world.bodies()) sum += world.mass(body).mass * world.motion(body).velocity;
  return sum;
}

Vec3 angular_momentum(const World& world) {
  Vec3 sum = Vec3::Zero();
  for (const BodyHandle body : world.bodies()) {
    const MassProperties mass = world.mass(body);
    const Mat3 r = world.motion(body).pose.orientation.toRotationMatrix();
    sum += world.centre_of_mass(body).cross(mass.mass * world.motion(body).velocity) +
           r * mass.inertia * r.transpose() * world.motion(body).angular_velocity;
  }
  return sum;
}

double energy(const World& world) {
  double sum = world.kinetic_energy();
  for (const BodyHandle body : world.bodies())
    if (world.body_settings(body).kind == MotionKind::dynamic)
      sum += world.mass(body).mass * g * world.centre_of_mass(body).y();
  return sum;
}

void prove_momentum(Findings& findings, double rate, const std::string& hz) {
  double worst_linear = 0, worst_angular = 0, worst_dead = 0, worst_energy = 0;
  for (int i = 0; i < 40; ++i) {
    World world({.gravity = Vec3::Zero(), .tick_rate = rate});
    const double e = (i % 5) * 0.25;
    BodySettings a, b;
    a.shape = i % 2 == 0 ? Shape(Sphere{0.5}) : Shape(Box{{1, 0.6, 0.8}});
    b.shape = i % 4 < 2 ? Shape(Box{{0.7, 0.9, 0.5}}) : Shape(Sphere{0.4});
    a.mass = 2;
    b.mass = 1 + i % 7;
    a.surface = b.surface = {.static_friction = 0.6, .dynamic_friction = 0.5, .restitution = e};
    const Quat turn_a(Eigen::AngleAxisd(0.3 * i, Vec3(1, 2, 3).normalized()));
    const Quat turn_b(Eigen::AngleAxisd(0.7 * i, Vec3(-2, 1, 1).normalized()));
    world.create(a, {{{-2, 0.1 * (i % 3), 0}, turn_a}, {8, 0, 0}, {0, 1, 2}});
    world.create(b, {{{0, 0, 0.1 * (i % 4)}, turn_b}, {-1, 0.2, 0}, {1, 0, -1}});
    const Vec3 linear = linear_momentum(world), angular = angular_momentum(world);
    const double kinetic = world.kinetic_energy();
    // Until the hit is over; what slides on in contact afterwards is not a hit.
    for (int t = 0; t < rate; ++t) {
      world.step();
      if (!world.contacts().empty()) break;
    }
    worst_linear = std::max(worst_linear, (linear_momentum(world) - linear).norm() / linear.norm());
    // With restitution 0 the bodies stay in touch, and the resting-contact solver has its share in the same tick.
    double& worst = e > 0 ? worst_angular : worst_dead;
    worst = std::max(worst, (angular_momentum(world) - angular).norm() / angular.norm());
    worst_energy = std::max(worst_energy, world.kinetic_energy() / kinetic - 1);
  }
  findings.absolute("40 two-body hits: worst change of linear momentum" + hz, 0, worst_linear, 1e-12, "");
  findings.absolute("32 bouncing hits: worst change of angular momentum" + hz, 0, worst_angular, 1e-12, "");
  findings.absolute("8 dead hits: worst change of angular momentum" + hz, 0, worst_dead, 1e-3, "");
  findings.absolute("40 two-body hits: most energy gained" + hz, 0, std::max(0.0, worst_energy), 1e-3, "");

  World row({.gravity = Vec3::Zero(), .tick_rate = rate});
  BodySettings steel;
  steel.shape = Sphere{0.1};
  steel.surface = {.static_friction = 0, .dynamic_friction = 0, .restitution = 1};
  std::vector<BodyHandle> balls{row.create(steel, {{{-1, 0, 0}}, {3, 0, 0}, Vec3::Zero()})};
  for (int i = 0; i < 4; ++i) balls.push_back(row.create(steel, {{{0.2 * i, 0, 0}}}));
  run(row, 1);
  double others = 0;
  for (std::size_t i = 0; i < 4; ++i) others = std::max(others, row.motion(balls[i]).velocity.norm());
  findings.relative("five touching steel balls: speed of the last" + hz, 3, row.motion(balls[4]).velocity.x(), 0.03,
                    "m/s");
  findings.absolute("five touching steel balls: fastest of the others, share" + hz, 0, others / 3, 0.03, "");

  World pile({.tick_rate = rate});
  add_floor(pile, {.restitution = 0.3});
  for (int i = 0; i < 60; ++i) {
    BodySettings s;
    s.shape = i % 2 == 0 ? Shape(Box{{0.5, 0.4, 0.6}}) : Shape(Sphere{0.3});
    s.surface.restitution = 0.3;
    const int layer = i / 8, row_in_layer = i / 4 % 2;
    const Pose pose{{0.9 * (i % 4), 0.6 + 0.9 * layer, 0.9 * row_in_layer},
                    Quat(Eigen::AngleAxisd(0.4 * i, Vec3(1, 1, 0.3).normalized()))};
    pile.create(s, {pose});
  }
  double last = energy(pile), gained = 0;
  const double start = last;
  for (int i = 0; i < 8 * rate; ++i) {
    pile.step();
    const double now = energy(pile);
    gained = std::max(gained, now - last);
    last = now;
  }
  findings.absolute("falling pile of 60: most energy gained in a tick, share" + hz, 0, gained / start, 0.001, "");
}

// A cube of so many crates of half a metre to a side, just touching, that goes like one.
constexpr int crates_to_a_side = 7;
constexpr double crate_side = 0.5;  // m
std::vector<BodyHandle> add_cube(World& world, const Surface& surface, const Vec3& lowest, const Vec3& velocity) {
  BodySettings crate;
  crate.shape = Box{Vec3::Constant(crate_side)};
  crate.mass = 2;
  crate.surface = surface;
  std::vector<BodyHandle> crates;
  for (int x = 0; x < crates_to_a_side; ++x)
    for (int y = 0; y < crates_to_a_side; ++y)
      for (int z = 0; z < crates_to_a_side; ++z)
        crates.push_back(world.create(crate, {{lowest + crate_side * Vec3(x, y, z)}, velocity}));
  return crates;
}

// Heaps are solved with few passes: what a blow has crushed must not fly apart by that.
void prove_crushed(Findings& findings, double rate, const std::string& hz) {
  for (const double e : {0.0, 1.0}) {
    World world({.gravity = Vec3::Zero(), .tick_rate = rate});
    const Surface surface{.static_friction = 0.4, .dynamic_friction = 0.4, .restitution = e};
    add_cube(world, surface, Vec3::Zero(), {0, 0, 3});
    add_cube(world, surface, {0.3, 0.2, crate_side * crates_to_a_side + 0.5}, {0, 0, -3});
    const double start = world.kinetic_energy();
    double last = start, gained = 0;
    for (int i = 0; i < rate; ++i) {
      world.step();
      gained = std::max(gained, world.kinetic_energy() - last);
      last = world.kinetic_energy();
    }
    findings.absolute(
        "cubes of 343 crates meet, restitution " + std::string(e > 0 ? "1" : "0") + ": energy gained in a tick" + hz, 0,
        gained / start, 1e-5, "");
  }
  World world({.tick_rate = rate});
  const Surface dead{.static_friction = 0.4, .dynamic_friction = 0.4, .restitution = 0};
  add_floor(world, dead);
  const std::vector<BodyHandle> cube = add_cube(world, dead, {0, 0.5 * crate_side + 0.3, 0}, {0, -5, 0});
  double highest = 0;
  for (int i = 0; i < 2 * rate; ++i) {
    world.step();
    if (i < rate / 6) continue;  // it lands after less than a tenth of a second
    double mean = 0;
    for (const BodyHandle crate : cube) mean += world.centre_of_mass(crate).y() / static_cast<double>(cube.size());
    highest = std::max(highest, mean);
  }
  findings.absolute("such a cube lands dead at 5.6 m/s: its middle's height afterwards" + hz,
                    0.5 * crate_side * crates_to_a_side, highest, 0.03, "m");
}

}  // namespace

void list_momentum(std::vector<Experiment>& list) {
  for (const double rate : {60.0, 120.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"momentum" + hz, [=](Findings& findings) { prove_momentum(findings, rate, hz); }});
    list.push_back({"crushed heaps" + hz, [=](Findings& findings) { prove_crushed(findings, rate, hz); }});
  }
}

}  // namespace bronvel
