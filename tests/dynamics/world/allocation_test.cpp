// A settled tick takes no memory from the heap.
#include <catch2/catch.hpp>

#include "allocations.h"
#include "dynamics/world/world.h"

using namespace bronvel;

TEST_CASE("a settled tick allocates nothing") {
  for (const int threads : {1, 2}) {
    World world({});
    world.set_threads(threads);
    world.create({.kind = MotionKind::fixed, .shape = Box{{20, 1, 20}}}, {{{0, -0.5, 0}}});
    for (int i = 0; i < 600; ++i)
      world.create({.shape = Box{{0.5, 0.5, 0.5}}, .may_sleep = false},
                   {{{0.6 * (i % 10) - 3, 0.25 + 0.5 * (i / 100), 0.6 * (i / 10 % 10) - 3}}});
    for (int i = 0; i < 180; ++i) world.step();
    const long before = allocations();
    for (int i = 0; i < 30; ++i) world.step();
    CHECK(allocations() == before);
    CHECK(world.contacts().size() >= 600);
  }
}
