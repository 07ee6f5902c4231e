// Camera moves.
#include "app/stage/camera.h"

namespace bronvel {
namespace {
// How far a straight view reaches before and behind its target, in times its distance.
constexpr double straight_depth = 60;

QVector3D to_qt(const Vec3& v) {
  return {static_cast<float>(v.x()), static_cast<float>(v.y()), static_cast<float>(v.z())};
}
}  // namespace

Vec3 Camera::eye() const {
  return view.target - forward() * view.distance;
}

Vec3 Camera::forward() const {
  const double turn = view.turn * pi / 180, tilt = view.tilt * pi / 180;
  return {-std::sin(turn) * std::cos(tilt), -std::sin(tilt), -std::cos(turn) * std::cos(tilt)};
}

Vec3 Camera::up() const {
  const double turn = view.turn * pi / 180, tilt = view.tilt * pi / 180;
  return {-std::sin(turn) * std::sin(tilt), std::cos(tilt), -std::cos(turn) * std::sin(tilt)};
}

Vec3 Camera::right() const {
  return forward().cross(up());
}

QMatrix4x4 Camera::looking() const {
  QMatrix4x4 m;
  m.lookAt(to_qt(eye()), to_qt(view.target), to_qt(up()));
  return m;
}

QMatrix4x4 Camera::projection(const QSize& size) const {
  QMatrix4x4 m;
  m.translate(static_cast<float>(-covered_right / std::max(1, size.width())), 0, 0);
  const auto aspect = static_cast<float>(size.width()) / static_cast<float>(std::max(1, size.height()));
  if (view.straight) {
    const auto half = static_cast<float>(std::tan(opening * pi / 360) * view.distance);
    const auto depth = static_cast<float>(straight_depth * view.distance);
    m.ortho(-half * aspect, half * aspect, -half, half, -depth, depth);
    return m;
  }
  const auto near = static_cast<float>(std::max(0.01, view.distance * 0.02));
  m.perspective(opening, aspect, near, near * 20000);
  return m;
}

ViewRay Camera::ray(const QPointF& pixel, const QSize& size) const {
  const double half = std::tan(opening * pi / 360);
  const double x = (2 * (pixel.x() + 0.5 * covered_right) / size.width() - 1) * half * size.width() / size.height();
  const double y = (1 - 2 * pixel.y() / size.height()) * half;
  if (view.straight)
    return {view.target + (right() * x + up() * y) * view.distance - forward() * (straight_depth * view.distance),
            forward()};
  return {eye(), (forward() + right() * x + up() * y).normalized()};
}

QPointF Camera::pixel(const Vec3& point, const QSize& size, bool* visible) const {
  const QVector4D clip = projection(size) * looking() * QVector4D(to_qt(point), 1);
  if (visible) *visible = clip.w() > 0;
  const double w = std::max(1e-6F, clip.w());
  return {(clip.x() / w + 1) * 0.5 * size.width(), (1 - clip.y() / w) * 0.5 * size.height()};
}

void Camera::orbit(double turn_degrees, double tilt_degrees) {
  view.straight = false;
  view.turn = std::fmod(view.turn + turn_degrees, 360);
  view.tilt = std::clamp(view.tilt + tilt_degrees, -90.0, 90.0);
}

void Camera::pan(const QPointF& pixels, const QSize& size) {
  const double metres = 2 * std::tan(opening * pi / 360) * view.distance / std::max(1, size.height());
  view.target += (-right() * pixels.x() + up() * pixels.y()) * metres;
}

void Camera::zoom(double factor) {
  view.distance = std::clamp(view.distance * factor, 1e-3, 1e6);
}

void Camera::frame(const Bounds& bounds) {
  view.target = 0.5 * (bounds.low + bounds.high);
  const double radius = std::max(1e-3, 0.5 * (bounds.high - bounds.low).norm());
  view.distance = radius / std::sin(opening * pi / 360) * 1.05;
}

}  // namespace bronvel
