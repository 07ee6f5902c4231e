// Numbers that look random and are the same on every run and machine.
#pragma once

#include <cstdint>

namespace bronvel {

/// SplitMix64 (Steele, Lea and Flood, 2014): a stream of numbers for each seed.
class Random {
 public:
  explicit Random(std::uint64_t seed) : state_(seed) {}

  std::uint64_t bits() {
    state_ += 0x9E3779B97F4A7C15ULL;
    std::uint64_t z = state_;
    z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9ULL;
    z = (z ^ (z >> 27)) * 0x94D049BB133111EBULL;
    return z ^ (z >> 31);
  }
  /// From 0 to below 1.
  double share() { return static_cast<double>(bits() >> 11) * 0x1.0p-53; }
  double between(double low, double high) { return low + (high - low) * share(); }

 private:
  std::uint64_t state_;
};

}  // namespace bronvel
