// Drawing seeds and rates.
#include "app/deck/rate_list.h"

#include <QPainter>
#include <cmath>

#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "app/session/session.h"
#include "app/session/wishes.h"

namespace bronvel {

RateList::RateList(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  setObjectName("rate_list");
  connect(&session_.wishes(), &Wishes::changed, this, [this] {
    QStringList lines;
    for (const RateLine& line : session_.wishes().rate_lines())
      lines << QString("%1:%2 %3")
                   .arg(QString::fromStdString(line.script))
                   .arg(line.line)
                   .arg(QString::fromStdString(line.why));
    setToolTip(lines.join("\n"));
    update();
  });
}

int RateList::draw_seeds(QPainter& p, int y) const {
  const Wishes& wishes = session_.wishes();
  const Spread spread = spread_of(wishes.seeds());
  p.setFont(theme::words(11));
  p.setPen(theme::faint_ink);
  const QString title = spread.count == wishes.seeds().size()
                            ? QString("%1 seeds").arg(wishes.seeds().size())
                            : QString("%1 of %2 seeds").arg(spread.count).arg(wishes.seeds().size());
  p.drawText(QRect(0, y, width(), 16), Qt::AlignLeft | Qt::AlignVCenter, title);
  y += 18;
  if (spread.count == 0) return y + 20;
  p.setFont(theme::numbers(10.5));
  if (spread.greatest - spread.least <= 1e-9 * std::abs(spread.greatest)) {
    p.drawText(QRect(0, y, width(), 16), Qt::AlignLeft | Qt::AlignVCenter, "all " + short_number(spread.middle));
    return y + 22;
  }
  const double left = 4, right = width() - 8;
  const auto x = [&](double value) {
    return left + (right - left) * (value - spread.least) / (spread.greatest - spread.least);
  };
  const double middle = y + 8;
  p.setPen(QPen(theme::ink, 1.2));
  p.drawLine(QPointF(left, middle), QPointF(right, middle));
  p.setBrush(theme::sheet);
  p.drawRoundedRect(QRectF(QPointF(x(spread.low), middle - 6), QPointF(x(spread.high), middle + 6)), 2, 2);
  p.setPen(QPen(theme::accent, 1.6));
  p.drawLine(QPointF(x(spread.middle), middle - 6), QPointF(x(spread.middle), middle + 6));
  p.setPen(theme::faint_ink);
  p.drawText(QRectF(0, y + 16, width(), 14), Qt::AlignLeft, short_number(spread.least));
  p.drawText(QRectF(0, y + 16, width() - 4, 14), Qt::AlignRight, short_number(spread.greatest));
  return y + 36;
}

void RateList::draw_rates(QPainter& p, int y) const {
  const Wishes& wishes = session_.wishes();
  if (wishes.rates().empty() || !wishes.measure()) return;
  p.setFont(theme::words(11));
  p.setPen(theme::faint_ink);
  p.drawText(QRect(0, y, width(), 16), Qt::AlignLeft | Qt::AlignVCenter, "at other rates");
  y += 18;
  const auto chosen = wishes.chosen();
  for (const RateAnswer& each : wishes.rates()) {
    const double value = each.answer.values.empty() ? std::nan("") : each.answer.values[0];
    const bool good = chosen && met(session_.scene().checks[*chosen], value) && each.answer.fault.empty();
    p.setFont(theme::words(11.5));
    p.setPen(theme::ink);
    p.drawText(QRect(0, y, width(), 16), Qt::AlignLeft | Qt::AlignVCenter,
               each.rate.game_loop ? QString("game loop") : QString("%1 Hz").arg(each.rate.tick_rate));
    p.setFont(theme::numbers(11.5));
    p.setPen(good ? theme::ink : theme::accent);
    p.drawText(QRect(0, y, width() - 4, 16), Qt::AlignRight | Qt::AlignVCenter,
               each.answer.fault.empty() ? QString::fromStdString(measured_text(*wishes.measure(), value)) : "fails");
    y += 17;
  }
  if (wishes.rate_lines().empty()) return;
  p.setFont(theme::words(10.5));
  p.setPen(theme::accent);
  const RateLine& line = wishes.rate_lines().front();
  p.drawText(QRect(0, y, width(), 16), Qt::AlignLeft | Qt::AlignVCenter,
             p.fontMetrics().elidedText(QString("by %1:%2").arg(QString::fromStdString(line.script)).arg(line.line),
                                        Qt::ElideRight, width()));
}

void RateList::paintEvent(QPaintEvent*) {
  if (!session_.wishes().chosen()) return;
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  if (!session_.wishes().current()) p.setOpacity(0.4);
  draw_rates(p, draw_seeds(p, 0));
}

}  // namespace bronvel
