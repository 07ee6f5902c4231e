// What matters: every number of a scene, ranked by what a tenth of it changes in a measure.
#pragma once

#include "lab/measures/sweep.h"

namespace bronvel {

/// One number of the scene, and what the measure is with a tenth less and a tenth more of it.
struct Matter {
  std::string name;  ///< as settings are: "fender.mass", "surfaces.rubber.restitution"
  std::string unit;
  bool vector = false;                  ///< its length: it is varied along itself
  double from = 0, to = 0;              ///< within what it may sensibly be: a dial's own range
  double value = 0, low = 0, high = 0;  ///< as it is, and as it was tried
  double at_low = 0, at_high = 0;       ///< what was measured
  std::string fault;                    ///< of one of the two plays
  bool done = false;
  double change() const;  ///< half of what goes from the one to the other
};

struct Matters {
  double as_it_is = 0;
  std::vector<Matter> all;   ///< those that matter first; then by name those that change nothing
  std::size_t left_out = 0;  ///< numbers that are nought and have no range of their own: a tenth of them is nothing
};

/// The numbers of the scene that a play may depend on, each once: of bodies (those of a kind that are all alike
/// together: "crate_*.mass"), dials, joints, zones, surfaces that something has, the world.
std::vector<Matter> numbers_of(const SceneFolder& folder, std::size_t* left_out = nullptr);

/// "push of fender", "restitution of cork", "gravity".
std::string number_words(const std::string& name);

/// Plays two for each on so many threads. `tell` is told as they come, one at a time; `stop` ends it.
Matters what_matters(const Study& study, const Measure& measure, int jobs,
                     const std::function<void(const Matter&)>& tell = nullptr, const std::atomic<bool>* stop = nullptr);

}  // namespace bronvel
