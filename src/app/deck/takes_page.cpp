// Plotting takes.
#include "app/deck/takes_page.h"

#include <QHBoxLayout>
#include <QListWidget>

#include "app/kit/number_field.h"
#include "app/kit/theme.h"

namespace bronvel {
namespace {

constexpr int left_gap = 74, right_gap = 96;

double quantity(const Sample& s, const QString& name) {
  if (name == "height") return s.position[1];
  return std::sqrt(static_cast<double>(s.velocity[0]) * s.velocity[0] +
                   static_cast<double>(s.velocity[1]) * s.velocity[1] +
                   static_cast<double>(s.velocity[2]) * s.velocity[2]);
}

// Ticks that say "1.5 s".
class SecondsTicker : public QCPAxisTicker {
  QString getTickLabel(double tick, const QLocale&, QChar, int) override {
    return QString::number(tick, 'g', 6) + " s";
  }
};

void style_axis(QCPAxis* axis, bool labels) {
  axis->setBasePen(QPen(theme::rule));
  axis->setTickPen(Qt::NoPen);
  axis->setSubTickPen(Qt::NoPen);
  axis->setTickLabels(labels);
  axis->setTickLabelColor(theme::faint_ink);
  axis->setTickLabelFont(theme::numbers(10));
  axis->grid()->setPen(QPen(QColor(0xE4, 0xDD, 0xCE), 1));
  axis->grid()->setZeroLinePen(Qt::NoPen);
}

}  // namespace

TakesPage::TakesPage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(0);
  list_ = new QListWidget(this);
  list_->setObjectName("take_list");
  list_->setFixedWidth(196);
  list_->setSpacing(2);
  list_->setStyleSheet(
      "QListWidget { border: none; border-right: 1px solid " + theme::rule.name() +
      "; background: transparent; padding: 4px; } QListWidget::item { border-radius: 6px; padding: 4px "
      "8px; color: " +
      theme::ink.name() + "; } QListWidget::item:hover { background: " + theme::well.name() +
      "; } QListWidget::item:selected { background: transparent; }");
  list_->setToolTip("click an earlier take to lay it under the newest; click again to take it away");
  row->addWidget(list_);
  plot_ = new QCustomPlot(this);
  plot_->setBackground(QBrush(theme::paper));
  plot_->setNoAntialiasingOnDrag(true);
  row->addWidget(plot_, 1);

  plot_->plotLayout()->clear();
  plot_->plotLayout()->setRowSpacing(0);
  const auto add_rect = [&](int at, bool labels) {
    auto* rect = new QCPAxisRect(plot_);
    plot_->plotLayout()->addElement(at, 0, rect);
    rect->setAutoMargins(QCP::msNone);
    rect->setMargins(QMargins(left_gap, at == 0 ? 8 : 0, right_gap, labels ? 20 : 0));
    style_axis(rect->axis(QCPAxis::atBottom), labels);
    style_axis(rect->axis(QCPAxis::atLeft), false);
    rect->axis(QCPAxis::atLeft)->grid()->setVisible(false);
    rect->setupFullAxesBox();
    for (const auto side : {QCPAxis::atTop, QCPAxis::atRight}) {
      rect->axis(side)->setBasePen(QPen(theme::rule));
      rect->axis(side)->setTicks(false);
      rect->axis(side)->setTickLabels(false);
    }
    auto* head = new QCPItemStraightLine(plot_);
    for (QCPItemPosition* p : {head->point1, head->point2}) {
      p->setAxisRect(rect);
      p->setAxes(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
    }
    head->setClipAxisRect(rect);
    head->setPen(QPen(theme::accent, 1.4));
    heads_.push_back(head);
    auto* name = new QLabel(plot_);
    name->setFont(theme::words(11));
    name->setStyleSheet("color: " + theme::faint_ink.name() + "; background: transparent");
    name->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    names_.push_back(name);
    return rect;
  };
  events_rect_ = add_rect(0, false);
  events_rect_->setMinimumSize(10, 30);
  events_rect_->setMaximumSize(QWIDGETSIZE_MAX, 34);
  events_rect_->axis(QCPAxis::atLeft)->setRange(0, 1);
  names_[0]->setText("events");
  const auto marks = [&](QCPScatterStyle::ScatterShape shape, const QBrush& fill) {
    auto* graph = plot_->addGraph(events_rect_->axis(QCPAxis::atBottom), events_rect_->axis(QCPAxis::atLeft));
    graph->setLineStyle(QCPGraph::lsNone);
    graph->setScatterStyle(QCPScatterStyle(shape, QPen(theme::ink, 1.2), fill, 8));
    return graph;
  };
  touches_ = marks(QCPScatterStyle::ssTriangle, QBrush(theme::ink));
  parts_ = marks(QCPScatterStyle::ssTriangleInverted, QBrush(theme::paper));
  cracks_ = marks(QCPScatterStyle::ssCross, Qt::NoBrush);
  cracks_->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCross, QPen(theme::accent, 1.8), Qt::NoBrush, 9));

  for (const auto& [name, unit] : {std::pair<QString, QString>{"height", "m"}, {"speed", "m/s"}}) {
    Lane lane;
    lane.name = name;
    lane.unit = unit;
    lane.rect = add_rect(static_cast<int>(lanes_.size()) + 1, name == "speed");
    names_.back()->setText(name);
    const auto line = [&](const QPen& pen) {
      auto* graph = plot_->addGraph(lane.rect->axis(QCPAxis::atBottom), lane.rect->axis(QCPAxis::atLeft));
      graph->setPen(pen);
      graph->setAdaptiveSampling(true);
      return graph;
    };
    QPen dashed(theme::compared, 1.4);
    dashed.setDashPattern({4, 3});
    lane.compared = line(dashed);
    lane.now = line(QPen(theme::ink, 1.6));
    lane.value = new QLabel(plot_);
    lane.value->setTextFormat(Qt::RichText);
    lane.value->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    lane.value->setFont(theme::numbers(13, QFont::DemiBold));
    lane.other = new QLabel(plot_);
    lane.other->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    lane.other->setFont(theme::numbers(11));
    lane.other->setStyleSheet("color: " + theme::compared.name() + "; background: transparent");
    lanes_.push_back(lane);
  }
  lanes_.back().rect->axis(QCPAxis::atBottom)->setTicker(QSharedPointer<SecondsTicker>::create());
  head_label_ = new QLabel(plot_);
  head_label_->setFont(theme::numbers(10, QFont::Medium));
  head_label_->setAlignment(Qt::AlignCenter);
  head_label_->setStyleSheet("color: " + theme::sheet.name() + "; background: " + theme::accent.name() +
                             "; border-radius: 3px;");
  head_label_->setFixedSize(54, 15);
  empty_ = new QLabel(plot_);
  empty_->setFont(theme::words(12));
  empty_->setStyleSheet("color: " + theme::faint_ink.name() + "; background: transparent");
  empty_->setAlignment(Qt::AlignCenter);
  full_ = new QLabel("this take is full: 512 MB; what came after is not recorded", plot_);
  full_->setFont(theme::words(11));
  full_->setStyleSheet("color: " + theme::accent.name() + "; background: transparent");
  full_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  full_->hide();

  // Drawing plots is dear; a dozen times a second is enough for the eye.
  redraw_.setInterval(80);
  connect(&redraw_, &QTimer::timeout, this, &TakesPage::catch_up);
  connect(&session_, &Session::chosen_changed, this, &TakesPage::restart);
  connect(&session_, &Session::opened, this, &TakesPage::restart);
  connect(&session_, &Session::takes_changed, this, [this] {
    show_list();
    restart();
  });
  connect(&session_, &Session::play_state_changed, this, [this] {
    if (session_.play_state() == Session::PlayState::playing)
      redraw_.start();
    else
      redraw_.stop();
    catch_up();
  });
  connect(&session_, &Session::refreshed, this, [this] {
    if (session_.play_state() == Session::PlayState::paused) catch_up();
  });
  connect(list_, &QListWidget::itemClicked, this,
          [this](QListWidgetItem* item) { session_.compare_take(item->data(Qt::UserRole).toInt()); });
  show_list();
  restart();
}

int TakesPage::points_in(const QString& lane) const {
  for (const Lane& each : lanes_)
    if (each.name == lane) return each.now->dataCount();
  return 0;
}

void TakesPage::show_list() {
  list_->clear();
  const auto& takes = session_.takes();
  for (auto take = takes.rbegin(); take != takes.rend(); ++take) {
    const bool newest = take == takes.rbegin();
    const bool compared = take->number == session_.compared_take();
    const QString mark = newest ? "━  " : compared ? "┅  " : "    ";
    QString text = mark + QString("take %1").arg(take->number);
    if (newest) text += session_.play_state() == Session::PlayState::editing ? "   newest" : "   now";
    if (compared) text += "   compared";
    if (!take->about.empty()) {
      QString about = QString::fromStdString(take->about);
      if (about.size() > 22) about = about.left(21) + "…";
      text += "\n      " + about;
    }
    auto* item = new QListWidgetItem(text, list_);
    item->setData(Qt::UserRole, newest ? 0 : take->number);
    item->setForeground(compared ? theme::compared : theme::ink);
    item->setToolTip(QString::fromStdString(take->about));
  }
}

void TakesPage::restart() {
  body_ = session_.chosen();
  plotted_ = 0;
  events_plotted_ = 0;
  span_ = 2;
  touches_->data()->clear();
  parts_->data()->clear();
  cracks_->data()->clear();
  cracks_plotted_ = 0;
  for (Lane& lane : lanes_) {
    lane.now->data()->clear();
    lane.low = 1e300;
    lane.high = -1e300;
  }
  fill_compared();
  catch_up();
}

void TakesPage::fill_compared() {
  for (Lane& lane : lanes_) {
    lane.compared->data()->clear();
    for (const KeptTake& kept : session_.takes()) {
      if (kept.number != session_.compared_take() || !kept.take) continue;
      for (std::int64_t i = 0; i < kept.take->ticks(); ++i) {
        const Sample* s = kept.take->at(body_, i);
        if (!s) continue;
        const double y = quantity(*s, lane.name);
        lane.compared->addData(static_cast<double>(i) / kept.take->tick_rate(), y);
        lane.low = std::min(lane.low, y);
        lane.high = std::max(lane.high, y);
      }
    }
  }
}

void TakesPage::catch_up() {
  double now = 0;
  bool any = false, full = false;
  session_.with_take([&](const Take& take) {
    any = take.knows(body_);
    full = take.full();
    const double rate = take.tick_rate();
    for (; any && plotted_ < take.ticks(); ++plotted_) {
      const Sample* s = take.at(body_, plotted_);  // null before it came and after it went
      for (Lane& lane : lanes_) {
        if (!s) continue;
        const double y = quantity(*s, lane.name);
        lane.now->addData(static_cast<double>(plotted_) / rate, y);
        lane.low = std::min(lane.low, y);
        lane.high = std::max(lane.high, y);
      }
    }
    for (; events_plotted_ < take.events().size(); ++events_plotted_) {
      const PlayEvent& event = take.events()[events_plotted_];
      if (event.a != body_ && event.b != body_) continue;
      auto* graph = event.phase == ContactPhase::touch ? touches_ : parts_;
      graph->addData(static_cast<double>(event.tick) / rate, event.phase == ContactPhase::touch ? 0.62 : 0.34);
    }
    for (; cracks_plotted_ < take.cracks().size(); ++cracks_plotted_) {
      const PlayCrack& crack = take.cracks()[cracks_plotted_];
      if (std::find(crack.parts.begin(), crack.parts.end(), body_) != crack.parts.end())
        cracks_->addData(static_cast<double>(crack.tick) / rate, 0.48);
    }
    now = static_cast<double>(take.ticks() - 1) / rate;
  });
  double longest = now;
  for (const KeptTake& kept : session_.takes())
    if (kept.number == session_.compared_take() && kept.take)
      longest = std::max(longest, static_cast<double>(kept.take->ticks()) / kept.take->tick_rate());
  while (span_ < longest * 1.02) span_ *= 1.5;

  empty_->setVisible(!any);
  empty_->setText(body_.empty()              ? "Choose a body on the stage to see how it moves."
                  : session_.takes().empty() ? "Press play (F5): height and speed of " + QString::fromStdString(body_) +
                                                   " are drawn here as they happen."
                                             : "This body was not there in this take.");
  full_->setVisible(full);
  events_rect_->axis(QCPAxis::atBottom)->setRange(0, span_);
  for (Lane& lane : lanes_) {
    lane.rect->axis(QCPAxis::atBottom)->setRange(0, span_);
    const double room = std::max(0.06 * (lane.high - lane.low), 0.05);
    if (lane.low <= lane.high) lane.rect->axis(QCPAxis::atLeft)->setRange(lane.low - room, lane.high + 2 * room);
    double value = 0;
    if (lane.now->dataCount() > 0) value = (lane.now->data()->constEnd() - 1)->value;
    lane.value->setText(any ? QString("%1 <span style='color:%2; font-weight:400; font-size:11px'>%3</span>")
                                  .arg(value, 0, 'f', 2)
                                  .arg(theme::faint_ink.name(), lane.unit)
                            : "");
    QString other;
    if (lane.compared->dataCount() > 0) {
      const auto at = lane.compared->data()->findBegin(now);
      if (at != lane.compared->data()->constEnd()) other = QString::number(at->value, 'f', 2);
    }
    lane.other->setText(other);
  }
  for (QCPItemStraightLine* head : heads_) {
    head->setVisible(any);
    head->point1->setCoords(now, 0);
    head->point2->setCoords(now, 1);
  }
  head_label_->setVisible(any);
  head_label_->setText(QString::number(now, 'f', 3));
  plot_->replot(QCustomPlot::rpQueuedReplot);
  place_labels();
}

void TakesPage::place_labels() {
  const auto beside = [&](QLabel* name, const QCPAxisRect* rect) {
    const QRect r = rect->rect();
    name->setGeometry(0, r.center().y() - 9, left_gap - 12, 18);
  };
  beside(names_[0], events_rect_);
  for (std::size_t i = 0; i < lanes_.size(); ++i) {
    const QRect r = lanes_[i].rect->rect();
    beside(names_[i + 1], lanes_[i].rect);
    lanes_[i].value->setGeometry(r.right() + 4, r.center().y() - 17, right_gap - 16, 18);
    lanes_[i].other->setGeometry(r.right() + 4, r.center().y() + 1, right_gap - 16 - 26, 16);
  }
  const double x = events_rect_->axis(QCPAxis::atBottom)->coordToPixel(heads_[0]->point1->key());
  head_label_->move(static_cast<int>(x) - head_label_->width() / 2, 0);
  empty_->setGeometry(lanes_[0].rect->rect());
  const QRect events = events_rect_->rect();
  full_->setGeometry(events.left(), events.top(), events.width() - 8, events.height());
}

void TakesPage::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  QTimer::singleShot(0, this, &TakesPage::catch_up);
}

}  // namespace bronvel
