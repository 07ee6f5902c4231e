// Working out how joints answer.
#include "dynamics/impacts/impulse_propagation.h"

#include <algorithm>

#include "dynamics/books/books.h"
#include "geometry/base/linear.h"

namespace bronvel {
namespace {

constexpr std::size_t most_bodies = 12;
constexpr std::size_t most_rows = 72;
constexpr double at_stop = 1e-5;  // m or rad
constexpr double leaving = 1e-4;  // m/s or rad/s

// What the ends of a row make of a body's velocities.
double seen(const RowEnd& end, const Vec3& velocity, const Vec3& spin) {
  return end.linear.dot(velocity) + end.angular.dot(spin);
}

}  // namespace

JointsOfBodies joints_of_bodies(const WorldState& state) {
  JointsOfBodies found;
  found.first.assign(state.records.size() + 1, 0);
  const auto each_end = [&](const auto& use) {
    for (std::uint32_t j = 0; j < state.joints.size(); ++j) {
      if (!state.joints[j].alive) continue;
      for (const BodyHandle body : {state.joints[j].settings.a, state.joints[j].settings.b})
        if (body.index != no_body) use(body.index, j);
    }
  };
  each_end([&](std::uint32_t body, std::uint32_t) { ++found.first[body + 1]; });
  for (std::size_t i = 1; i < found.first.size(); ++i) found.first[i] += found.first[i - 1];
  found.joints.resize(found.first.back());
  std::vector<std::uint32_t> next(found.first.begin(), found.first.end() - 1);
  each_end([&](std::uint32_t body, std::uint32_t j) { found.joints[next[body]++] = j; });
  return found;
}

void StruckGroup::add_body(const WorldState& state, std::uint32_t body) {
  if (state.records[body].dynamic()) bodies_.push_back(body);
}

void StruckGroup::gather(const WorldState& state, const JointsOfBodies& joints, std::uint32_t a, std::uint32_t b) {
  bodies_.clear();
  rows_.clear();
  row_a_.clear();
  row_b_.clear();
  joint_of_.clear();
  arm_b_of_.clear();
  add_body(state, a);
  add_body(state, b);
  const auto place = [&](std::uint32_t body) {
    const auto found = std::find(bodies_.begin(), bodies_.end(), body);
    return found == bodies_.end() ? none : static_cast<std::uint32_t>(found - bodies_.begin());
  };
  a_ = place(a);
  b_ = place(b);
  std::vector<std::uint32_t> known;
  for (std::size_t i = 0; i < bodies_.size() && rows_.size() < most_rows; ++i)
    for (std::uint32_t k = joints.first[bodies_[i]]; k < joints.first[bodies_[i] + 1]; ++k) {
      const std::uint32_t j = joints.joints[k];
      if (std::find(known.begin(), known.end(), j) != known.end()) continue;
      const JointRecord& joint = state.joints[j];
      const std::uint32_t ends[] = {joint.settings.a.index, joint.settings.b.index};
      bool fits = true;
      for (const std::uint32_t body : ends) {
        if (body == no_body || !state.records[body].dynamic() || place(body) != none) continue;
        fits = bodies_.size() < most_bodies;
        if (fits) bodies_.push_back(body);
      }
      known.push_back(j);
      if (!fits) continue;
      const std::size_t first = rows_.size();
      add_joint_rows(joint, joint_ends(state, state.bodies, joint), rows_);
      for (std::size_t r = first; r < rows_.size(); ++r) {
        const JointRow& row = rows_[r];
        // Neither a spring nor a motor gives anything in no time, nor does a stop that is being left.
        const auto rate = [&] {
          const JointEnds now = joint_ends(state, state.bodies, joint);
          return row.a.rate(now.a) + row.b.rate(now.b) + row.drift;
        };
        const bool holds =
            row.rule == RowRule::equal || (row.rule == RowRule::at_least && row.error < at_stop && rate() < leaving);
        if (!holds) {
          rows_.erase(rows_.begin() + static_cast<std::ptrdiff_t>(r--));
          continue;
        }
        row_a_.push_back(ends[0] == no_body ? none : place(ends[0]));
        row_b_.push_back(ends[1] == no_body ? none : place(ends[1]));
        joint_of_.push_back(j);
        arm_b_of_.push_back(joint_arm_b(joint, joint_ends(state, state.bodies, joint)));
      }
    }
  factorize(state);
}

void StruckGroup::factorize(const WorldState& state) {
  const std::size_t count = rows_.size();
  inverse_.assign(count * count, 0.0);
  for (std::size_t i = 0; i < count; ++i) {
    // What an impulse of 1 along row i does to each of its bodies, seen by row j.
    for (const bool end_b : {false, true}) {
      const std::uint32_t body = end_b ? row_b_[i] : row_a_[i];
      if (body == none) continue;
      const RowEnd& end = end_b ? rows_[i].b : rows_[i].a;
      const BodyState& m = state.bodies[bodies_[body]];
      const Vec3 velocity = m.inverse_mass.cwiseProduct(end.linear), spin = m.inverse_inertia * end.angular;
      for (std::size_t j = 0; j < count; ++j) {
        if (row_a_[j] == body) inverse_[i * count + j] += seen(rows_[j].a, velocity, spin);
        if (row_b_[j] == body) inverse_[i * count + j] += seen(rows_[j].b, velocity, spin);
      }
    }
  }
  // Joints that hold the same thing twice share it.
  for (std::size_t i = 0; i < count; ++i) inverse_[i * count + i] *= 1 + 1e-11;
  if (count > 0) invert_symmetric(inverse_, count);
}

std::vector<double> StruckGroup::rows_answer(const WorldState& state, const Vec3& arm_a, const Vec3& arm_b,
                                             const Vec3& impulse) const {
  const std::size_t count = rows_.size();
  std::vector<double> strays(count, 0.0), answer(count, 0.0);
  for (const bool of_b : {false, true}) {
    const std::uint32_t body = of_b ? b_ : a_;
    if (body == none) continue;
    const BodyState& m = state.bodies[bodies_[body]];
    const Vec3 taken = of_b ? impulse : Vec3(-impulse);
    const Vec3 velocity = m.inverse_mass.cwiseProduct(taken),
               spin = m.inverse_inertia * (of_b ? arm_b : arm_a).cross(taken);
    for (std::size_t j = 0; j < count; ++j) {
      if (row_a_[j] == body) strays[j] += seen(rows_[j].a, velocity, spin);
      if (row_b_[j] == body) strays[j] += seen(rows_[j].b, velocity, spin);
    }
  }
  for (std::size_t i = 0; i < count; ++i)
    for (std::size_t j = 0; j < count; ++j) answer[i] -= inverse_[i * count + j] * strays[j];
  return answer;
}

void StruckGroup::choose_stops(const WorldState& state, const Vec3& arm_a, const Vec3& arm_b, const Vec3& way) {
  // One look is enough but where stops press on one another; those that pull are let go, the worst first.
  for (std::size_t left = rows_.size(); left > 0; --left) {
    const std::vector<double> answer = rows_answer(state, arm_a, arm_b, way);
    std::size_t worst = rows_.size();
    double most = -1e-12;
    for (std::size_t i = 0; i < rows_.size(); ++i)
      if (rows_[i].rule == RowRule::at_least && answer[i] < most) most = answer[i], worst = i;
    if (worst == rows_.size()) return;
    const auto at = static_cast<std::ptrdiff_t>(worst);
    rows_.erase(rows_.begin() + at);
    row_a_.erase(row_a_.begin() + at);
    row_b_.erase(row_b_.begin() + at);
    joint_of_.erase(joint_of_.begin() + at);
    arm_b_of_.erase(arm_b_of_.begin() + at);
    factorize(state);
  }
}

std::vector<ImpulseResponse> StruckGroup::answers(const WorldState& state, const Vec3& arm_a, const Vec3& arm_b) const {
  std::vector<ImpulseResponse> all(bodies_.size());
  for (const bool of_b : {false, true}) {
    const std::uint32_t body = of_b ? b_ : a_;
    if (body == none) continue;
    const BodyState& m = state.bodies[bodies_[body]];
    const double sign = of_b ? 1 : -1;
    all[body].move = sign * m.inverse_mass.asDiagonal().toDenseMatrix();
    all[body].turn = sign * m.inverse_inertia * cross_matrix(of_b ? arm_b : arm_a);
  }
  for (int k = 0; k < 3; ++k) {
    const std::vector<double> answer = rows_answer(state, arm_a, arm_b, Vec3::Unit(k));
    for (std::size_t r = 0; r < rows_.size(); ++r)
      for (const bool end_b : {false, true}) {
        const std::uint32_t body = end_b ? row_b_[r] : row_a_[r];
        if (body == none) continue;
        const RowEnd& end = end_b ? rows_[r].b : rows_[r].a;
        const BodyState& m = state.bodies[bodies_[body]];
        all[body].move.col(k) += answer[r] * m.inverse_mass.cwiseProduct(end.linear);
        all[body].turn.col(k) += answer[r] * (m.inverse_inertia * end.angular);
      }
  }
  return all;
}

void StruckGroup::bear(WorldState& state, const Vec3& arm_a, const Vec3& arm_b, const Vec3& impulse) const {
  const std::vector<double> answer = rows_answer(state, arm_a, arm_b, impulse);
  for (std::size_t r = 0; r < rows_.size(); ++r) {
    const RowEnd& end = rows_[r].b;
    JointRecord& joint = state.joints[joint_of_[r]];
    joint.impulse += answer[r] * end.linear;
    joint.angular_impulse += answer[r] * (end.angular - arm_b_of_[r].cross(end.linear));
    if (!state.scratch.books) continue;
    for (const bool end_b : {false, true}) {
      const std::uint32_t body = end_b ? row_b_[r] : row_a_[r];
      if (body == none) continue;
      const RowEnd& side = end_b ? rows_[r].b : rows_[r].a;
      const Vec3* at = nullptr;
      book(state, bodies_[body], rows_[r].rule == RowRule::at_least ? Cause::limit : Cause::joint,
           by_joint(state, joint_of_[r]), answer[r] * side.linear, answer[r] * side.angular, at);
    }
  }
}

}  // namespace bronvel
