// Vectors, rotations and poses: Eigen's double types under our names, and the few helpers every layer needs.
//
// Right-handed frame, Y up, metres and radians. A Pose takes a point from a body's own frame to the scene's frame.
#pragma once

#include <Eigen/Core>
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

namespace bronvel {

using Vec3 = Eigen::Vector3d;
using Mat3 = Eigen::Matrix3d;
using Quat = Eigen::Quaterniond;

inline constexpr double pi = 3.14159265358979323846;

/// Where a frame stands in another: a rotation, then a shift.
struct Pose {
  Vec3 position = Vec3::Zero();         ///< m
  Quat orientation = Quat::Identity();  ///< unit quaternion

  Vec3 to_scene(const Vec3& local) const { return position + orientation * local; }
  Vec3 to_local(const Vec3& point) const { return orientation.conjugate() * (point - position); }
};

/// The pose of `inner`, given in the frame of `outer`, in the frame that `outer` is given in.
inline Pose operator*(const Pose& outer, const Pose& inner) {
  return {outer.to_scene(inner.position), (outer.orientation * inner.orientation).normalized()};
}

inline bool finite(double x) {
  return std::isfinite(x);
}
inline bool finite(const Vec3& v) {
  return v.allFinite();
}
inline bool finite(const Quat& q) {
  return q.coeffs().allFinite();
}

/// The matrix that takes v to a × v.
inline Mat3 cross_matrix(const Vec3& a) {
  Mat3 m;
  m << 0, -a.z(), a.y(), a.z(), 0, -a.x(), -a.y(), a.x(), 0;
  return m;
}

/// A unit vector at right angles to the unit vector n, chosen the same way on every run.
inline Vec3 any_perpendicular(const Vec3& n) {
  const Vec3 axis = std::abs(n.x()) < 0.57735 ? Vec3::Unit(0) : Vec3::Unit(2);
  return n.cross(axis).normalized();
}

/// v at its own length, or shortened to `most`.
inline Vec3 limited(const Vec3& v, double most) {
  const double length = v.norm();
  return length > most ? Vec3(v * (most / length)) : v;
}

}  // namespace bronvel
