// Drawing rulings.
#include "app/kit/ruling.h"

#include <QPainterPath>
#include <cmath>

#include "app/kit/theme.h"

namespace bronvel {

double division_of(double span, double about) {
  const double rough = span / about;
  if (!(rough > 0) || !std::isfinite(rough)) return 1;
  const double decade = std::pow(10.0, std::floor(std::log10(rough)));
  for (const double m : {1.0, 2.0, 5.0})
    if (rough <= m * decade) return m * decade;
  return 10 * decade;
}

void draw_ruling(QPainter& p, double from, double to, double base, const std::function<double(double)>& x_of) {
  p.drawLine(QPointF(x_of(from), base), QPointF(x_of(to), base));
  constexpr double divisions = 40;
  const double step = division_of(to - from, divisions);
  const auto first = static_cast<long>(std::ceil(from / step - 1e-9));
  const auto last = static_cast<long>(std::floor(to / step + 1e-9));
  p.setPen(QPen(theme::faint_ink, 1));
  for (long i = first; i <= last; ++i) {
    const double x = std::round(x_of(static_cast<double>(i) * step)) + 0.5;
    p.drawLine(QPointF(x, base), QPointF(x, base - (i % 10 == 0 ? 8 : i % 5 == 0 ? 6 : 3.5)));
  }
}

void draw_hollow_pointer(QPainter& p, double x, double base) {
  QPainterPath hollow(QPointF(x, base + 1.5));
  hollow.lineTo(x - 4, base + 9);
  hollow.lineTo(x + 4, base + 9);
  hollow.closeSubpath();
  p.setPen(QPen(theme::compared, 1.2));
  p.setBrush(Qt::NoBrush);
  p.drawPath(hollow);
}

}  // namespace bronvel
