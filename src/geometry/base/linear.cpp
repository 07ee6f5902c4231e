// Decompositions by Eigen.
#include "geometry/base/linear.h"

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <Eigen/QR>

namespace bronvel {

AxisAngle axis_angle(const Quat& turn) {
  const Eigen::AngleAxisd found(turn);
  return {found.axis(), found.angle()};
}

Quat turn_between(const Vec3& from, const Vec3& to) {
  const Vec3 a = from.normalized(), b = to.normalized();
  const double cosine = std::max(b.dot(a), -1.0);
  // Half a turn has an axis of its own choice.
  if (cosine < -1 + 1e-12) {
    const double w = std::sqrt(0.5 * (1 + cosine));
    Quat half;
    half.w() = w;
    half.vec() = std::sqrt(1 - w * w) * any_perpendicular(a);
    return half;
  }
  const double twice_w = std::sqrt((1 + cosine) * 2);
  Quat turn;
  turn.vec() = a.cross(b) * (1 / twice_w);
  turn.w() = 0.5 * twice_w;
  return turn;
}

Vec3 eigenvalues(const Mat3& symmetric) {
  return Eigen::SelfAdjointEigenSolver<Mat3>(symmetric, Eigen::EigenvaluesOnly).eigenvalues();
}

Mat3 eigenvectors(const Mat3& symmetric) {
  return Eigen::SelfAdjointEigenSolver<Mat3>(symmetric).eigenvectors();
}

Vec3 solve_symmetric(const Mat3& a, const Vec3& b) {
  return a.ldlt().solve(b);
}

Vec3 least_squares(const std::vector<Vec3>& rows, const std::vector<double>& wanted) {
  Eigen::MatrixXd a(static_cast<Eigen::Index>(rows.size()), 3);
  for (std::size_t i = 0; i < rows.size(); ++i) a.row(static_cast<Eigen::Index>(i)) = rows[i].transpose();
  const Eigen::Map<const Eigen::VectorXd> b(wanted.data(), static_cast<Eigen::Index>(wanted.size()));
  return a.completeOrthogonalDecomposition().solve(b);
}

void invert_symmetric(std::vector<double>& matrix, std::size_t size) {
  const auto n = static_cast<Eigen::Index>(size);
  Eigen::Map<Eigen::MatrixXd> map(matrix.data(), n, n);
  map = map.ldlt().solve(Eigen::MatrixXd::Identity(n, n)).eval();
}

}  // namespace bronvel
