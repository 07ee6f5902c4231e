// Free motion: flight, spinning bodies, drag.
#include <cmath>

#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

Vec3 angular_momentum(const World& world, BodyHandle body) {
  const Mat3 r = world.motion(body).pose.orientation.toRotationMatrix();
  return r * world.mass(body).inertia * r.transpose() * world.motion(body).angular_velocity;
}

void prove_motion(Findings& findings) {
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    const std::string hz = ", " + at_rate(rate);
    World flight({.tick_rate = rate});
    BodySettings shot;
    shot.shape = Sphere{0.1};
    const BodyHandle ball = flight.create(shot, {{{0, 0, 0}}, {12, 20, 0}, Vec3::Zero()});
    run(flight, 3);
    findings.absolute("ballistic flight of 3 s: distance from the parabola" + hz, 0,
                      (flight.motion(ball).pose.position - Vec3(36, 60 - 0.5 * g * 9, 0)).norm(), 1e-9, "m");
  }
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    const std::string hz = ", " + at_rate(rate);
    // Speed and spin lost by damping for three of its time constants: 1/e³ is left.
    World slow({.gravity = Vec3::Zero(), .tick_rate = rate});
    BodySettings s;
    s.shape = Box{{0.4, 0.6, 1.0}};
    s.linear_damping = 1;
    s.angular_damping = 1;
    const BodyHandle slowed = slow.create(s, {{}, {8, 0, 0}, {0, 0, 5}});
    run(slow, 3);
    findings.relative("damping: speed after three time constants" + hz, 8 * std::exp(-3.0),
                      slow.motion(slowed).velocity.x(), 1e-6, "m/s");
    findings.relative("damping: way after three time constants" + hz, 8 * (1 - std::exp(-3.0)),
                      slow.motion(slowed).pose.position.x(), 1e-4, "m");
    findings.relative("damping: spin after three time constants" + hz, 5 * std::exp(-3.0),
                      slow.motion(slowed).angular_velocity.z(), 1e-6, "rad/s");
    // A plate that spins fast about its axis, turned by how much after 2 s.
    for (const double spin : {10.0, 60.0, 300.0, 1500.0}) {
      World fast({.gravity = Vec3::Zero(), .tick_rate = rate});
      BodySettings plate;
      plate.shape = Box{{0.3, 0.02, 0.2}};
      const BodyHandle top = fast.create(plate, {{}, Vec3::Zero(), {0, spin, 0}});
      run(fast, 2);
      const Vec3 x = fast.motion(top).pose.orientation * Vec3::Unit(0);
      const double away = std::remainder(std::atan2(-x.z(), x.x()) - 2 * spin, 2 * pi);
      findings.absolute("spin of " + std::to_string(static_cast<int>(spin)) + " rad/s: turned wrongly after 2 s" + hz,
                        0, away, 1e-6, "rad");
    }
    // A shard and a plank that tumble as fast as anything does: nothing is lost, nothing won.
    for (const auto& [name, size, spin] : {std::tuple{"a 4 cm shard at 1,500 rad/s", Vec3(0.04, 0.01, 0.02), 1500.0},
                                           std::tuple{"a plank at 800 rad/s", Vec3(2, 0.03, 0.2), 800.0}}) {
      World tumble({.gravity = Vec3::Zero(), .tick_rate = rate});
      BodySettings body;
      body.shape = Box{size};
      const BodyHandle thrown = tumble.create(body, {{}, Vec3::Zero(), spin * Vec3(0.6, 0.7, 0.39).normalized()});
      const double energy = tumble.kinetic_energy();
      const Vec3 momentum = angular_momentum(tumble, thrown);
      run(tumble, 2);
      findings.relative(std::string(name) + ": energy after 2 s" + hz, energy, tumble.kinetic_energy(), 1e-6, "J");
      findings.absolute(std::string(name) + ": turn of its angular momentum" + hz, 0,
                        (angular_momentum(tumble, thrown) - momentum).norm() / momentum.norm(), 1e-9, "");
    }
  }
  for (const double rate : {60.0, 120.0}) {
    const std::string hz = ", " + at_rate(rate);
    // A book thrown about its middle axis.
    World space({.gravity = Vec3::Zero(), .tick_rate = rate});
    BodySettings book;
    book.shape = Box{{0.4, 0.6, 1.0}};
    book.mass = 5;
    const double spin = 3, nudge = 0.02;
    const BodyHandle thrown = space.create(book, {{}, Vec3::Zero(), {nudge, spin, 0}});
    const double energy = space.kinetic_energy();
    const Vec3 momentum = angular_momentum(space, thrown);
    const Vec3 inertia = space.mass(thrown).inertia.diagonal();
    std::vector<double> flips;
    double last = spin;
    for (int i = 0; i < 60 * rate; ++i) {
      space.step();
      const BodyMotion m = space.motion(thrown);
      const double now = (m.pose.orientation.conjugate() * m.angular_velocity).y();
      if ((last > 0) != (now > 0)) flips.push_back(space.time() - (now / (now - last)) / rate);
      last = now;
    }
    findings.relative("free spinning body: energy after 60 s" + hz, energy, space.kinetic_energy(), 0.001, "J");
    findings.relative("free spinning body: angular momentum after 60 s" + hz, momentum.norm(),
                      angular_momentum(space, thrown).norm(), 0.001, "N·m·s");
    findings.absolute("free spinning body: turn of its angular momentum" + hz, 0,
                      (angular_momentum(space, thrown) - momentum).norm() / momentum.norm(), 0.001, "");
    // Period of Euler's equations (Landau and Lifshitz, Mechanics, § 37), with I1 < I2 < I3 sorted.
    const double i1 = inertia.minCoeff(), i3 = inertia.maxCoeff(), i2 = inertia.sum() - i1 - i3;
    const double l2 = momentum.squaredNorm(), twice = 2 * energy;
    const bool above = l2 > twice * i2;
    const double a = above ? (i3 - i2) * (l2 - twice * i1) : (i2 - i1) * (twice * i3 - l2);
    const double k2 = above ? (i2 - i1) * (twice * i3 - l2) / a : (i3 - i2) * (l2 - twice * i1) / a;
    const double period = 4 * elliptic_k(k2) * std::sqrt(i1 * i2 * i3 / a);
    const double measured =
        flips.size() > 2 ? 2 * (flips.back() - flips.front()) / static_cast<double>(flips.size() - 1) : std::nan("");
    findings.relative("free spinning body: period of its flips" + hz, period, measured, 0.01, "s");

    struct Drag {
      const char* name;
      double linear, area, damping, wanted;
    };
    const double m = 3;
    for (const Drag& d :
         {Drag{"linear drag", 2, 0, 0, m * g / 2}, Drag{"drag area", 0, 0.7, 0, std::sqrt(2 * m * g / (1.2 * 0.7))},
          Drag{"damping", 0, 0, 0.5, g / 0.5}}) {
      World air({.tick_rate = rate});
      BodySettings s;
      s.shape = Sphere{0.2};
      s.mass = m;
      s.linear_drag = d.linear;
      s.drag_area = d.area;
      s.linear_damping = d.damping;
      const BodyHandle body = air.create(s, {{{0, 1000, 0}}});
      run(air, 40);
      findings.relative(std::string("terminal speed by ") + d.name + hz, d.wanted, -air.motion(body).velocity.y(),
                        0.001, "m/s");
    }
  }
}

}  // namespace

void list_motion(std::vector<Experiment>& list) {
  list.push_back({"motion", prove_motion});
}

}  // namespace bronvel
