// Sweeps: the same scene played once for each of many values, and what measures make of each.
#pragma once

#include "lab/measures/trial.h"

namespace bronvel {

/// What is varied: "fender.dials.push", "crate_*.mass", "surfaces.cork.restitution", "world.tick_rate", "seed".
struct Varied {
  std::string name;
  std::vector<double> values;
};

/// Reads "fender.dials.push=1:20:40" (from, to, how many), "cask.mass=1:100:9:ratio" (each so many times the one
/// before) or "ball.mass=1,2,5". Throws Error.
Varied varied_from_text(const std::string& text);

/// The numbers between, both ends among them.
std::vector<double> even_values(double from, double to, int count);
std::vector<double> ratio_values(double from, double to, int count);

struct Sweep {
  Study study;
  std::vector<Varied> varied;  ///< none, one or two
  int seeds = 1;               ///< each is played with so many, from the study's on
  std::vector<Measure> measures;
  std::string follow;  ///< the body whose ways are kept; "": none are
};

/// Throws Error where it can't be played: a value that does not fit, nothing to measure, too many plays (a million).
void check(const Sweep& sweep);

std::size_t plays_of(const Sweep& sweep);

/// Play `index`: the last varied thing changes before the first, the seed before both.
struct SweepPoint {
  std::vector<double> values;  ///< one a varied thing
  std::uint64_t seed = 1;
};
SweepPoint point_of(const Sweep& sweep, std::size_t index);
Question question_of(const Sweep& sweep, std::size_t index);

/// All plays, or those of one share, in an order that shows the whole range early.
std::vector<std::size_t> coarse_first(const Sweep& sweep);

/// Plays these on so many threads. `tell` has each answer as it comes, one at a time; `stop` ends it when it turns
/// true. The answers do not depend on the number of threads.
void run_sweep(const Sweep& sweep, std::span<const std::size_t> plays, int jobs,
               const std::function<void(std::size_t, TrialAnswer&&)>& tell, const std::atomic<bool>* stop = nullptr);

/// Where half, a quarter and so on of the values lie; those that are no numbers are left out.
struct Spread {
  std::size_t count = 0;
  double least = 0, low = 0, middle = 0, high = 0, greatest = 0;  ///< with quartiles
};
Spread spread_of(std::vector<double> values);

}  // namespace bronvel
