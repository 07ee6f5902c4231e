// The lanes: events and numbers of takes against time, one play head through all.
#pragma once

#include <qcustomplot.h>

#include <optional>

#include "app/session/session.h"

namespace bronvel {

/// A press or drag puts the play head there, with Shift it marks a stretch; the wheel zooms, the right or middle button
/// moves along; a double click shows all. Arrow keys move the play head. A press on an event goes there and tells of
/// it.
class LanePlot : public QCustomPlot {
  Q_OBJECT

 public:
  explicit LanePlot(Session& session, QWidget* parent = nullptr);

  /// Points now plotted in the lane of that name, for tests.
  int points_in(const QString& lane) const;
  /// What stands at the lane's right, for tests: the number, and that of the compared take with the difference.
  QString value_of(const QString& lane) const;
  QString other_of(const QString& lane) const;
  QString mark_of(const QString& lane) const;
  /// When scripts were stopped, s, as marked in the lanes, for tests.
  std::vector<double> stops() const;
  /// The stretch that is marked, s.
  const std::optional<std::pair<double, double>>& marked() const { return marked_; }
  double pixel_of_time(double seconds) const;                      ///< x within the widget
  std::pair<double, double> seen() const { return {from_, to_}; }  ///< s

 signals:
  void hit_asked(std::size_t event);  ///< a touch of the take that is looked at
  void stretch_marked();              ///< or no longer
  void lane_menu_asked(const QString& lane, const QPoint& global);

 public slots:
  void restart();   ///< other lanes, another body or another take: plot from the beginning
  void catch_up();  ///< adds what was recorded since

 protected:
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;

 private:
  struct Lane {
    QString name, unit;
    std::optional<Channel> channel;
    QString fault;  ///< why there is none
    QCPAxisRect* rect = nullptr;
    QCPGraph *now = nullptr, *compared = nullptr;
    QLabel *title = nullptr, *value = nullptr, *other = nullptr, *mark = nullptr, *top = nullptr, *bottom = nullptr;
    double low = 1e300, high = -1e300;
  };

  void build();
  void add_stop(double seconds);
  QCPAxisRect* add_rect(int at, bool last);
  struct Read {
    bool any = false, full = false, knows = false;
    bool came = false;  // a body that the lanes are of came in play
    std::int64_t ticks = 0;
    std::vector<double> stopped{};  // when scripts were stopped, s
  };
  Read read_on();
  void show_moment();
  void load(QCPGraph* graph, Lane& lane, const Take& take, TakeReader& reader, std::int64_t from, std::int64_t to);
  void fill_compared();
  void show_numbers();
  void show_mark();
  void show_range();
  void place_labels();
  void go_to(double x);
  double time_at(double x) const;
  Lane* lane_at(double y);
  std::optional<std::size_t> event_at(const QPointF& pixel);
  double head_time() const;

  Session& session_;
  std::vector<std::string> built_for_;
  std::vector<Lane> lanes_;
  QCPAxisRect* events_rect_ = nullptr;
  QCPGraph *touches_ = nullptr, *parts_ = nullptr, *cracks_ = nullptr, *stops_ = nullptr, *other_touches_ = nullptr;
  std::vector<QCPItemStraightLine*> heads_;
  std::vector<QCPItemRect*> marks_;
  std::vector<QCPItemLine*> stop_lines_;  // through the lanes, where a script was stopped
  QLabel *events_title_ = nullptr, *head_label_ = nullptr, *empty_ = nullptr, *full_ = nullptr;
  std::string body_;
  std::int64_t plotted_ = 0;
  std::size_t events_plotted_ = 0, cracks_plotted_ = 0, log_plotted_ = 0;
  double rate_ = 60, length_ = 0;  // of the take that is looked at
  double other_rate_ = 60;         // of the compared one
  double from_ = 0, to_ = 2;       // s that are seen
  bool fitted_ = true;             // all is seen
  std::optional<std::pair<double, double>> marked_;
  enum class Drag { none, head, mark, along };
  Drag drag_ = Drag::none;
  QPointF pressed_;
  std::pair<double, double> seen_at_press_;
  QTimer redraw_;
};

}  // namespace bronvel
