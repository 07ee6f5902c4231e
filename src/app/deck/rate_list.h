// Beside the sweep: what other seeds and other tick rates make of the wish.
#pragma once

#include <QWidget>

namespace bronvel {

class Session;

class RateList : public QWidget {
  Q_OBJECT

 public:
  explicit RateList(Session& session, QWidget* parent = nullptr);

 private:
  void paintEvent(QPaintEvent* event) override;
  int draw_seeds(QPainter& painter, int y) const;
  void draw_rates(QPainter& painter, int y) const;

  Session& session_;
};

}  // namespace bronvel
