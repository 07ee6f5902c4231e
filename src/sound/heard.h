// What is heard of a tick: from what touched, slid, splashed and broke in it, and what scripts let sound.
#pragma once

#include <functional>
#include <span>
#include <string>
#include <vector>

#include "play/run/play.h"
#include "sound/ring.h"

namespace bronvel {

/// Something that begins to sound.
struct Onset {
  enum class Kind {
    struck,   ///< `ring` at `loudness`, after a blow of `contact` seconds
    splash,   ///< of water, `size` across
    recorded  ///< `name`, a file of the scene's sounds
  };
  Kind kind = Kind::struck;
  std::int64_t tick = 0;
  Vec3 point = Vec3::Zero();  ///< scene frame, m
  double loudness = 0;        ///< 0 to 1
  double pitch = 1;           ///< times as high
  Ring ring{};
  double contact = 1e-3;  ///< s
  double size = 1;        ///< m
  std::string name{};
  std::uint64_t chance = 0;  ///< seed of what differs from blow to blow
};

/// Two bodies that slide or roll on each other, in this tick.
struct Slide {
  std::uint64_t pair = 0;     ///< the same for the same two
  Vec3 point = Vec3::Zero();  ///< m
  double loudness = 0;        ///< 0 to 1
  double brightness = 0;      ///< Hz about which it is loudest
  bool operator==(const Slide&) const = default;
};

struct Heard {
  std::vector<Onset> onsets;  ///< loudest first, at most `most_onsets`
  std::vector<Slide> slides;  ///< likewise, at most `most_slides`
};

inline constexpr std::size_t most_onsets = 24, most_slides = 8;

/// Two bodies that press on each other with friction between them.
struct Rubbing {
  std::string a, b;
  Vec3 point = Vec3::Zero();  ///< m
  double along = 0;           ///< force along the normal, N
  double across = 0;          ///< of friction, N
  double slip = 0;            ///< speed of the one's surface over the other's, m/s
  double travel = 0;          ///< speed of the place where they touch, over the slower of them, m/s
};

/// Where two bodies touch, and how hard.
struct ContactPlace {
  Vec3 point = Vec3::Zero();     ///< m
  Vec3 normal = Vec3::Unit(1);   ///< unit
  double along = 0, across = 0;  ///< N
};

/// How two bodies that move so rub on each other; without their names.
Rubbing rubbing_of(const ContactPlace& place, const BodyMotion& a, const BodyMotion& b);

/// What hearing asks of a tick, of a play or of a take.
struct TickSource {
  const Scene* scene = nullptr;
  std::uint64_t seed = 0;
  std::int64_t tick = 0;
  std::span<const PlayEvent> events;
  std::span<const PlaySplash> splashes;
  std::span<const PlayCrack> cracks;
  std::span<const Drawn> drawn;
  std::span<const Rubbing> rubbing;
  std::function<const Body*(const std::string&)> body;  ///< null where there is none
  std::function<bool(const std::string&)> has_file;     ///< whether the scene has a sound of that name
};

Heard hear(const TickSource& source);

/// The last tick of a running play. `has_file` as above.
Heard hear(const Play& play, const std::function<bool(const std::string&)>& has_file);

}  // namespace bronvel
