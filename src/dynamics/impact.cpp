// Resolving hits.
#include "dynamics/impact.h"

#include "dynamics/contact_pairs.h"
#include "dynamics/contact_solver.h"
#include "dynamics/integrate.h"
#include "dynamics/team.h"

namespace bronvel {

/// A pair that will be hit.
struct Hit {
  bool any = false;
  double moment = 0;  ///< s into the sub-step
  Manifold manifold;  ///< at the moment
};

/// What looking for hits needs room for.
struct ImpactScratch {
  std::vector<std::pair<std::uint32_t, Hit>> hits;                ///< of active pairs
  std::vector<std::vector<std::pair<std::uint32_t, Hit>>> found;  ///< by worker
};

namespace {

constexpr int most_rounds = 32;  // of passing hits on
constexpr int most_looks = 8;    // at where the shapes really are on the way to a hit
constexpr int most_swept_looks = 40;
constexpr double touching_gap = 0.005;  // m: pairs nearer than this keep their contact while they are swept
constexpr int most_iterations = 24;     // over the points of one manifold
constexpr double same_moment = 1e-4;    // m: points within this of touching are hit together

// Seconds until a gap closes at speed u with acceleration a, or more than `h` if it does not.
double time_to_close(double gap, double u, double a, double h) {
  if (gap <= 0) return 0;
  const double under_root = u * u + 2 * a * gap;
  if (under_root < 0) return 2 * h;
  const double below = u + std::sqrt(under_root);
  return below > 0 ? 2 * gap / below : 2 * h;
}

// The body as it will be in `moment` seconds if nothing but steady forces acts on it.
Motion carried_on(const BodyRecord& record, const Motion& body, const Vec3& acceleration, double moment) {
  Motion later = body;
  later.centre += moment * (body.velocity + 0.5 * moment * acceleration);
  later.velocity += moment * acceleration;
  coast_turning(record, later, moment);
  return later;
}

// The first moment in the sub-step at which a point of the pair would be met faster than the restitution speed, by the
// planes that the pair knows.
double first_moment(const WorldState& state, const Pair& pair, double closing_pull, double h) {
  const Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
  const Motion &a0 = state.at_start[pair.a], &b0 = state.at_start[pair.b];
  const Quat turn_a = a.orientation * a0.orientation.conjugate(), turn_b = b.orientation * b0.orientation.conjugate();
  const Vec3 drift = (b.centre - b0.centre) - (a.centre - a0.centre);
  double first = 2 * h;
  for (std::size_t i = 0; i < static_cast<std::size_t>(pair.count); ++i) {
    const ContactRow& row = pair.rows[i];
    const Vec3 arm_a = turn_a * row.arm_a, arm_b = turn_b * row.arm_b;
    const double gap = row.gap + pair.normal.dot(drift + (arm_b - row.arm_b) - (arm_a - row.arm_a));
    const double speed = -pair.normal.dot(b.velocity_at(arm_b) - a.velocity_at(arm_a));
    const double moment = time_to_close(gap, speed, closing_pull, h);
    if (moment > h || speed + closing_pull * moment <= state.settings.restitution_speed) continue;
    first = std::min(first, moment);
  }
  return first;
}

// A fast pair: on the way from now to the sub-step's end, how far can it go before it touches? Conservative advancement
// (Mirtich, 1996): never farther than the gap over the fastest that any two points may close.
Hit find_swept_hit(const WorldState& state, const Pair& pair, double start, double h, bool& apart) {
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  const Vec3 pull_a = steady_acceleration(state, pair.a), pull_b = steady_acceleration(state, pair.b);
  const double reach = ra.heading + rb.heading + 1e-3;
  Hit hit;
  hit.moment = start;
  apart = false;
  for (int look = 0; look < most_swept_looks; ++look) {
    const Motion a = carried_on(ra, state.motions[pair.a], pull_a, hit.moment);
    const Motion b = carried_on(rb, state.motions[pair.b], pull_b, hit.moment);
    const PartGap apart_now = part_gap(state, pair, a, b);
    if (look == 0) apart = apart_now.gap > touching_gap;
    if (apart_now.gap <= same_moment) {
      hit.manifold = collide_parts(state, pair, a, b, reach);
      double closing = -1e300;
      for (int i = 0; i < hit.manifold.count; ++i) {
        const ContactPoint& point = hit.manifold.points[static_cast<std::size_t>(i)];
        if (point.separation > same_moment) continue;
        closing = std::max(closing, -hit.manifold.normal.dot(b.velocity_at(point.point - b.centre) -
                                                             a.velocity_at(point.point - a.centre)));
      }
      hit.any = closing > state.settings.restitution_speed;
      if (hit.any || (look == 0 && hit.manifold.count > 0)) return hit;
    }
    const double speed = -apart_now.normal.dot(b.velocity - a.velocity) + a.angular_velocity.norm() * ra.radius +
                         b.angular_velocity.norm() * rb.radius + (pull_b - pull_a).norm() * h;
    if (speed <= 0) return hit;
    hit.moment += std::max(apart_now.gap, 0.5 * same_moment) / speed;
    if (hit.moment > h) return hit;
  }
  return hit;
}

Hit find_hit(const WorldState& state, const Pair& pair, double h) {
  const Vec3 pull_a = steady_acceleration(state, pair.a), pull_b = steady_acceleration(state, pair.b);
  Hit hit;
  hit.moment = first_moment(state, pair, -pair.normal.dot(pull_b - pull_a), h);
  if (hit.moment > h) return hit;
  // The planes are those of the tick's start: look where the shapes really are at that moment, and go on from there.
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  const double reach = ra.heading + rb.heading + 1e-3;
  for (int look = 0; look < most_looks; ++look) {
    const Motion a = carried_on(ra, state.motions[pair.a], pull_a, hit.moment);
    const Motion b = carried_on(rb, state.motions[pair.b], pull_b, hit.moment);
    hit.manifold = collide_parts(state, pair, a, b, reach);
    double soonest = 2 * h;
    for (int i = 0; i < hit.manifold.count; ++i) {
      const ContactPoint& point = hit.manifold.points[static_cast<std::size_t>(i)];
      const double closing =
          -hit.manifold.normal.dot(b.velocity_at(point.point - b.centre) - a.velocity_at(point.point - a.centre));
      if (closing <= state.settings.restitution_speed) continue;
      if (point.separation <= same_moment) {
        hit.any = true;
        return hit;
      }
      soonest = std::min(soonest, point.separation / closing);
    }
    hit.moment += soonest;
    if (hit.moment > h) return hit;
  }
  return hit;
}

void strike(WorldState& state, Pair& pair, const Hit& hit) {
  const Manifold& m = hit.manifold;
  const Motion a_before = state.motions[pair.a], b_before = state.motions[pair.b];
  const Vec3 pull_a = steady_acceleration(state, pair.a), pull_b = steady_acceleration(state, pair.b);
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  Motion a = carried_on(ra, a_before, pull_a, hit.moment), b = carried_on(rb, b_before, pull_b, hit.moment);
  std::array<double, 4> normal{}, wanted{};
  std::array<Vec3, 4> friction{Vec3::Zero(), Vec3::Zero(), Vec3::Zero(), Vec3::Zero()};
  const auto count = static_cast<std::size_t>(m.count);
  const auto relative = [&](std::size_t i) -> Vec3 {
    return b.velocity_at(m.points[i].point - b.centre) - a.velocity_at(m.points[i].point - a.centre);
  };
  for (std::size_t i = 0; i < count; ++i) {
    const double closing = -m.normal.dot(relative(i));
    wanted[i] = std::max(closing, 0.0) * pair.surface.restitution;
    if (m.points[i].separation <= same_moment) pair.closing_speed = std::max(pair.closing_speed, closing);
  }
  for (int iteration = 0; iteration < most_iterations; ++iteration) {
    double greatest_change = 0;
    for (std::size_t i = 0; i < count; ++i) {
      if (m.points[i].separation > same_moment) continue;
      const Vec3 arm_a = m.points[i].point - a.centre, arm_b = m.points[i].point - b.centre;
      const double mass = effective_mass(a, b, arm_a, arm_b, m.normal);
      const double impulse = std::max(normal[i] + mass * (wanted[i] - m.normal.dot(relative(i))), 0.0);
      const Vec3 push = m.normal * (impulse - normal[i]);
      greatest_change = std::max(greatest_change, std::abs(impulse - normal[i]));
      normal[i] = impulse;
      a.push(-push, arm_a);
      b.push(push, arm_b);

      const Vec3 velocity = relative(i);
      const Vec3 slip = velocity - m.normal * m.normal.dot(velocity);
      const double slip_speed = slip.norm();
      if (slip_speed < 1e-12) continue;
      const Vec3 way = slip / slip_speed;
      const Vec3 held = friction[i] - way * (slip_speed * effective_mass(a, b, arm_a, arm_b, way));
      const double size = held.norm();
      const Vec3 kept = size > pair.surface.static_friction * normal[i]
                            ? Vec3(held * (pair.surface.dynamic_friction * normal[i] / size))
                            : held;
      const Vec3 across = kept - friction[i];
      friction[i] = kept;
      a.push(-across, arm_a);
      b.push(across, arm_b);
    }
    if (greatest_change <= 1e-12 * (1 + normal[0])) break;
  }
  // Back to the start of the sub-step, as if the bodies had always moved as they do after the hit.
  const auto settle = [&](const BodyRecord& record, Motion& body, const Motion& after, const Vec3& pull) {
    if (!record.dynamic()) return;
    const Vec3 change = after.velocity - hit.moment * pull - body.velocity;
    Motion back = after;
    coast_turning(record, back, -hit.moment);
    back.centre = body.centre - hit.moment * change;
    back.velocity = body.velocity + change;
    body = back;
  };
  settle(ra, state.motions[pair.a], a, pull_a);
  settle(rb, state.motions[pair.b], b, pull_b);

  // From here on the pair goes by the planes of the hit.
  Manifold now = m;
  for (std::size_t i = 0; i < count; ++i) {
    // Where the point is on both bodies after they were set back: midway between them, with their gap.
    const Vec3 on_a = state.motions[pair.a].centre +
                      (state.motions[pair.a].orientation * a.orientation.conjugate()) * (m.points[i].point - a.centre);
    const Vec3 on_b = state.motions[pair.b].centre +
                      (state.motions[pair.b].orientation * b.orientation.conjugate()) * (m.points[i].point - b.centre);
    now.points[i].point = 0.5 * (on_a + on_b);
    now.points[i].separation = m.points[i].separation + m.normal.dot(on_b - on_a);
  }
  fetch_pair(state, pair);
  set_manifold(state, pair, now);
  for (std::size_t i = 0; i < count; ++i) {
    pair.rows[i].total += normal[i];
    for (std::size_t t = 0; t < 2; ++t) pair.friction.slide_total[t] += pair.tangents[t].dot(friction[i]);
  }
  send_pair(state, pair);
}

}  // namespace

namespace {

// No point of the body moves faster than this within the sub-step, m/s.
double top_speed(const WorldState& state, std::uint32_t body, double h) {
  const Motion& m = state.motions[body];
  return m.velocity.norm() + m.angular_velocity.norm() * state.records[body].radius +
         h * steady_acceleration(state, body).norm();
}

}  // namespace

void resolve_impacts(WorldState& state, double h) {
  state.struck_at.assign(state.motions.size(), 0.0);
  std::vector<double>& fastest = state.top_speed;
  constexpr std::size_t worth_sharing = 500;
  state.team->each(state.motions.size(), worth_sharing, [&](std::size_t i) {
    const auto body = static_cast<std::uint32_t>(i);
    // Of the whole tick: the gaps that it is held against are those of the tick's start.
    if (state.records[i].alive && !state.records[i].asleep)
      fastest[i] = std::max(fastest[i], top_speed(state, body, h));
  });
  const auto look = [&](Pair& pair) {
    if (!pair.fast) return find_hit(state, pair, h);
    // A struck body's way before its last hit in this sub-step is only a figure of reckoning: look from there on.
    bool apart = false;
    const double start = std::max(state.struck_at[pair.a], state.struck_at[pair.b]);
    const Hit hit = find_swept_hit(state, pair, start, h, apart);
    // The plane of a fast pair that stays apart says nothing about where it is going: it must not hold it up.
    pair.passing = !hit.any && apart;
    return hit;
  };
  ImpactScratch& scratch = *state.impact_scratch;
  auto& found = scratch.found;
  found.resize(static_cast<std::size_t>(state.team->workers()));
  auto& hits = scratch.hits;  // of this round, soonest first
  std::vector<char>& struck = state.struck;
  struck.assign(state.motions.size(), 1);
  // Whether the pair may be hit at all, by what is known without looking at it.
  const double left = state.tick_length();
  const auto may_hit = [&](const ActiveEnds& ends) {
    if (!struck[ends.a] && !struck[ends.b]) return false;
    if (ends.fast) return true;
    const double speed = fastest[ends.a] + fastest[ends.b];
    return speed > state.settings.restitution_speed && static_cast<double>(ends.least_gap) <= 2 * speed * left;
  };
  for (int round = 0; round < most_rounds; ++round) {
    hits.clear();
    const auto job = [&](int worker) {
      auto& mine = found[static_cast<std::size_t>(worker)];
      mine.clear();
      const Team::Share part = state.team->share(state.active.size(), worker);
      for (std::size_t i = part.first; i < part.last; ++i) {
        // After the first round only what was struck in the last one can bring new hits.
        if (!may_hit(state.active_ends[i])) continue;
        const Hit hit = look(state.pairs[state.active[i]]);
        if (hit.any) mine.emplace_back(state.active[i], hit);
      }
    };
    if (round > 0 || state.active.size() < worth_sharing)
      state.team->run_alone(job);
    else
      state.team->run(job);
    for (auto& mine : found) {
      hits.insert(hits.end(), mine.begin(), mine.end());
      mine.clear();
    }
    if (hits.empty()) return;
    std::stable_sort(hits.begin(), hits.end(),
                     [](const auto& x, const auto& y) { return x.second.moment < y.second.moment; });
    std::fill(struck.begin(), struck.end(), 0);
    for (const auto& [p, first_look] : hits) {
      Pair& pair = state.pairs[p];
      // What was struck in this round moves otherwise than when it was looked at.
      const bool changed = struck[pair.a] || struck[pair.b];
      const Hit hit = changed ? look(pair) : first_look;
      if (!hit.any) continue;
      strike(state, pair, hit);
      for (const std::uint32_t body : {pair.a, pair.b}) {
        if (!state.records[body].dynamic()) continue;
        struck[body] = 1;
        fastest[body] = std::max(fastest[body], top_speed(state, body, h));
        state.struck_at[body] = hit.moment;
      }
    }
  }
}

}  // namespace bronvel
