// Fitting shapes to models.
#include "geometry/meshes/fit.h"

#include <algorithm>
#include <array>
#include <numeric>
#include <optional>

#include "geometry/base/error.h"
#include "geometry/base/linear.h"
#include "geometry/base/triangle.h"
#include "geometry/meshes/decompose.h"
#include "geometry/meshes/outline.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/mesh.h"

namespace bronvel {
namespace {

constexpr std::size_t most_corners = 128;  // of a single hull: more cost much and show nothing

using Frame = Mat3;  // columns: the three axes, right-handed

Frame right_handed(const Vec3& x, const Vec3& y) {
  Frame frame;
  frame.col(0) = x;
  frame.col(1) = y;
  frame.col(2) = x.cross(y);
  return frame;
}

// The axes along which the points spread most and least.
Frame principal_axes(const std::vector<Vec3>& points) {
  Vec3 middle = Vec3::Zero();
  for (const Vec3& p : points) middle += p;
  middle /= static_cast<double>(points.size());
  Mat3 spread = Mat3::Zero();
  for (const Vec3& p : points) spread += (p - middle) * (p - middle).transpose();
  const Mat3 axes = eigenvectors(spread);
  return right_handed(axes.col(2).normalized(), axes.col(1).normalized());
}

Bounds extent_along(const std::vector<Vec3>& points, const Frame& frame) {
  const Mat3 back = frame.transpose();
  Bounds bounds{back * points.front(), back * points.front()};
  for (const Vec3& p : points) {
    const Vec3 q = back * p;
    bounds = {bounds.low.cwiseMin(q), bounds.high.cwiseMax(q)};
  }
  return bounds;
}

double volume_of(const Bounds& bounds) {
  const Vec3 d = bounds.high - bounds.low;
  return d.x() * d.y() * d.z();
}

// The convex hull of points in a plane, counter-clockwise (Andrew 1979).
std::vector<Eigen::Vector2d> flat_hull(std::vector<Eigen::Vector2d> points) {
  std::sort(points.begin(), points.end(),
            [](const auto& a, const auto& b) { return a.x() != b.x() ? a.x() < b.x() : a.y() < b.y(); });
  std::vector<Eigen::Vector2d> hull;
  const auto left_turn = [](const auto& a, const auto& b, const auto& c) {
    return (b.x() - a.x()) * (c.y() - a.y()) - (b.y() - a.y()) * (c.x() - a.x()) > 0;
  };
  for (int pass = 0; pass < 2; ++pass) {
    const std::size_t begin = hull.size();
    for (const auto& p : points) {
      while (hull.size() >= begin + 2 && !left_turn(hull[hull.size() - 2], hull.back(), p)) hull.pop_back();
      hull.push_back(p);
    }
    hull.pop_back();
    std::reverse(points.begin(), points.end());
  }
  return hull;
}

// The axes of the least box among those with a side on one of the hull's larger faces, or along the axes given.
Frame box_axes(const HullData& hull) {
  std::vector<Frame> frames{Frame::Identity(), principal_axes(hull.corners)};
  std::vector<std::size_t> faces(hull.faces.size());
  std::iota(faces.begin(), faces.end(), std::size_t{0});
  const auto area = [&](std::size_t f) {
    Vec3 sum = Vec3::Zero();
    const auto& face = hull.faces[f];
    for (std::size_t i = 1; i + 1 < face.size(); ++i)
      sum += (hull.corners[face[i]] - hull.corners[face[0]]).cross(hull.corners[face[i + 1]] - hull.corners[face[0]]);
    return sum.norm();
  };
  std::stable_sort(faces.begin(), faces.end(), [&](std::size_t a, std::size_t b) { return area(a) > area(b); });
  constexpr std::size_t most_faces = 60;
  if (faces.size() > most_faces) faces.resize(most_faces);
  for (const std::size_t f : faces) {
    const Vec3 up = hull.normals[f], x = any_perpendicular(up), y = up.cross(x);
    std::vector<Eigen::Vector2d> flat;
    for (const Vec3& corner : hull.corners) flat.emplace_back(x.dot(corner), y.dot(corner));
    flat = flat_hull(std::move(flat));
    double best = 1e300;
    Eigen::Vector2d along(1, 0);
    // The least rectangle has a side on an edge (Freeman and Shapira 1975).
    for (std::size_t i = 0; i < flat.size(); ++i) {
      const Eigen::Vector2d edge = flat[(i + 1) % flat.size()] - flat[i];
      if (edge.norm() < 1e-12) continue;
      const Eigen::Vector2d u = edge.normalized(), v(-u.y(), u.x());
      double low_u = 1e300, high_u = -1e300, low_v = 1e300, high_v = -1e300;
      for (const auto& p : flat) {
        low_u = std::min(low_u, p.dot(u));
        high_u = std::max(high_u, p.dot(u));
        low_v = std::min(low_v, p.dot(v));
        high_v = std::max(high_v, p.dot(v));
      }
      const double size = (high_u - low_u) * (high_v - low_v);
      if (size < best) {
        best = size;
        along = u;
      }
    }
    const Vec3 side = (along.x() * x + along.y() * y).normalized();
    frames.push_back(right_handed(side, up));
  }
  // The first is the model's own: others must be better by more than rounding to be worth the turn.
  std::size_t best = 0;
  for (std::size_t i = 1; i < frames.size(); ++i)
    if (volume_of(extent_along(hull.corners, frames[i])) <
        (best == 0 ? 0.99 : 1 - 1e-9) * volume_of(extent_along(hull.corners, frames[best])))
      best = i;
  return frames[best];
}

struct Ball {
  Vec3 middle = Vec3::Zero();
  double radius = -1;
  bool holds(const Vec3& p) const { return (p - middle).norm() <= radius * (1 + 1e-10) + 1e-12; }
};

// The least ball with all the points on it; none for points that have none.
std::optional<Ball> ball_through(const std::vector<Vec3>& points) {
  if (points.size() == 1) return Ball{points[0], 0};
  std::vector<Vec3> rows;
  std::vector<double> wanted;
  for (std::size_t i = 1; i < points.size(); ++i) {
    const Vec3 way = points[i] - points[0];
    rows.push_back(2 * way);
    wanted.push_back(way.squaredNorm());
  }
  // Of the middles that are as far from all, the one in the points' own flat.
  const Vec3 shift = least_squares(rows, wanted);
  const Ball ball{points[0] + shift, shift.norm()};
  for (const Vec3& p : points)
    if (std::abs((p - ball.middle).norm() - ball.radius) > 1e-7 * (ball.radius + 1e-12)) return std::nullopt;
  return ball;
}

// Pivoting on the farthest point (Gärtner 1999): the support grows by it, and the least ball of that handful is found
// by trying all its subsets.
Ball least_ball(const std::vector<Vec3>& points) {
  std::vector<Vec3> support{points.front()};
  Ball ball{points.front(), 0};
  for (int round = 0; round < 1000; ++round) {
    const Vec3* farthest = &points.front();
    for (const Vec3& p : points)
      if ((p - ball.middle).squaredNorm() > (*farthest - ball.middle).squaredNorm()) farthest = &p;
    if (ball.holds(*farthest)) break;
    support.push_back(*farthest);
    Ball best;
    std::vector<Vec3> best_support;
    for (unsigned subset = 1; subset < (1U << support.size()); ++subset) {
      std::vector<Vec3> some;
      for (std::size_t i = 0; i < support.size(); ++i)
        if ((subset >> i & 1U) != 0) some.push_back(support[i]);
      if (some.size() > 4) continue;
      const auto tried = ball_through(some);
      if (!tried || (best.radius >= 0 && tried->radius >= best.radius)) continue;
      if (std::all_of(support.begin(), support.end(), [&](const Vec3& p) { return tried->holds(p); })) {
        best = *tried;
        best_support = some;
      }
    }
    if (best.radius < 0 || best.radius <= ball.radius) {
      // Rounding: hold what is farthest and be done.
      ball.radius = (*farthest - ball.middle).norm();
      break;
    }
    ball = best;
    support = best_support;
  }
  return ball;
}

// The round shape along each of the frame's axes; the least of the three is taken.
template <class Make>
Fit round_fit(const std::vector<Vec3>& points, const std::vector<Frame>& frames, const Make& make) {
  Fit best;
  double least = 1e300;
  for (const Frame& frame : frames)
    for (int axis = 0; axis < 3; ++axis) {
      const Vec3 up = frame.col(axis), x = frame.col((axis + 1) % 3), z = frame.col((axis + 2) % 3);
      std::vector<Vec3> flat;
      flat.reserve(points.size());
      for (const Vec3& p : points) flat.emplace_back(x.dot(p), z.dot(p), 0);
      const Ball circle = least_ball(flat);
      std::vector<std::pair<double, double>> sides;  // along the axis, and away from it
      for (std::size_t i = 0; i < points.size(); ++i)
        sides.emplace_back(up.dot(points[i]), (flat[i] - circle.middle).norm());
      double middle = 0;
      const Shape shape = make(circle.radius, sides, &middle);
      if (shape_fault(shape)) continue;
      const double volume = shape_volume(shape);
      if (volume >= least * (1 - 1e-9)) continue;
      least = volume;
      best.shape = shape;
      Mat3 turn;
      turn.col(0) = z;
      turn.col(1) = up;
      turn.col(2) = x;
      best.pose = {circle.middle.x() * x + circle.middle.y() * z + middle * up, Quat(turn).normalized()};
    }
  if (least > 1e299) best.fault = "the model is too flat or too small for one";
  return best;
}

Fit sphere_fit(const std::vector<Vec3>& points) {
  const Ball ball = least_ball(points);
  Fit fit;
  fit.shape = Sphere{ball.radius};
  fit.pose.position = ball.middle;
  return fit;
}

Fit capsule_fit(const std::vector<Vec3>& points, const std::vector<Frame>& frames) {
  return round_fit(points, frames, [](double radius, const auto& sides, double* middle) -> Shape {
    double top = -1e300, bottom = 1e300;
    for (const auto& [along, away] : sides) {
      const double cap = std::sqrt(std::max(0.0, radius * radius - away * away));
      top = std::max(top, along - cap);
      bottom = std::min(bottom, along + cap);
    }
    *middle = 0.5 * (top + bottom);
    return Capsule{radius, std::max(top - bottom, 1e-3 * radius)};
  });
}

Fit cylinder_fit(const std::vector<Vec3>& points, const std::vector<Frame>& frames) {
  return round_fit(points, frames, [](double radius, const auto& sides, double* middle) -> Shape {
    double top = -1e300, bottom = 1e300;
    for (const auto& [along, away] : sides) {
      top = std::max(top, along);
      bottom = std::min(bottom, along);
    }
    *middle = 0.5 * (top + bottom);
    return Cylinder{radius, top - bottom};
  });
}

Fit box_fit(const HullData& hull) {
  const Frame frame = box_axes(hull);
  const Bounds extent = extent_along(hull.corners, frame);
  Fit fit;
  fit.shape = Box{extent.high - extent.low};
  fit.pose = {frame * (0.5 * (extent.low + extent.high)), Quat(frame).normalized()};
  return fit;
}

double box_distance_squared(const Bounds& box, const Vec3& p) {
  return (box.low - p).cwiseMax(p - box.high).cwiseMax(0.0).squaredNorm();
}

double distance_to_mesh(const MeshData& mesh, const Vec3& p) {
  double best = 1e300;
  std::vector<std::uint32_t> open{0};
  while (!open.empty()) {
    const MeshData::Node& node = mesh.nodes[open.back()];
    open.pop_back();
    if (box_distance_squared(node.bounds, p) >= best) continue;
    if (node.count > 0) {
      for (std::uint32_t i = node.first; i < node.first + node.count; ++i) {
        const auto& t = mesh.triangles[mesh.order[i]];
        best = std::min(best, distance_squared_to_triangle(p, mesh.points[t[0]], mesh.points[t[1]], mesh.points[t[2]]));
      }
      continue;
    }
    // The nearer child is looked at first.
    const bool second_nearer = box_distance_squared(mesh.nodes[node.first + 1].bounds, p) <
                               box_distance_squared(mesh.nodes[node.first].bounds, p);
    open.push_back(node.first + (second_nearer ? 0 : 1));
    open.push_back(node.first + (second_nearer ? 1 : 0));
  }
  return std::sqrt(best);
}

// Points spread evenly over triangles, the same every time: corners first, then by area.
std::vector<Vec3> spread_points(const std::vector<Vec3>& corners, std::size_t wanted) {
  std::vector<Vec3> points;
  const std::size_t triangles = corners.size() / 3;
  if (triangles == 0 || wanted == 0) return points;
  double area = 0;
  const auto area_of = [&](std::size_t t) {
    return 0.5 * (corners[3 * t + 1] - corners[3 * t]).cross(corners[3 * t + 2] - corners[3 * t]).norm();
  };
  for (std::size_t t = 0; t < triangles; ++t) area += area_of(t);
  const std::size_t skip = std::max<std::size_t>(1, corners.size() / wanted);
  for (std::size_t i = 0; i < corners.size(); i += skip) points.push_back(corners[i]);
  double owed = 0;
  std::size_t number = 0;
  for (std::size_t t = 0; t < triangles; ++t) {
    owed += static_cast<double>(wanted) * area_of(t) / std::max(area, 1e-300);
    while (owed >= 1) {
      owed -= 1;
      // Places by the golden ratio's kin in two dimensions (Roberts 2018, the R2 sequence).
      ++number;
      double u = std::fmod(0.7548776662466927 * static_cast<double>(number), 1.0);
      double v = std::fmod(0.5698402909980532 * static_cast<double>(number), 1.0);
      if (u + v > 1) {
        u = 1 - u;
        v = 1 - v;
      }
      points.push_back(corners[3 * t] + u * (corners[3 * t + 1] - corners[3 * t]) +
                       v * (corners[3 * t + 2] - corners[3 * t]));
    }
  }
  return points;
}

// How deep a point lies under the surface of a convex shape; below 0 outside.
double depth_in(const Shape& shape, const Vec3& p) {
  if (const auto* s = std::get_if<Sphere>(&shape)) return s->radius - p.norm();
  if (const auto* b = std::get_if<Box>(&shape)) return (0.5 * b->size - p.cwiseAbs()).minCoeff();
  const double away = std::hypot(p.x(), p.z());
  if (const auto* c = std::get_if<Capsule>(&shape)) {
    const double beyond = std::max(0.0, std::abs(p.y()) - 0.5 * c->length);
    return c->radius - std::hypot(away, beyond);
  }
  if (const auto* c = std::get_if<Cylinder>(&shape))
    return std::min(c->radius - away, 0.5 * c->height - std::abs(p.y()));
  if (const auto* c = std::get_if<Cone>(&shape)) {
    const double slant = std::hypot(c->radius, c->height);
    return std::min(p.y() + 0.5 * c->height,
                    (c->radius * (0.5 * c->height - p.y()) / c->height - away) * c->height / slant);
  }
  if (const auto* h = std::get_if<Hull>(&shape)) {
    double least = 1e300;
    for (std::size_t f = 0; f < h->data->normals.size(); ++f)
      least = std::min(least, h->data->offsets[f] - h->data->normals[f].dot(p));
    return least;
  }
  return -1;
}

double distance_to_convex(const Shape& shape, const Vec3& p) {
  const double depth = depth_in(shape, p);
  if (depth >= 0) return depth;
  if (std::holds_alternative<Sphere>(shape) || std::holds_alternative<Capsule>(shape)) return -depth;
  if (const auto* b = std::get_if<Box>(&shape)) return (p.cwiseAbs() - 0.5 * b->size).cwiseMax(0.0).norm();
  const double away = std::hypot(p.x(), p.z());
  if (const auto* c = std::get_if<Cylinder>(&shape))
    return std::hypot(std::max(0.0, away - c->radius), std::max(0.0, std::abs(p.y()) - 0.5 * c->height));
  if (const auto* c = std::get_if<Cone>(&shape)) {
    // In the half plane through the axis the cone is a triangle.
    const Vec3 flat(away, p.y(), 0), apex(0, 0.5 * c->height, 0), rim(c->radius, -0.5 * c->height, 0),
        foot(0, -0.5 * c->height, 0);
    return std::sqrt(distance_squared_to_triangle(flat, apex, rim, foot));
  }
  const auto* hull = std::get_if<Hull>(&shape);
  if (!hull) return 0;
  double best = 1e300;
  const HullData& data = *hull->data;
  for (std::size_t f = 0; f < data.faces.size(); ++f) {
    // Only faces that the point is in front of can be nearest.
    const double front = data.normals[f].dot(p) - data.offsets[f];
    if (front <= 0 || front * front >= best) continue;
    const auto& face = data.faces[f];
    for (std::size_t i = 1; i + 1 < face.size(); ++i)
      best = std::min(best, distance_squared_to_triangle(p, data.corners[face[0]], data.corners[face[i]],
                                                         data.corners[face[i + 1]]));
  }
  return std::sqrt(best);
}

}  // namespace

std::string fit_word(FitKind kind) {
  constexpr std::array<const char*, 7> words{"box",  "sphere",       "capsule",   "cylinder",
                                             "hull", "set of hulls", "exact mesh"};
  return words.at(static_cast<std::size_t>(kind));
}

double distance_to_surface(const Shape& shape, const Vec3& point) {
  if (const auto* mesh = std::get_if<Mesh>(&shape)) return distance_to_mesh(*mesh->data, point);
  const auto* compound = std::get_if<Compound>(&shape);
  if (!compound) return distance_to_convex(shape, point);
  // Outside: the nearest part. Inside: the part that it lies deepest in says how far the surface is at least.
  double outside = 1e300, inside = -1;
  for (const Part& part : compound->data->parts) {
    const Vec3 local = part.pose.to_local(point);
    const double depth = depth_in(part.shape, local);
    if (depth >= 0)
      inside = std::max(inside, depth);
    else
      outside = std::min(outside, distance_to_convex(part.shape, local));
  }
  return inside >= 0 ? inside : outside;
}

Misfit misfit_of(const Model& model, const Shape& shape, const Pose& pose, std::size_t samples, const GoOn& go_on) {
  Misfit misfit;
  std::size_t looked = 0;
  const auto now_and_then = [&] {
    constexpr std::size_t looks_between = 64;
    if (++looked % looks_between == 0) ask_to_go_on(go_on);
  };
  const double volume = model_closed(model) ? std::abs(model_volume(model)) : 0;
  if (volume > 0 && has_volume(shape)) misfit.volume_ratio = shape_volume(shape) / volume;
  std::vector<Vec3> corners;
  corners.reserve(3 * model.triangles.size());
  for (const auto& t : model.triangles)
    for (const std::uint32_t corner : t) corners.push_back(model.points[corner]);
  for (const Vec3& p : spread_points(corners, samples)) {
    now_and_then();
    misfit.gap = std::max(misfit.gap, distance_to_surface(shape, pose.to_local(p)));
  }
  if (std::holds_alternative<Mesh>(shape)) return misfit;
  try {
    const Bounds bounds = model_bounds(model);
    Model whole = welded(model, 1e-9 * (bounds.high - bounds.low).norm());
    // Which side is the front does not matter to a distance.
    if (model_volume(whole) < 0)
      for (auto& t : whole.triangles) std::swap(t[1], t[2]);
    const Mesh mesh = make_mesh(std::move(whole.points), std::move(whole.triangles));
    const auto* compound = std::get_if<Compound>(&shape);
    const double extent = (bounds.high - bounds.low).maxCoeff();
    for (const Vec3& p : spread_points(outline_of(shape).triangles, samples)) {
      if (++looked % 64 == 0 && go_on && !go_on()) break;  // measured from its own side only
      // Where two parts meet is not on the surface.
      if (compound) {
        int touching = 0;
        for (const Part& part : compound->data->parts)
          touching += depth_in(part.shape, part.pose.to_local(p)) > -0.005 * extent ? 1 : 0;
        if (touching > 1) continue;
      }
      misfit.gap = std::max(misfit.gap, distance_to_mesh(*mesh.data, pose.to_scene(p)));
    }
  } catch (const Error&) {
    // A model that can't be a mesh is measured from its own side only.
  }
  return misfit;
}

Fit fit_to(const Model& model, FitKind kind, const FitPlan& plan) {
  Fit fit;
  fit.kind = kind;
  if (fit.fault = model_fault(model); !fit.fault.empty()) return fit;
  try {
    if (kind == FitKind::exact) {
      const Bounds bounds = model_bounds(model);
      Model whole = welded(model, 1e-9 * (bounds.high - bounds.low).norm());
      fit.shape = make_mesh(std::move(whole.points), std::move(whole.triangles));
      fit.parts = static_cast<int>(std::get<Mesh>(fit.shape).data->triangles.size());
      fit.misfit.volume_ratio = model_closed(model) ? 1 : 0;
      return fit;
    }
    const Hull hull = make_hull(model.points);
    const std::vector<Frame> frames{Frame::Identity(), principal_axes(hull.data->corners), box_axes(*hull.data)};
    switch (kind) {
      case FitKind::box:
        fit = box_fit(*hull.data);
        break;
      case FitKind::sphere:
        fit = sphere_fit(hull.data->corners);
        break;
      case FitKind::capsule:
        fit = capsule_fit(hull.data->corners, frames);
        break;
      case FitKind::cylinder:
        fit = cylinder_fit(hull.data->corners, frames);
        break;
      case FitKind::hulls: {
        std::vector<Part> parts;
        for (const Hull& part : convex_parts(model, plan.most_hulls, plan.concavity, plan.go_on))
          parts.push_back({part, {}, 1});
        fit.parts = static_cast<int>(parts.size());
        fit.shape = make_compound(std::move(parts));
        break;
      }
      default:
        fit.shape = simple_hull(hull.data->corners, most_corners, plan.go_on);
    }
    fit.kind = kind;
    if (!fit.fault.empty()) return fit;
    if (const auto fault = shape_fault(fit.shape)) {
      fit.fault = *fault;
      return fit;
    }
    fit.misfit = misfit_of(model, fit.shape, fit.pose, plan.samples, plan.go_on);
  } catch (const Error& e) {
    fit.fault = e.what();
    if (fit.fault.find("plane") != std::string::npos || fit.fault.find("four") != std::string::npos)
      fit.fault = "the model is flat: it has no inside to fill";
  }
  return fit;
}

}  // namespace bronvel
