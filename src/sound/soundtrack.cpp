// A play's sound, rendered between its ticks.
#include "sound/soundtrack.h"

#include <cmath>

namespace bronvel {

Soundtrack::Soundtrack(const Ear& ear, SoundBank bank, double tick_rate)
    : bank_(std::move(bank)), tick_rate_(tick_rate) {
  mixer_.set_ear(ear);
}

void Soundtrack::render(std::size_t frames) {
  const std::size_t before = stereo_.size();
  stereo_.resize(before + 2 * frames);
  mixer_.render(std::span(stereo_).subspan(before));
}

void Soundtrack::add(const Heard& heard) {
  // By the tick's number, so that nothing drifts.
  const auto end = static_cast<std::size_t>(std::llround(static_cast<double>(++ticks_) / tick_rate_ * sound_rate));
  render(end - stereo_.size() / 2);
  for (const Onset& onset : heard.onsets) mixer_.start(onset, bank_.find(onset.name));
  mixer_.slide(heard.slides);
}

void Soundtrack::ring_out() {
  mixer_.slide({});
  constexpr std::size_t longest = std::size_t{6} * sound_rate, step = sound_rate / 10;
  for (std::size_t done = 0; done < longest && mixer_.sounding() > 0; done += step) render(step);
}

}  // namespace bronvel
