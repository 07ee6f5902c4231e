// From zones to waters.
#include "app/session/water_view.h"

#include "dynamics/fields/waves.h"
#include "geometry/shapes/shape.h"

namespace bronvel {

double WaterView::height(double x, double z) const {
  return WaterNow{level, current, trains, time}.height(x, z);
}

std::vector<WaterView> water_views(const Scene& scene, const std::vector<SceneZone>& zones, std::uint64_t seed,
                                   double time) {
  std::vector<WaterView> views;
  for (const SceneZone& zone : zones) {
    if (!zone.water) continue;
    Scene seeded;
    seeded.seed = seed;
    const ZoneSettings settings = settings_of(seeded, zone);
    WaterView view;
    view.box = shape_bounds(zone.shape, {zone.position, zone.orientation});
    view.level = zone.level.value_or(view.box.high.y());
    view.current = zone.current;
    view.trains = wave_trains(*settings.water, scene.world.gravity.norm(), settings.seed);
    view.time = time;
    views.push_back(std::move(view));
  }
  return views;
}

}  // namespace bronvel
