// Packing and iterations of the contact solver.
#include "dynamics/solver/contact_solver.h"

#include <cassert>
#include <utility>

#include "dynamics/base/thread_pool.h"
#include "dynamics/bodies/integrate.h"
#include "dynamics/narrow_phase/manifolds.h"
#include "dynamics/solver/conjugate_gradient.h"
#include "dynamics/solver/contact_kernel.h"
#include "dynamics/solver/contact_precision.h"
#include "dynamics/solver/contact_system.h"
#include "dynamics/solver/large_island_energy.h"

namespace bronvel {
namespace {

// Overlap is pushed apart at this rate (Baumgarte factor over the step), up to this speed.
constexpr double baumgarte_rate = 9;  // 1/s
constexpr double recovery_speed = 3;  // m/s

// Iterations end when the largest change of velocity is below this share of |g| h (1 m/s² × h without gravity), or
// below the second share of the first iteration's change.
constexpr double small_change = 1e-4;

// See small_change.
constexpr double small_next_to_first = 1e-3;

// Enough for contacts between resting bodies, whose warm start is nearly exact.
constexpr int iterations_for_calm = 4;

// Load ratio (what a body bears over its weight) from which on conjugate steps are made and softness is divided by the
// ratio: plain iterations do not converge, and full softness would let the body sink by millimetres.
constexpr double high_load_ratio = 200;

// The iteration from which on conjugate steps are made.
constexpr int iterations_before_steps = iterations_for_calm;

// The iteration from which on a contact that slips keeps dynamic friction to the end of the sub-step. Otherwise static
// and dynamic friction alternate without end.
constexpr int iterations_to_settle = 6;

// Iterations also end where they no longer converge: when the largest change is no smaller than `looks_back` iterations
// before; or, while it is over `far_off` times the tolerance, not below `hardly_better` of that. Once this has happened
// in a tick, fewer iterations are compared.
constexpr double hardly_better = 0.8, far_off = 200;
constexpr int looks_back = 8, looks_back_stuck = 4;

// The cost of a sub-step of `full_substep` seconds is bounded: points × iterations. A shorter sub-step has fewer
// iterations in proportion; sag falls with the square of the sub-step over the iterations, so a higher tick rate is
// still better.
constexpr int most_iterations = 64;
constexpr double points_affordable = 5000;  // points × iterations in a full sub-step
constexpr double full_substep = 1.0 / 240;  // s
// With a high load ratio more iterations are allowed, and a few are always allowed while points × iterations stays
// below the second bound.
constexpr int most_iterations_at_high_load_ratio = 256;
constexpr int few_iterations = 8, least_few_iterations = 4;
constexpr std::size_t points_affordable_at_need = 12000;

// With at most this many iterations the colours are always gone through in the same order: large islands settle sooner.
constexpr int next_to_none = 2;

// The gap of a point that the manifold does not have.
constexpr double no_point = 1e30;

// Greatest load ratio of any body over `high_load_ratio`, by the impulses of the last sub-step; at least 1. It is 1
// where contacts are too many for the iterations that it would need.
double load_ratio(const WorldState& state, const ContactPart<double>& all) {
  double most = 1;
  if (all.points * most_iterations > points_affordable_at_need) return most;
  const double h = state.tick_length() / state.settings.substeps;
  const double weight = h * std::max(state.settings.gravity.norm(), 1.0);
  for (const std::uint32_t i : all.members) {
    const ActiveEnds& ends = state.scratch.active_ends[i];
    if (!ends.moves_a || !ends.moves_b) continue;
    const double a = state.records[ends.a].mass.mass, b = state.records[ends.b].mass.mass;
    const Pair& pair = state.pairs[state.scratch.active[i]];
    double borne = 0;
    for (std::size_t k = 0; k < static_cast<std::size_t>(pair.count); ++k) borne += pair.points[k].impulse;
    // A heavier body that has just come to lie on a lighter one will bear on it with its full weight.
    const double above = (a > b ? 1 : -1) * pair.normal.dot(state.settings.gravity);
    if (borne == 0 && above > 0.5 * state.settings.gravity.norm()) borne = std::max(a, b) * weight;
    most = std::max(most, borne / (high_load_ratio * std::min(a, b) * weight));
  }
  return most;
}

template <class T>
void set(Vectors8<T>& to, std::size_t lane, const Vec3& v) {
  for (std::size_t k = 0; k < 3; ++k) to[k][lane] = static_cast<T>(v[static_cast<Eigen::Index>(k)]);
}

// Arms of a block or of one of its points.
template <class Bearing>
void set_arms(Bearing& bearing, std::size_t lane, const Vec3& a, const Vec3& b) {
  set(bearing.arm_a, lane, a);
  set(bearing.arm_b, lane, b);
}

// Whether a place on the body's surface can be told from its frame: the surface of a round body rolls on beneath a
// contact.
bool holds_its_surface(const BodyRecord& record) {
  return record.symmetry == Symmetry::none;
}

// How far the place at the arm has gone since the tick's start, m.
Vec3 gone_since_start(const BodyFrameLane<double>& frame, const Vec3& arm) {
  const Eigen::Map<const Eigen::Matrix<double, 3, 3, Eigen::RowMajor>> turn(frame.turn.data());
  return Eigen::Map<const Vec3>(frame.drift.data()) + turn * arm;
}

// Puts the pair into its lane, over whatever was there.
template <class T>
void pack(const WorldState& state, const Pair& pair, ContactBlocks<T>& all) {
  ContactBlock<T>& block = all.blocks[pair.block];
  const std::size_t lane = pair.lane;
  // All that the iterations index with.
  assert(lane < lanes && pair.a + 1 < all.motions.size() && pair.b + 1 < all.motions.size());
  block.active[lane] = pair.passing ? 0 : 1;
  block.moves_a[lane] = state.records[pair.a].dynamic();
  block.moves_b[lane] = state.records[pair.b].dynamic();
  block.a[lane] = static_cast<typename ContactBlock<T>::Index>(pair.a);
  block.b[lane] = static_cast<typename ContactBlock<T>::Index>(pair.b);
  block.count = std::max(block.count, pair.count);
  set(block.normal, lane, pair.normal);
  set(block.tangent, lane, pair.tangents()[0]);
  const ManifoldFriction& f = pair.friction;
  const FrictionPlace place(pair);
  set_arms(block, lane, place.arm_a, place.arm_b);
  if constexpr (std::is_same_v<T, double>) {
    set(block.slide_turn.between, lane, pair.between);
    block.slide_turn.towards_b[lane] = anchor_share_of_b(state.records[pair.a], state.records[pair.b]);
    const bool told = holds_its_surface(state.records[pair.a]) && holds_its_surface(state.records[pair.b]);
    block.anchor.counts[lane] = told ? 1 : 0;
    const Vec3 gone =
        gone_since_start(all.frames[pair.b], place.arm_b) - gone_since_start(all.frames[pair.a], place.arm_a);
    for (std::size_t t = 0; t < 2; ++t) {
      block.anchor.now[t][lane] = told ? f.anchor[t] : 0;
      block.anchor.before[t][lane] = told ? f.anchor[t] - gone.dot(pair.tangents()[t]) : 0;
    }
  }
  for (std::size_t t = 0; t < 2; ++t) {
    block.slide[t][lane] = static_cast<T>(f.slide[t]);
    block.slide_total[t][lane] = 0;
  }
  block.twist[lane] = static_cast<T>(f.twist);
  // From the contact to the centre that rolls.
  const double arm_a = block.moves_a[lane] != 0 ? std::abs(place.arm_a.dot(pair.normal)) : 0;
  const double arm_b = block.moves_b[lane] != 0 ? std::abs(place.arm_b.dot(pair.normal)) : 0;
  const double rolling_arm = pair.surface.rolling_friction * std::max(arm_a, arm_b);
  // What resists rolling bears on more than a point, and resists spinning on it as much.
  const double least_twist = rolling_arm > 0 ? rolling_arm / std::max(pair.surface.dynamic_friction, 1e-3) : 0;
  block.torsional_radius[lane] = static_cast<T>(least_twist);
  const Vec3 turning = state.bodies[pair.b].angular_velocity - state.bodies[pair.a].angular_velocity;
  block.rocking[lane] = static_cast<T>((turning - pair.normal * pair.normal.dot(turning)).norm());
  block.round_face[lane] = on_round_face(state, pair) ? 1 : 0;
  block.static_friction[lane] = block.friction_in_effect[lane] = static_cast<T>(pair.surface.static_friction);
  block.dynamic_friction[lane] = static_cast<T>(pair.surface.dynamic_friction);
  for (std::size_t i = 0; i < 4; ++i) {
    BlockPoint<T>& p = block.points[i];
    const ManifoldPoint& row = pair.points[i];
    const bool there = i < static_cast<std::size_t>(pair.count);
    p.gap[lane] = p.gap_now[lane] = static_cast<T>(there ? row.gap : no_point);
    p.impulse[lane] = static_cast<T>(there ? row.impulse : 0);
    p.total[lane] = 0;
    if (!there) continue;
    set_arms(p, lane, row.arm_a, pair.arm_b(row));
  }
  if (block.roll < 0) return;
  BlockRoll<T>& roll = all.rolls[static_cast<std::size_t>(block.roll)];
  roll.share[lane] = static_cast<T>(rolling_arm);
  for (std::size_t t = 0; t < 2; ++t) roll.impulse[t][lane] = static_cast<T>(f.roll[t]);
}

template <class T>
void unpack(const ContactPart<T>& all, Pair& pair) {
  const ContactBlock<T>& block = all.blocks[pair.block];
  const std::size_t lane = pair.lane;
  for (std::size_t i = 0; i < static_cast<std::size_t>(pair.count); ++i) {
    pair.points[i].impulse = static_cast<double>(block.points[i].impulse[lane]);
    pair.points[i].total += static_cast<double>(block.points[i].total[lane]);
  }
  for (std::size_t t = 0; t < 2; ++t) {
    pair.friction.slide[t] = static_cast<double>(block.slide[t][lane]);
    pair.friction.slide_total[t] += static_cast<double>(block.slide_total[t][lane]);
  }
  pair.friction.anchor = {};
  if constexpr (std::is_same_v<T, double>)
    if (all.has_anchors) pair.friction.anchor = {block.anchor.now[0][lane], block.anchor.now[1][lane]};
  pair.friction.twist = static_cast<double>(block.twist[lane]);
  pair.closing_speed = std::max(pair.closing_speed, static_cast<double>(block.closing_speed[lane]));
  if (block.roll < 0) return;
  for (std::size_t t = 0; t < 2; ++t)
    pair.friction.roll[t] = static_cast<double>(all.rolls[static_cast<std::size_t>(block.roll)].impulse[t][lane]);
}

template <class T>
void load_inertia(const BodyState& m, BodyFrameLane<T>& frame) {
  const Mat3& j = m.inverse_inertia;
  const std::array<double, 6> parts{j(0, 0), j(1, 1), j(2, 2), j(0, 1), j(0, 2), j(1, 2)};
  for (std::size_t k = 0; k < 6; ++k) frame.inverse_inertia[k] = static_cast<T>(parts[k]);
}

template <class T>
void load_frame(const WorldState& state, std::uint32_t i, BodyFrameLane<T>& frame) {
  const BodyState& m = state.bodies[i];
  frame = {};
  if (!state.records[i].alive || !state.records[i].dynamic()) return;
  for (std::size_t k = 0; k < 3; ++k)
    frame.inverse_mass[k] = static_cast<T>(m.inverse_mass[static_cast<Eigen::Index>(k)]);
  load_inertia(m, frame);
}

// Where the body has gone since the tick's start.
template <class T>
void load_shift(const WorldState& state, std::uint32_t i, BodyFrameLane<T>& frame) {
  if (state.scratch.moving[i] == 0) return;
  const BodyState &m = state.bodies[i], &start = state.at_start[i];
  const Mat3 turn =
      surface_turn(state.records[i], start.orientation, m.orientation).toRotationMatrix() - Mat3::Identity();
  for (std::size_t k = 0; k < 3; ++k) {
    const auto row = static_cast<Eigen::Index>(k);
    frame.drift[k] = static_cast<T>(m.centre[row] - start.centre[row]);
    for (std::size_t c = 0; c < 3; ++c) frame.turn[3 * k + c] = static_cast<T>(turn(row, static_cast<Eigen::Index>(c)));
  }
  if constexpr (std::is_same_v<T, double>)
    if (state.records[i].dynamic()) load_inertia(m, frame);
}

template <class T>
void load_motion(const WorldState& state, std::uint32_t i, BodyMotionLane<T>& lane) {
  for (std::size_t k = 0; k < 3; ++k) {
    lane.velocity[k] = static_cast<T>(state.bodies[i].velocity[static_cast<Eigen::Index>(k)]);
    lane.spin[k] = static_cast<T>(state.bodies[i].angular_velocity[static_cast<Eigen::Index>(k)]);
  }
}

// Adds what the iterations changed: the digits that T does not hold stay as they were.
template <class T>
void store_motion(WorldState& state, std::uint32_t i, const BodyMotionLane<T>& lane) {
  BodyState& m = state.bodies[i];
  for (std::size_t k = 0; k < 3; ++k) {
    double& v = m.velocity[static_cast<Eigen::Index>(k)];
    double& w = m.angular_velocity[static_cast<Eigen::Index>(k)];
    v += static_cast<double>(lane.velocity[k]) - static_cast<double>(static_cast<T>(v));
    w += static_cast<double>(lane.spin[k]) - static_cast<double>(static_cast<T>(w));
  }
}

template <class T, class F>
void on_team(WorldState& state, const ContactPart<T>& all, const F& job) {
  state.scratch.thread_pool->run_if_worth(all.members.size(), pairs_worth_sharing, job);
}

template <class T>
void lay_blocks(WorldState& state, const ContactSystem& sys, ContactPart<T>& all) {
  all.colours.clear();
  all.rolls.clear();
  std::size_t blocks = 0;
  // As many as there can be; what they held before is not taken along.
  const std::size_t most_blocks = all.order.size() / lanes + sys.colour_count + sys.without_colour;
  if (most_blocks > all.blocks.capacity()) {
    all.blocks.clear();
    all.blocks.reserve(most_blocks + most_blocks / 2);
  }
  for (std::size_t i = 0; i < all.order.size();) {
    const std::uint32_t colour = sys.colour_of[all.order[i]];
    const std::size_t most = colour < most_colours ? lanes : 1;
    std::size_t end = i;
    const auto first = static_cast<std::uint32_t>(blocks);
    std::uint32_t lively = 0;
    while (end < all.order.size() && sys.colour_of[all.order[end]] == colour) {
      const std::size_t begin = end;
      if (all.blocks.size() <= blocks) all.blocks.emplace_back();
      all.blocks[blocks].roll = -1;
      if (!state.scratch.active_ends[all.order[end]].calm) lively = static_cast<std::uint32_t>(blocks) - first + 1;
      for (; end < std::min(begin + most, all.order.size()) && sys.colour_of[all.order[end]] == colour; ++end) {
        ActiveEnds& ends = state.scratch.active_ends[all.order[end]];
        ends.block = static_cast<std::uint32_t>(blocks);
        ends.lane = static_cast<std::uint8_t>(end - begin);
        if (ends.rolls && all.blocks[blocks].roll < 0) {
          all.blocks[blocks].roll = static_cast<std::int32_t>(all.rolls.size());
          all.rolls.emplace_back();
        }
      }
      ++blocks;
      // Blocks of pairs without a colour of their own follow one another.
      if (colour >= most_colours) {
        all.colours.push_back({static_cast<std::uint32_t>(blocks - 1), 1, 1});
      }
    }
    if (colour < most_colours) all.colours.push_back({first, static_cast<std::uint32_t>(blocks) - first, lively});
    i = end;
  }
  all.blocks.resize(blocks);
  // No threads share few contacts: all colours are one run.
  if (all.members.size() >= pairs_worth_sharing) return;
  std::uint32_t lively = 0;
  for (const Colour& colour : all.colours)
    if (colour.lively > 0) lively = colour.first + colour.lively;
  all.colours.assign(1, {0, static_cast<std::uint32_t>(blocks), lively});
}

template <class T>
void empty_lanes(ContactBlock<T>& block, std::uint32_t nobody) {
  const std::int32_t roll = block.roll;
  block = {};
  block.roll = roll;
  block.a.fill(static_cast<typename ContactBlock<T>::Index>(nobody));
  block.b.fill(static_cast<typename ContactBlock<T>::Index>(nobody));
  for (BlockPoint<T>& p : block.points) p.gap.fill(static_cast<T>(no_point));
}

// The pairs of a block lie anywhere in memory: they are asked for some time before they are packed.
constexpr std::size_t pairs_ahead = 6;

void fetch_ahead(const Pair& pair) {
  constexpr std::size_t line = 64;  // bytes
  const char* first = reinterpret_cast<const char*>(&pair);
  for (std::size_t at = 0; at < sizeof(Pair); at += line) __builtin_prefetch(first + at);
}

// How many iterations a sub-step of h seconds can afford.
template <class T>
int most_iterations_over(const ContactPart<T>& all, double h) {
  const std::size_t points = all.points + 1;
  const int at_need = std::max(1, static_cast<int>(points_affordable_at_need / points));
  if (all.load_ratio > 1) return std::min(at_need, most_iterations_at_high_load_ratio);
  const double share = std::min(1.0, h / full_substep);
  const int few = std::clamp(static_cast<int>(share * few_iterations), least_few_iterations, few_iterations);
  return std::clamp(static_cast<int>(share * points_affordable / static_cast<double>(points)), std::min(at_need, few),
                    most_iterations);
}

template <class T>
void begin(WorldState& state, ContactSystem& sys, ContactPart<T>& all) {
  all.stuck = false;
  all.iterations_made = 0;
  all.affordable = most_iterations_over(all, state.tick_length() / state.settings.substeps);
  all.scarce = all.load_ratio <= 1 && all.affordable > next_to_none && all.affordable < most_iterations;
  all.has_anchors = std::is_same_v<T, double> && all.scarce;
  colour_contacts(state, sys, all.members, all.order);
  lay_blocks(state, sys, all);
  const auto bodies = static_cast<std::uint32_t>(state.records.size());
  all.motions.resize(bodies + 1);
  all.frames.resize(bodies + 1);
  all.stirred.resize(bodies + 1);
  all.elsewhere.assign(bodies + 1, 0);
  all.motions[bodies] = {};
  all.frames[bodies] = {};
  on_team(state, all, [&](int worker) {
    ThreadPool& thread_pool = *state.scratch.thread_pool;
    auto part = thread_pool.share(all.bodies.size(), worker);
    for (std::size_t k = part.first; k < part.last; ++k) {
      const std::uint32_t i = all.bodies[k];
      fetch_ahead(state.records, i);
      load_frame(state, i, all.frames[i]);
      load_motion(state, i, all.motions[i]);
    }
    thread_pool.wait();
    // Each worker packs the pairs of its own blocks; these lie side by side in the order. Block by block: what was
    // written is still near when it is read.
    part = thread_pool.share(all.blocks.size(), worker);
    auto next = static_cast<std::size_t>(
        std::lower_bound(all.order.begin(), all.order.end(), part.first,
                         [&](std::uint32_t i, std::size_t b) { return state.scratch.active_ends[i].block < b; }) -
        all.order.begin());
    for (std::size_t b = part.first; b < part.last; ++b) {
      empty_lanes(all.blocks[b], bodies);
      for (; next < all.order.size() && state.scratch.active_ends[all.order[next]].block == b; ++next) {
        if (next + pairs_ahead < all.order.size())
          fetch_ahead(state.pairs[state.scratch.active[all.order[next + pairs_ahead]]]);
        const ActiveEnds& ends = state.scratch.active_ends[all.order[next]];
        Pair& pair = state.pairs[state.scratch.active[all.order[next]]];
        pair.block = ends.block;
        pair.lane = ends.lane;
        pair.in_double = ends.in_double;
        pack(state, pair, all);
      }
      kernel_iterations<T>().prepare(&all.blocks[b], 1, all.rolls.data(), all.motions.data(), all.frames.data());
    }
  });
}

// How many of them go over the contacts after the move, to take what pushing overlap apart has left of speed.
int iterations_after_move(int iterations) {
  // Small stacks need all of them: with half of 64, 20 boxes creep 1.5 mm in a minute.
  constexpr int scarce = 24;
  return iterations > scarce ? iterations : (iterations + 1) / 2;
}

template <class T>
void solve(WorldState& state, ContactSystem& sys, ContactPart<T>& all, double h, SolveStage kind, const Rounds& rounds,
           bool last) {
  const int of = std::max(all.affordable, rounds.count);
  const int each = (kind == SolveStage::after_move ? iterations_after_move(of) : of) / rounds.count;
  const int iterations = rounds.agreed ? 1 : std::max(1, each);
  // Stability: with overlap x, closing speed v and impulse error e, iterations that remove a share c of a slow error in
  // a sub-step give v' = e, x' = v, e' = -c (v + r x) - l e, with r the recovery and l the softness a sub-step. By
  // Routh's rule it is stable for c + l > r. In tall stacks c is next to nothing, so l must be at least r.
  constexpr bool with_steps = std::is_same_v<T, double>;
  IterationNumbers<T> numbers;
  numbers.step = static_cast<T>(h);
  numbers.baumgarte_rate = static_cast<T>(baumgarte_rate);
  numbers.recovery_speed = static_cast<T>(recovery_speed);
  numbers.softness = static_cast<T>(1.2 * baumgarte_rate * h / of / all.load_ratio);
  numbers.push_out = kind != SolveStage::after_move;
  const double enough = small_change * h * std::max(state.settings.gravity.norm(), 1.0);
  numbers.stirs = static_cast<T>(enough);
  std::fill(all.stirred.begin(), all.stirred.end(), -2);
  // Where iterations are scarce, friction kept from sub-step to sub-step alone is a spring without damping, and cribs
  // of logs tremble. It is soft, and pulled back to its anchor.
  numbers.has_anchors = all.has_anchors;
  // Where iterations are scarce, going through the colours always in one order favours one side of a structure, and
  // walls sway by themselves. So the order is reversed after the move, and from sub-step to sub-step.
  const bool backwards = all.scarce && (all.iterations_made + 1) / 2 % 2 == 1;
  numbers.last_first = backwards && all.colours.size() == 1;
  sys.changes.resize(static_cast<std::size_t>(state.scratch.thread_pool->workers()));
  for (ContactSystem::Change& change : sys.changes) change = {};
  if constexpr (with_steps) sys.steps.make_room(all);
  on_team(state, all, [&](int worker) {
    ThreadPool& thread_pool = *state.scratch.thread_pool;
    const ThreadPool::Share mine = thread_pool.share(all.bodies.size(), worker);
    for (std::size_t k = mine.first; k < mine.last; ++k) {
      const std::uint32_t i = all.bodies[k];
      fetch_ahead(state.records, i);
      fetch_place_ahead(state.at_start, i);
      if (state.scratch.moving[i] == 0) continue;
      load_motion(state, i, all.motions[i]);
      // Since the last iterations only impacts, internal edges and joints can have moved the body otherwise than by its
      // velocity.
      const bool elsewhere = std::exchange(state.scratch.put_elsewhere[i], 0) != 0 || state.records[i].jointed;
      if (kind == SolveStage::after_move || (kind == SolveStage::warm_start && elsewhere))
        load_shift(state, i, all.frames[i]);
      if (kind == SolveStage::warm_start) all.elsewhere[i] = elsewhere ? 1 : 0;
    }
    thread_pool.wait();
    const auto through_colours = [&](bool all_blocks, const auto& kernel) {
      for (std::size_t k = 0; k < all.colours.size(); ++k) {
        const Colour& colour = all.colours[backwards ? all.colours.size() - 1 - k : k];
        const ThreadPool::Share part = thread_pool.share(all_blocks ? colour.count : colour.lively, worker);
        if (part.first < part.last) kernel(all.blocks.data() + colour.first + part.first, part.last - part.first);
        thread_pool.wait();
      }
    };
    if (kind == SolveStage::warm_start)
      through_colours(true, [&](ContactBlock<T>* first, std::size_t count) {
        kernel_iterations<T>().warm_start(first, count, all.rolls.data(), all.motions.data(), all.frames.data(),
                                          all.elsewhere.data());
      });
    // All workers read the same changes, so all stop at the same iteration. The last iteration of a sub-step adds the
    // impulses to the totals.
    bool settled = false;
    [[maybe_unused]] std::conditional_t<with_steps, std::optional<ConjugateWorker>, int> steps{};
    const int back = all.stuck ? looks_back_stuck : looks_back;
    bool no_better = false;
    double first_change = 0;
    std::array<double, looks_back> before{};  // of the iterations before this one, the greatest change
    for (int iteration = 0; iteration < iterations; ++iteration) {
      IterationNumbers<T> now = numbers;
      now.place = kind == SolveStage::after_move && iteration == 0;
      now.settle = iteration >= iterations_to_settle;
      // Conjugate steps move everything.
      now.iteration = all.load_ratio > 1 ? 0 : iteration;
      now.sum = last && (settled || iteration + 1 == iterations);
      const auto turn = static_cast<std::size_t>(iteration % 2);
      double& mine_most = sys.changes[static_cast<std::size_t>(worker)].speed[turn];
      mine_most = 0;
      if constexpr (with_steps)
        if (all.load_ratio > 1 && iteration == iterations_before_steps)
          steps.emplace(ConjugateWorker{state, sys.steps, all, worker, mine}).begin();
      through_colours(iteration < iterations_for_calm || now.sum, [&](ContactBlock<T>* first, std::size_t count) {
        mine_most = std::max(mine_most, static_cast<double>(kernel_iterations<T>().solve(
                                            first, count, all.rolls.data(), all.motions.data(), all.frames.data(), now,
                                            all.stirred.data())));
      });
      if (now.sum) break;
      if constexpr (with_steps)
        if (steps) mine_most = std::max(mine_most, steps->farthest);
      thread_pool.wait();
      double most = 0;
      for (const ContactSystem::Change& change : sys.changes) most = std::max(most, change.speed[turn]);
      double& some_ago = before[static_cast<std::size_t>(iteration % back)];
      if (all.load_ratio <= 1 && iteration >= iterations_to_settle + back)
        no_better = no_better || most >= (most > far_off * enough ? hardly_better : 1) * some_ago;
      some_ago = most;
      if (iteration == 0) first_change = most;
      settled = most < std::max(enough, small_next_to_first * first_change) || no_better;
      if (settled && !last) break;
      if constexpr (with_steps)
        if (steps && iteration + 1 < iterations) steps->go_on();
    }
    for (std::size_t k = mine.first; k < mine.last; ++k) {
      const std::uint32_t i = all.bodies[k];
      if (state.scratch.moving[i] != 0 && state.records[i].dynamic()) store_motion(state, i, all.motions[i]);
    }
    if (worker == 0) all.stuck = all.stuck || no_better;
  });
  ++all.iterations_made;
}

template <class T>
void send(const WorldState& state, Pair& pair, ContactBlocks<T>& all) {
  pack(state, pair, all);
  // Closing speeds stay those of the tick's start; a hit has put in its own. And the block's other pairs may be struck
  // at this very moment: how their bodies move must not be looked at.
  all.blocks[pair.block].placed = false;
  kernel_iterations<T>().prepare(&all.blocks[pair.block], 1, all.rolls.data(), nullptr, all.frames.data());
}

// Calls f with the part that the contact is solved in.
template <class F>
void with_part(ContactSystem& sys, bool in_double, const F& f) {
  if (in_double)
    f(sys.in_double);
  else
    f(sys.in_float);
}

// Calls f with each part that has contacts.
template <class F>
void with_parts(ContactSystem& sys, const F& f) {
  if (!sys.in_double.members.empty()) f(sys.in_double);
  if (!sys.in_float.members.empty()) f(sys.in_float);
}

}  // namespace

double anchor_share_of_b(const BodyRecord& a, const BodyRecord& b) {
  if (!a.dynamic() || !b.dynamic()) return b.dynamic() ? 1 : 0;
  if (a.round != b.round) return b.round ? 1 : 0;
  const double square_a = a.radius * a.radius, square_b = b.radius * b.radius;
  return square_a * square_a / (square_a * square_a + square_b * square_b);
}

void begin_contacts(WorldState& state) {
  ContactSystem& sys = *state.scratch.contacts;
  part_contacts(state, sys);
  number_large_islands(state, sys);
  // A scene that has outgrown one precision seldom comes back to it.
  if (sys.in_float.members.empty() && !sys.in_float.blocks.empty()) sys.in_float = {};
  if (sys.in_double.members.empty() && !sys.in_double.blocks.empty()) sys.in_double = {};
  sys.in_double.load_ratio = load_ratio(state, sys.in_double);
  with_parts(sys, [&](auto& all) { begin(state, sys, all); });
}

std::span<const std::uint32_t> solved_in_double(const WorldState& state) {
  return (*state.scratch.contacts).in_double.members;
}

void solve_contacts(WorldState& state, double h, SolveStage kind, const Rounds& rounds, bool last) {
  ContactSystem& sys = *state.scratch.contacts;
  with_parts(sys, [&](auto& all) { solve(state, sys, all, h, kind, rounds, last); });
}

void look_for_closing(WorldState& state, double h) {
  const double dt = state.tick_length();
  with_parts(*state.scratch.contacts, [&](auto& all) {
    using T = std::decay_t<decltype(all.motions[0].margin)>;
    all.closing.resize(all.blocks.size());
    on_team(state, all, [&](int worker) {
      ThreadPool& thread_pool = *state.scratch.thread_pool;
      const ThreadPool::Share mine = thread_pool.share(all.bodies.size(), worker);
      for (std::size_t k = mine.first; k < mine.last; ++k) {
        const std::uint32_t i = all.bodies[k];
        fetch_ahead(state.records, i);
        if (state.scratch.moving[i] == 0) continue;
        load_motion(state, i, all.motions[i]);
        // The planes are those of the tick's start: its points have turned since by the spin times the time, at most.
        const double spin = surface_spin(state.records[i], state.bodies[i]);
        const double turning = spin * spin * state.records[i].radius * dt;
        all.motions[i].margin = static_cast<T>(turning + h * state.scratch.steady_acceleration[i].norm());
      }
      thread_pool.wait();
      if (worker == 0)
        for (const auto& [ball, by] : state.scratch.put_at_edges) all.motions[ball].margin += static_cast<T>(by / h);
      thread_pool.wait();
      const ThreadPool::Share blocks = thread_pool.share(all.blocks.size(), worker);
      kernel_iterations<T>().closing(all.blocks.data() + blocks.first, blocks.last - blocks.first, all.motions.data(),
                                     static_cast<T>(0.999 * state.settings.restitution_speed), static_cast<T>(h),
                                     all.closing.data() + blocks.first);
    });
  });
}

bool may_close(const WorldState& state, const ActiveEnds& ends) {
  const ContactSystem& sys = *state.scratch.contacts;
  const std::uint8_t lanes_closing =
      ends.in_double ? sys.in_double.closing[ends.block] : sys.in_float.closing[ends.block];
  return (lanes_closing >> ends.lane & 1U) != 0;
}

void fetch_pair(WorldState& state, Pair& pair) {
  with_part(*state.scratch.contacts, pair.in_double, [&](auto& all) {
    unpack(all, pair);
    for (auto& point : all.blocks[pair.block].points) point.total[pair.lane] = 0;
    for (auto& total : all.blocks[pair.block].slide_total) total[pair.lane] = 0;
  });
}

void send_pair(WorldState& state, Pair& pair) {
  with_part(*state.scratch.contacts, pair.in_double, [&](auto& all) { send(state, pair, all); });
}

void send_passing(WorldState& state) {
  for (const std::uint32_t p : state.scratch.fast) send_passing(state, state.pairs[p]);
}

void send_passing(WorldState& state, const Pair& pair) {
  with_part(*state.scratch.contacts, pair.in_double,
            [&](auto& all) { all.blocks[pair.block].active[pair.lane] = pair.passing ? 0 : 1; });
}

void mark_loaded(const WorldState& state, std::vector<char>& loaded) {
  for (const std::uint32_t p : state.scratch.active) {
    const Pair& pair = state.pairs[p];
    with_part(*state.scratch.contacts, pair.in_double, [&](const auto& all) {
      for (std::size_t i = 0; i < static_cast<std::size_t>(pair.count); ++i)
        if (all.blocks[pair.block].points[i].impulse[pair.lane] > 0) loaded[pair.a] = loaded[pair.b] = 1;
    });
  }
}

void end_contacts(WorldState& state) {
  with_parts(*state.scratch.contacts, [&](const auto& all) {
    on_team(state, all, [&](int worker) {
      const ThreadPool::Share part = state.scratch.thread_pool->share(all.members.size(), worker);
      for (std::size_t k = part.first; k < part.last; ++k)
        unpack(all, state.pairs[state.scratch.active[all.members[k]]]);
    });
  });
}

}  // namespace bronvel
