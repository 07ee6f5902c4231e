// Rounds of hits: who is looked at, in which order they are struck, and what that does to bodies and pairs.
#include "dynamics/impacts/impact.h"

#include <utility>

#include "dynamics/base/thread_pool.h"
#include "dynamics/bodies/integrate.h"
#include "dynamics/books/books.h"
#include "dynamics/impacts/collision_impulse.h"
#include "dynamics/impacts/time_of_impact.h"
#include "dynamics/narrow_phase/manifolds.h"
#include "dynamics/solver/contact_solver.h"

namespace bronvel {

/// A hit that a worker has found, of an active pair.
struct FoundHit {
  std::uint32_t active = 0;
  Hit hit;
};

/// One of a round's hits.
struct RoundHit {
  double moment = 0;  ///< s into the sub-step
  std::uint32_t active = 0;
  std::uint32_t pair = 0;
  const Hit* first_look = nullptr;  ///< as it was found, before any other of the round was struck

  bool operator<(const RoundHit& other) const {
    return moment != other.moment ? moment < other.moment : active < other.active;
  }
};

/// What looking for hits needs room for.
struct ImpactScratch {
  std::vector<RoundHit> hits;                ///< soonest first
  std::vector<std::vector<FoundHit>> found;  ///< by worker
  std::vector<std::vector<std::pair<std::uint32_t, Manifold>>>
      stale;                                          ///< by worker: pairs whose planes have to be renewed
  std::vector<std::vector<std::uint32_t>> not_found;  ///< by worker: pairs that joints may lead into one another
  /// Pairs that the iterations leave alone in this sub-step: without load, they might have been hit, and were not; or
  /// they were, and turn.
  std::vector<std::uint32_t> missed;
  // The active pairs of each body: those of body i are from first_of[i] to first_of[i + 1]. The same for a tick.
  bool around_listed = false;
  std::vector<std::uint32_t> first_of, pairs_of, next_of;
  std::vector<std::uint32_t> around;  ///< active pairs of what was struck in the last round
  std::vector<char> is_around;        ///< by active pair: it is among them already
  std::vector<std::uint32_t> level;   ///< by body: how many of this round's hits must go before its next one
  std::vector<std::uint32_t> level_of, first_of_level, by_level;
  bool joints_listed = false;  ///< in this sub-step
  JointsOfBodies joints;
  StruckGroup group;
  std::vector<std::pair<std::uint32_t, BodyState>> taken_along;  ///< by the joints of what is struck
  std::vector<std::uint32_t> struck;  ///< bodies that joints took along in this round, some more than once
};

namespace {

// After so many hits in a sub-step no further round is looked for, in large islands and in what is solved in double
// each: among so many it does not show what the iterations, which know no restitution, make of the rest.
constexpr std::size_t hits_affordable = 300;
struct HitsDealtWith {
  std::size_t hits_in_float = 0, hits_in_double = 0;
  std::size_t& of(bool in_double) { return in_double ? hits_in_double : hits_in_float; }
  bool more(bool in_double) const { return (in_double ? hits_in_double : hits_in_float) < hits_affordable; }
};

constexpr int most_rounds = 32;  // of passing hits on

// No point of the body moves faster than this within the sub-step, m/s.
double top_speed(const WorldState& state, std::uint32_t body, double h) {
  const BodyState& m = state.bodies[body];
  return m.velocity.norm() + surface_spin(state.records[body], m) * state.records[body].radius +
         h * state.scratch.expected_acceleration[body].norm();
}

void mark_struck(WorldState& state, std::uint32_t body, double moment, double h) {
  state.scratch.struck[body] = 1;
  state.scratch.top_speed[body] = std::max(state.scratch.top_speed[body], top_speed(state, body, h));
  state.scratch.struck_at[body] = moment;
}

// The joints that hold either body; null where there are none.
StruckGroup* group_of(WorldState& state, ImpactScratch& scratch, const Pair& pair) {
  if (!state.records[pair.a].jointed && !state.records[pair.b].jointed) return nullptr;
  if (!scratch.joints_listed) {
    scratch.joints = joints_of_bodies(state);
    scratch.joints_listed = true;
  }
  scratch.group.gather(state, scratch.joints, pair.a, pair.b);
  return scratch.group.any_joints() ? &scratch.group : nullptr;
}

// From now on the pair goes by the planes of a hit, found with its bodies at these motions; they have been set back
// since.
void go_by_planes_of(WorldState& state, Pair& pair, const Manifold& m, const BodyState& a, const BodyState& b) {
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  Manifold now = m;
  for (std::size_t i = 0; i < static_cast<std::size_t>(m.count); ++i) {
    // Where the point is on both bodies after they were set back: midway between them, with their gap.
    const Vec3 on_a = state.bodies[pair.a].centre + surface_turn(ra, a.orientation, state.bodies[pair.a].orientation) *
                                                        (m.points[i].point - a.centre);
    const Vec3 on_b = state.bodies[pair.b].centre + surface_turn(rb, b.orientation, state.bodies[pair.b].orientation) *
                                                        (m.points[i].point - b.centre);
    now.points[i].point = 0.5 * (on_a + on_b);
    now.points[i].separation = m.points[i].separation + m.normal.dot(on_b - on_a);
  }
  fetch_pair(state, pair);
  set_manifold_on_the_way(state, pair, now);
}

// Of a touch's first hit in the tick: where the two bodies meet, as they are at that moment.
HitPlace place_of(const WorldState& state, const Pair& pair, const Hit& hit, const BodyState& a, const BodyState& b,
                  const CollisionImpulse& given) {
  HitPlace place;
  place.pair = static_cast<std::uint32_t>(&pair - state.pairs.data());
  place.moment = state.scratch.sub_step_start + hit.moment;
  for (std::size_t i = 0; i < static_cast<std::size_t>(hit.manifold.count); ++i) {
    if (!given.points[i]) continue;
    const auto at = static_cast<std::size_t>(place.count++);
    place.points[at] = 0.5 * (a.centre + given.points[i]->arm_a + b.centre + given.points[i]->arm_b);
    place.rows[at] = static_cast<int>(i);
  }
  return place;
}

// The impulse of one point of a hit, along and across the normal, at the arm from where the body's centre was then.
void book_hit(WorldState& state, std::uint32_t body, std::uint32_t other, const Vec3& along, const Vec3& across,
              const Vec3& centre, const Vec3& arm) {
  if (!booked(state, body)) return;
  const Vec3 at = centre + arm;
  book(state, body, Cause::hit, by_body(state, other), along, arm.cross(along), &at);
  book(state, body, Cause::hit_friction, by_body(state, other), across, arm.cross(across), &at);
}

void strike(WorldState& state, ImpactScratch& scratch, Pair& pair, const Hit& hit, double h, int worker) {
  const Manifold& m = hit.manifold;
  const Vec3 &pull_a = state.scratch.expected_acceleration[pair.a],
             &pull_b = state.scratch.expected_acceleration[pair.b];
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  BodyState a = carried_on(ra, state.bodies[pair.a], pull_a, hit.moment);
  BodyState b = carried_on(rb, state.bodies[pair.b], pull_b, hit.moment);
  const auto count = static_cast<std::size_t>(m.count);
  StruckGroup* const group = group_of(state, scratch, pair);
  const BodyState a_before = a, b_before = b;
  const CollisionImpulse given = impulses_of(state, a, b, hit, pair, group);
  if (!pair.was_touching)
    state.scratch.hit_places[static_cast<std::size_t>(worker)].push_back(
        place_of(state, pair, hit, a_before, b_before, given));
  for (std::size_t i = 0; i < count; ++i) {
    if (!given.points[i]) continue;
    const Vec3 impulse = given.impulse(i, m.normal);
    const auto note = [&](std::uint32_t body, const BodyState& before, const BodyState& after, const Vec3& arm,
                          double sign) {
      // What is fixed is struck by many at once.
      if (!state.records[body].jointed || !state.records[body].dynamic()) return;
      state.scratch.hit_impulses[body].add(sign * impulse, before.centre + arm,
                                           0.5 * (before.velocity_at(arm) + after.velocity_at(arm)), h - hit.moment);
    };
    note(pair.a, a_before, a, given.points[i]->arm_a, -1);
    note(pair.b, b_before, b, given.points[i]->arm_b, 1);
    if (state.scratch.books) {
      book_hit(state, pair.a, pair.b, -given.normal[i] * m.normal, -given.friction[i], a_before.centre,
               given.points[i]->arm_a);
      book_hit(state, pair.b, pair.a, given.normal[i] * m.normal, given.friction[i], b_before.centre,
               given.points[i]->arm_b);
    }
  }
  // What turns, or is turned by joints, may seem to come near again by the sub-step's end: the iterations, which would
  // stop it, leave alone what a bounce has parted.
  constexpr double far = 0.03;  // rad
  const bool turns = group || h * std::max(surface_spin(ra, a), surface_spin(rb, b)) > far;
  pair.missed = turns && pair.surface.restitution > 0;
  // Back to the start of the sub-step, as if the bodies had always moved as they do after the hit.
  const auto settle = [&](std::uint32_t index, const BodyState& after) {
    const BodyRecord& record = state.records[index];
    if (!record.dynamic()) return;
    BodyState& body = state.bodies[index];
    // What it lay on until then holds it no longer: from here on it falls.
    const Vec3& pull =
        record.jointed ? state.scratch.expected_acceleration[index] : state.scratch.steady_acceleration[index];
    const Vec3 change = after.velocity - hit.moment * pull - body.velocity;
    if (!record.jointed)  // what it lay on held it until then
      book(state, index, Cause::normal, {},
           hit.moment * record.mass.mass * (state.scratch.expected_acceleration[index] - pull), Vec3::Zero());
    BodyState back = after;
    if (hit.moment != 0) {
      coast_turning(record, back, -hit.moment);
      state.scratch.put_elsewhere[index] = 1;
    }
    back.centre = body.centre - hit.moment * change;
    back.velocity = body.velocity + change;
    body = back;
  };
  if (group) {
    // The others that the joints took along, and what the joints bore, before any of them moves.
    for (std::size_t k = 0; k < group->bodies().size(); ++k) {
      const std::uint32_t body = group->bodies()[k];
      if (body == pair.a || body == pair.b) continue;
      BodyState after =
          carried_on(state.records[body], state.bodies[body], state.scratch.expected_acceleration[body], hit.moment);
      for (std::size_t i = 0; i < count; ++i) {
        if (!given.points[i]) continue;
        const Vec3 impulse = given.impulse(i, m.normal);
        after.velocity += given.points[i]->jointed->of_group[k].move * impulse;
        after.angular_velocity += given.points[i]->jointed->of_group[k].turn * impulse;
      }
      scratch.taken_along.emplace_back(body, after);
    }
    for (std::size_t i = 0; i < count; ++i)
      if (given.points[i])
        group->bear(state, given.points[i]->arm_a, given.points[i]->arm_b, given.impulse(i, m.normal));
    for (const auto& [body, after] : scratch.taken_along) {
      settle(body, after);
      mark_struck(state, body, hit.moment, h);
      scratch.struck.push_back(body);
    }
    scratch.taken_along.clear();
  }
  settle(pair.a, a);
  settle(pair.b, b);

  if (!hit.by_own_planes) go_by_planes_of(state, pair, m, a, b);
  const std::array<Vec3, 2> tangents = pair.tangents();
  for (std::size_t i = 0; i < count; ++i) {
    pair.points[i].total += given.normal[i];
    for (std::size_t t = 0; t < 2; ++t) pair.friction.slide_total[t] += tangents[t].dot(given.friction[i]);
  }
  if (!hit.by_own_planes) send_pair(state, pair);
}

// Whether the pair may be hit at all, by what is known without looking at it.
bool may_hit(const WorldState& state, const ActiveEnds& ends) {
  if (ends.fast) return true;
  const double speed = state.scratch.top_speed[ends.a] + state.scratch.top_speed[ends.b];
  return speed > state.settings.restitution_speed &&
         static_cast<double>(ends.least_gap) <= 2 * speed * state.tick_length();
}

void renew_planes(WorldState& state, Pair& pair, const Manifold& manifold) {
  fetch_pair(state, pair);
  set_manifold_on_the_way(state, pair, manifold);
  send_pair(state, pair);
}

// Looks at active pair which(k) for every k below `count`, where it may be hit; what is hit makes this round's hits.
template <class Which, class Wanted>
void find_hits(WorldState& state, ImpactScratch& scratch, double h, std::size_t count, const Which& which,
               const Wanted& wanted) {
  constexpr std::size_t worth_sharing = 400;  // pairs
  for (auto& each : scratch.found) each.clear();
  state.scratch.thread_pool->run_if_worth(count, worth_sharing, [&](int worker) {
    auto& mine = scratch.found[static_cast<std::size_t>(worker)];
    // Hits are where something falls, which is seldom spread evenly.
    state.scratch.thread_pool->deal(count, [&](std::size_t k) {
      const std::uint32_t i = which(k);
      const ActiveEnds& ends = state.scratch.active_ends[i];
      if (!may_hit(state, ends) || !wanted(ends)) return;
      const Hit hit = find_time_of_impact(state, state.pairs[state.scratch.active[i]], h);
      if (hit.any) mine.push_back({i, hit});
      if (hit.stale)
        scratch.stale[static_cast<std::size_t>(worker)].emplace_back(state.scratch.active[i], hit.manifold);
      else if (!hit.any && (state.records[ends.a].jointed || state.records[ends.b].jointed))
        scratch.not_found[static_cast<std::size_t>(worker)].push_back(state.scratch.active[i]);
    });
  });
  // Each of these by itself, in any order.
  const auto watch = [&](std::uint32_t index) {
    Pair& pair = state.pairs[index];
    if (pair.missed || pair.at_internal_edge || !(pair.surface.restitution > 0) || !may_come_near(state, pair, h))
      return;
    pair.missed = true;
    scratch.missed.push_back(index);
  };
  for (auto& mine : scratch.stale) {
    for (const auto& [index, manifold] : mine) {
      Pair& pair = state.pairs[index];
      renew_planes(state, pair, manifold);
      watch(index);
    }
    mine.clear();
  }
  for (auto& mine : scratch.not_found) {
    for (const std::uint32_t index : mine) {
      fetch_pair(state, state.pairs[index]);
      watch(index);
    }
    mine.clear();
  }
  scratch.hits.clear();
  for (const auto& mine : scratch.found)
    for (const FoundHit& each : mine)
      scratch.hits.push_back({each.hit.moment, each.active, state.scratch.active[each.active], &each.hit});
  std::sort(scratch.hits.begin(), scratch.hits.end());
}

// The hits of pairs that close by themselves.
void find_first_hits(WorldState& state, ImpactScratch& scratch, double h) {
  find_hits(
      state, scratch, h, state.scratch.active.size(), [](std::size_t k) { return static_cast<std::uint32_t>(k); },
      [&](const ActiveEnds& ends) { return ends.fast || may_close(state, ends); });
}

// Lists each body's active pairs.
void list_around(const WorldState& state, ImpactScratch& scratch) {
  scratch.first_of.assign(state.records.size() + 1, 0);
  for (const ActiveEnds& ends : state.scratch.active_ends) {
    if (ends.moves_a) ++scratch.first_of[ends.a + 1];
    if (ends.moves_b) ++scratch.first_of[ends.b + 1];
  }
  for (std::size_t i = 1; i < scratch.first_of.size(); ++i) scratch.first_of[i] += scratch.first_of[i - 1];
  scratch.pairs_of.resize(scratch.first_of.back());
  scratch.next_of.assign(scratch.first_of.begin(), scratch.first_of.end() - 1);
  for (std::uint32_t i = 0; i < state.scratch.active_ends.size(); ++i) {
    const ActiveEnds& ends = state.scratch.active_ends[i];
    if (ends.moves_a) scratch.pairs_of[scratch.next_of[ends.a]++] = i;
    if (ends.moves_b) scratch.pairs_of[scratch.next_of[ends.b]++] = i;
  }
}

// The hits that the last round's have brought about: only what was struck then can be hit anew.
void find_passed_on(WorldState& state, ImpactScratch& scratch, double h, const HitsDealtWith& dealt_with) {
  scratch.around.clear();
  scratch.is_around.resize(state.scratch.active.size(), 0);
  const auto add_around = [&](std::uint32_t body) {
    if (!std::exchange(scratch.around_listed, true)) list_around(state, scratch);
    for (std::uint32_t k = scratch.first_of[body]; k < scratch.first_of[body + 1]; ++k)
      if (std::exchange(scratch.is_around[scratch.pairs_of[k]], 1) == 0) scratch.around.push_back(scratch.pairs_of[k]);
  };
  for (const RoundHit& hit : scratch.hits) {
    const ActiveEnds& ends = state.scratch.active_ends[hit.active];
    // All that a body meets is in large islands, or all of it in double.
    if (!dealt_with.more(ends.in_double)) continue;
    for (const std::uint32_t body : {ends.a, ends.b})
      if (state.scratch.struck[body] != 0) add_around(body);
  }
  for (const std::uint32_t body : scratch.struck) add_around(body);
  scratch.struck.clear();
  for (const std::uint32_t i : scratch.around) scratch.is_around[i] = 0;
  find_hits(
      state, scratch, h, scratch.around.size(), [&](std::size_t k) { return scratch.around[k]; },
      [&](const ActiveEnds& ends) { return dealt_with.more(ends.in_double); });
}

// Gives one of the round's hits its impulse.
void strike_one(WorldState& state, ImpactScratch& scratch, const RoundHit& of_round, double h, int worker) {
  Pair& pair = state.pairs[of_round.pair];
  // What was struck in this round moves otherwise than when it was looked at.
  const bool changed = state.scratch.struck[pair.a] || state.scratch.struck[pair.b];
  const Hit hit = changed ? find_time_of_impact(state, pair, h) : *of_round.first_look;
  if (!hit.any) return;
  strike(state, scratch, pair, hit, h, worker);
  for (const std::uint32_t body : {pair.a, pair.b})
    if (state.records[body].dynamic()) mark_struck(state, body, hit.moment, h);
}

// The round's hits, soonest first. Only hits that share a moving body depend on one another: each goes one level below
// the last that shares one with it, and those of a level are shared out. That is the same as one after the other.
void strike_all(WorldState& state, ImpactScratch& scratch, double h) {
  constexpr std::size_t worth_sharing = 64;
  const auto& hits = scratch.hits;
  // Joints tie bodies together that no pair tells of.
  const bool jointed = std::any_of(hits.begin(), hits.end(), [&](const RoundHit& hit) {
    const ActiveEnds& ends = state.scratch.active_ends[hit.active];
    return state.records[ends.a].jointed || state.records[ends.b].jointed;
  });
  if (hits.size() < worth_sharing || state.scratch.thread_pool->workers() == 1 || jointed || state.scratch.books) {
    for (const RoundHit& hit : hits) strike_one(state, scratch, hit, h, 0);
    return;
  }
  scratch.level.assign(state.records.size(), 0);
  scratch.level_of.resize(hits.size());
  std::uint32_t levels = 0;
  for (std::size_t k = 0; k < hits.size(); ++k) {
    const ActiveEnds& ends = state.scratch.active_ends[hits[k].active];
    const std::uint32_t here =
        std::max(ends.moves_a ? scratch.level[ends.a] : 0, ends.moves_b ? scratch.level[ends.b] : 0);
    if (ends.moves_a) scratch.level[ends.a] = here + 1;
    if (ends.moves_b) scratch.level[ends.b] = here + 1;
    scratch.level_of[k] = here;
    levels = std::max(levels, here + 1);
  }
  scratch.first_of_level.assign(levels + 1, 0);
  for (const std::uint32_t here : scratch.level_of) ++scratch.first_of_level[here + 1];
  for (std::size_t i = 1; i <= levels; ++i) scratch.first_of_level[i] += scratch.first_of_level[i - 1];
  scratch.by_level.resize(hits.size());
  scratch.next_of.assign(scratch.first_of_level.begin(), scratch.first_of_level.end());
  for (std::uint32_t k = 0; k < hits.size(); ++k) scratch.by_level[scratch.next_of[scratch.level_of[k]]++] = k;
  // The eight pairs of a block of the solver lie side by side: one worker has them all.
  const auto workers = static_cast<std::uint32_t>(state.scratch.thread_pool->workers());
  state.scratch.thread_pool->run([&](int worker) {
    for (std::size_t level = 0; level < levels; ++level) {
      for (std::uint32_t k = scratch.first_of_level[level]; k < scratch.first_of_level[level + 1]; ++k) {
        const RoundHit& hit = hits[scratch.by_level[k]];
        if (state.scratch.active_ends[hit.active].block % workers == static_cast<std::uint32_t>(worker))
          strike_one(state, scratch, hit, h, worker);
      }
      state.scratch.thread_pool->wait();
    }
  });
}

// Of a body that joints hold, or that lies on something, as it was in the last sub-step; where that was a jolt, or
// nothing is known, as forces alone would have it.
Vec3 expected_acceleration(const WorldState& state, std::uint32_t body) {
  const Vec3& free = state.scratch.steady_acceleration[body];
  const BodyRecord& record = state.records[body];
  if (!(record.jointed || record.touching) || body >= state.borne_acceleration.size()) return free;
  constexpr double most = 1.5;
  const Vec3& borne = state.borne_acceleration[body];
  return (borne - free).norm() <= most * free.norm() ? borne : free;
}

}  // namespace

void begin_impacts(WorldState& state) {
  (*state.scratch.impacts).around_listed = false;
  state.scratch.hit_places.resize(static_cast<std::size_t>(state.scratch.thread_pool->workers()));
  for (auto& places : state.scratch.hit_places) places.clear();
}

void resolve_impacts(WorldState& state, double h) {
  state.scratch.struck_at.assign(state.bodies.size(), 0.0);
  if (!state.joints.empty()) state.scratch.hit_impulses.assign(state.bodies.size(), {});
  std::vector<double>& fastest = state.scratch.top_speed;
  constexpr std::size_t worth_sharing = 500;
  state.scratch.thread_pool->each(state.bodies.size(), worth_sharing, [&](std::size_t i) {
    fetch_ahead(state.records, i);
    const auto body = static_cast<std::uint32_t>(i);
    if (state.scratch.moving[i] == 0) return;
    state.scratch.steady_acceleration[i] = steady_acceleration(state, body);
    state.scratch.expected_acceleration[i] = expected_acceleration(state, body);
    // Of the whole tick: the gaps that it is held against are those of the tick's start.
    fastest[i] = std::max(fastest[i], top_speed(state, body, h));
  });
  state.scratch.struck.resize(state.bodies.size());
  look_for_closing(state, h);
  ImpactScratch& scratch = *state.scratch.impacts;
  scratch.found.resize(static_cast<std::size_t>(state.scratch.thread_pool->workers()));
  scratch.stale.resize(static_cast<std::size_t>(state.scratch.thread_pool->workers()));
  scratch.not_found.resize(static_cast<std::size_t>(state.scratch.thread_pool->workers()));
  scratch.joints_listed = false;
  HitsDealtWith dealt_with;
  for (int round = 0; round < most_rounds && (dealt_with.more(false) || dealt_with.more(true)); ++round) {
    if (round == 0)
      find_first_hits(state, scratch, h);
    else
      find_passed_on(state, scratch, h, dealt_with);
    if (scratch.hits.empty()) break;
    std::fill(state.scratch.struck.begin(), state.scratch.struck.end(), 0);
    scratch.struck.clear();
    strike_all(state, scratch, h);
    for (const RoundHit& hit : scratch.hits) {
      if (state.pairs[hit.pair].missed) scratch.missed.push_back(hit.pair);
      ++dealt_with.of(state.scratch.active_ends[hit.active].in_double);
    }
  }
  for (const std::uint32_t index : scratch.missed) {
    state.pairs[index].passing = state.pairs[index].missed;
    send_passing(state, state.pairs[index]);
  }
}

void forget_missed(WorldState& state) {
  ImpactScratch& scratch = *state.scratch.impacts;
  for (const std::uint32_t index : scratch.missed) {
    state.pairs[index].passing = state.pairs[index].missed = false;
    send_passing(state, state.pairs[index]);
  }
  scratch.missed.clear();
}

}  // namespace bronvel
