// Putting compounds together.
#include "geometry/shapes/compound.h"

#include "geometry/base/error.h"
#include "geometry/shapes/mass.h"

namespace bronvel {

bool operator==(const Compound& a, const Compound& b) {
  return a.data == b.data || (a.data && b.data && a.data->parts == b.data->parts);
}

Compound make_compound(std::vector<Part> parts) {
  if (parts.empty()) throw Error("compound", "wants at least one part");
  auto data = std::make_shared<CompoundData>();
  Vec3 moment = Vec3::Zero();
  for (std::size_t i = 0; i < parts.size(); ++i) {
    Part& part = parts[i];
    const std::string place = "compound part " + std::to_string(i + 1);
    if (is_composite(part.shape)) throw Error(place, "must be a convex shape, not a " + shape_word(part.shape));
    if (auto fault = shape_fault(part.shape)) throw Error(place, *fault);
    if (!finite(part.pose.position) || !finite(part.pose.orientation) || part.pose.orientation.norm() < 1e-6)
      throw Error(place, "has a pose that is not a number");
    if (!(part.density > 0) || !finite(part.density)) throw Error(place, "must have a density above 0");
    // One that is unit already is kept bit for bit, so that files come back as they were.
    if (std::abs(part.pose.orientation.squaredNorm() - 1) >= 1e-12) part.pose.orientation.normalize();
    const MassProperties m = mass_properties(part.shape, part.density);
    data->volume += m.mass;
    moment += m.mass * part.pose.to_scene(m.centre);
  }
  data->centre = moment / data->volume;
  for (const Part& part : parts) {
    const MassProperties m = mass_properties(part.shape, part.density);
    const Mat3 turn = part.pose.orientation.toRotationMatrix();
    const Vec3 arm = part.pose.to_scene(m.centre) - data->centre;
    // The parallel axis theorem (Huygens and Steiner).
    data->inertia +=
        turn * m.inertia * turn.transpose() + m.mass * (arm.squaredNorm() * Mat3::Identity() - arm * arm.transpose());
  }
  for (const Part& part : parts) data->bounds.push_back(shape_bounds(part.shape, part.pose));
  data->parts = std::move(parts);
  return {std::move(data)};
}

}  // namespace bronvel
