// One look at the waves at a place: all that a floating body asks of them there.
#pragma once

#include <array>

#include "dynamics/fields/waves.h"
#include "geometry/base/angles.h"

namespace bronvel {

/// What is left of a train's rise (m) and slopes in a plane through points some way to each side.
struct WaveWidth {
  double rise = 0, slope_x = 0, slope_z = 0;
};
WaveWidth width_of(const WaveTrain& train, double reach);

/// The water at (x, z) and one moment. Holds on to `water`.
class WaveLook {
 public:
  WaveLook(const WaterNow& water, double x, double z);

  /// See WaterNow.
  Plane surface(double reach) const;
  WaterNow::Moving moving(double y) const;

 private:
  const WaterNow& water_;
  double x_, z_;
  std::size_t count_;
  std::array<SineCosine, most_trains> here_;  // of each train's angle
};

}  // namespace bronvel
