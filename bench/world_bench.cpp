// Tick times of the world on scenes that grow.
#include <benchmark/benchmark.h>

#include "dynamics/world.h"

using namespace bronvel;

namespace {

// Half boxes, half spheres, dropped into a pit with walls, settled for three seconds.
World settled_pile(int count) {
  World world({.tick_rate = 60});
  const double side = std::max(3.0, std::cbrt(count) * 0.9);
  world.create({.kind = MotionKind::fixed, .shape = Box{{side + 2, 1, side + 2}}}, {{{0, -0.5, 0}}});
  for (const double sign : {-1.0, 1.0}) {
    world.create({.kind = MotionKind::fixed, .shape = Box{{1, 60, side + 2}}}, {{{sign * (side + 1) / 2, 30, 0}}});
    world.create({.kind = MotionKind::fixed, .shape = Box{{side + 2, 60, 1}}}, {{{0, 30, sign * (side + 1) / 2}}});
  }
  const int row = std::max(1, static_cast<int>((side - 1.2) / 0.75));
  for (int i = 0; i < count; ++i) {
    const double x = (i % row - 0.5 * (row - 1)) * 0.75 + 0.05 * (i % 7) / 7;
    const double z = (i / row % row - 0.5 * (row - 1)) * 0.75 + 0.05 * (i % 5) / 5;
    const Pose pose{{x, 0.5 + 0.75 * (i / (row * row)), z}};
    if (i % 2 == 0)
      world.create({.shape = Box{{0.6, 0.5, 0.55}}, .may_sleep = false}, {pose});
    else
      world.create({.shape = Sphere{0.3}, .may_sleep = false}, {pose});
  }
  for (int i = 0; i < 180; ++i) world.step();
  return world;
}

void pile_tick(benchmark::State& state) {
  World world = settled_pile(static_cast<int>(state.range(0)));
  for (auto _ : state) world.step();
  state.counters["contacts"] = static_cast<double>(world.contacts().size());
}
BENCHMARK(pile_tick)->Arg(100)->Arg(1000)->Arg(4000)->Unit(benchmark::kMillisecond)->Iterations(60);

void pyramid_tick(benchmark::State& state) {
  World world({.tick_rate = 60});
  world.create({.kind = MotionKind::fixed, .shape = Box{{200, 1, 20}}}, {{{0, -0.5, 0}}});
  const int rows = static_cast<int>(state.range(0));
  for (int row = 0; row < rows; ++row)
    for (int i = 0; i < rows - row; ++i)
      world.create({.shape = Box{}, .may_sleep = false}, {{{1.05 * (i - 0.5 * (rows - row - 1)), 0.5 + row, 0}}});
  for (int i = 0; i < 60; ++i) world.step();
  for (auto _ : state) world.step();
}
BENCHMARK(pyramid_tick)->Arg(10)->Arg(50)->Unit(benchmark::kMillisecond)->Iterations(60);

void rays_into_pile(benchmark::State& state) {
  const World world = settled_pile(1000);
  int i = 0;
  for (auto _ : state) {
    const double angle = 0.1 * ++i;
    benchmark::DoNotOptimize(
        world.ray({3 * std::cos(angle), 30, 3 * std::sin(angle)}, {0.1 * std::sin(angle), -1, 0}, 100));
  }
}
BENCHMARK(rays_into_pile);

}  // namespace

BENCHMARK_MAIN();
