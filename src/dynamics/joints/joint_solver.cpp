// The joint solver.
#include "dynamics/joints/joint_solver.h"

#include <map>

#include "dynamics/bodies/integrate.h"
#include "dynamics/bodies/movers.h"
#include "dynamics/books/books.h"
#include "dynamics/joints/joint_energy.h"
#include "dynamics/joints/joint_system.h"
#include "dynamics/solver/contact_solver.h"

namespace bronvel {
namespace {

constexpr int most_rounds = 24;         // of finding the impulses and which limits and motors take part
constexpr double met_position = 1e-11;  // m or rad
constexpr double met_speed = 1e-11;     // m/s or rad/s
constexpr int most_flips = 4;           // how often a limit may leave and come back in one sub-step
constexpr int rounds_with_contacts = 3;
constexpr int most_parts = 64;                       // that a sub-step is gone through in
constexpr double good_enough = 1e-6 / met_position;  // as a multiple of what counts as met

const BodyState scene_motion{};

void build_rows(const WorldState& state, const JointSystem& sys, const FlatArray<BodyState>& motions,
                std::vector<JointRow>& rows) {
  rows.clear();
  for (const std::uint32_t j : sys.joints)
    add_joint_rows(state.joints[j], joint_ends(state, motions, state.joints[j]), rows);
}

const BodyState& motion_of(const WorldState& state, std::uint32_t body) {
  return body == no_body ? scene_motion : state.bodies[body];
}

double rate_of(const WorldState& state, const JointSystem& sys, std::size_t i) {
  return sys.rows[i].a.rate(motion_of(state, sys.body_a[i])) + sys.rows[i].b.rate(motion_of(state, sys.body_b[i]));
}

RowPush push_of(const WorldState& state, const RowEnd& end, std::uint32_t body) {
  if (body == no_body) return {};
  const BodyState& m = state.bodies[body];
  return {m.inverse_mass.cwiseProduct(end.linear), m.inverse_inertia * end.angular};
}

void apply(WorldState& state, const JointSystem& sys, std::size_t i, double impulse) {
  const auto give = [&](std::uint32_t body, const RowPush& push) {
    if (body == no_body || !state.records[body].dynamic()) return;
    state.bodies[body].velocity += impulse * push.velocity;
    state.bodies[body].angular_velocity += impulse * push.spin;
  };
  give(sys.body_a[i], sys.push_a[i]);
  give(sys.body_b[i], sys.push_b[i]);
}

Cause cause_of(RowRule rule) {
  switch (rule) {
    case RowRule::equal:
      return Cause::joint;
    case RowRule::at_least:
      return Cause::limit;
    case RowRule::motor:
      return Cause::motor;
    case RowRule::spring:
      break;
  }
  return Cause::spring;
}

void book_row(WorldState& state, const JointSystem& sys, std::size_t i, double impulse) {
  if (!state.scratch.books || impulse == 0) return;
  const JointRecord& joint = state.joints[sys.joint_of[i]];
  const JointEnds ends = joint_ends(state, state.bodies, joint);
  const auto give = [&](std::uint32_t body, const RowEnd& end, const Vec3& arm) {
    if (body == no_body || !booked(state, body)) return;
    const Vec3 at = state.bodies[body].centre + arm;
    book(state, body, cause_of(sys.rows[i].rule), by_joint(state, sys.joint_of[i]), impulse * end.linear,
         impulse * end.angular, &at);
  };
  give(sys.body_a[i], sys.rows[i].a, joint_arm_a(joint, ends));
  give(sys.body_b[i], sys.rows[i].b, joint_arm_b(joint, ends));
}

// Adds the impulse that row i gave to what its joint reports.
void record(WorldState& state, const JointSystem& sys, std::size_t i, double impulse) {
  const RowEnd& end = sys.rows[i].b;
  JointRecord& joint = state.joints[sys.joint_of[i]];
  joint.impulse += impulse * end.linear;
  joint.angular_impulse += impulse * (end.angular - sys.arm_b[i].cross(end.linear));
  book_row(state, sys, i, impulse);
}

// Lays the matrix out: which rows share a body, and where their product goes.
void lay_out(const WorldState& state, JointSystem& sys) {
  const auto count = static_cast<Eigen::Index>(sys.rows.size());
  std::map<std::uint32_t, std::vector<std::pair<std::uint32_t, bool>>> of_body;
  for (std::uint32_t i = 0; i < sys.rows.size(); ++i) {
    if (sys.body_a[i] != no_body && state.records[sys.body_a[i]].dynamic())
      of_body[sys.body_a[i]].emplace_back(i, true);
    if (sys.body_b[i] != no_body && state.records[sys.body_b[i]].dynamic())
      of_body[sys.body_b[i]].emplace_back(i, false);
  }
  sys.terms.clear();
  for (const auto& [body, ends] : of_body)
    for (const auto& [i, i_is_a] : ends)
      for (const auto& [j, j_is_a] : ends)
        if (i >= j) sys.terms.push_back({i, j, i_is_a, j_is_a, 0});
  const auto filled = [&](const auto& place) {
    std::vector<Eigen::Triplet<double>> entries;
    for (Eigen::Index i = 0; i < count; ++i) entries.emplace_back(i, i, 1.0);
    for (const JointSystem::Term& term : sys.terms)
      entries.emplace_back(std::min(place(term.row), place(term.column)), std::max(place(term.row), place(term.column)),
                           1.0);
    Eigen::SparseMatrix<double> matrix(count, count);
    matrix.setFromTriplets(entries.begin(), entries.end());
    matrix.makeCompressed();
    return matrix;
  };
  // In the order in which least is filled in: once, not with each factorization.
  const Eigen::SparseMatrix<double> as_rows = filled([](std::uint32_t i) { return static_cast<Eigen::Index>(i); });
  Eigen::PermutationMatrix<Eigen::Dynamic, Eigen::Dynamic, int> order;
  Eigen::AMDOrdering<int>()(as_rows.selfadjointView<Eigen::Upper>(), order);
  sys.place.resize(sys.rows.size());
  for (Eigen::Index k = 0; k < count; ++k) sys.place[static_cast<std::size_t>(order.indices()[k])] = k;
  const auto place_of = [&](std::uint32_t i) { return sys.place[i]; };
  sys.matrix = filled(place_of);
  const auto slot = [&](std::uint32_t i, std::uint32_t j) {
    const auto row = static_cast<int>(std::min(place_of(i), place_of(j)));
    const Eigen::Index column = std::max(place_of(i), place_of(j));
    const int* begin = sys.matrix.innerIndexPtr() + sys.matrix.outerIndexPtr()[column];
    const int* end = sys.matrix.innerIndexPtr() + sys.matrix.outerIndexPtr()[column + 1];
    return static_cast<Eigen::Index>(std::lower_bound(begin, end, row) - sys.matrix.innerIndexPtr());
  };
  for (JointSystem::Term& term : sys.terms) term.slot = slot(term.row, term.column);
  sys.diagonal.resize(sys.rows.size());
  for (std::uint32_t i = 0; i < sys.rows.size(); ++i) sys.diagonal[i] = slot(i, i);
  sys.factor.analyzePattern(sys.matrix);
}

// Softness and wish of a spring row for a step of h: impulse = −(rate + wish) / softness.
struct Softness {
  double softness = 0, wish = 0;
};

Softness soften(const JointRow& row, double h, bool smooth) {
  // Implicit midpoint for bodies that move with their middle velocity, else implicit Euler.
  const double share = smooth ? 0.5 : 1;
  const double stiff = share * h * row.stiffness + row.damping;
  if (stiff <= 0) return {1e300, 0};
  return {1 / (share * h * stiff), row.stiffness * row.error / stiff};
}

bool is_smooth(const JointSystem& sys, std::size_t i) {
  const auto end = [&](std::uint32_t body) { return body == no_body || sys.smooth[body]; };
  return end(sys.body_a[i]) && end(sys.body_b[i]);
}

void factorize(JointSystem& sys, double h) {
  double* values = sys.matrix.valuePtr();
  std::fill(values, values + sys.matrix.nonZeros(), 0.0);
  for (const JointSystem::Term& term : sys.terms) {
    if (!sys.active[term.row] || !sys.active[term.column]) continue;
    const RowEnd& end = term.row_is_a ? sys.rows[term.row].a : sys.rows[term.row].b;
    const RowPush& push = term.column_is_a ? sys.push_a[term.column] : sys.push_b[term.column];
    values[term.slot] += end.linear.dot(push.velocity) + end.angular.dot(push.spin);
  }
  for (std::size_t i = 0; i < sys.rows.size(); ++i) {
    double& own = values[sys.diagonal[i]];
    if (!sys.active[i] || own <= 0) {
      own = 1;
    } else {
      // A trace of softness: demands that say the same twice then share the load instead of dividing by zero.
      own *= 1 + 1e-10;
      if (sys.rows[i].rule == RowRule::spring) own += soften(sys.rows[i], h, is_smooth(sys, i)).softness;
    }
  }
  sys.factor.factorize(sys.matrix);
}

void look_ahead(const WorldState& state, JointSystem& sys, double h) {
  for (const std::uint32_t body : sys.bodies) {
    BodyState& later = sys.later[body];
    later = state.bodies[body];
    if (state.records[body].kind == MotionKind::fixed) continue;
    later.centre += h * later.velocity;
    coast_turning(state.records[body], later, h);
  }
  build_rows(state, sys, sys.later, sys.ahead);
}

double motor_room(const JointSystem& sys, std::size_t i, double h, bool holding) {
  // While holding, a motor of smoothly moving bodies gives half of what it has; the rest is for the second half.
  return sys.rows[i].most * h * (holding && is_smooth(sys, i) ? 0.5 : 1);
}

// What may be left of a row's error after h seconds. A demand that is broken by much, as where anchors were set apart,
// is met at this speed: all at once it would fling the bodies. What hits have put apart, as they put struck bodies back
// to where they would have been, is met wholly by the sub-step's end.
double left_over(const WorldState& state, const JointSystem& sys, std::size_t i, double h) {
  constexpr double recovery_speed = 2;  // m/s or rad/s
  const double most = h * (recovery_speed + std::abs(state.joints[sys.joint_of[i]].settings.pay_out));
  const double error = sys.rows[i].error - sys.put_apart[i] / state.joint_parts;
  if (sys.rows[i].rule == RowRule::equal && error > most) return error - most;
  return std::min(0.0, error + most);
}

// Finds impulses until every demand is met: at the sub-step's end while `holding`, else by the velocities. Returns the
// worst that is left, as a multiple of what counts as met.
double solve(WorldState& state, JointSystem& sys, double h, bool holding) {
  const std::size_t count = sys.rows.size();
  std::vector<char>& active = sys.active;
  sys.flips.assign(count, 0);
  bool new_factor = true;
  double worst = 0;
  for (int round = 0; round < most_rounds; ++round) {
    if (holding) look_ahead(state, sys, h);
    worst = 0;
    for (std::size_t i = 0; i < count; ++i) {
      const JointRow& row = sys.rows[i];
      const double rate = rate_of(state, sys, i);
      const double given = sys.impulse[i] + (holding ? 0 : sys.held[i]);
      double wrong = 0;
      bool takes_part = true;
      switch (row.rule) {
        case RowRule::equal:
          wrong = holding ? (sys.ahead[i].error - left_over(state, sys, i, h)) / h : rate + row.drift;
          break;
        case RowRule::at_least:
          wrong = holding ? (sys.ahead[i].error - left_over(state, sys, i, h)) / h : rate + row.drift;
          if (holding)
            takes_part = sys.impulse[i] > 0 || wrong * h < -met_position;
          else
            takes_part = sys.impulse[i] > 0 || (sys.held[i] > 0 && wrong < -met_speed);
          if (takes_part && !active[i] && sys.flips[i] >= most_flips) takes_part = false;
          break;
        case RowRule::motor: {
          wrong = rate - row.target;
          const double room = motor_room(sys, i, h, holding);
          // At its top torque it takes part again only if it would have to give less.
          takes_part = std::abs(given) < room || (wrong > met_speed) == (given > 0);
          if (takes_part && !active[i] && round > 0 && ++sys.flips[i] > most_flips) takes_part = false;
          break;
        }
        case RowRule::spring: {
          takes_part = holding;
          const Softness s = soften(row, h, is_smooth(sys, i));
          wrong = rate + s.wish + s.softness * sys.impulse[i];
          break;
        }
      }
      if (takes_part != static_cast<bool>(active[i])) {
        active[i] = takes_part;
        new_factor = true;
      }
      sys.residual[sys.place[i]] = active[i] ? -wrong : 0;
      if (!active[i]) continue;
      const bool position = holding && (row.rule == RowRule::equal || row.rule == RowRule::at_least);
      const double share = position ? std::abs(wrong) * h / met_position : std::abs(wrong) / met_speed;
      if (!(share <= worst)) worst = share;  // what is no number counts too
    }
    if (worst <= 1) return worst;
    if (new_factor) factorize(sys, h);
    new_factor = false;
    sys.answer = sys.factor.solve(sys.residual);

    // What would pull where it can only push, or push more than it may, gets its bound first and leaves.
    bool bounded = false;
    for (std::size_t i = 0; i < count; ++i) {
      if (!active[i]) continue;
      const double change = sys.answer[sys.place[i]];
      double kept = change;
      if (sys.rows[i].rule == RowRule::at_least) {
        kept = std::max(change, -sys.impulse[i]);
      } else if (sys.rows[i].rule == RowRule::motor) {
        const double before = holding ? 0 : sys.held[i], room = motor_room(sys, i, h, holding);
        kept = std::clamp(change, -room - before - sys.impulse[i], room - before - sys.impulse[i]);
      }
      if (kept == change) continue;
      bounded = true;
      new_factor = true;
      active[i] = 0;
      ++sys.flips[i];
      sys.impulse[i] += kept;
      apply(state, sys, i, kept);
    }
    if (bounded) continue;
    for (std::size_t i = 0; i < count; ++i) {
      if (!active[i]) continue;
      const double change = sys.answer[sys.place[i]];
      sys.impulse[i] += change;
      apply(state, sys, i, change);
    }
  }
  return worst;
}

void refresh_pushes(const WorldState& state, JointSystem& sys) {
  for (std::size_t i = 0; i < sys.rows.size(); ++i) {
    sys.push_a[i] = push_of(state, sys.rows[i].a, sys.body_a[i]);
    sys.push_b[i] = push_of(state, sys.rows[i].b, sys.body_b[i]);
    if (i > 0 && sys.joint_of[i] == sys.joint_of[i - 1]) {
      sys.arm_b[i] = sys.arm_b[i - 1];
      continue;
    }
    const JointRecord& joint = state.joints[sys.joint_of[i]];
    sys.arm_b[i] = joint_arm_b(joint, joint_ends(state, state.bodies, joint));
  }
}

// Rows anew where the bodies are, without impulses.
void renew(WorldState& state, JointSystem& sys) {
  build_rows(state, sys, state.bodies, sys.rows);
  refresh_pushes(state, sys);
  std::fill(sys.impulse.begin(), sys.impulse.end(), 0.0);
}

// Calls f(row, what the row of the same joint gave in the last sub-step).
template <class F>
void each_last_impulse(WorldState& state, const JointSystem& sys, const F& f) {
  std::size_t k = 0;
  for (std::size_t i = 0; i < sys.rows.size(); ++i) {
    k = i > 0 && sys.joint_of[i] == sys.joint_of[i - 1] ? k + 1 : 0;
    f(i, state.joints[sys.joint_of[i]].last_impulses[k]);
  }
}

// Contacts are solved before joints: what the joints of a body bear is given to it first, as the last sub-step had it.
// Contacts would else have to stop what hangs on a rope from falling.
void warm_start(WorldState& state, JointSystem& sys) {
  each_last_impulse(state, sys, [&](std::size_t i, double last) {
    if (last == 0 || is_smooth(sys, i)) return;
    sys.impulse[i] = last;
    apply(state, sys, i, last);
  });
}

void record_all(WorldState& state, const JointSystem& sys) {
  for (std::size_t i = 0; i < sys.rows.size(); ++i) record(state, sys, i, sys.impulse[i]);
}

// The second half of what springs give between bodies that move smoothly.
void give_springs(WorldState& state, const JointSystem& sys) {
  for (std::size_t i = 0; i < sys.rows.size(); ++i) {
    if (sys.rows[i].rule != RowRule::spring || !is_smooth(sys, i)) continue;
    apply(state, sys, i, sys.held[i]);
    record(state, sys, i, sys.held[i]);
  }
}

// Where the bodies are and what the joints have borne, to go back to.
void keep(WorldState& state, JointSystem& sys) {
  keep_lines(state);
  sys.before.clear();
  sys.borne_before.clear();
  sys.impulse_before = sys.impulse;
  for (const std::uint32_t body : sys.bodies) sys.before.push_back(state.bodies[body]);
  for (const std::uint32_t j : sys.joints)
    sys.borne_before.emplace_back(state.joints[j].impulse, state.joints[j].angular_impulse);
}

void go_back(WorldState& state, JointSystem& sys) {
  go_back_to_lines(state);
  sys.impulse = sys.impulse_before;
  for (std::size_t i = 0; i < sys.bodies.size(); ++i) state.bodies[sys.bodies[i]] = sys.before[i];
  for (std::size_t i = 0; i < sys.joints.size(); ++i)
    std::tie(state.joints[sys.joints[i]].impulse, state.joints[sys.joints[i]].angular_impulse) = sys.borne_before[i];
}

// The most that a body that contacts bear on has changed its velocity since then, m/s.
double most_changed(const WorldState& state, const JointSystem& sys) {
  double most = 0;
  for (std::size_t i = 0; i < sys.bodies.size(); ++i) {
    const std::uint32_t body = sys.bodies[i];
    if (!sys.loaded[body]) continue;
    const BodyState &now = state.bodies[body], &then = sys.before[i];
    most = std::max(most, (now.velocity - then.velocity).norm() +
                              state.records[body].radius * (now.angular_velocity - then.angular_velocity).norm());
  }
  return most;
}

double energy_of(const WorldState& state, const JointSystem& sys) {
  double sum = 0;
  for (const std::uint32_t body : sys.bodies) sum += kinetic_energy_of(state.records[body], state.bodies[body]);
  return sum;
}

bool is_demand(const JointRow& row) {
  return row.rule == RowRule::equal || row.rule == RowRule::at_least;
}

// Whether everything is in its place, and nothing has to be drawn together.
bool all_in_place(const JointSystem& sys) {
  constexpr double in_place = 1e-5;  // m or rad
  return std::all_of(sys.rows.begin(), sys.rows.end(), [](const JointRow& row) {
    return !is_demand(row) || (row.error > -in_place && (row.rule == RowRule::at_least || row.error < in_place));
  });
}

// Holds, and tells whether what was found is to be trusted: all is met, no body is turned so far by the impulses that
// their directions lose their meaning (there are other ways to meet all, with bodies whirling round), and what only
// holds does next to no work. It does where directions turn far within the sub-step, as a rope's past a dead centre.
bool hold_well(WorldState& state, JointSystem& sys, double h) {
  constexpr double most_turn = 0.5;   // rad
  constexpr double most_work = 0.04;  // of the bodies' energy: a swing by 0.4 rad does as much
  sys.spin_before.clear();
  for (const std::uint32_t body : sys.bodies) sys.spin_before.push_back(state.bodies[body].angular_velocity);
  const auto strays = [&](std::size_t i) { return rate_of(state, sys, i) + sys.rows[i].drift; };
  sys.row_before.clear();
  for (std::size_t i = 0; i < sys.rows.size(); ++i) sys.row_before.emplace_back(strays(i), sys.impulse[i]);
  const double energy = energy_of(state, sys);
  if (!(solve(state, sys, h, true) <= good_enough)) return false;
  if (all_in_place(sys)) {
    double work = 0;
    for (std::size_t i = 0; i < sys.rows.size(); ++i) {
      const auto& [strayed, impulse] = sys.row_before[i];
      if (is_demand(sys.rows[i])) work += (sys.impulse[i] - impulse) * 0.5 * (strayed + strays(i));
    }
    if (!(work <= most_work * std::max(energy, energy_of(state, sys)))) return false;
  }
  for (std::size_t i = 0; i < sys.bodies.size(); ++i)
    if (!((state.bodies[sys.bodies[i]].angular_velocity - sys.spin_before[i]).norm() * h <= most_turn)) return false;
  return true;
}

// The sub-step of the joints' bodies in parts, each held, moved and brought to rest like a sub-step of its own. Returns
// false where a part does not find its impulses.
bool go_in_parts(WorldState& state, JointSystem& sys, double h, int parts) {
  const double part = h / parts;
  // Smooth forces changed the velocity by twice the shift, of which one half is in it now.
  const auto push = [&](double share) {
    for (const std::uint32_t body : sys.bodies) {
      state.bodies[body].velocity -= share * sys.shift[body];
      state.bodies[body].angular_velocity -= share * sys.spin_shift[body];
    }
  };
  push(-1);
  sys.given = sys.impulse;
  record_all(state, sys);
  for (int k = 0; k < parts; ++k) {
    push(1.0 / parts);
    renew(state, sys);
    std::fill(sys.held.begin(), sys.held.end(), 0.0);
    if (!hold_well(state, sys, part)) return false;
    record_all(state, sys);
    for (const std::uint32_t body : sys.bodies) {
      const BodyRecord& record = state.records[body];
      if (record.kind == MotionKind::fixed || record.asleep) continue;
      state.bodies[body].centre += part * state.bodies[body].velocity;
      coast_turning(record, state.bodies[body], part);
    }
    push(1.0 / parts);
    std::swap(sys.held, sys.impulse);
    renew(state, sys);
    give_springs(state, sys);
    solve(state, sys, part, false);
    record_all(state, sys);
    for (std::size_t i = 0; i < sys.rows.size(); ++i) sys.given[i] += sys.held[i] + sys.impulse[i];
  }
  for (std::size_t i = 0; i < sys.bodies.size(); ++i) {
    const std::uint32_t body = sys.bodies[i];
    if (state.records[body].kind == MotionKind::kinematic)
      state.bodies[body] = sys.before[i];  // movers are moved with all others
    else
      state.scratch.moved_by_joints[body] = 1;
  }
  return true;
}

bool awake(const WorldState& state, BodyHandle body) {
  if (body.index == no_body) return false;
  const BodyRecord& record = state.records[body.index];
  const BodyState& m = state.bodies[body.index];
  return record.dynamic() ? !record.asleep : !m.velocity.isZero() || !m.angular_velocity.isZero();
}

}  // namespace

void mark_jointed(WorldState& state) {
  for (BodyRecord& record : state.records) record.jointed = record.driven = false;
  for (const JointRecord& joint : state.joints) {
    if (!joint.alive) continue;
    const JointSettings& s = joint.settings;
    const bool driven = s.pay_out != 0 || s.along.driven() ||
                        std::any_of(s.axes.begin(), s.axes.end(), [](const JointAxis& x) { return x.driven(); });
    for (const BodyHandle body : {s.a, s.b}) {
      if (body.index == no_body) continue;
      state.records[body.index].jointed = true;
      state.records[body.index].driven = state.records[body.index].driven || driven;
    }
  }
}

bool begin_joints(WorldState& state) {
  JointSystem& sys = *state.scratch.joints;
  sys.joints.clear();
  for (std::uint32_t j = 0; j < state.joints.size(); ++j) {
    JointRecord& joint = state.joints[j];
    if (!joint.alive || !(awake(state, joint.settings.a) || awake(state, joint.settings.b))) continue;
    sys.joints.push_back(j);
    joint.impulse.setZero();
    joint.angular_impulse.setZero();
  }
  if (sys.joints.empty()) return false;
  state.joint_parts = std::max(1, state.joint_parts / 2);  // fewer may do by now
  sys.beyond_parts = false;
  sys.later.resize(state.bodies.size());
  sys.shift.resize(state.bodies.size());
  sys.spin_shift.resize(state.bodies.size());
  sys.smooth.assign(state.bodies.size(), 1);

  sys.bodies.clear();
  sys.body_a.clear();
  sys.body_b.clear();
  sys.joint_of.clear();
  std::vector<std::uint32_t> pattern;
  pattern.reserve(sys.joints.size() * 8);
  sys.rows.clear();
  for (const std::uint32_t j : sys.joints) {
    const JointRecord& joint = state.joints[j];
    const std::size_t first = sys.rows.size();
    pattern.push_back(j);
    add_joint_rows(joint, joint_ends(state, state.bodies, joint), sys.rows);
    const std::uint32_t a = joint.settings.a.index, b = joint.settings.b.index;
    for (const std::uint32_t body : {a, b})
      if (body != no_body) sys.bodies.push_back(body);
    for (std::size_t i = first; i < sys.rows.size(); ++i) {
      sys.body_a.push_back(a);
      sys.body_b.push_back(b);
      sys.joint_of.push_back(j);
      pattern.push_back(a);
      pattern.push_back(b);
    }
  }
  std::sort(sys.bodies.begin(), sys.bodies.end());
  sys.bodies.erase(std::unique(sys.bodies.begin(), sys.bodies.end()), sys.bodies.end());
  for (const std::uint32_t body : sys.bodies) pattern.push_back(state.records[body].dynamic());
  const std::size_t count = sys.rows.size();
  sys.push_a.resize(count);
  sys.push_b.resize(count);
  sys.arm_b.resize(count);
  sys.active.assign(count, 0);
  sys.impulse.assign(count, 0.0);
  sys.held.assign(count, 0.0);
  sys.residual.resize(static_cast<Eigen::Index>(count));
  sys.answer.resize(static_cast<Eigen::Index>(count));
  if (pattern != sys.pattern) {
    lay_out(state, sys);
    find_joint_islands(state, sys);
    sys.pattern = std::move(pattern);
  }
  return count > 0;
}

void prepare_joints(WorldState& state, double h) {
  JointSystem& sys = *state.scratch.joints;
  sys.round = 0;
  sys.in_parts = false;
  sys.loaded.assign(state.records.size(), 0);
  mark_loaded(state, sys.loaded);
  for (const std::uint32_t body : sys.bodies) sys.smooth[body] = !sys.loaded[body] && !state.settings.half_implicit;
  for (const std::uint32_t body : sys.bodies) {
    sys.shift[body].setZero();
    sys.spin_shift[body].setZero();
    const BodyRecord& record = state.records[body];
    if (!record.dynamic() || record.asleep) continue;
    if (sys.smooth[body]) {
      defer_half(state, body);
      sys.shift[body] = 0.5 * (state.scratch.velocity_before[body] - state.scratch.velocity_free[body]);
      sys.spin_shift[body] = 0.5 * (state.scratch.spin_before[body] - state.bodies[body].angular_velocity);
    }
    state.bodies[body].velocity += sys.shift[body];
    state.bodies[body].angular_velocity += sys.spin_shift[body];
  }
  for (const std::uint32_t j : sys.joints) {
    JointRecord& joint = state.joints[j];
    joint.angle = where_joint_is(state, joint);
    if (joint.settings.kind == JointKind::distance) joint.paid_out += h * joint.settings.pay_out;
  }
  renew(state, sys);
  for (std::size_t i = 0; i < sys.rows.size(); ++i) sys.put_apart[i] = sys.rows[i].error - sys.put_apart[i];
  std::fill(sys.held.begin(), sys.held.end(), 0.0);
  leave_out_others(state, sys);
  if (sys.rounds > 1) warm_start(state, sys);
}

int joint_rounds(const WorldState& state) {
  JointSystem& sys = *state.scratch.joints;
  const auto joined = [&](std::uint32_t body) {
    return std::binary_search(sys.bodies.begin(), sys.bodies.end(), body);
  };
  const bool alone = std::none_of(state.scratch.active_ends.begin(), state.scratch.active_ends.end(),
                                  [&](const ActiveEnds& ends) { return joined(ends.a) || joined(ends.b); });
  sys.rounds = alone ? 1 : rounds_with_contacts;
  return sys.rounds;
}

double hold_joints(WorldState& state, double h) {
  JointSystem& sys = *state.scratch.joints;
  constexpr double unknown = std::numeric_limits<double>::infinity();
  const bool last = ++sys.round == sys.rounds;
  // Light bodies that carry much swing within less than a sub-step, and what is struck taut turns far: then no impulses
  // along the directions at its start meet all at its end, and what is found on the search for them flings the bodies.
  keep(state, sys);
  int& parts = state.joint_parts;
  if (parts == 1) {
    if (hold_well(state, sys, h)) return most_changed(state, sys);
    go_back(state, sys);
    parts = 4;
  }
  if (!last) return unknown;  // contacts first
  for (; !sys.beyond_parts; parts *= 2) {
    sys.in_parts = go_in_parts(state, sys, h, parts);
    if (sys.in_parts) {
      for (const std::uint32_t body : sys.bodies) give_whole(state, body);
      return unknown;
    }
    go_back(state, sys);
    if (parts == most_parts) {
      sys.beyond_parts = true;  // nor would they do in this tick's other sub-steps, and they take long
      break;
    }
  }
  // Then at least nothing may grow worse: velocities along the rows are stopped, which never makes energy.
  record_all(state, sys);
  renew(state, sys);
  solve(state, sys, h, false);
  return unknown;
}

void turn_joints(WorldState& state) {
  JointSystem& sys = *state.scratch.joints;
  if (sys.in_parts) {
    renew(state, sys);
    std::swap(sys.held, sys.given);
    return;
  }
  record_all(state, sys);
  for (const std::uint32_t body : sys.bodies) {
    state.bodies[body].velocity -= sys.shift[body];
    state.bodies[body].angular_velocity -= sys.spin_shift[body];
  }
  std::swap(sys.held, sys.impulse);
  renew(state, sys);
  give_springs(state, sys);
}

double rest_joints(WorldState& state, double h) {
  JointSystem& sys = *state.scratch.joints;
  keep(state, sys);
  solve(state, sys, h, false);
  for (std::size_t i = 0; i < sys.rows.size(); ++i) record(state, sys, i, sys.impulse[i] - sys.impulse_before[i]);
  each_last_impulse(state, sys, [&](std::size_t i, double& last) { last = sys.held[i] + sys.impulse[i]; });
  return most_changed(state, sys);
}

void note_joint_energy(WorldState& state) {
  JointSystem& sys = *state.scratch.joints;
  sys.put_apart.clear();
  for (const JointRow& row : sys.rows) sys.put_apart.push_back(row.error);
  note_joint_energy(state, sys);
}

void keep_joint_energy(WorldState& state, double h) {
  keep_joint_energy(state, *state.scratch.joints, h);
}

double where_joint_is(const WorldState& state, const JointRecord& joint) {
  return joint_travel(joint, joint_ends(state, state.bodies, joint)).position;
}

void report_joints(WorldState& state) {
  JointSystem& sys = *state.scratch.joints;
  const double dt = state.tick_length();
  for (const std::uint32_t j : sys.joints) {
    JointRecord& joint = state.joints[j];
    const JointEnds ends = joint_ends(state, state.bodies, joint);
    // A mover that has arrived stands still by now: it counts as it went.
    const auto as_it_went = [&](const BodyState& m, BodyHandle body) {
      BodyState went = m;
      const MoverRecord* came = body.index == no_body ? nullptr : came_there(state, body.index, state.tick + 1);
      if (!came) return went;
      went.velocity = came->velocity;
      went.angular_velocity = came->spin;
      return went;
    };
    const BodyState a = as_it_went(ends.a, joint.settings.a), b = as_it_went(ends.b, joint.settings.b);
    const JointTravel now = joint_travel(joint, {a, b, ends.centre_a, ends.centre_b});
    joint.angle = now.position;
    joint.reading = {joint.impulse / dt, joint.angular_impulse / dt, now.position, now.rate};
    const JointSettings& s = joint.settings;
    const bool snaps = (s.breaks_at_force > 0 && joint.reading.force.norm() > s.breaks_at_force) ||
                       (s.breaks_at_torque > 0 && joint.reading.torque.norm() > s.breaks_at_torque);
    if (!snaps) continue;
    state.snaps.push_back({{j, joint.generation}, s, joint.reading});
    forget_joint(state, j);
  }
}

void forget_joint(WorldState& state, std::uint32_t j) {
  JointRecord& joint = state.joints[j];
  joint.alive = false;
  state.unused_joints.push_back(j);
  mark_jointed(state);
  if (joint.settings.bodies_meet) return;
  const auto found = state.collision_exclusions.find(unordered_key(joint.settings.a.index, joint.settings.b.index));
  if (found != state.collision_exclusions.end() && --found->second == 0) state.collision_exclusions.erase(found);
}

void forget_joints(WorldState& state, std::uint32_t body) {
  for (std::uint32_t j = 0; j < state.joints.size(); ++j) {
    const JointSettings& s = state.joints[j].settings;
    if (state.joints[j].alive && (s.a.index == body || s.b.index == body)) forget_joint(state, j);
  }
}

}  // namespace bronvel
