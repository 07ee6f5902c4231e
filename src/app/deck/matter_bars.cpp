// Drawing what matters.
#include "app/deck/matter_bars.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>

#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "app/session/session.h"

namespace bronvel {
namespace {
constexpr int top = 30, pitch = 21, bottom = 22;
}

MatterBars::MatterBars(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  setObjectName("matter_bars");
  setMouseTracking(true);
  setMinimumWidth(220);
  connect(&session_.wishes(), &Wishes::changed, this, qOverload<>(&QWidget::update));
}

int MatterBars::rows() const {
  const int room = std::max(0, (height() - top - bottom) / pitch);
  return std::min(room, static_cast<int>(session_.wishes().matters().all.size()));
}

QRect MatterBars::place_of(const std::string& number) const {
  const auto& all = session_.wishes().matters().all;
  for (int i = 0; i < rows(); ++i)
    if (all[static_cast<std::size_t>(i)].name == number) return {0, top + pitch * i, width(), pitch};
  return {};
}

const Matter* MatterBars::matter_at(const QPointF& place) const {
  const int row = static_cast<int>(std::floor((place.y() - top) / pitch));
  return row >= 0 && row < rows() ? &session_.wishes().matters().all[static_cast<std::size_t>(row)] : nullptr;
}

void MatterBars::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Wishes& wishes = session_.wishes();
  const Matters& matters = wishes.matters();
  p.setPen(theme::chosen);
  p.setFont(theme::words(12, QFont::DemiBold));
  p.drawText(QRectF(14, 6, 120, 18), Qt::AlignLeft | Qt::AlignVCenter, "What matters");
  p.setPen(theme::faint_ink);
  p.setFont(theme::words(11));
  const bool waits = matters.all.empty() && session_.wishes().chosen();
  p.drawText(QRectF(100, 6, width() - 114, 18), Qt::AlignRight | Qt::AlignVCenter,
             waits ? (wishes.busy() ? "being played …" : "") : "±10 % of each moves it by");
  if (!wishes.current()) p.setOpacity(0.4);
  double most = 0;
  const auto off = [&](double x) { return std::isnan(x) ? 0 : x - matters.as_it_is; };
  for (const Matter& each : matters.all)
    if (each.fault.empty()) most = std::max({most, std::abs(off(each.at_low)), std::abs(off(each.at_high))});
  const double names = 0.44 * width(), number = 84, middle = names + 0.5 * (width() - names - number),
               half = 0.5 * (width() - names - number) - 8;
  const QString unit = wishes.measure() ? QString::fromStdString(wishes.measure()->unit) : "";
  for (int i = 0; i < rows(); ++i) {
    const Matter& each = matters.all[static_cast<std::size_t>(i)];
    const double y = top + pitch * i;
    const bool still = each.at_low == matters.as_it_is && each.at_high == matters.as_it_is;
    const bool never = std::isnan(each.at_low) || std::isnan(each.at_high) || std::isnan(matters.as_it_is);
    const bool turned = each.name == wishes.number();
    if (turned) {
      p.setPen(Qt::NoPen);
      p.setBrush(theme::chosen_wash);
      p.drawRoundedRect(QRectF(8, y, width() - 16, pitch - 1), 4, 4);
    }
    p.setFont(theme::words(12, turned ? QFont::DemiBold : QFont::Normal));
    p.setPen(still ? theme::faint_ink : theme::ink);
    p.drawText(QRectF(14, y, names - 18, pitch), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(QString::fromStdString(number_words(each.name)), Qt::ElideRight,
                                          static_cast<int>(names - 18)));
    p.setPen(QPen(theme::grid, 1));
    p.drawLine(QPointF(middle, y), QPointF(middle, y + pitch));
    p.setFont(theme::numbers(11.5));
    QString text;
    if (!each.fault.empty())
      text = "fails";
    else if (still || (never && std::isnan(matters.as_it_is)))
      text = "nothing";
    else if (never)
      text = "or never";
    else
      text = (each.change() > 0 ? "+" : "") + short_number(each.change()) + (unit.isEmpty() ? "" : " " + unit);
    p.setPen(text == "nothing" ? theme::faint_ink : each.fault.empty() ? theme::ink : theme::accent);
    p.drawText(QRectF(width() - number - 14, y, number, pitch), Qt::AlignRight | Qt::AlignVCenter, text);
    if (most <= 0 || still || never || !each.fault.empty()) continue;
    const auto bar = [&](double to, const QColor& colour) {
      const double length = half * off(to) / most;
      p.setPen(Qt::NoPen);
      p.setBrush(colour);
      p.drawRect(QRectF(QPointF(middle, y + 5), QPointF(middle + length, y + pitch - 5)).normalized());
    };
    bar(each.at_low, theme::compared);
    bar(each.at_high, theme::chosen);
  }
  if (matters.all.empty()) return;
  p.setFont(theme::words(10.5));
  p.setPen(theme::faint_ink);
  p.drawText(QRectF(14, height() - 20, width() - 28, 16), Qt::AlignLeft | Qt::AlignVCenter,
             "ochre: a tenth less · green: more · a click turns it");
}

void MatterBars::mouseMoveEvent(QMouseEvent* event) {
  const Matter* matter = matter_at(event->position());
  setCursor(matter && !matter->vector ? Qt::PointingHandCursor : Qt::ArrowCursor);
}

void MatterBars::mouseReleaseEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  if (const Matter* matter = matter_at(event->position()); matter && !matter->vector)
    session_.wishes().set_number(std::string(matter->name));
}

bool MatterBars::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(event);
    if (const Matter* matter = matter_at(help->pos())) {
      const auto& measure = session_.wishes().measure();
      const auto said = [&](double x) { return measure ? QString::fromStdString(measured_text(*measure, x)) : ""; };
      QToolTip::showText(help->globalPos(),
                         QString::fromStdString(matter->name) + " " + short_number(matter->low) + ": " +
                             said(matter->at_low) + "\n" + short_number(matter->high) + ": " + said(matter->at_high) +
                             (matter->fault.empty() ? "" : "\n" + QString::fromStdString(matter->fault)),
                         this);
      return true;
    }
  }
  return QWidget::event(event);
}

}  // namespace bronvel
