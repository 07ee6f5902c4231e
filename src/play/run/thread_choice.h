// How many threads a play gets, by how long its ticks take.
#pragma once

#include <algorithm>
#include <thread>

namespace bronvel {

/// Short ticks are played by one thread, long ones by all; between the two it stays as it is. The results are the same
/// bits for any number (World::set_threads).
class ThreadChoice {
 public:
  explicit ThreadChoice(int most = most_threads()) : most_(most) {}

  /// What the next tick gets, after one that took so long (s, on as many threads as this said last).
  int after_tick(double seconds) {
    constexpr double weight = 0.2;  // of the newest: a single long tick changes nothing
    mean_ += weight * (seconds - mean_);
    if (mean_ > long_tick)
      threads_ = most_;
    else if (mean_ < short_tick)
      threads_ = 1;
    return threads_;
  }
  int threads() const { return threads_; }

  static constexpr double long_tick = 2e-3, short_tick = 0.6e-3;  ///< s
  static int most_threads() { return std::clamp(static_cast<int>(std::thread::hardware_concurrency()), 1, 16); }

 private:
  int most_;
  int threads_ = 1;
  double mean_ = 0;  // s
};

}  // namespace bronvel
