// A blast: one impulse outward from a point, weaker with distance, on everything near.
#pragma once

#include <functional>

#include "dynamics/world/world.h"

namespace bronvel {

/// How a blast's impulse falls from its middle (1) to its rim (0).
enum class Falloff { even, linear, square };  ///< 1; 1 − d/r; (1 − d/r)²

struct Blast {
  Vec3 at = Vec3::Zero();  ///< scene frame, m
  double radius = 3;       ///< m
  double impulse = 100;    ///< on a body at the middle, N·s
  Falloff falloff = Falloff::linear;
  double upward = 0;  ///< share of the push that goes against gravity, so that things are thrown up: 0 to 1
  double lift = 0;    ///< m: pushes as from a point this far below; of plays that were recorded before `upward` was
};

/// A body that a blast pushed.
struct BlastHit {
  BodyHandle body;
  Vec3 point = Vec3::Zero();    ///< where it was pushed: its nearest point to the blast, scene frame, m
  Vec3 impulse = Vec3::Zero();  ///< N·s
};

/// Pushes every dynamic body within the radius, at its point nearest to the blast and away from it, if `takes_part`
/// says so (all, if not given). A breakable body, static ones too, is struck piece by piece: its pieces within the
/// radius share the impulse by the area that they show, and what breaks off flies. In order of the bodies' index.
/// Throws Error when the blast is not of numbers. `work`, if given, grows by what looking for them took.
std::vector<BlastHit> set_off(World& world, const Blast& blast,
                              const std::function<bool(BodyHandle)>& takes_part = nullptr, QueryWork* work = nullptr);

}  // namespace bronvel
