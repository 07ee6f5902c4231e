// Resolving hits.
#include "dynamics/impact.h"

#include "dynamics/contact_points.h"
#include "dynamics/contact_solver.h"
#include "dynamics/integrate.h"
#include "dynamics/struck_joints.h"
#include "dynamics/team.h"

namespace bronvel {

double time_to_close(double gap, double u, double a, double h) {
  if (gap <= 0) return 0;
  const double under_root = u * u + 2 * a * gap;
  if (under_root < 0) return 2 * h;
  const double below = u + std::sqrt(under_root);
  return below > 0 ? 2 * gap / below : 2 * h;
}

/// A pair that will be hit.
struct Hit {
  bool any = false;
  double moment = 0;   ///< s into the sub-step
  double met = 0;      ///< points nearer than this are met, m
  Manifold manifold;   ///< at the moment
  bool stale = false;  ///< none, but the planes that the pair knows say so: the manifold is that of now
};

/// What looking for hits needs room for.
struct ImpactScratch {
  std::vector<std::pair<std::uint32_t, Hit>> hits;                ///< of active pairs
  std::vector<std::vector<std::pair<std::uint32_t, Hit>>> found;  ///< by worker
  std::vector<std::vector<std::pair<std::uint32_t, Manifold>>>
      stale;                                          ///< by worker: pairs whose planes have to be renewed
  std::vector<std::vector<std::uint32_t>> not_found;  ///< by worker: pairs that joints may lead into one another
  std::vector<std::uint32_t> missed;  ///< pairs without load that might have been hit in this sub-step, and were not
  // The active pairs of each body: those of body i are from first_of[i] to first_of[i + 1].
  std::vector<std::uint32_t> first_of, pairs_of, next_of;
  std::vector<std::uint32_t> around;  ///< active pairs of what was struck in the last round
  std::vector<std::uint32_t> level;   ///< by body: how many of this round's hits must go before its next one
  std::vector<std::uint32_t> level_of, first_of_level, by_level;
  bool joints_listed = false;  ///< in this sub-step
  JointsOfBodies joints;
  StruckGroup group;
  std::vector<std::pair<std::uint32_t, Motion>> taken_along;  ///< by the joints of what is struck
  std::vector<std::uint32_t> struck;  ///< bodies that joints took along in this round, some more than once
};

namespace {

// After so many hits in a sub-step no further round is looked for: among so many it does not show what the passes,
// which know no restitution, make of the rest.
constexpr std::size_t hits_affordable = 300;

constexpr int most_rounds = 32;  // of passing hits on
constexpr int most_looks = 8;    // at where the shapes really are on the way to a hit
constexpr int most_swept_looks = 40;
constexpr double touching_gap = 0.005;  // m: pairs nearer than this keep their contact while they are swept
constexpr int most_iterations = 24;     // over the points of one manifold,
constexpr double settled_share = 1e-6;  // or until none changes by more than this share of the greatest
constexpr double same_moment = 1e-4;    // m: points within this of touching are hit together

// The body as it will be in `moment` seconds if nothing but steady forces acts on it.
Motion carried_on(const BodyRecord& record, const Motion& body, const Vec3& acceleration, double moment) {
  Motion later = body;
  later.centre += moment * (body.velocity + 0.5 * moment * acceleration);
  later.velocity += moment * acceleration;
  coast_turning(record, later, moment);
  return later;
}

// By how much the way of two points against each other may bend along the normal within the sub-step, since they turn:
// by a good measure, m.
double bend(const WorldState& state, const Pair& pair, const Vec3& arm_a, const Vec3& arm_b, const Vec3& normal,
            double h) {
  const auto along = [&](std::uint32_t body, const Vec3& arm) {
    const Motion& m = state.motions[body];
    const double spin = m.angular_velocity.squaredNorm(), turning = surface_spin(state.records[body], m);
    if (!(spin > 0) || turning == 0) return 0.0;
    return std::abs(normal.dot(m.angular_velocity.cross(m.angular_velocity.cross(arm)))) * turning * turning / spin;
  };
  return 2 * h * h * (along(pair.a, arm_a) + along(pair.b, arm_b));
}

// Calls f(gap, closing speed, arm on A, arm on B) for each point of the pair where the bodies are now, by the planes
// that it knows.
template <class F>
void each_point_now(const WorldState& state, const Pair& pair, const F& f) {
  const Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
  const Motion &a0 = state.at_start[pair.a], &b0 = state.at_start[pair.b];
  const Quat turn_a = surface_turn(state.records[pair.a], a0.orientation, a.orientation);
  const Quat turn_b = surface_turn(state.records[pair.b], b0.orientation, b.orientation);
  const Vec3 drift = (b.centre - b0.centre) - (a.centre - a0.centre);
  for (std::size_t i = 0; i < static_cast<std::size_t>(pair.count); ++i) {
    const ContactRow& row = pair.rows[i];
    const Vec3 arm_b_then = pair.arm_b(row), arm_a = turn_a * row.arm_a, arm_b = turn_b * arm_b_then;
    f(row.gap + pair.normal.dot(drift + (arm_b - arm_b_then) - (arm_a - row.arm_a)),
      -pair.normal.dot(b.velocity_at(arm_b) - a.velocity_at(arm_a)), arm_a, arm_b);
  }
}

// The first moment in the sub-step at which a point of the pair would be met faster than the restitution speed, by the
// planes that the pair knows.
double first_moment(const WorldState& state, const Pair& pair, double closing_pull, double h) {
  double first = 2 * h;
  each_point_now(state, pair, [&](double gap, double speed, const Vec3& arm_a, const Vec3& arm_b) {
    double moment = time_to_close(gap, speed, closing_pull, h);
    // The passes step speeds first and places then, and would stop at the sub-step's end what just does not arrive.
    // So does what arrives at that very moment, to rounding.
    if (moment > h &&
        gap < h * (speed + h * closing_pull) * (1 + 1e-9) + 1e-12 + bend(state, pair, arm_a, arm_b, pair.normal, h))
      moment = h;
    if (moment <= h && speed + closing_pull * moment > state.settings.restitution_speed)
      first = std::min(first, moment);
  });
  return first;
}

// A fast pair: on the way from now to the sub-step's end, how far can it go before it touches? Conservative advancement
// (Mirtich, 1996): never farther than the gap over the fastest that any two points may close.
Hit find_swept_hit(const WorldState& state, const Pair& pair, double start, double h, bool& apart) {
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  const Vec3 &pull_a = state.scratch.expected_acceleration[pair.a],
             &pull_b = state.scratch.expected_acceleration[pair.b];
  const double reach = ra.travel + rb.travel + 1e-3;
  Hit hit;
  hit.moment = start;
  hit.met = same_moment;
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
    const double speed = -apart_now.normal.dot(b.velocity - a.velocity) + surface_spin(ra, a) * ra.radius +
                         surface_spin(rb, b) * rb.radius + (pull_b - pull_a).norm() * h;
    if (speed <= 0) return hit;
    hit.moment += std::max(apart_now.gap, 0.5 * same_moment) / speed;
    if (hit.moment > h) return hit;
  }
  return hit;
}

Hit find_hit(const WorldState& state, const Pair& pair, double h) {
  const Vec3 &pull_a = state.scratch.expected_acceleration[pair.a],
             &pull_b = state.scratch.expected_acceleration[pair.b];
  Hit hit;
  hit.moment = first_moment(state, pair, -pair.normal.dot(pull_b - pull_a), h);
  if (hit.moment > h) return hit;
  // What the passes would stop is met: it may be this far off.
  hit.met = std::max(same_moment, 0.51 * h * h * (pull_b - pull_a).norm());
  // The planes are those of the tick's start: look where the shapes really are at that moment, and go on from there.
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  const double reach = ra.travel + rb.travel + 1e-3;
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
      if (point.separation <= hit.met) {
        hit.any = true;
        return hit;
      }
      soonest = std::min(soonest, point.separation / closing);
    }
    hit.moment += soonest;
    if (hit.moment > h) break;
  }
  // The passes go straight, and would stop what turns and just does not arrive: that is met at the sub-step's end.
  hit.moment = h;
  const Motion a = carried_on(ra, state.motions[pair.a], pull_a, h);
  const Motion b = carried_on(rb, state.motions[pair.b], pull_b, h);
  hit.manifold = collide_parts(state, pair, a, b, reach);
  for (int i = 0; i < hit.manifold.count; ++i) {
    const ContactPoint& point = hit.manifold.points[static_cast<std::size_t>(i)];
    const double closing =
        -hit.manifold.normal.dot(b.velocity_at(point.point - b.centre) - a.velocity_at(point.point - a.centre));
    const double bent = bend(state, pair, point.point - a.centre, point.point - b.centre, hit.manifold.normal, h);
    if (closing <= state.settings.restitution_speed || point.separation > bent) continue;
    hit.any = true;
    hit.met = std::max(hit.met, point.separation);
  }
  if (hit.any) return hit;
  // A body that turns has turned away: the passes must not stop it at a plane that is no longer there.
  hit.stale = true;
  hit.manifold = collide_parts(state, pair, state.motions[pair.a], state.motions[pair.b], reach);
  return hit;
}

// How two struck bodies, and all that joints tie to them, answer to an impulse.
struct JointedAnswer {
  BlowAnswer a, b;
  std::vector<BlowAnswer> of_group;
};

// One point at which two bodies are struck.
struct StruckPoint {
  StruckPoint(const Motion& a, const Motion& b, const ContactPoint& point, const Vec3& normal)
      : arm_a(point.point - a.centre), arm_b(point.point - b.centre) {
    const Mat3 across_a = cross_matrix(arm_a), across_b = cross_matrix(arm_b);
    turn_a.noalias() = a.inverse_inertia * across_a;
    turn_b.noalias() = b.inverse_inertia * across_b;
    mobility.noalias() = -across_a * turn_a - across_b * turn_b;
    mobility.diagonal() += a.inverse_mass + b.inverse_mass;
    const double along = normal.dot(mobility * normal);
    mass = along > 0 ? 1 / along : 0;
  }

  // The same where joints hold the bodies: these answer within the blow.
  void take_joints(const WorldState& state, const Pair& pair, const StruckGroup& group, const Vec3& normal) {
    jointed = std::make_unique<JointedAnswer>();
    jointed->of_group = group.answers(state, arm_a, arm_b);
    for (std::size_t k = 0; k < group.bodies().size(); ++k) {
      if (group.bodies()[k] == pair.a) jointed->a = jointed->of_group[k];
      if (group.bodies()[k] == pair.b) jointed->b = jointed->of_group[k];
    }
    mobility = jointed->b.move - cross_matrix(arm_b) * jointed->b.turn - jointed->a.move +
               cross_matrix(arm_a) * jointed->a.turn;
    const double along = normal.dot(mobility * normal);
    mass = along > 0 ? 1 / along : 0;
  }

  Vec3 arm_a, arm_b;
  Mat3 turn_a, turn_b;  // spin that each body takes from an impulse of 1 here
  Mat3 mobility;        // velocity of B against A here that an impulse of 1 on B, and −1 on A, gives, 1/kg
  double mass = 0;      // that such an impulse along the normal has to move, kg
  std::unique_ptr<JointedAnswer> jointed;  // null where no joint holds either body
};

// The impulses of a hit: restitution along the normal and friction across it, gone over until nothing changes.
struct BlowImpulses {
  std::array<double, 4> normal{};
  std::array<Vec3, 4> friction{Vec3::Zero(), Vec3::Zero(), Vec3::Zero(), Vec3::Zero()};

  Vec3 impulse(std::size_t i, const Vec3& along) const { return along * normal[i] + friction[i]; }
};
struct Blow : BlowImpulses {
  std::array<std::optional<StruckPoint>, 4> points;
};

// Restitution by Newton's rule and Coulomb's friction may make energy of a hit aslant (Kane and Levinson, Dynamics:
// Theory and Applications, 1985). Then as much of what is given back is left out as keeps it: between the blow without
// restitution, `dead`, and the whole one. What impulses do is a square of them, so the share is its root; 1 where
// nothing is made. Relative velocities of the points: before, after the dead blow, after the whole one.
double share_without_gain(const BlowImpulses& dead, const BlowImpulses& whole, const Vec3& along,
                          const std::array<std::array<Vec3, 4>, 3>& velocities) {
  double none = 0, slope = 0, square = 0;
  for (std::size_t i = 0; i < velocities[0].size(); ++i) {
    const Vec3 first = dead.impulse(i, along), more = whole.impulse(i, along) - first;
    const Vec3 mean = velocities[0][i] + velocities[1][i], faster = velocities[2][i] - velocities[1][i];
    none += 0.5 * first.dot(mean);
    slope += 0.5 * (more.dot(mean) + first.dot(faster));
    square += 0.5 * more.dot(faster);
  }
  if (none >= 0) return 0;
  if (none + slope + square <= 0) return 1;
  const double root = std::sqrt(std::max(slope * slope - 4 * square * none, 0.0));
  return std::clamp(2 * none / (-slope - root), 0.0, 1.0);
}

// `group`: null where no joint holds either body.
Blow strike_points(const WorldState& state, Motion& a, Motion& b, const Hit& hit, Pair& pair, StruckGroup* group) {
  const Manifold& m = hit.manifold;
  Blow blow;
  auto& points = blow.points;
  std::array<double, 4> wanted{};
  const auto count = static_cast<std::size_t>(m.count);
  const auto relative = [&](const Vec3& arm_a, const Vec3& arm_b) -> Vec3 {
    return b.velocity_at(arm_b) - a.velocity_at(arm_a);
  };
  if (group) {  // by what the points press on together
    Vec3 middle = Vec3::Zero();
    int met = 0;
    for (std::size_t i = 0; i < count; ++i)
      if (m.points[i].separation <= hit.met) middle += m.points[i].point, ++met;
    middle /= std::max(met, 1);
    group->choose_stops(state, middle - a.centre, middle - b.centre, m.normal);
  }
  for (std::size_t i = 0; i < count; ++i) {
    if (m.points[i].separation > hit.met) continue;
    StruckPoint& at = points[i].emplace(a, b, m.points[i], m.normal);
    if (group) at.take_joints(state, pair, *group, m.normal);
    const double closing = -m.normal.dot(relative(at.arm_a, at.arm_b));
    wanted[i] = std::max(closing, 0.0) * pair.surface.restitution;
    pair.closing_speed = std::max(pair.closing_speed, closing);
  }
  const auto push = [&](const StruckPoint& at, const Vec3& impulse) {
    if (group) {
      a.velocity.noalias() += at.jointed->a.move * impulse;
      b.velocity.noalias() += at.jointed->b.move * impulse;
      a.angular_velocity.noalias() += at.jointed->a.turn * impulse;
      b.angular_velocity.noalias() += at.jointed->b.turn * impulse;
      return;
    }
    a.velocity -= a.inverse_mass.cwiseProduct(impulse);
    b.velocity += b.inverse_mass.cwiseProduct(impulse);
    a.angular_velocity.noalias() -= at.turn_a * impulse;
    b.angular_velocity.noalias() += at.turn_b * impulse;
  };
  const auto go_over = [&](double given_back) {
    for (int iteration = 0; iteration < most_iterations; ++iteration) {
      double greatest_change = 0, greatest = 0;
      for (std::size_t i = 0; i < count; ++i) {
        if (!points[i]) continue;
        const StruckPoint& at = *points[i];
        const double speed = m.normal.dot(relative(at.arm_a, at.arm_b));
        const double impulse = std::max(blow.normal[i] + at.mass * (given_back * wanted[i] - speed), 0.0);
        greatest_change = std::max(greatest_change, std::abs(impulse - blow.normal[i]));
        push(at, m.normal * (impulse - blow.normal[i]));
        blow.normal[i] = impulse;
        greatest = std::max(greatest, impulse);

        const Vec3 velocity = relative(at.arm_a, at.arm_b);
        const Vec3 slip = velocity - m.normal * m.normal.dot(velocity);
        const double slip_speed = slip.norm();
        if (slip_speed < 1e-12) continue;
        const Vec3 way = slip / slip_speed;
        const double along = way.dot(at.mobility * way);
        const Vec3 held = along > 0 ? Vec3(blow.friction[i] - way * (slip_speed / along)) : blow.friction[i];
        const double size = held.norm();
        const Vec3 kept = size > pair.surface.static_friction * blow.normal[i]
                              ? Vec3(held * (pair.surface.dynamic_friction * blow.normal[i] / size))
                              : held;
        push(at, kept - blow.friction[i]);
        blow.friction[i] = kept;
      }
      if (greatest_change <= settled_share * greatest) break;
    }
  };
  if (pair.surface.restitution <= 0) {
    go_over(1);
    return blow;
  }
  const auto at_points = [&](std::array<Vec3, 4>& velocities) {
    for (std::size_t i = 0; i < count; ++i)
      if (points[i]) velocities[i] = relative(points[i]->arm_a, points[i]->arm_b);
  };
  std::array<std::array<Vec3, 4>, 3> velocities;
  for (auto& each : velocities) each.fill(Vec3::Zero());
  at_points(velocities[0]);
  const Motion a_before = a, b_before = b;
  go_over(1);
  at_points(velocities[2]);
  double gain = 0, size = 0;
  for (std::size_t i = 0; i < count; ++i) {
    if (!points[i]) continue;
    const Vec3 impulse = blow.impulse(i, m.normal);
    gain += 0.5 * impulse.dot(velocities[0][i] + velocities[2][i]);
    size += std::abs(impulse.dot(velocities[0][i]));
  }
  constexpr double of_rounding = 4e-6;  // of what goes over the points until nothing changes
  if (gain <= of_rounding * size) return blow;
  const BlowImpulses whole = blow;
  const Motion a_whole = a, b_whole = b;
  a = a_before;
  b = b_before;
  static_cast<BlowImpulses&>(blow) = {};
  go_over(0);
  at_points(velocities[1]);
  const double share = share_without_gain(blow, whole, m.normal, velocities);
  const auto between = [&](Motion& to, const Motion& end) {
    to.velocity += share * (end.velocity - to.velocity);
    to.angular_velocity += share * (end.angular_velocity - to.angular_velocity);
  };
  between(a, a_whole);
  between(b, b_whole);
  for (std::size_t i = 0; i < count; ++i) {
    blow.normal[i] += share * (whole.normal[i] - blow.normal[i]);
    blow.friction[i] += share * (whole.friction[i] - blow.friction[i]);
  }
  return blow;
}

// No point of the body moves faster than this within the sub-step, m/s.
double top_speed(const WorldState& state, std::uint32_t body, double h) {
  const Motion& m = state.motions[body];
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

void strike(WorldState& state, ImpactScratch& scratch, Pair& pair, const Hit& hit, double h) {
  const Manifold& m = hit.manifold;
  const Vec3 &pull_a = state.scratch.expected_acceleration[pair.a],
             &pull_b = state.scratch.expected_acceleration[pair.b];
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  Motion a = carried_on(ra, state.motions[pair.a], pull_a, hit.moment);
  Motion b = carried_on(rb, state.motions[pair.b], pull_b, hit.moment);
  const auto count = static_cast<std::size_t>(m.count);
  StruckGroup* const group = group_of(state, scratch, pair);
  const Motion a_before = a, b_before = b;
  const Blow blow = strike_points(state, a, b, hit, pair, group);
  for (std::size_t i = 0; i < count; ++i) {
    if (!blow.points[i]) continue;
    const Vec3 impulse = blow.impulse(i, m.normal);
    const auto note = [&](std::uint32_t body, const Motion& before, const Motion& after, const Vec3& arm, double sign) {
      // What is fixed is struck by many at once.
      if (!state.records[body].jointed || !state.records[body].dynamic()) return;
      state.scratch.blows[body].add(sign * impulse, before.centre + arm,
                                    0.5 * (before.velocity_at(arm) + after.velocity_at(arm)), h - hit.moment);
    };
    note(pair.a, a_before, a, blow.points[i]->arm_a, -1);
    note(pair.b, b_before, b, blow.points[i]->arm_b, 1);
  }
  pair.missed = false;
  // Back to the start of the sub-step, as if the bodies had always moved as they do after the hit.
  const auto settle = [&](std::uint32_t index, const Motion& after) {
    const BodyRecord& record = state.records[index];
    if (!record.dynamic()) return;
    Motion& body = state.motions[index];
    // What it lay on until then holds it no longer: from here on it falls.
    const Vec3& pull =
        record.jointed ? state.scratch.expected_acceleration[index] : state.scratch.steady_acceleration[index];
    const Vec3 change = after.velocity - hit.moment * pull - body.velocity;
    Motion back = after;
    coast_turning(record, back, -hit.moment);
    back.centre = body.centre - hit.moment * change;
    back.velocity = body.velocity + change;
    body = back;
  };
  if (group) {
    // The others that the joints took along, and what the joints bore, before any of them moves.
    for (std::size_t k = 0; k < group->bodies().size(); ++k) {
      const std::uint32_t body = group->bodies()[k];
      if (body == pair.a || body == pair.b) continue;
      Motion after =
          carried_on(state.records[body], state.motions[body], state.scratch.expected_acceleration[body], hit.moment);
      for (std::size_t i = 0; i < count; ++i) {
        if (!blow.points[i]) continue;
        const Vec3 impulse = m.normal * blow.normal[i] + blow.friction[i];
        after.velocity += blow.points[i]->jointed->of_group[k].move * impulse;
        after.angular_velocity += blow.points[i]->jointed->of_group[k].turn * impulse;
      }
      scratch.taken_along.emplace_back(body, after);
    }
    for (std::size_t i = 0; i < count; ++i)
      if (blow.points[i])
        group->bear(state, blow.points[i]->arm_a, blow.points[i]->arm_b, m.normal * blow.normal[i] + blow.friction[i]);
    for (const auto& [body, after] : scratch.taken_along) {
      settle(body, after);
      mark_struck(state, body, hit.moment, h);
      scratch.struck.push_back(body);
    }
    scratch.taken_along.clear();
  }
  settle(pair.a, a);
  settle(pair.b, b);

  // From here on the pair goes by the planes of the hit.
  Manifold now = m;
  for (std::size_t i = 0; i < count; ++i) {
    // Where the point is on both bodies after they were set back: midway between them, with their gap.
    const Vec3 on_a =
        state.motions[pair.a].centre +
        surface_turn(ra, a.orientation, state.motions[pair.a].orientation) * (m.points[i].point - a.centre);
    const Vec3 on_b =
        state.motions[pair.b].centre +
        surface_turn(rb, b.orientation, state.motions[pair.b].orientation) * (m.points[i].point - b.centre);
    now.points[i].point = 0.5 * (on_a + on_b);
    now.points[i].separation = m.points[i].separation + m.normal.dot(on_b - on_a);
  }
  fetch_pair(state, pair);
  set_manifold_on_the_way(state, pair, now);
  const std::array<Vec3, 2> tangents = pair.tangents();
  for (std::size_t i = 0; i < count; ++i) {
    pair.rows[i].total += blow.normal[i];
    for (std::size_t t = 0; t < 2; ++t) pair.friction.slide_total[t] += tangents[t].dot(blow.friction[i]);
  }
  send_pair(state, pair);
}

// Whether the two lie so deep in one another that they do not meet any more: the passes part them.
bool in_one_another(const WorldState& state, const Pair& pair) {
  constexpr double deep = 0.5;            // of the thinner one's half thickness
  constexpr double deep_for_any = 0.005;  // m: what is thin is sooner pressed in so far
  double least = 0;
  for (std::size_t i = 0; i < static_cast<std::size_t>(pair.count); ++i) least = std::min(least, pair.rows[i].gap);
  const double thinner = std::min(state.records[pair.a].inner_radius, state.records[pair.b].inner_radius);
  return least < -std::max(deep * thinner, deep_for_any);
}

// Whether and when the pair is hit in this sub-step.
Hit look(WorldState& state, Pair& pair, double h) {
  if (pair.beyond || in_one_another(state, pair)) return {};
  if (pair.creased && state.scratch.struck_at[pair.a] == 0 && state.scratch.struck_at[pair.b] == 0) return {};
  if (!pair.fast) return find_hit(state, pair, h);
  // A struck body's way before its last hit in this sub-step is only a figure of reckoning: look from there on.
  bool apart = false;
  const double start = std::max(state.scratch.struck_at[pair.a], state.scratch.struck_at[pair.b]);
  const Hit hit = find_swept_hit(state, pair, start, h, apart);
  // The plane of a fast pair that stays apart says nothing about where it is going: it must not hold it up.
  pair.passing = !hit.any && apart;
  return hit;
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

// Whether the pair is wholly apart, without load, and comes near faster than the restitution speed.
bool comes_near(const WorldState& state, const Pair& pair) {
  for (std::size_t i = 0; i < static_cast<std::size_t>(pair.count); ++i)
    if (pair.rows[i].impulse > 0) return false;
  bool apart = true, at_speed = false;
  each_point_now(state, pair, [&](double gap, double speed, const Vec3&, const Vec3&) {
    apart = apart && gap > 0;
    at_speed = at_speed || speed > state.settings.restitution_speed;
  });
  return apart && at_speed;
}

// Looks at active pair which(k) for every k below `count`, where it may be hit; what is hit makes this round's hits, in
// that order.
template <class Which, class Wanted>
void find_hits(WorldState& state, ImpactScratch& scratch, double h, std::size_t count, const Which& which,
               const Wanted& wanted) {
  constexpr std::size_t worth_sharing = 400;  // pairs
  state.scratch.team->run_if_worth(count, worth_sharing, [&](int worker) {
    auto& mine = scratch.found[static_cast<std::size_t>(worker)];
    const Team::Share part = state.scratch.team->share(count, worker);
    for (std::size_t k = part.first; k < part.last; ++k) {
      const std::size_t i = which(k);
      const ActiveEnds& ends = state.scratch.active_ends[i];
      if (!may_hit(state, ends) || !wanted(ends)) continue;
      const Hit hit = look(state, state.pairs[state.scratch.active[i]], h);
      if (hit.any) mine.emplace_back(state.scratch.active[i], hit);
      if (hit.stale)
        scratch.stale[static_cast<std::size_t>(worker)].emplace_back(state.scratch.active[i], hit.manifold);
      else if (!hit.any && (state.records[ends.a].jointed || state.records[ends.b].jointed))
        scratch.not_found[static_cast<std::size_t>(worker)].push_back(state.scratch.active[i]);
    }
  });
  const auto watch = [&](std::uint32_t index) {
    Pair& pair = state.pairs[index];
    if (pair.missed || pair.creased || !(pair.surface.restitution > 0) || !comes_near(state, pair)) return;
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
  for (auto& mine : scratch.found) {
    scratch.hits.insert(scratch.hits.end(), mine.begin(), mine.end());
    mine.clear();
  }
}

// The hits of pairs that close by themselves.
void find_first_hits(WorldState& state, ImpactScratch& scratch, double h) {
  find_hits(
      state, scratch, h, state.scratch.active.size(), [](std::size_t k) { return k; },
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
void find_passed_on(WorldState& state, ImpactScratch& scratch, double h, bool first) {
  if (first) list_around(state, scratch);
  scratch.around.clear();
  for (const auto& hit : scratch.hits)
    for (const std::uint32_t body : {state.pairs[hit.first].a, state.pairs[hit.first].b}) {
      if (state.scratch.struck[body] == 0) continue;
      scratch.around.insert(scratch.around.end(), scratch.pairs_of.begin() + scratch.first_of[body],
                            scratch.pairs_of.begin() + scratch.first_of[body + 1]);
    }
  for (const std::uint32_t body : scratch.struck)
    scratch.around.insert(scratch.around.end(), scratch.pairs_of.begin() + scratch.first_of[body],
                          scratch.pairs_of.begin() + scratch.first_of[body + 1]);
  scratch.struck.clear();
  std::sort(scratch.around.begin(), scratch.around.end());
  scratch.around.erase(std::unique(scratch.around.begin(), scratch.around.end()), scratch.around.end());
  find_hits(
      state, scratch, h, scratch.around.size(), [&](std::size_t k) { return scratch.around[k]; },
      [](const ActiveEnds&) { return true; });
}

// Gives one of the round's hits its impulse.
void strike_one(WorldState& state, ImpactScratch& scratch, std::uint32_t index, const Hit& first_look, double h) {
  Pair& pair = state.pairs[index];
  // What was struck in this round moves otherwise than when it was looked at.
  const bool changed = state.scratch.struck[pair.a] || state.scratch.struck[pair.b];
  const Hit hit = changed ? look(state, pair, h) : first_look;
  if (!hit.any) return;
  strike(state, scratch, pair, hit, h);
  for (const std::uint32_t body : {pair.a, pair.b})
    if (state.records[body].dynamic()) mark_struck(state, body, hit.moment, h);
}

// The round's hits, soonest first. Only hits that share a moving body depend on one another: each goes one level below
// the last that shares one with it, and those of a level are shared out. That is the same as one after the other.
void strike_all(WorldState& state, ImpactScratch& scratch, double h) {
  constexpr std::size_t worth_sharing = 64;
  const auto& hits = scratch.hits;
  // Joints tie bodies together that no pair tells of.
  const bool jointed = std::any_of(hits.begin(), hits.end(), [&](const auto& hit) {
    const Pair& pair = state.pairs[hit.first];
    return state.records[pair.a].jointed || state.records[pair.b].jointed;
  });
  if (hits.size() < worth_sharing || state.scratch.team->workers() == 1 || jointed) {
    for (const auto& [p, first_look] : hits) strike_one(state, scratch, p, first_look, h);
    return;
  }
  scratch.level.assign(state.records.size(), 0);
  scratch.level_of.resize(hits.size());
  std::uint32_t levels = 0;
  for (std::size_t k = 0; k < hits.size(); ++k) {
    const Pair& pair = state.pairs[hits[k].first];
    const bool moves_a = state.records[pair.a].dynamic(), moves_b = state.records[pair.b].dynamic();
    const std::uint32_t here = std::max(moves_a ? scratch.level[pair.a] : 0, moves_b ? scratch.level[pair.b] : 0);
    if (moves_a) scratch.level[pair.a] = here + 1;
    if (moves_b) scratch.level[pair.b] = here + 1;
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
  const auto workers = static_cast<std::uint32_t>(state.scratch.team->workers());
  state.scratch.team->run([&](int worker) {
    for (std::size_t level = 0; level < levels; ++level) {
      for (std::uint32_t k = scratch.first_of_level[level]; k < scratch.first_of_level[level + 1]; ++k) {
        const auto& [p, first_look] = hits[scratch.by_level[k]];
        if (state.pairs[p].block % workers == static_cast<std::uint32_t>(worker))
          strike_one(state, scratch, p, first_look, h);
      }
      state.scratch.team->wait();
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

void resolve_impacts(WorldState& state, double h) {
  state.scratch.struck_at.assign(state.motions.size(), 0.0);
  if (!state.joints.empty()) state.scratch.blows.assign(state.motions.size(), {});
  std::vector<double>& fastest = state.scratch.top_speed;
  constexpr std::size_t worth_sharing = 500;
  state.scratch.team->each(state.motions.size(), worth_sharing, [&](std::size_t i) {
    const auto body = static_cast<std::uint32_t>(i);
    if (state.scratch.moving[i] == 0) return;
    state.scratch.steady_acceleration[i] = steady_acceleration(state, body);
    state.scratch.expected_acceleration[i] = expected_acceleration(state, body);
    // Of the whole tick: the gaps that it is held against are those of the tick's start.
    fastest[i] = std::max(fastest[i], top_speed(state, body, h));
  });
  state.scratch.struck.resize(state.motions.size());
  look_for_closing(state, h);
  ImpactScratch& scratch = *state.scratch.impacts;
  scratch.found.resize(static_cast<std::size_t>(state.scratch.team->workers()));
  scratch.stale.resize(static_cast<std::size_t>(state.scratch.team->workers()));
  scratch.not_found.resize(static_cast<std::size_t>(state.scratch.team->workers()));
  scratch.joints_listed = false;
  std::size_t dealt_with = 0;
  for (int round = 0; round < most_rounds && dealt_with < hits_affordable; ++round) {
    if (round == 0)
      find_first_hits(state, scratch, h);
    else
      find_passed_on(state, scratch, h, round == 1);
    if (scratch.hits.empty()) break;
    std::stable_sort(scratch.hits.begin(), scratch.hits.end(),
                     [](const auto& x, const auto& y) { return x.second.moment < y.second.moment; });
    std::fill(state.scratch.struck.begin(), state.scratch.struck.end(), 0);
    scratch.struck.clear();
    strike_all(state, scratch, h);
    dealt_with += scratch.hits.size();
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
