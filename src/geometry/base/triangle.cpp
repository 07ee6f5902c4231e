// The nearest point of a triangle.
#include "geometry/base/triangle.h"

namespace bronvel {

double distance_squared_to_triangle(const Vec3& p, const Vec3& a, const Vec3& b, const Vec3& c) {
  const Vec3 ab = b - a, ac = c - a, ap = p - a;
  const double d1 = ab.dot(ap), d2 = ac.dot(ap);
  if (d1 <= 0 && d2 <= 0) return ap.squaredNorm();
  const Vec3 bp = p - b;
  const double d3 = ab.dot(bp), d4 = ac.dot(bp);
  if (d3 >= 0 && d4 <= d3) return bp.squaredNorm();
  const double vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return (ap - ab * (d1 / (d1 - d3))).squaredNorm();
  const Vec3 cp = p - c;
  const double d5 = ab.dot(cp), d6 = ac.dot(cp);
  if (d6 >= 0 && d5 <= d6) return cp.squaredNorm();
  const double vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return (ap - ac * (d2 / (d2 - d6))).squaredNorm();
  const double va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    const double w = (d4 - d3) / ((d4 - d3) + (d5 - d6));
    return (bp - (c - b) * w).squaredNorm();
  }
  const double below = va + vb + vc;
  if (below == 0) return std::min({ap.squaredNorm(), bp.squaredNorm(), cp.squaredNorm()});
  return (ap - ab * (vb / below) - ac * (vc / below)).squaredNorm();
}

}  // namespace bronvel
