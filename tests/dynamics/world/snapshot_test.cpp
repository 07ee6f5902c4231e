// A snapshot of everything at once: joints, waters, movers, sleepers, what breaks. What comes after it is the same
// again.
#include <catch2/catch.hpp>

#include "dynamics/world/world.h"
#include "geometry/base/random.h"

using namespace bronvel;

namespace {

struct Harbour {
  World world{WorldSettings{}};
  std::vector<BodyHandle> bodies;
  BodyHandle lift{};
  std::int64_t ticks = 0;

  // One tick, with what a script might do in it: told by the tick alone.
  void step() {
    const auto t = static_cast<double>(++ticks);
    world.move_to(lift, {{-6, 0.5 + 0.3 * std::sin(0.05 * t), 0}, Quat::Identity()});
    const BodyHandle body = bodies[static_cast<std::size_t>(ticks) % bodies.size()];
    if (world.alive(body) && ticks % 7 == 0) world.force(body, {3 * std::cos(t), 20, 0});
    if (world.alive(body) && ticks % 31 == 0) world.impulse_at(body, {0, 1, 0.5}, world.centre_of_mass(body));
    world.step();
  }
};

Harbour any_harbour(std::uint64_t seed) {
  Random random(seed);
  Harbour harbour;
  World& world = harbour.world;
  const auto any = [&](double low, double high) { return random.between(low, high); };
  const auto add = [&](MotionKind kind, const Shape& shape, const Vec3& place) {
    BodySettings settings;
    settings.kind = kind;
    settings.shape = shape;
    settings.mass = any(0.5, 5);
    settings.surface.restitution = any(0, 0.7);
    settings.surface.static_friction = settings.surface.dynamic_friction = any(0.1, 0.8);
    return world.create(settings, {{place, Quat::Identity()}, Vec3::Zero(), {any(-2, 2), any(-2, 2), any(-2, 2)}});
  };
  add(MotionKind::fixed, Box{{40, 1, 40}}, {0, -0.5, 0});
  harbour.lift = add(MotionKind::kinematic, Box{{2, 0.2, 2}}, {-6, 0.5, 0});
  for (int i = 0; i < 24; ++i) {
    const Shape shape = i % 3 == 0   ? Shape(Sphere{any(0.2, 0.5)})
                        : i % 3 == 1 ? Shape(Box{{any(0.3, 1), any(0.3, 1), any(0.3, 1)}})
                                     : Shape(Capsule{any(0.1, 0.3), any(0.2, 0.8)});
    harbour.bodies.push_back(add(MotionKind::dynamic, shape, {any(-7, 7), any(0.5, 5), any(-3, 3)}));
  }
  for (std::size_t i = 0; i + 1 < 8; i += 2) {
    JointSettings joint;
    joint.kind = i % 4 == 0 ? JointKind::ball : JointKind::distance;
    joint.a = harbour.bodies[i];
    joint.b = harbour.bodies[i + 1];
    joint.frame_a.position = {0.5, 0, 0};
    joint.frame_b.position = {-0.5, 0, 0};
    if (joint.kind == JointKind::distance) {
      joint.along.freedom = Freedom::limited;
      joint.along.high = 9;
    }
    joint.breaks_at_force = 400;
    world.join(joint);
  }
  ZoneSettings basin;
  basin.shape = Box{{6, 2, 8}};
  basin.pose.position = {5, 1, 0};
  basin.water.emplace();
  world.add_zone(basin);
  BreakSettings breaks;
  PieceRecipe recipe;
  recipe.count = 12;
  breaks.set = make_piece_set(make_pieces(Box{{1, 1, 1}}, recipe, nullptr), std::vector<char>(12, 0), {}, 0);
  breaks.strength.tension = breaks.strength.shear = 3e4;
  const BodyHandle crock = add(MotionKind::dynamic, Box{{1, 1, 1}}, {0, 4, 0});
  world.make_breakable(crock, breaks);
  harbour.bodies.push_back(crock);
  return harbour;
}

std::vector<std::uint64_t> digests_of(Harbour& harbour, int times) {
  std::vector<std::uint64_t> all;
  for (int i = 0; i < times; ++i) {
    harbour.step();
    all.push_back(harbour.world.digest());
  }
  return all;
}

}  // namespace

TEST_CASE("after a snapshot a world of everything goes on to the same bits, as often as it is gone back to") {
  for (std::uint64_t seed = 1; seed <= 2; ++seed)
    for (const int begin : {0, 90}) {
      INFO("seed " << seed << ", from tick " << begin);
      Harbour harbour = any_harbour(seed);
      for (int i = 0; i < begin; ++i) harbour.step();
      const WorldSnapshot moment = harbour.world.snapshot();
      const std::int64_t then = harbour.ticks;
      const std::size_t bodies = harbour.world.body_count(), joints = harbour.world.joints().size();
      const auto first = digests_of(harbour, 120);
      for (int again = 0; again < 2; ++again) {
        harbour.world.restore(moment);
        harbour.ticks = then;
        CHECK(harbour.world.body_count() == bodies);
        CHECK(harbour.world.joints().size() == joints);
        CHECK(digests_of(harbour, 120) == first);
      }
      // Into a world that was in the middle of something else.
      Harbour other = any_harbour(seed + 100);
      for (int i = 0; i < 50; ++i) other.step();
      other.world.restore(moment);
      other.ticks = then;
      other.bodies = harbour.bodies;
      other.lift = harbour.lift;
      CHECK(digests_of(other, 120) == first);
      // And with more threads.
      other.world.restore(moment);
      other.world.set_threads(3);
      other.ticks = then;
      CHECK(digests_of(other, 120) == first);
    }
}

TEST_CASE("a snapshot is not changed by what is done to its world") {
  Harbour harbour = any_harbour(9);
  for (int i = 0; i < 30; ++i) harbour.step();
  const WorldSnapshot moment = harbour.world.snapshot();
  const std::uint64_t digest = harbour.world.digest();
  for (const BodyHandle body : harbour.bodies)
    if (harbour.world.alive(body)) harbour.world.remove(body);
  for (const JointHandle joint : harbour.world.joints()) harbour.world.remove(joint);
  harbour.world.step();
  harbour.world.restore(moment);
  CHECK(harbour.world.digest() == digest);
  for (const BodyHandle body : harbour.bodies) CHECK(harbour.world.alive(body));
  CHECK_THROWS(harbour.world.restore({}));
  CHECK(harbour.world.digest() == digest);
}
