// Where the water stands at a moment, how it moves there, and how gusts blow.
#pragma once

#include <span>
#include <vector>

#include "dynamics/settings/water.h"
#include "geometry/base/plane.h"

namespace bronvel {

/// The trains of the water's waves: the same for the same seed.
std::vector<WaveTrain> wave_trains(const Water& water, double gravity, std::uint64_t seed);

/// The water at one moment.
struct WaterNow {
  double level = 0;  ///< of the still surface, m
  Vec3 current = Vec3::Zero();
  std::span<const WaveTrain> trains{};
  double time = 0;  ///< s

  double height(double x, double z) const;  ///< of the surface there, m
  /// The surface near (x, z) as a plane: through points `reach` m to each side.
  Plane surface(double x, double z, double reach) const;
  /// How the water itself moves at a point, waves included.
  struct Moving {
    Vec3 velocity = Vec3::Zero();      ///< m/s
    Vec3 acceleration = Vec3::Zero();  ///< m/s²
  };
  Moving moving(const Vec3& point) const;
};

/// How strong gusts blow at a moment: 1 in the mean, from 1 − gusts to 1 + gusts, swinging in about `seconds`.
double gust_factor(double gusts, double seconds, std::uint64_t seed, double time);

/// What the falloff leaves at distance d, of a reach r.
double falloff_share(Pull::Falloff falloff, double distance, double reach);

}  // namespace bronvel
