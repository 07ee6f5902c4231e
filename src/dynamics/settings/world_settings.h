// What holds for a whole world: gravity, the tick, air, and when hits bounce and bodies rest.
#pragma once

#include <cstdint>

#include "geometry/base/vector.h"

namespace bronvel {

struct WorldSettings {
  Vec3 gravity{0, -9.81, 0};       ///< m/s²
  double tick_rate = 60;           ///< ticks a second
  int substeps = 4;                ///< solver steps in a tick
  double restitution_speed = 0.2;  ///< closing speed below which a hit does not bounce, m/s
  double rest_way = 1.5e-4;        ///< a body that moves less than this in half a second may sleep, m; 0: none does
  double air_density = 1.2;        ///< kg/m³, for drag areas
  std::int64_t first_tick = 0;     ///< that a new world begins at: waves and gusts are those of that time
  bool planar = false;             ///< dynamic bodies move in X and Y and turn about Z only
  /// v' = v + h a, then x' = x + h v', drag and damping taken explicitly: as many a game's own loop steps. To compare
  /// with; no scene is saved with it.
  bool half_implicit = false;

  bool operator==(const WorldSettings&) const = default;
};

/// Throws Error, naming the setting, where one is out of its range.
void check(const WorldSettings& settings);

}  // namespace bronvel
