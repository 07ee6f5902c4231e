// A frame: what the stage draws of one moment, whether that is of the scene, of a running play or of a take.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "play/play.h"

namespace bronvel {

/// A body as it is drawn.
struct BodyView {
  std::string name;
  Shape shape;
  Pose pose;
  std::string colour;
  MotionKind kind = MotionKind::dynamic;
  bool asleep = false;
  bool locked = false;
  std::shared_ptr<const Model> model{};  ///< drawn instead of the shape, if there is one
  Pose model_pose{};                     ///< in the body's frame
  double model_scale = 1;
  bool piece = false;  ///< shown apart from the body that it would break off
  double left = 1;     ///< share of its size that is drawn: debris fades by shrinking

  /// What a body of the scene looks like, standing at `pose`.
  static BodyView of(const Body& body, const Pose& pose, const Models& models);
};

/// Something that a script drew that passes: a puff or a sound.
struct Passing {
  Drawn drawn;
  std::int64_t tick = 0;
  double age = 0;  ///< s of play
};

/// So long a puff or a sound is seen, s of play.
inline constexpr double passing_time = 1;

struct Frame {
  std::int64_t tick = 0;
  std::vector<BodyView> bodies;
  std::vector<BodyView> joints;   ///< shapes that stand for joints
  std::vector<SceneZone> zones;   ///< as they are at the moment
  std::vector<Drawn> drawn;       ///< marks and arrows of this tick
  std::vector<Passing> passing;   ///< puffs and sounds of the last second; none of a running play, which does not keep them
};

Frame frame_of(const Scene& scene);
Frame frame_of(const Play& play);
/// Into a frame that was of the same play before: cheaper.
void renew_frame(Frame& frame, const Play& play);

}  // namespace bronvel
