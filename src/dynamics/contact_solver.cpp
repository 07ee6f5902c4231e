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

Lever pushing_lever(const Motion& a, const Motion& b, const Vec3& arm_a, const Vec3& arm_b, const Vec3& along) {
  Lever l;
  l.along = along;
  l.cross_a = arm_a.cross(along);
  l.cross_b = arm_b.cross(along);
  l.spin_a = a.inverse_inertia * l.cross_a;
  l.spin_b = b.inverse_inertia * l.cross_b;
  l.mass = inverse_or_zero(along.cwiseAbs2().dot(a.inverse_mass + b.inverse_mass) + l.cross_a.dot(l.spin_a) +
                           l.cross_b.dot(l.spin_b));
  return l;
}

Lever turning_lever(const Motion& a, const Motion& b, const Vec3& axis) {
  Lever l;
  l.cross_a = l.cross_b = axis;
  l.spin_a = a.inverse_inertia * axis;
  l.spin_b = b.inverse_inertia * axis;
  l.mass = inverse_or_zero(axis.dot(l.spin_a) + axis.dot(l.spin_b));
  return l;
}

// Speed of B against A along the lever.
double speed_along(const Lever& l, const Motion& a, const Motion& b) {
  return l.along.dot(b.velocity - a.velocity) + l.cross_b.dot(b.angular_velocity) - l.cross_a.dot(a.angular_velocity);
}

void apply(const Lever& l, double impulse, Motion& a, Motion& b) {
  a.velocity -= impulse * a.inverse_mass.cwiseProduct(l.along);
  b.velocity += impulse * b.inverse_mass.cwiseProduct(l.along);
  a.angular_velocity -= impulse * l.spin_a;
  b.angular_velocity += impulse * l.spin_b;
}

// Two impulses across the normal, held while they are no more than `hold`, else cut to `slip` (a circular bound).
std::array<double, 2> bounded(std::array<double, 2> wanted, double hold, double slip) {
  const double size = std::hypot(wanted[0], wanted[1]);
  if (size <= hold) return wanted;
  const double share = slip / size;
  return {wanted[0] * share, wanted[1] * share};
}

// Stops what moves along both levers as far as the bound allows.
void resist(const std::array<Lever, 2>& levers, std::array<double, 2>& impulses, double hold, double slip, Motion& a,
            Motion& b) {
  const std::array<double, 2> next = bounded({impulses[0] - levers[0].mass * speed_along(levers[0], a, b),
                                              impulses[1] - levers[1].mass * speed_along(levers[1], a, b)},
                                             hold, slip);
  for (std::size_t t = 0; t < 2; ++t) apply(levers[t], next[t] - impulses[t], a, b);
  impulses = next;
}

void solve_friction(Pair& pair, Motion& a, Motion& b) {
  FrictionRow& f = pair.friction;
  double load = 0;
  for (int i = 0; i < pair.count; ++i) load += pair.rows[static_cast<std::size_t>(i)].impulse;

  if (pair.surface.rolling_friction > 0) {
    const double most = pair.surface.rolling_friction * load * f.roll_arm;
    resist(f.roll_levers, f.roll, most, most, a, b);
  }
  if (f.lever > 0) {
    const double most = pair.surface.dynamic_friction * load * f.lever;
    const double twist = std::clamp(f.twist - f.twist_lever.mass * speed_along(f.twist_lever, a, b), -most, most);
    apply(f.twist_lever, twist - f.twist, a, b);
    f.twist = twist;
  }
  resist(f.slide_levers, f.slide, pair.surface.static_friction * load, pair.surface.dynamic_friction * load, a, b);
}

}  // namespace

double effective_mass(const Motion& a, const Motion& b, const Vec3& arm_a, const Vec3& arm_b, const Vec3& direction) {
  return pushing_lever(a, b, arm_a, arm_b, direction).mass;
}

void prepare_pair(const WorldState& state, Pair& pair) {
  const Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
  for (int i = 0; i < pair.count; ++i) {
    ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
    row.normal = pushing_lever(a, b, row.arm_a, row.arm_b, pair.normal);
    pair.closing_speed = std::max(pair.closing_speed, -speed_along(row.normal, a, b));
  }
  FrictionRow& f = pair.friction;
  for (std::size_t t = 0; t < 2; ++t) {
    f.slide_levers[t] = pushing_lever(a, b, f.arm_a, f.arm_b, pair.tangents[t]);
    f.roll_levers[t] = turning_lever(a, b, pair.tangents[t]);
  }
  f.twist_lever = turning_lever(a, b, pair.normal);
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
      apply(row.normal, row.impulse, a, b);
    }
    const FrictionRow& f = pair.friction;
    for (std::size_t t = 0; t < 2; ++t) {
      apply(f.slide_levers[t], f.slide[t], a, b);
      apply(f.roll_levers[t], f.roll[t], a, b);
    }
    apply(f.twist_lever, f.twist, a, b);
  }
}

void place_contacts(WorldState& state) {
  for (const std::uint32_t p : state.active) {
    Pair& pair = state.pairs[p];
    const Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
    const Motion &a0 = state.at_start[pair.a], &b0 = state.at_start[pair.b];
    const Mat3 turn_a = (a.orientation * a0.orientation.conjugate()).toRotationMatrix() - Mat3::Identity();
    const Mat3 turn_b = (b.orientation * b0.orientation.conjugate()).toRotationMatrix() - Mat3::Identity();
    const Vec3 drift = (b.centre - b0.centre) - (a.centre - a0.centre);
    for (int i = 0; i < pair.count; ++i) {
      ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
      row.gap_now = row.gap + pair.normal.dot(drift + turn_b * row.arm_b - turn_a * row.arm_a);
    }
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
    for (int i = 0; i < pair.count; ++i) {
      ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
      const double gap = row.gap_now;
      double wanted = 0;
      if (push_out)
        wanted = gap > 0 && row.impulse == 0 ? gap / h : std::max(recovery_rate * gap, -recovery_speed);
      else if (gap > 0 && row.impulse == 0)
        continue;  // Not met yet: the next sub-step's business.
      const double softness = push_out && row.impulse > 0 ? leak : 0;
      const double change =
          -row.normal.mass * (1 - softness) * (speed_along(row.normal, a, b) + wanted) - softness * row.impulse;
      const double impulse = std::max(row.impulse + change, 0.0);
      apply(row.normal, impulse - row.impulse, a, b);
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
