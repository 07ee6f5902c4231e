// What waters and breaking cost: a table of medians, each beside what it is held against.
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>

#include "bench_worlds.h"
#include "geometry/base/random.h"
#include "geometry/cutting/cut.h"

namespace {

using namespace bronvel;

double milliseconds(const std::function<void()>& job) {
  const auto start = std::chrono::steady_clock::now();
  job();
  return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
}

double median(std::vector<double> all) {
  std::sort(all.begin(), all.end());
  return all[all.size() / 2];
}

double median_of(int rounds, const std::function<void()>& job) {
  std::vector<double> all;
  for (int i = 0; i < rounds; ++i) all.push_back(milliseconds(job));
  return median(all);
}

void row(const char* what, double got, double limit, const char* unit) {
  std::printf("%-66s %10.4g %-3s  (asked: %g) %s\n", what, got, unit, limit, got <= limit ? "" : "over");
}

// A wall that is pushed all the time, so that its loads change and it never sleeps.
double wall_tick(bool breaks, std::size_t* pieces) {
  World world = with_floor();
  const Vec3 size(12.5, 10, 0.4);
  BodySettings body;
  body.shape = Box{size};
  body.mass = 2000 * size.prod();
  body.may_sleep = false;
  const BodyHandle wall = world.create(body, {{{0, 5, 0}}});
  if (breaks) {
    const BreakSettings settings = bricks_of(size, 0.25, 0.25, 1e9);
    *pieces = settings.set->pieces.size();
    world.make_breakable(wall, settings);
  }
  for (int i = 0; i < 60; ++i) world.step();
  return median_of(300, [&] { world.step(); });
}

// The same wall blown up: the slowest and the median tick while it comes down.
void wall_coming_down() {
  World world = falling_wall();
  std::vector<double> ticks;
  for (int i = 0; i < 240; ++i) ticks.push_back(milliseconds([&] { world.step(); }));
  std::printf("wall of bricks blown up: %zu bodies after 4 s\n", world.body_count());
  std::vector<double> sorted = ticks;
  std::sort(sorted.begin(), sorted.end());
  row("  median tick while it comes down, two threads", median(ticks), 16.6, "ms");
  row("  99th of 100 ticks", sorted[sorted.size() * 99 / 100], 16.6, "ms");
  row("  slowest tick", sorted.back(), 16.6, "ms");
}

}  // namespace

int main() {
  const auto floating_tick = [](bool water) {
    World world = floating(water);
    return median_of(60, [&] { world.step(); });
  };
  const double wet = floating_tick(true), dry = floating_tick(false);
  std::printf("2,000 floating bodies: tick %.3g ms, the same without water and gravity %.3g ms\n", wet, dry);
  row("  water a tick, waves of three trains, two threads", wet - dry, 4, "ms");

  std::size_t pieces = 0;
  const double broken = wall_tick(true, &pieces), one = wall_tick(false, nullptr);
  std::printf("unbroken wall of %zu pieces: tick %.3g µs, one box %.3g µs\n", pieces, 1000 * broken, 1000 * one);
  row("  ratio", broken / one, 2, "×");

  // A hull of 24 faces, cut through its middle at any angle.
  const Hull hull = *hull_of(facets_of(Cylinder{0.5, 1}));
  Random random(3);
  std::vector<double> cuts;
  for (int i = 0; i < 2000; ++i) {
    Vec3 normal(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1));
    normal.normalize();
    cuts.push_back(milliseconds([&] { cut_in_two(hull, {normal, normal.dot(hull.data->centre)}); }));
  }
  std::printf("cutting a hull of %zu faces in two, with mass and inertia of both\n", hull.data->faces.size());
  row("  median", 1000 * median(cuts), 50, "µs");
  std::vector<double> slices;
  for (int i = 0; i < 200; ++i) {
    World world({});
    const BodyHandle body = world.create({.shape = hull}, {});
    Vec3 normal(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1));
    slices.push_back(milliseconds([&] { world.slice(body, world.centre_of_mass(body), normal); }));
  }
  row("  as two bodies of a world, median", 1000 * median(slices), 50, "µs");

  PieceRecipe cells;
  cells.count = 200;
  std::vector<double> breaks;
  for (int i = 0; i < 20; ++i) {
    World world({});
    const BodyHandle body = world.create({.shape = Box{{1, 1, 1}}}, {});
    cells.seed = static_cast<std::uint64_t>(i);
    breaks.push_back(milliseconds([&] { world.shatter(body, cells); }));
  }
  row("200 cells at run time, as bodies, median", median(breaks), 16, "ms");
  wall_coming_down();
}
