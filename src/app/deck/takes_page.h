// Takes: what the chosen body did, against time.
#pragma once

#include <qcustomplot.h>

#include <QWidget>

#include "app/session/session.h"

class QListWidget;

namespace bronvel {

/// Lanes of events, height and speed of the chosen body, one play head through all; a second take can be laid under.
class TakesPage : public QWidget {
  Q_OBJECT

 public:
  explicit TakesPage(Session& session, QWidget* parent = nullptr);
  /// Points now plotted in the lane of that quantity ("height" or "speed"), for tests.
  int points_in(const QString& lane) const;
  QCustomPlot* plot() { return plot_; }

 private:
  struct Lane {
    QString name, unit;
    QCPAxisRect* rect = nullptr;
    QCPGraph* now = nullptr;
    QCPGraph* compared = nullptr;
    QLabel *value = nullptr, *other = nullptr;
    double low = 0, high = 1;
  };

  void restart();   ///< another body or another take: plot from the beginning
  void catch_up();  ///< adds what was recorded since
  void show_list();
  void fill_compared();
  void place_labels();
  void resizeEvent(QResizeEvent* event) override;

  Session& session_;
  QListWidget* list_ = nullptr;
  QCustomPlot* plot_ = nullptr;
  QCPAxisRect* events_rect_ = nullptr;
  QCPGraph *touches_ = nullptr, *parts_ = nullptr, *cracks_ = nullptr;
  std::size_t cracks_plotted_ = 0;
  std::vector<Lane> lanes_;
  QVector<QCPItemStraightLine*> heads_;
  QLabel *head_label_ = nullptr, *empty_ = nullptr, *full_ = nullptr;
  std::vector<QLabel*> names_;
  std::string body_;
  std::int64_t plotted_ = 0;
  std::size_t events_plotted_ = 0;
  double span_ = 2;
  QTimer redraw_;
};

}  // namespace bronvel
