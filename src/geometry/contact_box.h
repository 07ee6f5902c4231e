// Contact of two boxes: separating axes, then clipping of the touching faces.
#pragma once

#include "geometry/contact.h"

namespace bronvel {

/// The manifold of two boxes. Method: separating axis test over 15 axes, then clipping of one face by the other
/// (Ericson, Real-Time Collision Detection, ch. 4.4 and 8.3; Gottschalk et al., OBBTree, 1996).
/// `surely_apart`: some axis parts them by more than `reach`.
Manifold collide_boxes(const Box& a, const Pose& pose_a, const Box& b, const Pose& pose_b, double reach,
                       bool& surely_apart);

}  // namespace bronvel
