// The contact solver.
#include "dynamics/contact_solver.h"

namespace bronvel {
namespace {

// An overlap is pushed apart at this rate, up to this speed.
constexpr double recovery_rate = 9;   // 1/s
constexpr double recovery_speed = 3;  // m/s

// Passes over few contacts are cheap and make tall stacks stiff; over many they would cost too much.
constexpr int most_passes = 32;
constexpr std::size_t rows_affordable = 3000;  // rows × passes in a sub-step

double effective_mass(const Motion& a, const Motion& b, const Vec3& arm_a, const Vec3& arm_b, const Vec3& direction) {
  const Vec3 ca = arm_a.cross(direction), cb = arm_b.cross(direction);
  const double k = a.inverse_mass + b.inverse_mass + ca.dot(a.inverse_inertia * ca) + cb.dot(b.inverse_inertia * cb);
  return k > 0 ? 1 / k : 0;
}

// The gap now, from the drift of both bodies since the tick's start.
double gap_now(const ContactRow& row, const Pair& pair, const Vec3& drift, const Mat3& turn_a, const Mat3& turn_b) {
  return row.gap + pair.normal.dot(drift + turn_b * row.arm_b - turn_a * row.arm_a);
}

}  // namespace

void prepare_contacts(WorldState& state) {
  for (const std::uint32_t p : state.active) {
    Pair& pair = state.pairs[p];
    const Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
    for (int i = 0; i < pair.count; ++i) {
      ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
      row.normal_mass = effective_mass(a, b, row.arm_a, row.arm_b, pair.normal);
      for (std::size_t t = 0; t < 2; ++t)
        row.tangent_mass[t] = effective_mass(a, b, row.arm_a, row.arm_b, pair.tangents[t]);
      const double closing = -pair.normal.dot(b.velocity_at(row.arm_b) - a.velocity_at(row.arm_a));
      pair.closing_speed = std::max(pair.closing_speed, closing);
    }
  }
}

int contact_passes(const WorldState& state) {
  std::size_t rows = 1;
  for (const std::uint32_t p : state.active) rows += static_cast<std::size_t>(state.pairs[p].count);
  return std::clamp(static_cast<int>(rows_affordable / rows), 1, most_passes);
}

void warm_start_contacts(WorldState& state) {
  for (const std::uint32_t p : state.active) {
    const Pair& pair = state.pairs[p];
    Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
    for (int i = 0; i < pair.count; ++i) {
      const ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
      const Vec3 impulse = pair.normal * row.normal_impulse + pair.tangents[0] * row.tangent_impulse[0] +
                           pair.tangents[1] * row.tangent_impulse[1];
      a.push(-impulse, row.arm_a);
      b.push(impulse, row.arm_b);
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
    Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
    const Motion &a0 = state.at_start[pair.a], &b0 = state.at_start[pair.b];
    const Mat3 turn_a = (a.orientation * a0.orientation.conjugate()).toRotationMatrix() - Mat3::Identity();
    const Mat3 turn_b = (b.orientation * b0.orientation.conjugate()).toRotationMatrix() - Mat3::Identity();
    const Vec3 drift = (b.centre - b0.centre) - (a.centre - a0.centre);

    for (int i = 0; i < pair.count; ++i) {
      ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
      const double gap = gap_now(row, pair, drift, turn_a, turn_b);
      const double speed = pair.normal.dot(b.velocity_at(row.arm_b) - a.velocity_at(row.arm_a));
      double wanted = 0;
      if (push_out)
        wanted = gap > 0 && row.normal_impulse == 0 ? gap / h : std::max(recovery_rate * gap, -recovery_speed);
      else if (gap > 0 && row.normal_impulse == 0)
        continue;  // Not met yet: the next sub-step's business.
      const bool soft = push_out && row.normal_impulse > 0;
      const double change =
          -row.normal_mass * (soft ? 1 - leak : 1) * (speed + wanted) - (soft ? leak : 0) * row.normal_impulse;
      const double impulse = std::max(row.normal_impulse + change, 0.0);
      const Vec3 push = pair.normal * (impulse - row.normal_impulse);
      row.normal_impulse = impulse;
      a.push(-push, row.arm_a);
      b.push(push, row.arm_b);
    }
    for (int i = 0; i < pair.count; ++i) {
      ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
      const Vec3 slip = b.velocity_at(row.arm_b) - a.velocity_at(row.arm_a);
      std::array<double, 2> wanted{};
      for (std::size_t t = 0; t < 2; ++t)
        wanted[t] = row.tangent_impulse[t] - row.tangent_mass[t] * pair.tangents[t].dot(slip);
      const double size = std::hypot(wanted[0], wanted[1]);
      if (size > pair.surface.static_friction * row.normal_impulse) {
        const double share = size > 0 ? pair.surface.dynamic_friction * row.normal_impulse / size : 0;
        wanted[0] *= share;
        wanted[1] *= share;
      }
      const Vec3 push = pair.tangents[0] * (wanted[0] - row.tangent_impulse[0]) +
                        pair.tangents[1] * (wanted[1] - row.tangent_impulse[1]);
      row.tangent_impulse = wanted;
      a.push(-push, row.arm_a);
      b.push(push, row.arm_b);
    }
  }
}

void sum_impulses(WorldState& state) {
  for (const std::uint32_t p : state.active) {
    Pair& pair = state.pairs[p];
    for (int i = 0; i < pair.count; ++i) {
      ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
      row.normal_total += row.normal_impulse;
      for (std::size_t t = 0; t < 2; ++t) row.tangent_total[t] += row.tangent_impulse[t];
    }
  }
}

}  // namespace bronvel
