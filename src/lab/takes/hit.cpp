// Putting hit sheets together.
#include "lab/takes/hit.h"

#include <algorithm>

namespace bronvel {
namespace {

HitSide side_of(const Take& take, TakeReader& reader, const std::string& name, std::int64_t tick) {
  HitSide side;
  side.body = name;
  if (const auto body = reader.settings(take, name, tick)) {
    side.surface = body->surface;
    side.values = surface_of(take.folder.scene, *body);
    side.own_restitution = body->restitution.has_value();
    side.own_friction = body->friction.has_value();
    side.kind = body->kind;
  }
  if (const auto before = reader.body(take, name, tick - 1)) {
    side.speed_before = before->velocity.norm();
    side.energy_before = kinetic_energy(*before);
  }
  if (const auto after = reader.body(take, name, tick)) {
    side.speed_after = after->velocity.norm();
    side.energy_after = kinetic_energy(*after);
  }
  return side;
}

}  // namespace

std::optional<HitReport> hit_report(const Take& take, TakeReader& reader, std::size_t event, const std::string& first) {
  if (event >= take.events.size() || take.events[event].phase != ContactPhase::touch) return std::nullopt;
  const PlayEvent& e = take.events[event];
  HitReport hit;
  hit.event = event;
  hit.tick = e.tick;
  hit.time = e.time(take.tick_rate());
  hit.a = side_of(take, reader, e.a, e.tick);
  hit.b = side_of(take, reader, e.b, e.tick);
  hit.point = e.point;
  hit.normal = e.normal;
  const bool turn = first == e.a   ? false
                    : first == e.b ? true
                                   : hit.a.kind != MotionKind::dynamic && hit.b.kind == MotionKind::dynamic;
  if (turn) {
    std::swap(hit.a, hit.b);
    hit.normal = -hit.normal;
  }
  hit.number = static_cast<int>(std::count_if(
      take.events.begin(), take.events.begin() + static_cast<std::ptrdiff_t>(event) + 1, [&](const PlayEvent& other) {
        return other.phase == ContactPhase::touch && (other.a == hit.a.body || other.b == hit.a.body);
      }));
  hit.points = e.points;
  hit.closing_speed = e.speed;
  hit.along = e.impulse;
  hit.across = e.across;
  hit.pair = e.surface;
  // What friction can give at most; a little less may be a matter of directions summed up over the tick.
  constexpr double nearly_all = 0.98;
  hit.slid = e.impulse > 0 && e.across >= nearly_all * e.surface.dynamic_friction * e.impulse &&
             e.surface.dynamic_friction > 0;
  return hit;
}

std::optional<std::size_t> touch_at(const Take& take, const std::string& body, std::int64_t tick) {
  const auto from = std::lower_bound(take.events.begin(), take.events.end(), tick,
                                     [](const PlayEvent& e, std::int64_t t) { return e.tick < t; });
  const auto found = std::find_if(from, take.events.end(), [&](const PlayEvent& e) {
    return e.phase == ContactPhase::touch && (e.a == body || e.b == body);
  });
  return found == take.events.end() ? std::nullopt
                                    : std::optional(static_cast<std::size_t>(found - take.events.begin()));
}

}  // namespace bronvel
