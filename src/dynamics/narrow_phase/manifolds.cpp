// Finding the points of pairs and taking them along.
#include "dynamics/narrow_phase/manifolds.h"

#include <optional>
#include <utility>

#include "dynamics/base/thread_pool.h"
#include "dynamics/bodies/integrate.h"
#include "dynamics/broad_phase/overlaps.h"
#include "dynamics/narrow_phase/manifold_reduction.h"
#include "geometry/queries/distance.h"
#include "geometry/shapes/parts.h"

namespace bronvel {
namespace {

bool swept(const WorldState& state, const Pair& pair) {
  const BodyRecord &a = state.records[pair.a], &b = state.records[pair.b];
  // Pairs that move more than this share of the thinner one's half thickness against one another in a sub-step are
  // swept; what flies side by side is not.
  constexpr double swept_share = 0.5;
  const auto either = [&](Sweeping s) { return a.sweeping == s || b.sweeping == s; };
  if (either(Sweeping::always)) return true;
  if (either(Sweeping::never)) return false;
  const double enough = swept_share * state.settings.substeps * std::min(a.inner_radius, b.inner_radius);
  if (a.travel + b.travel <= enough) return false;
  const Vec3 &of_a = state.bodies[pair.a].velocity, &of_b = state.bodies[pair.b].velocity;
  const double alike = state.tick_length() * (of_a.norm() + of_b.norm() - (of_a - of_b).norm());
  return a.travel + b.travel - alike > enough;
}

// Points of two ticks nearer than this share of the smaller body's radius are the same point.
constexpr double same_point = 0.1;

// Gives the row the impulse and the name of the old point that it goes on from: the one nearest to it, once A has taken
// it along by `turn`. A name that went to another row is taken off the old point. (Features would not do: a corner just
// on the other shape's edge changes its feature without moving.)
void carry_over(std::array<ManifoldPoint, 4>& old_points, int count, const Mat3& turn, double tolerance,
                ManifoldPoint& row) {
  ManifoldPoint* from = nullptr;
  double nearest = tolerance;
  for (int k = 0; k < count; ++k) {
    ManifoldPoint& old = old_points[static_cast<std::size_t>(k)];
    const double distance = (turn * old.arm_a - row.arm_a).norm();
    if (distance > nearest) continue;
    nearest = distance;
    from = &old;
  }
  if (!from) return;
  row.impulse = from->impulse;
  row.total = from->total;
  row.number = std::exchange(from->number, 0);
}

// A part in the scene, without copying it where the shape is its own only part.
struct PlacedPart {
  PlacedPart(const BodyRecord& record, const BodyState& motion, std::uint32_t index)
      : pose(shape_pose(record, motion)) {
    if (!record.composite) {
      shape = &record.settings.shape;
      return;
    }
    part = part_of(record.settings.shape, index);
    shape = &part->shape;
    pose = pose * part->pose;
  }
  PlacedPart(const PlacedPart&) = delete;
  PlacedPart& operator=(const PlacedPart&) = delete;
  ~PlacedPart() = default;

  std::optional<Part> part;
  const Shape* shape = nullptr;
  Pose pose;
};

}  // namespace

Manifold collide_parts(const WorldState& state, const Pair& pair, const BodyState& a, const BodyState& b, double reach,
                       Graze& graze) {
  constexpr double highest_step = 1e-3;  // m: half a millimetre, and as much for what bodies sink in and lean
  constexpr double step_of_body = 0.05;  // of the thinner one's half thickness
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  const PlacedPart on_a(ra, a, pair.part_a), on_b(rb, b, pair.part_b);
  const LastManifold last = pair.found > 0 ? LastManifold{pair.normal, pair.face_of} : LastManifold{};
  Manifold m = collide(*on_a.shape, on_a.pose, *on_b.shape, on_b.pose, reach, last);
  if (m.count == 0) return m;
  GrazeLimits limits;
  limits.step = highest_step;
  for (const BodyRecord* each : {&ra, &rb})
    if (each->inner_radius > 0) limits.step = std::min(limits.step, step_of_body * each->inner_radius);
  limits.ahead = state.tick_length();
  limits.gravity = state.settings.gravity;
  limits.moves_a = ra.dynamic();
  limits.moves_b = rb.dynamic();
  // What lies on something goes on as it goes; what falls may be lower by then.
  const auto may_lie = [](const BodyRecord& record) { return record.dynamic() && (record.touching || record.placed); };
  const bool lies = may_lie(ra) || may_lie(rb);
  limits.speed = lies || graze == Graze::yes ? 1e300 : state.settings.restitution_speed;
  const RelativeMotion motion{a.centre, b.velocity_at(a.centre - b.centre) - a.velocity,
                              b.angular_velocity - a.angular_velocity};
  graze = std::max(graze, make_graze(*on_a.shape, on_a.pose, *on_b.shape, on_b.pose, reach, motion, limits, m));
  return m;
}

PartGap part_gap(const WorldState& state, const Pair& pair, const BodyState& a, const BodyState& b) {
  const PlacedPart on_a(state.records[pair.a], a, pair.part_a), on_b(state.records[pair.b], b, pair.part_b);
  const Convex convex_a(*on_a.shape, on_a.pose), convex_b(*on_b.shape, on_b.pose);
  const Separation apart = separation_of(convex_a, convex_b);
  return {apart.distance - convex_a.radius() - convex_b.radius(), apart.normal};
}

namespace {

// What takes arms and gaps at the bodies' present poses back to those of the tick's start.
struct WayBack {
  WayBack(const BodyRecord& record, const BodyState& now, const BodyState& start)
      : turn(surface_turn(record, now.orientation, start.orientation).toRotationMatrix()),
        drift(now.centre - start.centre) {}
  Mat3 turn;
  Vec3 drift;  // m
};

// The tangents turn with the normal: friction is carried over as a vector.
void turn_normal(Pair& pair, const Vec3& normal) {
  const std::array<Vec3, 2> old_tangents = pair.tangents();
  pair.normal = normal;
  const std::array<Vec3, 2> tangents = pair.tangents();
  ManifoldFriction& f = pair.friction;
  for (std::array<double, 2>* each : {&f.slide, &f.roll, &f.slide_total, &f.anchor}) {
    const Vec3 carried = old_tangents[0] * (*each)[0] + old_tangents[1] * (*each)[1];
    *each = {carried.dot(tangents[0]), carried.dot(tangents[1])};
  }
}

void set_manifold(const WorldState& state, Pair& pair, const Manifold& m, const WayBack* back_a,
                  const WayBack* back_b) {
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  const BodyState &ma = state.bodies[pair.a], &mb = state.bodies[pair.b];
  // Within the tick all is told back to its start, as the old points are.
  const bool since_last_tick = !back_a && pair.a < state.scratch.ways.size();
  const Mat3 turn = since_last_tick ? state.scratch.ways[pair.a].turn : Mat3(Mat3::Identity());
  std::array<ManifoldPoint, 4> old_points = pair.points;
  const int old_count = pair.found;
  // A ball touches at one place, however far it has rolled since.
  const bool one_place =
      old_count == 1 && m.count == 1 && (ra.symmetry == Symmetry::ball || rb.symmetry == Symmetry::ball);
  const double tolerance = one_place ? 1e30 : same_point * std::min(ra.radius, rb.radius);
  pair.count = m.count;
  pair.found = static_cast<std::uint8_t>(m.count);
  pair.reach = -1;
  pair.face_of = m.face_of;
  pair.between = ma.centre - mb.centre;
  if (back_a) pair.between -= back_a->drift - back_b->drift;
  for (int i = 0; i < m.count; ++i) {
    const ContactPoint& point = m.points[static_cast<std::size_t>(i)];
    ManifoldPoint& row = pair.points[static_cast<std::size_t>(i)];
    row = ManifoldPoint{};
    row.arm_a = point.point - ma.centre;
    row.gap = point.separation;
    if (back_a) {
      const Vec3 arm_b = point.point - mb.centre;
      const Vec3 then_a = back_a->turn * row.arm_a, then_b = back_b->turn * arm_b;
      row.gap -= m.normal.dot(back_b->drift - back_a->drift + (arm_b - then_b) - (row.arm_a - then_a));
      row.arm_a = then_a;
      row.aside = (then_b - then_a - pair.between).cast<float>();
    }
    carry_over(old_points, old_count, turn, tolerance, row);
    if (row.number == 0) row.number = ++pair.numbers;
  }
  if (m.count == 0) {
    pair.friction = ManifoldFriction{};
    return;
  }
  turn_normal(pair, m.normal);
}

}  // namespace

FrictionPlace::FrictionPlace(const Pair& pair) {
  const double share = 1.0 / std::max(pair.count, 1);
  const auto count = static_cast<std::size_t>(pair.count);
  for (std::size_t i = 0; i < count; ++i) {
    arm_a += share * pair.points[i].arm_a;
    arm_b += share * pair.arm_b(pair.points[i]);
  }
}

namespace {

bool on_round_face(const WorldState& state, const Pair& pair, std::uint32_t body) {
  constexpr double upright = 0.999;
  return pair.count == 4 && state.records[body].symmetry == Symmetry::axis &&
         std::abs(pair.normal.dot(state.bodies[body].orientation * Vec3::Unit(1))) > upright;
}

}  // namespace

bool on_round_face(const WorldState& state, const Pair& pair) {
  return on_round_face(state, pair, pair.a) || on_round_face(state, pair, pair.b);
}

void set_manifold_on_the_way(const WorldState& state, Pair& pair, const Manifold& m) {
  const auto told = [&] {
    double sum = 0;
    for (int i = 0; i < pair.count; ++i) sum += pair.points[static_cast<std::size_t>(i)].total;
    return sum;
  };
  const double before = told();
  if (m.count == 0 && before > 0) {
    // What it bore in this tick is still to be told of.
    pair.passing = true;
    return;
  }
  const WayBack back_a(state.records[pair.a], state.bodies[pair.a], state.at_start[pair.a]);
  const WayBack back_b(state.records[pair.b], state.bodies[pair.b], state.at_start[pair.b]);
  set_manifold(state, pair, m, &back_a, &back_b);
  if (m.count > 0) pair.points[0].total += before - told();
}

bool bears_nothing(const Pair& pair) {
  return std::all_of(pair.points.begin(), pair.points.begin() + pair.count,
                     [](const ManifoldPoint& row) { return !(row.impulse > 0); });
}

namespace {

// Points are found anew when surfaces have moved against one another by this share of the smaller body's radius: what
// is wrong with those that go along is second to that.
constexpr double found_anew = 5e-4;
constexpr double found_anew_round = 5e-5;  // the same where neither face is flat: how the normal turns is not known

// All that can meet is found at least `least_reach` ahead: a little less matters to none.
constexpr double still_as_near = 0.1 * least_reach;

// Takes the pair's points along with its bodies. False if they must be found anew: the bodies have moved too far
// against one another, or points farther apart matter now.
bool take_along(const WorldState& state, Pair& pair, double reach) {
  if (pair.reach < 0 || std::max(pair.a, pair.b) >= state.at_start.size()) return false;
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  const BodyWay &a = state.scratch.ways[pair.a], &b = state.scratch.ways[pair.b];
  pair.moved += static_cast<float>(way_since_last_tick(state, pair.a, pair.b));
  if (pair.found == 0) return pair.moved + reach < pair.reach;
  const double most =
      (pair.face_of == FaceOf::neither ? found_anew_round : found_anew) * std::min(ra.radius, rb.radius);
  if (!(pair.moved < most) || reach > pair.reach + still_as_near) return false;
  pair.count = pair.found;
  const Vec3 between = state.bodies[pair.a].centre - state.bodies[pair.b].centre;
  // The plane goes with the body whose face it is, what bears on it with the other; where none is flat, with the
  // smaller.
  const bool b_smaller = !ra.dynamic() || (rb.dynamic() && rb.radius < ra.radius);
  const bool with_b = pair.face_of == FaceOf::a || (pair.face_of == FaceOf::neither && b_smaller);
  for (std::size_t i = 0; i < pair.found; ++i) {
    ManifoldPoint& row = pair.points[i];
    const Vec3 arm_b = pair.arm_b(row), to_a = a.turn * row.arm_a, to_b = b.turn * arm_b;
    row.gap += pair.normal.dot(b.shift - a.shift + (to_b - arm_b) - (to_a - row.arm_a));
    row.arm_a = with_b ? Vec3(to_b - between) : to_a;
    row.aside.setZero();
  }
  pair.between = between;
  turn_normal(pair, ((with_b ? a.turn : b.turn) * pair.normal).normalized());
  return true;
}

// Finds the pair's points, or takes them along. Returns false if it has none and had none.
bool find_points(const WorldState& state, Pair& pair, bool may_touch, double reach) {
  if (may_touch && take_along(state, pair, reach)) return pair.found > 0;
  const bool had_points = pair.found > 0;
  Graze graze = Graze::no;
  const auto look = [&](double far) {
    return collide_parts(state, pair, state.bodies[pair.a], state.bodies[pair.b], far, graze);
  };
  Manifold m;
  double known = -1;
  if (may_touch) {
    const double looked = had_points ? reach : reach + looked_farther;
    m = look(looked);
    known = m.count > 0 ? reach : std::max(m.apart, looked);
    if (!had_points && m.count > 0) {
      // Within reach, only those points count that are.
      if (m.apart <= reach) m = look(reach);
      if (m.apart > reach) m.count = 0;
      if (m.count == 0) known = std::max(m.apart, reach);
    }
  }
  set_manifold(state, pair, m, nullptr, nullptr);
  pair.surface = combine(state.records[pair.a].settings.surface, state.records[pair.b].settings.surface);
  pair.moved = 0;
  // What grazes is looked at anew in the next tick, and what lies at an edge of the ground: it may be pushed over it.
  const bool ground = !state.records[pair.a].dynamic() || !state.records[pair.b].dynamic();
  pair.reach = graze == Graze::yes || (graze == Graze::not_now && ground) ? -1.0F : static_cast<float>(known);
  return had_points || m.count > 0;
}

// Brings one pair's contact up to date; touches nothing else. Returns what the solver must know of it: no points if it
// is not to be solved.
ActiveEnds update_contact(const WorldState& state, Pair& pair) {
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  ActiveEnds ends{.a = pair.a, .b = pair.b, .moves_a = ra.dynamic(), .moves_b = rb.dynamic()};
  const bool near = !std::exchange(pair.apart, false);
  if (ra.idle() && rb.idle()) return ends;
  const bool may_touch = near && ra.bounds.overlaps(rb.bounds) && can_meet(state, pair.a, pair.b);
  const double reach = least_reach + ra.travel + rb.travel;
  pair.was_touching = pair.touching;
  pair.closing_speed = 0;
  pair.passing = false;
  pair.at_internal_edge = pair.beyond = false;
  pair.fast = swept(state, pair);
  if (!find_points(state, pair, may_touch, reach) || pair.found == 0) return ends;
  for (ManifoldPoint& row : pair.points) row.total = 0;
  pair.friction.slide_total = {};
  if (!ra.solid || !rb.solid) return ends;
  double least = 1e30;
  for (int i = 0; i < pair.count; ++i) least = std::min(least, pair.points[static_cast<std::size_t>(i)].gap);
  ends.points = static_cast<std::uint8_t>(pair.count);
  ends.rolls = pair.surface.rolling_friction > 0;
  // Longer than it takes to fall asleep: it is only kept awake by others.
  constexpr double calm_time = 0.6;  // s
  const auto calm = [&](std::uint32_t body) {
    return !state.records[body].dynamic() || state.records[body].still_for > calm_time;
  };
  ends.calm = calm(pair.a) && calm(pair.b);
  ends.least_gap = static_cast<float>(least);
  ends.fast = pair.fast;
  return ends;
}

}  // namespace

void update_contacts(WorldState& state) {
  constexpr std::size_t worth_sharing = 200;  // pairs
  const std::size_t count = state.listed.size();
  resize_with_room(state.scratch.listed_ends, count);
  state.scratch.thread_pool->run_if_worth(count, worth_sharing, [&](int) {
    state.scratch.thread_pool->deal(count, [&](std::size_t i) {
      // The second bodies of the pairs to come lie anywhere: have them fetched.
      if (i + 8 < count) {
        const Pair& next = state.pairs[state.listed[i + 8]];
        __builtin_prefetch(&state.records[next.b]);
        __builtin_prefetch(&state.records[next.b].bounds);
        __builtin_prefetch(&state.bodies[next.b]);
      }
      state.scratch.listed_ends[i] = update_contact(state, state.pairs[state.listed[i]]);
    });
  });
  reduce_manifolds(state);
  state.scratch.active.clear();
  state.scratch.active_ends.clear();
  state.scratch.fast.clear();
  const auto touching =
      static_cast<std::size_t>(std::count_if(state.scratch.listed_ends.begin(), state.scratch.listed_ends.end(),
                                             [](const ActiveEnds& ends) { return ends.points > 0; }));
  make_room(state.scratch.active, touching);
  make_room(state.scratch.active_ends, touching);
  for (std::size_t i = 0; i < count; ++i) {
    if (state.scratch.listed_ends[i].points == 0) continue;
    state.scratch.active.push_back(state.listed[i]);
    state.scratch.active_ends.push_back(state.scratch.listed_ends[i]);
    if (state.scratch.listed_ends[i].fast) state.scratch.fast.push_back(state.listed[i]);
  }
}

}  // namespace bronvel
