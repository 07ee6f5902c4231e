// Drawing and pointing at a sweep.
#include "app/deck/sweep_plot.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "app/session/session.h"

namespace bronvel {
namespace {

constexpr double left = 58, right = 16, top = 24, bottom = 46;

// A ruling of ones, twos or fives, about so many divisions long.
double division(double span, double about) {
  const double rough = span / about;
  if (!(rough > 0) || !std::isfinite(rough)) return 1;
  const double decade = std::pow(10.0, std::floor(std::log10(rough)));
  for (const double m : {1.0, 2.0, 5.0})
    if (rough <= m * decade) return m * decade;
  return 10 * decade;
}

}  // namespace

SweepPlot::SweepPlot(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  setObjectName("sweep_plot");
  setMouseTracking(true);
  setMinimumSize(300, 140);
  connect(&session_.wishes(), &Wishes::changed, this, qOverload<>(&QWidget::update));
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
  const double base = box.bottom() + 20, step = division(wishes.to() - wishes.from(), 40);
  p.setPen(QPen(theme::ink, 1));
  p.drawLine(QPointF(box.left(), base), QPointF(box.right(), base));
  const auto first = static_cast<long>(std::ceil(wishes.from() / step - 1e-9));
  const auto last = static_cast<long>(std::floor(wishes.to() / step + 1e-9));
  p.setFont(theme::numbers(9.5));
  for (long i = first; i <= last; ++i) {
    const double value = static_cast<double>(i) * step, x = std::round(x_of(value)) + 0.5;
    p.setPen(QPen(theme::faint_ink, 1));
    p.drawLine(QPointF(x, base), QPointF(x, base - (i % 10 == 0 ? 8 : i % 5 == 0 ? 6 : 3.5)));
    if (i % 10 != 0) continue;
    p.drawText(QRectF(x - 40, base + 4, 80, 13), Qt::AlignHCenter, short_number(value));
  }
  const Matter* now = wishes.number_now();
  if (!now) return;
  if (now->value >= wishes.from() && now->value <= wishes.to()) {
    const double x = x_of(now->value);
    QPainterPath hollow(QPointF(x, base + 1.5));
    hollow.lineTo(x - 4, base + 9);
    hollow.lineTo(x + 4, base + 9);
    hollow.closeSubpath();
    p.setPen(QPen(theme::compared, 1.2));
    p.setBrush(Qt::NoBrush);
    p.drawPath(hollow);
  }
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
  if (wishes.measure())
    p.drawText(QRectF(16, 4, 0.6 * width(), 16), Qt::AlignLeft,
               QString::fromStdString(measure_words(*wishes.measure())) + (unit.isEmpty() ? "" : ", " + unit));
  p.setPen(QPen(theme::grid, 1));
  p.setBrush(theme::sheet);
  p.drawRoundedRect(box, 3, 3);
  const double step = division(at.high - at.low, std::max(2.0, box.height() / 26));
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
  QString said;
  if (const auto pointed = wishes.pointed(); pointed && *pointed < wishes.points().size() && wishes.measure()) {
    const Wishes::Point& point = wishes.points()[*pointed];
    said = point.fault.empty()
               ? short_number(point.value) + " → " +
                     QString::fromStdString(measured_text(*wishes.measure(), point.measured)) + " " + unit
               : QString::fromStdString(point.fault);
  } else if (!wishes.found_text().isEmpty() && wishes.found()->sensitivity != 0 && wishes.found()->reached) {
    const double little = std::pow(10, std::floor(std::log10(wishes.to() - wishes.from())) - 2);
    said =
        short_number(little) + " more moves it by " + short_number(little * wishes.found()->sensitivity) + " " + unit;
  }
  p.setPen(theme::faint_ink);
  p.setFont(theme::numbers(10.5));
  p.drawText(QRectF(0.4 * width(), 4, 0.6 * width() - right, 16), Qt::AlignRight,
             p.fontMetrics().elidedText(said, Qt::ElideRight, static_cast<int>(0.6 * width() - right)));
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
