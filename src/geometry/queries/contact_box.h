// Contact of two boxes: separating axes, then clipping of the touching faces.
#pragma once

#include "geometry/queries/contact.h"

namespace bronvel {

/// The manifold of two boxes. Method: separating axis test over 15 axes, then clipping of one face by the other
/// (Ericson, Real-Time Collision Detection, ch. 4.4 and 8.3; Gottschalk et al., OBBTree, 1996).
/// No points although not `surely_apart`, by more than `reach` along some axis: apart corner to corner, or edge to
/// corner, which the axes do not measure.
Manifold collide_boxes(const Box& a, const Pose& pose_a, const Box& b, const Pose& pose_b, double reach,
                       bool& surely_apart);

}  // namespace bronvel
