// A curve through points, walked by its length.
#pragma once

#include <vector>

#include "geometry/base/vector.h"

namespace bronvel {

/// Straight from point to point, or smooth through them: cubic Hermite pieces whose tangents follow the neighbours
/// (Catmull and Rom, "A class of local interpolating splines", 1974), spaced by the square root of the points' distance
/// so that it neither loops nor cusps (Yuksel, Schaefer and Keyser, 2011).
class Curve {
 public:
  Curve() = default;
  /// At least two points, no two neighbours alike. Throws Error otherwise.
  Curve(std::vector<Vec3> points, bool smooth, bool closed);

  double length() const { return lengths_.empty() ? 0 : lengths_.back(); }  ///< m
  Vec3 at(double metres) const;                                             ///< that far along it
  Vec3 tangent(double metres) const;                                        ///< unit, forward along it

 private:
  struct Place {
    std::size_t piece;
    double share;  ///< of the piece's parameter, 0 to 1
  };
  Place place(double metres) const;
  Vec3 point(const Place& place) const;
  Vec3 slope(const Place& place) const;

  static constexpr int steps = 256;  // to a piece, in the table of lengths
  std::vector<Vec3> points_;
  std::vector<Vec3> slopes_out_, slopes_in_;  ///< by piece: at its start and its end, per unit of its parameter
  std::vector<double> lengths_;               ///< along the curve at each step of each piece, m
  bool smooth_ = false;
};

}  // namespace bronvel
