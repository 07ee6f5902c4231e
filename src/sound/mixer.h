// Many sounds at once, in stereo, as they are heard from one place.
#pragma once

#include <array>
#include <memory>
#include <span>
#include <vector>

#include "geometry/base/random.h"
#include "sound/heard.h"
#include "sound/sound_file.h"

namespace bronvel {

/// From where it is heard: the place of the eye, what lies to its right, and how far off is what it looks at.
struct Ear {
  Vec3 at{0, 3, 9};
  Vec3 right = Vec3::Unit(0);  ///< unit
  double distance = 9;         ///< m: as loud as it is
};
/// Of who looks so.
Ear ear_of(const View& view);

/// Loudness left and right, 0 to 1: as the power of a wave spreads, and for each side what comes from it.
struct EarSides {
  double left = 1, right = 1;
};
EarSides sides_of(const Ear& ear, const Vec3& point);

/// Not safe to use from two threads at once. At most `most_voices` sound; the quietest makes room.
class Mixer {
 public:
  static constexpr std::size_t most_voices = 32;

  void set_ear(const Ear& ear) { ear_ = ear; }
  void set_level(double level) { level_ = level; }  ///< 0 to 1
  /// Begins after `delay` seconds of what is rendered next. A recorded one sounds only with its recording.
  void start(const Onset& onset, std::shared_ptr<const Recording> recording = nullptr, double delay = 0);
  /// What slides and rolls from now on; what is not among it falls silent.
  void slide(std::span<const Slide> slides);
  /// All falls silent, without a click.
  void hush();
  /// The next samples, left and right in turn.
  void render(std::span<float> stereo);
  std::size_t sounding() const;

 private:
  struct Voice {
    // Of the modes, side by side: y(n) = 2 r cos w y(n − 1) − r² y(n − 2).
    std::array<float, modes_of_a_ring> once{}, twice{}, along{}, square{};
    float left = 0, right = 0;
    float noise = 0, noise_decay = 0, noise_pass = 0, noise_low = 0;  // a burst through a low pass
    std::size_t wait = 0;                                             // samples until it begins
    std::size_t age = 0, end = 0;                                     // samples
    float loudness = 0;
    bool bubbling = false;
    float bubble_phase = 0, bubble_step = 0, bubble_rise = 0, bubble_swing = 0, bubble_decay = 0;
    std::shared_ptr<const Recording> recording;
    double place = 0, pace = 1;  // in the recording
    Random chance{0};
  };
  struct Rub {
    std::uint64_t pair = 0;
    bool wanted = false;
    float now = 0, target = 0, left = 1, right = 1;
    float turn = 0, damp = 0, band = 0, low = 0;  // of its band pass
    Random chance{0};
  };

  void render_voice(Voice& voice, std::span<float> stereo) const;
  static void render_rub(Rub& rub, std::span<float> stereo);

  Ear ear_;
  double level_ = 1;
  double level_now_ = 1;
  std::vector<Voice> voices_;
  std::vector<Rub> rubs_;
  float hush_ = 1;  // falls to 0 while all is being hushed
  bool hushing_ = false;
};

}  // namespace bronvel
