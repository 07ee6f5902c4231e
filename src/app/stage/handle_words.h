// What finding and dragging handles share.
#pragma once

#include <QString>

#include "app/stage/handles.h"

namespace bronvel {

inline const char* const axis_letters = "xyz";

inline Pose pose_of(const Body& body) {
  return {body.position, body.orientation};
}

inline double distance(const QPointF& a, const QPointF& b) {
  return std::hypot(a.x() - b.x(), a.y() - b.y());
}

inline std::vector<Vec3> arc(const Vec3& middle, const Vec3& axis, const Vec3& zero, double radius, double low,
                             double high) {
  std::vector<Vec3> points;
  constexpr int pieces = 40;
  for (int i = 0; i <= pieces; ++i)
    points.push_back(middle + radius * (Eigen::AngleAxisd(low + (high - low) * i / pieces, axis) * zero));
  return points;
}

inline bool has_two_ends(JointKind kind) {
  return kind == JointKind::distance || kind == JointKind::pulley;
}

inline QString metres(double x) {
  return QString::number(x, 'f', 3) + " m";
}

}  // namespace bronvel
