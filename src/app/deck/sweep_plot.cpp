// Drawing and pointing at a sweep.
#include "app/deck/sweep_plot.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/kit/number_field.h"
#include "app/kit/ruling.h"
#include "app/kit/theme.h"
#include "app/session/session.h"

namespace bronvel {
namespace {

constexpr double left = 58, right = 16, top = 24, bottom = 46;

}  // namespace

SweepPlot::SweepPlot(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  setObjectName("sweep_plot");
  setMouseTracking(true);
  setMinimumSize(220, 120);
  connect(&session_.wishes(), &Wishes::changed, this, [this] {
    // Whole where the line is too short for it.
    setToolTip(session_.wishes().fault().isEmpty() ? session_.wishes().found_text() : session_.wishes().fault());
    update();
  });
  connect(&session_.wishes(), &Wishes::pointed_changed, this, qOverload<>(&QWidget::update));
}

QRectF SweepPlot::field() const {
  return QRectF(rect()).adjusted(left, top, -right, -bottom);
}

double SweepPlot::x_of(double value) const {
  const Wishes& wishes = session_.wishes();
  const QRectF box = field();
  return box.left() + box.width() * (value - wishes.from()) / (wishes.to() - wishes.from());
}

double SweepPlot::y_of(double measured, const Scale& scale) const {
  const QRectF box = field();
  return box.bottom() - box.height() * (measured - scale.low) / (scale.high - scale.low);
}

SweepPlot::Scale SweepPlot::scale() const {
  Wishes& wishes = session_.wishes();
  double low = 1e300, high = -1e300;
  const auto take = [&](double x) {
    if (std::isnan(x)) return;
    low = std::min(low, x);
    high = std::max(high, x);
  };
  for (const Wishes::Point& point : wishes.points()) take(point.measured);
  if (const auto chosen = wishes.chosen()) {
    const Wish& wish = session_.scene().checks[*chosen];
    if (wish.is != Wish::Is::never) take(wish.value);
  }
  if (low > high) return {0, 1};
  const double room = high > low ? 0.08 * (high - low) : std::max(0.1 * std::abs(high), 0.5);
  return {low - room, high + room};
}

QPointF SweepPlot::place_of_point(std::size_t point) const {
  const Wishes::Point& one = session_.wishes().points()[point];
  const Scale at = scale();
  return {x_of(one.value), std::isnan(one.measured) ? field().bottom() : y_of(one.measured, at)};
}

std::optional<std::size_t> SweepPlot::point_near(const QPointF& place) const {
  std::optional<std::size_t> nearest;
  double least = 14;  // px
  for (std::size_t i = 0; i < session_.wishes().points().size(); ++i) {
    const QPointF away = place_of_point(i) - place;
    // Along the scale it counts more than across it: the whole column belongs to the dot.
    const double distance = std::hypot(away.x(), 0.15 * away.y());
    if (distance < least) {
      least = distance;
      nearest = i;
    }
  }
  return nearest;
}

void SweepPlot::draw_ruler(QPainter& p) const {
  const Wishes& wishes = session_.wishes();
  const QRectF box = field();
  const double base = box.bottom() + 20, from = wishes.from(), to = wishes.to();
  p.setPen(QPen(theme::ink, 1));
  draw_ruling(p, from, to, base, [this](double value) { return x_of(value); });
  p.setFont(theme::numbers(9.5));
  constexpr double numbers = 6;
  const double step = division_of(to - from, numbers);
  for (auto i = static_cast<long>(std::ceil(from / step - 1e-9)); i <= static_cast<long>(std::floor(to / step + 1e-9));
       ++i) {
    const double value = static_cast<double>(i) * step;
    p.drawText(QRectF(x_of(value) - 40, base + 4, 80, 13), Qt::AlignHCenter, short_number(value));
  }
  const Matter* now = wishes.number_now();
  if (now && now->value >= from && now->value <= to) draw_hollow_pointer(p, x_of(now->value), base);
}

void SweepPlot::draw_wish(QPainter& p, const Scale& scale) const {
  const auto chosen = session_.wishes().chosen();
  if (!chosen) return;
  const Wish& wish = session_.scene().checks[*chosen];
  if (wish.is == Wish::Is::never) return;
  const QRectF box = field();
  const double y = y_of(wish.value, scale);
  p.setPen(QPen(theme::accent, 1.2, Qt::DashLine));
  p.drawLine(QPointF(box.left(), y), QPointF(box.right(), y));
  p.setFont(theme::numbers(10));
  p.setPen(theme::accent);
  const bool above = y > box.top() + 16;
  p.drawText(QPointF(box.left() + 6, above ? y - 4 : y + 12), "wish " + QString::fromStdString(wish_text(wish)));
}

void SweepPlot::draw_curve(QPainter& p, const Scale& scale) const {
  const Wishes& wishes = session_.wishes();
  const QRectF box = field();
  QPainterPath path;
  bool drawing = false;
  for (const Wishes::Point& point : wishes.points()) {
    if (std::isnan(point.measured)) {
      drawing = false;
      continue;
    }
    const QPointF at(x_of(point.value), y_of(point.measured, scale));
    if (drawing)
      path.lineTo(at);
    else
      path.moveTo(at);
    drawing = true;
  }
  p.setPen(QPen(theme::ink, 1.4));
  p.setBrush(Qt::NoBrush);
  p.drawPath(path);
  for (std::size_t i = 0; i < wishes.points().size(); ++i) {
    const Wishes::Point& point = wishes.points()[i];
    const QPointF at = place_of_point(i);
    const bool lit = wishes.pointed() == i;
    if (!point.fault.empty() || std::isnan(point.measured)) {
      // A cross on the base: a play that failed, or in which it never came about.
      p.setPen(QPen(point.fault.empty() ? theme::faint_ink : theme::accent, lit ? 2 : 1.3));
      const QPointF foot(at.x(), box.bottom() - 5);
      p.drawLine(foot - QPointF(3.5, 3.5), foot + QPointF(3.5, 3.5));
      p.drawLine(foot - QPointF(3.5, -3.5), foot + QPointF(3.5, -3.5));
      continue;
    }
    p.setPen(QPen(point.tried ? theme::accent : theme::ink, 1.2));
    p.setBrush(lit ? theme::accent : theme::sheet);
    p.drawEllipse(at, lit ? 4.5 : 3.2, lit ? 4.5 : 3.2);
  }
  if (wishes.found() && !wishes.found()->best.values.empty() && !std::isnan(wishes.found()->best.measured)) {
    const AimTry& best = wishes.found()->best;
    const QPointF at(x_of(best.values[0]), y_of(best.measured, scale));
    const double base = box.bottom() + 20;
    p.setPen(QPen(theme::accent, 1.4));
    p.drawLine(at, QPointF(at.x(), base - 8));
    QPainterPath pointer(QPointF(at.x(), base - 1));
    pointer.lineTo(at.x() - 5, base - 9);
    pointer.lineTo(at.x() + 5, base - 9);
    p.fillPath(pointer, theme::accent);
    p.setBrush(theme::accent);
    p.drawEllipse(at, 4.5, 4.5);
  }
}

QString SweepPlot::said() const {
  const Wishes& wishes = session_.wishes();
  if (session_.play_state() != Session::PlayState::editing) return "asked when the play is stopped";
  if (!wishes.fault().isEmpty()) return wishes.fault();
  const QString unit = wishes.measure() ? " " + QString::fromStdString(wishes.measure()->unit) : "";
  if (const auto pointed = wishes.pointed(); pointed && *pointed < wishes.points().size() && wishes.measure()) {
    const Wishes::Point& point = wishes.points()[*pointed];
    if (!point.fault.empty()) return QString::fromStdString(point.fault);
    return short_number(point.value) + " → " +
           QString::fromStdString(measured_text(*wishes.measure(), point.measured)) + unit;
  }
  if (wishes.found() && !wishes.found()->reached) return "no value here meets it; the nearest is marked";
  if (wishes.found() && wishes.found()->sensitivity != 0) {
    const double little = std::pow(10, std::floor(std::log10(wishes.to() - wishes.from())) - 2);
    return short_number(little) + " more moves it by " + short_number(little * wishes.found()->sensitivity) + unit;
  }
  return wishes.plays() > 0 ? QString("%1 plays in %2 s").arg(wishes.plays()).arg(wishes.seconds(), 0, 'f', 1) : "";
}

void SweepPlot::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  Wishes& wishes = session_.wishes();
  const QRectF box = field();
  const auto chosen = wishes.chosen();
  if (!chosen) {
    p.setPen(theme::faint_ink);
    p.setFont(theme::words(12));
    p.drawText(rect(), Qt::AlignCenter | Qt::TextWordWrap,
               "Say what a body shall do, and every value of a number is played to show what it makes of that.");
    return;
  }
  const Scale at = scale();
  const QString unit = wishes.measure() ? QString::fromStdString(wishes.measure()->unit) : "";
  p.setFont(theme::words(11));
  p.setPen(theme::faint_ink);
  const QString title =
      wishes.measure() ? QString::fromStdString(measure_words(*wishes.measure())) + (unit.isEmpty() ? "" : ", " + unit)
                       : QString();
  p.drawText(QRectF(16, 4, width() - 16 - right, 16), Qt::AlignLeft, title);
  p.setPen(QPen(theme::grid, 1));
  p.setBrush(theme::sheet);
  p.drawRoundedRect(box, 3, 3);
  const double step = division_of(at.high - at.low, std::max(2.0, box.height() / 26));
  p.setFont(theme::numbers(9.5));
  const auto first = static_cast<long>(std::ceil(at.low / step)), last = static_cast<long>(std::floor(at.high / step));
  for (long i = first; i <= last; ++i) {
    const double y = static_cast<double>(i) * step;
    p.setPen(QPen(theme::grid, 1));
    p.drawLine(QPointF(box.left(), y_of(y, at)), QPointF(box.right(), y_of(y, at)));
    p.setPen(theme::faint_ink);
    p.drawText(QRectF(0, y_of(y, at) - 7, left - 8, 14), Qt::AlignRight | Qt::AlignVCenter, short_number(y));
  }
  if (!wishes.current()) p.setOpacity(0.4);
  draw_ruler(p);
  draw_wish(p, at);
  draw_curve(p, at);
  p.setPen(theme::faint_ink);
  p.setFont(theme::numbers(10.5));
  const double begin = 24 + p.fontMetrics().horizontalAdvance(title);
  p.drawText(QRectF(begin, 4, width() - right - begin, 16), Qt::AlignRight,
             p.fontMetrics().elidedText(said(), Qt::ElideRight, static_cast<int>(width() - right - begin)));
}

void SweepPlot::mouseMoveEvent(QMouseEvent* event) {
  const auto near = point_near(event->position());
  setCursor(near ? Qt::PointingHandCursor : Qt::ArrowCursor);
  session_.wishes().point_at(near);
}

void SweepPlot::mouseReleaseEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  if (const auto near = point_near(event->position())) session_.wishes().make_take(*near);
}

void SweepPlot::leaveEvent(QEvent*) {
  session_.wishes().point_at(std::nullopt);
}

}  // namespace bronvel
