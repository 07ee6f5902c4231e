// Aims: numbers that make a measure what is wished.
#pragma once

#include "lab/measures/sweep.h"

namespace bronvel {

/// What may be turned, and within what.
struct Turned {
  std::string name;  ///< as `Varied`
  double from = 0, to = 1;
};
/// Reads "ball.dials.push=0:50". Throws Error.
Turned turned_from_text(const std::string& text);

struct Aim {
  enum class For { wish, least, most };
  Study study;
  Measure measure;
  For wanted = For::wish;
  Wish wish;                   ///< of `For::wish`: equal, at most, at least
  std::vector<Turned> turned;  ///< one or more
  int seeds = 1;               ///< the mean over so many counts
  int most_tries = 0;          ///< 0: 15 for one value, 60 for each of several
};

/// Reads "apex:ball=3.0", "rest_time:ball<=2", "holds:plank=yes", "way:ball=most", "fit:ball,film.csv=least" into the
/// aim's measure and wish. Throws Error.
void wish_from_text(Aim& aim, const std::string& text);

/// One play (or one for each seed) with these values.
struct AimTry {
  std::vector<double> values;
  double measured = 0;
  std::string fault;
};

struct AimAnswer {
  bool reached = false;
  AimTry best;
  std::vector<AimTry> tries;  ///< in their order
  double sensitivity = 0;     ///< of one value: by how much one more of it moves the measure
  /// Of yes or no, and of a bound: the last value on either side of where it turns.
  std::optional<double> holds_at{}, fails_at{};
};

/// One value: by bracketing (Brent, Algorithms for Minimization without Derivatives, 1973), yes or no by halving;
/// several: NLopt's subplex. `tell` has each try as it comes; `stop` ends it, with the best so far. Throws Error where
/// it can't be played.
AimAnswer find_aim(const Aim& aim, const std::function<void(const AimTry&)>& tell = nullptr,
                   const std::atomic<bool>* stop = nullptr);

/// "ball.dials.push = 4.85: apex 3.000 m, as wished; 0.1 more moves it by 0.031 m", "can't be reached …".
std::string aim_text(const Aim& aim, const AimAnswer& answer);

}  // namespace bronvel
