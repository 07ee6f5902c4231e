// The same bits for any number of threads, on every kind of processor, and after going back.
#include "dynamics/contact_blocks.h"
#include "lab/prove.h"
#include "lab/prove_worlds.h"

namespace bronvel {
namespace {

using namespace prove;

// 2,000 boxes and balls dropped into a heap.
World heap(int threads) {
  World world({});
  world.set_threads(threads);
  add_floor(world, {}, 60);
  constexpr int bodies = 2000, row = 13;
  for (int i = 0; i < bodies; ++i) {
    BodySettings body;
    if (i % 2 == 0)
      body.shape = Box{{0.6, 0.5, 0.55}};
    else
      body.shape = Sphere{0.3};
    const int column = i % row, line = i / row % row, layer = i / (row * row);
    world.create(body, {{{0.68 * column + 0.01 * (i % 7) - 4, 0.4 + 0.65 * layer, 0.68 * line + 0.01 * (i % 5) - 4}}});
  }
  return world;
}

std::uint64_t digest_after(World world, double seconds) {
  run(world, seconds);
  return world.digest();
}

}  // namespace

void prove_same_bits(Findings& findings) {
  constexpr double seconds = 10;
  World half = heap(2);
  run(half, seconds / 2);
  const WorldSnapshot kept = half.snapshot();
  run(half, seconds / 2);
  const std::uint64_t digest = half.digest();
  const auto same = [&](const std::string& what, std::uint64_t other) {
    findings.absolute("heap of 2,000, 10 s: bits that differ, " + what, 0, other == digest ? 0 : 1, 0, "");
  };
  half.restore(kept);
  same("after going back to 5 s", digest_after(std::move(half), seconds / 2));
  same("1 thread instead of 2", digest_after(heap(1), seconds));
  for (const char* target : kernel_targets()) {
    use_target(target);
    same(target, digest_after(heap(2), seconds));
  }
  use_target("");
}

}  // namespace bronvel
