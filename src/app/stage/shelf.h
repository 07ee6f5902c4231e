// The shelf: shapes, and the scene's stamps, to be dragged onto the stage.
#pragma once

#include <QWidget>
#include <functional>
#include <vector>

#include "app/session/session.h"

namespace bronvel {

/// Something on the shelf, or on its way to the stage: bodies in a frame whose floor is at height 0.
struct Offer {
  std::string label;
  std::string stamp;         ///< set if it is a stamp
  std::vector<Body> bodies;  ///< at least one
};

class Shelf : public QWidget {
  Q_OBJECT

 public:
  explicit Shelf(Session& session, QWidget* parent = nullptr);
  QSize sizeHint() const override;
  /// The middle of the item of that label, for tests that drag it; none if it is not there.
  QPoint place_of(const std::string& label) const;

 signals:
  void offered(const Offer& offer, const QPoint& global);  ///< being dragged over there
  void dropped(const Offer& offer, const QPoint& global);
  void taken(const Offer& offer);  ///< clicked: put it in the middle
  void put_back();
  void mesh_asked();

 private:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void leaveEvent(QEvent* event) override;
  bool event(QEvent* event) override;
  void refill();
  int item_at(const QPoint& at) const;

  Session& session_;
  std::vector<Offer> items_;
  int held_ = -1, hovered_ = -1;
  bool moved_ = false;
  QPoint pressed_at_;
};

}  // namespace bronvel
