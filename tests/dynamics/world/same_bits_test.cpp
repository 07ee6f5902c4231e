// The same bits on every number of threads, every kind of processor, in every build, and after going back.
#include <catch2/catch.hpp>

#include "dynamics/solver/contact_kernel.h"
#include "dynamics/world/world.h"
#include "geometry/shapes/hull.h"

using namespace bronvel;

namespace {

World pile(int count, int threads) {
  World world({});
  world.set_threads(threads);
  world.create({.kind = MotionKind::fixed, .shape = Box{{20, 1, 20}}}, {{{0, -0.5, 0}}});
  const Hull pebble =
      make_hull({{0.3, 0, 0}, {-0.3, 0, 0.1}, {0, 0.3, 0}, {0, -0.25, 0}, {0, 0, 0.3}, {0.1, 0.1, -0.3}});
  const int row = 12;
  for (int i = 0; i < count; ++i) {
    BodySettings body;
    if (i % 2 == 0)
      body.shape = Box{{0.6, 0.5, 0.55}};
    else if (i % 4 == 1)
      body.shape = Sphere{0.3};
    else
      body.shape = pebble;
    body.surface.rolling_friction = i % 3 == 0 ? 0.02 : 0;
    const double x = 0.7 * (i % row) - 4 + 0.01 * (i % 7), z = 0.7 * (i / row % row) - 4 + 0.01 * (i % 5);
    world.create(body, {{{x, 0.4 + 0.65 * (i / (row * row)), z}}});
  }
  return world;
}

std::uint64_t digest_after(World world, int ticks) {
  for (int i = 0; i < ticks; ++i) world.step();
  return world.digest();
}

constexpr int bodies = 1200, ticks = 45;  // enough for the wide, shared-out way

}  // namespace

TEST_CASE("threads do not change a bit", "[long]") {
  const std::uint64_t alone = digest_after(pile(bodies, 1), ticks);
  for (const int threads : {2, 3}) CHECK(digest_after(pile(bodies, threads), ticks) == alone);
}

TEST_CASE("kinds of processor do not change a bit", "[long]") {
  for (const int count : {60, bodies}) {  // solved in double, solved in float
    const std::uint64_t best = digest_after(pile(count, 1), ticks);
    for (const char* target : kernel_targets()) {
      use_target(target);
      INFO(target);
      CHECK(digest_after(pile(count, 1), ticks) == best);
    }
    use_target("");
  }
}

TEST_CASE("builds do not change a bit") {
  // Found with the release build; the debug builds must find it too. A change of the engine changes it.
  CHECK(digest_after(pile(300, 1), 60) == 0x30319b9c58f8d41fULL);
}

TEST_CASE("going back to a snapshot does not change a bit, on any number of threads") {
  World world = pile(bodies, 2);
  for (int i = 0; i < 30; ++i) world.step();
  const WorldSnapshot kept = world.snapshot();
  for (int i = 0; i < 30; ++i) world.step();
  const std::uint64_t first = world.digest();
  world.restore(kept);
  for (int i = 0; i < 30; ++i) world.step();
  CHECK(world.digest() == first);
  World other({});
  other.restore(kept);
  for (int i = 0; i < 30; ++i) other.step();
  CHECK(other.digest() == first);
}
