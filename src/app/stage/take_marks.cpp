// Drawing ways, shapes and ghosts.
#include "app/stage/take_marks.h"

#include <algorithm>

#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "geometry/meshes/outline.h"

namespace bronvel {
namespace {

constexpr std::size_t most_bodies = 12;
constexpr std::int64_t most_points = 3000;  // of a way; longer ones are seen in their last part before the play head
constexpr int shapes_along = 16;

void draw_outline(Pencil& pencil, const Shape& shape, const Pose& pose, const QPen& pen) {
  const Outline outline = outline_of(shape);
  for (std::size_t i = 0; i + 1 < outline.lines.size(); i += 2)
    pencil.line(pose.to_scene(outline.lines[i]), pose.to_scene(outline.lines[i + 1]), pen);
}

}  // namespace

namespace {

// The last touches of these bodies before the play head and the first after it, no more than can be told apart.
template <class Use>
void each_hit(const Take& take, const std::vector<std::string>& bodies, std::int64_t tick, Use use) {
  constexpr std::size_t most_before = 50, most_after = 10;
  const auto is = [&](const std::string& name) {
    return std::find(bodies.begin(), bodies.end(), name) != bodies.end();
  };
  const auto hit = [&](const PlayEvent& event) {
    return event.phase == ContactPhase::touch && (is(event.a) || is(event.b));
  };
  const auto now =
      static_cast<std::size_t>(std::upper_bound(take.events.begin(), take.events.end(), tick,
                                                [](std::int64_t t, const PlayEvent& event) { return t < event.tick; }) -
                               take.events.begin());
  std::size_t count = 0;
  for (std::size_t i = now; i-- > 0 && count < most_before;)
    if (hit(take.events[i])) use(i, take.events[i]), ++count;
  count = 0;
  for (std::size_t i = now; i < take.events.size() && count < most_after; ++i)
    if (hit(take.events[i])) use(i, take.events[i]), ++count;
}

}  // namespace

std::optional<std::size_t> TakeDrawing::hit_near(const Pencil& pencil, Session& session, const TakeMarks& marks,
                                                 const QPointF& pixel) {
  std::optional<std::size_t> found;
  if (!session.in_past() || !marks.way) return found;
  double best = 9;  // pixels
  session.with_take([&](const Take& take, TakeReader&) {
    each_hit(take, session.chosen_bodies(), session.tick(), [&](std::size_t event, const PlayEvent& hit) {
      const auto at = pencil.pixel(hit.point);
      if (!at) return;
      const QPointF apart = *at + QPointF(0, 4) - pixel;
      const double away = std::hypot(apart.x(), apart.y());
      if (away >= best) return;
      best = away;
      found = event;
    });
  });
  return found;
}

void TakeDrawing::forget() {
  shown_ = compared_ = {};
}

void TakeDrawing::renew(Ways& ways, const Take& take, TakeReader& reader, const std::vector<std::string>& bodies) {
  if (ways.of == &take && ways.ticks == take.ticks && ways.bodies == bodies) return;
  ways = {&take, take.ticks, bodies, {}};
  for (const std::string& body : bodies) {
    const auto track = take.body_of.find(body);
    if (track == take.body_of.end()) continue;
    Way way;
    way.body = body;
    way.first = std::max(take.bodies[track->second].first, take.ticks - most_points);
    std::vector<double> parts[3];
    Channel channel;
    channel.owner = body;
    channel.quantity = "position";
    for (int i = 0; i < 3; ++i) reader.numbers(take, channel, i, way.first, take.ticks, parts[i]);
    for (std::size_t i = 0; i < parts[0].size(); ++i)
      if (std::isfinite(parts[0][i])) way.points.emplace_back(parts[0][i], parts[1][i], parts[2][i]);
    ways.ways.push_back(std::move(way));
  }
}

// A line with a dot a tick, where they stand apart; where they don't, the line alone.
void TakeDrawing::draw_way(Pencil& pencil, const Way& way, const QColor& colour, bool dashed) {
  if (way.points.size() < 2) return;
  QPen pen(colour, 1.3);
  if (dashed) pen.setDashPattern({4, 3});
  constexpr double step = 2, dots_apart = 5;  // pixels
  const Vec3* last = &way.points.front();
  const Vec3* last_dot = last;
  for (const Vec3& point : way.points) {
    if (pencil.pixels_between(*last, point) >= step) {
      pencil.line(*last, point, pen);
      last = &point;
    }
    if (dashed || pencil.pixels_between(*last_dot, point) < dots_apart) continue;
    pencil.speck(point, 1.7, colour);
    last_dot = &point;
  }
}

// An arrow for the force on each chosen body, its root where they touch; the harder the longer, by the square root, so
// that small ones are seen beside large ones. With nothing chosen, on the one that is borne.
void TakeDrawing::draw_contacts(Pencil& pencil, const Session& session) {
  const std::vector<std::string>& chosen = session.chosen_bodies();
  constexpr double longest = 64, shortest = 9;  // pixels
  constexpr std::size_t most_words = 8;
  double most = 0;
  std::size_t shown = 0;
  const auto is_chosen = [&](const std::string& name) {
    return std::find(chosen.begin(), chosen.end(), name) != chosen.end();
  };
  for (const ContactView& each : session.contacts()) {
    if (!chosen.empty() && !is_chosen(each.a) && !is_chosen(each.b)) continue;
    most = std::max(most, each.along);
    ++shown;
  }
  if (!(most > 0)) return;
  for (const ContactView& each : session.contacts()) {
    const bool of_a = is_chosen(each.a), of_b = is_chosen(each.b);
    if (!chosen.empty() && !of_a && !of_b) continue;
    const Vec3 way = (of_b || (!of_a && each.normal.y() >= 0)) ? each.normal : Vec3(-each.normal);
    const double pixels = shortest + (longest - shortest) * std::sqrt(each.along / most);
    const double metres = pencil.metres_of(each.point, pixels);
    pencil.arrow(each.point, each.point + metres * way, QPen(theme::contact, 1.8));
    pencil.speck(each.point, 2.6, theme::contact);
    if (shown > most_words) continue;
    pencil.words_aside(each.point + metres * way, {6, -6}, short_number(each.along) + " N", theme::contact);
  }
}

void TakeDrawing::draw(Pencil& pencil, Session& session, const TakeMarks& marks) {
  if (marks.contacts && (session.in_past() || session.live_play())) draw_contacts(pencil, session);
  std::vector<std::string> bodies = session.chosen_bodies();
  if (bodies.size() > most_bodies) bodies.resize(most_bodies);
  const bool looked_at = session.in_past() || session.asked_number() > 0;
  if (bodies.empty() || !looked_at) return;
  if (marks.ghost)
    session.with_compared([&](const Take& take, TakeReader& reader) {
      renew(compared_, take, reader, bodies);
      for (const Way& way : compared_.ways) draw_way(pencil, way, theme::compared, true);
      if (!session.in_past()) return;
      QPen pen(theme::compared, 1.2);
      pen.setDashPattern({3, 3});
      const auto moment = static_cast<std::int64_t>(std::llround(session.time() * take.tick_rate()));
      for (const std::string& body : bodies) {
        const auto then = reader.body(take, body, moment);
        const auto settings = reader.settings(take, body, moment);
        if (then && settings) draw_outline(pencil, settings->shape, then->pose, pen);
      }
    });
  session.with_take([&](const Take& take, TakeReader& reader) {
    if (marks.way) {
      renew(shown_, take, reader, bodies);
      for (const Way& way : shown_.ways) draw_way(pencil, way, theme::chosen, false);
      if (session.in_past())
        each_hit(take, bodies, session.tick(),
                 [&](std::size_t, const PlayEvent& hit) { pencil.peg(hit.point, 4.5, theme::ink, theme::sheet); });
    }
    if (!marks.shapes) return;
    QColor faint = theme::chosen;
    faint.setAlpha(110);
    const std::int64_t every = std::max<std::int64_t>(take.ticks / shapes_along, 1);
    for (const std::string& body : bodies)
      for (std::int64_t tick = 0; tick < take.ticks; tick += every) {
        const auto then = reader.body(take, body, tick);
        const auto settings = reader.settings(take, body, tick);
        if (then && settings) draw_outline(pencil, settings->shape, then->pose, QPen(faint, 1));
      }
  });
}

}  // namespace bronvel
