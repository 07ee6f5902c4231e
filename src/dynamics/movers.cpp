// Movers.
#include "dynamics/movers.h"

#include "dynamics/integrate.h"
#include "geometry/linear.h"

namespace bronvel {
namespace {

MoverRecord& mover_of(WorldState& state, std::uint32_t body) {
  std::int32_t& place = state.records[body].mover;
  if (place < 0) {
    place = static_cast<std::int32_t>(state.movers.size());
    state.movers.emplace_back();
    state.movers.back().body = body;
  }
  return state.movers[static_cast<std::size_t>(place)];
}

// Whether a mover's velocity changes much as it did in the tick before.
bool alike(const Vec3& change, const Vec3& last) {
  const double a = change.norm(), b = last.norm();
  return a > 0 && b > 0 && a < 2 * b && b < 2 * a && change.dot(last) > 0.5 * a * b;
}

}  // namespace

void head_for(WorldState& state, std::uint32_t body, const Pose& target) {
  mover_of(state, body).target = target;
}

void note_moved(WorldState& state, std::uint32_t body, const Vec3& way) {
  MoverRecord& mover = mover_of(state, body);
  if (std::exchange(mover.arrived, state.tick + 1) != state.tick + 1) mover.velocity.setZero();
  mover.velocity += state.settings.tick_rate * way;
  mover.spin.setZero();
}

const MoverRecord* came_there(const WorldState& state, std::uint32_t body, std::int64_t tick) {
  const std::int32_t place = state.records[body].mover;
  if (place < 0 || state.movers[static_cast<std::size_t>(place)].arrived != tick) return nullptr;
  return &state.movers[static_cast<std::size_t>(place)];
}

void forget_mover(WorldState& state, std::uint32_t body) {
  const std::int32_t place = std::exchange(state.records[body].mover, -1);
  if (place < 0) return;
  MoverRecord& left = state.movers[static_cast<std::size_t>(place)];
  if (&left != &state.movers.back()) {
    left = state.movers.back();
    state.records[left.body].mover = place;
  }
  state.movers.pop_back();
}

void head_for_targets(WorldState& state) {
  for (MoverRecord& mover : state.movers) {
    if (!mover.target) continue;
    Motion& m = state.motions[mover.body];
    m.velocity = state.settings.tick_rate * (mover.target->to_scene(state.records[mover.body].mass.centre) - m.centre);
    const AxisAngle turn = axis_angle((mover.target->orientation * m.orientation.conjugate()).normalized());
    const double angle = turn.angle > pi ? turn.angle - 2 * pi : turn.angle;
    m.angular_velocity = state.settings.tick_rate * angle * turn.axis;
    // One that has been speeding up or slowing down evenly goes on doing so within the tick. In jumps from tick to tick
    // it would pull away what lies on it.
    const bool went = mover.arrived == state.tick;
    const Vec3 change = went ? Vec3(m.velocity - mover.velocity) : Vec3(Vec3::Zero()),
               spin_change = went ? Vec3(m.angular_velocity - mover.spin) : Vec3(Vec3::Zero());
    mover.ramp = alike(change, mover.last_change) ? change : Vec3(Vec3::Zero());
    mover.spin_ramp = alike(spin_change, mover.last_spin_change) ? spin_change : Vec3(Vec3::Zero());
    mover.last_change = change;
    mover.last_spin_change = spin_change;
    mover.velocity = m.velocity;
    mover.spin = m.angular_velocity;
  }
}

void lead_movers(WorldState& state, int substep) {
  const double share = (substep + 0.5) / state.settings.substeps - 0.5;
  for (const MoverRecord& mover : state.movers) {
    if (!mover.target) continue;
    state.motions[mover.body].velocity = mover.velocity + share * mover.ramp;
    state.motions[mover.body].angular_velocity = mover.spin + share * mover.spin_ramp;
  }
}

void arrive_at_targets(WorldState& state) {
  for (MoverRecord& mover : state.movers) {
    if (!mover.target) continue;
    const BodyRecord& record = state.records[mover.body];
    Motion& m = state.motions[mover.body];
    m.orientation = mover.target->orientation;
    m.centre = mover.target->to_scene(record.mass.centre);
    mover.arrived = state.tick + 1;
    m.velocity.setZero();
    m.angular_velocity.setZero();
    refresh_inertia(record, m);
    mover.target.reset();
  }
}

}  // namespace bronvel
