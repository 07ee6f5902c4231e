// A frame: what the stage draws of one moment, whether that is of the scene, of a running play or of a take.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "lab/tracks/contact_track.h"
#include "play/run/play.h"

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

/// What the hand holds.
struct HandHold {
  std::string body;
  Vec3 from = Vec3::Zero();  ///< where it holds it, scene frame, m
  Vec3 to = Vec3::Zero();    ///< where the hand is
};

/// Two bodies that touch.
struct ContactView {
  std::string a, b;
  Vec3 point = Vec3::Zero();    ///< in the middle of their points, m
  Vec3 normal = Vec3::Unit(1);  ///< from a to b
  double along = 0;             ///< mean force of the tick along the normal, N
  double across = 0;            ///< of friction, N
  int points = 0;
};

/// So long a puff or a sound is seen, s of play.
inline constexpr double passing_time = 1;

struct Frame {
  std::int64_t tick = 0;
  std::vector<BodyView> bodies;
  std::vector<BodyView> joints;  ///< shapes that stand for joints
  std::vector<SceneZone> zones;  ///< as they are at the moment
  std::vector<Drawn> drawn;      ///< marks and arrows of this tick
  std::vector<ContactView> contacts;
  std::optional<HandHold> hand;
  std::vector<Passing>
      passing;  ///< puffs and sounds of the last second; none of a running play, which does not keep them
};

/// None if it holds nothing.
std::optional<HandHold> hand_of(const Play& play);

/// Whether both are drawn alike: the same bodies in the same places, and as many joints, in the same zones.
bool looks_alike(const Frame& a, const Frame& b);

Frame frame_of(const Scene& scene);
Frame frame_of(const Play& play);
/// Into a frame that was of the same play before: cheaper. Its contacts are not among it: what sleeps is known only to
/// who was there when it fell asleep.
void renew_frame(Frame& frame, const Play& play);
void renew_contacts(Frame& frame, std::span<const Touching> touching, const RunningScene& running);

}  // namespace bronvel
