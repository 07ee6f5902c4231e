// Which of the parts each end goes to.
#include "dynamics/world/move_joints.h"

namespace bronvel {

void move_joints(World& world, WorldState& state, BodyHandle from,
                 const std::function<NewEnd(const Vec3& place)>& goes_to) {
  for (std::uint32_t j = 0; j < state.joints.size(); ++j) {
    if (!state.joints[j].alive) continue;
    JointSettings joint = state.joints[j].settings;
    bool moves = false;
    for (const auto& [end, frame] : {std::pair{&joint.a, &joint.frame_a}, std::pair{&joint.b, &joint.frame_b}}) {
      if (*end != from) continue;
      const NewEnd to = goes_to(frame->position);
      if (to.body == from && to.origin.isZero(0)) continue;
      *end = to.body;
      frame->position -= to.origin;
      moves = true;
    }
    if (moves) world.change(JointHandle{j, state.joints[j].generation}, joint);
  }
}

}  // namespace bronvel
