// The stage: the scene in three dimensions, to look at and to choose from.
#pragma once

#include <QOpenGLWidget>
#include <QPoint>

#include "app/camera.h"
#include "app/session.h"
#include "app/stage_drawings.h"
#include "app/stage_renderer.h"
#include "app/stage_tools.h"

namespace bronvel {

/// Drag on empty ground turns the view, with the right or middle button moves it, the wheel zooms; a click chooses.
/// Arrow keys turn, + and − zoom, F frames the chosen body, A frames all.
class Stage : public QOpenGLWidget {
  Q_OBJECT

 public:
  explicit Stage(Session& session, QWidget* parent = nullptr);
  ~Stage() override;

  const Camera& camera() const { return camera_; }
  void set_covered_right(double pixels);
  void frame_all();
  void frame_chosen();
  /// The body under the pixel, "" if none.
  std::string body_at(const QPointF& pixel) const;
  /// The pixel of a body's middle, for tests that click on it.
  QPointF pixel_of(const std::string& body) const;
  int frames_drawn() const { return frames_drawn_; }
  StageTools* tools() { return tools_; }
  /// Where the ray through the pixel meets a body or, failing that, the ground at height 0.
  std::optional<Vec3> place_at(const QPointF& pixel) const;
  QString renderer() const { return renderer_.renderer(); }

 signals:
  /// The machine has no graphics hardware; something was left out.
  void drawn_plainly();

 public:
 protected:
  void initializeGL() override;
  void paintGL() override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  class Notes;
  void resizeEvent(QResizeEvent* event) override;
  /// Draws names, plumb line and height; returns what they cover.
  QRect draw_notes(QPainter* painter) const;
  std::optional<double> ground_below(const Vec3& point, const std::string& except) const;

  Session& session_;
  StageRenderer renderer_;
  Camera camera_;
  Notes* notes_ = nullptr;
  QPointF pressed_at_, last_;
  bool dragging_ = false;
  void wheel_hand(double notches);
  void keyReleaseEvent(QKeyEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;
  bool begin_hand(const QPointF& pixel);
  void move_hand(const QPointF& pixel);
  void end_hand(const QPointF& pixel);
  Vec3 hand_point(const QPointF& pixel) const;  // on the plane through the grip that faces the camera

  StageTools* tools_ = nullptr;
  std::string held_;          // by the hand or the flick
  Vec3 grip_ = Vec3::Zero();  // in its frame
  double hand_depth_ = 0;     // of the hand, along the view, m
  std::optional<HandLine> hand_line_;
  bool working_ = false;
  int frames_drawn_ = 0;
};

}  // namespace bronvel
