// What joints leave of the energy.
#include "dynamics/joints/joint_energy.h"

#include <Eigen/Cholesky>
#include <Eigen/LU>
#include <algorithm>

#include "dynamics/bodies/integrate.h"
#include "dynamics/solver/contact_solver.h"

namespace bronvel {
namespace {

constexpr double held_in_place = 1e-6;  // m or rad: nothing is drawn together
constexpr double may_stray = 1e-7;      // m/s or rad/s: what is faster is stopped, and loses energy by rights
constexpr double most_hastened = 2;     // times: else the sub-step is not to be trusted

using Axes = Eigen::Matrix<double, 3, Eigen::Dynamic, 0, 3, 3>;

bool moves(const WorldState& state, std::uint32_t body) {
  return body != no_body && state.records[body].dynamic();
}

bool stands(const WorldState& state, std::uint32_t body) {
  return body == no_body || state.records[body].kind == MotionKind::fixed ||
         (state.bodies[body].velocity.isZero() && state.bodies[body].angular_velocity.isZero());
}

// The motion of the island as a rigid body, as far as its joints allow it and momentum is kept along it: all where
// nothing holds the island; turns that weight does not change where it hangs by one point.
struct Rigid {
  Vec3 about = Vec3::Zero();     // m
  Vec3 velocity = Vec3::Zero();  // of `about`, m/s
  Vec3 spin = Vec3::Zero();      // rad/s
  Vec3 momentum = Vec3::Zero();  // angular, about `about`, kg·m²/s
  Mat3 inertia = Mat3::Zero();   // about it, kg·m²
  double mass = 0;               // kg
  double energy = 0;             // J
  Axes axes{3, 0};               // along which the angular momentum is kept

  Vec3 velocity_at(const Vec3& point) const { return velocity + spin.cross(point - about); }
};

// The spin that has this angular momentum along the axes.
Vec3 spin_of(const Rigid& rigid, const Vec3& momentum) {
  const Axes turned = rigid.inertia * rigid.axes;
  const Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, 0, 3, 3> reduced = rigid.axes.transpose() * turned;
  const Eigen::Matrix<double, Eigen::Dynamic, 1, 0, 3, 1> along = rigid.axes.transpose() * momentum;
  return rigid.axes * reduced.fullPivLu().solve(along);
}

void find_spin(const WorldState& state, const JointIsland& island, const Axes& axes, Rigid& rigid) {
  Vec3 momentum = Vec3::Zero();
  Mat3 inertia = Mat3::Zero();
  for (const std::uint32_t body : island.bodies) {
    const MassProperties& mass = state.records[body].mass;
    const BodyState& m = state.bodies[body];
    const Vec3 arm = m.centre - rigid.about;
    const Mat3 turn = m.orientation.toRotationMatrix();
    const Mat3 own = turn * mass.inertia * turn.transpose();
    momentum += mass.mass * arm.cross(m.velocity - rigid.velocity) + own * m.angular_velocity;
    inertia += own + mass.mass * (arm.squaredNorm() * Mat3::Identity() - arm * arm.transpose());
  }
  rigid.axes = axes;
  rigid.momentum = momentum;
  rigid.inertia = inertia;
  rigid.spin = spin_of(rigid, momentum);
  rigid.energy += 0.5 * rigid.spin.dot(inertia * rigid.spin);
}

Rigid rigid_motion(const WorldState& state, const JointIsland& island) {
  Rigid rigid;
  if (island.anchors.empty()) {
    double& mass = rigid.mass;
    Vec3 centre = Vec3::Zero(), momentum = Vec3::Zero();
    for (const std::uint32_t body : island.bodies) {
      const double own = state.records[body].mass.mass;
      mass += own;
      centre += own * state.bodies[body].centre;
      momentum += own * state.bodies[body].velocity;
    }
    rigid.about = centre / mass;
    rigid.velocity = momentum / mass;
    rigid.energy = 0.5 * momentum.squaredNorm() / mass;
    find_spin(state, island, Mat3::Identity(), rigid);
  } else if (island.anchors.size() == 1) {
    const JointRecord& joint = state.joints[island.anchors.front()];
    if (joint.settings.kind != JointKind::ball && joint.settings.kind != JointKind::distance) return rigid;
    const JointEnds ends = joint_ends(state, state.bodies, joint);
    if (island.locked) return rigid;
    rigid.about = moves(state, joint.settings.a.index) ? ends.b.centre + joint_arm_b(joint, ends)
                                                       : ends.a.centre + joint_arm_a(joint, ends);
    const Vec3& gravity = state.settings.gravity;
    find_spin(state, island, gravity.isZero() ? Axes(Mat3::Identity()) : Axes(gravity.normalized()), rigid);
  }
  return rigid;
}

// HitImpulses on an island in this sub-step, added up.
HitImpulses hit_impulses_on(const WorldState& state, const JointIsland& island) {
  HitImpulses sum;
  for (const std::uint32_t body : island.bodies) {
    const HitImpulses& one = state.scratch.hit_impulses[body];
    sum.work += one.work;
    sum.impulse += one.impulse;
    sum.moment += one.moment;
    sum.late += one.late;
  }
  return sum;
}

// The angular momentum about `rigid.about` at the end of a sub-step of h seconds, of which `rigid` is the motion, after
// these collision impulses. `pull`: the acceleration that steady forces give to all alike.
Vec3 momentum_after(const JointIsland& island, const Rigid& rigid, const HitImpulses& hit_impulses, const Vec3& pull,
                    double h) {
  const Vec3 about_start = island.turning + hit_impulses.moment - island.about.cross(hit_impulses.impulse);
  if (!island.anchors.empty()) return about_start;
  // What the weight of a free island does about the place where its centre was: by the way that this has gone since.
  const Vec3 way = 0.5 * h * h * rigid.mass * island.velocity + hit_impulses.late;
  return about_start + way.cross(pull) - (rigid.about - island.about).cross(rigid.mass * rigid.velocity);
}

// Sets the island's spin so that its angular momentum is `momentum`: an impact belongs to its moment, but the joints
// respond at the sub-step's start.
void put_right(WorldState& state, const JointIsland& island, Rigid& rigid, const Vec3& momentum) {
  constexpr double most = 0.3;
  const Vec3 missing = momentum - rigid.momentum;
  if (rigid.axes.cols() == 0 || !(missing.norm() < most * (momentum.norm() + rigid.momentum.norm()))) return;
  const Vec3 more = spin_of(rigid, missing), before = rigid.spin;
  for (const std::uint32_t body : island.bodies) {
    BodyState& m = state.bodies[body];
    m.velocity += more.cross(m.centre - rigid.about);
    m.angular_velocity += more;
  }
  rigid.spin += more;
  rigid.momentum += rigid.inertia * more;
  rigid.energy += 0.5 * rigid.spin.dot(rigid.inertia * rigid.spin) - 0.5 * before.dot(rigid.inertia * before);
}

// The motion within the island, so many times faster.
void hasten(WorldState& state, const JointIsland& island, const Rigid& rigid, double factor) {
  for (const std::uint32_t body : island.bodies) {
    BodyState& m = state.bodies[body];
    const Vec3 along = rigid.velocity_at(m.centre);
    m.velocity = along + factor * (m.velocity - along);
    m.angular_velocity = rigid.spin + factor * (m.angular_velocity - rigid.spin);
  }
}

// Where next to nothing moves within a free island it tumbles as one body, and its energy goes by how it lies to its
// angular momentum L: turned by d, it has d · (w × L) more, w its spin. It is turned by the least that does.
void tilt(WorldState& state, const JointIsland& island, const Rigid& rigid, double missing) {
  constexpr double most = 1e-3;  // rad
  const Vec3 slope = rigid.spin.cross(rigid.momentum);
  if (!(std::abs(missing) < most * slope.norm())) return;
  const Vec3 turning = missing / slope.squaredNorm() * slope;
  const Quat turn = turned(Quat::Identity(), turning);
  Rigid after = rigid;
  after.spin = turn * rigid.inertia.ldlt().solve(turn.conjugate() * rigid.momentum);
  for (const std::uint32_t body : island.bodies) {
    BodyState& m = state.bodies[body];
    const Vec3 own = turn * (m.velocity - rigid.velocity_at(m.centre));
    const Vec3 own_spin = turn * (m.angular_velocity - rigid.spin);
    m.centre = rigid.about + turn * (m.centre - rigid.about);
    m.orientation = turned(m.orientation, turning);
    refresh_inertia(state.records[body], m);
    m.velocity = after.velocity_at(m.centre) + own;
    m.angular_velocity = after.spin + own_spin;
  }
}

double energy_of(const WorldState& state, const JointIsland& island) {
  double sum = 0;
  for (const std::uint32_t body : island.bodies) sum += kinetic_energy_of(state.records[body], state.bodies[body]);
  return sum;
}

double rate_of_end(const WorldState& state, const RowEnd& end, std::uint32_t body) {
  return body == no_body ? 0 : end.rate(state.bodies[body]);
}

// Nothing but joints, steady forces and collision impulses: no contact, no torque.
bool left_to_joints(const WorldState& state, const JointSystem& sys, const JointIsland& island) {
  return std::all_of(island.bodies.begin(), island.bodies.end(), [&](std::uint32_t body) {
    return !state.records[body].asleep && !sys.loaded[body] &&
           state.bodies[body].angular_velocity == state.scratch.spin_before[body];
  });
}

// Whether some of its bodies may not go or turn every way.
bool locked(const WorldState& state, const JointIsland& island) {
  return std::any_of(island.bodies.begin(), island.bodies.end(), [&](std::uint32_t body) {
    const BodyRecord& record = state.records[body];
    return !record.free_turning || record.locks.move != std::array<bool, 3>{};
  });
}

template <class F>
void each_row_of_island(JointSystem& sys, const F& f) {
  for (std::size_t i = 0; i < sys.rows.size(); ++i) {
    const std::uint32_t a = sys.body_a[i], b = sys.body_b[i];
    const std::uint32_t island = a != no_body && sys.island_of[a] != no_island ? sys.island_of[a]
                                 : b != no_body                                ? sys.island_of[b]
                                                                               : no_island;
    if (island != no_island) f(i, sys.islands[island]);
  }
}

}  // namespace

void find_joint_islands(const WorldState& state, JointSystem& sys) {
  // Each body's island is that of the least body that it is joined to in any number of steps.
  std::vector<std::uint32_t> least(state.bodies.size());
  for (const std::uint32_t body : sys.bodies) least[body] = body;
  const auto first_of = [&](std::uint32_t body) {
    while (least[body] != body) body = least[body];
    return body;
  };
  for (std::size_t i = 0; i < sys.rows.size(); ++i) {
    if (!moves(state, sys.body_a[i]) || !moves(state, sys.body_b[i])) continue;
    const std::uint32_t a = first_of(sys.body_a[i]), b = first_of(sys.body_b[i]);
    least[std::max(a, b)] = std::min(a, b);
  }
  sys.islands.clear();
  sys.island_of.assign(state.bodies.size(), no_island);
  for (const std::uint32_t body : sys.bodies) {
    if (!moves(state, body)) continue;
    const std::uint32_t first = first_of(body);
    if (first == body) sys.islands.emplace_back();
    sys.island_of[body] = first == body ? static_cast<std::uint32_t>(sys.islands.size() - 1) : sys.island_of[first];
    sys.islands[sys.island_of[body]].bodies.push_back(body);
  }
  for (std::size_t i = 0; i < sys.rows.size(); ++i) {
    const std::uint32_t a = sys.body_a[i], b = sys.body_b[i];
    if (moves(state, a) == moves(state, b)) continue;
    std::vector<std::uint32_t>& anchors = sys.islands[sys.island_of[moves(state, a) ? a : b]].anchors;
    if (anchors.empty() || anchors.back() != sys.joint_of[i]) anchors.push_back(sys.joint_of[i]);
  }
}

void note_joint_energy(const WorldState& state, JointSystem& sys) {
  for (JointIsland& island : sys.islands) {
    island.locked = locked(state, island);
    // Momenta of what is free and locked are not told apart here.
    island.kept = !(island.locked && island.anchors.empty());
    island.energy = energy_of(state, island);
    const Rigid rigid = rigid_motion(state, island);
    island.about = rigid.about;
    island.velocity = rigid.velocity;
    island.turning = rigid.momentum;
    island.centres.clear();
    for (const std::uint32_t body : island.bodies) island.centres.push_back(state.bodies[body].centre);
  }
  sys.strays.resize(sys.rows.size());
  each_row_of_island(sys, [&](std::size_t i, JointIsland& island) {
    if (!island.kept) return;
    const JointRow& row = sys.rows[i];
    sys.strays[i] = rate_of_end(state, row.a, sys.body_a[i]) + rate_of_end(state, row.b, sys.body_b[i]);
    const auto driven = [&](std::uint32_t body) { return !moves(state, body) && !stands(state, body); };
    if (row.drift != 0 || driven(sys.body_a[i]) || driven(sys.body_b[i])) island.kept = false;
    if (row.rule == RowRule::equal && std::abs(row.error) > held_in_place) island.kept = false;
    if (row.rule == RowRule::at_least && row.error < -held_in_place) island.kept = false;
  });
}

void leave_out_others(const WorldState& state, JointSystem& sys) {
  for (JointIsland& island : sys.islands) island.kept = island.kept && left_to_joints(state, sys, island);
}

void keep_joint_energy(WorldState& state, JointSystem& sys, double h) {
  if (std::none_of(sys.islands.begin(), sys.islands.end(), [](const JointIsland& island) { return island.kept; }))
    return;
  mark_loaded(state, sys.loaded);
  each_row_of_island(sys, [&](std::size_t i, JointIsland& island) {
    if (!island.kept || (sys.held[i] == 0 && sys.impulse[i] == 0)) return;
    const RowRule rule = sys.rows[i].rule;
    const bool only_holds = rule == RowRule::equal || rule == RowRule::at_least;
    if (!only_holds || std::abs(sys.strays[i]) > may_stray) island.kept = false;
  });
  for (JointIsland& island : sys.islands) {
    if (!island.kept) continue;
    const HitImpulses hit_impulses = hit_impulses_on(state, island);
    const auto given_to = [&](std::uint32_t body) -> Vec3 {
      return state.scratch.velocity_free[body] - state.scratch.velocity_before[body];
    };
    const Vec3 given = given_to(island.bodies.front());
    bool alike = true, struck = false;
    double wanted = island.energy + hit_impulses.work;
    for (std::size_t k = 0; k < island.bodies.size(); ++k) {
      const std::uint32_t body = island.bodies[k];
      if (sys.loaded[body]) island.kept = false;
      struck = struck || !state.scratch.hit_impulses[body].impulse.isZero();
      alike = alike && (given_to(body) - given).norm() <= 1e-9 * given.norm();
      wanted += state.records[body].mass.mass / h * given_to(body).dot(state.bodies[body].centre - island.centres[k]);
    }
    Rigid rigid = rigid_motion(state, island);
    if (island.kept && struck && (alike || !island.anchors.empty()))
      put_right(state, island, rigid, momentum_after(island, rigid, hit_impulses, given / h, h));
    const double within = energy_of(state, island) - rigid.energy, wanted_within = wanted - rigid.energy;
    if (!island.kept) continue;
    const double factor = within > 0 && wanted_within > 0 ? std::sqrt(wanted_within / within) : 0;
    if (factor > 1 / most_hastened && factor < most_hastened)
      hasten(state, island, rigid, factor);
    else if (island.anchors.empty())
      tilt(state, island, rigid, wanted_within - within);
  }
}

}  // namespace bronvel
