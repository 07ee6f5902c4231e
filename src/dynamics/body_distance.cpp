// Distance from a shape to a body, part by part.
#include "dynamics/body_distance.h"

#include "dynamics/contact_pairs.h"
#include "geometry/distance.h"
#include "geometry/parts.h"

namespace bronvel {

WorldNearest distance_to_body(const WorldState& state, std::uint32_t i, const Shape& shape, const Pose& pose,
                              double reach) {
  const Pose body_pose = shape_pose(state.records[i], state.motions[i]);
  const Shape& whole = state.records[i].settings.shape;
  WorldNearest best{{i, state.records[i].generation}, reach + 1};
  const auto look = [&](const Shape& part, const Pose& part_pose) {
    const Convex body(part, part_pose), other(shape, pose);
    const Separation apart = separation_of(body, other);
    const double distance = apart.distance - body.radius() - other.radius();
    if (distance < best.distance) best = {best.body, distance, apart.on_a + apart.normal * body.radius(), apart.normal};
  };
  if (!is_composite(whole)) {
    best.distance = 1e300;
    look(whole, body_pose);
    return best;
  }
  const Pose back{body_pose.orientation.conjugate() * -body_pose.position, body_pose.orientation.conjugate()};
  std::vector<std::uint32_t> parts;
  parts_near(whole, shape_bounds(shape, pose).grown(reach).turned(back), parts);
  for (const std::uint32_t p : parts) {
    const Part part = part_of(whole, p);
    look(part.shape, body_pose * part.pose);
  }
  return best;
}

}  // namespace bronvel
