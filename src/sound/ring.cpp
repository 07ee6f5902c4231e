// Modes of bars, plates, boxes and balls.
#include "sound/ring.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <span>

#include "geometry/base/error.h"

namespace bronvel {
namespace {

// Frequencies over the lowest one's.
constexpr std::array<double, modes_of_a_ring> bar{1, 2.757, 5.404, 8.933, 13.34, 18.64, 24.81, 31.87};
constexpr std::array<double, modes_of_a_ring> plate{1, 1.73, 2.328, 3.91, 4.11, 6.3, 6.71, 8.2};
constexpr std::array<double, modes_of_a_ring> ball{1, 1.483, 1.843, 1.897, 2.285, 2.66, 3.03, 3.4};

// A panel held at its edges swings with m and n half waves along them.
std::array<double, modes_of_a_ring> panel(double length, double width) {
  std::array<double, modes_of_a_ring> all{};
  std::array<double, 16> found{};
  std::size_t count = 0;
  const auto waves = [&](int m, int n) { return std::pow(m / length, 2) + std::pow(n / width, 2); };
  for (int m = 1; m <= 4; ++m)
    for (int n = 1; n <= 4; ++n) found[count++] = waves(m, n) / waves(1, 1);
  std::sort(found.begin(), found.end());
  std::copy_n(found.begin(), all.size(), all.begin());
  return all;
}

}  // namespace

const Stuff& stuff_of(const std::string& voice) {
  static const std::map<std::string, Stuff> all{
      {"wood", {3500, 0.03, 0.05, 1e10, 0.5}},   {"stone", {3800, 0.02, 0.35, 5e10, 0.6}},
      {"iron", {5100, 0.003, 0.03, 2e11, 0.15}}, {"glass", {5200, 0.002, 0.02, 7e10, 0.2}},
      {"rope", {900, 0.3, 0.3, 1e8, 0.85}},      {"ice", {3200, 0.02, 0.3, 9e9, 0.4}},
      {"rubber", {120, 0.15, 1, 5e6, 0.4}},      {"cork", {500, 0.1, 1, 2e7, 0.6}},
      {"cloth", {150, 0.5, 0.3, 1e6, 0.95}},     {"water", {1480, 0.06, 0.2, 1e6, 0.7}}};
  const auto found = all.find(voice);
  if (found == all.end()) throw Error(voice, "is no voice");
  return found->second;
}

Ring ring_of(const Shape& shape, const std::string& voice) {
  const Stuff& stuff = stuff_of(voice);
  const Bounds bounds = shape_bounds(shape, Pose{});
  std::array<double, 3> size{};
  for (int k = 0; k < 3; ++k) size[static_cast<std::size_t>(k)] = std::clamp(bounds.high[k] - bounds.low[k], 1e-3, 1e4);
  std::sort(size.begin(), size.end(), std::greater<>());
  const auto [length, width, depth] = size;
  const double thickness = std::min(stuff.wall * length, depth);
  // The lowest of a free bar, π / √12 c h / (8 l²) 3.011².
  constexpr double lowest_of_bar = 1.028;
  double lowest = lowest_of_bar * stuff.wave_speed * thickness / (length * length);
  std::array<double, modes_of_a_ring> ratios{};
  const bool round = std::holds_alternative<Sphere>(shape);
  if (round) {
    ratios = ball;
  } else if (length > 2.5 * width) {
    ratios = bar;
  } else if (depth < 0.3 * width) {
    ratios = plate;
  } else {
    ratios = panel(length, width);
  }
  // What is too low to be heard as a tone is heard as a thud.
  constexpr double lowest_heard = 45, highest_heard = 14000;
  lowest = std::clamp(lowest, lowest_heard, 6000.0);
  Ring ring;
  ring.knock = stuff.knock;
  double sum = 0;
  for (std::size_t k = 0; k < modes_of_a_ring; ++k) {
    Mode& mode = ring.modes[k];
    mode.frequency = lowest * ratios[k];
    constexpr double given_to_air = 3;  // 1/s
    mode.decay = pi * mode.frequency * stuff.loss + given_to_air;
    mode.share = mode.frequency > highest_heard ? 0 : 1 / (1 + 0.6 * static_cast<double>(k));
    sum += mode.share;
  }
  for (Mode& mode : ring.modes) mode.share *= (1 - ring.knock) / sum;
  return ring;
}

double contact_time(const Stuff& a, const Stuff& b, double mass, double radius, double speed) {
  const double stiffness = 1 / (1 / a.stiffness + 1 / b.stiffness);
  const double at_least = 1e-3;  // m/s
  const double time =
      2.87 * std::pow(mass * mass / (std::max(radius, 1e-3) * stiffness * stiffness * std::max(speed, at_least)), 0.2);
  return std::clamp(time, 5e-5, 0.02);
}

}  // namespace bronvel
