// A trial: a play from which only measures are kept, so that hundreds can be had.
#pragma once

#include <atomic>

#include "lab/ask/ask.h"
#include "lab/measures/measure.h"

namespace bronvel {

/// What a trial gave.
struct TrialAnswer {
  std::vector<double> values;        ///< one a measure
  std::string fault;                 ///< why it could not be played, or the first error of a script; "": none
  std::vector<LogLine> unmet;        ///< what scripts expected and did not find
  std::vector<Eigen::Vector3f> way;  ///< of the body that was followed, from start to end
  bool whole = false;                ///< it was played to its end
};

/// A scene to be tried again and again, with seed, inputs and length in seconds of its own.
struct Study {
  SceneFolder folder;
  std::uint64_t seed = 1;
  std::vector<Input> inputs;  ///< at the scene's tick rate
  double seconds = 5;

  /// Of the scene as it is; of a take's seed, inputs and length on the scene as it is now.
  static Study of(const SceneFolder& folder, double seconds);
  static Study of(const Take& take, const SceneFolder& now);
};

/// One of the numbers that a play depends on, set before it begins: "fender.dials.push=4", "world.tick_rate=30",
/// "crate_*.mass=2" (of all bodies whose names fit), "seed=7".
struct TrialSetting {
  std::string name, value;
};

/// The scene with these set; inputs come at their seconds at whatever tick rate. Throws Error where one does not fit.
Question question_of(const Study& study, std::span<const TrialSetting> settings);

/// Plays and measures. Never throws for what the scene does: that is the answer's fault. `follow`: the body whose way
/// is kept. `stop`: ends it when it turns true. The same on any thread.
TrialAnswer try_out(const Question& question, std::span<const Measure> measures, const std::string& follow = "",
                    const std::atomic<bool>* stop = nullptr);

/// The names that the target of a setting stands for: "crate_*.mass" each crate's. Throws Error if none.
std::vector<std::string> targets_of(const Scene& scene, const std::string& name);

}  // namespace bronvel
