// What scripts drew, zones, paths and the hands' lines, over the stage's picture.
#pragma once

#include <QPainter>

#include "app/camera.h"
#include "app/session.h"

namespace bronvel {

/// An arrow of a hand that is being drawn, or the line of what it holds.
struct HandLine {
  Vec3 from = Vec3::Zero(), to = Vec3::Zero();
  QString text;
  bool arrow = false;
  bool blade = false;  ///< of the knife
};

/// Draws with `painter`, or only measures when it is null. Gives what was covered, in pixels.
QRectF draw_over_stage(QPainter* painter, const Camera& camera, const QSize& size, const Session& session,
                       const std::optional<HandLine>& hand);

}  // namespace bronvel
