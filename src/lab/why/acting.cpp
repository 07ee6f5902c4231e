// Forces of a tick, gathered by cause.
#include "lab/why/acting.h"

#include <algorithm>
#include <cmath>

namespace bronvel {
namespace {

// What flies free of everything has no lines either, but is awake.
bool sleeps_through(const BookedTick& tick) {
  return tick.asleep && tick.count == 0;
}

// Of what sleeps, the last tick in which it did not, or the first that was booked.
std::int64_t awake_tick(const BookedBody& body, std::int64_t tick) {
  std::int64_t last = tick;
  // In the tick that puts it to sleep it was still held.
  while (last > body.first_tick && body.at(last) && sleeps_through(*body.at(last))) --last;
  return last;
}

bool within(std::span<const BookedBody* const> bodies, const NamedCause& cause) {
  switch (cause.cause) {
    case Cause::normal:
    case Cause::friction:
    case Cause::rolling:
    case Cause::torsion:
    case Cause::overlap:
    case Cause::hit:
    case Cause::hit_friction:
      return std::any_of(bodies.begin(), bodies.end(), [&](const BookedBody* body) { return body->name == cause.by; });
    default:
      return false;
  }
}

}  // namespace

WhatActs what_acts(std::span<const BookedBody* const> bodies, std::int64_t tick, double tick_rate) {
  WhatActs acts;
  acts.tick = tick;
  std::vector<double> weights;
  for (const BookedBody* body : bodies) {
    const BookedTick* now = body->at(tick);
    if (!now) continue;
    const std::int64_t awake = awake_tick(*body, tick);
    if (sleeps_through(*now)) {
      acts.asleep = true;
      acts.tick = awake;
    }
    const BookedTick& then = *body->at(awake);
    acts.changing += tick_rate * then.change;
    for (const BookedLine& line : body->lines_of(then)) {
      const NamedCause& cause = body->causes[line.cause];
      acts.net += tick_rate * line.impulse.cast<double>();
      if (cause.cause == Cause::solver || within(bodies, cause)) continue;
      auto found = std::find_if(acts.causes.begin(), acts.causes.end(),
                                [&](const Acting& acting) { return acting.cause == cause; });
      if (found == acts.causes.end()) {
        Acting fresh;
        fresh.cause = cause;
        acts.causes.push_back(fresh);
        weights.push_back(0);
        found = acts.causes.end() - 1;
      }
      double& weight = weights[static_cast<std::size_t>(found - acts.causes.begin())];
      const double rate = cause.at_once() ? 1 : tick_rate;
      found->force += rate * line.impulse.cast<double>();
      found->torque += rate * line.turn.cast<double>();
      found->power += rate * static_cast<double>(line.work);
      if (!line.has_place) continue;
      const double more = static_cast<double>(line.impulse.norm());
      found->at = weight + more > 0 ? Vec3((weight * found->at + more * line.at.cast<double>()) / (weight + more))
                                    : Vec3(line.at.cast<double>());
      weight += more;
      found->has_place = true;
    }
  }
  // What is rounding beside the rest says nothing.
  const auto size = [](const Acting& acting) { return acting.force.norm() + acting.torque.norm(); };
  std::array<double, 2> greatest{};
  for (const Acting& acting : acts.causes)
    greatest[acting.cause.at_once() ? 1 : 0] = std::max(greatest[acting.cause.at_once() ? 1 : 0], size(acting));
  for (Acting& acting : acts.causes) {
    const double most = greatest[acting.cause.at_once() ? 1 : 0];
    acting.share = most > 0 ? size(acting) / most : 0;
  }
  constexpr double rounding = 1e-9;
  std::erase_if(acts.causes, [](const Acting& acting) { return acting.share < rounding; });
  std::stable_sort(acts.causes.begin(), acts.causes.end(), [&](const Acting& a, const Acting& b) {
    if (a.cause.at_once() != b.cause.at_once()) return b.cause.at_once();
    return a.share > b.share;
  });
  return acts;
}

const char* direction_glyph(const Vec3& force) {
  const double length = force.norm();
  if (!(length > 0)) return "";
  constexpr double seen = 0.3;  // of its length, across the view
  if (std::hypot(force.x(), force.y()) < seen * length) return "·";
  static constexpr std::array<const char*, 8> glyphs{"→", "↗", "↑", "↖", "←", "↙", "↓", "↘"};
  const double eighth = std::atan2(force.y(), force.x()) / (pi / 4);
  return glyphs[static_cast<std::size_t>(std::lround(eighth) + 8) % 8];
}

std::string size_text(const Acting& acting) {
  const bool at_once = acting.cause.at_once();
  const double force = acting.force.norm(), torque = acting.torque.norm();
  if (force > 0 && (acting.has_place || torque == 0 || force > 1e-9 * torque))
    return si_text(force, at_once ? "N·s " : "N ") + direction_glyph(acting.force);
  return si_text(torque, at_once ? "N·m·s" : "N·m");
}

}  // namespace bronvel
