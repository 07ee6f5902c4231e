// Drawing forces and torques.
#include "app/stage/force_arrows.h"

#include <algorithm>
#include <cmath>

#include "app/kit/cause_look.h"
#include "app/kit/theme.h"
#include "app/session/why.h"

namespace bronvel {
namespace {

constexpr double usual_length = 84;     // pixels, of what is as great as the weight
constexpr double shortest = 16;         // pixels
constexpr double longest = 150;         // pixels
constexpr double tells_nothing = 2e-3;  // of the greatest: it is on the card, not on the stage
constexpr std::size_t most = 8;

// Three quarters of a circle about the axis.
std::vector<Vec3> arc_about(const Vec3& middle, const Vec3& axis, double radius) {
  const Vec3 n = axis.normalized(), u = any_perpendicular(n), v = n.cross(u);
  std::vector<Vec3> points;
  constexpr int pieces = 24;
  for (int i = 0; i <= pieces; ++i) {
    const double angle = 1.5 * pi * i / pieces;
    points.push_back(middle + radius * (std::cos(angle) * u + std::sin(angle) * v));
  }
  return points;
}

}  // namespace

void ForceArrows::draw(Pencil& pencil, Session& session) {
  drawn_.clear();
  const Why& why = session.why();
  const auto reading = session.chosen_reading();
  if (!why.known() || !reading) return;
  const Vec3 centre = reading->pose.to_scene(reading->mass.centre);
  double greatest_impulse = 0, greatest_force = 0;
  for (const Acting& acting : why.acts().causes)
    (acting.cause.at_once() ? greatest_impulse : greatest_force) =
        std::max(acting.cause.at_once() ? greatest_impulse : greatest_force, acting.force.norm());
  const double weight = reading->mass.mass * reading->gravity.norm();
  const double usual = weight > 0 ? weight : greatest_force;
  std::size_t count = 0, arcs = 0;
  for (const Acting& acting : why.acts().causes) {
    if (acting.share < tells_nothing || count >= most) continue;
    const bool at_once = acting.cause.at_once(), pointed = why.pointed() == acting.cause;
    const QColor colour = cause_colour(acting.cause);
    QPen pen(colour, pointed ? 3.6 : 2);
    if (at_once) pen.setDashPattern({3, 2});
    const QString words = cause_letter(acting.cause) + " " + QString::fromStdString(size_text(acting));
    const double size = acting.force.norm();
    if (size > 0 && (acting.has_place || size > 1e-6 * acting.torque.norm())) {
      const double of = at_once ? greatest_impulse : usual;
      const double pixels = std::clamp(usual_length * std::sqrt(size / std::max(of, 1e-12)), shortest, longest);
      const Vec3 root = acting.has_place ? acting.at : centre;
      const Vec3 tip = root + pencil.metres_of(root, pixels) / size * acting.force;
      pencil.arrow(root, tip, pen);
      if (acting.has_place) pencil.speck(root, 2.6, colour);
      pencil.words_aside(tip, {8, acting.force.y() < 0 ? 12.0 : -4.0}, words, colour);
      const auto from = pencil.pixel(root), to = pencil.pixel(tip);
      if (from && to) drawn_.push_back({*from, *to, acting.cause});
    } else if (acting.torque.norm() > 0) {
      // Each about the centre, one outside of the other.
      const double radius = pencil.metres_of(centre, 26 + 9.0 * static_cast<double>(arcs++));
      const std::vector<Vec3> arc = arc_about(centre, acting.torque, radius);
      pencil.stroke(arc, pen);
      pencil.arrow(arc[arc.size() - 3], arc.back(), pen);
      pencil.words_aside(arc.back(), {8, 4}, words, colour);
      for (std::size_t k = 1; k < arc.size(); ++k)
        if (const auto from = pencil.pixel(arc[k - 1]), to = pencil.pixel(arc[k]); from && to)
          drawn_.push_back({*from, *to, acting.cause});
    }
    ++count;
  }
}

std::optional<NamedCause> ForceArrows::near(const QPointF& pixel) const {
  constexpr double reach = 7;  // pixels
  double best = reach;
  std::optional<NamedCause> found;
  for (const Drawn& each : drawn_) {
    const QPointF way = each.to - each.from, off = pixel - each.from;
    const double square = QPointF::dotProduct(way, way);
    const double along = square > 0 ? std::clamp(QPointF::dotProduct(off, way) / square, 0.0, 1.0) : 0;
    const QPointF apart = off - along * way;
    const double away = std::hypot(apart.x(), apart.y());
    if (away >= best) continue;
    best = away;
    found = each.cause;
  }
  return found;
}

}  // namespace bronvel
