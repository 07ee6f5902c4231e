// Which contacts have moved on within the tick.
#include "dynamics/solver/contact_follow.h"

#include "dynamics/broad_phase/overlaps.h"
#include "dynamics/narrow_phase/manifolds.h"
#include "dynamics/solver/contact_solver.h"

namespace bronvel {

namespace {

// Whether a round body's contact has moved on.
bool rolled_on(const WorldState& state, const Pair& pair) {
  constexpr double moved_on = 2e-3;  // of the smaller body's radius
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  if (ra.symmetry == Symmetry::none && rb.symmetry == Symmetry::none) return false;
  const BodyState &a0 = state.at_start[pair.a], &b0 = state.at_start[pair.b];
  const double moved = way_between(ra, way_of(ra, a0, state.bodies[pair.a]), rb, way_of(rb, b0, state.bodies[pair.b]),
                                   b0.centre - a0.centre);
  return moved >= moved_on * std::min(ra.radius, rb.radius);
}

constexpr double far_turned = 0.03;  // rad

// Whether one of them has tipped as far: what lies flat and spins keeps its plane.
bool tipped_far(const WorldState& state, const Pair& pair) {
  const auto tipped = [&](std::uint32_t body) {
    const Quat turn = state.bodies[body].orientation * state.at_start[body].orientation.conjugate();
    return (turn * pair.normal - pair.normal).norm() > far_turned;
  };
  return tipped(pair.a) || tipped(pair.b);
}

}  // namespace

bool turned_far(const WorldState& state, const Pair& pair) {
  static const double least = std::cos(0.5 * far_turned);
  const auto turned = [&](std::uint32_t body) {
    return std::abs(state.at_start[body].orientation.dot(state.bodies[body].orientation)) < least;
  };
  return turned(pair.a) || turned(pair.b);
}

void follow_contacts(WorldState& state) {
  constexpr double same_way = 1e-10;  // 1 − cos of the angle between normals
  for (const std::uint32_t i : solved_in_double(state)) {
    Pair& pair = state.pairs[state.scratch.active[i]];
    const bool rolled = rolled_on(state, pair);
    if (!rolled && !turned_far(state, pair)) continue;
    fetch_pair(state, pair);
    if (!rolled && !bears_nothing(pair) && !tipped_far(state, pair)) continue;
    const double reach = least_reach + state.records[pair.a].travel + state.records[pair.b].travel;
    Graze graze = Graze::no;
    const Manifold m = collide_parts(state, pair, state.bodies[pair.a], state.bodies[pair.b], reach, graze);
    if (rolled && (m.count == 0 || m.normal.dot(pair.normal) > 1 - same_way)) continue;
    set_manifold_on_the_way(state, pair, m);
    send_pair(state, pair);
  }
}

}  // namespace bronvel
