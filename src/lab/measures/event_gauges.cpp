// Gauges of what happens to a body: touches, zones, arrivals, breaking.
#include <cmath>
#include <set>

#include "lab/measures/gauges.h"

namespace bronvel::gauges {
namespace {

// A gauge of one number that a touch of the body (with `other`, if there is one) may change.
template <class Take>
Gauge of_touches(const Measure& measure, double begin, const Take& take) {
  const auto value = std::make_shared<double>(begin);
  const std::string body = measure.thing, other = measure.other;
  return {[=](const Play& play) {
            for (const PlayEvent& e : play.events()) {
              if (e.phase != ContactPhase::touch || (e.a != body && e.b != body)) continue;
              if (other.empty() || (e.a == body ? e.b : e.a) == other) take(*value, e, play);
            }
          },
          [=] { return *value; }};
}

// Of the n-th touch, what `read` says.
template <class Read>
Gauge of_touch(const Measure& measure, const Read& read) {
  const int wanted = static_cast<int>(measure.number.value_or(1));
  const auto count = std::make_shared<int>(0);
  return of_touches(measure, never, [=](double& value, const PlayEvent& e, const Play& play) {
    if (++*count == wanted) value = read(e, play);
  });
}

Gauge touch_place(const Measure& measure, int axis) {
  return of_touch(measure, [=](const PlayEvent& e, const Play&) { return e.point[axis]; });
}

template <class Read>
Gauge of_arrival(const Measure& measure, const Read& read) {
  const auto value = std::make_shared<double>(never);
  const std::string body = measure.thing, path = measure.other;
  return {[=](const Play& play) {
            if (!std::isnan(*value)) return;
            for (const Arrival& arrival : play.scripts().arrivals())
              if (play.running().name_of(arrival.body) == body && (path.empty() || arrival.path == path))
                *value = read(arrival, play);
          },
          [=] { return *value; }};
}

Gauge arrive_place(const Measure& measure, int axis) {
  return of_arrival(measure, [=](const Arrival& arrival, const Play& play) {
    return play.running().world.motion(arrival.body).pose.position[axis];
  });
}

}  // namespace

Gauge touch_time(const Measure& measure) {
  return of_touch(
      measure, [](const PlayEvent& e, const Play& play) { return e.time(play.running().world.settings().tick_rate); });
}
Gauge touch_x(const Measure& measure) {
  return touch_place(measure, 0);
}
Gauge touch_y(const Measure& measure) {
  return touch_place(measure, 1);
}
Gauge touch_z(const Measure& measure) {
  return touch_place(measure, 2);
}

Gauge touch_range(const Measure& measure) {
  const auto start = std::make_shared<std::optional<Vec3>>();
  const std::string body = measure.thing;
  Gauge gauge = of_touch(measure, [=](const PlayEvent& e, const Play&) {
    return *start ? std::hypot(e.point.x() - (*start)->x(), e.point.z() - (*start)->z()) : never;
  });
  return {[=, touch = gauge.take](const Play& play) {
            if (!*start)
              if (const auto handle = play.running().find(body))
                *start = play.running().world.motion(*handle).pose.position;
            touch(play);
          },
          gauge.value};
}

Gauge touches(const Measure& measure) {
  return of_touches(measure, 0, [](double& count, const PlayEvent&, const Play&) { ++count; });
}
Gauge hardest_hit(const Measure& measure) {
  return of_touches(measure, 0,
                    [](double& most, const PlayEvent& e, const Play&) { most = std::fmax(most, e.impulse); });
}
Gauge hit_speed(const Measure& measure) {
  return of_touches(measure, 0, [](double& most, const PlayEvent& e, const Play&) { most = std::fmax(most, e.speed); });
}

Gauge enter_time(const Measure& measure) {
  const auto time = std::make_shared<double>(never);
  const std::string body = measure.thing, zone = measure.other;
  return {[=](const Play& play) {
            for (const PlayZoneEvent& e : play.zone_events())
              if (std::isnan(*time) && e.entered && e.body == body && e.zone == zone) *time = play.time();
          },
          [=] { return *time; }};
}

Gauge stay(const Measure& measure) {
  struct State {
    bool inside = false;
    double sum = 0, last = never;
  };
  const auto state = std::make_shared<State>();
  const std::string body = measure.thing, zone = measure.other;
  return {[=](const Play& play) {
            if (state->inside) state->sum += play.time() - state->last;
            state->last = play.time();
            for (const PlayZoneEvent& e : play.zone_events())
              if (e.body == body && e.zone == zone) state->inside = e.entered;
          },
          [=] { return state->sum; }};
}

Gauge arrive_time(const Measure& measure) {
  return of_arrival(measure, [](const Arrival&, const Play& play) { return play.time(); });
}
Gauge arrive_x(const Measure& measure) {
  return arrive_place(measure, 0);
}
Gauge arrive_y(const Measure& measure) {
  return arrive_place(measure, 1);
}
Gauge arrive_z(const Measure& measure) {
  return arrive_place(measure, 2);
}

Gauge pieces(const Measure& measure) {
  struct State {
    std::set<std::string> family;
    double off = 0;
  };
  const auto state = std::make_shared<State>();
  state->family = {measure.thing};
  return {[=](const Play& play) {
            for (const PlayCrack& crack : play.cracks()) {
              if (!state->family.contains(crack.body)) continue;
              state->family.insert(crack.parts.begin(), crack.parts.end());
              state->off += static_cast<double>(crack.parts.size()) - 1;
            }
          },
          [=] { return state->off; }};
}

Gauge strain(const Measure& measure) {
  const auto most = std::make_shared<double>(never);
  const std::string body = measure.thing;
  return {[=](const Play& play) {
            for (const PlayCrack& crack : play.cracks())
              if (crack.body == body) *most = std::fmax(*most, crack.use);
            if (const auto handle = play.running().find(body))
              for (const BondReading& bond : play.running().world.bonds(*handle)) *most = std::fmax(*most, bond.use);
          },
          [=] { return *most; }};
}

Gauge holds(const Measure& measure) {
  const auto held = std::make_shared<double>(1);
  const std::string thing = measure.thing;
  return {[=](const Play& play) {
            for (const PlayCrack& crack : play.cracks())
              if (crack.body == thing) *held = 0;
            for (const PlaySnap& snap : play.snaps())
              if (snap.joint == thing) *held = 0;
          },
          [=] { return *held; }};
}

}  // namespace bronvel::gauges
