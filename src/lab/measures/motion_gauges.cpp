// Gauges of how a body moves: heights, speeds, bounces, ways.
#include <algorithm>
#include <array>
#include <cmath>

#include "lab/measures/gauges.h"

namespace bronvel::gauges {
namespace {

// A body's origin at a tick's end.
struct Origin {
  double time = 0;
  Vec3 place = Vec3::Zero(), velocity = Vec3::Zero();
  double speed = 0, spin = 0;  // of its centre of mass
  Vec3 gravity = Vec3::Zero();
  bool asleep = false;
};

std::optional<Origin> origin_of(const Play& play, const std::string& body) {
  const auto handle = play.running().find(body);
  if (!handle) return std::nullopt;
  const BodyReading reading = body_reading(play.running().world, *handle);
  const Vec3 arm = reading.pose.orientation * reading.mass.centre;
  return Origin{play.time(),
                reading.pose.position,
                reading.velocity - reading.angular_velocity.cross(arm),
                reading.velocity.norm(),
                reading.angular_velocity.norm(),
                reading.gravity,
                reading.asleep};
}

// Between two ticks a game loop has no moment; what it shows are its ticks.
bool only_ticks(const Play& play) {
  return play.running().world.settings().half_implicit;
}

bool in_touch(const Play& play, const std::string& body) {
  return std::any_of(play.events().begin(), play.events().end(), [&](const PlayEvent& e) {
    return e.phase == ContactPhase::touch && (e.a == body || e.b == body);
  });
}

struct Peak {
  double value = never, time = never;
  void raise(double x, double t) {
    if (!(x <= value)) {
      value = x;
      time = t;
    }
  }
};

// Raises the peak to the highest of the cubic through (p, v) at both ends, `sign` times it.
void raise_between(Peak& peak, const Origin& a, const Origin& b, double sign) {
  const double h = b.time - a.time;
  const double p0 = sign * a.place.y(), p1 = sign * b.place.y(), v0 = sign * h * a.velocity.y(),
               v1 = sign * h * b.velocity.y();
  if (!(v0 > 0 && v1 < 0)) return;  // no top within
  const double c3 = 2 * (p0 - p1) + v0 + v1, c2 = 3 * (p1 - p0) - 2 * v0 - v1;
  // c3 s³ + c2 s² + v0 s + p0, whose slope goes from above zero to below it once: halved until it is found.
  double low = 0, high = 1;
  for (int i = 0; i < 50; ++i) {
    const double s = 0.5 * (low + high);
    (3 * c3 * s * s + 2 * c2 * s + v0 > 0 ? low : high) = s;
  }
  peak.raise(((c3 * low + c2) * low + v0) * low + p0, a.time + low * h);
}

// What a gauge of heights keeps.
struct Heights {
  Peak peak;
  std::optional<Origin> last;
};

Gauge highest(const Measure& measure, double sign, bool time) {
  const auto kept = std::make_shared<Heights>();
  const std::string body = measure.thing;
  return {[=](const Play& play) {
            const auto now = origin_of(play, body);
            if (!now) {
              kept->last.reset();
              return;
            }
            kept->peak.raise(sign * now->place.y(), now->time);
            if (kept->last && !in_touch(play, body) && !only_ticks(play))
              raise_between(kept->peak, *kept->last, *now, sign);
            kept->last = now;
          },
          [=] { return time ? kept->peak.time : sign * kept->peak.value; }};
}

// A gauge that sees the body's origin at every tick at which it is there.
template <class State, class Take, class Value>
Gauge of_origin(const std::string& body, const State& begin, const Take& take, const Value& value) {
  const auto state = std::make_shared<State>(begin);
  return {[=](const Play& play) {
            if (const auto now = origin_of(play, body)) take(*state, *now);
          },
          [=] { return value(*state); }};
}

// Rises after touches: `ended` is told how high each was, from where the body touched.
struct Rises {
  std::optional<Origin> last;
  int touches = 0;
  double base = 0;
  Peak peak;
};

void follow_rises(Rises& rises, const Play& play, const std::string& body,
                  const std::function<void(int, double)>& ended) {
  const auto now = origin_of(play, body);
  if (!now) return;
  const bool touched = in_touch(play, body);
  if (touched) {
    if (rises.touches > 0) ended(rises.touches, rises.peak.value - rises.base);
    double moment = 0;
    for (const PlayEvent& e : play.events())
      if (e.phase == ContactPhase::touch && (e.a == body || e.b == body)) moment = e.moment;
    // Back from the tick's end to the touch, in free flight.
    const double since = 1 / play.running().world.settings().tick_rate - moment;
    rises.base = now->place.y() - since * now->velocity.y() + 0.5 * since * since * now->gravity.y();
    ++rises.touches;
    rises.peak = {};
  } else if (rises.last && !only_ticks(play)) {
    raise_between(rises.peak, *rises.last, *now, 1);
  }
  rises.peak.raise(now->place.y(), now->time);
  rises.last = now;
}

}  // namespace

Gauge apex(const Measure& measure) {
  return highest(measure, 1, false);
}
Gauge apex_time(const Measure& measure) {
  return highest(measure, 1, true);
}
Gauge lowest(const Measure& measure) {
  return highest(measure, -1, false);
}

Gauge farthest(const Measure& measure) {
  struct State {
    std::optional<Vec3> start;
    double most = never;
  };
  return of_origin(
      measure.thing, State{},
      [](State& state, const Origin& now) {
        if (!state.start) state.start = now.place;
        const Vec3 way = now.place - *state.start;
        state.most = std::fmax(state.most, std::hypot(way.x(), way.z()));
      },
      [](const State& state) { return state.most; });
}

Gauge top_speed(const Measure& measure) {
  return of_origin(
      measure.thing, never, [](double& most, const Origin& now) { most = std::fmax(most, now.speed); },
      [](double most) { return most; });
}

Gauge mean_speed(const Measure& measure) {
  return of_origin(
      measure.thing, std::array<double, 2>{},
      [](std::array<double, 2>& sum, const Origin& now) {
        sum[0] += now.speed;
        ++sum[1];
      },
      [](const std::array<double, 2>& sum) { return sum[0] / sum[1]; });
}

Gauge way(const Measure& measure) {
  struct State {
    std::optional<Vec3> last;
    double sum = never;
  };
  return of_origin(
      measure.thing, State{},
      [](State& state, const Origin& now) {
        state.sum = state.last ? state.sum + (now.place - *state.last).norm() : 0;
        state.last = now.place;
      },
      [](const State& state) { return state.sum; });
}

Gauge rest_time(const Measure& measure) {
  constexpr double still = 0.01, turning = 0.02;  // m/s, rad/s
  struct State {
    double since = never, last = never;
  };
  return of_origin(
      measure.thing, State{},
      [](State& state, const Origin& now) {
        const bool rests = now.asleep || (now.speed < still && now.spin < turning);
        if (!rests) state.since = never;
        if (rests && std::isnan(state.since)) state.since = now.time;
        state.last = now.time;
      },
      // The top of a throw is no rest: it must have lasted.
      [](const State& state) { return state.last - state.since >= 0.25 ? state.since : never; });
}

Gauge bounce(const Measure& measure) {
  struct State {
    Rises rises;
    double height = never;
  };
  const auto state = std::make_shared<State>();
  const std::string body = measure.thing;
  const int wanted = static_cast<int>(measure.number.value_or(1));
  return {[=](const Play& play) {
            follow_rises(state->rises, play, body, [&](int touch, double height) {
              if (touch == wanted) state->height = height;
            });
          },
          [=] {
            const Rises& rises = state->rises;
            return rises.touches == wanted ? rises.peak.value - rises.base : state->height;
          }};
}

Gauge bounces(const Measure& measure) {
  struct State {
    Rises rises;
    int count = 0;
  };
  const auto state = std::make_shared<State>();
  const std::string body = measure.thing;
  const double above = measure.number.value_or(0.01);
  return {[=](const Play& play) {
            follow_rises(state->rises, play, body, [&](int, double height) { state->count += height > above ? 1 : 0; });
          },
          [=] {
            const Rises& rises = state->rises;
            const bool last = rises.touches > 0 && rises.peak.value - rises.base > above;
            return static_cast<double>(state->count + (last ? 1 : 0));
          }};
}

Gauge fit(const Measure& measure) {
  struct State {
    std::size_t next = 0;
    std::optional<Origin> last;
    double squares = 0;
    int count = 0;
  };
  const auto state = std::make_shared<State>();
  const std::string body = measure.thing;
  const std::shared_ptr<const Track> track = measure.track;
  return {[=](const Play& play) {
            const auto now = origin_of(play, body);
            if (!now) return;
            while (state->next < track->times.size() && track->times[state->next] <= now->time + 1e-9) {
              const double time = track->times[state->next];
              const Vec3& seen = track->places[state->next];
              ++state->next;
              if (!state->last && time < now->time - 1e-9) continue;  // before there was anything
              // The cubic between the ticks.
              Vec3 place = now->place;
              if (state->last) {
                const Origin& a = *state->last;
                const double h = now->time - a.time, s = std::clamp((time - a.time) / h, 0.0, 1.0);
                const double t = 1 - s;
                place = t * t * (1 + 2 * s) * a.place + s * s * (3 - 2 * s) * now->place +
                        h * s * t * (t * a.velocity - s * now->velocity);
              }
              for (int i = 0; i < 3; ++i) {
                if (std::isnan(seen[i])) continue;
                state->squares += (place[i] - seen[i]) * (place[i] - seen[i]);
                ++state->count;
              }
            }
            state->last = now;
          },
          [=] { return state->count > 0 ? std::sqrt(state->squares / state->count) : never; }};
}

}  // namespace bronvel::gauges
