// The hit sheet: all that is known of one hit of a take, and where each number that can be tuned stands.
#pragma once

#include "lab/takes/take_reader.h"

namespace bronvel {

/// One of the two bodies of a hit.
struct HitSide {
  std::string body;
  std::string surface;                                 ///< "" for none
  Surface values;                                      ///< as it counted
  bool own_restitution = false, own_friction = false;  ///< the body's own values, instead of its surface's
  MotionKind kind = MotionKind::fixed;
  double speed_before = 0, speed_after = 0;    ///< m/s
  double energy_before = 0, energy_after = 0;  ///< of motion, J
};

struct HitReport {
  std::size_t event = 0;  ///< place in Take::events
  std::int64_t tick = 0;  ///< whose end shows it
  double time = 0;        ///< s
  int number = 0;         ///< which of the first body's hits it is, from 1
  HitSide a, b;
  Vec3 point = Vec3::Zero(), normal = Vec3::Unit(1);  ///< m; from a to b
  int points = 0;
  double closing_speed = 0;      ///< m/s
  double along = 0, across = 0;  ///< impulse of the tick along the normal and of friction, N·s
  bool slid = false;             ///< friction gave all that it can
  SurfacePair pair;              ///< what the two give together
};

/// None if there is no such event, or it is a parting. `first` is the body that is told of, where it is one of the two;
/// else it is the one that moves.
std::optional<HitReport> hit_report(const Take& take, TakeReader& reader, std::size_t event,
                                    const std::string& first = "");

/// The first touch of the body at or after the tick; none if there is none.
std::optional<std::size_t> touch_at(const Take& take, const std::string& body, std::int64_t tick);

}  // namespace bronvel
