// What can be done to a scene's bodies, as plain functions from scene to scene. All of them leave the scene one that
// can be saved and played; names of bodies that are not there are passed over.
#pragma once

#include <span>
#include <string>
#include <vector>

#include "dynamics/world/world.h"
#include "scene/document/document.h"

namespace bronvel {

using BodyNames = std::vector<std::string>;

/// With it go its joints.
void remove_bodies(Scene& scene, const BodyNames& names);
/// Everything that named the body names it anew. Throws Error when the name is not allowed or taken.
void rename_body(Scene& scene, const std::string& from, const std::string& to);
void rename_joint(Scene& scene, const std::string& from, const std::string& to);

/// Copies, each moved by `shift` (m), with the joints that lie between them; gives the copies' names in order.
BodyNames duplicate(Scene& scene, const BodyNames& names, const Vec3& shift);

/// Moves bodies, and with them the joints' ends on them: a joint's point stays with its body A (or where it is in the
/// scene), and B's end follows so that the two stay one point. Distances and pulleys keep their ends.
void move_bodies(Scene& scene, const BodyNames& names, const Vec3& way);
/// About a point, scene frame.
void turn_bodies(Scene& scene, const BodyNames& names, const Quat& turn, const Vec3& about);
void place_body(Scene& scene, const std::string& name, const Pose& pose);
/// The body's shape stretched along its own axes, about its middle, with the same density; joints' ends on it go
/// along. Throws Error.
void resize_body(Scene& scene, const std::string& name, const Vec3& factors);
/// Another shape for the body; keeps the density if asked to. Throws Error.
void reshape_body(Scene& scene, const std::string& name, const Shape& shape, bool same_density);

struct ArrayPlan {
  enum class Kind { line, grid, ring };
  Kind kind = Kind::line;
  std::array<int, 3> count{5, 1,
                           1};  ///< along the line: the first; the grid: along X, Y, Z; around the ring: the first
  Vec3 step{1, 1, 1};           ///< from one to the next, m: the line's way; the grid's gaps
  double radius = 2;            ///< of the ring, m
  bool turn_along = true;       ///< each of a ring's copies faces the middle as the first does
};
/// The bodies again and again, the first time where they are; gives the new names. A ring's middle lies `radius` along
/// +Z from the bodies' own. Throws Error for fewer than two or more than 20,000 in all.
BodyNames array_of(Scene& scene, const BodyNames& names, const ArrayPlan& plan);

struct ScatterPlan {
  int count = 20;
  Vec3 middle = Vec3::Zero();   ///< of the area, scene frame, m
  double width = 6, depth = 6;  ///< of the area along X and Z, m
  std::uint64_t seed = 1;
  bool turn = true;  ///< about the vertical
};
/// Copies of the body let down at random places on what is under them, none overlapping another. Gives the names of
/// those that found room.
BodyNames scatter(Scene& scene, const std::string& name, const ScatterPlan& plan);

/// Lets each down straight until it rests on a body or the floor at height 0, lowest first. What is already below the
/// floor is lifted onto it.
void let_down(Scene& scene, const BodyNames& names);

enum class Side { low, middle, high };
/// Brings the bounds' side along the axis in line with the last one's.
void align(Scene& scene, const BodyNames& names, int axis, Side side);
/// Equal gaps along the axis between the first and the last.
void space_out(Scene& scene, const BodyNames& names, int axis);

/// One body of all their shapes, with their mass, centre and inertia; it has the last one's settings, and joints tied
/// to any of them. Throws Error for fewer than two, or a shape that can't be a part.
std::string group_bodies(Scene& scene, const BodyNames& names);
/// The other way: a body for each part. Joints go to the part nearest to their end. Throws Error when it has none.
BodyNames split_body(Scene& scene, const std::string& name);

/// The smallest box along the scene's axes around them.
Bounds bounds_of(const Scene& scene, const BodyNames& names);

/// How far the shape can go along `way` before it meets one of the bodies (or the floor at height 0, if it goes down);
/// the length of `way` if it meets none. Bodies named in `except` are passed through.
class Clearance {
 public:
  Clearance(const Scene& scene, const BodyNames& except);
  double along(const Shape& shape, const Pose& pose, const Vec3& way) const;
  /// The same for a body of several that stay together.
  double along(const std::vector<std::pair<Shape, Pose>>& shapes, const Vec3& way) const;
  void add(const Shape& shape, const Pose& pose);

 private:
  World world_;
};

}  // namespace bronvel
