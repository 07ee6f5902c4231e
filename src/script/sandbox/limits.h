// What scripts may use.
#pragma once

#include <cstddef>
#include <cstdint>

namespace bronvel {

/// What one tick may cost.
struct SandboxLimits {
  std::size_t memory = std::size_t{256} << 20;  ///< bytes, all scripts together
  std::int64_t steps = 5'000'000;               ///< of one script on one body: its handlers, timers and messages
  std::int64_t all_steps = 20'000'000;          ///< of all scripts together
  std::int64_t least_steps = 100'000;           ///< what a script has even where the others left nothing
  double seconds = 3;                           ///< of a processor's time, should steps not tell what something costs
};

}  // namespace bronvel
