// Looking for what does nothing.
#include "scene/document/idle.h"

#include <algorithm>

#include "dynamics/breaking/bonds.h"
#include "scene/document/breaking.h"

namespace bronvel {

std::vector<IdleThing> idle_things(const Scene& scene) {
  std::vector<IdleThing> all;
  for (const Body& body : scene.bodies)
    if (body.breaking.into == Breaking::Into::planes && body.breaking.planes.empty())
      all.push_back({body.name,
                     "breaks into planes, but has none: it stays whole. Cut it with the knife in the bench, or give "
                     "planes in scene.json"});
  for (const Body& body : scene.bodies)
    if (body.breaking.into != Breaking::Into::nothing && holds_all(*pieces_of(body.shape, body.breaking)))
      all.push_back({body.name,
                     "is to break, but the scene holds each of its pieces (held_pieces): it stays whole. Hold "
                     "fewer of them, or let it break into more"});
  for (const SceneJoint& joint : scene.joints) {
    const bool sprung = joint.stiffness > 0 || joint.damping > 0;
    if (joint.kind == JointKind::distance && !joint.low && !joint.high && !sprung)
      all.push_back({joint.name, "is a distance joint without low, high or stiffness: it holds nothing"});
    if (joint.kind == JointKind::pulley && !joint.high && !joint.low)
      all.push_back({joint.name, "is a pulley without low or high, the length of its rope: it holds nothing"});
  }
  return all;
}

}  // namespace bronvel
