// Turning at creases.
#include "dynamics/creases.h"

#include "dynamics/contact_pairs.h"
#include "dynamics/contact_solver.h"
#include "dynamics/impact.h"
#include "dynamics/integrate.h"

namespace bronvel {

/// Which ball may meet which facet: with `ball_is_a` its normal points from the ball.
struct BallOnFacet {
  std::uint32_t ball = 0, ground = 0, pair = 0;
  bool ball_is_a = false;
  auto operator<=>(const BallOnFacet&) const = default;
};

struct CreaseScratch {
  std::vector<BallOnFacet> listed;
  struct Facet {
    std::uint32_t pair = 0;
    Vec3 normal;     // towards the ball
    double gap = 0;  // m
  };
  std::vector<Facet> facets;       // of one ball and one surface
  std::vector<char> meets_others;  // by body: something else than faceted ground may touch it in this tick
  std::vector<std::pair<std::uint32_t, Vec3>> going;  // balls that go along a facet in this sub-step, and its normal
};

namespace {

bool faceted(const BodyRecord& body) {
  return !body.dynamic() && (std::holds_alternative<Mesh>(body.settings.shape) ||
                             std::holds_alternative<HeightField>(body.settings.shape));
}

bool rolls_freely(const BodyRecord& body) {
  return body.dynamic() && std::holds_alternative<Sphere>(body.settings.shape) && body.symmetry == Symmetry::ball &&
         !body.jointed;
}

// How far the ball may be off the facet that it goes along, m, and how fast it may leave it or be pressed into it, m/s.
constexpr double off_facet = 2e-3;  // of its radius
constexpr double along_facet = 0.1;
// Farther off a facet than this at a sub-step's end, of its radius, it has not come to it.
constexpr double not_there = 1e-5;
constexpr double same_plane = 1 - 1e-14;  // cos of the angle between two normals

using NearFacets = std::vector<CreaseScratch::Facet>;

// The facet that the ball goes along; none if it flies.
const CreaseScratch::Facet* bearing_facet(const NearFacets& facets, const Vec3& velocity, double radius) {
  const CreaseScratch::Facet* nearest = nullptr;
  for (const CreaseScratch::Facet& each : facets)
    if (each.gap <= off_facet * radius && std::abs(each.normal.dot(velocity)) <= along_facet &&
        (!nearest || each.gap < nearest->gap))
      nearest = &each;
  return nearest;
}

struct Crease {
  const CreaseScratch::Facet* beyond = nullptr;
  double after = 0;  // s
};

// The next facet that is come upon from the facet `on` within `left` seconds.
Crease next_crease(const NearFacets& facets, const CreaseScratch::Facet& on, const Vec3& velocity, const Vec3& pull,
                   double left) {
  const double gentlest = std::cos(gentlest_corner);
  Crease next;
  for (const CreaseScratch::Facet& each : facets) {
    const double alike = each.normal.dot(on.normal);
    if (alike < gentlest || alike > same_plane) continue;
    const double closing = -each.normal.dot(velocity), sooner = -each.normal.dot(pull);
    const double after = time_to_close(each.gap, closing, sooner, left);
    if (after > left || closing + after * sooner <= 1e-9 || (next.beyond && after >= next.after)) continue;
    next = {&each, after};
  }
  return next;
}

// The velocity that lay in the plane of `from`, turned about the edge between the two into the plane of `to`.
Vec3 turned_into(const Vec3& velocity, const Vec3& from, const Vec3& to) {
  const Vec3 edge = from.cross(to).normalized(), along = edge * edge.dot(velocity), across = velocity - along;
  const Vec3 flat = across - to * to.dot(across);
  const double length = flat.norm();
  return length > 0 ? Vec3(along + flat * (across.norm() / length)) : velocity;
}

void bear(WorldState& state, std::uint32_t index, double impulse) {
  Pair& pair = state.pairs[index];
  fetch_pair(state, pair);
  pair.rows[0].total += impulse;
  send_pair(state, pair);
}

void turn_ball(WorldState& state, CreaseScratch& scratch, std::uint32_t index, const Motion& ground, double h) {
  constexpr int most_turns = 64;  // in a sub-step
  NearFacets& facets = scratch.facets;
  const double radius = std::get<Sphere>(state.records[index].settings.shape).radius;
  Motion& ball = state.motions[index];
  const double mass = 1 / ball.inverse_mass.maxCoeff();
  const Vec3 drift = ground.velocity_at(ball.centre - ground.centre);
  Vec3 velocity = ball.velocity - drift;
  const CreaseScratch::Facet* on = bearing_facet(facets, velocity, radius);
  for (const CreaseScratch::Facet& each : facets) {
    state.pairs[each.pair].creased = on && each.normal.dot(on->normal) >= std::cos(gentlest_corner);
    state.pairs[each.pair].passing = false;
  }
  if (!on) return;
  // Facet by facet, with what pulls it along each; what presses it on is for the last to bear.
  const Vec3 steady = steady_acceleration(state, index);
  const auto pull = [&]() -> Vec3 { return steady - on->normal * on->normal.dot(steady); };
  Vec3 way = Vec3::Zero();
  double left = h;
  int turns = 0;
  const auto go = [&](double seconds) {
    const Vec3 step = seconds * (velocity + 0.5 * seconds * pull());
    for (CreaseScratch::Facet& each : facets) each.gap += each.normal.dot(step);
    velocity += seconds * pull();
    way += step;
    left -= seconds;
  };
  for (; turns < most_turns; ++turns) {
    const Crease crease = next_crease(facets, *on, velocity, pull(), left);
    if (!crease.beyond) break;
    go(crease.after);
    if (on->gap > off_facet * radius) break;  // it flew off before
    const Vec3 turned = turned_into(velocity, on->normal, crease.beyond->normal);
    bear(state, crease.beyond->pair, mass * (turned - velocity).norm());
    velocity = turned;
    on = crease.beyond;
  }
  const bool alone = scratch.meets_others[index] == 0;
  if (alone) scratch.going.push_back({index, on->normal});
  go(left);
  // What it does not come to in this sub-step bears nothing. (Once pressed on in a pass, it would hold the ball up.)
  for (const CreaseScratch::Facet& each : facets)
    state.pairs[each.pair].passing =
        state.pairs[each.pair].creased && each.gap > not_there * radius && each.normal.dot(on->normal) < same_plane;
  if (turns == 0) return;
  // As if it had gone along the last facet from the sub-step's start; where it is held along an axis, it stays there.
  const Vec3 before = velocity - h * pull();
  const Vec3 shift = way - h * (alone ? Vec3(0.5 * (before + velocity)) : velocity);
  for (int axis = 0; axis < 3; ++axis) {
    if (ball.inverse_mass[axis] == 0) continue;
    ball.centre[axis] += shift[axis];
    ball.velocity[axis] = drift[axis] + before[axis];
  }
}

}  // namespace

void find_creases(WorldState& state) {
  std::vector<BallOnFacet>& listed = (*state.crease_scratch).listed;
  listed.clear();
  std::vector<char>& meets_others = (*state.crease_scratch).meets_others;
  meets_others.assign(state.records.size(), 0);
  for (const std::uint32_t p : state.active) {
    const Pair& pair = state.pairs[p];
    const BodyRecord &a = state.records[pair.a], &b = state.records[pair.b];
    if (pair.count == 1 && rolls_freely(a) && faceted(b))
      listed.push_back({pair.a, pair.b, p, true});
    else if (pair.count == 1 && rolls_freely(b) && faceted(a))
      listed.push_back({pair.b, pair.a, p, false});
    else
      meets_others[pair.a] = meets_others[pair.b] = 1;
  }
  std::sort(listed.begin(), listed.end());
}

void turn_at_creases(WorldState& state, double h) {
  CreaseScratch& scratch = *state.crease_scratch;
  scratch.going.clear();
  for (auto first = scratch.listed.begin(); first != scratch.listed.end();) {
    const auto last = std::find_if(first, scratch.listed.end(), [&](const BallOnFacet& each) {
      return each.ball != first->ball || each.ground != first->ground;
    });
    scratch.facets.clear();
    for (auto each = first; each != last; ++each) {
      const Pair& pair = state.pairs[each->pair];
      scratch.facets.push_back(
          {each->pair, each->ball_is_a ? Vec3(-pair.normal) : pair.normal, gap_now(state, pair, pair.rows[0])});
    }
    turn_ball(state, scratch, first->ball, state.motions[first->ground], h);
    first = last;
  }
}

void leave_out_passed(WorldState& state) {
  for (const BallOnFacet& each : (*state.crease_scratch).listed) {
    Pair& pair = state.pairs[each.pair];
    // What was struck goes another way.
    if (state.struck_at[each.ball] > 0) pair.passing = false;
    send_passing(state, pair);
  }
}

void even_ways(WorldState& state, double h) {
  for (const auto& [body, normal] : (*state.crease_scratch).going) {
    const Vec3 further = 0.5 * h * (state.velocity_before[body] - state.motions[body].velocity);
    state.motions[body].centre += further - normal * normal.dot(further);
  }
}

}  // namespace bronvel
