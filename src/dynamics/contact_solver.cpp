// The contact solver.
#include "dynamics/contact_solver.h"

namespace bronvel {
namespace {

// An overlap is pushed apart at this rate, up to this speed.
constexpr double recovery_rate = 9;   // 1/s
constexpr double recovery_speed = 3;  // m/s

// Passes over few contacts are cheap and make tall stacks stiff; over many they would cost too much.
constexpr int most_passes = 64;
constexpr std::size_t rows_affordable = 3000;  // rows × passes in a sub-step

double inverse_or_zero(double k) {
  return k > 0 ? 1 / k : 0;
}

double turning_mass(const Motion& a, const Motion& b, const Vec3& axis) {
  return inverse_or_zero(axis.dot(a.inverse_inertia * axis) + axis.dot(b.inverse_inertia * axis));
}

void turn(Motion& a, Motion& b, const Vec3& angular_impulse) {
  a.angular_velocity -= a.inverse_inertia * angular_impulse;
  b.angular_velocity += b.inverse_inertia * angular_impulse;
}

void push(Motion& a, Motion& b, const Vec3& impulse, const Vec3& arm_a, const Vec3& arm_b) {
  a.push(-impulse, arm_a);
  b.push(impulse, arm_b);
}

// Two impulses across the normal, held while they are no more than `hold`, else cut to `slip` (a circular bound).
std::array<double, 2> bounded(std::array<double, 2> wanted, double hold, double slip) {
  const double size = std::hypot(wanted[0], wanted[1]);
  if (size <= hold) return wanted;
  const double share = slip / size;
  return {wanted[0] * share, wanted[1] * share};
}

double normal_sum(const Pair& pair) {
  double sum = 0;
  for (int i = 0; i < pair.count; ++i) sum += pair.rows[static_cast<std::size_t>(i)].impulse;
  return sum;
}

void solve_friction(Pair& pair, Motion& a, Motion& b) {
  FrictionRow& f = pair.friction;
  const double load = normal_sum(pair);

  if (pair.surface.rolling_friction > 0) {
    const Vec3 spin = b.angular_velocity - a.angular_velocity;
    const double most = pair.surface.rolling_friction * load * f.roll_arm;
    const std::array<double, 2> roll = bounded({f.roll[0] - f.roll_mass[0] * pair.tangents[0].dot(spin),
                                                f.roll[1] - f.roll_mass[1] * pair.tangents[1].dot(spin)},
                                               most, most);
    turn(a, b, pair.tangents[0] * (roll[0] - f.roll[0]) + pair.tangents[1] * (roll[1] - f.roll[1]));
    f.roll = roll;
  }

  if (f.lever > 0) {
    const double spin = pair.normal.dot(b.angular_velocity - a.angular_velocity);
    const double most = pair.surface.dynamic_friction * load * f.lever;
    const double twist = std::clamp(f.twist - f.twist_mass * spin, -most, most);
    turn(a, b, pair.normal * (twist - f.twist));
    f.twist = twist;
  }

  const Vec3 slip = b.velocity_at(f.arm_b) - a.velocity_at(f.arm_a);
  const std::array<double, 2> slide =
      bounded({f.slide[0] - f.slide_mass[0] * pair.tangents[0].dot(slip),
               f.slide[1] - f.slide_mass[1] * pair.tangents[1].dot(slip)},
              pair.surface.static_friction * load, pair.surface.dynamic_friction * load);
  push(a, b, pair.tangents[0] * (slide[0] - f.slide[0]) + pair.tangents[1] * (slide[1] - f.slide[1]), f.arm_a, f.arm_b);
  f.slide = slide;
}

}  // namespace

double effective_mass(const Motion& a, const Motion& b, const Vec3& arm_a, const Vec3& arm_b, const Vec3& direction) {
  const Vec3 ca = arm_a.cross(direction), cb = arm_b.cross(direction);
  return inverse_or_zero(a.inverse_mass + b.inverse_mass + ca.dot(a.inverse_inertia * ca) +
                         cb.dot(b.inverse_inertia * cb));
}

void prepare_pair(const WorldState& state, Pair& pair) {
  const Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
  for (int i = 0; i < pair.count; ++i) {
    ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
    row.mass = effective_mass(a, b, row.arm_a, row.arm_b, pair.normal);
    const double closing = -pair.normal.dot(b.velocity_at(row.arm_b) - a.velocity_at(row.arm_a));
    pair.closing_speed = std::max(pair.closing_speed, closing);
  }
  FrictionRow& f = pair.friction;
  for (std::size_t t = 0; t < 2; ++t) {
    f.slide_mass[t] = effective_mass(a, b, f.arm_a, f.arm_b, pair.tangents[t]);
    f.roll_mass[t] = turning_mass(a, b, pair.tangents[t]);
  }
  f.twist_mass = turning_mass(a, b, pair.normal);
}

void prepare_contacts(WorldState& state) {
  for (const std::uint32_t p : state.active) prepare_pair(state, state.pairs[p]);
}

int contact_passes(const WorldState& state) {
  std::size_t rows = 1;
  for (const std::uint32_t p : state.active) rows += static_cast<std::size_t>(state.pairs[p].count);
  return std::clamp(static_cast<int>(rows_affordable / rows), 1, most_passes);
}

void warm_start_contacts(WorldState& state) {
  for (const std::uint32_t p : state.active) {
    const Pair& pair = state.pairs[p];
    if (pair.passing) continue;
    Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
    for (int i = 0; i < pair.count; ++i) {
      const ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
      push(a, b, pair.normal * row.impulse, row.arm_a, row.arm_b);
    }
    const FrictionRow& f = pair.friction;
    push(a, b, pair.tangents[0] * f.slide[0] + pair.tangents[1] * f.slide[1], f.arm_a, f.arm_b);
    turn(a, b, pair.normal * f.twist + pair.tangents[0] * f.roll[0] + pair.tangents[1] * f.roll[1]);
  }
}

void solve_contacts(WorldState& state, double h, bool push_out, int passes) {
  // Overlap x, closing speed v and error e of the impulses make a loop in which each sub-step's passes take away a
  // share c of a slow error: v' = e, x' = v, e' = -c (v + r x) - l e, with r the recovery in a sub-step and l the leak
  // of the impulses. By Routh's rule it is stable for c + l > r. In tall stacks c is next to nothing, so the leak must
  // be r.
  const double leak = 1.2 * recovery_rate * h / passes;
  for (const std::uint32_t p : state.active) {
    Pair& pair = state.pairs[p];
    if (pair.passing) continue;
    Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
    const Motion &a0 = state.at_start[pair.a], &b0 = state.at_start[pair.b];
    const Mat3 turn_a = (a.orientation * a0.orientation.conjugate()).toRotationMatrix() - Mat3::Identity();
    const Mat3 turn_b = (b.orientation * b0.orientation.conjugate()).toRotationMatrix() - Mat3::Identity();
    const Vec3 drift = (b.centre - b0.centre) - (a.centre - a0.centre);
    for (std::size_t i = 0; i < static_cast<std::size_t>(pair.count); ++i) {
      ContactRow& row = pair.rows[i];
      const double gap = row.gap + pair.normal.dot(drift + turn_b * row.arm_b - turn_a * row.arm_a);
      const double speed = pair.normal.dot(b.velocity_at(row.arm_b) - a.velocity_at(row.arm_a));
      double wanted = 0;
      if (push_out)
        wanted = gap > 0 && row.impulse == 0 ? gap / h : std::max(recovery_rate * gap, -recovery_speed);
      else if (gap > 0 && row.impulse == 0)
        continue;  // Not met yet: the next sub-step's business.
      const double softness = push_out && row.impulse > 0 ? leak : 0;
      const double change = -row.mass * (1 - softness) * (speed + wanted) - softness * row.impulse;
      const double impulse = std::max(row.impulse + change, 0.0);
      push(a, b, pair.normal * (impulse - row.impulse), row.arm_a, row.arm_b);
      row.impulse = impulse;
    }
    solve_friction(pair, a, b);
  }
}

void sum_impulses(WorldState& state) {
  for (const std::uint32_t p : state.active) {
    Pair& pair = state.pairs[p];
    if (pair.passing) continue;
    for (int i = 0; i < pair.count; ++i) {
      ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
      row.total += row.impulse;
    }
    for (std::size_t t = 0; t < 2; ++t) pair.friction.slide_total[t] += pair.friction.slide[t];
  }
}

}  // namespace bronvel
