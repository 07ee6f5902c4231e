// Drawing the fan.
#include "app/stage/fan.h"

#include <cmath>

#include "app/kit/number_field.h"
#include "app/session/wishes.h"

namespace bronvel {
namespace {

QColor between(const QColor& a, const QColor& b, double share) {
  const auto mixed = [&](int from, int to) { return static_cast<int>(std::lround(from + share * (to - from))); };
  return {mixed(a.red(), b.red()), mixed(a.green(), b.green()), mixed(a.blue(), b.blue())};
}

void draw_way(Pencil& pencil, const std::vector<Eigen::Vector3f>& way, const QPen& pen) {
  for (std::size_t i = 1; i < way.size(); ++i) pencil.line(way[i - 1].cast<double>(), way[i].cast<double>(), pen);
}

// Where the wish would be met: a level line at a height, an upright one at a distance.
void draw_wish(Pencil& pencil, Session& session) {
  const Wishes& wishes = session.wishes();
  const auto chosen = wishes.chosen();
  if (!chosen || !wishes.measure() || wishes.points().empty()) return;
  const Wish& wish = session.scene().checks[*chosen];
  const std::string kind = wishes.measure()->kind->name;
  const Body* body = session.scene().find(wishes.measure()->thing);
  if (wish.is == Wish::Is::never || !body) return;
  const QPen pen(theme::accent, 1.3, Qt::DashLine);
  Vec3 from = body->position, to = body->position;
  if (kind == "apex" || kind == "lowest" || kind == "touch_y") {
    const Vec3 aside = 1.2 * pencil.camera().right();
    from = Vec3(from.x(), wish.value, from.z()) - aside;
    to = Vec3(to.x(), wish.value, to.z()) + aside;
  } else if (kind == "farthest" || kind == "touch_range" || kind == "touch_x") {
    Vec3 along = Vec3::Unit(0);
    double most = 0;
    for (const Wishes::Point& point : wishes.points()) {
      if (point.way.empty()) continue;
      Vec3 away = point.way.back().cast<double>() - body->position;
      away.y() = 0;
      if (away.norm() <= most) continue;
      most = away.norm();
      along = away / most;
    }
    const Vec3 foot =
        kind == "touch_x" ? Vec3(wish.value, from.y(), from.z()) : Vec3(body->position + wish.value * along);
    from = Vec3(foot.x(), std::min(0.0, body->position.y()), foot.z());
    to = Vec3(foot.x(), body->position.y() + 0.5, foot.z());
  } else {
    return;
  }
  pencil.line(from, to, pen);
  pencil.words_aside(to, QPointF(6, -4), "wish " + QString::fromStdString(wish_text(wish, wishes.measure()->unit)),
                     theme::accent);
}

}  // namespace

void draw_fan(Pencil& pencil, Session& session) {
  const Wishes& wishes = session.wishes();
  if (!wishes.watched() || !wishes.current() || !session.building()) return;
  const std::vector<Wishes::Point>& points = wishes.points();
  for (std::size_t i = 0; i < points.size(); ++i) {
    const double share = points.size() > 1 ? static_cast<double>(i) / static_cast<double>(points.size() - 1) : 1;
    draw_way(pencil, points[i].way, QPen(between(theme::veil(255), theme::chosen, 0.35 + 0.65 * share), 1.1));
  }
  if (const auto pointed = wishes.pointed(); pointed && *pointed < points.size()) {
    const Wishes::Point& point = points[*pointed];
    draw_way(pencil, point.way, QPen(theme::accent, 2.4));
    if (!point.way.empty())
      pencil.words_aside(point.way.back().cast<double>(), QPointF(8, -6), short_number(point.value), theme::accent);
  }
  draw_wish(pencil, session);
}

}  // namespace bronvel
