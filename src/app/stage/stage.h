// The stage: the scene in three dimensions, to look at and to choose from.
#pragma once

#include <QElapsedTimer>
#include <QPoint>
#include <QTimer>
#include <QWidget>

#include "app/session/session.h"
#include "app/stage/camera.h"
#include "app/stage/force_arrows.h"
#include "app/stage/handles.h"
#include "app/stage/picking.h"
#include "app/stage/shelf.h"
#include "app/stage/stage_canvas.h"
#include "app/stage/stage_drawings.h"
#include "app/stage/stage_tools.h"
#include "app/stage/take_chips.h"

namespace bronvel {

/// Drag on empty ground turns the view, with the right or middle button moves it, the wheel zooms; a click chooses,
/// with Shift one more, a drag with Shift on the ground all in a box. Arrow keys turn, + and − zoom, F frames the
/// chosen body, A frames all. While nothing plays, handles move, turn and size what is chosen.
class Stage : public QWidget {
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
  TakeChips* chips() { return chips_; }
  /// The pixel of a touch of the take that is looked at, for tests that click on it.
  QPointF pixel_of_hit(const Vec3& point) const { return camera_.pixel(point, size()) + QPointF(0, 4); }
  /// Where the ray through the pixel meets a body or, failing that, the ground at height 0.
  std::optional<Vec3> place_at(const QPointF& pixel) const;
  QString renderer() const { return canvas_.renderer().renderer(); }
  /// As it was last drawn, without what is written over it.
  const QImage& picture() const { return picture_; }
  /// Something of the picture changed: it is drawn anew with the window's next.
  void redraw();

  // Building
  SnapSettings& snap() { return snap_; }
  Handles& handles() { return handles_; }
  /// Shows where the offer would land under the pixel.
  void show_offer(const Offer& offer, const QPointF& pixel);
  void hide_offer();
  /// Puts it there, as an edit, and chooses it. In the view's middle without a pixel.
  void land_offer(const Offer& offer, const std::optional<QPointF>& pixel);
  /// A mesh that is looked at before it is put down, and the shape that would stand for it, drawn over it.
  /// Frames it when it is a new one.
  void show_fit(const std::optional<BodyView>& mesh, const std::optional<std::pair<Shape, Pose>>& shape);
  /// The next clicks pick places, until there are enough, Return, or Escape.
  void start_picking(Picking picking);
  bool picking() const { return picking_.has_value(); }
  void set_measure(std::optional<std::pair<Vec3, Vec3>> line);
  QPointF pixel_of_point(const Vec3& point) const { return camera_.pixel(point, size()); }

  // Views
  void look_from(double turn, double tilt, bool straight);
  void set_view(const View& view);
  void follow(const std::string& body);  ///< "" for none
  const std::string& followed() const { return followed_; }

 signals:
  /// The machine has no graphics hardware; something was left out.
  void drawn_plainly();
  void drawn();                       ///< a new picture
  void hit_asked(std::size_t event);  ///< its mark was clicked
  void landed();                      ///< something new was put down and chosen
  void menu_asked(const QPoint& global);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void resizeEvent(QResizeEvent* event) override;
  /// Draws names, plumb line and height; returns what they cover.
  QRect draw_notes(QPainter* painter) const;
  std::optional<double> ground_below(const Vec3& point, const std::string& except) const;

  Session& session_;
  void draw_picture();
  void look_for_picture();
  void renew_notes();
  StageCanvas canvas_;
  QImage picture_;
  QRect noted_;  // what the notes cover
  bool stale_ = true;
  QTimer look_;  // for a picture that was begun
  Camera camera_;
  bool was_planar_ = false;  // the scene, when it was last looked at
  QPointF pressed_at_, last_;
  bool dragging_ = false;
  void wheel_hand(double notches);
  void keyReleaseEvent(QKeyEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;
  bool begin_hand(const QPointF& pixel);
  void move_hand(const QPointF& pixel);
  void end_hand(const QPointF& pixel);
  void move_blade(const QPointF& pixel);
  void end_blade(const QPointF& pixel);
  void cut_across(const QPointF& pixel);
  bool can_be_cut(const BodyView& view) const;
  Vec3 hand_point(const QPointF& pixel) const;  // on the plane through the grip that faces the camera

  std::vector<BodyView> landing(const Offer& offer, const QPointF& pixel) const;
  std::optional<Pose> landing_place(const Offer& offer, const QPointF& pixel) const;
  void draw_building(Pencil& pencil) const;
  void draw_nose(Pencil& pencil) const;
  /// The joint, zone or path whose mark is under the pixel.
  std::optional<std::pair<ThingKind, std::string>> thing_at(const QPointF& pixel) const;
  void pick(const QPointF& pixel);
  void finish_picking();
  /// Ends a half-done gesture when what it holds on to is gone, or the scene under it became another one.
  void let_go_of_what_is_gone();
  bool build_key(QKeyEvent* event);
  bool head_key(QKeyEvent* event);
  void choose_in_box(const QPointF& from, const QPointF& to);
  void contextMenuEvent(QContextMenuEvent* event) override;

  SnapSettings snap_;
  Handles handles_{session_, snap_};
  Grip hovered_;
  std::vector<BodyView> offered_;
  std::vector<std::pair<Vec3, Vec3>> fit_lines_;  // scene frame
  Vec3 framed_extent_ = Vec3::Zero();
  std::optional<Picking> picking_;
  std::optional<std::pair<Vec3, Vec3>> measure_;
  std::optional<std::pair<QPointF, QPointF>> box_;  // being drawn around bodies
  QPointF mouse_;
  std::string followed_;
  std::optional<Vec3> followed_at_;
  QTimer ride_;  // moves the preview along a chosen path
  QElapsedTimer ride_clock_;

  StageTools* tools_ = nullptr;
  TakeChips* chips_ = nullptr;
  TakeMarks marks_;
  mutable TakeDrawing take_drawing_;
  mutable ForceArrows force_arrows_;
  std::string held_;                // by the hand or the flick
  Vec3 grip_ = Vec3::Zero();        // in its frame
  Vec3 hand_plane_ = Vec3::Zero();  // a point of the plane that the hand moves in, which faces the view
  Vec3 hand_at_ = Vec3::Zero();     // where it was last, m
  bool along_floor_ = false;        // carried along it, not in the plane that faces one
  std::optional<HandLine> hand_line_;
  std::optional<QPointF> blade_;  // where the knife's line begins
  int frames_drawn_ = 0;
};

}  // namespace bronvel
