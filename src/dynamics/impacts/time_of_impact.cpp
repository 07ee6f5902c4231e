// Looking for hits.
#include "dynamics/impacts/time_of_impact.h"

#include "dynamics/bodies/integrate.h"
#include "dynamics/narrow_phase/manifolds.h"
#include "dynamics/solver/contact_follow.h"
#include "dynamics/solver/contact_solver.h"

namespace bronvel {
namespace {

constexpr int most_looks = 8;  // at where the shapes really are on the way to a hit
constexpr int most_swept_looks = 100;
constexpr int most_looks_whirling = 16;  // where the surface turns so far that each look leads on by next to nothing
constexpr double whirling = 8;           // rad in a sub-step
constexpr double touching_gap = 0.005;   // m: pairs nearer than this keep their contact, if it bears something
constexpr double same_moment = 1e-4;     // m: points within this of touching are hit together

}  // namespace

double time_to_close(double gap, double u, double a, double h) {
  if (gap <= 0) return 0;
  const double under_root = u * u + 2 * a * gap;
  if (under_root < 0) return 2 * h;
  const double below = u + std::sqrt(under_root);
  return below > 0 ? 2 * gap / below : 2 * h;
}

BodyState carried_on(const BodyRecord& record, const BodyState& body, const Vec3& acceleration, double moment) {
  BodyState later = body;
  if (moment == 0) return later;
  later.centre += moment * (body.velocity + 0.5 * moment * acceleration);
  later.velocity += moment * acceleration;
  coast_turning(record, later, moment);
  return later;
}

namespace {

// Where a body is at one moment of a sub-step after another, as `carried_on` has it. One that whirls goes on from where
// it was looked at last: from the start each time, its turning would take most of all.
class OnItsWay {
 public:
  OnItsWay(const BodyRecord& record, const BodyState& start, const Vec3& pull, double h)
      : record_(record), start_(start), pull_(pull), whirls_(h * start.angular_velocity.norm() > whirling) {
    if (whirls_) now_ = start;
  }

  const BodyState& at(double moment) {
    if (!whirls_ || moment < at_) {
      now_ = carried_on(record_, start_, pull_, moment);
    } else {
      constexpr int most_steps = 16;
      coast_turning(record_, now_, moment - at_, most_steps);
      now_.centre = start_.centre + moment * (start_.velocity + 0.5 * moment * pull_);
      now_.velocity = start_.velocity + moment * pull_;
    }
    at_ = moment;
    return now_;
  }

 private:
  const BodyRecord& record_;
  const BodyState& start_;
  const Vec3& pull_;
  bool whirls_;
  BodyState now_;
  double at_ = 0;
};

// By how much the way of two points against each other may bend along the normal within the sub-step, since they turn:
// by a good measure, m.
double bend(const WorldState& state, const Pair& pair, const Vec3& arm_a, const Vec3& arm_b, const Vec3& normal,
            double h) {
  const auto along = [&](std::uint32_t body, const Vec3& arm) {
    const BodyState& m = state.bodies[body];
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
  const BodyState &a = state.bodies[pair.a], &b = state.bodies[pair.b];
  const BodyState &a0 = state.at_start[pair.a], &b0 = state.at_start[pair.b];
  const Quat turn_a = surface_turn(state.records[pair.a], a0.orientation, a.orientation);
  const Quat turn_b = surface_turn(state.records[pair.b], b0.orientation, b.orientation);
  const Vec3 drift = (b.centre - b0.centre) - (a.centre - a0.centre);
  for (std::size_t i = 0; i < static_cast<std::size_t>(pair.count); ++i) {
    const ManifoldPoint& row = pair.points[i];
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
    // The iterations step speeds first and places then, and would stop at the sub-step's end what just does not arrive.
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
Hit find_swept_hit(const WorldState& state, const Pair& pair, double start, double h, double& gap) {
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  const Vec3 &pull_a = state.scratch.expected_acceleration[pair.a],
             &pull_b = state.scratch.expected_acceleration[pair.b];
  const double reach = ra.travel + rb.travel + 1e-3;
  Hit hit;
  hit.moment = start;
  hit.met = same_moment;
  gap = 0;
  Graze graze = Graze::no;
  OnItsWay way_a(ra, state.bodies[pair.a], pull_a, h), way_b(rb, state.bodies[pair.b], pull_b, h);
  const double spin = std::max(surface_spin(ra, state.bodies[pair.a]), surface_spin(rb, state.bodies[pair.b]));
  const int looks = h * spin > whirling ? most_looks_whirling : most_swept_looks;
  for (int look = 0; look < looks; ++look) {
    const BodyState &a = way_a.at(hit.moment), &b = way_b.at(hit.moment);
    const PartGap apart_now = part_gap(state, pair, a, b);
    if (look == 0) gap = apart_now.gap;
    if (apart_now.gap <= same_moment) {
      hit.manifold = collide_parts(state, pair, a, b, reach, graze);
      if (graze == Graze::yes) {
        // It goes on as over one face. (Before it is there the search would come to nothing, step by step.)
        hit.stale = true;
        hit.manifold = collide_parts(state, pair, state.bodies[pair.a], state.bodies[pair.b], reach, graze);
        return hit;
      }
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
      // What touches at one point, parting there, may come down on another.
      if (look == 0 && hit.manifold.count > 0) {
        hit.moment += soonest;
        if (hit.moment > h) return hit;
        continue;
      }
    }
    const double speed = -apart_now.normal.dot(b.velocity - a.velocity) + surface_spin(ra, a) * ra.radius +
                         surface_spin(rb, b) * rb.radius + (pull_b - pull_a).norm() * h;
    if (speed <= 0) return hit;
    hit.moment += std::max(apart_now.gap, 0.5 * same_moment) / speed;
    if (hit.moment > h) return hit;
  }
  return hit;
}

// In large islands, what touches already is struck by the points that it has, unless it is round or has turned far
// since the tick's start: finding them anew took two fifths of the time of hits where a wall is blown apart.
bool struck_by_own_planes(const WorldState& state, const Pair& pair, Hit& hit) {
  const auto round = [&](std::uint32_t body) { return state.records[body].symmetry != Symmetry::none; };
  if (pair.in_double || round(pair.a) || round(pair.b) || turned_far(state, pair)) return false;
  const Vec3& centre_a = state.bodies[pair.a].centre;
  const Vec3& centre_b = state.bodies[pair.b].centre;
  hit.manifold.normal = pair.normal;
  hit.manifold.count = 0;
  each_point_now(state, pair, [&](double gap, double speed, const Vec3& arm_a, const Vec3& arm_b) {
    ContactPoint& point = hit.manifold.points[static_cast<std::size_t>(hit.manifold.count++)];
    point.point = 0.5 * (centre_a + arm_a + centre_b + arm_b);
    point.separation = gap;
    hit.any = hit.any || (gap <= hit.met && speed > state.settings.restitution_speed);
  });
  hit.by_own_planes = hit.any;
  return hit.any;
}

Hit find_hit(const WorldState& state, const Pair& pair, double h) {
  const Vec3 &pull_a = state.scratch.expected_acceleration[pair.a],
             &pull_b = state.scratch.expected_acceleration[pair.b];
  Hit hit;
  hit.moment = first_moment(state, pair, -pair.normal.dot(pull_b - pull_a), h);
  if (hit.moment > h) return hit;
  // What the iterations would stop is met: it may be this far off.
  hit.met = std::max(same_moment, 0.51 * h * h * (pull_b - pull_a).norm());
  if (hit.moment == 0 && struck_by_own_planes(state, pair, hit)) return hit;
  // The planes are those of the tick's start: look where the shapes really are at that moment, and go on from there.
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  const double reach = ra.travel + rb.travel + 1e-3;
  Graze graze = Graze::no;
  OnItsWay way_a(ra, state.bodies[pair.a], pull_a, h), way_b(rb, state.bodies[pair.b], pull_b, h);
  for (int look = 0; look < most_looks; ++look) {
    const BodyState &a = way_a.at(hit.moment), &b = way_b.at(hit.moment);
    hit.manifold = collide_parts(state, pair, a, b, reach, graze);
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
  // The iterations go straight, and would stop what turns and just does not arrive: that is met at the sub-step's end.
  hit.moment = h;
  const BodyState &a = way_a.at(h), &b = way_b.at(h);
  hit.manifold = collide_parts(state, pair, a, b, reach, graze);
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
  // A body that turns has turned away, or grazes an edge: the iterations must not stop it at a plane that is no longer
  // there.
  hit.stale = true;
  hit.manifold = collide_parts(state, pair, state.bodies[pair.a], state.bodies[pair.b], reach, graze);
  return hit;
}

// Whether the two lie so deep in one another that they do not meet any more: the iterations part them.
bool in_one_another(const WorldState& state, const Pair& pair) {
  constexpr double deep = 0.5;            // of the thinner one's half thickness
  constexpr double deep_for_any = 0.005;  // m: what is thin is sooner pressed in so far
  double least = 0;
  for (std::size_t i = 0; i < static_cast<std::size_t>(pair.count); ++i) least = std::min(least, pair.points[i].gap);
  const double thinner = std::min(state.records[pair.a].inner_radius, state.records[pair.b].inner_radius);
  return least < -std::max(deep * thinner, deep_for_any);
}

}  // namespace

Hit find_time_of_impact(WorldState& state, Pair& pair, double h) {
  if (pair.beyond || in_one_another(state, pair)) return {};
  if (pair.at_internal_edge && state.scratch.struck_at[pair.a] == 0 && state.scratch.struck_at[pair.b] == 0) return {};
  if (!pair.fast) return find_hit(state, pair, h);
  // A struck body's way before its last hit in this sub-step is only a figure of reckoning: look from there on.
  double gap = 0;
  const double start = std::max(state.scratch.struck_at[pair.a], state.scratch.struck_at[pair.b]);
  const Hit hit = find_swept_hit(state, pair, start, h, gap);
  // The plane of a fast pair that stays apart says nothing about where it is going: it must not hold it up.
  if (!hit.any && gap > same_moment && gap <= touching_gap) fetch_pair(state, pair);
  pair.passing = !hit.any && gap > same_moment && (gap > touching_gap || bears_nothing(pair));
  return hit;
}

bool may_come_near(const WorldState& state, const Pair& pair, double h) {
  if (!bears_nothing(pair)) return false;
  bool apart = true, at_speed = false;
  each_point_now(state, pair, [&](double gap, double speed, const Vec3& arm_a, const Vec3& arm_b) {
    apart = apart && gap > 0;
    const double bends = bend(state, pair, arm_a, arm_b, pair.normal, h) / h;
    at_speed = at_speed || speed + bends > state.settings.restitution_speed;
  });
  return apart && at_speed;
}

}  // namespace bronvel
