// The energy of large islands.
#include "dynamics/solver/large_island_energy.h"

#include "dynamics/base/thread_pool.h"
#include "dynamics/solver/contact_system.h"
#include "geometry/base/disjoint_sets.h"

namespace bronvel {
namespace {

bool takes_part(const WorldState& state, std::uint32_t body) {
  return state.scratch.moving[body] != 0 && state.records[body].dynamic();
}

// What a large island may gain in a sub-step, J/kg: as what is at rest gains by falling for a tenth of it.
double slack_by_mass(const WorldState& state) {
  const double h = state.tick_length() / state.settings.substeps;
  const double speed = 0.1 * h * std::max(state.settings.gravity.norm(), 1.0);
  return 0.5 * speed * speed;
}

// How fast all goes that a large island meets from outside. What the contacts do to its energy is seen from there: they
// can only take some away. Large islands that meet what goes otherwise, or turns, or that joints hold, may gain what
// they like.
void find_frames(const WorldState& state, LargeIslandEnergies& large_islands, const ContactPart<float>& in_float) {
  large_islands.frames.assign(large_islands.mass.size(), {});
  for (const std::uint32_t i : in_float.members) {
    const ActiveEnds& ends = state.scratch.active_ends[i];
    if (ends.moves_a && ends.moves_b) continue;
    const std::uint32_t outside = ends.moves_a ? ends.b : ends.a, moved = ends.moves_a ? ends.a : ends.b;
    const auto place =
        std::lower_bound(in_float.bodies.begin(), in_float.bodies.end(), moved) - in_float.bodies.begin();
    LargeIslandEnergies::Frame& frame = large_islands.frames[large_islands.of_body[static_cast<std::size_t>(place)]];
    const BodyState& motion = state.bodies[outside];
    if (!frame.known) frame.velocity = motion.velocity;
    frame.known = true;
    frame.any = frame.any || motion.velocity != frame.velocity || !motion.angular_velocity.isZero();
  }
  for (std::size_t k = 0; k < in_float.bodies.size(); ++k)
    if (large_islands.of_body[k] != LargeIslandEnergies::none && state.records[in_float.bodies[k]].jointed)
      large_islands.frames[large_islands.of_body[k]].any = true;
}

LargeIslandEnergies::Change change_of(const WorldState& state, std::uint32_t body, const Vec3& frame) {
  const BodyRecord& record = state.records[body];
  const BodyState& motion = state.bodies[body];
  const Vec3 &before = state.scratch.velocity_free[body], &spin_before = state.scratch.spin_free[body];
  const Vec3 change = motion.velocity - before;
  const Quat to_body = motion.orientation.conjugate();
  const Vec3 spin = to_body * spin_before, spin_change = to_body * (motion.angular_velocity - spin_before);
  const Vec3 turned = record.mass.inertia * spin_change;
  return {record.mass.mass * (before - frame).dot(change) + spin.dot(turned),
          0.5 * (record.mass.mass * change.squaredNorm() + spin_change.dot(turned))};
}

// Takes back as much of the change as is too much, in each large island that has gained.
void take_back(WorldState& state, LargeIslandEnergies& large_islands, const ContactPart<float>& in_float,
               double slack) {
  find_frames(state, large_islands, in_float);
  large_islands.changes.assign(large_islands.mass.size(), {});
  const auto each_suspect = [&](const auto& f) {
    for (std::size_t k = 0; k < in_float.bodies.size(); ++k) {
      const std::uint32_t island = large_islands.of_body[k];
      if (island == LargeIslandEnergies::none || large_islands.frames[island].any ||
          !(large_islands.gain[island] > slack * large_islands.mass[island]) || !takes_part(state, in_float.bodies[k]))
        continue;
      f(island, in_float.bodies[k]);
    }
  };
  each_suspect([&](std::uint32_t island, std::uint32_t body) {
    const LargeIslandEnergies::Change change = change_of(state, body, large_islands.frames[island].velocity);
    large_islands.changes[island].along += change.along;
    large_islands.changes[island].square += change.square;
  });
  each_suspect([&](std::uint32_t island, std::uint32_t body) {
    const auto& [along, square] = large_islands.changes[island];
    const double most = slack * large_islands.mass[island];
    // Turning has lost more than going has gained, or all goes along with what it meets.
    if (!(along + square > most) || !(square > 0)) return;
    const double share = (std::sqrt(along * along + 4 * square * most) - along) / (2 * square);
    BodyState& motion = state.bodies[body];
    const Vec3 &before = state.scratch.velocity_free[body], &spin_before = state.scratch.spin_free[body];
    motion.velocity = before + share * (motion.velocity - before);
    motion.angular_velocity = spin_before + share * (motion.angular_velocity - spin_before);
  });
}

}  // namespace

void number_large_islands(const WorldState& state, ContactSystem& sys) {
  LargeIslandEnergies& large_islands = sys.large_islands;
  large_islands.mass.clear();
  large_islands.of_body.assign(sys.in_float.bodies.size(), LargeIslandEnergies::none);
  std::vector<std::uint32_t>& number_of = large_islands.number_of_root;
  number_of.assign(sys.in_float.bodies.empty() ? 0 : state.records.size(), LargeIslandEnergies::none);
  for (std::size_t k = 0; k < sys.in_float.bodies.size(); ++k) {
    const BodyRecord& record = state.records[sys.in_float.bodies[k]];
    if (!record.dynamic()) continue;
    std::uint32_t& number = number_of[find_set(sys.island, sys.in_float.bodies[k])];
    if (number == LargeIslandEnergies::none) {
      number = static_cast<std::uint32_t>(large_islands.mass.size());
      large_islands.mass.push_back(0);
    }
    large_islands.of_body[k] = number;
    large_islands.mass[number] += record.mass.mass;
  }
}

void bound_large_island_energy(WorldState& state) {
  ContactSystem& sys = *state.scratch.contacts;
  if (sys.in_float.members.empty()) return;
  LargeIslandEnergies& large_islands = sys.large_islands;
  const std::vector<std::uint32_t>& bodies = sys.in_float.bodies;
  // Of going alone, at first: turning takes longer to look at, and is seldom what gains.
  constexpr std::size_t worth_sharing = 1000;
  large_islands.gain_of_body.resize(bodies.size());
  state.scratch.thread_pool->each(bodies.size(), worth_sharing, [&](std::size_t k) {
    fetch_place_ahead(state.bodies, bodies[k]);
    large_islands.gain_of_body[k] = 0;
    if (!takes_part(state, bodies[k])) return;
    const BodyState& motion = state.bodies[bodies[k]];
    const double most = motion.inverse_mass.maxCoeff();  // 0 along locked axes
    if (!(most > 0)) return;
    large_islands.gain_of_body[k] =
        0.5 / most * (motion.velocity.squaredNorm() - state.scratch.velocity_free[bodies[k]].squaredNorm());
  });
  large_islands.gain.assign(large_islands.mass.size(), 0.0);
  for (std::size_t k = 0; k < bodies.size(); ++k)
    if (large_islands.of_body[k] != LargeIslandEnergies::none)
      large_islands.gain[large_islands.of_body[k]] += large_islands.gain_of_body[k];
  const double slack = slack_by_mass(state);
  for (std::size_t island = 0; island < large_islands.gain.size(); ++island)
    if (large_islands.gain[island] > slack * large_islands.mass[island])
      return take_back(state, large_islands, sys.in_float, slack);
}

}  // namespace bronvel
