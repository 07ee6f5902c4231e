// Rings, splashes, recordings and slides, added up.
#include "sound/mixer.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace bronvel {
namespace {

constexpr double per_second = sound_rate;
constexpr float silent = 1e-4F;

float noise_of(Random& chance) {
  return static_cast<float>(chance.between(-1, 1));
}

// How much passes of a one-pole low pass that halves the power at `frequency`.
float pass_of(double frequency) {
  return static_cast<float>(1 - std::exp(-2 * pi * std::min(frequency, 0.45 * per_second) / per_second));
}

// As loud whatever passes.
float even(float pass) {
  return std::min(1 / std::sqrt(pass), 8.0F);
}

std::size_t samples(double seconds) {
  return static_cast<std::size_t>(std::llround(std::max(seconds, 0.0) * per_second));
}

}  // namespace

Ear ear_of(const View& view) {
  const double turn = view.turn * pi / 180, tilt = view.tilt * pi / 180;
  const Vec3 back(std::sin(turn) * std::cos(tilt), std::sin(tilt), std::cos(turn) * std::cos(tilt));
  Ear ear;
  ear.at = view.target + view.distance * back;
  ear.right = Vec3(std::cos(turn), 0, -std::sin(turn));
  ear.distance = view.distance;
  return ear;
}

EarSides sides_of(const Ear& ear, const Vec3& point) {
  const Vec3 to = point - ear.at;
  const double distance = std::max(to.norm(), 0.1 * ear.distance + 1e-6);
  const double near = std::min(ear.distance / distance, 2.0);
  const double side = std::clamp(to.dot(ear.right) / distance, -1.0, 1.0);
  // As much power from wherever it comes.
  const double angle = (side + 1) * pi / 4;
  return {near * std::cos(angle) * std::numbers::sqrt2, near * std::sin(angle) * std::numbers::sqrt2};
}

void Mixer::start(const Onset& onset, std::shared_ptr<const Recording> recording, double delay) {
  if (onset.kind == Onset::Kind::recorded && !recording) return;
  const EarSides sides = sides_of(ear_, onset.point);
  Voice voice;
  voice.chance = Random(onset.chance);
  voice.loudness = static_cast<float>(onset.loudness);
  voice.left = static_cast<float>(0.5 * sides.left);
  voice.right = static_cast<float>(0.5 * sides.right);
  voice.wait = samples(delay);
  const double pitch = std::clamp(onset.pitch, 0.02, 50.0);
  switch (onset.kind) {
    case Onset::Kind::recorded:
      voice.recording = std::move(recording);
      voice.pace = pitch;
      voice.end = static_cast<std::size_t>(static_cast<double>(voice.recording->samples.size()) / pitch);
      break;
    case Onset::Kind::splash: {
      // A burst, and a bubble that closes behind: 3.26 m/s over its radius (Minnaert, 1933), rising as it shrinks.
      const double radius = std::clamp(0.12 * onset.size, 0.002, 0.2);
      voice.noise_decay = static_cast<float>(std::exp(-1 / (per_second * (0.05 + 0.12 * std::min(onset.size, 3.0)))));
      voice.noise_pass = pass_of(pitch * std::clamp(1800 / (0.5 + onset.size), 300.0, 5000.0));
      voice.noise = voice.loudness * 0.6F * even(voice.noise_pass);
      voice.bubbling = true;
      voice.bubble_step = static_cast<float>(2 * pi * pitch * 3.26 / radius / per_second);
      voice.bubble_rise = static_cast<float>(std::exp(1.5 / per_second));
      voice.bubble_swing = voice.loudness * 0.5F;
      voice.bubble_decay = static_cast<float>(std::exp(-1 / (per_second * 0.12)));
      voice.end = samples(1.5);
      break;
    }
    case Onset::Kind::struck: {
      // A long blow wakes no fast swings; where it was struck decides how much of each.
      std::array<double, modes_of_a_ring> woken{};
      double sum = 0, whole = 0;
      for (std::size_t k = 0; k < modes_of_a_ring; ++k) {
        const Mode& mode = onset.ring.modes[k];
        const double frequency = mode.frequency * pitch;
        const double place = voice.chance.between(0.7, 1);
        if (mode.share <= 0 || frequency > 0.45 * per_second) continue;
        woken[k] = mode.share * place / (1 + std::pow(2 * frequency * onset.contact, 2));
        sum += woken[k];
        whole += mode.share;
      }
      // What is lost of the high swings is in part heard as more of the low ones.
      const double evened = sum > 0 ? std::pow(sum / whole, -0.7) : 0;
      double slowest = 1e9;
      for (std::size_t k = 0; k < modes_of_a_ring; ++k) {
        if (woken[k] <= 0) continue;
        const Mode& mode = onset.ring.modes[k];
        const double swing = onset.loudness * evened * woken[k];
        const double fall = std::exp(-mode.decay / per_second), turn = 2 * pi * mode.frequency * pitch / per_second;
        voice.along[k] = static_cast<float>(2 * fall * std::cos(turn));
        voice.square[k] = static_cast<float>(fall * fall);
        // Begins at rest, so that nothing clicks: y = swing r^n sin(n w).
        voice.once[k] = 0;
        voice.twice[k] = static_cast<float>(-swing * std::sin(turn) / fall);
        slowest = std::min(slowest, mode.decay);
      }
      voice.noise_pass = pass_of(pitch * std::clamp(0.6 / onset.contact, 120.0, 9000.0));
      voice.noise = static_cast<float>(onset.loudness * onset.ring.knock) * even(voice.noise_pass);
      voice.noise_decay = static_cast<float>(std::exp(-1 / (per_second * std::max(4 * onset.contact, 0.004))));
      voice.end = samples(std::clamp(9 / slowest, 0.1, 6.0));
      break;
    }
  }
  if (voices_.size() >= most_voices) {
    // As loud as they are by now.
    const auto left_of = [](const Voice& v) {
      return v.loudness * (v.wait > 0 ? 1 : 1 - static_cast<float>(v.age) / static_cast<float>(v.end + 1));
    };
    const auto quietest = std::min_element(voices_.begin(), voices_.end(),
                                           [&](const Voice& a, const Voice& b) { return left_of(a) < left_of(b); });
    if (left_of(*quietest) > voice.loudness) return;
    *quietest = std::move(voice);
    return;
  }
  voices_.push_back(std::move(voice));
}

void Mixer::slide(std::span<const Slide> slides) {
  for (Rub& rub : rubs_) rub.wanted = false;
  for (const Slide& slide : slides) {
    auto rub = std::find_if(rubs_.begin(), rubs_.end(), [&](const Rub& r) { return r.pair == slide.pair; });
    if (rub == rubs_.end()) {
      rubs_.emplace_back();
      rub = std::prev(rubs_.end());
      rub->pair = slide.pair;
      rub->chance = Random(slide.pair);
    }
    const EarSides sides = sides_of(ear_, slide.point);
    rub->wanted = true;
    rub->target = static_cast<float>(slide.loudness);
    rub->left = static_cast<float>(0.5 * sides.left);
    rub->right = static_cast<float>(0.5 * sides.right);
    rub->turn = static_cast<float>(2 * std::sin(pi * std::min(slide.brightness, 6000.0) / per_second));
    rub->damp = 0.9F;
  }
  for (Rub& rub : rubs_)
    if (!rub.wanted) rub.target = 0;
}

void Mixer::hush() {
  hushing_ = true;
}

void Mixer::render_voice(Voice& v, std::span<float> stereo) const {
  const std::size_t count = stereo.size() / 2;
  std::size_t from = std::min(v.wait, count);
  v.wait -= from;
  const std::size_t to = std::min(count, from + (v.end - v.age));
  v.age += to - from;
  if (v.recording) {
    const std::vector<float>& all = v.recording->samples;
    for (; from < to; ++from, v.place += v.pace) {
      const auto before = static_cast<std::size_t>(v.place);
      if (before + 1 >= all.size()) break;
      const auto share = static_cast<float>(v.place - static_cast<double>(before));
      const float y = v.loudness * (all[before] + share * (all[before + 1] - all[before]));
      stereo[2 * from] += v.left * y;
      stereo[2 * from + 1] += v.right * y;
    }
    return;
  }
  if (v.bubbling) {
    for (std::size_t i = from; i < to; ++i) {
      const float y = v.bubble_swing * std::sin(v.bubble_phase);
      v.bubble_phase += v.bubble_step;
      v.bubble_step *= v.bubble_rise;
      v.bubble_swing *= v.bubble_decay;
      stereo[2 * i] += v.left * y;
      stereo[2 * i + 1] += v.right * y;
    }
  } else {
    // In variables of its own: what is written could else be what is read.
    std::array<float, modes_of_a_ring> once = v.once, twice = v.twice, next{};
    const std::array<float, modes_of_a_ring> along = v.along, square = v.square;
    static_assert(modes_of_a_ring == 8);
    for (std::size_t i = from; i < to; ++i) {
      for (std::size_t k = 0; k < modes_of_a_ring; ++k) next[k] = along[k] * once[k] - square[k] * twice[k];
      twice = once;
      once = next;
      const float y = ((next[0] + next[4]) + (next[2] + next[6])) + ((next[1] + next[5]) + (next[3] + next[7]));
      stereo[2 * i] += v.left * y;
      stereo[2 * i + 1] += v.right * y;
    }
    v.once = once;
    v.twice = twice;
  }
  for (; from < to && std::max(v.noise, std::abs(v.noise_low)) > silent; ++from) {
    v.noise_low += v.noise_pass * (v.noise * noise_of(v.chance) - v.noise_low);
    v.noise *= v.noise_decay;
    stereo[2 * from] += v.left * v.noise_low;
    stereo[2 * from + 1] += v.right * v.noise_low;
  }
}

// White noise through a band pass of two poles (Chamberlin, Musical Applications of Microprocessors, 1985).
void Mixer::render_rub(Rub& rub, std::span<float> stereo) {
  constexpr float towards = 0.0008F;  // of what is wanted, a sample: 25 ms
  const float even_band = even(rub.turn);
  for (std::size_t i = 0; i + 1 < stereo.size(); i += 2) {
    rub.now += towards * (rub.target - rub.now);
    rub.low += rub.turn * rub.band;
    const float high = noise_of(rub.chance) - rub.low - rub.damp * rub.band;
    rub.band += rub.turn * high;
    const float y = rub.now * even_band * rub.band;
    stereo[i] += rub.left * y;
    stereo[i + 1] += rub.right * y;
  }
}

void Mixer::render(std::span<float> stereo) {
  std::fill(stereo.begin(), stereo.end(), 0.0F);
  for (Voice& voice : voices_) render_voice(voice, stereo);
  for (Rub& rub : rubs_) render_rub(rub, stereo);
  std::erase_if(voices_, [](const Voice& v) { return v.age >= v.end && v.wait == 0; });
  std::erase_if(rubs_, [](const Rub& r) { return r.target == 0 && r.now < silent; });
  constexpr double towards = 0.002;
  for (std::size_t i = 0; i + 1 < stereo.size(); i += 2) {
    level_now_ += towards * (level_ - level_now_);
    if (hushing_) hush_ = std::max(0.0F, hush_ - 0.0005F);
    const float level = hush_ * static_cast<float>(level_now_);
    // Many at once press on each other instead of breaking off.
    for (const std::size_t k : {i, i + 1}) stereo[k] = std::tanh(level * stereo[k]);
  }
  if (hushing_ && hush_ <= 0) {
    voices_.clear();
    rubs_.clear();
    hushing_ = false;
    hush_ = 1;
  }
}

std::size_t Mixer::sounding() const {
  return voices_.size() + rubs_.size();
}

}  // namespace bronvel
