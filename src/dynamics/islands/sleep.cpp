// Putting islands to sleep and waking them.
#include "dynamics/islands/sleep.h"

#include <atomic>
#include <utility>

#include "dynamics/base/thread_pool.h"
#include "dynamics/bodies/movers.h"
#include "geometry/base/disjoint_sets.h"

namespace bronvel {
namespace {

constexpr double still_speed = 0.02;    // m/s, of any point of the body: faster is surely not at rest
constexpr double afloat_speed = 0.002;  // m/s, where only water holds it: it creeps long towards its draught
constexpr double still_time = 0.5;      // s

bool is_dynamic(const WorldState& state, std::uint32_t body) {
  return body < state.records.size() && state.records[body].dynamic();
}

// How far any point of it may be from where it was then, m.
double way_since(const BodyRecord& record, const BodyState& motion, const BodyRecord::Rest& rest) {
  return (motion.centre - rest.centre).norm() +
         2 * (motion.orientation.coeffs() - rest.orientation.coeffs()).norm() * record.radius;
}

// Whether no point of it has gone farther than `way` within the time for it. Once it has, it is looked at from there
// on.
bool stays(const BodyRecord& record, const BodyState& motion, BodyRecord::Rest& rest, double way, double time,
           double dt) {
  rest.lasted += dt;
  if (way_since(record, motion, rest) < way) return rest.lasted > time;
  rest = {motion.centre, motion.orientation, 0};
  return false;
}

// Whether it has gone no farther than what rests may, or four or sixteen times as far in as many times as long. What
// goes slowly but on its way, a puck on ice or a door in oil, is not at rest; what trembles or sways in its place is,
// and so is what is jolted now and then.
bool rests(const WorldState& state, BodyRecord& record, const BodyState& motion) {
  constexpr double longer = 4;
  constexpr double share_afloat = 0.002;  // of its size: a small float is still on its way where a large one rests
  const bool floats = record.afloat && !record.touching && !record.jointed;
  const double least = state.settings.rest_way;
  const double way = floats ? std::min(least, share_afloat * record.radius) : least, dt = state.tick_length();
  const bool near = way_since(record, motion, record.rest) < way;
  const bool for_long =
      stays(record, motion, record.long_rest, longer * longer * way, (longer * longer - 1) * still_time, dt);
  return stays(record, motion, record.rest, longer * way, (longer - 1) * still_time, dt) || near || for_long;
}

// Whether it has been speeding up evenly from rest, as what weakly pulls makes it: s = ½ a t² and v = a t, so that
// v t = 2 s along one way. What trembles goes to and fro, and what creeps evenly has v t = s.
bool speeds_up(const Vec3& way, const Vec3& speed, double time) {
  const double along = way.dot(speed), gone = way.norm(), fast = speed.norm();
  return along > 0.9 * gone * fast && fast * time > 1.5 * gone && fast * time < 3 * gone;
}

bool begins_to_move(const BodyRecord& record, const BodyState& motion) {
  constexpr double least = 1e-6;  // m: less may be rounding
  const Vec3 way = motion.centre - record.rest.centre;
  const Quat turned = motion.orientation * record.rest.orientation.conjugate();
  const Vec3 turn = 2 * (turned.w() < 0 ? -1 : 1) * turned.vec();  // rad: it is small
  return (way.norm() > least && speeds_up(way, motion.velocity, record.rest.lasted)) ||
         (turn.norm() * record.radius > least && speeds_up(turn, motion.angular_velocity, record.rest.lasted));
}

bool joins(const WorldState& state, const Pair& pair) {
  const BodyRecord &a = state.records[pair.a], &b = state.records[pair.b];
  return pair.alive && pair.touching && a.dynamic() && b.dynamic() && a.solid && b.solid;
}

}  // namespace

void join_by_joints(const WorldState& state, std::vector<std::uint32_t>& islands) {
  for (const JointRecord& joint : state.joints) {
    const std::uint32_t a = joint.settings.a.index, b = joint.settings.b.index;
    if (joint.alive && is_dynamic(state, a) && is_dynamic(state, b)) join_sets(islands, a, b);
  }
}

void put_to_sleep(WorldState& state) {
  const double dt = state.tick_length();
  constexpr std::size_t worth_sharing = 500;  // bodies
  std::atomic<bool> any = false, all_quiet = true;
  state.scratch.thread_pool->each(state.records.size(), worth_sharing, [&](std::size_t i) {
    fetch_ahead(state.records, i);
    BodyRecord& record = state.records[i];
    if (!record.alive || record.asleep || record.kind == MotionKind::fixed) return;
    const BodyState& motion = state.bodies[i];
    // Told once: who writes where others read makes them wait.
    if (all_quiet.load(std::memory_order_relaxed) &&
        (record.dynamic() || !motion.velocity.isZero() || !motion.angular_velocity.isZero()))
      all_quiet.store(false, std::memory_order_relaxed);
    if (!record.dynamic()) return;
    const double speed = motion.velocity.norm() + motion.angular_velocity.norm() * record.radius;
    const bool still = !record.driven && !record.in_moving_medium &&
                       speed < (record.touching || record.jointed ? still_speed : afloat_speed) &&
                       record.settings.may_sleep && record.force.isZero() && record.torque.isZero() &&
                       (record.touching || record.jointed || record.afloat) && rests(state, record, motion);
    record.afloat = record.in_moving_medium = false;
    record.still_for = still ? record.still_for + dt : 0;
    // (What only lies on others is held by them, or pushed: it trembles, and creeps as they give.)
    if (record.still_for >= still_time && record.jointed && begins_to_move(record, motion)) record.still_for = 0;
    if (record.still_for >= still_time && !any.load(std::memory_order_relaxed))
      any.store(true, std::memory_order_relaxed);
  });
  state.quiet = all_quiet;
  if (!any) return;
  std::vector<std::uint32_t>& parent = state.scratch.island;
  make_sets(parent, state.records.size());
  for (const Pair& pair : state.pairs)
    if (joins(state, pair)) join_sets(parent, pair.a, pair.b);
  join_by_joints(state, parent);
  // An island is as awake as its liveliest body. A mover beneath it, or that holds it, keeps it awake.
  std::vector<double>& least = state.scratch.still;
  least.assign(state.records.size(), 1e300);
  for (std::uint32_t i = 0; i < state.records.size(); ++i) {
    const BodyRecord& record = state.records[i];
    if (!record.alive || !record.dynamic()) continue;
    double& island = least[find_set(parent, i)];
    island = std::min(island, record.asleep ? 1e300 : record.still_for);
  }
  const auto keep_awake = [&](std::uint32_t mover, std::uint32_t rider) {
    if (!is_dynamic(state, rider) || mover >= state.records.size()) return;
    const BodyState& motion = state.bodies[mover];
    const BodyRecord& record = state.records[mover];
    const MoverRecord* came = came_there(state, mover, state.tick + 1);
    const bool arrived = came && !(came->velocity.isZero() && came->spin.isZero());
    const bool moving = record.kind == MotionKind::kinematic &&
                        (arrived || !motion.velocity.isZero() || !motion.angular_velocity.isZero());
    if (moving) least[find_set(parent, rider)] = 0;
  };
  for (const Pair& pair : state.pairs) {
    if (!pair.alive || !pair.touching) continue;
    keep_awake(pair.a, pair.b);
    keep_awake(pair.b, pair.a);
  }
  for (const JointRecord& joint : state.joints) {
    if (!joint.alive) continue;
    keep_awake(joint.settings.a.index, joint.settings.b.index);
    keep_awake(joint.settings.b.index, joint.settings.a.index);
  }
  for (std::uint32_t i = 0; i < state.records.size(); ++i) {
    BodyRecord& record = state.records[i];
    if (!record.alive || !record.dynamic() || record.asleep) continue;
    if (least[find_set(parent, i)] < still_time) continue;
    record.asleep = true;
    state.bodies[i].velocity.setZero();
    state.bodies[i].angular_velocity.setZero();
  }
}

namespace {

// From one walk over the pairs.
const ContactGraph& contact_graph(WorldState& state) {
  ContactGraph& graph = state.scratch.graph;
  if (std::exchange(graph.listed, true)) return graph;
  const auto each = [&](const auto& f) {
    for (const Pair& pair : state.pairs)
      if (pair.alive && pair.touching) f(pair.a, pair.b);
  };
  graph.starts.assign(state.records.size() + 1, 0);
  each([&](std::uint32_t a, std::uint32_t b) {
    ++graph.starts[a + 1];
    ++graph.starts[b + 1];
  });
  for (std::size_t i = 1; i < graph.starts.size(); ++i) graph.starts[i] += graph.starts[i - 1];
  graph.others.resize(graph.starts.back());
  std::vector<std::uint32_t> next(graph.starts.begin(), graph.starts.end() - 1);
  each([&](std::uint32_t a, std::uint32_t b) {
    graph.others[next[a]++] = b;
    graph.others[next[b]++] = a;
  });
  return graph;
}

// Wakes these bodies, asleep or not, and all that hang together with them.
void wake_all(WorldState& state, std::vector<std::uint32_t> waiting) {
  state.disturbed = true;
  const ContactGraph& graph = contact_graph(state);
  std::size_t first_ones = waiting.size();
  while (!waiting.empty()) {
    const std::uint32_t i = waiting.back();
    waiting.pop_back();
    BodyRecord& record = state.records[i];
    record.still_for = 0;
    // The first are looked around from even if they are awake.
    const bool asked = waiting.size() < first_ones;
    first_ones = std::min(first_ones, waiting.size());
    if (!record.asleep && !asked) continue;
    record.asleep = false;
    // What came since it was listed touches nothing yet.
    const bool known = i + 1 < graph.starts.size();
    for (std::uint32_t k = known ? graph.starts[i] : 0; known && k < graph.starts[i + 1]; ++k)
      if (state.records[graph.others[k]].asleep) waiting.push_back(graph.others[k]);
    if (!record.jointed) continue;
    for (const JointRecord& joint : state.joints) {
      const std::uint32_t a = joint.settings.a.index, b = joint.settings.b.index;
      if (!joint.alive || (a != i && b != i)) continue;
      const std::uint32_t other = a == i ? b : a;
      if (is_dynamic(state, other) && state.records[other].asleep) waiting.push_back(other);
    }
  }
}

// Whether the mover may come to touch the other in this tick. What only stands beside it does not: two that took turns
// at falling asleep would wake one another for ever.
bool gets_there(const WorldState& state, const Pair& pair, const BodyRecord& mover, double speed) {
  if (pair.touching) return false;
  const double dt = state.tick_length();
  const double falls = mover.touching || mover.jointed ? 0 : dt * state.settings.gravity.norm();
  const double way = dt * (2 * speed + falls);
  return std::any_of(pair.points.begin(), pair.points.begin() + pair.found,
                     [&](const ManifoldPoint& row) { return row.gap < way; });
}

}  // namespace

void wake_island(WorldState& state, std::uint32_t body) {
  state.disturbed = true;
  BodyRecord& record = state.records[body];
  // Awake and touching nothing that sleeps, as most are that are asked for: no need to look around.
  if (record.dynamic() && !record.asleep && !record.touching && !record.jointed) {
    record.still_for = 0;
    return;
  }
  wake_all(state, {body});
}

bool sleepers_lie_still(const WorldState& state) {
  for (std::size_t i = 0; i < state.records.size(); ++i) {
    const BodyRecord& record = state.records[i];
    const BodyState& motion = state.bodies[i];
    if (record.alive && record.dynamic() && record.asleep &&
        !(motion.velocity.isZero() && motion.angular_velocity.isZero()))
      return false;
  }
  return true;
}

bool wake_met(WorldState& state) {
  const std::vector<char>& sleeping = state.scratch.sleeping;
  if (std::find(sleeping.begin(), sleeping.end(), 1) == sleeping.end()) return false;
  std::vector<double>& given = state.scratch.wake_speed;
  std::vector<std::uint32_t> sleepers;
  double fastest = 0;  // that any of them may be struck to, m/s
  for (const std::uint32_t p : state.listed) {
    const Pair& pair = state.pairs[p];
    if (pair.apart || sleeping[pair.a] == sleeping[pair.b]) continue;
    const BodyRecord &a = state.records[pair.a], &b = state.records[pair.b];
    const std::uint32_t mover = a.asleep ? pair.b : pair.a, sleeper = a.asleep ? pair.a : pair.b;
    const BodyRecord &record = state.records[mover], &struck = state.records[sleeper];
    if (record.kind == MotionKind::fixed || !record.solid || !struck.solid) continue;
    if (!a.bounds.overlaps(b.bounds)) continue;
    const BodyState& motion = state.bodies[mover];
    const double own = motion.velocity.norm() + motion.angular_velocity.norm() * record.radius;
    const double speed = std::max(own, mover < given.size() ? given[mover] : 0.0);
    if (speed <= 2 * still_speed && !gets_there(state, pair, record, speed)) continue;
    sleepers.push_back(sleeper);
    // What is struck goes no faster than by a hit that gives all back (two masses in a line).
    const double share =
        record.dynamic() ? 2 * record.settings.mass / (record.settings.mass + struck.settings.mass) : 2.0;
    fastest = std::max(fastest, std::max(share, 1.0) * speed);
  }
  if (sleepers.empty()) return false;
  wake_all(state, std::move(sleepers));
  given.resize(state.records.size(), 0);
  for (std::size_t i = 0; i < state.records.size(); ++i)
    if (sleeping[i] != 0 && !state.records[i].asleep) given[i] = fastest;
  return true;
}

}  // namespace bronvel
