// What is taken hold of on the stage while nothing plays: the chosen thing itself, its axes, rings and face dots, the
// points and limits of a joint, the points of a path.
#pragma once

#include <optional>

#include "app/session/session.h"
#include "app/stage/pencil.h"
#include "app/stage/snapping.h"

namespace bronvel {

/// One handle.
struct Grip {
  enum class Kind { none, body, axis, ring, face, joint_point, joint_axis, low, high, cone, path_point, path_new };
  Kind kind = Kind::none;
  int axis = 0;           ///< 0 to 2
  int sign = 1;           ///< of the face
  std::size_t index = 0;  ///< of the path's point, or the joint's end (0 A, 1 B, 2 and 3 supports)
  bool operator==(const Grip&) const = default;
};

/// A drag of one handle is one edit; numbers typed meanwhile stand in for the mouse.
class Handles {
 public:
  Handles(Session& session, SnapSettings& snap) : session_(session), snap_(snap) {}

  /// The handle under the pixel. The body itself counts when `body_under` is a chosen one.
  Grip at(const QPointF& pixel, const Camera& camera, const QSize& size, const std::string& body_under) const;
  void draw(Pencil& pencil, const Grip& hovered) const;

  bool begin(const Grip& grip, const QPointF& pixel, const Camera& camera, const QSize& size);
  /// `free` moves without snapping.
  void move(const QPointF& pixel, const Camera& camera, const QSize& size, bool free);
  /// A key while dragging: digits and what belongs to sums, Backspace, Return, Escape. False if it is none of these.
  bool key(int key, const QString& text);
  void end();
  void cancel();
  bool active() const { return grip_.kind != Grip::Kind::none; }
  const Grip& grip() const { return grip_; }
  /// What the drag has come to, for the mouse's side: "0.300 m", or what is typed.
  QString reading() const;
  /// What a handle does, for a tip.
  static QString about(const Grip& grip);

  std::size_t path_point() const { return path_point_; }  ///< the one that was last taken hold of
  void choose_path_point(std::size_t index) { path_point_ = index; }

 private:
  // What the arrows, rings and dots stand on.
  struct Target {
    Pose pose;      // of the frame that the arrows lie along
    Bounds bounds;  // in that frame, about its origin
    bool sizable = false;
    std::array<int, 3> together{0, 1, 2};
    bool turnable = true;
  };
  std::optional<Target> target() const;
  std::optional<Vec3> path_middle(std::size_t after) const;
  void draw_target(Pencil& pencil, const Target& target, const Grip& hovered) const;
  void draw_joint(Pencil& pencil, const SceneJoint& joint, const Grip& hovered) const;
  void draw_path(Pencil& pencil, const ScenePath& path, const Grip& hovered) const;

  double arrow_length(const Target& target, int axis, double metres) const;
  void slide(const ViewRay& ray, const Camera& camera, const QSize& size, bool free);
  void apply(double value);  // metres, radians or a size, by the grip
  void move_point(const QPointF& pixel, const Camera& camera, const QSize& size, bool free);
  QString step_name() const;

  Session& session_;
  SnapSettings& snap_;
  std::size_t path_point_ = 0;

  // While dragging
  Grip grip_;
  Scene base_;
  Target start_;
  BodyNames names_;
  ThingKind kind_ = ThingKind::body;
  std::string thing_;
  std::unique_ptr<Clearance> clear_;
  Sides sides_;
  Bounds bounds_;                // of the chosen bodies, scene frame
  Vec3 grabbed_ = Vec3::Zero();  // where the press met the body
  double from_ = 0;              // the handle's value at the press
  double value_ = 0;
  Vec3 way_ = Vec3::Zero();
  QString typed_;
  std::optional<std::pair<int, double>> met_;  // a side that was snapped to: axis and place
};

/// Where a joint's points are in the scene: A's end, B's end, and a pulley's supports.
std::vector<Vec3> joint_points(const Scene& scene, const SceneJoint& joint);

/// A joint's frame in the scene: its axis, the direction from which angles count, both unit, and its point.
struct JointFrame {
  Vec3 point, axis, zero;
};
std::optional<JointFrame> joint_frame(const Scene& scene, const SceneJoint& joint);

}  // namespace bronvel
