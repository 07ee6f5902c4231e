// Which way is up, across and forward: of a scene, by its gravity and plane, and of a body.
#pragma once

#include "dynamics/settings/world_settings.h"

namespace bronvel {

/// Three directions at right angles, unit vectors.
struct Ways {
  Vec3 up, across, forward;
};

/// Of the scene: up is against gravity; without any it is Y, and in a planar scene, which is then seen from above, Z.
/// Across is to the right (X, as near as it can be), forward away from the one who looks.
Ways ways_of_scene(const WorldSettings& world);

/// Of a body in its own frame. Forward is −Z, as in glTF; in a planar scene X, since it can't turn or move out of the
/// plane. Up is Y, in a planar scene seen from above Z. Across is to its right.
Ways ways_of_body(const WorldSettings& world);

/// The turn of a body whose forward looks along `direction`, its up as near to `up` as that allows; in a planar scene
/// about Z alone. `direction` is not zero.
Quat facing(const WorldSettings& world, const Vec3& direction, const Vec3& up);

}  // namespace bronvel
