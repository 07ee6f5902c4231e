// The ranges of a world's settings.
#include "dynamics/settings/world_settings.h"

#include "geometry/base/error.h"

namespace bronvel {

void check(const WorldSettings& s) {
  if (!finite(s.gravity)) throw Error("world", "gravity is not a number");
  if (!(s.tick_rate >= 1 && s.tick_rate <= 10000)) throw Error("world", "tick_rate must be 1 to 10,000 Hz");
  if (s.substeps < 1 || s.substeps > 64) throw Error("world", "substeps must be 1 to 64");
  if (!(s.restitution_speed >= 0)) throw Error("world", "restitution_speed must be 0 m/s or more");
  if (!(s.rest_way >= 0)) throw Error("world", "rest_way must be 0 m or more");
  if (!(s.air_density >= 0)) throw Error("world", "air_density must be 0 kg/m³ or more");
}

}  // namespace bronvel
