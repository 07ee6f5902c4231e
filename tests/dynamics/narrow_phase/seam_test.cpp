// Seams: what slides or rolls over faces that lie flush goes as over one face; a real edge is met as ever.
#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "dynamics/world/world.h"
#include "geometry/base/random.h"
#include "geometry/cutting/cut.h"
#include "geometry/shapes/compound.h"

using namespace bronvel;

namespace {

BodySettings smooth(const Shape& shape, double mass = 1) {
  BodySettings s;
  s.shape = shape;
  s.mass = mass;
  s.surface = {};
  s.surface.static_friction = s.surface.dynamic_friction = s.surface.restitution = 0;
  return s;
}

WorldSettings at(double rate) {
  WorldSettings settings;
  settings.tick_rate = rate;
  return settings;
}

// What was seen on the way.
struct Crossing {
  double speed = 0;     // along X at the end, m/s
  double highest = 0;   // above where it began, m
  double lowest = 0;    // m
  double sideways = 0;  // the most that a new touch was told to push along the floor: |normal.xz|
};

Crossing cross(World& world, BodyHandle body, double until, double longest = 30) {
  const Vec3 start = world.motion(body).pose.position;
  Crossing seen;
  for (int i = 0; i < longest * world.settings().tick_rate && world.motion(body).pose.position.x() < until; ++i) {
    world.step();
    const double y = world.motion(body).pose.position.y() - start.y();
    seen.highest = std::max(seen.highest, y);
    seen.lowest = std::min(seen.lowest, y);
    for (const ContactEvent& event : world.contacts())
      if (event.phase == ContactPhase::touch)
        seen.sideways = std::max(seen.sideways, std::hypot(event.normal.x(), event.normal.z()));
  }
  seen.speed = world.velocity(body).x();
  return seen;
}

Hull box_hull(const Vec3& size) {
  return *hull_of(facets_of(Box{size}));
}

}  // namespace

TEST_CASE("a crate and a ball cross the seam of two slabs as if it were one") {
  for (const double rate : {30.0, 60.0, 120.0, 240.0})
    for (const double speed : {0.05, 0.15, 0.5, 3.0, 12.0, 40.0})
      for (const bool ball : {false, true})
        for (const double phase : {0.0, 0.13, 0.37, 0.71}) {
          World world(at(rate));
          BodySettings slab = smooth(Box{{30, 1, 4}});
          slab.kind = MotionKind::fixed;
          world.create(slab, {{{-15, -0.5, 0}}});
          world.create(slab, {{{15, -0.5, 0}}});
          const Shape shape = ball ? Shape(Sphere{0.15}) : Shape(Box{{0.3, 0.3, 0.3}});
          const double before = std::min(6.0, 40 * speed / rate);
          const BodyHandle body =
              world.create(smooth(shape), {{{-before - 0.15 - phase * speed / rate, 0.15, 0}}, {speed, 0, 0}});
          const Crossing seen = cross(world, body, std::min(before, 2.0));
          INFO(rate << " Hz, " << speed << " m/s, " << (ball ? "ball" : "crate") << ", phase " << phase);
          // A crate leans by a hair as its load goes over from slab to slab: gravity takes half a millimetre a second.
          CHECK(seen.speed == Approx(speed).epsilon(1e-3).margin(6e-4));
          CHECK(seen.highest < 1e-4);
          CHECK(seen.sideways < 0.01);
        }
}

namespace {

// A level floor of tiles along X, whose tops stand up or lie down by at most `step`, with gaps of at most `gap`.
struct TiledFloor {
  double step = 0, gap = 0;  // m
  MotionKind kind = MotionKind::fixed;
  Vec3 velocity = Vec3::Zero();
  bool compound = false, hulls = false;
};

void lay(World& world, const TiledFloor& floor, Random& random, double from, double to) {
  std::vector<Part> parts;
  for (double x = from; x < to;) {
    const double length = x == from ? 4 : random.between(0.3, 1.2);
    const double thick = random.between(0.2, 1);
    const double top = floor.step * random.between(-0.5, 0.5);
    const Vec3 size(length, thick, 4), middle(x + 0.5 * length, top - 0.5 * thick, 0);
    const Shape shape = floor.hulls && random.share() < 0.5 ? Shape(box_hull(size)) : Shape(Box{size});
    if (floor.compound) {
      parts.push_back({shape, {middle}, 1});
    } else {
      BodySettings tile = smooth(shape);
      tile.kind = floor.kind;
      world.create(tile, {{middle}, floor.velocity});
    }
    x += length + floor.gap * random.share();
  }
  if (!floor.compound) return;
  BodySettings all = smooth(make_compound(parts));
  all.kind = floor.kind;
  world.create(all, {{}, floor.velocity});
}

Shape some_slider(Random& random) {
  const double size = random.between(0.2, 0.5);
  switch (random.bits() % 4) {
    case 0:
      return Box{{size, size * random.between(0.5, 1), size}};
    case 1:
      return Sphere{0.5 * size};
    case 2:
      return box_hull({size, 0.6 * size, size});
    default:
      return Cylinder{0.5 * size, size};
  }
}

}  // namespace

TEST_CASE("over any level floor cut into tiles a body goes as over one slab", "[random]") {
  CHECK(rc::check("static, kinematic, compound, hulls; steps and gaps", [] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    const std::array<double, 4> rates{30, 60, 120, 240};
    World world(at(rates[random.bits() % 4]));
    TiledFloor floor;
    floor.step = random.share() < 0.5 ? 0 : random.between(0, 5e-4);
    floor.gap = random.share() < 0.5 ? 0 : random.between(0, 2e-3);
    floor.kind = random.share() < 0.7 ? MotionKind::fixed : MotionKind::kinematic;
    if (floor.kind == MotionKind::kinematic) floor.velocity = {random.between(-1, 1), 0, 0};
    floor.compound = random.share() < 0.3;
    floor.hulls = random.share() < 0.5;
    lay(world, floor, random, -7, 6);
    const Shape shape = some_slider(random);
    // What goes farther in a tick than it is long crosses tiles that bear it at no tick's start, and may catch.
    const double fastest = std::min(floor.step > 0 ? 8.0 : 20.0, 0.15 * world.settings().tick_rate);
    const double speed = std::exp(random.between(std::log(floor.step > 0 ? 2 : 0.3), std::log(fastest)));
    const double up = -shape_bounds(shape, Pose{}).low.y();
    const Quat turn(Eigen::AngleAxisd(random.between(0, 6), Vec3::Unit(1)));
    const BodyHandle body = world.create(smooth(shape), {{{-4, up + 0.5 * floor.step, random.between(-1, 1)}, turn},
                                                         {speed + floor.velocity.x(), 0, 0}});
    const Crossing seen = cross(world, body, 4, 7.5 / speed);
    RC_LOG() << "rate " << world.settings().tick_rate << " step " << floor.step << " gap " << floor.gap << " compound "
             << floor.compound << " hulls " << floor.hulls << " " << shape_word(shape) << " at " << speed << ", left "
             << seen.speed - floor.velocity.x() << " highest " << seen.highest << " sideways " << seen.sideways << '\n';
    RC_ASSERT(std::abs(seen.speed - floor.velocity.x() - speed) <= 1e-3 * speed + 6e-4 + 4 * 9.81 * floor.step / speed);
    RC_ASSERT(seen.highest <= 1e-4 + floor.step);
    RC_ASSERT(std::abs(world.velocity(body).z()) <= 1e-3 * speed + 1e-3);
  }));
}

TEST_CASE("a crate that stands just at a seam can be pushed over it, however gently") {
  for (const double rate : {30.0, 60.0, 120.0, 240.0})
    for (const double force : {0.05, 1.0, 20.0}) {
      World world(at(rate));
      BodySettings slab = smooth(Box{{4, 1, 4}});
      slab.kind = MotionKind::fixed;
      world.create(slab, {{{-2, -0.5, 0}}});
      world.create(slab, {{{2, -0.5, 0}}});
      const BodyHandle body = world.create(smooth(Box{{1, 1, 1}}), {{{-0.5, 0.5, 0}}});
      for (int i = 0; i < static_cast<int>(rate); ++i) world.step();
      const int ticks = static_cast<int>(rate);
      for (int i = 0; i < ticks; ++i) {
        world.force(body, {force, 0, 0});
        world.step();
      }
      INFO(rate << " Hz, " << force << " N");
      CHECK(world.velocity(body).x() == Approx(force).epsilon(2e-3).margin(6e-4));
    }
}

TEST_CASE("a kerb of five millimetres, a wall's corner and a wedge are met as ever") {
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    INFO(rate << " Hz");
    const auto met = [&](const Shape& shape, const Vec3& place, double height, double speed) {
      World world(at(rate));
      BodySettings slab = smooth(Box{{30, 1, 4}});
      slab.kind = MotionKind::fixed;
      world.create(slab, {{{-15, -0.5, 0}}});
      BodySettings kerb = smooth(Box{{2, 1, 4}});
      kerb.kind = MotionKind::fixed;
      world.create(kerb, {{{1, -0.5 + height, 0}}});
      const BodyHandle body = world.create(smooth(shape), {{place}, {speed, 0, 0}});
      for (int i = 0; i < static_cast<int>(0.1 * rate); ++i) world.step();
      return world.velocity(body).x();
    };
    // A crate goes round the kerb's edge: its angular momentum about that stays, m v h = I ω.
    const double up = 0.145, about = 0.3 * 0.3 / 6 + 0.15 * 0.15 + up * up;  // m, m²
    CHECK(met(Box{{0.3, 0.3, 0.3}}, {-0.3, 0.15, 0}, 0.005, 3) == Approx(3 * up / about * up).epsilon(0.04));
    CHECK(std::abs(met(Box{{0.3, 0.3, 0.3}}, {-0.3, 0.15, 0}, 1, 3)) < 1e-5);
    // A ball keeps what goes along the tangent of the edge, and of that its part along the floor: v cos².
    CHECK(met(Sphere{0.15}, {-0.3, 0.15, 0}, 0.005, 3) == Approx(3 * std::pow(up / 0.15, 2)).epsilon(0.02));
  }
}

TEST_CASE("over bodies that sleep side by side a crate and a ball go as over one") {
  for (const double rate : {30.0, 60.0, 120.0, 240.0})
    for (const bool ball : {false, true}) {
      World world(at(rate));
      BodySettings ground;
      ground.kind = MotionKind::fixed;
      ground.shape = Box{{60, 1, 10}};
      world.create(ground, {{{0, -1, 0}}});
      BodySettings block;
      block.shape = Box{{0.5, 0.5, 2}};
      block.mass = 500;
      std::vector<BodyHandle> blocks;
      for (int i = 0; i < 20; ++i) blocks.push_back(world.create(block, {{{-4.75 + 0.5 * i, -0.25, 0}}}));
      for (int i = 0; i < static_cast<int>(2 * rate); ++i) world.step();
      for (const BodyHandle each : blocks) CHECK(world.asleep(each));
      BodySettings mover = smooth(ball ? Shape(Sphere{0.15}) : Shape(Box{{0.3, 0.3, 0.3}}));
      mover.surface.friction_combine = Combine::minimum;
      const BodyHandle body = world.create(mover, {{{-4.6, 0.15, 0}}, {3, 0, 0}});
      const Crossing seen = cross(world, body, 2);
      INFO(rate << " Hz, " << (ball ? "ball" : "crate"));
      CHECK(seen.speed == Approx(3).epsilon(1e-3));
      CHECK(seen.highest < 1e-4);
    }
}
