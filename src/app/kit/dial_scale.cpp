// Painting and turning dials.
#include "app/kit/dial_scale.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QWheelEvent>
#include <cmath>

#include "app/kit/number_field.h"
#include "app/kit/ruling.h"
#include "app/kit/theme.h"

namespace bronvel {
namespace {
constexpr double margin = 9;
constexpr double base_line = 17;
}  // namespace

DialScale::DialScale(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setFixedHeight(36);
  setMinimumWidth(120);
  setCursor(Qt::PointingHandCursor);
}

void DialScale::set_range(double from, double to, double usual) {
  from_ = from;
  to_ = to;
  usual_ = usual;
  update();
}

void DialScale::set_value(double value) {
  if (value_ == value) return;
  value_ = value;
  update();
}

double DialScale::place_of(double value) const {
  const double share = std::clamp((value - from_) / (to_ - from_), 0.0, 1.0);
  return margin + share * (width() - 2 * margin);
}

double DialScale::value_at(double x) const {
  const double share = std::clamp((x - margin) / (width() - 2 * margin), 0.0, 1.0);
  const double step = division() / 5;
  return std::clamp(std::round((from_ + share * (to_ - from_)) / step) * step, from_, to_);
}

double DialScale::division() const {
  constexpr double divisions = 40;
  return division_of(to_ - from_, divisions);
}

void DialScale::turn_to(double value) {
  value = std::clamp(value, from_, to_);
  if (value == value_) return;
  value_ = value;
  update();
  emit turned(value);
}

void DialScale::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(isEnabled() ? theme::ink : theme::faint_ink, 1));
  draw_ruling(p, from_, to_, base_line, [this](double value) { return place_of(value); });
  p.setFont(theme::numbers(9.5));
  p.setPen(theme::faint_ink);
  p.drawText(QRectF(margin - 8, base_line + 4, 70, 13), Qt::AlignLeft, short_number(from_));
  p.drawText(QRectF(width() - margin - 62, base_line + 4, 70, 13), Qt::AlignRight, short_number(to_));

  if (usual_ != value_ && usual_ >= from_ && usual_ <= to_) draw_hollow_pointer(p, place_of(usual_), base_line);
  const double x = place_of(value_);
  const QColor pointing = isEnabled() ? theme::accent : theme::faint_ink;
  p.setPen(QPen(pointing, 1.4));
  p.drawLine(QPointF(x, 6), QPointF(x, base_line + 3));
  QPainterPath pointer(QPointF(x, 10));
  pointer.lineTo(x - 5, 2);
  pointer.lineTo(x + 5, 2);
  pointer.closeSubpath();
  p.fillPath(pointer, pointing);
  if (hasFocus()) {
    p.setPen(QPen(theme::chosen, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5);
  }
}

void DialScale::mousePressEvent(QMouseEvent* event) {
  dragged_ = true;
  turn_to(value_at(event->position().x()));
}

void DialScale::mouseMoveEvent(QMouseEvent* event) {
  if ((event->buttons() & Qt::LeftButton) != 0) turn_to(value_at(event->position().x()));
}

void DialScale::mouseReleaseEvent(QMouseEvent*) {
  if (!dragged_) return;
  dragged_ = false;
  emit let_go(value_);
}

void DialScale::wheelEvent(QWheelEvent* event) {
  turn_to(value_ + (event->angleDelta().y() > 0 ? 1 : -1) * division());
  event->accept();
}

void DialScale::keyPressEvent(QKeyEvent* event) {
  const double step = division() * ((event->modifiers() & Qt::ShiftModifier) != 0 ? 5 : 1);
  if (event->key() == Qt::Key_Right || event->key() == Qt::Key_Up)
    turn_to(value_ + step);
  else if (event->key() == Qt::Key_Left || event->key() == Qt::Key_Down)
    turn_to(value_ - step);
  else if (event->key() == Qt::Key_Home)
    turn_to(usual_);
  else
    QWidget::keyPressEvent(event);
}

}  // namespace bronvel
