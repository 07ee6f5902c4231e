// What the world reports of a tick.
#pragma once

#include <vector>

#include "dynamics/settings/body.h"
#include "geometry/queries/contact.h"

namespace bronvel {

enum class ContactPhase { touch, stay, part };

/// Names a contact point among all of its two bodies, for as long as it lasts: the same corner on the same face keeps
/// its name from tick to tick.
struct PointName {
  std::uint32_t part_a = 0, part_b = 0;  ///< parts of the bodies' shapes; 0 for a convex one
  std::uint32_t number = 0;              ///< counted from 1 by these two parts since they came near
  auto operator<=>(const PointName&) const = default;
};

/// One pair of bodies in contact during a tick. `a` has the lower index; the normal points from a to b.
struct ContactEvent {
  ContactPhase phase = ContactPhase::touch;
  BodyHandle a, b;
  std::uint32_t part_a = 0, part_b = 0;  ///< which parts of the bodies' shapes bear most
  Vec3 normal = Vec3::Unit(1);
  /// Of the part that bears most first, of each the deepest first, m; empty when parting. Of what came to touch in this
  /// tick: where the two met, at that moment; of what goes on touching: at the tick's end.
  std::vector<Vec3> points;
  std::vector<PointName> names;  ///< of the same points
  double moment = 0;             ///< when they touched, s into the tick; its end for what touched before it
  double closing_speed = 0;      ///< before the hit, along the normal, m/s
  double normal_impulse = 0;     ///< summed over the tick, N·s
  double friction_impulse = 0;   ///< length of the sum over the tick, N·s
  SurfacePair surface;
};

/// What the world could not do for a body as it should: it stopped it because its motion was no longer a number, or
/// left out what it might have met.
struct FaultEvent {
  BodyHandle body;
  std::string reason;
};

}  // namespace bronvel
