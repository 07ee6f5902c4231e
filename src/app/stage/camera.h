// Where the stage is seen from.
#pragma once

#include <QMatrix4x4>
#include <QPointF>
#include <QSize>

#include "geometry/base/bounds.h"
#include "scene/document/document.h"

namespace bronvel {

/// A ray into the scene, scene frame.
struct ViewRay {
  Vec3 origin;
  Vec3 direction;  ///< unit
};

/// Turns around a target. Angles as in View. Straight on, it shows what is as far as the target at the same size as in
/// perspective.
struct Camera {
  View view;
  double covered_right = 0;  ///< pixels on the right that something covers: the target is centred in the rest

  static constexpr float opening = 38;  ///< vertical angle of view, degrees

  Vec3 eye() const;
  Vec3 forward() const;  ///< unit, into the picture
  Vec3 right() const;
  Vec3 up() const;
  QMatrix4x4 looking() const;                      ///< scene to eye
  QMatrix4x4 projection(const QSize& size) const;  ///< eye to clip
  ViewRay ray(const QPointF& pixel, const QSize& size) const;
  /// Pixel of a scene point; nothing sensible behind the eye (then `visible` is false).
  QPointF pixel(const Vec3& point, const QSize& size, bool* visible = nullptr) const;

  void orbit(double turn_degrees, double tilt_degrees);
  void pan(const QPointF& pixels, const QSize& size);
  void zoom(double factor);
  void frame(const Bounds& bounds);
};

}  // namespace bronvel
