// The same pose in another frame.
#pragma once

#include "dynamics/settings/body.h"

namespace bronvel {

/// A pose in the scene, in the frame of the body.
inline Pose seen_from(const BodyMotion& body, const Pose& in_scene) {
  const Quat back = body.pose.orientation.conjugate();
  return {back * (in_scene.position - body.pose.position), back * in_scene.orientation};
}

}  // namespace bronvel
