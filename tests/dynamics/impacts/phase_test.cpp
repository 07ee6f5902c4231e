// Drops and hits of every shape in every phase of the tick: what comes back, and that nothing is made or lost.
#include <catch2/catch.hpp>
#include <cmath>

#include "dynamics/world/world.h"
#include "geometry/base/random.h"
#include "geometry/shapes/hull.h"

using namespace bronvel;

namespace {

constexpr int phases = 24;

struct Kind {
  const char* name;
  Shape shape;
  double below;  // from its origin down to where it touches, m
};

std::vector<Kind> kinds() {
  std::vector<Vec3> six;
  for (int i = 0; i < 6; ++i)
    for (const double y : {-0.3, 0.3}) six.emplace_back(0.5 * std::cos(pi / 3 * i), y, 0.5 * std::sin(pi / 3 * i));
  return {{"ball", Sphere{0.4}, 0.4},
          {"box", Box{{1, 0.6, 0.8}}, 0.3},
          {"capsule", Capsule{0.3, 0.8}, 0.7},
          {"cylinder", Cylinder{0.4, 0.6}, 0.3},
          {"hull", make_hull(six), 0.3}};
}

BodySettings bouncing(const Shape& shape, double mass, double restitution) {
  BodySettings settings;
  settings.shape = shape;
  settings.mass = mass;
  settings.surface.restitution = restitution;
  settings.surface.static_friction = settings.surface.dynamic_friction = 0;
  return settings;
}

BodyMotion moving(const Vec3& place, const Vec3& velocity) {
  return {{place, Quat::Identity()}, velocity, Vec3::Zero()};
}

}  // namespace

TEST_CASE("dropped flat, every shape comes back with its share of the speed, in every phase of the tick", "[long]") {
  for (const Kind& kind : kinds())
    for (const double rate : {30.0, 60.0, 120.0, 240.0})
      for (const double restitution : {0.3, 0.8, 1.0}) {
        double worst = 0;
        for (int phase = 0; phase < phases; ++phase) {
          World world({.tick_rate = rate});
          BodySettings floor = bouncing(Box{{20, 1, 20}}, 1, restitution);
          floor.kind = MotionKind::fixed;
          world.create(floor, moving({0, -0.5, 0}, Vec3::Zero()));
          const double height = 1 + 0.3 * phase / phases;
          const BodyHandle body =
              world.create(bouncing(kind.shape, 3, restitution), moving({0, height + kind.below, 0}, Vec3::Zero()));
          // Until it is on its way up: what it then has of v² / 2 + g h.
          double rising = -1;
          for (int i = 0; i < 3 * static_cast<int>(rate) && rising < 0; ++i) {
            world.step();
            const BodyMotion now = world.motion(body);
            if (now.velocity.y() > 0)
              rising = std::sqrt(now.velocity.squaredNorm() + 2 * 9.81 * (now.pose.position.y() - kind.below));
          }
          worst = std::max(worst, std::abs(rising / (restitution * std::sqrt(2 * 9.81 * height)) - 1));
        }
        INFO(kind.name << " at " << rate << " Hz, restitution " << restitution << ": off by " << worst);
        CHECK(worst < 1e-3);
      }
}

TEST_CASE("head on, every shape hands on what Newton says, awake or asleep, in every phase", "[long]") {
  for (const Kind& kind : kinds())
    for (const bool asleep : {false, true})
      for (const double mass : {0.3, 1.0, 4.0}) {
        double worst = 0;
        for (int phase = 0; phase < phases; ++phase) {
          constexpr double speed = 3, restitution = 0.6;
          World world({});
          BodySettings floor = bouncing(Box{{40, 1, 40}}, 1, restitution);
          floor.meets = 1;  // not what is thrown
          floor.kind = MotionKind::fixed;
          world.create(floor, moving({0, -0.5, 0}, Vec3::Zero()));
          const BodyHandle still =
              world.create(bouncing(Box{{1, 1, 1}}, 1, restitution), moving({0, 0.5, 0}, Vec3::Zero()));
          for (int i = 0; i < 60 && asleep; ++i) world.step();
          REQUIRE(world.asleep(still) == asleep);
          // In the air before it, so that no floor takes part; as high as the other's middle when it comes there.
          BodySettings thrown = bouncing(kind.shape, mass, restitution);
          thrown.gravity_factor = 0;
          thrown.groups = 2;
          const BodyHandle body = world.create(thrown, moving({-2 - 0.05 * phase / phases, 0.5, 0}, {speed, 0, 0}));
          for (int i = 0; i < 60; ++i) world.step();
          const double impulse = mass / (mass + 1) * (1 + restitution) * speed;
          const double wanted_still = impulse, wanted = speed - impulse / mass;
          worst = std::max({worst, std::abs(world.velocity(still).x() - wanted_still) / speed,
                            std::abs(world.velocity(body).x() - wanted) / speed});
        }
        INFO(kind.name << " of " << mass << " kg against one " << (asleep ? "asleep" : "awake") << ": off by "
                       << worst);
        CHECK(worst < 1e-3);
      }
}

TEST_CASE("a touch is told once, in the tick in which the body turns round, with all of its impulse") {
  for (const Kind& kind : kinds())
    for (int phase = 0; phase < phases; ++phase) {
      INFO(kind.name << ", phase " << phase);
      World world({});
      BodySettings floor = bouncing(Box{{20, 1, 20}}, 1, 0.7);
      floor.kind = MotionKind::fixed;
      world.create(floor, moving({0, -0.5, 0}, Vec3::Zero()));
      const double height = 1 + 0.3 * phase / phases, fast = std::sqrt(2 * 9.81 * height);
      const BodyHandle body =
          world.create(bouncing(kind.shape, 3, 0.7), moving({0, height + kind.below, 0}, Vec3::Zero()));
      int touches = 0;
      for (int i = 0; i < 50; ++i) {
        const double before = world.velocity(body).y();
        world.step();
        for (const ContactEvent& contact : world.contacts()) {
          if (contact.phase != ContactPhase::touch) continue;
          ++touches;
          CHECK(before < 0);
          CHECK(world.velocity(body).y() > 0);
          CHECK(contact.normal_impulse == Approx(3 * 1.7 * fast).epsilon(2e-3));
          CHECK(contact.closing_speed == Approx(fast).epsilon(2e-2));
        }
      }
      CHECK(touches == 1);
    }
}

TEST_CASE("turned any way, every shape keeps its momenta and never gains in a hit") {
  Random random(41);
  const std::vector<Kind> all = kinds();
  for (int i = 0; i < 240; ++i) {
    World world({.gravity = Vec3::Zero(), .restitution_speed = 0});
    const auto any = [&](double low, double high) { return random.between(low, high); };
    const auto turned = [&] { return Quat(any(-1, 1), any(-1, 1), any(-1, 1), any(-1, 1)).normalized(); };
    const Kind &one = all[random.bits() % all.size()], &other = all[random.bits() % all.size()];
    const double restitution = random.share() < 0.3 ? 1 : random.share();
    BodySettings a = bouncing(one.shape, any(0.5, 4), restitution), b = bouncing(other.shape, any(0.5, 4), restitution);
    a.surface.static_friction = b.surface.static_friction = a.surface.dynamic_friction = b.surface.dynamic_friction =
        random.share() < 0.5 ? 0 : 0.5;
    const BodyHandle first = world.create(
        a, {{{-2, any(-0.3, 0.3), any(-0.3, 0.3)}, turned()}, {any(1, 8), 0, 0}, {any(-3, 3), any(-3, 3), any(-3, 3)}});
    const BodyHandle second =
        world.create(b, {{{2, 0, 0}, turned()}, {-any(0, 4), 0, 0}, {any(-3, 3), any(-3, 3), any(-3, 3)}});
    const auto momentum = [&] { return Vec3(a.mass * world.velocity(first) + b.mass * world.velocity(second)); };
    const auto turning = [&] {
      Vec3 sum = Vec3::Zero();
      for (const BodyHandle body : {first, second}) {
        const BodyMotion m = world.motion(body);
        const MassProperties mass = world.mass(body);
        const Mat3 turn = m.pose.orientation.toRotationMatrix();
        sum += world.centre_of_mass(body).cross(mass.mass * m.velocity) +
               turn * mass.inertia * turn.transpose() * m.angular_velocity;
      }
      return sum;
    };
    const Vec3 before = momentum(), turning_before = turning();
    const double energy = world.kinetic_energy();
    for (int t = 0; t < 120; ++t) world.step();
    INFO(one.name << " and " << other.name << ", restitution " << restitution << ", number " << i);
    CHECK((momentum() - before).norm() < 1e-9 * (1 + before.norm()));
    CHECK((turning() - turning_before).norm() < 1e-6 * (1 + turning_before.norm()));
    CHECK(world.kinetic_energy() < energy * (1 + 1e-6));
  }
}
