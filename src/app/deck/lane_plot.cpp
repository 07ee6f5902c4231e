// Plotting lanes.
#include "app/deck/lane_plot.h"

#include <QMimeData>
#include <cmath>
#include <utility>

#include "app/kit/lane_drag.h"
#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "geometry/base/error.h"

namespace bronvel {
namespace {

constexpr int left_gap = 96, right_gap = 150;
constexpr int events_height = 34, least_lane = 34, foot = 20;
constexpr double touch_row = 0.66, part_row = 0.3, other_row = 0.1, crack_row = 0.48, stop_row = 0.84;

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
  axis->grid()->setPen(QPen(theme::grid, 1));
  axis->grid()->setZeroLinePen(Qt::NoPen);
}

QLabel* label_on(QWidget* parent, const QFont& font, const QColor& colour, Qt::Alignment alignment) {
  auto* label = new QLabel(parent);
  label->setFont(font);
  label->setStyleSheet("color: " + colour.name() + "; background: transparent");
  label->setAlignment(alignment);
  label->setAttribute(Qt::WA_TransparentForMouseEvents);
  label->show();
  return label;
}

}  // namespace

LanePlot::LanePlot(Session& session, QWidget* parent) : QCustomPlot(parent), session_(session) {
  setObjectName("lanes");
  setBackground(QBrush(theme::paper));
  setNoAntialiasingOnDrag(true);
  // Put on the screen together with the stage: each time by itself, the whole window is put together anew.
  setPlottingHint(QCP::phImmediateRefresh, false);
  setFocusPolicy(Qt::StrongFocus);
  setAcceptDrops(true);
  setMouseTracking(true);
  head_label_ = label_on(this, theme::numbers(10, QFont::Medium), theme::sheet, Qt::AlignCenter);
  head_label_->setStyleSheet("color: " + theme::sheet.name() + "; background: " + theme::accent.name() +
                             "; border-radius: 3px;");
  head_label_->setFixedSize(54, 15);
  empty_ = label_on(this, theme::words(12), theme::faint_ink, Qt::AlignCenter);
  empty_->setWordWrap(true);
  full_ = label_on(this, theme::words(11), theme::accent, Qt::AlignRight | Qt::AlignVCenter);
  full_->setText("the memory for takes is used up; what came after is not recorded");
  full_->hide();
  // Drawing plots is dear; a dozen times a second is enough for the eye.
  redraw_.setInterval(80);
  connect(&redraw_, &QTimer::timeout, this, &LanePlot::catch_up);
  connect(&session_, &Session::chosen_changed, this, &LanePlot::restart);
  connect(&session_, &Session::opened, this, [this] {
    marked_.reset();
    fitted_ = true;
    restart();
  });
  connect(&session_, &Session::takes_changed, this, &LanePlot::restart);
  connect(&session_, &Session::document_changed, this, [this] {
    if (session_.lanes() != built_for_) restart();
  });
  const auto keep_drawing = [this] {
    if (session_.play_state() == Session::PlayState::playing || session_.asking())
      redraw_.start();
    else
      redraw_.stop();
    catch_up();
  };
  connect(&session_, &Session::play_state_changed, this, keep_drawing);
  connect(&session_, &Session::asked_changed, this, keep_drawing);
  connect(&session_, &Session::head_moved, this, &LanePlot::catch_up);
  // Numbers and play head are of the moment that all of the bench shows; only drawing the curves has a pace of its own.
  connect(&session_, &Session::refreshed, this, [this] {
    if (session_.play_state() == Session::PlayState::playing)
      show_moment();
    else
      catch_up();
  });
  connect(this, &QCustomPlot::afterReplot, this, &LanePlot::place_labels);
  restart();
}

int LanePlot::points_in(const QString& lane) const {
  for (const Lane& each : lanes_)
    if (each.name == lane) return each.now->dataCount();
  return 0;
}
QString LanePlot::value_of(const QString& lane) const {
  for (const Lane& each : lanes_)
    if (each.name == lane) return each.value->text();
  return {};
}
QString LanePlot::other_of(const QString& lane) const {
  for (const Lane& each : lanes_)
    if (each.name == lane) return each.other->text();
  return {};
}
QString LanePlot::mark_of(const QString& lane) const {
  for (const Lane& each : lanes_)
    if (each.name == lane) return each.mark->text();
  return {};
}

double LanePlot::pixel_of_time(double seconds) const {
  return events_rect_->axis(QCPAxis::atBottom)->coordToPixel(seconds);
}

// ---- building

QCPAxisRect* LanePlot::add_rect(int at, bool last) {
  auto* rect = new QCPAxisRect(this);
  plotLayout()->addElement(at, 0, rect);
  rect->setAutoMargins(QCP::msNone);
  rect->setMargins(QMargins(left_gap, at == 0 ? 8 : 0, right_gap, last ? foot : 0));
  style_axis(rect->axis(QCPAxis::atBottom), last);
  style_axis(rect->axis(QCPAxis::atLeft), false);
  rect->axis(QCPAxis::atLeft)->grid()->setVisible(false);
  rect->setupFullAxesBox();
  for (const auto side : {QCPAxis::atTop, QCPAxis::atRight}) {
    rect->axis(side)->setBasePen(QPen(theme::rule));
    rect->axis(side)->setTicks(false);
    rect->axis(side)->setTickLabels(false);
  }
  const auto within = [&](std::initializer_list<QCPItemPosition*> positions) {
    for (QCPItemPosition* p : positions) {
      p->setAxisRect(rect);
      p->setAxes(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
    }
  };
  auto* mark = new QCPItemRect(this);
  within({mark->topLeft, mark->bottomRight});
  mark->topLeft->setTypeY(QCPItemPosition::ptAxisRectRatio);
  mark->bottomRight->setTypeY(QCPItemPosition::ptAxisRectRatio);
  mark->setClipAxisRect(rect);
  mark->setPen(Qt::NoPen);
  QColor marked = theme::marked;
  marked.setAlpha(140);
  mark->setBrush(marked);
  mark->setVisible(false);
  marks_.push_back(mark);
  auto* head = new QCPItemStraightLine(this);
  within({head->point1, head->point2});
  head->setClipAxisRect(rect);
  head->setPen(QPen(theme::accent, 1.4));
  heads_.push_back(head);
  if (last) rect->axis(QCPAxis::atBottom)->setTicker(QSharedPointer<SecondsTicker>::create());
  return rect;
}

void LanePlot::build() {
  built_for_ = session_.lanes();
  for (Lane& lane : lanes_)
    for (QLabel* label : {lane.title, lane.value, lane.other, lane.mark, lane.top, lane.bottom}) delete label;
  delete events_title_;
  lanes_.clear();
  heads_.clear();
  marks_.clear();
  stop_lines_.clear();
  clearPlottables();
  clearItems();
  plotLayout()->clear();
  plotLayout()->setRowSpacing(0);
  const auto count = static_cast<int>(built_for_.size());
  events_rect_ = add_rect(0, count == 0);
  events_rect_->setMinimumSize(10, 30);
  events_rect_->setMaximumSize(QWIDGETSIZE_MAX, events_height);
  events_rect_->axis(QCPAxis::atLeft)->setRange(0, 1);
  events_title_ = label_on(this, theme::words(11), theme::faint_ink, Qt::AlignRight | Qt::AlignVCenter);
  events_title_->setText("events");
  const auto marks = [&](QCPScatterStyle::ScatterShape shape, const QColor& pen, const QBrush& fill) {
    auto* graph = addGraph(events_rect_->axis(QCPAxis::atBottom), events_rect_->axis(QCPAxis::atLeft));
    graph->setLineStyle(QCPGraph::lsNone);
    graph->setScatterStyle(QCPScatterStyle(shape, QPen(pen, 1.2), fill, 8));
    return graph;
  };
  other_touches_ = marks(QCPScatterStyle::ssTriangle, theme::compared, QBrush(theme::paper));
  parts_ = marks(QCPScatterStyle::ssTriangleInverted, theme::ink, QBrush(theme::paper));
  touches_ = marks(QCPScatterStyle::ssTriangle, theme::ink, QBrush(theme::ink));
  cracks_ = marks(QCPScatterStyle::ssCross, theme::accent, Qt::NoBrush);
  stops_ = marks(QCPScatterStyle::ssCrossSquare, theme::accent, QBrush(theme::paper));
  int at = 0;
  for (const std::string& name : built_for_) {
    Lane lane;
    lane.name = QString::fromStdString(name);
    ++at;
    lane.rect = add_rect(at, at == count);
    const auto line = [&](const QPen& pen) {
      auto* graph = addGraph(lane.rect->axis(QCPAxis::atBottom), lane.rect->axis(QCPAxis::atLeft));
      graph->setPen(pen);
      graph->setAdaptiveSampling(true);
      return graph;
    };
    QPen dashed(theme::compared, 1.4);
    dashed.setDashPattern({4, 3});
    lane.compared = line(dashed);
    lane.now = line(QPen(theme::ink, 1.6));
    lane.title = label_on(this, theme::words(11), theme::faint_ink, Qt::AlignRight | Qt::AlignVCenter);
    lane.title->setWordWrap(true);
    lane.value = label_on(this, theme::numbers(13, QFont::DemiBold), theme::ink, Qt::AlignRight | Qt::AlignVCenter);
    lane.value->setTextFormat(Qt::RichText);
    lane.other = label_on(this, theme::numbers(11), theme::compared, Qt::AlignRight | Qt::AlignVCenter);
    lane.mark = label_on(this, theme::numbers(10), theme::faint_ink.darker(120), Qt::AlignLeft | Qt::AlignBottom);
    lane.top = label_on(this, theme::numbers(9.5), theme::faint_ink, Qt::AlignLeft | Qt::AlignTop);
    lane.bottom = label_on(this, theme::numbers(9.5), theme::faint_ink, Qt::AlignLeft | Qt::AlignBottom);
    lanes_.push_back(lane);
  }
  head_label_->raise();
  empty_->raise();
  // Last: where it grows by this, it draws at once what stands here.
  setMinimumHeight(events_height + foot + least_lane * std::max(count, 2));
}

void LanePlot::restart() {
  if (session_.lanes() != built_for_ || !events_rect_) build();
  body_ = session_.chosen();
  plotted_ = 0;
  events_plotted_ = cracks_plotted_ = log_plotted_ = 0;
  for (QCPGraph* graph : {touches_, parts_, cracks_, stops_, other_touches_}) graph->data()->clear();
  for (QCPItemLine* line : stop_lines_) removeItem(line);
  stop_lines_.clear();
  for (Lane& lane : lanes_) {
    lane.now->data()->clear();
    lane.low = 1e300;
    lane.high = -1e300;
    lane.channel.reset();
    const std::string name = lane.name.toStdString();
    const bool of_chosen = name.find('.') == std::string::npos;
    lane.title->setText(lane.name);
    lane.fault.clear();
    if (of_chosen && body_.empty()) {
      lane.fault = "no body is chosen";
      continue;
    }
    try {
      ChannelOwners owners = ChannelOwners::of(session_.scene());
      const std::string channel = of_chosen ? body_ + "." + name : name;
      bool told = false;
      session_.with_take([&](const Take& take, TakeReader&) {
        told = true;
        lane.channel = channel_called(channel, take.owners());
      });
      if (!told) lane.channel = channel_called(channel, owners);
    } catch (const Error&) {
      lane.fault = of_chosen ? "it was not there in this take" : "there is no " + lane.name + " in this take";
    }
    if (lane.channel) lane.unit = QString::fromStdString(lane.channel->unit);
  }
  fill_compared();
  catch_up();
}

// ---- data

void LanePlot::load(QCPGraph* graph, Lane& lane, const Take& take, TakeReader& reader, std::int64_t from,
                    std::int64_t to) {
  if (!lane.channel) return;
  std::vector<double> values;
  reader.numbers(take, *lane.channel, lane.channel->components.front(), from, to, values);
  QVector<QCPGraphData> points;
  points.reserve(static_cast<int>(values.size()));
  const double rate = take.tick_rate();
  bool gap = graph->dataCount() == 0;
  for (std::size_t i = 0; i < values.size(); ++i) {
    const double y = values[i];
    if (!std::isfinite(y)) {
      if (!gap)
        points.push_back({static_cast<double>(from + static_cast<std::int64_t>(i)) / rate, y});  // ends the line
      gap = true;
      continue;
    }
    gap = false;
    points.push_back({static_cast<double>(from + static_cast<std::int64_t>(i)) / rate, y});
    lane.low = std::min(lane.low, y);
    lane.high = std::max(lane.high, y);
  }
  graph->data()->add(points, true);
}

void LanePlot::fill_compared() {
  for (Lane& lane : lanes_) lane.compared->data()->clear();
  session_.with_compared([&](const Take& take, TakeReader& reader) {
    other_rate_ = take.tick_rate();
    for (Lane& lane : lanes_) load(lane.compared, lane, take, reader, 0, take.ticks);
    for (const PlayEvent& event : take.events)
      if (event.phase == ContactPhase::touch && (event.a == body_ || event.b == body_))
        other_touches_->addData(static_cast<double>(event.tick) / take.tick_rate(), other_row);
  });
}

// Takes over what was recorded since the last time, a stretch at a time: who records waits for no more than one.
LanePlot::Read LanePlot::read_on() {
  constexpr std::int64_t ticks_at_once = 8192;
  Read read;
  bool more = true;
  while (std::exchange(more, false))
    session_.with_take([&](const Take& take, TakeReader& reader) {
      read.any = true;
      read.full = take.full;
      read.knows = take.body_of.contains(body_);
      rate_ = take.tick_rate();
      read.ticks = take.ticks;
      const std::int64_t to = std::min(take.ticks, plotted_ + ticks_at_once);
      for (Lane& lane : lanes_) {
        read.came = read.came || (!lane.channel && read.knows && !lane.fault.startsWith("there"));
        load(lane.now, lane, take, reader, plotted_, to);
      }
      plotted_ = to;
      more = to < take.ticks;
      for (; events_plotted_ < take.events.size(); ++events_plotted_) {
        const PlayEvent& event = take.events[events_plotted_];
        if (event.a != body_ && event.b != body_) continue;
        const bool touch = event.phase == ContactPhase::touch;
        (touch ? touches_ : parts_)->addData(static_cast<double>(event.tick) / rate_, touch ? touch_row : part_row);
      }
      for (; cracks_plotted_ < take.cracks.size(); ++cracks_plotted_) {
        const PlayCrack& crack = take.cracks[cracks_plotted_];
        if (std::find(crack.parts.begin(), crack.parts.end(), body_) != crack.parts.end())
          cracks_->addData(static_cast<double>(crack.tick) / rate_, crack_row);
      }
      for (; log_plotted_ < take.log.size(); ++log_plotted_) {
        const LogLine& line = take.log[log_plotted_];
        if (line.level == LogLevel::error && !line.script.empty())
          read.stopped.push_back(static_cast<double>(line.tick) / rate_);
      }
    });
  for (const double seconds : read.stopped) add_stop(seconds);
  return read;
}

void LanePlot::catch_up() {
  const auto [any, full, knows, came, ticks, stopped] = read_on();
  if (came) {  // a body that came while it plays
    restart();
    return;
  }
  length_ = static_cast<double>(std::max<std::int64_t>(ticks - 1, 0)) / rate_;
  double longest = length_;
  session_.with_compared([&](const Take& take, TakeReader&) { longest = std::max(longest, take.seconds()); });
  if (fitted_) {
    from_ = 0;
    const bool grows = session_.play_state() != Session::PlayState::editing;
    if (!grows)
      to_ = longest > 0 ? std::max(longest, 0.1) : 2;
    else if (to_ < longest * 1.02 || to_ > 4 * std::max(longest, 0.6))
      for (to_ = 2; to_ < longest * 1.02;) to_ *= 1.5;
  }
  empty_->setText(body_.empty() ? "Choose a body on the stage to see how it moves."
                  : !any        ? "Press play (F5): the lanes of " + QString::fromStdString(body_) +
                               " are drawn here as it moves, and can be gone back in."
                         : "This body was not there in this take.");
  const bool nothing = std::all_of(lanes_.begin(), lanes_.end(), [](const Lane& lane) {
    return lane.now->dataCount() == 0 && lane.compared->dataCount() == 0;
  });
  empty_->setVisible(nothing);
  full_->setVisible(full);
  show_range();
  show_mark();
  show_numbers();
  replot(QCustomPlot::rpQueuedReplot);
  place_labels();
}

std::vector<double> LanePlot::stops() const {
  std::vector<double> all;
  for (const QCPGraphData& each : *stops_->data()) all.push_back(each.key);
  return all;
}

// From there on the curves are those of a play without that script.
void LanePlot::add_stop(double seconds) {
  const bool known = std::any_of(stops_->data()->constBegin(), stops_->data()->constEnd(),
                                 [&](const QCPGraphData& each) { return each.key == seconds; });
  if (known) return;
  stops_->addData(seconds, stop_row);
  constexpr std::size_t most_lines = 200;  // of all lanes
  for (const Lane& lane : lanes_) {
    if (stop_lines_.size() >= most_lines) return;
    auto* line = new QCPItemLine(this);
    for (QCPItemPosition* end : {line->start, line->end}) {
      end->setAxisRect(lane.rect);
      end->setAxes(lane.rect->axis(QCPAxis::atBottom), lane.rect->axis(QCPAxis::atLeft));
      end->setTypeY(QCPItemPosition::ptAxisRectRatio);
    }
    line->start->setCoords(seconds, 0);
    line->end->setCoords(seconds, 1);
    line->setClipAxisRect(lane.rect);
    line->setPen(QPen(theme::accent, 1, Qt::DotLine));
    stop_lines_.push_back(line);
  }
}

double LanePlot::head_time() const {
  // The moment that all of the bench shows: of the take that is gone back in, of the play, or the start.
  if (const auto head = session_.head()) return static_cast<double>(*head) / rate_;
  return session_.time();
}

void LanePlot::show_moment() {
  if (isHidden()) return;
  read_on();
  show_numbers();
  place_labels();
}

void LanePlot::show_range() {
  events_rect_->axis(QCPAxis::atBottom)->setRange(from_, to_);
  for (Lane& lane : lanes_) {
    lane.rect->axis(QCPAxis::atBottom)->setRange(from_, to_);
    const double room = std::max({0.08 * (lane.high - lane.low), 1e-3 * std::abs(lane.high), 1e-6});
    if (lane.low <= lane.high) lane.rect->axis(QCPAxis::atLeft)->setRange(lane.low - room, lane.high + room);
    const bool numbers = lane.low <= lane.high;
    lane.top->setText(numbers ? lane_number(lane.high, lane.high - lane.low) : "");
    lane.bottom->setText(numbers && lane.high > lane.low ? lane_number(lane.low, lane.high - lane.low) : "");
  }
}

void LanePlot::show_numbers() {
  const double now = head_time();
  const bool any = session_.shown_take() != nullptr;
  const auto at = [&](QCPGraph* graph, double rate) {
    const double half_tick = 0.5 / rate;
    const auto found = graph->data()->findBegin(now - half_tick, false);
    const bool there = found != graph->data()->constEnd() && std::abs(found->key - now) <= 1.01 * half_tick;
    return there ? found->value : std::nan("");
  };
  for (Lane& lane : lanes_) {
    const double span = lane.high - lane.low;
    const double value = at(lane.now, rate_);
    const double other = lane.compared->dataCount() > 0 ? at(lane.compared, other_rate_) : std::nan("");
    lane.value->setText(lane.fault.isEmpty() && any && lane.now->dataCount() > 0
                            ? QString("%1 <span style='color:%2; font-weight:400; font-size:11px'>%3</span>")
                                  .arg(lane_number(value, span), theme::faint_ink.name(), lane.unit)
                            : "");
    QString text;
    if (std::isfinite(other)) {
      text = lane_number(other, span);
      const double apart = value - other;
      if (std::isfinite(value)) text += QString("  %1%2").arg(apart < 0 ? "" : "+", lane_number(apart, span));
    }
    lane.other->setText(lane.fault.isEmpty() ? text : "");
    lane.title->setToolTip(lane.fault);
  }
  for (QCPItemStraightLine* head : heads_) {
    head->setVisible(any);
    head->point1->setCoords(now, 0);
    head->point2->setCoords(now, 1);
  }
  head_label_->setVisible(any && now >= from_ && now <= to_);
  head_label_->setText(QString::number(now, 'f', 3));
}

void LanePlot::show_mark() {
  for (QCPItemRect* mark : marks_) {
    mark->setVisible(marked_.has_value());
    if (!marked_) continue;
    mark->topLeft->setCoords(std::min(marked_->first, marked_->second), 0);
    mark->bottomRight->setCoords(std::max(marked_->first, marked_->second), 1);
  }
  for (Lane& lane : lanes_) {
    QString text;
    if (marked_) {
      const double low = std::min(marked_->first, marked_->second), high = std::max(marked_->first, marked_->second);
      double least = 1e300, most = -1e300, sum = 0, first = 0, last = 0, first_time = 0, last_time = 0;
      int count = 0;
      for (auto at = lane.now->data()->findBegin(low, false); at != lane.now->data()->constEnd() && at->key <= high;
           ++at) {
        if (!std::isfinite(at->value)) continue;
        if (count == 0) first = at->value, first_time = at->key;
        last = at->value, last_time = at->key;
        least = std::min(least, at->value);
        most = std::max(most, at->value);
        sum += at->value;
        ++count;
      }
      const double span = lane.high - lane.low;
      if (count > 1)
        text = QString("%1–%2 s: %3 … %4, mean %5, difference %6, %7 /s")
                   .arg(low, 0, 'f', 2)
                   .arg(high, 0, 'f', 2)
                   .arg(lane_number(least, span), lane_number(most, span), lane_number(sum / count, span),
                        lane_number(last - first, span),
                        lane_number(last_time > first_time ? (last - first) / (last_time - first_time) : 0, 0));
    }
    lane.mark->setText(text);
  }
}

void LanePlot::place_labels() {
  const auto beside = [&](QLabel* name, const QCPAxisRect* rect) {
    const QRect r = rect->rect();
    name->setGeometry(0, r.top(), left_gap - 10, r.height());
  };
  beside(events_title_, events_rect_);
  for (Lane& lane : lanes_) {
    const QRect r = lane.rect->rect();
    beside(lane.title, lane.rect);
    lane.top->setGeometry(r.right() + 4, r.top() + 1, 46, 12);
    lane.bottom->setGeometry(r.right() + 4, r.bottom() - 12, 46, 12);
    lane.value->setGeometry(r.right() + 44, r.center().y() - 16, right_gap - 52, 17);
    lane.other->setGeometry(r.right() + 30, r.center().y() + 2, right_gap - 38, 14);
    lane.mark->setGeometry(r.left() + 6, r.bottom() - 14, r.width() - 12, 13);
  }
  const double x = pixel_of_time(head_time());
  head_label_->move(static_cast<int>(x) - head_label_->width() / 2, 0);
  if (!lanes_.empty()) empty_->setGeometry(lanes_[0].rect->rect().adjusted(20, 0, -20, 0));
  const QRect events = events_rect_->rect();
  full_->setGeometry(events.left(), events.top(), events.width() - 8, events.height());
}

// ---- mouse and keys

double LanePlot::time_at(double x) const {
  return events_rect_->axis(QCPAxis::atBottom)->pixelToCoord(x);
}

LanePlot::Lane* LanePlot::lane_at(double y) {
  for (Lane& lane : lanes_) {
    const QRect r = lane.rect->rect();
    if (y >= r.top() && y <= r.bottom()) return &lane;
  }
  return nullptr;
}

void LanePlot::go_to(double x) {
  if (!session_.shown_take()) return;
  session_.look_at_tick(std::llround(std::clamp(time_at(x), 0.0, length_) * rate_));
}

std::optional<std::size_t> LanePlot::event_at(const QPointF& pixel) {
  if (!events_rect_->rect().contains(pixel.toPoint())) return std::nullopt;
  constexpr double near = 6;  // pixels
  std::optional<std::size_t> found;
  session_.with_take([&](const Take& take, TakeReader&) {
    double best = near;
    for (std::size_t i = 0; i < take.events.size(); ++i) {
      const PlayEvent& event = take.events[i];
      if (event.phase != ContactPhase::touch || (event.a != body_ && event.b != body_)) continue;
      const double away = std::abs(pixel_of_time(static_cast<double>(event.tick) / take.tick_rate()) - pixel.x());
      if (away >= best) continue;
      best = away;
      found = i;
    }
  });
  return found;
}

void LanePlot::mousePressEvent(QMouseEvent* event) {
  setFocus();
  pressed_ = event->position();
  seen_at_press_ = {from_, to_};
  if (event->button() == Qt::MiddleButton) {
    drag_ = Drag::along;
    return;
  }
  if (event->button() != Qt::LeftButton) return;
  if ((event->modifiers() & Qt::ShiftModifier) != 0) {
    drag_ = Drag::mark;
    marked_ = {time_at(pressed_.x()), time_at(pressed_.x())};
    return;
  }
  if (const auto hit = event_at(pressed_)) {
    std::int64_t tick = 0;
    session_.with_take([&](const Take& take, TakeReader&) { tick = take.events[*hit].tick; });
    session_.look_at_tick(tick);
    emit hit_asked(*hit);
    return;
  }
  if (pressed_.x() < left_gap - 4) return;
  drag_ = Drag::head;
  go_to(pressed_.x());
}

void LanePlot::mouseMoveEvent(QMouseEvent* event) {
  const double x = event->position().x();
  switch (drag_) {
    case Drag::none:
      setCursor(event_at(event->position()) ? Qt::PointingHandCursor : Qt::ArrowCursor);
      return;
    case Drag::head:
      go_to(x);
      return;
    case Drag::mark:
      marked_->second = std::clamp(time_at(x), 0.0, std::max(length_, 0.0));
      catch_up();
      return;
    case Drag::along: {
      const double width = events_rect_->rect().width();
      const double by = (pressed_.x() - x) / std::max(width, 1.0) * (seen_at_press_.second - seen_at_press_.first);
      fitted_ = false;
      from_ = seen_at_press_.first + by;
      to_ = seen_at_press_.second + by;
      catch_up();
      return;
    }
  }
}

void LanePlot::mouseReleaseEvent(QMouseEvent* event) {
  if (drag_ == Drag::mark) {
    if (std::abs(event->position().x() - pressed_.x()) < 4) marked_.reset();
    emit stretch_marked();
  }
  drag_ = Drag::none;
  catch_up();
}

void LanePlot::mouseDoubleClickEvent(QMouseEvent*) {
  fitted_ = true;
  catch_up();
}

void LanePlot::wheelEvent(QWheelEvent* event) {
  if ((event->modifiers() & Qt::ControlModifier) == 0 && event->angleDelta().x() != 0) {
    const double by = -event->angleDelta().x() / 1200.0 * (to_ - from_);
    fitted_ = false;
    from_ += by;
    to_ += by;
  } else {
    const double about = time_at(event->position().x());
    const double share = std::pow(1.0015, -event->angleDelta().y());
    constexpr double least = 0.02;
    if ((to_ - from_) * share < least) return event->accept();
    fitted_ = false;
    from_ = about + (from_ - about) * share;
    to_ = about + (to_ - about) * share;
    if (from_ <= 0 && to_ >= length_) fitted_ = true;
  }
  catch_up();
  event->accept();
}

void LanePlot::keyPressEvent(QKeyEvent* event) {
  constexpr std::int64_t far = std::int64_t{1} << 40;
  const std::int64_t step = (event->modifiers() & Qt::ShiftModifier) != 0 ? 10 : 1;
  switch (event->key()) {
    case Qt::Key_Left:
      session_.step_head(-step);
      break;
    case Qt::Key_Right:
      session_.step_head(step);
      break;
    case Qt::Key_Home:
      session_.look_at_tick(0);
      break;
    case Qt::Key_End:
      session_.look_at_tick(far);
      break;
    case Qt::Key_Escape:
      if (marked_) {
        marked_.reset();
        emit stretch_marked();
      } else {
        session_.live();
      }
      catch_up();
      break;
    default:
      QCustomPlot::keyPressEvent(event);
  }
}

void LanePlot::resizeEvent(QResizeEvent* event) {
  QCustomPlot::resizeEvent(event);
  QTimer::singleShot(0, this, &LanePlot::catch_up);
}

void LanePlot::contextMenuEvent(QContextMenuEvent* event) {
  if (const Lane* lane = lane_at(event->pos().y())) emit lane_menu_asked(lane->name, event->globalPos());
}

void LanePlot::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasFormat(lane_mime)) event->acceptProposedAction();
}

void LanePlot::dropEvent(QDropEvent* event) {
  session_.add_lane(QString::fromUtf8(event->mimeData()->data(lane_mime)));
  event->acceptProposedAction();
}

}  // namespace bronvel
