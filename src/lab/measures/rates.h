// Rates: the same play at other tick rates and sub-steps, and as a plain game loop would step it.
#pragma once

#include "lab/measures/sweep.h"

namespace bronvel {

/// One way of stepping the scene.
struct Rate {
  double tick_rate = 60;  ///< Hz
  int substeps = 4;
  /// Once a tick by the half-implicit Euler rule: v' = v + h a, x' = x + h v' (`WorldSettings::half_implicit`).
  bool game_loop = false;
};

/// "60 Hz", "60 Hz, 8 sub-steps", "60 Hz, game loop".
std::string rate_text(const Rate& rate, int usual_substeps);

struct RateAnswer {
  Rate rate;
  TrialAnswer answer;
};

/// A line of a script whose effect depends on the tick rate, and why.
struct RateLine {
  std::string script;
  int line = 0;
  std::string body, why;
};

struct Rates {
  std::vector<RateAnswer> rates;  ///< in the order that was asked for
  std::vector<RateLine> lines;
};

/// The rates: each at the scene's sub-steps, each of the sub-steps at the scene's rate, and each rate as a game loop.
std::vector<Rate> rates_of(const SceneFolder& folder, std::span<const double> tick_rates, std::span<const int> substeps,
                           bool game_loop);

Rates play_at_rates(const Study& study, std::span<const Measure> measures, std::span<const Rate> rates, int jobs,
                    const std::atomic<bool>* stop = nullptr);

/// Lines that act tick after tick, and whose sum over the play is another one at another rate: an impulse each tick, a
/// velocity times a number each tick, a force times the time step.
std::vector<RateLine> lines_by_rate(const Study& study, double tick_rate, double other_rate);

}  // namespace bronvel
