// Boxes taken along.
#include "geometry/base/bounds.h"

namespace bronvel {

Bounds Bounds::turned(const Pose& pose) const {
  const Vec3 middle = pose.to_scene(0.5 * (low + high));
  const Vec3 half = pose.orientation.toRotationMatrix().cwiseAbs() * (0.5 * (high - low));
  return {middle - half, middle + half};
}

}  // namespace bronvel
