// What acts on a body at a moment, from its books: each cause with its force, greatest first.
#pragma once

#include <array>

#include "lab/why/booked.h"

namespace bronvel {

/// One cause in a tick. Of what comes at once (`cause.at_once()`) N·s and N·m·s, of the rest N and N·m, means of the
/// tick.
struct Acting {
  NamedCause cause;
  Vec3 force = Vec3::Zero(), torque = Vec3::Zero();  ///< scene frame; the torque about the centre of mass
  Vec3 at = Vec3::Zero();                            ///< where, m; the centre of mass where `has_place` is false
  bool has_place = false;
  double power = 0;  ///< that it gives to the energy of motion, W; at once: J
  double share = 0;  ///< of the greatest of its kind, 0 to 1
};

struct WhatActs {
  std::int64_t tick = 0;         ///< whose forces these are; of what sleeps, the last in which it was awake
  bool asleep = false;           ///< at the moment that was asked for
  std::vector<Acting> causes;    ///< steady ones first, greatest first; then those at once
  Vec3 net = Vec3::Zero();       ///< sum of all over the tick, N
  Vec3 changing = Vec3::Zero();  ///< mass times acceleration: what momentum changed by, N
};

/// On these bodies as one: what they do to one another is left out. Nothing for a moment that was not booked.
WhatActs what_acts(std::span<const BookedBody* const> bodies, std::int64_t tick, double tick_rate);

/// "↗": which way a force goes as one sees the scene with X to the right and Y up; "·" where it goes towards or away
/// from the eye, "" for none.
const char* direction_glyph(const Vec3& force);

/// "118 N ↗", "4.5 N·s ↑", "0.3 N·m".
std::string size_text(const Acting& acting);

}  // namespace bronvel
