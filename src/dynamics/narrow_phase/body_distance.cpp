// Distance from a shape to a body, part by part.
#include "dynamics/narrow_phase/body_distance.h"

#include "dynamics/bodies/integrate.h"
#include "geometry/queries/distance.h"

namespace bronvel {

std::vector<Part> parts_within(const WorldState& state, std::uint32_t i, const Bounds& bounds) {
  const Pose body_pose = shape_pose(state.records[i], state.bodies[i]);
  const Shape& whole = state.records[i].settings.shape;
  if (!is_composite(whole)) return {{whole, body_pose}};
  const Pose back{body_pose.orientation.conjugate() * -body_pose.position, body_pose.orientation.conjugate()};
  std::vector<std::uint32_t> numbers;
  parts_near(whole, bounds.turned(back), numbers);
  std::vector<Part> parts;
  parts.reserve(numbers.size());
  for (const std::uint32_t number : numbers) {
    Part& part = parts.emplace_back(part_of(whole, number));
    part.pose = body_pose * part.pose;
  }
  return parts;
}

WorldNearest distance_to_part(const WorldState& state, std::uint32_t i, const Part& part, const Shape& shape,
                              const Pose& pose) {
  const Convex body(part.shape, part.pose), other(shape, pose);
  const Separation apart = separation_of(body, other);
  return {{i, state.records[i].generation},
          apart.distance - body.radius() - other.radius(),
          apart.on_a + apart.normal * body.radius(),
          apart.normal};
}

WorldNearest distance_to_body(const WorldState& state, std::uint32_t i, const Shape& shape, const Pose& pose,
                              double reach) {
  const BodyRecord& record = state.records[i];
  if (!is_composite(record.settings.shape))
    return distance_to_part(state, i, {record.settings.shape, shape_pose(record, state.bodies[i])}, shape, pose);
  WorldNearest best{{i, state.records[i].generation}, 1e300};
  for (const Part& part : parts_within(state, i, shape_bounds(shape, pose).grown(reach))) {
    const WorldNearest near = distance_to_part(state, i, part, shape, pose);
    if (near.distance < best.distance) best = near;
  }
  return best;
}

}  // namespace bronvel
