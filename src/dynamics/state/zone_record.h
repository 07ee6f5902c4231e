// A zone's insides, and what zones make of gravity and air. Only the dynamics layer includes this.
#pragma once

#include <vector>

#include "dynamics/settings/zone.h"

namespace bronvel {

/// A body in a zone's water in this sub-step.
struct Wet {
  std::uint32_t body = 0;
  double share = 0;            ///< of the body's volume
  double volume = 0;           ///< m³
  Vec3 centre = Vec3::Zero();  ///< of the submerged part, m
  Vec3 flow = Vec3::Zero();    ///< velocity of the water there, m/s
  Vec3 swell = Vec3::Zero();   ///< its acceleration, m/s²
  Vec3 surface_normal = Vec3::Unit(1);
};

/// A zone's insides.
struct ZoneRecord {
  ZoneSettings settings;
  Shape reach;  ///< what it senses in: its shape, raised to the water's surface
  Pose reach_pose;
  std::vector<Plane> sides;  ///< of the shape, scene frame; without the lid where there is water
  std::vector<WaveTrain> trains;
  double level = 0;                ///< of still water, m
  double pull_reach = 1;           ///< farthest that the shape goes from the pull's target, m
  std::vector<BodyHandle> acting;  ///< on whom it acts in this tick, sorted
  std::vector<Wet> wet;            ///< those in the water, in the same order
  std::vector<Wet> wet_before;     ///< in the tick before
  std::vector<Wet> wet_again;      ///< scratch
  std::uint32_t generation = 0;
  bool alive = false;
  std::vector<BodyHandle> inside;  ///< sorted
  std::vector<BodyHandle> sensed;  ///< scratch
};

/// What zones make of gravity and air for one body.
struct Medium {
  Vec3 gravity = Vec3::Zero();  ///< m/s²
  Vec3 wind = Vec3::Zero();     ///< of the air, m/s
  Vec3 push = Vec3::Zero();     ///< of water and pulls in this sub-step, N
  Vec3 twist = Vec3::Zero();    ///< N·m
  double dry = 1;               ///< share of the body that is out of the water
  double linear_damping = 0;    ///< added to the body's own, 1/s
  double angular_damping = 0;   ///< added to the body's own, 1/s
};

}  // namespace bronvel
