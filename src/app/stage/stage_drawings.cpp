// Lines and words over the stage.
#include "app/stage/stage_drawings.h"

#include "app/kit/theme.h"
#include "app/stage/field_drawings.h"
#include "app/stage/pencil.h"
#include "geometry/base/curve.h"
#include "geometry/meshes/outline.h"

namespace bronvel {
namespace {

const QColor sky(0x3B, 0x7F, 0xB5);

void draw_script_marks(Pencil& pencil, const Session& session) {
  const QPen ink(theme::ink, 1.6);
  for (const Drawn& drawn : session.drawn()) {
    if (drawn.kind == Drawn::Kind::mark) {
      const double arm = 0.12;
      for (int axis = 0; axis < 3; ++axis)
        pencil.line(drawn.from - arm * Vec3::Unit(axis), drawn.from + arm * Vec3::Unit(axis), ink);
      pencil.words(drawn.from, {9, -5}, QString::fromStdString(drawn.text), theme::ink);
    } else if (drawn.kind == Drawn::Kind::arrow) {
      pencil.arrow(drawn.from, drawn.from + drawn.along, ink);
      pencil.words(drawn.from + drawn.along, {9, -3}, QString::fromStdString(drawn.text), theme::ink);
    }
  }
  // Puffs spread and fade, sounds rise, over a second of play.
  const std::vector<Passing>& all = session.passing();
  for (std::ptrdiff_t i = 0; i < std::ssize(all); ++i) {
    const Passing& passing = all[static_cast<std::size_t>(i)];
    const double age = std::clamp(passing.age, 0.0, 1.0);
    QColor colour = passing.drawn.kind == Drawn::Kind::puff ? theme::dust : theme::ink;
    colour.setAlphaF(static_cast<float>(1 - age));
    if (passing.drawn.kind == Drawn::Kind::puff) {
      const double radius = passing.drawn.size * (0.3 + 0.7 * std::sqrt(age));
      for (const double share : {1.0, 0.75})
        pencil.ring(passing.drawn.from, pencil.pixels_of(passing.drawn.from, radius * share),
                    QPen(colour, 2.2 * share));
    } else {
      // The same sound from the same place is written once, where it was last.
      const auto same = [&](const Passing& other) {
        return other.drawn.kind == passing.drawn.kind && other.drawn.text == passing.drawn.text &&
               pencil.pixels_between(other.drawn.from, passing.drawn.from) < 40;
      };
      if (std::any_of(all.begin() + i + 1, all.end(), same)) continue;
      const auto times = std::count_if(all.begin(), all.begin() + i + 1, same);
      const QString often = times > 1 ? QString(" ×%1").arg(times) : QString();
      pencil.words_aside(passing.drawn.from, {12, -18 - 14 * age},
                         "♪ " + QString::fromStdString(passing.drawn.text) + often, colour);
    }
  }
}

void draw_zones(Pencil& pencil, const Session& session) {
  QPen pen(sky, 1.1);
  pen.setDashPattern({5, 4});
  for (const SceneZone& zone : session.zones()) {
    const Pose pose{zone.position, zone.orientation};
    const Outline outline = outline_of(zone.shape);
    for (std::size_t i = 0; i + 1 < outline.lines.size(); i += 2)
      pencil.line(pose.to_scene(outline.lines[i]), pose.to_scene(outline.lines[i + 1]), pen);
    pencil.words(zone_label_place(pencil, zone), zone_label_shift, "zone " + QString::fromStdString(zone.name), sky);
  }
}

void draw_paths(Pencil& pencil, const Session& session) {
  QPen pen(theme::compared, 1.3);
  pen.setDashPattern({2, 3});
  for (const ScenePath& path : session.scene().paths) {
    const Curve curve(path.points, path.smooth, path.closed);
    constexpr int pieces = 48;
    for (int i = 0; i < pieces; ++i)
      pencil.line(curve.at(curve.length() * i / pieces), curve.at(curve.length() * (i + 1) / pieces), pen);
    pencil.words(path.points.front(), {6, 14}, "path " + QString::fromStdString(path.name), theme::compared);
  }
}

}  // namespace

std::vector<Vec3> free_flight(const std::vector<BodyView>& bodies, const std::string& body, const Vec3& from,
                              const Vec3& velocity, const Vec3& gravity) {
  constexpr double step = 0.05;  // s
  constexpr int most = 40;
  std::vector<Vec3> flight;
  Vec3 at = from;
  for (int i = 1; i <= most; ++i) {
    const double t = step * i;
    const Vec3 next = from + velocity * t + gravity * (0.5 * t * t), way = next - at;
    const double length = way.norm();
    if (!(length > 0)) break;
    for (const BodyView& other : bodies)
      if (other.name != body && cast_ray(other.shape, other.pose, at, way / length, length)) return flight;
    flight.push_back(next);
    at = next;
  }
  return flight;
}

Vec3 zone_label_place(const Pencil& pencil, const SceneZone& zone) {
  const Bounds bounds = shape_bounds(zone.shape, {zone.position, zone.orientation});
  // What floats and flies is in the middle: a box has its name at a corner, if one is in view.
  if (std::holds_alternative<Box>(zone.shape))
    for (const double z : {bounds.low.z(), bounds.high.z()})
      for (const double x : {bounds.low.x(), bounds.high.x()})
        if (const Vec3 corner(x, bounds.high.y(), z); pencil.in_view(corner)) return corner;
  return {zone.position.x(), bounds.high.y(), zone.position.z()};
}

void draw_over_stage(Pencil& pencil, const Session& session, const std::optional<HandLine>& hand) {
  draw_zones(pencil, session);
  draw_depths(pencil, session);
  draw_streams(pencil, session);
  draw_floating(pencil, session);
  draw_bonds(pencil, session);
  draw_paths(pencil, session);
  draw_script_marks(pencil, session);
  if (const auto& held = session.held(); held && !hand) pencil.line(held->from, held->to, QPen(theme::accent, 2));
  if (hand) {
    const QPen pen(theme::accent, 2);
    if (hand->blade)
      pencil.line(hand->from, hand->to, QPen(theme::accent, 1.6, Qt::DashLine));
    else if (hand->arrow) {
      pencil.arrow(hand->from, hand->to, pen);
      for (const Vec3& at : hand->flight) pencil.dot(at, 2, theme::accent, theme::accent);
    } else
      pencil.line(hand->from, hand->to, pen);
    pencil.words(hand->to, {12, 4}, hand->text, theme::accent);
  }
}

}  // namespace bronvel
