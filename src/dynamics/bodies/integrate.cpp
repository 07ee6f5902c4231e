// Integration of velocities and positions.
#include "dynamics/bodies/integrate.h"

#include <optional>
#include <utility>

#include "dynamics/base/thread_pool.h"
#include "dynamics/bodies/smooth_books.h"
#include "geometry/base/angles.h"
#include "geometry/base/exponential.h"
#include "geometry/base/linear.h"

namespace bronvel {
namespace {

constexpr std::size_t bodies_worth_sharing = 500;  // bodies

// Half of L + L' of a free body over h seconds: body-frame angular momentum by the implicit midpoint rule,
// L' − L = h (L + L')/2 × I⁻¹ (L + L')/2, by fixed-point iteration. None where that does not come to an end: h is then
// too long for so fast a spin.
std::optional<Vec3> middle_momentum(const Mat3& inverse_inertia, const Vec3& start, double h) {
  Vec3 end = start;
  const double whole = start.squaredNorm();
  double change = 0, before = whole;
  constexpr double near = 1e-12, same = 1e-30;
  for (int i = 0; i < 24; ++i) {
    const Vec3 middle = 0.5 * (start + end);
    const Vec3 next = start + h * middle.cross(inverse_inertia * middle);
    change = (next - end).squaredNorm();
    end = next;
    // Each changes it by the same share of what the one before did: what the next would do is known.
    if (change * change <= same * whole * before) break;
    constexpr int surely = 4;
    if (i > surely && change > whole) return std::nullopt;  // it leads away
    before = change;
  }
  if (!(change <= near * whole)) return std::nullopt;
  return 0.5 * (start + end);
}

// Of a speed that is lost at the rate c: what share of it is kept after h seconds, and for how long what pushes
// steadily then seems to have pushed: v' = v e^(−c h) + a (1 − e^(−c h)) / c, exactly.
struct Damped {
  double kept = 1, pushed = 0;
};
Damped damped(double c, double h) {
  const double kept = exponential(-c * h);
  constexpr double small = 1e-6;  // below it the difference would be one of rounding
  return {kept, c * h > small ? (1 - kept) / c : h * (1 - 0.5 * c * h)};
}

// One step of the turning of a body whose axes are not alike.
void coast_once(const BodyRecord& record, BodyState& motion, double seconds) {
  const Mat3 before = motion.orientation.toRotationMatrix();
  const Vec3 start = record.mass.inertia * (before.transpose() * motion.angular_velocity);
  // A Cayley step turns by 2 atan(ω h / 2): taken over this time instead it turns by ω h, and keeps the energy as well.
  const double half = 0.5 * seconds * motion.angular_velocity.norm();
  double step = seconds;
  if (half > 1e-6 && half < 1.2) {
    const SineCosine angle = sine_cosine(half);
    step = seconds * (angle.sine / angle.cosine) / half;
  }
  const auto middle_of = middle_momentum(record.inverse_inertia, start, step);
  if (middle_of) {
    const Vec3 half_turn = 0.5 * step * (before * (record.inverse_inertia * *middle_of));
    motion.orientation = (Quat(1, half_turn.x(), half_turn.y(), half_turn.z()) * motion.orientation).normalized();
  } else {
    motion.orientation = turned(motion.orientation, seconds * motion.angular_velocity);
  }
  // The spin follows from the angular momentum, which is kept.
  const Mat3 after = motion.orientation.toRotationMatrix();
  motion.inverse_inertia.noalias() = after * record.inverse_inertia * after.transpose();
  motion.angular_velocity = motion.inverse_inertia * (before * start);
}

// What a resisted body keeps of its velocities in an explicit step of h seconds.
void slow_explicitly(WorldState& state, std::size_t i, double h) {
  const BodyRecord& record = state.records[i];
  const BodySettings& settings = record.settings;
  const Medium none;
  const Medium& medium = state.media.size() > i ? state.media[i] : none;
  BodyState& motion = state.bodies[i];
  const Vec3 before = state.scratch.velocity_before[i], through = before - medium.wind;
  const double linear = settings.linear_drag / settings.mass;
  const double quadratic = 0.5 * state.settings.air_density * settings.drag_area * medium.dry / settings.mass;
  motion.velocity -= h * ((linear + quadratic * through.norm()) * through +
                          (settings.linear_damping + medium.linear_damping) * before);
  motion.angular_velocity += h * (motion.inverse_inertia * (record.torque + medium.twist) -
                                  (settings.angular_damping + medium.angular_damping) * state.scratch.spin_before[i]);
}

}  // namespace

double kinetic_energy_of(const BodyRecord& record, const BodyState& motion) {
  if (!record.dynamic()) return 0;
  const Vec3 spin = motion.orientation.conjugate() * motion.angular_velocity;
  return 0.5 * record.mass.mass * motion.velocity.squaredNorm() + 0.5 * spin.dot(record.mass.inertia * spin);
}

Vec3 steady_acceleration(const WorldState& state, std::uint32_t body) {
  const BodyRecord& record = state.records[body];
  if (!record.dynamic() || record.asleep) return Vec3::Zero();
  const Vec3& inverse_mass = state.bodies[body].inverse_mass;
  const Vec3 weight = record.weight * state.gravity_on(body);
  const Vec3 push = state.media.empty() ? Vec3(Vec3::Zero()) : state.media[body].push;
  return inverse_mass.cwiseProduct(weight + record.force + push);
}

void integrate_velocities(WorldState& state, double h) {
  state.scratch.thread_pool->each(state.records.size(), bodies_worth_sharing, [&](std::size_t i) {
    fetch_ahead(state.records, i);
    const BodyRecord& record = state.records[i];
    if (!record.alive || !record.dynamic() || record.asleep) return;
    BodyState& motion = state.bodies[i];
    state.scratch.velocity_before[i] = motion.velocity;
    state.scratch.spin_before[i] = motion.angular_velocity;
    motion.velocity += h * state.scratch.steady_acceleration[i];
    if (!record.resisted && state.media.empty()) {  // most of most scenes
      motion.angular_velocity += h * (motion.inverse_inertia * record.torque);
      state.scratch.velocity_free[i] = motion.velocity;
      state.scratch.spin_free[i] = motion.angular_velocity;
      book_smooth_forces(state, static_cast<std::uint32_t>(i), h);
      return;
    }
    if (state.settings.half_implicit) {
      slow_explicitly(state, i, h);
      state.scratch.velocity_free[i] = motion.velocity;
      state.scratch.spin_free[i] = motion.angular_velocity;
      book_smooth_forces(state, static_cast<std::uint32_t>(i), h);
      return;
    }
    const BodySettings& settings = record.settings;
    const Medium* medium = state.media.size() > i ? &state.media[i] : nullptr;
    const Vec3 wind = medium ? medium->wind : Vec3::Zero();
    const double damping = settings.linear_damping + (medium ? medium->linear_damping : 0);
    // Drag works against the motion through the air, damping against motion as such: in still air the two are one step.
    const double linear = (wind.isZero() ? damping : 0) + settings.linear_drag / settings.mass;
    const double dry = medium ? medium->dry : 1;
    const double quadratic = 0.5 * state.settings.air_density * settings.drag_area * dry / settings.mass;
    if (linear > 0 && quadratic == 0 && wind.isZero()) {
      const Damped slowed = damped(linear, h);
      motion.velocity =
          slowed.kept * state.scratch.velocity_before[i] + slowed.pushed * state.scratch.steady_acceleration[i];
    } else if (linear > 0 || quadratic > 0) {
      const Vec3 through = motion.velocity - wind;
      const double speed = through.norm();
      if (speed > 0) motion.velocity = wind + through * share_after_drag(speed, linear, quadratic, h);
    }
    if (!wind.isZero()) motion.velocity /= 1 + h * damping;
    const double spin_damping = settings.angular_damping + (medium ? medium->angular_damping : 0);
    const Damped slowed = spin_damping > 0 ? damped(spin_damping, h) : Damped{1, h};
    motion.angular_velocity =
        slowed.kept * motion.angular_velocity + slowed.pushed * (motion.inverse_inertia * record.torque);
    if (medium) motion.angular_velocity += slowed.pushed * (motion.inverse_inertia * medium->twist);
    state.scratch.velocity_free[i] = motion.velocity;
    state.scratch.spin_free[i] = motion.angular_velocity;
    book_smooth_forces(state, static_cast<std::uint32_t>(i), h);
  });
}

void integrate_positions(WorldState& state, double h) {
  state.scratch.thread_pool->each(state.records.size(), bodies_worth_sharing, [&](std::size_t i) {
    fetch_ahead(state.records, i);
    fetch_turning_ahead(state.records, i);
    const BodyRecord& record = state.records[i];
    if (!record.alive || record.kind == MotionKind::fixed || record.asleep) return;
    if (std::exchange(state.scratch.moved_by_joints[i], 0) != 0) return;
    BodyState& motion = state.bodies[i];
    if (record.dynamic()) {
      const bool free = motion.velocity == state.scratch.velocity_free[i] && !state.settings.half_implicit;
      motion.centre += h * (free ? Vec3(0.5 * (state.scratch.velocity_before[i] + motion.velocity)) : motion.velocity);
    } else {
      motion.centre += h * motion.velocity;
    }
    coast_turning(record, motion, h);
  });
}

void coast_turning(const BodyRecord& record, BodyState& motion, double seconds, int most_steps) {
  if (!record.dynamic() || !record.free_turning || record.round) {
    motion.orientation = turned(motion.orientation, seconds * motion.angular_velocity);
    refresh_inertia(record, motion);
    return;
  }
  // Fast spins in several steps: in one of half a radian the search for its middle ends well. What whirls so fast that
  // nobody could say how it stands after that time gets a few.
  constexpr double longest_turn = 0.5;  // rad
  constexpr int steps_of_whirling = 4;
  const double turn = seconds * motion.angular_velocity.norm();
  const int steps = turn <= longest_turn                ? 1
                    : turn >= most_steps * longest_turn ? std::min(most_steps, steps_of_whirling)
                                                        : 1 + static_cast<int>(turn / longest_turn);
  for (int i = 0; i < steps; ++i) coast_once(record, motion, seconds / steps);
}

Quat turned(const Quat& orientation, const Vec3& rotation) {
  const double angle = rotation.norm();
  if (angle < 1e-300) return orientation;
  const SineCosine half = sine_cosine(0.5 * angle);
  const Vec3 along = rotation * (half.sine / angle);
  return (Quat(half.cosine, along.x(), along.y(), along.z()) * orientation).normalized();
}

Quat surface_turn(const BodyRecord& record, const Quat& from, const Quat& to) {
  switch (record.symmetry) {
    case Symmetry::ball:
      return Quat::Identity();
    case Symmetry::axis:
      return turn_between(from * Vec3::Unit(1), to * Vec3::Unit(1));
    case Symmetry::none:
      break;
  }
  return to * from.conjugate();
}

double surface_spin(const BodyRecord& record, const BodyState& motion) {
  if (record.symmetry == Symmetry::ball) return 0;
  if (record.symmetry == Symmetry::none) return motion.angular_velocity.norm();
  return motion.angular_velocity.cross(motion.orientation * Vec3::Unit(1)).norm();
}

void refresh_inertia(const BodyRecord& record, BodyState& motion) {
  // The same about every axis, however it is turned.
  if (record.round && record.free_turning) {
    motion.inverse_inertia = record.inverse_inertia;
    return;
  }
  const Mat3 rotation = motion.orientation.toRotationMatrix();
  motion.inverse_inertia = rotation * record.inverse_inertia * rotation.transpose();
  if (record.free_turning || !record.dynamic()) return;
  // About the axes that are left the body turns with the inertia of those axes alone. A locked axis is given an inertia
  // of its own, out of the others' way, and then none of its inverse.
  Mat3 inertia = rotation * record.mass.inertia * rotation.transpose();
  for (int i = 0; i < 3; ++i) {
    if (!record.locks.turn[static_cast<std::size_t>(i)]) continue;
    inertia.row(i).setZero();
    inertia.col(i).setZero();
    inertia(i, i) = 1;
  }
  motion.inverse_inertia = inertia.inverse();
  for (int i = 0; i < 3; ++i)
    if (record.locks.turn[static_cast<std::size_t>(i)]) motion.inverse_inertia(i, i) = 0;
}

Pose shape_pose(const BodyRecord& record, const BodyState& motion) {
  return {motion.centre - motion.orientation * record.mass.centre, motion.orientation};
}

}  // namespace bronvel
