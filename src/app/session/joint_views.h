// What joints look like on the stage: cords between two anchors, pins where bodies turn.
#pragma once

#include <functional>
#include <optional>

#include "app/session/session.h"

namespace bronvel {

/// Views of the scene's joints. `pose_of` gives a body's pose now, none if it is gone; `holds` tells whether the joint
/// is still there.
std::vector<BodyView> joint_views(const Scene& scene,
                                  const std::function<std::optional<Pose>(const std::string&)>& pose_of,
                                  const std::function<bool(const std::string&)>& holds);

}  // namespace bronvel
