// Rotations and small linear systems by decompositions: plain functions, so that what takes the compiler long is
// compiled once.
#pragma once

#include <vector>

#include "geometry/base/vector.h"

namespace bronvel {

/// A rotation by `angle` (rad, 0 to π) about the unit vector `axis`.
struct AxisAngle {
  Vec3 axis = Vec3::Unit(0);
  double angle = 0;
};

/// Of a unit quaternion; about X by 0 for the identity.
AxisAngle axis_angle(const Quat& turn);

/// The least rotation that takes the direction of `from` to that of `to`; neither may be zero.
Quat turn_between(const Vec3& from, const Vec3& to);

/// Eigenvalues of a symmetric matrix, the least first.
Vec3 eigenvalues(const Mat3& symmetric);

/// Its unit eigenvectors as columns, that of the least eigenvalue first.
Mat3 eigenvectors(const Mat3& symmetric);

/// x of a x = b, for a symmetric matrix that is positive or negative definite.
Vec3 solve_symmetric(const Mat3& a, const Vec3& b);

/// In place, the inverse of a symmetric matrix of `size` rows that is positive definite.
void invert_symmetric(std::vector<double>& matrix, std::size_t size);

/// The shortest of all x for which the squares of rows[i]·x − wanted[i] add up to the least.
Vec3 least_squares(const std::vector<Vec3>& rows, const std::vector<double>& wanted);

}  // namespace bronvel
