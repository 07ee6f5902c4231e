// The energy of heaps.
#include "dynamics/heap_energy.h"

#include "dynamics/contact_system.h"
#include "dynamics/team.h"
#include "geometry/disjoint_sets.h"

namespace bronvel {
namespace {

bool takes_part(const WorldState& state, std::uint32_t body) {
  return state.scratch.moving[body] != 0 && state.records[body].dynamic();
}

// What a heap may gain in a sub-step, J/kg: as what is at rest gains by falling for a tenth of it.
double slack_by_mass(const WorldState& state) {
  const double h = state.tick_length() / state.settings.substeps;
  const double speed = 0.1 * h * std::max(state.settings.gravity.norm(), 1.0);
  return 0.5 * speed * speed;
}

// How fast all goes that a heap meets from outside. What the contacts do to its energy is seen from there: they can
// only take some away. Heaps that meet what goes otherwise, or turns, or that joints hold, may gain what they like.
void find_frames(const WorldState& state, HeapEnergies& heaps, const ContactPart<float>& wide) {
  heaps.frames.assign(heaps.mass.size(), {});
  for (const std::uint32_t i : wide.members) {
    const ActiveEnds& ends = state.scratch.active_ends[i];
    if (ends.moves_a && ends.moves_b) continue;
    const std::uint32_t outside = ends.moves_a ? ends.b : ends.a, moved = ends.moves_a ? ends.a : ends.b;
    const auto place = std::lower_bound(wide.bodies.begin(), wide.bodies.end(), moved) - wide.bodies.begin();
    HeapEnergies::Frame& frame = heaps.frames[heaps.of_body[static_cast<std::size_t>(place)]];
    const Motion& motion = state.motions[outside];
    if (!frame.known) frame.velocity = motion.velocity;
    frame.known = true;
    frame.any = frame.any || motion.velocity != frame.velocity || !motion.angular_velocity.isZero();
  }
  for (std::size_t k = 0; k < wide.bodies.size(); ++k)
    if (heaps.of_body[k] != HeapEnergies::none && state.records[wide.bodies[k]].jointed)
      heaps.frames[heaps.of_body[k]].any = true;
}

HeapEnergies::Change change_of(const WorldState& state, std::uint32_t body, const Vec3& frame) {
  const BodyRecord& record = state.records[body];
  const Motion& motion = state.motions[body];
  const Vec3 &before = state.scratch.velocity_free[body], &spin_before = state.scratch.spin_free[body];
  const Vec3 change = motion.velocity - before;
  const Quat to_body = motion.orientation.conjugate();
  const Vec3 spin = to_body * spin_before, spin_change = to_body * (motion.angular_velocity - spin_before);
  const Vec3 turned = record.mass.inertia * spin_change;
  return {record.mass.mass * (before - frame).dot(change) + spin.dot(turned),
          0.5 * (record.mass.mass * change.squaredNorm() + spin_change.dot(turned))};
}

// Takes back as much of the change as is too much, in each heap that has gained.
void take_back(WorldState& state, HeapEnergies& heaps, const ContactPart<float>& wide, double slack) {
  find_frames(state, heaps, wide);
  heaps.changes.assign(heaps.mass.size(), {});
  const auto each_suspect = [&](const auto& f) {
    for (std::size_t k = 0; k < wide.bodies.size(); ++k) {
      const std::uint32_t heap = heaps.of_body[k];
      if (heap == HeapEnergies::none || heaps.frames[heap].any || !(heaps.gain[heap] > slack * heaps.mass[heap]) ||
          !takes_part(state, wide.bodies[k]))
        continue;
      f(heap, wide.bodies[k]);
    }
  };
  each_suspect([&](std::uint32_t heap, std::uint32_t body) {
    const HeapEnergies::Change change = change_of(state, body, heaps.frames[heap].velocity);
    heaps.changes[heap].along += change.along;
    heaps.changes[heap].square += change.square;
  });
  each_suspect([&](std::uint32_t heap, std::uint32_t body) {
    const auto& [along, square] = heaps.changes[heap];
    const double most = slack * heaps.mass[heap];
    // Turning has lost more than going has gained, or all goes along with what it meets.
    if (!(along + square > most) || !(square > 0)) return;
    const double share = (std::sqrt(along * along + 4 * square * most) - along) / (2 * square);
    Motion& motion = state.motions[body];
    const Vec3 &before = state.scratch.velocity_free[body], &spin_before = state.scratch.spin_free[body];
    motion.velocity = before + share * (motion.velocity - before);
    motion.angular_velocity = spin_before + share * (motion.angular_velocity - spin_before);
  });
}

}  // namespace

void number_heaps(const WorldState& state, ContactSystem& sys) {
  HeapEnergies& heaps = sys.heaps;
  heaps.mass.clear();
  heaps.of_body.assign(sys.wide.bodies.size(), HeapEnergies::none);
  std::vector<std::uint32_t>& number_of = heaps.number_of_root;
  number_of.assign(sys.wide.bodies.empty() ? 0 : state.records.size(), HeapEnergies::none);
  for (std::size_t k = 0; k < sys.wide.bodies.size(); ++k) {
    const BodyRecord& record = state.records[sys.wide.bodies[k]];
    if (!record.dynamic()) continue;
    std::uint32_t& number = number_of[find_set(sys.island, sys.wide.bodies[k])];
    if (number == HeapEnergies::none) {
      number = static_cast<std::uint32_t>(heaps.mass.size());
      heaps.mass.push_back(0);
    }
    heaps.of_body[k] = number;
    heaps.mass[number] += record.mass.mass;
  }
}

void keep_heap_energy(WorldState& state) {
  ContactSystem& sys = *state.scratch.contacts;
  if (sys.wide.members.empty()) return;
  HeapEnergies& heaps = sys.heaps;
  const std::vector<std::uint32_t>& bodies = sys.wide.bodies;
  // Of going alone, at first: turning takes longer to look at, and is seldom what gains.
  constexpr std::size_t worth_sharing = 1000;
  heaps.gain_of_body.resize(bodies.size());
  state.scratch.team->each(bodies.size(), worth_sharing, [&](std::size_t k) {
    fetch_place_ahead(state.motions, bodies[k]);
    heaps.gain_of_body[k] = 0;
    if (!takes_part(state, bodies[k])) return;
    const Motion& motion = state.motions[bodies[k]];
    const double most = motion.inverse_mass.maxCoeff();  // 0 along locked axes
    if (!(most > 0)) return;
    heaps.gain_of_body[k] =
        0.5 / most * (motion.velocity.squaredNorm() - state.scratch.velocity_free[bodies[k]].squaredNorm());
  });
  heaps.gain.assign(heaps.mass.size(), 0.0);
  for (std::size_t k = 0; k < bodies.size(); ++k)
    if (heaps.of_body[k] != HeapEnergies::none) heaps.gain[heaps.of_body[k]] += heaps.gain_of_body[k];
  const double slack = slack_by_mass(state);
  for (std::size_t heap = 0; heap < heaps.gain.size(); ++heap)
    if (heaps.gain[heap] > slack * heaps.mass[heap]) return take_back(state, heaps, sys.wide, slack);
}

}  // namespace bronvel
