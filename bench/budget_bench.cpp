// The budget: what the engine promises to take, each figure by name, for tools/measure to hold against the last landed.
#include <sys/resource.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <functional>

#include "bench_worlds.h"
#include "geometry/base/random.h"
#include "play/run/play.h"
#include "resident_memory.h"
#include "scene/files/folder.h"

using namespace bronvel;

namespace {

double seconds_of(const std::function<void()>& job) {
  const auto start = std::chrono::steady_clock::now();
  job();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

double cpu_seconds_of(const std::function<void()>& job) {
  const auto used = [] {
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    return static_cast<double>(usage.ru_utime.tv_sec) + 1e-6 * static_cast<double>(usage.ru_utime.tv_usec);
  };
  const double before = used();
  job();
  return used() - before;
}

double median(std::vector<double> all) {
  std::sort(all.begin(), all.end());
  return all[all.size() / 2];
}

double least_of(int rounds, const std::function<double()>& measured) {
  double least = measured();
  for (int i = 1; i < rounds; ++i) least = std::min(least, measured());
  return least;
}

// One figure to a line: its name, the value, what it is asked to be at most (or at least, where `more` is better), and
// the unit, parted by tabs.
void figure(const char* name, double value, const char* asked, const char* unit) {
  std::printf("%s\t%.4g\t%s\t%s\n", name, value, asked, unit);
  std::fflush(stdout);
}

std::vector<double> tick_times(World& world, int ticks) {
  std::vector<double> all;
  for (int i = 0; i < ticks; ++i) all.push_back(1000 * seconds_of([&] { world.step(); }));
  return all;
}

BodyHandle add_floor(World& world, double side) {
  return world.create({.kind = MotionKind::fixed, .shape = Box{{side, 1, side}}}, {{{0, -0.5, 0}}});
}

void examples(const std::filesystem::path& folder) {
  double all = 0, quay = 0, slowest = 1e300;
  constexpr double played = 20;  // s
  for (const auto& entry : std::filesystem::directory_iterator(folder)) {
    if (!entry.is_directory()) continue;
    const SceneFolder scene = open_folder(entry.path().string());
    // Where others use the machine, the second play may tell more than the first.
    const double cpu = least_of(2, [&] {
      Play play(scene, 1);
      const auto ticks = static_cast<int>(std::lround(played * play.running().world.settings().tick_rate));
      return cpu_seconds_of([&] {
        for (int i = 0; i < ticks; ++i) play.step();
      });
    });
    all += cpu;
    slowest = std::min(slowest, played / cpu);
    if (entry.path().filename() == "skerrow-quay") quay = played / cpu;
  }
  figure("all examples, 20 s each, one thread: CPU", all, "<= 10", "s");
  figure("the slowest of them: times real time", slowest, ">= 10", "x");
  figure("skerrow-quay: times real time", quay, ">= 200", "x");
  const SceneFolder scene = open_folder((folder / "skerrow-quay").string());
  figure("600 ticks of skerrow-quay",
         1000 * least_of(5,
                         [&] {
                           Play play(scene, 1);
                           return seconds_of([&] {
                             for (int i = 0; i < 600; ++i) play.step();
                           });
                         }),
         "<= 25", "ms");
}

// From a scene to its first tick.
double start_of(const SceneFolder& folder) {
  return 1000 * least_of(5, [&] { return seconds_of([&] { Play(folder, 1).step(); }); });
}

void starts(const std::filesystem::path& examples_folder) {
  figure("start of skerrow-quay", start_of(open_folder((examples_folder / "skerrow-quay").string())), "<= 2", "ms");
  SceneFolder many;
  for (int i = 0; i < 2000; ++i) {
    Body body;
    body.name = "cask_" + std::to_string(i);
    body.shape = i % 2 == 0 ? Shape(Box{{0.8, 0.6, 0.7}}) : Shape(Sphere{0.4});
    body.position = {1.2 * (i % 20), 1 + 1.2 * (i / 400), 1.2 * (i / 20 % 20)};
    many.scene.bodies.push_back(body);
  }
  figure("start of 2,000 bodies", start_of(many), "<= 100", "ms");
  SceneFolder wall;
  Body body;
  body.name = "wall";
  body.shape = Box{{10, 6.25, 0.5}};
  body.position = {0, 3.125, 0};
  body.mass = 62500;
  body.breaking.into = Breaking::Into::bricks;
  body.breaking.brick_length = body.breaking.brick_height = 0.25;
  wall.scene.bodies.push_back(body);
  figure("start of a wall of 1,000 pieces seen before", start_of(wall), "<= 50", "ms");
}

void piles() {
  const auto settling = [](int threads) {
    World world = pile(10000, true, threads);
    return median(tick_times(world, 120));
  };
  const double with_one = settling(1), with_two = settling(2);
  figure("10,000 settling, two threads: median tick", with_two, "<= 16.6", "ms");
  figure("10,000 settling: one thread over two", with_one / with_two, ">= 1.7", "x");
  const auto settled = [](int count) {
    World world = pile(count, false, 2);
    for (int i = 0; i < 120; ++i) world.step();
    return median(tick_times(world, 20)) / count;
  };
  figure("settled: tick a body, 16,000 over 1,000", settled(16000) / settled(1000), "<= 1.15", "x");
  const double before = resident_bytes();
  World still = pile(10000, false, 2);
  for (int i = 0; i < 180; ++i) still.step();
  figure("memory of 10,000 settled", (resident_bytes() - before) / 1e4, "<= 4000", "bytes a body");
}

void pyramid() {
  World world({.tick_rate = 60});
  world.set_threads(2);
  add_floor(world, 200);
  constexpr int rows = 50;
  for (int row = 0; row < rows; ++row)
    for (int i = 0; i < rows - row; ++i)
      world.create({.shape = Box{}, .may_sleep = false}, {{{1.05 * (i - 0.5 * (rows - row - 1)), 0.5 + row, 0}}});
  for (int i = 0; i < 60; ++i) world.step();
  figure("pyramid of 1,275, two threads: median tick", median(tick_times(world, 60)), "<= 4", "ms");
}

void wall() {
  const auto slowest = [] {
    World world = falling_wall();
    const std::vector<double> ticks = tick_times(world, 240);
    return *std::max_element(ticks.begin(), ticks.end());
  };
  figure("wall of 1,000 coming down: slowest tick", least_of(3, slowest), "<= 50", "ms");
}

void overlaps() {
  World cylinders({.tick_rate = 60});
  cylinders.set_threads(2);
  Random random(7);
  for (int i = 0; i < 100; ++i)
    cylinders.create({.shape = Cylinder{0.5, 1}}, {{{1e-3 * random.between(-1, 1), 5, 1e-3 * random.between(-1, 1)}}});
  figure("100 cylinders in one place: median of 5 ticks", median(tick_times(cylinders, 5)), "<= 100", "ms");
  World sizes({.tick_rate = 60});
  sizes.set_threads(2);
  for (int i = 0; i < 30; ++i) {
    const double size = std::pow(10.0, random.between(-3, 3));
    const Shape shapes[] = {Box{{size, size, size}}, Sphere{size}, Cylinder{size, size}, Cone{size, size},
                            Capsule{size, size}};
    sizes.create({.shape = shapes[i % 5]}, {{{1e-3 * random.between(-1, 1), 5, 0}}});
  }
  figure("30 of sizes 1e-3 to 1e3 m in one place: median of 5 ticks", median(tick_times(sizes, 5)), "<= 50", "ms");
}

}  // namespace

int main(int argc, char** argv) {
  const std::filesystem::path folder = argc > 1 ? argv[1] : "examples";
  starts(folder);
  examples(folder);
  overlaps();
  wall();
  const auto floating_tick = [](bool water) {
    World world = floating(water);
    return median(tick_times(world, 60));
  };
  figure("water for 2,000 floats, two threads", floating_tick(true) - floating_tick(false), "<= 2.5", "ms");
  pyramid();
  piles();
}
