// Takes: the list, the lanes, and what can be done with the one that is looked at.
#pragma once

#include <QWidget>

#include "app/deck/lane_plot.h"
#include "app/deck/take_list.h"

class QToolButton;

namespace bronvel {

class TakesPage : public QWidget {
  Q_OBJECT

 public:
  explicit TakesPage(Session& session, QWidget* parent = nullptr);
  int points_in(const QString& lane) const { return plot_->points_in(lane); }
  LanePlot* plot() { return plot_; }

 signals:
  void hit_asked(std::size_t event);

 private:
  void show_state();
  void fill_lane_menu(QMenu* menu);
  void lane_menu(const QString& lane, const QPoint& global);
  void change_lanes(const std::function<void(std::vector<std::string>&)>& change);
  void attempt(const std::function<void()>& act);

  Session& session_;
  TakeList* list_ = nullptr;
  LanePlot* plot_ = nullptr;
  QToolButton *go_on_ = nullptr, *values_ = nullptr, *follow_ = nullptr, *add_ = nullptr, *memory_ = nullptr;
  QLabel* answer_ = nullptr;
};

}  // namespace bronvel
