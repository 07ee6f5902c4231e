// Checks: the wishes that are kept with a scene, played and told.
#pragma once

#include "lab/measures/sweep.h"

namespace bronvel {

/// One play of a check: at a seed and a tick rate.
struct CheckPlay {
  std::uint64_t seed = 1;
  double tick_rate = 60;
  double value = 0;
  bool passed = false;
  std::string fault;  ///< a script's error, or what a script expected and did not find
};

struct CheckAnswer {
  Wish wish;
  std::string fault;  ///< why it could not be played: no such measure, body or file
  std::string unit, words;
  std::vector<CheckPlay> plays;
  bool passed() const;
  /// The play that is furthest off, passed or not; null if there is none.
  const CheckPlay* worst() const;
  /// "1.24 s, wanted never", "apex of ball 3.02 m".
  std::string text() const;
};

/// Plays all of the scene's checks, or these. `stop` ends it. What can't be played is an answer too.
std::vector<CheckAnswer> run_checks(const SceneFolder& folder, std::span<const Wish> wishes, int jobs,
                                    const std::atomic<bool>* stop = nullptr);

/// The scene with the wish's length and inputs. Throws Error.
Study study_of(const SceneFolder& folder, const Wish& wish);

/// What one play of it is asked: to be made a take.
Question question_of(const SceneFolder& folder, const Wish& wish, const CheckPlay& play);

/// Of several scenes by name, as JUnit XML: a test suite a scene, a test case a check.
std::string junit_of(std::span<const std::pair<std::string, std::vector<CheckAnswer>>> scenes);

}  // namespace bronvel
