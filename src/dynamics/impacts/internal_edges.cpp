// Turning at internal edges.
#include "dynamics/impacts/internal_edges.h"

#include "dynamics/bodies/integrate.h"
#include "dynamics/impacts/time_of_impact.h"
#include "dynamics/solver/contact_solver.h"
#include "geometry/queries/contact_convex.h"
#include "geometry/shapes/parts.h"

namespace bronvel {

/// Which ball may meet which facet.
struct BallOnFacet {
  std::uint32_t ball = 0, ground = 0, pair = 0;
  auto operator<=>(const BallOnFacet&) const = default;
};

struct InternalEdgeScratch {
  /// The plane of a neighbour to which the surface falls away, and how far the ball is off it, m.
  struct Ridge {
    Vec3 normal;
    double gap = 0;
  };
  struct NearFacet {
    std::uint32_t pair = 0;
    Vec3 normal;     // towards the ball
    double gap = 0;  // m
    std::array<Ridge, 8> ridges;
    std::size_t ridge_count = 0;
    std::array<Vec3, 3> corners;
  };
  std::vector<BallOnFacet> listed;
  std::vector<NearFacet> at_start;  // of each of these, as it is at the tick's start
  std::vector<NearFacet> facets;    // of one ball and one surface, now
  std::vector<char> meets_others;   // by body: something else than faceted ground may touch it in this tick
  std::vector<std::pair<std::uint32_t, Vec3>> going;  // balls that go along a facet in this sub-step, and its normal
};

namespace {

using NearFacet = InternalEdgeScratch::NearFacet;
using NearFacets = std::vector<NearFacet>;

// How far the ball may be off the facet that it goes along, and how fast it may leave it or be pressed into it, m/s.
constexpr double off_facet = 2e-3;  // of its radius
constexpr double along_facet = 0.1;
// Farther off a facet than this at a sub-step's end, of its radius, it has not come to it.
constexpr double not_there = 1e-5;
constexpr double same_plane = 1 - 1e-14;  // cos of the angle between two normals

bool ball_on_facet(const WorldState& state, const ActiveEnds& ends) {
  if (ends.points != 1 || ends.moves_a == ends.moves_b) return false;
  const Shape& ground = state.records[ends.moves_a ? ends.b : ends.a].settings.shape;
  return std::holds_alternative<Sphere>(state.records[ends.moves_a ? ends.a : ends.b].settings.shape) &&
         (std::holds_alternative<Mesh>(ground) || std::holds_alternative<HeightField>(ground));
}

// Whether the surface has bent down from the facet's plane where the ball is.
bool beyond_ridge(const NearFacet& facet) {
  for (std::size_t i = 0; i < facet.ridge_count; ++i)
    if (facet.ridges[i].gap > facet.gap + 1e-12) return true;
  return false;
}

// Whether a ball there, seen as the ground was at the tick's start, is over the facet, or within about its width of it.
// (Beyond a valley and a ridge its plane would rise above the surface once more.)
bool over(const NearFacet& facet, const Vec3& centre) {
  for (std::size_t i = 0; i < 3; ++i) {
    const Vec3 in = facet.normal.cross(facet.corners[(i + 1) % 3] - facet.corners[i]);
    const double width = in.dot(facet.corners[(i + 2) % 3] - facet.corners[i]);
    if (in.dot(centre - facet.corners[i]) < -1.25 * width) return false;
  }
  return true;
}

void move(NearFacets& facets, const Vec3& step) {
  for (NearFacet& each : facets) {
    each.gap += each.normal.dot(step);
    for (std::size_t i = 0; i < each.ridge_count; ++i) each.ridges[i].gap += each.ridges[i].normal.dot(step);
  }
}

// As it is at the tick's start; none where the ball meets the facet's edge, and not its plane.
std::optional<NearFacet> near_facet(const WorldState& state, const BallOnFacet& on) {
  const Pair& pair = state.pairs[on.pair];
  const BodyRecord& ground = state.records[on.ground];
  const BodyState& ball = state.bodies[on.ball];
  const double radius = std::get<Sphere>(state.records[on.ball].settings.shape).radius;
  const Pose pose = shape_pose(ground, state.bodies[on.ground]);
  const Part part = part_of(ground.settings.shape, pair.a == on.ground ? pair.part_a : pair.part_b);
  const Facet& facet = std::get<Facet>(part.shape);
  NearFacet near;
  near.pair = on.pair;
  near.normal = pose.orientation * facet.normal;
  constexpr double of_the_plane = 1 - 1e-6;
  if (near.normal.dot(pair.a == on.ground ? pair.normal : Vec3(-pair.normal)) < of_the_plane) return std::nullopt;
  near.gap = near.normal.dot(ball.centre - pose.to_scene(facet.corners[0])) - radius;
  for (std::size_t i = 0; i < 3; ++i) near.corners[i] = pose.to_scene(facet.corners[i]);
  for (std::size_t i = 0; i < 3; ++i) {
    const Vec3 out = (facet.corners[(i + 1) % 3] - facet.corners[i]).cross(facet.normal);
    if (!(facet.beyond[i].dot(out) > 0) || facet.normal.dot(facet.beyond[i]) < std::cos(gentlest_corner)) continue;
    InternalEdgeScratch::Ridge& ridge = near.ridges[near.ridge_count++];
    ridge.normal = pose.orientation * facet.beyond[i];
    ridge.gap = ridge.normal.dot(ball.centre - near.corners[i]) - radius;
  }
  return near;
}

// Whether the surface falls away from one facet to the other, gently and where they meet.
bool make_ridge(const NearFacet& a, const NearFacet& b) {
  const double alike = a.normal.dot(b.normal);
  if (alike < std::cos(gentlest_corner) || alike > same_plane) return false;
  const auto shared = [&](const Vec3& corner) {
    return std::find(b.corners.begin(), b.corners.end(), corner) != b.corners.end();
  };
  if (std::none_of(a.corners.begin(), a.corners.end(), shared)) return false;
  const auto below = [](const NearFacet& plane, const NearFacet& other) {
    return std::all_of(other.corners.begin(), other.corners.end(),
                       [&](const Vec3& corner) { return plane.normal.dot(corner - plane.corners[0]) <= 1e-9; });
  };
  return below(a, b) && below(b, a);
}

// Which planes the surface falls away to from each facet: those across its own edges are known already.
void find_ridges(NearFacet* first, NearFacet* last) {
  const auto add = [](NearFacet& to, const NearFacet& from) {
    for (std::size_t i = 0; i < to.ridge_count; ++i)
      if (to.ridges[i].normal.dot(from.normal) > same_plane) return;
    if (to.ridge_count < to.ridges.size()) to.ridges[to.ridge_count++] = {from.normal, from.gap};
  };
  for (NearFacet* a = first; a != last; ++a)
    for (NearFacet* b = first; b != a; ++b)
      if (make_ridge(*a, *b)) {
        add(*a, *b);
        add(*b, *a);
      }
}

bool falls_to(const NearFacet& on, const NearFacet& other) {
  for (std::size_t i = 0; i < on.ridge_count; ++i)
    if (on.ridges[i].normal.dot(other.normal) > same_plane) return true;
  return false;
}

// The facet that the ball goes along; none if it flies.
const NearFacet* bearing_facet(const NearFacets& facets, const Vec3& centre, const Vec3& velocity, double farthest) {
  const NearFacet* nearest = nullptr;
  for (const NearFacet& each : facets)
    if (each.gap <= farthest && std::abs(each.normal.dot(velocity)) <= along_facet && !beyond_ridge(each) &&
        (!nearest || each.gap < nearest->gap) && over(each, centre))
      nearest = &each;
  return nearest;
}

struct InternalEdge {
  const NearFacet* beyond = nullptr;
  double after = 0;  // s
};

// The next facet that rises before the ball on the facet `on` within `left` seconds.
InternalEdge next_rise(const NearFacets& facets, const NearFacet& on, const Vec3& centre, const Vec3& velocity,
                       const Vec3& pull, double left) {
  const double gentlest = std::cos(gentlest_corner);
  InternalEdge next;
  for (const NearFacet& each : facets) {
    const double alike = each.normal.dot(on.normal);
    if (alike < gentlest || alike > same_plane || beyond_ridge(each) || falls_to(on, each)) continue;
    const double closing = -each.normal.dot(velocity), sooner = -each.normal.dot(pull);
    const double after = time_to_close(each.gap - on.gap, closing, sooner, left);
    if (after > left || closing + after * sooner <= 1e-9 || (next.beyond && after >= next.after)) continue;
    if (over(each, centre + after * (velocity + 0.5 * after * pull))) next = {&each, after};
  }
  return next;
}

// How far the facet goes on from the edge through its corners that lie in the other plane, m.
double length_from(const NearFacet& facet, const NearFacet& edge_with) {
  double length = 0;
  for (const Vec3& corner : facet.corners)
    length = std::max(length, std::abs(edge_with.normal.dot(corner - edge_with.corners[0])));
  const double bend = edge_with.normal.cross(facet.normal).norm();
  return bend > 0 ? length / bend : 0;
}

// The next facet to which the ground falls away before the ball within `left` seconds, if it stays on it.
InternalEdge next_fall(const NearFacets& facets, const NearFacet& on, const Vec3& velocity, const Vec3& steady,
                       const Vec3& pull, double left) {
  InternalEdge next;
  for (std::size_t i = 0; i < on.ridge_count; ++i) {
    const InternalEdgeScratch::Ridge& ridge = on.ridges[i];
    const Vec3 bend = ridge.normal - on.normal;
    const double after = time_to_close(on.gap - ridge.gap, bend.dot(velocity), bend.dot(pull), left);
    if (after > left || bend.dot(velocity + after * pull) <= 1e-9 || (next.beyond && after >= next.after)) continue;
    for (const NearFacet& each : facets) {
      if (each.normal.dot(ridge.normal) < same_plane || std::abs(each.gap - ridge.gap) > 1e-9) continue;
      const double length = length_from(each, on), leaves = ridge.normal.dot(velocity + after * pull);
      const double across = leaves / std::max(on.normal.cross(ridge.normal).norm(), 1e-12);
      if (leaves * across < -ridge.normal.dot(steady) * length) next = {&each, after};
      break;
    }
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
  pair.points[0].total += impulse;
  send_pair(state, pair);
}

// `centre`: of the ball, seen as the ground was at the tick's start.
void turn_ball(WorldState& state, InternalEdgeScratch& scratch, std::uint32_t index, const Vec3& centre,
               const BodyState& ground, double h) {
  constexpr int most_turns = 64;  // in a sub-step
  NearFacets& facets = scratch.facets;
  const double radius = std::get<Sphere>(state.records[index].settings.shape).radius;
  BodyState& ball = state.bodies[index];
  const Vec3 drift = ground.velocity_at(ball.centre - ground.centre);
  Vec3 velocity = ball.velocity - drift;
  // What comes down slowly is caught as far above its facet as it goes in a sub-step.
  const double farthest = off_facet * radius + h * state.settings.restitution_speed;
  const NearFacet* on = state.records[index].jointed ? nullptr : bearing_facet(facets, centre, velocity, farthest);
  for (const NearFacet& each : facets) {
    Pair& pair = state.pairs[each.pair];
    pair.at_internal_edge = on && each.normal.dot(on->normal) >= std::cos(gentlest_corner);
    pair.passing = pair.beyond = beyond_ridge(each);
  }
  if (!on) return;
  // Facet by facet, with what pulls it along each; what presses it on is for the last to bear.
  const Vec3 steady = steady_acceleration(state, index);
  const auto pull = [&]() -> Vec3 { return steady - on->normal * on->normal.dot(steady); };
  velocity -= on->normal * on->normal.dot(velocity);
  const double off = on->gap;
  Vec3 way = Vec3::Zero();
  double left = h;
  int turns = 0;
  const auto go = [&](double seconds) {
    const Vec3 step = seconds * (velocity + 0.5 * seconds * pull());
    move(facets, step);
    velocity += seconds * pull();
    way += step;
    left -= seconds;
  };
  for (; turns < most_turns; ++turns) {
    const InternalEdge rise = next_rise(facets, *on, centre + way, velocity, pull(), left);
    const InternalEdge fall = next_fall(facets, *on, velocity, steady, pull(), rise.beyond ? rise.after : left);
    const InternalEdge& edge = fall.beyond ? fall : rise;
    if (!edge.beyond) break;
    go(edge.after);
    const Vec3 turned = turned_into(velocity, on->normal, edge.beyond->normal);
    if (!fall.beyond) bear(state, edge.beyond->pair, (turned - velocity).norm() / ball.inverse_mass.maxCoeff());
    velocity = turned;
    on = edge.beyond;
  }
  const bool alone = scratch.meets_others[index] == 0;
  if (alone) scratch.going.push_back({index, on->normal});
  go(left);
  // What it does not come to in this sub-step bears nothing. (Once pressed on in an iteration, it would hold the ball
  // up.)
  for (const NearFacet& each : facets) {
    Pair& pair = state.pairs[each.pair];
    const bool beyond = beyond_ridge(each) || !over(each, centre + way);
    pair.passing = each.normal.dot(on->normal) < same_plane &&
                   (beyond || (pair.at_internal_edge && each.gap - off > not_there * radius));
    pair.beyond = pair.passing && beyond;
  }
  if (turns == 0) return;
  // As if it had gone along the last facet from the sub-step's start; where it is held along an axis, it stays there.
  const Vec3 before = velocity - h * pull();
  const Vec3 shift = way - h * (alone ? Vec3(0.5 * (before + velocity)) : velocity);
  for (int axis = 0; axis < 3; ++axis) {
    if (ball.inverse_mass[axis] == 0) continue;
    ball.centre[axis] += shift[axis];
    ball.velocity[axis] = drift[axis] + before[axis];
  }
  state.scratch.put_at_edges.push_back({index, shift.norm()});
  state.scratch.put_elsewhere[index] = 1;
}

// The ball against the ground that was under it at the tick's start, m.
Vec3 gone_since_start(const WorldState& state, std::uint32_t ball, std::uint32_t ground) {
  const BodyState &under = state.bodies[ground], &under_then = state.at_start[ground];
  const Vec3 arm = state.at_start[ball].centre - under_then.centre;
  const Vec3 carried = under.orientation * (under_then.orientation.conjugate() * arm) - arm;
  return state.bodies[ball].centre - state.at_start[ball].centre - (under.centre - under_then.centre) - carried;
}

// Those of one ball and one surface follow one another.
std::size_t end_of_group(const std::vector<BallOnFacet>& listed, std::size_t first) {
  std::size_t last = first;
  while (last < listed.size() && listed[last].ball == listed[first].ball && listed[last].ground == listed[first].ground)
    ++last;
  return last;
}

}  // namespace

void find_internal_edges(WorldState& state) {
  InternalEdgeScratch& scratch = *state.scratch.internal_edges;
  scratch.listed.clear();
  scratch.at_start.clear();
  for (std::size_t i = 0; i < state.scratch.active.size(); ++i) {
    const ActiveEnds& ends = state.scratch.active_ends[i];
    if (!ball_on_facet(state, ends)) continue;
    if (ends.moves_a)
      scratch.listed.push_back({ends.a, ends.b, state.scratch.active[i]});
    else
      scratch.listed.push_back({ends.b, ends.a, state.scratch.active[i]});
  }
  if (scratch.listed.empty()) return;
  scratch.meets_others.assign(state.records.size(), 0);
  for (const ActiveEnds& ends : state.scratch.active_ends)
    if (!ball_on_facet(state, ends)) scratch.meets_others[ends.a] = scratch.meets_others[ends.b] = 1;
  std::sort(scratch.listed.begin(), scratch.listed.end());
  std::erase_if(scratch.listed, [&](const BallOnFacet& each) {
    const std::optional<NearFacet> near = near_facet(state, each);
    if (near) scratch.at_start.push_back(*near);
    return !near;
  });
  for (std::size_t first = 0; first < scratch.listed.size();) {
    const std::size_t last = end_of_group(scratch.listed, first);
    find_ridges(scratch.at_start.data() + first, scratch.at_start.data() + last);
    first = last;
  }
}

void turn_at_internal_edges(WorldState& state, double h) {
  InternalEdgeScratch& scratch = *state.scratch.internal_edges;
  scratch.going.clear();
  state.scratch.put_at_edges.clear();
  for (std::size_t first = 0; first < scratch.listed.size();) {
    const std::size_t last = end_of_group(scratch.listed, first);
    const std::uint32_t ball = scratch.listed[first].ball, ground = scratch.listed[first].ground;
    scratch.facets.assign(scratch.at_start.begin() + static_cast<std::ptrdiff_t>(first),
                          scratch.at_start.begin() + static_cast<std::ptrdiff_t>(last));
    const Vec3 gone = gone_since_start(state, ball, ground);
    move(scratch.facets, gone);
    turn_ball(state, scratch, ball, state.at_start[ball].centre + gone, state.bodies[ground], h);
    first = last;
  }
}

void leave_out_passed(WorldState& state) {
  for (const BallOnFacet& each : (*state.scratch.internal_edges).listed) {
    Pair& pair = state.pairs[each.pair];
    // What was struck goes another way.
    if (state.scratch.struck_at[each.ball] > 0) pair.passing = pair.beyond;
    send_passing(state, pair);
  }
}

void even_ways(WorldState& state, double h) {
  for (const auto& [body, normal] : (*state.scratch.internal_edges).going) {
    const Vec3 further = 0.5 * h * (state.scratch.velocity_before[body] - state.bodies[body].velocity);
    state.bodies[body].centre += further - normal * normal.dot(further);
  }
}

}  // namespace bronvel
