// What a pair of surfaces does: a ball of the one dropped on a floor of the other, and a block sliding on it.
#pragma once

#include <QTimer>
#include <QWidget>
#include <vector>

#include "dynamics/settings/surface.h"

namespace bronvel {

class PairDrop : public QWidget {
  Q_OBJECT

 public:
  explicit PairDrop(QWidget* parent = nullptr);
  /// Plays it anew.
  void show_pair(const QString& floor_name, const Surface& floor, const QString& body_name, const Surface& body);
  double rebound() const { return rebound_; }  ///< height of the first bounce, m
  double slid() const { return slid_; }        ///< m

 private:
  void paintEvent(QPaintEvent* event) override;
  void showEvent(QShowEvent* event) override;
  void hideEvent(QHideEvent* event) override;

  QString title_;
  std::vector<double> heights_, places_;  // of ball and block, one a tick
  double rebound_ = 0, slid_ = 0;
  std::size_t at_ = 0;
  QTimer timer_;
};

}  // namespace bronvel
