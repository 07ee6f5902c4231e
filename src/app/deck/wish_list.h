// The list of wishes: what each measures, what it shall be, what it is.
#pragma once

#include <QWidget>

#include "app/session/wishes.h"

class QMenu;

namespace bronvel {

class NumberField;

class WishList : public QWidget {
  Q_OBJECT

 public:
  explicit WishList(Session& session, QWidget* parent = nullptr);
  QRect place_of(std::size_t wish) const;
  /// What can be measured of what is chosen, each an entry; `add` is told which.
  void fill_menu(QMenu& menu);

 private:
  void place_field();
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  QRect sign_of(std::size_t wish) const;  ///< where its =, ≤ or ≥ stands
  std::optional<std::size_t> wish_at(const QPoint& place) const;

  Session& session_;
  NumberField* value_ = nullptr;  ///< of the chosen one
  int first_ = 0;                 ///< shown at the top
};

}  // namespace bronvel
