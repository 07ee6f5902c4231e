// Joints of a body that broke or was cut, handed on to what came of it.
#pragma once

#include <functional>

#include "dynamics/state/world_state.h"
#include "dynamics/world/world.h"

namespace bronvel {

/// Where a joint's end goes: to this body, whose frame stands there in the frame that the broken body had.
struct NewEnd {
  BodyHandle body;
  Vec3 origin = Vec3::Zero();
};
/// Asks of each joint's end on `from`, by its place in the frame that it had before it broke, where it goes.
void move_joints(World& world, WorldState& state, BodyHandle from,
                 const std::function<NewEnd(const Vec3& place)>& goes_to);

}  // namespace bronvel
