// Inputs of a play: everything that comes from outside, each with its tick, so that a play can be played again.
#pragma once

#include <string>
#include <vector>

#include "dynamics/world/blast.h"

namespace bronvel {

/// What the hand does to the turning of what it holds.
enum class Holding { free, locked };

/// One input. It acts at the beginning of the step that takes the world on from `tick`.
struct Input {
  enum class Kind {
    action,  ///< an action's value: `name`, `value` from −1 to 1
    grab,    ///< the hand takes `name` at `point` (in the body's frame), pulling with at most `value` N
    carry,   ///< the hand goes to `point` (scene frame)
    drop,    ///< the hand lets go
    flick,   ///< an impulse `vector` (N·s) on `name` at `point` (scene frame)
    blast,   ///< `blast` goes off
    point,   ///< the pointer's ray: from `point`, the eye, along `vector` (scene frame)
    cut,     ///< the knife cuts `name` by the plane through `point` across `vector` (scene frame)
    set,     ///< `name` is a setting: "fender.mass=4" (scene/properties/setting_place.h)
    script   ///< the script `name` goes on with `text`
  };
  std::int64_t tick = 0;
  Kind kind = Kind::action;
  std::string name{};
  double value = 0;
  Vec3 point = Vec3::Zero();
  Vec3 vector = Vec3::Zero();
  Holding holding = Holding::free;
  Blast blast{};
  std::string text{};
};

/// One line of JSON each, such as {"tick": 12, "action": "haul", "value": 1}.
std::string inputs_text(const std::vector<Input>& inputs);
/// A line may say {"time": 0.2, …} in seconds instead, or as well, and comes at the tick nearest to that at `tick_rate`
/// (Hz). Throws Error, with `file` and the line, when the text is not such lines in order of their ticks.
std::vector<Input> read_inputs(const std::string& text, const std::string& file, double tick_rate);

/// The same moments in ticks of another rate (Hz), each to the nearest.
std::int64_t tick_at_rate(std::int64_t tick, double from_rate, double to_rate);
std::vector<Input> inputs_at_rate(std::vector<Input> inputs, double from_rate, double to_rate);

}  // namespace bronvel
