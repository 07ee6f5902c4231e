// Finding what to snap to.
#include "app/stage/snapping.h"

#include <algorithm>
#include <set>

namespace bronvel {

Sides::Sides(const Scene& scene, const BodyNames& except) {
  const std::set<std::string> passed(except.begin(), except.end());
  for (const Body& body : scene.bodies) {
    if (passed.contains(body.name)) continue;
    const Bounds bounds = shape_bounds(body.shape, {body.position, body.orientation});
    for (int axis = 0; axis < 3; ++axis)
      for (const double place : {bounds.low[axis], bounds.high[axis]})
        places_[static_cast<std::size_t>(axis)].push_back(place);
  }
  for (auto& places : places_) std::sort(places.begin(), places.end());
}

std::optional<Sides::Found> Sides::nearest(int axis, double low, double high, double reach) const {
  const auto& places = places_[static_cast<std::size_t>(axis)];
  std::optional<Found> best;
  for (const double side : {low, high}) {
    const auto next = std::lower_bound(places.begin(), places.end(), side);
    const auto look = [&](double place) {
      const double shift = place - side;
      if (std::abs(shift) <= reach && (!best || std::abs(shift) < std::abs(best->shift))) best = Found{shift, place};
    };
    if (next != places.end()) look(*next);
    if (next != places.begin()) look(*std::prev(next));
  }
  return best;
}

double to_grid(double value, double step) {
  return step > 0 ? std::round(value / step) * step : value;
}

}  // namespace bronvel
