// Box against box.
#include "geometry/queries/contact_box.h"

#include "geometry/queries/contact_clip.h"

namespace bronvel {
namespace {

// A face axis must lose by this much (m per m of size) before an edge or the other box's face is preferred: it keeps
// the choice of features steady from tick to tick.
constexpr double preference = 1e-3;
constexpr double missed = 5e-5;  // m: a manifold whose points are so much farther than the axis says misses the nearest

struct Candidate {
  double separation = -1e300;
  Vec3 axis = Vec3::Unit(1);  // From A to B, in A's frame.
  int kind = -1;              // 0..2 faces of A, 3..5 faces of B, 6..14 edge pairs.
};

// The edge of a box nearest to the direction `d`, parallel to side `axis`: its middle, in the box's own frame.
Vec3 edge_middle(const Vec3& half, const Vec3& d, int axis) {
  Vec3 p;
  for (int i = 0; i < 3; ++i) p[i] = i == axis ? 0.0 : std::copysign(half[i], d[i]);
  return p;
}

// The face of the box whose outward normal is side `axis` with `sign`: its four corners in order, in the box's frame.
Polygon face_of(const Vec3& half, int axis, double sign) {
  const int u = (axis + 1) % 3, v = (axis + 2) % 3;
  Polygon face;
  for (int i = 0; i < 4; ++i) {
    const bool up = i == 1 || i == 2, right = i >= 2;
    Vec3 corner;
    corner[axis] = sign * half[axis];
    corner[u] = up ? half[u] : -half[u];
    corner[v] = (right ? half[v] : -half[v]) * sign;
    face.add(corner, static_cast<std::uint32_t>((sign > 0 ? 4 : 0) + 8 * axis + i));
  }
  return face;
}

}  // namespace

Manifold collide_boxes(const Box& a, const Pose& pose_a, const Box& b, const Pose& pose_b, double reach,
                       bool& surely_apart) {
  surely_apart = true;
  const Vec3 ha = 0.5 * a.size, hb = 0.5 * b.size;
  const Mat3 rotation_a = pose_a.orientation.toRotationMatrix();
  const Mat3 to_a = rotation_a.transpose() * pose_b.orientation.toRotationMatrix();  // B's axes in A's frame.
  const Mat3 absolute = to_a.cwiseAbs();
  const Vec3 between = rotation_a.transpose() * (pose_b.position - pose_a.position);
  Manifold m;
  const auto apart_by = [&](double separation) {
    m.apart = separation;
    return m;
  };

  Candidate best;
  for (int i = 0; i < 3; ++i) {
    const double separation = std::abs(between[i]) - ha[i] - absolute.row(i).dot(hb);
    if (separation > reach) return apart_by(separation);
    if (separation > best.separation) best = {separation, Vec3::Unit(i) * std::copysign(1.0, between[i]), i};
  }
  const double tolerance = preference * std::min(ha.minCoeff(), hb.minCoeff());
  for (int i = 0; i < 3; ++i) {
    const Vec3 axis = to_a.col(i);
    const double along = between.dot(axis);
    const double separation = std::abs(along) - hb[i] - absolute.col(i).dot(ha);
    if (separation > reach) return apart_by(separation);
    if (separation > best.separation + tolerance) best = {separation, axis * std::copysign(1.0, along), 3 + i};
  }
  for (int i = 0; i < 3; ++i) {
    for (int j = 0; j < 3; ++j) {
      Vec3 axis = Vec3::Unit(i).cross(Vec3(to_a.col(j)));
      const double length = axis.norm();
      if (length < 1e-4) continue;  // Nearly parallel edges: a face axis says the same.
      axis /= length;
      const double along = between.dot(axis);
      const double separation =
          std::abs(along) - ha.dot(axis.cwiseAbs()) - hb.dot((to_a.transpose() * axis).cwiseAbs());
      if (separation > reach) return apart_by(separation);
      if (separation > best.separation + tolerance)
        best = {separation, axis * std::copysign(1.0, along), 6 + 3 * i + j};
    }
  }

  surely_apart = false;
  m.apart = std::max(0.0, best.separation);
  m.normal = rotation_a * best.axis;
  m.face_of = best.kind < 3 ? FaceOf::a : best.kind < 6 ? FaceOf::b : FaceOf::neither;
  if (best.kind >= 6) {
    const int i = (best.kind - 6) / 3, j = (best.kind - 6) % 3;
    const Vec3 pa = edge_middle(ha, best.axis, i);
    const Vec3 towards_a = to_a.transpose() * -best.axis;
    const Vec3 pb = between + to_a * edge_middle(hb, towards_a, j);
    const Vec3 da = Vec3::Unit(i), db = to_a.col(j);
    // Nearest points of the two edges' lines.
    const double cosine = da.dot(db), below = 1 - cosine * cosine;
    const Vec3 gap = pb - pa;
    const double s = (gap.dot(da) - cosine * gap.dot(db)) / below;
    const double t = (cosine * gap.dot(da) - gap.dot(db)) / below;
    // Beyond their ends something else is nearest.
    if (best.separation > 0 && (std::abs(s) > ha[i] || std::abs(t) > hb[j])) return m;
    const Vec3 middle = 0.5 * (pa + da * s + pb + db * t);
    m.add(pose_a.to_scene(middle), best.separation, static_cast<std::uint32_t>(1000 + best.kind));
    return m;
  }

  // Face against face: clip the incident face by the sides of the reference face, keep what is near its plane.
  const bool a_is_reference = best.kind < 3;
  const Vec3& h_ref = a_is_reference ? ha : hb;
  const Vec3& h_inc = a_is_reference ? hb : ha;
  // All in the reference box's frame.
  const Mat3 rotation = a_is_reference ? to_a : Mat3(to_a.transpose());
  const Vec3 shift = a_is_reference ? between : Vec3(to_a.transpose() * -between);
  const int axis = best.kind % 3;
  const Vec3 towards_incident = a_is_reference ? best.axis : Vec3(to_a.transpose() * -best.axis);
  const double sign = std::copysign(1.0, towards_incident[axis]);

  int incident_axis = 0;
  const Vec3 facing = rotation.transpose() * Vec3(Vec3::Unit(axis) * sign);
  facing.cwiseAbs().maxCoeff(&incident_axis);
  Polygon incident = face_of(h_inc, incident_axis, -std::copysign(1.0, facing[incident_axis]));
  for (int i = 0; i < incident.count; ++i) incident.at(i).point = shift + rotation * incident.at(i).point;

  for (int side = 0; side < 2; ++side) {
    const int k = (axis + 1 + side) % 3;
    const auto id = static_cast<std::uint32_t>(1 + 2 * side);
    clip(incident, {Vec3::Unit(k), h_ref[k]}, id);
    clip(incident, {-Vec3::Unit(k), h_ref[k]}, id + 1);
  }

  const Pose& pose_ref = a_is_reference ? pose_a : pose_b;
  PointSet found;
  double deepest = 1e300;
  for (int i = 0; i < incident.count; ++i) {
    const PolygonPoint& p = incident.at(i);
    const double separation = sign * p.point[axis] - h_ref[axis];
    if (separation > reach) continue;
    const Vec3 middle = p.point - Vec3::Unit(axis) * (sign * 0.5 * separation);
    deepest = std::min(deepest, separation);
    found.add({pose_ref.to_scene(middle), separation, p.feature + (a_is_reference ? 0U : 100000U)});
  }
  // Where the nearest corner is beyond the face's sides, something else is.
  if (best.separation > 0 && deepest > best.separation + tolerance + missed) return m;
  keep_four(found, m);
  return m;
}

}  // namespace bronvel
