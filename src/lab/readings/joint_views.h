// What joints look like on the stage: cords between two anchors, pins where bodies turn.
#pragma once

#include <functional>
#include <optional>

#include "lab/readings/frame.h"

namespace bronvel {

/// Adds the shapes that stand for the joint. `pose_of` gives a body's pose at the moment, none if it is not there.
void add_joint_views(std::vector<BodyView>& views, const SceneJoint& joint,
                     const std::function<std::optional<Pose>(const std::string&)>& pose_of);

}  // namespace bronvel
