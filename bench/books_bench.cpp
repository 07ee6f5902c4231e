// What keeping books costs a tick of a pile of 1,000: of nobody, of one body, of all; old and new by turns.
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <functional>
#include <vector>

#include "bench_worlds.h"

using namespace bronvel;

namespace {

double seconds_of_ticks(World& world, int ticks) {
  const auto start = std::chrono::steady_clock::now();
  for (int i = 0; i < ticks; ++i) world.step();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

void compare(const char* name, bool awake, const std::function<void(World&)>& keep) {
  World plain = pile(1000, awake, 1), booked = pile(1000, awake, 1);
  keep(booked);
  constexpr int rounds = 24, ticks = 5;
  std::vector<double> ratios;
  double ms = 0;
  for (int round = 0; round < rounds; ++round) {
    const double without = seconds_of_ticks(plain, ticks), with = seconds_of_ticks(booked, ticks);
    ratios.push_back(with / without);
    ms += 1000 * without / ticks / rounds;
  }
  std::sort(ratios.begin(), ratios.end());
  std::printf("%-28s tick %6.2f ms   with books %.3f times as long   %s\n", name, ms, ratios[rounds / 2],
              plain.digest() == booked.digest() ? "same bits" : "OTHER BITS");
}

}  // namespace

int main() {
  for (const bool awake : {true, false}) {
    const char* how = awake ? "settling" : "settled";
    std::printf("a pile of 1,000, %s, one thread\n", how);
    compare("  of nobody", awake, [](World&) {});
    compare("  of one body", awake, [](World& world) { world.keep_books({world.bodies()[500]}); });
    compare("  of all", awake, [](World& world) { world.keep_all_books(); });
  }
}
