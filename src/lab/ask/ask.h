// Asking again: a play made anew from scene, seed and inputs, recorded as a take.
#pragma once

#include <functional>
#include <memory>

#include "lab/takes/take.h"

namespace bronvel {

/// All that a play depends on.
struct Question {
  SceneFolder folder;
  std::uint64_t seed = 1;
  std::vector<Input> inputs;
  std::int64_t ticks = 0;  ///< to play
};

/// The take's own: asked as it stands, it gives the same bits.
Question question_of(const Take& take);

/// The take's seed and inputs on another scene, for as many seconds; at another tick rate, each input comes at its
/// time. Where a value was set by hand in the take and is another one in the scenes now, the scene's counts: it was
/// changed since.
Question question_of(const Take& take, const SceneFolder& now);

/// Without those that set what one of `settings` ("fender.mass=4") sets.
std::vector<Input> without_settings(std::vector<Input> inputs, const std::vector<std::string>& settings);

/// Plays it. `begun` is told of the take as soon as there is one, to be looked at while it fills, and of the play at
/// its start; `go_on` is asked after every tick, and ends it with false. Throws Error when the scene can't be played.
/// No disk, no output.
std::shared_ptr<SharedTake> ask(
    const Question& question,
    const std::function<void(const std::shared_ptr<SharedTake>&, const Play&)>& begun = nullptr,
    const std::function<bool(Play&)>& go_on = nullptr);

/// Whether the two play alike: they differ in nothing that a play depends on.
bool plays_alike(const SceneFolder& a, const SceneFolder& b);

/// What is different in the second scene, for a line under a take: "push 3 → 5.5", "cork restitution 0.75 → 0.9",
/// "nudge.lua". Names of bodies only where several of them have what changed. Empty if nothing that a play depends on.
std::vector<std::string> differences(const SceneFolder& before, const SceneFolder& after);
std::string on_one_line(const std::vector<std::string>& differences);

/// The values that the take ended with: its scene's, and over them what was set by hand. Bodies that are not in `scene`
/// any more are left out, those that came since stay as they are. Throws nothing; what does not fit is left out.
void take_values_back(Scene& scene, const Take& take);

}  // namespace bronvel
