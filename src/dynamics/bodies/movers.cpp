// Movers.
#include "dynamics/bodies/movers.h"

#include <utility>

#include "dynamics/bodies/integrate.h"
#include "geometry/base/linear.h"

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

namespace {

// Whether it was placed before the last tick as well, and not so far off that it must have been put back to some start.
bool goes_on(const WorldState& state, const MoverRecord& mover, const Vec3& velocity) {
  if (mover.went_as_placed != state.tick - 1) return false;
  const double jump = (velocity - mover.went_velocity).norm() * state.tick_length();
  return jump <= state.records[mover.body].radius;
}

// From how a speed changed in the last ticks to how it changes within this one: not at all where it changes in jerks.
void go_smoothly(const Vec3& change, Vec3& last_change, Vec3& last_bend, Vec3& ramp, Vec3& bend) {
  const Vec3 bent = change - last_change;
  const double most = std::max({change.norm(), last_change.norm(), bent.norm(), last_bend.norm()});
  const bool smooth = (bent - last_bend).norm() <= 0.5 * most;
  ramp = smooth || alike(change, last_change) ? change : Vec3(Vec3::Zero());
  bend = smooth ? bent : Vec3(Vec3::Zero());
  last_change = change;
  last_bend = bent;
}

Vec3 spin_between(const WorldState& state, const Quat& from, const Quat& to) {
  const AxisAngle turn = axis_angle((to * from.conjugate()).normalized());
  return state.settings.tick_rate * (turn.angle > pi ? turn.angle - 2 * pi : turn.angle) * turn.axis;
}

// What it goes at in this tick on the mean. One that has been speeding up or slowing down smoothly goes on doing so
// within the tick: in jumps from tick to tick it would pull away what lies on it. Its speed within the tick is the
// parabola whose means over this tick and the two before are theirs.
void take_speed(WorldState& state, MoverRecord& mover, const Vec3& velocity, const Vec3& spin) {
  const bool known = mover.went == state.tick - 1;
  const Vec3 change = known ? Vec3(velocity - mover.went_velocity) : Vec3(Vec3::Zero()),
             spin_change = known ? Vec3(spin - mover.went_spin) : Vec3(Vec3::Zero());
  go_smoothly(change, mover.last_change, mover.last_bend, mover.ramp, mover.bend);
  go_smoothly(spin_change, mover.last_spin_change, mover.last_spin_bend, mover.spin_ramp, mover.spin_bend);
  mover.went_velocity = velocity;
  mover.went_spin = spin;
  mover.went = state.tick;
}

}  // namespace

void note_placed(WorldState& state, std::uint32_t body) {
  MoverRecord& mover = mover_of(state, body);
  if (!mover.from) mover.from = shape_pose(state.records[body], state.bodies[body]);
}

void note_led(WorldState& state, std::uint32_t body) {
  mover_of(state, body);
}

void head_for_targets(WorldState& state) {
  for (MoverRecord& mover : state.movers) {
    BodyRecord& record = state.records[mover.body];
    BodyState& m = state.bodies[mover.body];
    mover.led = false;
    if (record.kind != MotionKind::kinematic) continue;
    if (const auto from = std::exchange(mover.from, std::nullopt);
        from && !mover.target && m.velocity.isZero() && m.angular_velocity.isZero()) {
      const Pose there = shape_pose(record, m);
      const Vec3 velocity = state.settings.tick_rate * (there.position - from->position);
      const Vec3 spin = spin_between(state, from->orientation, there.orientation);
      const bool jumps = !goes_on(state, mover, velocity);
      mover.went_as_placed = state.tick;
      if (jumps) {
        mover.went = state.tick;
        mover.went_velocity = velocity;
        mover.went_spin = spin;
        mover.last_change.setZero();
        mover.last_spin_change.setZero();
        mover.last_bend.setZero();
        mover.last_spin_bend.setZero();
        continue;
      }
      mover.target = there;
      m.orientation = from->orientation;
      m.centre = from->to_scene(record.mass.centre);
      refresh_inertia(record, m);
      record.placed = false;
      record.moved = true;
    }
    if (mover.target) {
      const Vec3 velocity = state.settings.tick_rate * (mover.target->to_scene(record.mass.centre) - m.centre);
      take_speed(state, mover, velocity, spin_between(state, m.orientation, mover.target->orientation));
      mover.velocity = m.velocity = velocity;
      mover.spin = m.angular_velocity = mover.went_spin;
    } else {
      take_speed(state, mover, m.velocity, m.angular_velocity);
      mover.led = !mover.ramp.isZero() || !mover.spin_ramp.isZero();
    }
  }
}

void lead_movers(WorldState& state, int substep) {
  // Means over the sub-step, from s to e of the tick, of s − 1/2 and of (s² − 1/3) / 2.
  const double s = substep / static_cast<double>(state.settings.substeps),
               e = (substep + 1) / static_cast<double>(state.settings.substeps);
  const double ramped = 0.5 * (s + e) - 0.5, bent = ((s * s + s * e + e * e) - 1) / 6;
  for (const MoverRecord& mover : state.movers) {
    if (!mover.target && !mover.led) continue;
    state.bodies[mover.body].velocity = mover.went_velocity + ramped * mover.ramp + bent * mover.bend;
    state.bodies[mover.body].angular_velocity = mover.went_spin + ramped * mover.spin_ramp + bent * mover.spin_bend;
  }
}

void arrive_at_targets(WorldState& state) {
  for (MoverRecord& mover : state.movers) {
    const BodyRecord& record = state.records[mover.body];
    BodyState& m = state.bodies[mover.body];
    if (mover.led) {
      m.velocity = mover.went_velocity;
      m.angular_velocity = mover.went_spin;
    }
    if (!mover.target) continue;
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
