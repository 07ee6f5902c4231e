// The sweep's curve over the ruled scale of the number that is turned: each dot a play, the wish a line across.
#pragma once

#include <QWidget>

#include "app/session/wishes.h"

namespace bronvel {

class SweepPlot : public QWidget {
  Q_OBJECT

 public:
  explicit SweepPlot(Session& session, QWidget* parent = nullptr);
  QPointF place_of_point(std::size_t point) const;  ///< where its dot is drawn

 private:
  struct Scale {
    double low = 0, high = 1;  ///< of what is measured
  };
  Scale scale() const;
  QRectF field() const;
  double x_of(double value) const;
  double y_of(double measured, const Scale& scale) const;
  std::optional<std::size_t> point_near(const QPointF& place) const;
  QString said() const;  ///< of what is pointed at, what was found, or how far it is
  void draw_ruler(QPainter& painter) const;
  void draw_curve(QPainter& painter, const Scale& scale) const;
  void draw_wish(QPainter& painter, const Scale& scale) const;
  void paintEvent(QPaintEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void leaveEvent(QEvent* event) override;

  Session& session_;
};

}  // namespace bronvel
