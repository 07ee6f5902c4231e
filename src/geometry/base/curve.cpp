// Curves.
#include "geometry/base/curve.h"

#include "geometry/base/error.h"

namespace bronvel {

Curve::Curve(std::vector<Vec3> points, bool smooth, bool closed) : points_(std::move(points)), smooth_(smooth) {
  if (closed && points_.size() > 2) points_.push_back(points_.front());
  if (points_.size() < 2) throw Error("path", "wants at least two points");
  for (const Vec3& p : points_)
    if (!finite(p)) throw Error("path", "wants points of numbers");
  for (std::size_t i = 1; i < points_.size(); ++i)
    if ((points_[i] - points_[i - 1]).norm() < 1e-9) throw Error("path", "has the same point twice in a row");

  const std::size_t pieces = points_.size() - 1;
  const bool loop = closed && points_.size() > 3;
  for (std::size_t i = 0; i < pieces; ++i) {
    const Vec3& p1 = points_[i];
    const Vec3& p2 = points_[i + 1];
    if (!smooth) {
      slopes_out_.push_back(p2 - p1);
      slopes_in_.push_back(p2 - p1);
      continue;
    }
    // An open end is continued as if the curve had come in straight.
    const Vec3 p0 = i > 0 ? points_[i - 1] : loop ? points_[pieces - 1] : Vec3(2 * p1 - p2);
    const Vec3 p3 = i + 1 < pieces ? points_[i + 2] : loop ? points_[1] : Vec3(2 * p2 - p1);
    const double t01 = std::sqrt((p1 - p0).norm()), t12 = std::sqrt((p2 - p1).norm()),
                 t23 = std::sqrt((p3 - p2).norm());
    slopes_out_.emplace_back(t12 * ((p1 - p0) / t01 - (p2 - p0) / (t01 + t12) + (p2 - p1) / t12));
    slopes_in_.emplace_back(t12 * ((p2 - p1) / t12 - (p3 - p1) / (t12 + t23) + (p3 - p2) / t23));
  }
  lengths_.push_back(0);
  for (std::size_t i = 0; i < pieces; ++i) {
    Vec3 before = points_[i];
    for (int k = 1; k <= steps; ++k) {
      const Vec3 here = point({i, static_cast<double>(k) / steps});
      lengths_.push_back(lengths_.back() + (here - before).norm());
      before = here;
    }
  }
}

Curve::Place Curve::place(double metres) const {
  const double s = std::clamp(metres, 0.0, length());
  auto after = static_cast<std::size_t>(std::upper_bound(lengths_.begin(), lengths_.end(), s) - lengths_.begin());
  after = std::clamp<std::size_t>(after, 1, lengths_.size() - 1);
  const double within = lengths_[after] - lengths_[after - 1];
  const double share = within > 0 ? (s - lengths_[after - 1]) / within : 0;
  const std::size_t step = after - 1;
  return {step / steps, (static_cast<double>(step % steps) + share) / steps};
}

Vec3 Curve::point(const Place& at) const {
  const double t = at.share;
  const Vec3 &a = points_[at.piece], &b = points_[at.piece + 1];
  if (!smooth_) return a + t * (b - a);
  return (2 * t * t * t - 3 * t * t + 1) * a + (t * t * t - 2 * t * t + t) * slopes_out_[at.piece] +
         (-2 * t * t * t + 3 * t * t) * b + (t * t * t - t * t) * slopes_in_[at.piece];
}

Vec3 Curve::slope(const Place& at) const {
  const double t = at.share;
  const Vec3 &a = points_[at.piece], &b = points_[at.piece + 1];
  if (!smooth_) return b - a;
  return (6 * t * t - 6 * t) * (a - b) + (3 * t * t - 4 * t + 1) * slopes_out_[at.piece] +
         (3 * t * t - 2 * t) * slopes_in_[at.piece];
}

Vec3 Curve::at(double metres) const {
  return point(place(metres));
}

Vec3 Curve::tangent(double metres) const {
  return slope(place(metres)).normalized();
}

}  // namespace bronvel
