// Whatever happens, books add up to what bodies have become, the engine's own share is small, and no bit changes.
#include <catch2/catch.hpp>

#include "dynamics/runs.h"
#include "geometry/base/random.h"

using namespace bronvel;

namespace {

// A heap of what there is: crates, balls, capsules, on a floor and on joints, in water, wind and under a pull.
World wild_world(std::uint64_t seed) {
  Random random(seed);
  const auto any = [&](double low, double high) { return random.between(low, high); };
  World world({.gravity = {0, -9.81, 0}, .tick_rate = 60.0 * (1 + static_cast<double>(seed % 2))});
  BodySettings floor;
  floor.kind = MotionKind::fixed;
  floor.shape = Box{{30, 1, 30}};
  world.create(floor, {{{0, -0.5, 0}, Quat::Identity()}});
  std::vector<BodyHandle> bodies;
  for (int i = 0; i < 14; ++i) {
    BodySettings settings;
    const double size = any(0.2, 0.6);
    if (i % 3 == 0) settings.shape = Sphere{size};
    if (i % 3 == 1) settings.shape = Box{{size, any(0.2, 0.6), any(0.2, 0.6)}};
    if (i % 3 == 2) settings.shape = Capsule{0.5 * size, any(0.2, 0.6)};
    settings.mass = any(0.5, 20);
    settings.surface.restitution = any(0, 0.9);
    settings.surface.rolling_friction = i % 4 == 0 ? 0.05 : 0;
    settings.linear_damping = i % 5 == 0 ? 0.2 : 0;
    settings.angular_damping = i % 5 == 1 ? 0.4 : 0;
    settings.drag_area = i % 2 == 0 ? 0.1 : 0;
    if (i == 6) settings.locks.turn = {true, false, true};
    if (i == 7) settings.locks.move[2] = true;
    BodyMotion motion;
    motion.pose.position = {any(-3, 3), any(0.7, 5), any(-3, 3)};
    motion.velocity = {any(-4, 4), any(-4, 4), i == 7 ? 0 : any(-4, 4)};
    motion.angular_velocity = i == 6 ? Vec3(0, 3, 0) : Vec3(any(-9, 9), any(-9, 9), any(-9, 9));
    bodies.push_back(world.create(settings, motion));
  }
  // Tied as they stand.
  const auto tie = [&](JointKind kind, BodyHandle a, BodyHandle b) {
    JointSettings joint;
    joint.kind = kind;
    joint.a = a;
    joint.b = b;
    const Pose at_a = world.motion(a).pose, at_b = b == BodyHandle{} ? Pose{} : world.motion(b).pose;
    const Pose middle{0.5 * (at_a.position + (b == BodyHandle{} ? at_a.position : at_b.position)), Quat::Identity()};
    const auto seen_from = [&](const Pose& pose) {
      const Quat back = pose.orientation.conjugate();
      return Pose{back * (middle.position - pose.position), back * middle.orientation};
    };
    joint.frame_a = seen_from(at_a);
    joint.frame_b = seen_from(at_b);
    if (kind == JointKind::distance) {
      joint.frame_a = joint.frame_b = Pose{};
      joint.along.freedom = Freedom::limited;
      joint.along.high = (at_b.position - at_a.position).norm() + 0.2;
      joint.along.stiffness = 200;
      joint.along.damping = 3;
    }
    world.join(joint);
  };
  tie(JointKind::ball, bodies[8], bodies[12]);
  tie(JointKind::distance, bodies[9], bodies[13]);
  tie(JointKind::hinge, bodies[10], BodyHandle{});
  tie(JointKind::fixed, bodies[11], bodies[13]);
  ZoneSettings sea;
  sea.shape = Box{{4, 2, 4}};
  sea.pose.position = {4, 0.5, 0};
  sea.water = Water{};
  world.add_zone(sea);
  ZoneSettings wind;
  wind.shape = Box{{4, 6, 4}};
  wind.pose.position = {-4, 2, 0};
  wind.wind = {6, 0, 1};
  wind.gravity_factor = 0.5;
  world.add_zone(wind);
  return world;
}

}  // namespace

TEST_CASE("books of wild worlds add up, and the solver's own part is small") {
  for (std::uint64_t seed = 1; seed <= 12; ++seed) {
    World world = wild_world(seed), same = wild_world(seed);
    world.keep_all_books();
    Random random(seed + 100);
    double turnover = 0, solver = 0, pushed = 0, solver_pushed = 0;
    for (int tick = 0; tick < 180; ++tick) {
      for (World* each : {&world, &same}) {
        Random now(seed * 1000 + static_cast<std::uint64_t>(tick));
        const std::vector<BodyHandle> bodies = each->bodies();
        const BodyHandle body = bodies[1 + static_cast<std::size_t>(tick) % (bodies.size() - 1)];
        const Vec3 push(now.between(-1, 1), now.between(-1, 1), now.between(-1, 1));
        if (tick % 7 == 0) each->impulse_at(body, push, each->centre_of_mass(body) + Vec3(0, 0.1, 0));
        if (tick % 11 == 0) each->force(body, 50 * push);
        if (tick % 31 == 0) each->set_velocity(body, push);
        each->step();
      }
      for (const BodyBooks& books : world.books()) {
        Vec3 impulse = books.momentum_before - books.momentum, turn = books.turning_before - books.turning;
        double work = books.kinetic_before - books.kinetic - books.lifted, sizes = 0, works = 0;
        for (const BookLine& line : books.lines) {
          impulse += line.impulse;
          turn += line.turn;
          if (line.cause != Cause::weight) work += line.work;
          sizes += line.impulse.norm() + line.turn.norm();
          works += std::abs(line.work);
          if (line.cause != Cause::solver) continue;
          solver += std::abs(line.work);
          solver_pushed += line.impulse.norm() + line.turn.norm();
        }
        const double scale = sizes + books.momentum.norm() + books.turning.norm() + 1e-9;
        CHECK(impulse.norm() < 1e-9 * scale);
        CHECK(turn.norm() < 1e-9 * scale);
        CHECK(std::abs(work) < 1e-9 * (works + books.kinetic + books.kinetic_before + 1e-9));
        turnover += works;
        pushed += sizes;
      }
    }
    INFO("seed " << seed << ": solver " << solver / turnover << " of " << turnover << " J, " << solver_pushed / pushed);
    CHECK(solver < 1e-2 * turnover);
    CHECK(solver_pushed < 1e-3 * pushed);
    CHECK(world.digest() == same.digest());
  }
}
