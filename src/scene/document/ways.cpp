// Directions from gravity and plane.
#include "scene/document/ways.h"

#include <cmath>

namespace bronvel {
namespace {

bool from_above(const WorldSettings& world) {
  return world.planar && world.gravity.isZero();
}

}  // namespace

Ways ways_of_scene(const WorldSettings& world) {
  Ways ways;
  ways.up = !world.gravity.isZero() ? Vec3(Vec3::Zero() - world.gravity.normalized())
            : from_above(world)     ? Vec3(Vec3::Unit(2))
                                    : Vec3(Vec3::Unit(1));
  // Where gravity pulls along X there is no right but what is across it.
  const Vec3 right = Vec3::Unit(0) - ways.up * ways.up.x();
  constexpr double nearly_none = 1e-6;
  ways.across = right.norm() > nearly_none ? Vec3(right.normalized()) : any_perpendicular(ways.up);
  ways.forward = ways.up.cross(ways.across);
  return ways;
}

Ways ways_of_body(const WorldSettings& world) {
  Ways ways;
  ways.up = Vec3::Unit(from_above(world) ? 2 : 1);
  ways.forward = world.planar ? Vec3(Vec3::Unit(0)) : Vec3(-Vec3::Unit(2));
  ways.across = ways.forward.cross(ways.up);
  return ways;
}

Quat facing(const WorldSettings& world, const Vec3& direction, const Vec3& up) {
  if (world.planar) return Quat(Eigen::AngleAxisd(std::atan2(direction.y(), direction.x()), Vec3::Unit(2)));
  const Vec3 back = -direction.normalized();
  const Vec3 top = back.cross(up).norm() < 1e-9 ? any_perpendicular(back) : up;
  const Vec3 right = top.cross(back).normalized();
  Mat3 axes;
  axes << right, back.cross(right), back;
  return Quat(axes).normalized();
}

}  // namespace bronvel
