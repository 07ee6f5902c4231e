// Playing a world for some time.
#pragma once

#include <cmath>

#include "dynamics/world/world.h"

namespace bronvel {

inline void run(World& world, double seconds) {
  const auto ticks = std::lround(seconds * world.settings().tick_rate);
  for (long i = 0; i < ticks; ++i) world.step();
}

inline void run_ticks(World& world, int ticks) {
  for (int i = 0; i < ticks; ++i) world.step();
}

}  // namespace bronvel
