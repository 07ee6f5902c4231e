// Waters as the stage draws them.
#pragma once

#include <vector>

#include "dynamics/fields/waves.h"
#include "geometry/base/bounds.h"
#include "scene/document/document.h"

namespace bronvel {

/// One zone's water at a moment.
struct WaterView {
  Bounds box;        ///< of the zone, scene frame, m
  double level = 0;  ///< of the still surface, m
  Vec3 current = Vec3::Zero();
  std::vector<WaveTrain> trains;
  double time = 0;  ///< s

  double height(double x, double z) const;
};

/// The waters of a scene whose zones are as these, at this time. Waves run as in a play with this seed.
std::vector<WaterView> water_views(const Scene& scene, const std::vector<SceneZone>& zones, std::uint64_t seed,
                                   double time);

}  // namespace bronvel
