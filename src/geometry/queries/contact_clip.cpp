// Polygon clipping and reduction to four contact points.
#include "geometry/queries/contact_clip.h"

namespace bronvel {

void clip(Polygon& polygon, const Plane& plane, std::uint32_t plane_id) {
  std::array<double, Polygon::most> heights;
  int outside = 0;
  for (int i = 0; i < polygon.count; ++i) {
    const double height = plane.normal.dot(polygon.at(i).point) - plane.offset;
    heights[static_cast<std::size_t>(i)] = height;
    outside += height > 0 ? 1 : 0;
  }
  if (outside == 0) return;
  Polygon kept;
  for (int i = 0, before = polygon.count - 1; outside < polygon.count && i < polygon.count; before = i++) {
    const PolygonPoint &from = polygon.at(before), &to = polygon.at(i);
    const double height_from = heights[static_cast<std::size_t>(before)],
                 height_to = heights[static_cast<std::size_t>(i)];
    if ((height_from > 0) != (height_to > 0)) {
      const double share = height_from / (height_from - height_to);
      const std::uint32_t beyond = height_from > 0 ? from.feature : to.feature;
      kept.add(from.point + share * (to.point - from.point), (beyond + 1) * 32 + plane_id * 2 + (height_to > 0));
    }
    if (!(height_to > 0)) kept.add(to.point, to.feature);
  }
  polygon = kept;
}

void keep_four(const PointSet& found, Manifold& m) {
  if (found.count <= 4) {
    for (int i = 0; i < found.count; ++i) m.add(found.at(i).point, found.at(i).separation, found.at(i).feature);
    return;
  }
  std::array<int, 4> chosen{};
  for (int i = 1; i < found.count; ++i)
    if (found.at(i).separation < found.at(chosen[0]).separation) chosen[0] = i;
  const Vec3 first = found.at(chosen[0]).point;
  double farthest = -1;
  for (int i = 0; i < found.count; ++i) {
    const double distance = (found.at(i).point - first).squaredNorm();
    if (distance > farthest) {
      farthest = distance;
      chosen[1] = i;
    }
  }
  const Vec3 along = found.at(chosen[1]).point - first;
  double most = 0, least = 0;
  chosen[2] = chosen[3] = -1;
  for (int i = 0; i < found.count; ++i) {
    const double area = along.cross(found.at(i).point - first).dot(m.normal);
    if (area > most) {
      most = area;
      chosen[2] = i;
    }
    if (area < least) {
      least = area;
      chosen[3] = i;
    }
  }
  for (const int i : chosen)
    if (i >= 0) m.add(found.at(i).point, found.at(i).separation, found.at(i).feature);
}

}  // namespace bronvel
