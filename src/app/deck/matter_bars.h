// What matters: a bar for each number of the scene, by what a tenth less and a tenth more of it change.
#pragma once

#include <QWidget>

#include "app/session/wishes.h"

namespace bronvel {

class MatterBars : public QWidget {
  Q_OBJECT

 public:
  explicit MatterBars(Session& session, QWidget* parent = nullptr);
  QRect place_of(const std::string& number) const;  ///< of its row; empty if it is not shown

 private:
  int rows() const;
  void paintEvent(QPaintEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  bool event(QEvent* event) override;
  const Matter* matter_at(const QPointF& place) const;

  Session& session_;
};

}  // namespace bronvel
