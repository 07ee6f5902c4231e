// Which bodies have pairs: none that touch are missed, whatever was moved, changed, removed or put to sleep.
#include <rapidcheck.h>

#include <catch2/catch.hpp>
#include <set>

#include "dynamics/world/world.h"
#include "geometry/base/random.h"
#include "geometry/queries/contact.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/hull.h"

using namespace bronvel;

namespace {

using Couple = std::pair<std::uint32_t, std::uint32_t>;

// Of all bodies with all others, those that are in each other so deep that a tick can't part them.
std::set<Couple> overlapping(const World& world) {
  std::set<Couple> found;
  const std::vector<BodyHandle> bodies = world.bodies();
  for (std::size_t i = 0; i < bodies.size(); ++i)
    for (std::size_t k = i + 1; k < bodies.size(); ++k) {
      const BodySettings &a = world.body_settings(bodies[i]), &b = world.body_settings(bodies[k]);
      if (a.kind != MotionKind::dynamic && b.kind != MotionKind::dynamic) continue;
      const BodyMotion ma = world.motion(bodies[i]), mb = world.motion(bodies[k]);
      const double speed = ma.velocity.norm() + mb.velocity.norm() +
                           0.6 * (ma.angular_velocity.norm() + mb.angular_velocity.norm()) + 4;  // pushed out, fallen
      const double deep = 0.02 + speed / world.settings().tick_rate;
      const Manifold m = collide(a.shape, world.motion(bodies[i]).pose, b.shape, world.motion(bodies[k]).pose, 0);
      for (int p = 0; p < m.count; ++p)
        if (m.points[static_cast<std::size_t>(p)].separation < -deep)
          found.insert({std::min(bodies[i].index, bodies[k].index), std::max(bodies[i].index, bodies[k].index)});
    }
  return found;
}

std::set<Couple> touching(const World& world) {
  std::set<Couple> found;
  for (const ContactEvent& contact : world.contacts())
    if (contact.phase != ContactPhase::part) found.insert({contact.a.index, contact.b.index});
  return found;
}

BodySettings any_body(Random& random) {
  static const Hull pebble =
      make_hull({{0.4, 0, 0}, {-0.4, 0, 0.1}, {0, 0.4, 0}, {0, -0.35, 0}, {0, 0, 0.4}, {0, 0.1, -0.4}});
  BodySettings body;
  const std::vector<Shape> shapes{Box{{0.7, 0.5, 0.6}}, Sphere{0.35}, pebble, Capsule{0.2, 0.5}};
  body.shape = shapes[random.bits() % shapes.size()];
  body.mass = random.between(0.5, 4);
  body.solid = random.share() < 0.8;
  body.may_sleep = random.share() < 0.5;
  return body;
}

Vec3 any_place(Random& random) {
  return {random.between(-2, 2), random.between(0.3, 3), random.between(-2, 2)};
}

}  // namespace

TEST_CASE("no overlap goes unseen while bodies come, go, are put elsewhere and change", "[random]") {
  std::size_t checked = 0;
  CHECK(rc::check("every deep overlap is a contact", [&] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    World world({});
    world.create({.kind = MotionKind::fixed, .shape = Box{{12, 1, 12}}}, {{{0, -0.5, 0}}});
    for (int i = 0; i < 25; ++i) world.create(any_body(random), {{any_place(random)}});
    for (int tick = 0; tick < 40; ++tick) {
      const std::vector<BodyHandle> bodies = world.bodies();
      const BodyHandle one = bodies[1 + random.bits() % (bodies.size() - 1)];
      switch (random.bits() % 8) {
        case 0:
          world.remove(one);
          world.create(any_body(random), {{any_place(random)}});  // takes its place in the lists
          break;
        case 1:
          world.place(one, {any_place(random), Quat::Identity()});
          break;
        case 2: {
          BodySettings other = any_body(random);
          other.kind = random.share() < 0.3 ? MotionKind::kinematic : MotionKind::dynamic;
          world.change(one, other);
          break;
        }
        case 3:
          world.set_velocity(one, Vec3(random.between(-9, 9), random.between(-2, 9), random.between(-9, 9)));
          break;
        default:
          break;
      }
      // What overlaps before the step is seen in it.
      const std::set<Couple> deep = overlapping(world);
      checked += deep.size();
      world.step();
      const std::set<Couple> seen = touching(world);
      for (const Couple& each : deep) {
        const auto of = [&](std::uint32_t index) {
          for (const BodyHandle body : world.bodies())
            if (body.index == index) return body;
          return BodyHandle{};
        };
        const BodyHandle a = of(each.first), b = of(each.second);
        // What sleeps, and lies on nothing that moves, is not looked at.
        const auto rests = [&](BodyHandle body) {
          return world.asleep(body) ||
                 (world.body_settings(body).kind != MotionKind::dynamic && world.velocity(body).isZero());
        };
        if (rests(a) && rests(b)) continue;
        for (const BodyHandle body : {a, b})
          RC_LOG() << "tick " << tick << ": " << shape_word(world.body_settings(body).shape) << ", speed "
                   << world.velocity(body).norm() << " m/s, asleep " << world.asleep(body) << "\n";
        RC_ASSERT(seen.contains(each));
      }
    }
  }));
  CHECK(checked > 1000);
}

TEST_CASE("many pairs, lined up in memory again and again, go on as from a snapshot") {
  // More than are worth lining up: a heap that rolls about.
  const auto island = [] {
    World world({});
    world.create({.kind = MotionKind::fixed, .shape = Box{{40, 1, 40}}}, {{{0, -0.5, 0}}});
    Random random(4);
    for (int i = 0; i < 400; ++i) {
      BodySettings body = any_body(random);
      body.solid = true;
      world.create(body, {{{0.8 * (i % 9) - 3, 0.5 + 0.75 * (i / 81), 0.8 * (i / 9 % 9) - 3}}});
    }
    return world;
  };
  World world = island();
  for (int i = 0; i < 40; ++i) world.step();
  REQUIRE(world.contacts().size() > 300);
  const WorldSnapshot then = world.snapshot();
  for (int i = 0; i < 40; ++i) world.step();
  const std::uint64_t first = world.digest();
  world.restore(then);
  for (int i = 0; i < 40; ++i) world.step();
  CHECK(world.digest() == first);
}

TEST_CASE("parts that come to lie in one another are seen, however slowly or suddenly their bodies get there") {
  // Two combs that go through one another a little at a time, and are put elsewhere now and then.
  std::vector<Part> teeth;
  for (int i = 0; i < 8; ++i) teeth.push_back({Box{{0.06, 0.4, 0.06}}, {{0.1 * i - 0.35, 0, 0}, Quat::Identity()}});
  teeth.push_back({Box{{0.8, 0.06, 0.06}}, {{0, -0.23, 0}, Quat::Identity()}});
  BodySettings comb;
  comb.shape = make_compound(teeth);
  comb.solid = false;
  comb.may_sleep = false;
  World world({.gravity = Vec3::Zero(), .tick_rate = 60});
  const BodyHandle still = world.create(comb, {}), moved = world.create(comb, {{{0, 0.3, 0}}});
  Random random(11);
  std::size_t checked = 0;
  for (int tick = 0; tick < 3000; ++tick) {
    Pose pose = world.motion(moved).pose;
    const double way = random.share() < 0.01 ? 0.3 : random.share() < 0.5 ? 0.002 : 0.0003;
    const auto any = [&] { return Vec3(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1)); };
    pose.position = (pose.position + way * any()).cwiseMax(-0.4).cwiseMin(0.4);
    const Vec3 half = 0.5 * way * any();
    pose.orientation = (Quat(1, half.x(), half.y(), half.z()) * pose.orientation).normalized();
    world.place(moved, pose);
    world.step();
    std::set<Couple> seen;
    for (const ContactEvent& contact : world.contacts())
      for (const PointName& name : contact.names) seen.insert({name.part_a, name.part_b});
    for (std::uint32_t a = 0; a < teeth.size(); ++a)
      for (std::uint32_t b = 0; b < teeth.size(); ++b) {
        const Manifold m = collide(teeth[a].shape, teeth[a].pose, teeth[b].shape, pose * teeth[b].pose, 0);
        if (m.count == 0 || m.points[0].separation > -1e-4) continue;
        ++checked;
        INFO("tick " << tick << ", parts " << a << " and " << b << ", " << m.points[0].separation << " m");
        CHECK(seen.contains({a, b}));
      }
  }
  CHECK(world.motion(still).pose.position.norm() == 0);
  CHECK(checked > 5000);
}
