// Bodies that break: what is kept at the moment of breaking, what holds and what does not.
#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "dynamics/runs.h"
#include "dynamics/sums.h"
#include "dynamics/world/blast.h"
#include "dynamics/world/world.h"
#include "geometry/base/error.h"
#include "geometry/base/random.h"
#include "geometry/cutting/cut.h"
#include "geometry/shapes/compound.h"

using namespace bronvel;

namespace {

BodySettings box(const Vec3& size, double mass) {
  BodySettings s;
  s.shape = Box{size};
  s.mass = mass;
  s.surface.restitution = 0;
  return s;
}

BreakSettings broken_into(const Shape& shape, const PieceRecipe& recipe, const BondStrength& strength,
                          const std::function<bool(const Vec3&)>& held = nullptr) {
  BreakSettings settings;
  std::vector<double> densities;
  std::vector<Hull> pieces = make_pieces(shape, recipe, &densities);
  std::vector<char> anchored;
  anchored.reserve(pieces.size());
  for (const Hull& piece : pieces) anchored.push_back(held && held(piece.data->centre) ? 1 : 0);
  settings.set = make_piece_set(std::move(pieces), std::move(anchored), std::move(densities), 0);
  settings.strength = strength;
  return settings;
}

PieceRecipe cells(int count, std::uint64_t seed = 1) {
  PieceRecipe recipe;
  recipe.count = count;
  recipe.seed = seed;
  return recipe;
}

WorldSettings weightless() {
  WorldSettings settings;
  settings.gravity.setZero();
  return settings;
}

BodyHandle add_floor(World& world) {
  BodySettings floor = box({40, 1, 40}, 1);
  floor.kind = MotionKind::fixed;
  return world.create(floor, {{{0, -0.5, 0}}});
}

}  // namespace

TEST_CASE("cutting and shattering keep mass and momenta to rounding and make no energy", "[random]") {
  CHECK(rc::check("any shape, any motion, cut or shattered", [] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    World world(weightless());
    const std::vector<Shape> shapes{
        Box{{1, 0.5, 2}},
        make_compound({{Box{{1, 0.2, 0.4}}, {{0.3, 0, 0}}, 3}, {Box{{0.3, 0.3, 0.3}}, {{-0.7, 0.1, 0}}}}),
        *hull_of(facets_of(Cone{0.5, 1}))};
    BodySettings s;
    s.shape = shapes[random.bits() % shapes.size()];
    s.mass = random.between(0.1, 50);
    const auto some = [&](double most) {
      return Vec3(random.between(-most, most), random.between(-most, most), random.between(-most, most));
    };
    const Quat turn = Quat(random.share(), random.share(), random.share(), random.share() + 0.1).normalized();
    const BodyHandle body = world.create(s, {{some(5), turn}, some(10), some(8)});
    const Sums before = sums_of(world);
    if (random.share() < 0.5) {
      world.slice(body, world.centre_of_mass(body), Vec3(some(1) + Vec3(0.01, 0, 0)));
    } else {
      RC_ASSERT(world.shatter(body, cells(20, random.bits())).size() > 1);
    }
    const Sums after = sums_of(world);
    RC_ASSERT(world.body_count() > 1);
    RC_ASSERT(std::abs(after.mass - before.mass) < 1e-9 * before.mass);
    RC_ASSERT((after.momentum - before.momentum).norm() < 1e-9 * (1 + before.momentum.norm()));
    RC_ASSERT((after.turning - before.turning).norm() < 1e-9 * (1 + before.turning.norm()));
    RC_ASSERT(after.energy <= before.energy * (1 + 1e-9));
  }));
}

TEST_CASE("parts do not start in each other") {
  World world(weightless());
  const BodyHandle body = world.create(box({1, 0.5, 2}, 10), {});
  world.shatter(body, cells(40));
  world.step();
  for (const ContactEvent& contact : world.contacts())
    for (const Vec3& point : contact.points)
      for (const BodyHandle each : {contact.a, contact.b}) {
        const auto near = world.nearest_on(each, point, 1);
        REQUIRE(near);
        CHECK(near->distance > -1e-4);
      }
  run(world, 2);
  for (const BodyHandle each : world.bodies()) CHECK(world.velocity(each).norm() < 1e-3);
}

TEST_CASE("what can't be cut says why") {
  World world({});
  const BodyHandle body = world.create(box({1, 1, 1}, 1), {});
  CHECK_THROWS_WITH(world.slice(body, {5, 0, 0}, Vec3::Unit(0)), Catch::Contains("misses"));
  CHECK_THROWS_WITH(world.slice(body, {0.499999, 0, 0}, Vec3::Unit(0)), Catch::Contains("grazes"));
  CHECK_THROWS_WITH(world.slice(body, {0, 0, 0}, Vec3::Zero()), Catch::Contains("direction"));
  CHECK_THROWS_WITH(world.slice(body, {NAN, 0, 0}, Vec3::Unit(0)), Catch::Contains("point"));
  const BodyHandle floor = add_floor(world);
  CHECK_THROWS_WITH(world.slice(floor, {0, -0.5, 0}, Vec3::Unit(0)), Catch::Contains("static"));
  CHECK(world.body_count() == 2);
}

TEST_CASE("a joint stays with the part that it holds") {
  World world({});
  const BodyHandle plank = world.create(box({4, 0.2, 0.4}, 20), {});
  JointSettings rope;
  rope.kind = JointKind::distance;
  rope.b = plank;
  rope.frame_a.position = {1.8, 3, 0};
  rope.frame_b.position = {1.8, 0, 0};
  rope.along.freedom = Freedom::limited;
  rope.along.high = 3;
  const JointHandle joint = world.join(rope);
  const BodyHandle other = world.slice(plank, {0.5, 0, 0}, Vec3::Unit(0));
  CHECK(world.joint_settings(joint).b == other);
  run(world, 2);
  CHECK(world.motion(plank).pose.position.y() < -10);
  CHECK(world.motion(other).pose.position.y() > -1);
  CHECK(world.mass(plank).mass + world.mass(other).mass == Approx(20));
}

TEST_CASE("an unbroken body is one body, and falls and rests as one") {
  const auto rest = [](bool breaks) {
    World world({});
    add_floor(world);
    const BodyHandle body = world.create(box({1, 0.5, 1}, 30), {{{0, 0.26, 0}}});
    if (breaks) world.make_breakable(body, broken_into(Box{{1, 0.5, 1}}, cells(30), {.tension = 1e9, .shear = 1e9}));
    run(world, 2);
    CHECK(world.body_count() == 2);
    CHECK(world.cracks().empty());
    return world.digest();
  };
  CHECK(rest(true) == rest(false));
}

TEST_CASE("a hit at speed breaks a pane, goes on through it, and both keep their momentum") {
  World world(weightless());
  const Shape pane = Box{{2, 2, 0.03}};
  BodySettings glass = box({2, 2, 0.03}, 60);
  const BodyHandle sheet = world.create(glass, {});
  world.make_breakable(sheet, broken_into(pane, cells(60), {.tension = 5e4, .shear = 5e4}));
  BodySettings ball;
  ball.shape = Sphere{0.1};
  ball.mass = 5;
  const BodyHandle shot = world.create(ball, {{{0.1, 0.2, -0.5}}, {0, 0, 20}});
  const Sums before = sums_of(world);
  std::size_t parts = 0;
  double energy = before.energy;
  for (int i = 0; i < 60; ++i) {
    world.step();
    for (const CrackEvent& crack : world.cracks()) {
      CHECK(crack.use >= 1);
      CHECK(crack.parts.front() == crack.body);
      parts = std::max(parts, crack.parts.size());
    }
    const Sums now = sums_of(world);
    // Shards that lie in one another by a hair are pushed apart.
    CHECK(now.energy <= energy * (1 + 1e-5));
    energy = now.energy;
    CHECK(now.mass == Approx(before.mass).epsilon(1e-9));
    CHECK((now.momentum - before.momentum).norm() < 1e-6 * before.momentum.norm());
  }
  CHECK(parts > 3);
  CHECK(world.velocity(shot).z() > 6);  // it went through
}

TEST_CASE("the same hit on an anchored pane leaves its frame standing") {
  World world({});
  add_floor(world);
  BodySettings glass = box({2, 2, 0.03}, 60);
  const BodyHandle sheet = world.create(glass, {{{0, 1.2, 0}}});
  PieceRecipe recipe;
  recipe.kind = PieceRecipe::Kind::pane;
  recipe.rings = 5;
  recipe.spokes = 11;
  world.make_breakable(sheet, broken_into(Box{{2, 2, 0.03}}, recipe, {.tension = 5e4, .shear = 5e4}, [](const Vec3& c) {
                         return std::max(std::abs(c.x()), std::abs(c.y())) > 0.7;
                       }));
  CHECK(world.body_settings(sheet).kind == MotionKind::fixed);
  run(world, 0.5);
  CHECK(world.body_count() == 2);
  BodySettings ball;
  ball.shape = Sphere{0.1};
  ball.mass = 5;
  const BodyHandle shot = world.create(ball, {{{0, 1.2, -1}}, {0, 1, 20}});
  run(world, 1);
  CHECK(world.body_count() > 5);
  CHECK(world.body_settings(sheet).kind == MotionKind::fixed);
  // Where it was made stands where it stood, and its frame at the middle of what is left.
  CHECK((world.motion(sheet).pose.to_scene(-world.frame_shift(sheet)) - Vec3(0, 1.2, 0)).norm() < 1e-12);
  CHECK((world.motion(sheet).pose.position - world.centre_of_mass(sheet)).norm() < 1e-9);
  CHECK(world.motion(shot).pose.position.z() > 1);
}

TEST_CASE("hits just below the threshold leave it whole, a hundred times out of a hundred; just above, none does") {
  const auto whole_after = [](double speed) {
    World world(weightless());
    const BodyHandle bar = world.create(box({1, 0.2, 0.2}, 40), {});
    PieceRecipe recipe;
    recipe.kind = PieceRecipe::Kind::planes;
    recipe.planes = {{Vec3::Unit(0), 0}};
    world.make_breakable(bar, broken_into(Box{{1, 0.2, 0.2}}, recipe, {.impulse = 2}));
    BodySettings ball;
    ball.shape = Sphere{0.1};
    ball.mass = 10;
    ball.surface.restitution = 0;
    world.create(ball, {{{0.9, 0, 0}}, {-speed, 0, 0}});
    run(world, 1);
    return world.body_count() == 2;
  };
  // The joined half takes half of the impulse J = v m M / (m + M) on.
  const double threshold = 2 * 2 / (10.0 * 40 / 50);
  int low = 0, high = 0;
  Random random(5);
  for (int i = 0; i < 100; ++i) {
    low += whole_after(threshold * random.between(0.6, 0.97)) ? 1 : 0;
    high += whole_after(threshold * random.between(1.03, 2)) ? 1 : 0;
  }
  INFO("threshold " << threshold);
  CHECK(threshold > 0.4);
  CHECK(low == 100);
  CHECK(high == 0);
}

TEST_CASE("a held wall stays until a blast reaches it, and its fixed pieces stay after it") {
  World world({});
  add_floor(world);
  BodySettings stone = box({3, 2, 0.3}, 4000);
  stone.kind = MotionKind::fixed;
  PieceRecipe recipe;
  recipe.kind = PieceRecipe::Kind::bricks;
  const BodyHandle wall = world.create(stone, {{{0, 1, 0}}});
  world.make_breakable(wall, broken_into(Box{{3, 2, 0.3}}, recipe, {.tension = 1e5, .shear = 1e5},
                                         [](const Vec3& c) { return c.y() < -0.8; }));
  run(world, 1);
  CHECK(world.body_count() == 2);
  set_off(world, {.at = {0, 1.2, -1}, .radius = 3, .impulse = 9000});
  run(world, 1);
  CHECK(world.body_count() > 6);
  CHECK(world.body_settings(wall).kind == MotionKind::fixed);
  double farthest = 0;
  for (const BodyHandle body : world.bodies())
    if (world.body_settings(body).kind == MotionKind::dynamic)
      farthest = std::max(farthest, world.motion(body).pose.position.z());
  CHECK(farthest > 0.4);
  // Far off a blast does nothing.
  World other({});
  const BodyHandle same = other.create(stone, {});
  other.make_breakable(same, broken_into(Box{{3, 2, 0.3}}, recipe, {.tension = 1e5, .shear = 1e5}));
  set_off(other, {.at = {0, 0, -9}, .radius = 3, .impulse = 9000});
  run(other, 0.2);
  CHECK(other.body_count() == 1);
}

TEST_CASE("breaking is the same on every run, on any number of threads, and after going back", "[long]") {
  const auto play = [](int threads, bool back) {
    World world({});
    world.set_threads(threads);
    add_floor(world);
    const BodyHandle crock =
        world.create(box({1, 1, 1}, 50), {{{0, 3, 0}, Quat(Eigen::AngleAxisd(0.4, Vec3(1, 2, 3).normalized()))}});
    world.make_breakable(crock, broken_into(Box{{1, 1, 1}}, cells(40), {.tension = 1e4, .shear = 1e4}));
    run(world, 0.5);
    if (back) {
      const WorldSnapshot then = world.snapshot();
      run(world, 1);
      world.restore(then);
    }
    run(world, 1.5);
    CHECK(world.body_count() > 5);
    return world.digest();
  };
  const auto once = play(1, false);
  CHECK(play(1, false) == once);
  CHECK(play(2, false) == once);
  CHECK(play(1, true) == once);
}

TEST_CASE("crumbs stay with their neighbours where they are to be merged") {
  const auto smallest = [](double merge_below) {
    World world({});
    add_floor(world);
    const BodyHandle crock = world.create(box({1, 1, 1}, 50), {{{0, 3, 0}}});
    BreakSettings settings = broken_into(Box{{1, 1, 1}}, cells(60), {.tension = 1e4, .shear = 1e4});
    settings.merge_below = merge_below;
    world.make_breakable(crock, settings);
    run(world, 0.9);
    double least = 1e300;
    for (const BodyHandle body : world.bodies())
      if (world.body_settings(body).kind == MotionKind::dynamic)
        least = std::min(least, shape_volume(world.body_settings(body).shape));
    return least;
  };
  CHECK(smallest(0) < 0.02);
  CHECK(smallest(0.02) >= 0.02);
}

TEST_CASE("parts weigh together what the body was last said to weigh") {
  World world(weightless());
  const BodyHandle body = world.create(box({1, 0.5, 2}, 10), {});
  world.make_breakable(body, broken_into(Box{{1, 0.5, 2}}, cells(12), {.tension = 10, .shear = 10}));
  BodySettings heavier = world.body_settings(body);
  heavier.mass = 35;
  world.change(body, heavier);
  for (int i = 0; i < 4 && world.body_count() == 1; ++i) {
    world.impulse_at(body, {0, 4, 0}, {0.4, 0.2, 0.9});
    world.step();
  }
  REQUIRE(world.body_count() > 1);
  CHECK(sums_of(world).mass == Approx(35).epsilon(1e-9));
}

TEST_CASE("a load that stays as large but goes to where it bends more breaks") {
  World world(weightless());
  PieceRecipe recipe;
  recipe.kind = PieceRecipe::Kind::planes;
  for (int i = 1; i < 8; ++i) recipe.planes.push_back({Vec3::Unit(0), 0.25 * i - 1});
  const Vec3 size(2, 0.2, 0.1);
  const BodyHandle bar = world.create(box(size, 20), {});
  const double strength = 1e6;
  world.make_breakable(bar, broken_into(Box{size}, recipe, {.tension = strength, .shear = strength},
                                        [](const Vec3& c) { return c.x() < -0.8; }));
  // M c / I at the root: half its strength with the load in the middle, more than all of it at the tip.
  const double load = 0.6 * strength * size.z() * size.y() * size.y() / 6 / 0.75;
  const auto bear_at = [&](double x) {
    for (int i = 0; i < 20; ++i) {
      world.force_at(bar, {0, -load, 0}, {x, 0, 0});
      world.step();
    }
  };
  bear_at(0);
  CHECK(world.body_count() == 1);
  bear_at(0.99);
  CHECK(world.body_count() > 1);
}

TEST_CASE("what forgets its bonds no longer breaks; strengths count at once; odd ones are refused") {
  World world(weightless());
  const BodyHandle body = world.create(box({1, 1, 1}, 10), {});
  CHECK_THROWS_AS(world.make_breakable(body, {}), Error);
  BreakSettings settings = broken_into(Box{{1, 1, 1}}, cells(8), {.tension = 1e6, .shear = 1e6});
  for (const BondStrength bad : {BondStrength{0, 1, 0}, BondStrength{1, -1, 0}, BondStrength{NAN, 1, 0},
                                 BondStrength{1, 1, -1}, BondStrength{1, 1, INFINITY}}) {
    settings.strength = bad;
    CHECK_THROWS_WITH(world.make_breakable(body, settings), Catch::Contains("strengths above 0"));
  }
  settings.strength = {1e6, 1e6, 0};
  world.make_breakable(body, settings);
  CHECK(world.breakable(body));
  CHECK(world.whole(body));
  CHECK(world.bonds(body).size() == settings.set->faces.size());
  world.impulse_at(body, {0, 20, 0}, {0.5, 0.5, 0.5});
  world.step();
  CHECK(world.body_count() == 1);
  world.make_unbreakable(body);
  CHECK_FALSE(world.breakable(body));
  CHECK(world.bonds(body).empty());
  world.set_strength(body, {1, 1, 0}, 0);  // nothing to set it on
  world.impulse_at(body, {0, 20, 0}, {0.5, 0.5, 0.5});
  world.step();
  CHECK(world.body_count() == 1);
  world.make_breakable(body, settings);
  world.set_strength(body, {1, 1, 0}, 0);
  world.impulse_at(body, {0, 20, 0}, {0.5, 0.5, 0.5});
  world.step();
  CHECK(world.body_count() > 1);
}

TEST_CASE(
    "a flat face presses on all pieces that it covers: a slab laid on a floor stays whole, on a ridge it breaks") {
  const auto bodies_after = [](bool ridge) {
    World world({});
    add_floor(world);
    if (ridge) {
      BodySettings rail = box({0.1, 0.3, 2}, 1);
      rail.kind = MotionKind::fixed;
      world.create(rail, {{{0, 0.15, 0}}});
    }
    const Vec3 size(3, 0.1, 1);
    PieceRecipe planks;
    planks.kind = PieceRecipe::Kind::planes;
    for (int i = 1; i < 6; ++i) planks.planes.push_back({Vec3::Unit(0), 0.5 * i - 1.5});
    const BodyHandle slab = world.create(box(size, 750), {{{0, (ridge ? 0.3 : 0) + 0.0501, 0}}});
    // A tenth of what its overhang bends it with.
    const double moment = 750 * 9.81 / 2 * 0.75, section = size.z() * size.y() * size.y() / 6;
    world.make_breakable(slab, broken_into(Box{size}, planks, {.tension = 0.1 * moment / section, .shear = 1e9}));
    const std::size_t before = world.body_count();
    run(world, 1);
    return world.body_count() - before;
  };
  CHECK(bodies_after(false) == 0);
  CHECK(bodies_after(true) > 0);
}

TEST_CASE("the frame of what is left of a body is at its own middle, and nothing else is elsewhere for it",
          "[random]") {
  CHECK(rc::check("cut, shattered, broken again", [] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    World world(weightless());
    const auto some = [&](double most) {
      return Vec3(random.between(-most, most), random.between(-most, most), random.between(-most, most));
    };
    const Quat turn = Quat(random.share(), random.share(), random.share(), random.share() + 0.1).normalized();
    BodySettings plank = box({4, 0.4, 0.6}, 12);
    plank.kind = random.share() < 0.2 ? MotionKind::kinematic : MotionKind::dynamic;
    const Pose start{some(3), turn};
    const BodyHandle body = world.create(plank, {start, some(4), some(3)});
    JointSettings cord;
    cord.kind = JointKind::ball;
    cord.b = body;
    cord.frame_b.position = {random.between(-1.9, 1.9), 0, 0};
    cord.frame_a.position = start.to_scene(cord.frame_b.position);
    const JointHandle joint = world.join(cord);
    for (int i = 0; i < 2; ++i) {
      const Vec3 centre = world.centre_of_mass(body);
      const Vec3 velocity = world.velocity(body), spin = world.motion(body).angular_velocity;
      if (random.share() < 0.5)
        world.slice(body, Vec3(centre + 0.05 * some(1)), Vec3(turn * Vec3::Unit(0)));
      else if (world.shatter(body, cells(5, random.bits())).size() < 2)
        return;
      const BodyMotion now = world.motion(body);
      const Vec3 left = world.centre_of_mass(body);
      if (plank.kind == MotionKind::kinematic) {
        RC_ASSERT((now.pose.position - start.position).norm() < 1e-12);
      } else {
        RC_ASSERT((now.pose.position - left).norm() < 1e-9);
        RC_ASSERT((now.pose.to_scene(-world.frame_shift(body)) - start.position).norm() < 1e-9);
      }
      RC_ASSERT((now.velocity - velocity - spin.cross(left - centre)).norm() < 1e-9);
      const JointSettings& held = world.joint_settings(joint);
      RC_ASSERT((world.motion(held.b).pose.to_scene(held.frame_b.position) - held.frame_a.position).norm() < 1e-9);
    }
  }));
}

TEST_CASE("what can't be cut because a part would be no body is left as it was") {
  World world(weightless());
  const BodyHandle speck = world.create(box({1, 1, 1}, 1.5e-12), {});
  const std::uint64_t before = world.digest();
  CHECK_THROWS_WITH(world.slice(speck, {0, 0, 0}, Vec3::Unit(0)), Catch::Contains("mass"));
  CHECK_THROWS_WITH(world.shatter(speck, cells(5)), Catch::Contains("mass"));
  CHECK(world.body_count() == 1);
  CHECK(world.digest() == before);
  CHECK_FALSE(world.breakable(speck));
  run(world, 0.1);
}

TEST_CASE("what breaks in a tick into what is no body is told, and holds from then on") {
  World world({});
  add_floor(world);
  BodySettings light = box({1, 1, 1}, 4e-12);
  const BodyHandle body = world.create(light, {{{0, 3, 0}}});
  world.make_breakable(body, broken_into(Box{{1, 1, 1}}, cells(20), {.tension = 1e-13, .shear = 1e-13}));
  int told = 0;
  for (int i = 0; i < 120; ++i) {
    world.step();
    for (const FaultEvent& fault : world.faults())
      if (fault.body == body && fault.reason.find("mass") != std::string::npos) ++told;
  }
  CHECK(told == 1);
  CHECK(world.body_count() == 2);
  CHECK_FALSE(world.breakable(body));
}
