// Resolving hits.
#include "dynamics/impact.h"

#include "dynamics/integrate.h"

namespace bronvel {
namespace {

constexpr int most_rounds = 32;       // of passing hits on
constexpr int most_iterations = 24;   // over the points of one manifold
constexpr double same_moment = 1e-4;  // m: points within this of the first are hit with it

struct Hit {
  bool any = false;
  double moment = 0;  // s into the sub-step
  std::array<bool, 4> at_hand{};
  std::array<Vec3, 4> arm_a, arm_b;
  std::array<double, 4> closing{};  // at the moment, m/s
};

// Seconds until a gap closes at speed u with acceleration a, or more than `h` if it does not.
double time_to_close(double gap, double u, double a, double h) {
  if (gap <= 0) return 0;
  const double under_root = u * u + 2 * a * gap;
  if (under_root < 0) return 2 * h;
  const double below = u + std::sqrt(under_root);
  return below > 0 ? 2 * gap / below : 2 * h;
}

Hit find_hit(const WorldState& state, const Pair& pair, double h) {
  const Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
  const Motion &a0 = state.at_start[pair.a], &b0 = state.at_start[pair.b];
  const Quat turn_a = a.orientation * a0.orientation.conjugate(), turn_b = b.orientation * b0.orientation.conjugate();
  const Vec3 drift = (b.centre - b0.centre) - (a.centre - a0.centre);
  const Vec3 pull = steady_acceleration(state, pair.b) - steady_acceleration(state, pair.a);
  const double closing_pull = -pair.normal.dot(pull);
  Hit hit;
  hit.moment = 2 * h;
  std::array<double, 4> gaps{}, speeds{};
  for (std::size_t i = 0; i < static_cast<std::size_t>(pair.count); ++i) {
    const ContactRow& row = pair.rows[i];
    hit.arm_a[i] = turn_a * row.arm_a;
    hit.arm_b[i] = turn_b * row.arm_b;
    gaps[i] = row.gap + pair.normal.dot(drift + (hit.arm_b[i] - row.arm_b) - (hit.arm_a[i] - row.arm_a));
    speeds[i] = -pair.normal.dot(b.velocity_at(hit.arm_b[i]) - a.velocity_at(hit.arm_a[i]));
    const double moment = time_to_close(gaps[i], speeds[i], closing_pull, h);
    if (moment > h || speeds[i] + closing_pull * moment <= state.settings.restitution_speed) continue;
    hit.any = true;
    hit.moment = std::min(hit.moment, moment);
  }
  if (!hit.any) return hit;
  for (std::size_t i = 0; i < static_cast<std::size_t>(pair.count); ++i) {
    hit.closing[i] = speeds[i] + closing_pull * hit.moment;
    const double left = gaps[i] - (speeds[i] + 0.5 * closing_pull * hit.moment) * hit.moment;
    hit.at_hand[i] = left <= same_moment;
  }
  return hit;
}

double effective_mass(const Motion& a, const Motion& b, const Vec3& arm_a, const Vec3& arm_b, const Vec3& direction) {
  const Vec3 ca = arm_a.cross(direction), cb = arm_b.cross(direction);
  const double k = a.inverse_mass + b.inverse_mass + ca.dot(a.inverse_inertia * ca) + cb.dot(b.inverse_inertia * cb);
  return k > 0 ? 1 / k : 0;
}

void strike(WorldState& state, Pair& pair, const Hit& hit) {
  Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
  const Motion a_before = a, b_before = b;
  const Vec3 pull = steady_acceleration(state, pair.b) - steady_acceleration(state, pair.a);
  const Vec3 gained = pull * hit.moment;  // relative velocity gathered by the moment of the hit
  std::array<double, 4> normal{};
  std::array<Vec3, 4> friction{Vec3::Zero(), Vec3::Zero(), Vec3::Zero(), Vec3::Zero()};
  for (int iteration = 0; iteration < most_iterations; ++iteration) {
    double greatest_change = 0;
    for (std::size_t i = 0; i < static_cast<std::size_t>(pair.count); ++i) {
      if (!hit.at_hand[i]) continue;
      const double mass = effective_mass(a, b, hit.arm_a[i], hit.arm_b[i], pair.normal);
      const Vec3 relative = b.velocity_at(hit.arm_b[i]) - a.velocity_at(hit.arm_a[i]) + gained;
      const double wanted = std::max(hit.closing[i], 0.0) * pair.surface.restitution;
      const double impulse = std::max(normal[i] + mass * (wanted - pair.normal.dot(relative)), 0.0);
      const Vec3 push = pair.normal * (impulse - normal[i]);
      greatest_change = std::max(greatest_change, std::abs(impulse - normal[i]));
      normal[i] = impulse;
      a.push(-push, hit.arm_a[i]);
      b.push(push, hit.arm_b[i]);

      const Vec3 slip_velocity = b.velocity_at(hit.arm_b[i]) - a.velocity_at(hit.arm_a[i]) + gained;
      const Vec3 slip = slip_velocity - pair.normal * pair.normal.dot(slip_velocity);
      const double slip_speed = slip.norm();
      if (slip_speed > 1e-12) {
        const Vec3 way = slip / slip_speed;
        const Vec3 held = friction[i] - way * (slip_speed * effective_mass(a, b, hit.arm_a[i], hit.arm_b[i], way));
        const double size = held.norm();
        const Vec3 kept = size > pair.surface.static_friction * normal[i]
                              ? Vec3(held * (pair.surface.dynamic_friction * normal[i] / std::max(size, 1e-300)))
                              : held;
        const Vec3 across = kept - friction[i];
        friction[i] = kept;
        a.push(-across, hit.arm_a[i]);
        b.push(across, hit.arm_b[i]);
      }
    }
    if (greatest_change <= 1e-12 * (1 + normal[0])) break;
  }
  for (std::size_t i = 0; i < static_cast<std::size_t>(pair.count); ++i) {
    pair.rows[i].normal_total += normal[i];
    for (std::size_t t = 0; t < 2; ++t) pair.rows[i].tangent_total[t] += pair.tangents[t].dot(friction[i]);
    if (hit.at_hand[i]) pair.closing_speed = std::max(pair.closing_speed, hit.closing[i]);
  }
  set_back(a, a_before, hit.moment);
  set_back(b, b_before, hit.moment);
}

}  // namespace

void resolve_impacts(WorldState& state, double h) {
  for (int round = 0; round < most_rounds; ++round) {
    bool any = false;
    for (const std::uint32_t p : state.active) {
      Pair& pair = state.pairs[p];
      const Hit hit = find_hit(state, pair, h);
      if (!hit.any) continue;
      strike(state, pair, hit);
      any = true;
    }
    if (!any) return;
  }
}

}  // namespace bronvel
