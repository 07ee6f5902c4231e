// What would be heard of a play, written down tick by tick as it goes.
#pragma once

#include <vector>

#include "sound/mixer.h"

namespace bronvel {

/// Heard from one place, at the pace of the play's own clock.
class Soundtrack {
 public:
  Soundtrack(const Ear& ear, SoundBank bank, double tick_rate);
  /// The next tick; each sound begins with its end.
  void add(const Heard& heard);
  /// What rings on after the last tick, until it is over, but no longer than 6 s.
  void ring_out();
  const std::vector<float>& stereo() const { return stereo_; }  ///< left and right in turn
  const SoundBank& bank() const { return bank_; }

 private:
  void render(std::size_t frames);

  Mixer mixer_;
  SoundBank bank_;
  double tick_rate_;
  std::int64_t ticks_ = 0;
  std::vector<float> stereo_;
};

}  // namespace bronvel
