// Working out collision impulses.
#include "dynamics/impacts/collision_impulse.h"

namespace bronvel {

StruckPoint::StruckPoint(const BodyState& a, const BodyState& b, const ContactPoint& point, const Vec3& normal)
    : arm_a(point.point - a.centre), arm_b(point.point - b.centre) {
  const Mat3 across_a = cross_matrix(arm_a), across_b = cross_matrix(arm_b);
  turn_a.noalias() = a.inverse_inertia * across_a;
  turn_b.noalias() = b.inverse_inertia * across_b;
  mobility.noalias() = -across_a * turn_a - across_b * turn_b;
  mobility.diagonal() += a.inverse_mass + b.inverse_mass;
  const double along = normal.dot(mobility * normal);
  mass = along > 0 ? 1 / along : 0;
}

void StruckPoint::take_joints(const WorldState& state, const Pair& pair, const StruckGroup& group, const Vec3& normal) {
  jointed = std::make_unique<JointedResponse>();
  jointed->of_group = group.answers(state, arm_a, arm_b);
  for (std::size_t k = 0; k < group.bodies().size(); ++k) {
    if (group.bodies()[k] == pair.a) jointed->a = jointed->of_group[k];
    if (group.bodies()[k] == pair.b) jointed->b = jointed->of_group[k];
  }
  mobility =
      jointed->b.move - cross_matrix(arm_b) * jointed->b.turn - jointed->a.move + cross_matrix(arm_a) * jointed->a.turn;
  const double along = normal.dot(mobility * normal);
  mass = along > 0 ? 1 / along : 0;
}

namespace {

// How often the points of one manifold are gone over at most, or until none changes by more than this share of the
// greatest; and what of the energy is then no more than rounding. Where hits are few, the digits matter more than time.
struct Care {
  int most_iterations;
  double settled_share, of_rounding;
};
constexpr Care among_few{200, 1e-10, 1e-8}, in_large_islands{8, 1e-3, 4e-6};

// The share (0 to 1) of the way from the impulse without restitution, `dead`, to the whole one that makes no energy:
// Newton's restitution and Coulomb's friction together may make some in an oblique impact (Kane and Levinson, Dynamics:
// Theory and Applications, 1985). Energy is quadratic in the impulse, so the share is a root of it. `velocities`: of
// the points against each other before, after `dead`, and after `whole`.
double share_without_gain(const PointImpulses& dead, const PointImpulses& whole, const Vec3& along,
                          const std::array<std::array<Vec3, 4>, 3>& velocities) {
  double none = 0, slope = 0, square = 0;
  for (std::size_t i = 0; i < velocities[0].size(); ++i) {
    const Vec3 first = dead.impulse(i, along), more = whole.impulse(i, along) - first;
    const Vec3 mean = velocities[0][i] + velocities[1][i], faster = velocities[2][i] - velocities[1][i];
    none += 0.5 * first.dot(mean);
    slope += 0.5 * (more.dot(mean) + first.dot(faster));
    square += 0.5 * more.dot(faster);
  }
  if (none >= 0) return 0;
  if (none + slope + square <= 0) return 1;
  const double root = std::sqrt(std::max(slope * slope - 4 * square * none, 0.0));
  return std::clamp(2 * none / (-slope - root), 0.0, 1.0);
}

}  // namespace

CollisionImpulse impulses_of(const WorldState& state, BodyState& a, BodyState& b, const Hit& hit, Pair& pair,
                             StruckGroup* group) {
  const Manifold& m = hit.manifold;
  CollisionImpulse given;
  auto& points = given.points;
  std::array<double, 4> wanted{};
  const auto count = static_cast<std::size_t>(m.count);
  const auto relative = [&](const Vec3& arm_a, const Vec3& arm_b) -> Vec3 {
    return b.velocity_at(arm_b) - a.velocity_at(arm_a);
  };
  if (group) {  // by what the points press on together
    Vec3 middle = Vec3::Zero();
    int met = 0;
    for (std::size_t i = 0; i < count; ++i)
      if (m.points[i].separation <= hit.met) middle += m.points[i].point, ++met;
    middle /= std::max(met, 1);
    group->choose_stops(state, middle - a.centre, middle - b.centre, m.normal);
  }
  for (std::size_t i = 0; i < count; ++i) {
    if (m.points[i].separation > hit.met) continue;
    StruckPoint& at = points[i].emplace(a, b, m.points[i], m.normal);
    if (group) at.take_joints(state, pair, *group, m.normal);
    const double closing = -m.normal.dot(relative(at.arm_a, at.arm_b));
    wanted[i] = std::max(closing, 0.0) * pair.surface.restitution;
    pair.closing_speed = std::max(pair.closing_speed, closing);
  }
  const auto push = [&](const StruckPoint& at, const Vec3& impulse) {
    if (group) {
      a.velocity.noalias() += at.jointed->a.move * impulse;
      b.velocity.noalias() += at.jointed->b.move * impulse;
      a.angular_velocity.noalias() += at.jointed->a.turn * impulse;
      b.angular_velocity.noalias() += at.jointed->b.turn * impulse;
      return;
    }
    a.velocity -= a.inverse_mass.cwiseProduct(impulse);
    b.velocity += b.inverse_mass.cwiseProduct(impulse);
    a.angular_velocity.noalias() -= at.turn_a * impulse;
    b.angular_velocity.noalias() += at.turn_b * impulse;
  };
  const Care& care = pair.in_double ? among_few : in_large_islands;
  const auto go_over = [&](double given_back) {
    for (int iteration = 0; iteration < care.most_iterations; ++iteration) {
      double greatest_change = 0, greatest = 0;
      for (std::size_t i = 0; i < count; ++i) {
        if (!points[i]) continue;
        const StruckPoint& at = *points[i];
        const double speed = m.normal.dot(relative(at.arm_a, at.arm_b));
        const double impulse = std::max(given.normal[i] + at.mass * (given_back * wanted[i] - speed), 0.0);
        greatest_change = std::max(greatest_change, std::abs(impulse - given.normal[i]));
        push(at, m.normal * (impulse - given.normal[i]));
        given.normal[i] = impulse;
        greatest = std::max(greatest, impulse);

        const Vec3 velocity = relative(at.arm_a, at.arm_b);
        const Vec3 slip = velocity - m.normal * m.normal.dot(velocity);
        const double slip_speed = slip.norm();
        if (slip_speed < 1e-12) continue;
        const Vec3 way = slip / slip_speed;
        const double along = way.dot(at.mobility * way);
        const Vec3 held = along > 0 ? Vec3(given.friction[i] - way * (slip_speed / along)) : given.friction[i];
        const double size = held.norm();
        const Vec3 kept = size > pair.surface.static_friction * given.normal[i]
                              ? Vec3(held * (pair.surface.dynamic_friction * given.normal[i] / size))
                              : held;
        push(at, kept - given.friction[i]);
        given.friction[i] = kept;
      }
      if (greatest_change <= care.settled_share * greatest) break;
    }
  };
  if (pair.surface.restitution <= 0) {
    go_over(1);
    return given;
  }
  const auto at_points = [&](std::array<Vec3, 4>& velocities) {
    for (std::size_t i = 0; i < count; ++i)
      if (points[i]) velocities[i] = relative(points[i]->arm_a, points[i]->arm_b);
  };
  std::array<std::array<Vec3, 4>, 3> velocities;
  for (auto& each : velocities) each.fill(Vec3::Zero());
  at_points(velocities[0]);
  const BodyState a_before = a, b_before = b;
  go_over(1);
  at_points(velocities[2]);
  double gain = 0, size = 0;
  for (std::size_t i = 0; i < count; ++i) {
    if (!points[i]) continue;
    const Vec3 impulse = given.impulse(i, m.normal);
    gain += 0.5 * impulse.dot(velocities[0][i] + velocities[2][i]);
    size += std::abs(impulse.dot(velocities[0][i]));
  }
  if (gain <= care.of_rounding * size) return given;
  const PointImpulses whole = given;
  const BodyState a_whole = a, b_whole = b;
  a = a_before;
  b = b_before;
  static_cast<PointImpulses&>(given) = {};
  go_over(0);
  at_points(velocities[1]);
  const double share = share_without_gain(given, whole, m.normal, velocities);
  const auto between = [&](BodyState& to, const BodyState& end) {
    to.velocity += share * (end.velocity - to.velocity);
    to.angular_velocity += share * (end.angular_velocity - to.angular_velocity);
  };
  between(a, a_whole);
  between(b, b_whole);
  for (std::size_t i = 0; i < count; ++i) {
    given.normal[i] += share * (whole.normal[i] - given.normal[i]);
    given.friction[i] += share * (whole.friction[i] - given.friction[i]);
  }
  return given;
}

}  // namespace bronvel
