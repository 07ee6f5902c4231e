// Tick times of the world on scenes that grow.
#include <benchmark/benchmark.h>
#include <malloc.h>

#include <algorithm>

#include "bench_worlds.h"

using namespace bronvel;

namespace {

World settled_pile(int count, int threads = 1) {
  World world = pile(count, false, threads);
  for (int i = 0; i < 180; ++i) world.step();
  return world;
}

void count_stages(benchmark::State& state, const std::vector<StepTimes>& ticks) {
  const auto median = [&](double StepTimes::*stage) {
    std::vector<double> all;
    all.reserve(ticks.size());
    for (const StepTimes& t : ticks) all.push_back(1000 * t.*stage);
    std::nth_element(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2), all.end());
    return all[all.size() / 2];
  };
  state.counters["1_pairs_ms"] = median(&StepTimes::pairs);
  state.counters["2_contacts_ms"] = median(&StepTimes::contacts);
  state.counters["3_impacts_ms"] = median(&StepTimes::impacts);
  state.counters["4_integrate_ms"] = median(&StepTimes::integrate);
  state.counters["5_solve_ms"] = median(&StepTimes::solve);
  state.counters["6_report_ms"] = median(&StepTimes::report);
  state.counters["median_ms"] = median(&StepTimes::whole);
}

void step_and_count(benchmark::State& state, World& world) {
  std::vector<StepTimes> ticks;
  ticks.reserve(10000);
  for (auto _ : state) {
    world.step();
    ticks.push_back(world.step_times());
  }
  count_stages(state, ticks);
  state.counters["touching"] = static_cast<double>(world.contacts().size());
}

void pile_settling(benchmark::State& state) {
  World world = pile(static_cast<int>(state.range(0)), true, static_cast<int>(state.range(1)));
  step_and_count(state, world);
}
BENCHMARK(pile_settling)
    ->ArgNames({"bodies", "threads"})
    ->Args({1000, 1})
    ->Args({10000, 1})
    ->Args({10000, 2})
    ->Unit(benchmark::kMillisecond)
    ->Iterations(240);

void pile_settled(benchmark::State& state) {
  World world = settled_pile(static_cast<int>(state.range(0)), static_cast<int>(state.range(1)));
  step_and_count(state, world);
}
BENCHMARK(pile_settled)
    ->ArgNames({"bodies", "threads"})
    ->ArgsProduct({{1000, 2000, 4000, 8000, 16000}, {2}})
    ->Args({8000, 1})
    ->Unit(benchmark::kMillisecond)
    ->Iterations(30);

void pyramid_tick(benchmark::State& state) {
  World world({.tick_rate = 60});
  world.create({.kind = MotionKind::fixed, .shape = Box{{200, 1, 20}}}, {{{0, -0.5, 0}}});
  const int rows = static_cast<int>(state.range(0));
  for (int row = 0; row < rows; ++row)
    for (int i = 0; i < rows - row; ++i)
      world.create({.shape = Box{}, .may_sleep = false}, {{{1.05 * (i - 0.5 * (rows - row - 1)), 0.5 + row, 0}}});
  for (int i = 0; i < 60; ++i) world.step();
  step_and_count(state, world);
}
BENCHMARK(pyramid_tick)->Arg(10)->Arg(50)->Unit(benchmark::kMillisecond)->Iterations(60);

// Boxes in rows on a floor, all asleep.
void sleeping(benchmark::State& state) {
  World world({.tick_rate = 60});
  world.create({.kind = MotionKind::fixed, .shape = Box{{400, 1, 400}}}, {{{0, -0.5, 0}}});
  for (int i = 0; i < 10000; ++i)
    world.create({.shape = Box{{0.5, 0.5, 0.5}}}, {{{0.8 * (i % 100) - 40, 0.25, 0.8 * (i / 100) - 40}}});
  for (int i = 0; i < 180; ++i) world.step();
  for (auto _ : state) world.step();
}
BENCHMARK(sleeping)->Unit(benchmark::kMicrosecond);

// What a body in a settled pile takes of memory.
void memory(benchmark::State& state) {
  const auto before = mallinfo2().uordblks;
  const World world = settled_pile(10000);
  const auto after = mallinfo2().uordblks;
  for (auto _ : state) benchmark::DoNotOptimize(world.tick());
  state.counters["bytes_a_body"] = static_cast<double>(after - before) / 10000;
}
BENCHMARK(memory)->Iterations(1);

// Keeping all of a world's state, as a take does at every tick.
void snapshot(benchmark::State& state) {
  const World world = settled_pile(1000);
  for (auto _ : state) benchmark::DoNotOptimize(world.snapshot());
}
BENCHMARK(snapshot)->Unit(benchmark::kMicrosecond);

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
