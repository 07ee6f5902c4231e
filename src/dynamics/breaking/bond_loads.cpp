// Gathering loads and judging bonds.
#include "dynamics/breaking/bond_loads.h"

#include "dynamics/bodies/integrate.h"
#include "dynamics/narrow_phase/manifolds.h"
#include "geometry/base/linear.h"

namespace bronvel {
namespace {

constexpr double hit_speed = 0.05;      // m/s: slower touches load as what rests does
constexpr double breaks_with = 0.5;     // of the worst use: what else breaks in the same tick
constexpr double surely_breaks = 3;     // of its strength: does whatever else breaks before it
constexpr double worth_solving = 0.03;  // share by which the loads must have changed

// Rounds of the solver that a part of this many pieces may take.
int rounds_for(std::size_t pieces) {
  return std::clamp(static_cast<int>(60000 / std::max<std::size_t>(pieces, 1)), 30, 400);
}

Pose pose_at_start(const WorldState& state, std::uint32_t body) {
  const bool known = body < state.at_start.size();
  return shape_pose(state.records[body], known ? state.at_start[body] : state.bodies[body]);
}

void add(BodyLoads& into, const PieceLoad& load) {
  into.sum.size += load.force.norm();
  into.sum.force += load.force;
  into.sum.moment += load.point.cross(load.force) + load.torque;
  into.loads.push_back(load);
}

// Inertia and weight: a force for each piece by its mass.
template <class Acceleration>
void add_for_pieces(const BreakRecord& record, BodyLoads& into, const Acceleration& acceleration) {
  const PieceSet& set = *record.settings.set;
  for (const std::uint32_t piece : record.part.pieces) {
    const Vec3& centre = set.pieces[piece].data->centre;
    add(into, {piece, record.density * set.weight_of(piece) * acceleration(centre), centre, Vec3::Zero()});
  }
}

void add_contact(const WorldState& state, const BreakRecord& record, const Pose& pose, const Bearing& bearing,
                 BodyLoads& into) {
  const std::uint32_t body = record.body.index;
  const Pair& pair = state.pairs[bearing.pair];
  const double time = bearing.hit ? hit_time : state.tick_length(), side = bearing.is_a ? -1 : 1;
  const Vec3 centre = body < state.at_start.size() ? state.at_start[body].centre : state.bodies[body].centre;
  const auto take = [&](const Vec3& impulse, const Vec3& arm) {
    if (!impulse.isZero()) add(into, local_load(record, pose, side / time * impulse, centre + arm));
  };
  const std::size_t first = into.loads.size();
  for (int k = 0; k < pair.count; ++k) {
    const ManifoldPoint& row = pair.points[static_cast<std::size_t>(k)];
    take(row.total * pair.normal, bearing.is_a ? row.arm_a : pair.arm_b(row));
  }
  if (pair.count >= 3 && into.loads.size() > first)
    into.patches.push_back({first, into.loads.size() - first, pose.orientation.conjugate() * (-side * pair.normal)});
  const FrictionPlace place(pair);
  take(pair.slid(), bearing.is_a ? place.arm_a : place.arm_b);
  into.hit = into.hit || bearing.hit;
}

void add_joints(const WorldState& state, const BreakRecord& record, const Pose& pose, BodyLoads& into) {
  if (!state.records[record.body.index].jointed) return;
  for (const JointRecord& joint : state.joints) {
    if (!joint.alive) continue;
    for (const bool is_b : {false, true}) {
      if ((is_b ? joint.settings.b : joint.settings.a) != record.body) continue;
      const double side = is_b ? 1 : -1;
      const Vec3 at = is_b ? joint.settings.frame_b.position : joint.settings.frame_a.position;
      PieceLoad load = local_load(record, pose, side * joint.reading.force, pose.to_scene(at));
      load.torque = pose.orientation.conjugate() * (side * joint.reading.torque);
      add(into, load);
    }
  }
}

}  // namespace

void find_bearings(const WorldState& state, Bearings& bearings) {
  bearings.as_listed.clear();
  // Counted two places on: filling then moves each start to where the next one's belongs.
  bearings.first.assign(state.breakables.size() + 2, 0);
  const auto add = [&](const BodyRecord& body, const Bearing& bearing) {
    if (body.breaks < 0 || state.breakables[static_cast<std::size_t>(body.breaks)].part.bonds.empty()) return;
    bearings.as_listed.push_back(bearing);
    bearings.as_listed.back().record = static_cast<std::uint32_t>(body.breaks);
    ++bearings.first[static_cast<std::size_t>(body.breaks) + 2];
  };
  const bool any = std::any_of(state.breakables.begin(), state.breakables.end(),
                               [](const BreakRecord& record) { return !record.part.bonds.empty(); });
  for (std::size_t k = 0; any && k < state.listed.size(); ++k) {
    const std::uint32_t p = state.listed[k];
    const Pair& pair = state.pairs[p];
    const BodyRecord &a = state.records[pair.a], &b = state.records[pair.b];
    if (!pair.alive || !pair.touching || !a.solid || !b.solid || (a.asleep && b.asleep)) continue;
    const bool hit = pair.closing_speed > hit_speed;
    add(a, {.pair = p, .is_a = true, .hit = hit});
    add(b, {.pair = p, .is_a = false, .hit = hit});
  }
  for (std::size_t r = 1; r < bearings.first.size(); ++r) bearings.first[r] += bearings.first[r - 1];
  bearings.all.resize(bearings.as_listed.size());
  for (const Bearing& bearing : bearings.as_listed) bearings.all[bearings.first[bearing.record + 1]++] = bearing;
  bearings.first.pop_back();
}

void gather_loads(WorldState& state, std::uint32_t r, std::span<const Bearing> bearings, BodyLoads& into) {
  BreakRecord& record = state.breakables[r];
  const BodyRecord& body = state.records[record.body.index];
  const Pose pose = pose_at_start(state, record.body.index);
  into.loads.clear();
  into.patches.clear();
  into.sum = {};
  into.sum.size = 0;
  into.hit = !record.borne.empty();
  for (const Bearing& bearing : bearings) add_contact(state, record, pose, bearing, into);
  add_joints(state, record, pose, into);
  for (const PieceLoad& load : record.borne) add(into, load);
  record.borne.clear();
  if (anchored(*record.settings.set, record.part)) {
    const Vec3 gravity =
        pose.orientation.conjugate() * (state.gravity_on(record.body.index) * body.settings.gravity_factor);
    add_for_pieces(record, into, [&](const Vec3&) { return gravity; });
  } else if (body.dynamic()) {
    // Turning pulls it apart.
    const Vec3 spin = pose.orientation.conjugate() * state.bodies[record.body.index].angular_velocity;
    const Vec3 centre = body.mass.centre + record.offset;
    if (spin.squaredNorm() * body.radius > 1)
      add_for_pieces(record, into, [&](const Vec3& at) { return Vec3(-spin.cross(spin.cross(at - centre))); });
  }
}

bool differs(const LoadSum& now, const LoadSum& before, double radius) {
  if (before.size < 0) return true;
  const double much = worth_solving * before.size;
  return std::abs(now.size - before.size) > much || (now.force - before.force).norm() > much ||
         (now.moment - before.moment).norm() > much * radius;
}

void spread(const BreakRecord& record, const Patch& patch, std::vector<PieceLoad>& loads) {
  const PieceSet& set = *record.settings.set;
  Vec3 middle = Vec3::Zero(), force = Vec3::Zero();
  for (std::size_t i = patch.first; i < patch.first + patch.count; ++i) {
    middle += loads[i].point / static_cast<double>(patch.count);
    force += loads[i].force;
  }
  double reach = 0;
  for (std::size_t i = patch.first; i < patch.first + patch.count; ++i)
    reach = std::max(reach, (loads[i].point - middle).norm());
  struct Footing {
    std::uint32_t piece;
    double area, u, v;
    Vec3 at;
  };
  std::vector<Footing> footings;
  const Vec3 u = any_perpendicular(patch.normal), v = patch.normal.cross(u);
  const double height = patch.normal.dot(middle);
  for (const std::uint32_t piece : record.part.pieces) {
    const HullData& hull = *set.pieces[piece].data;
    for (std::size_t f = 0; f < hull.normals.size(); ++f) {
      if (hull.normals[f].dot(patch.normal) < 0.9999) continue;
      if (std::abs(hull.offsets[f] - height) > 0.02 * reach + 1e-3) continue;
      const std::vector<std::uint32_t>& face = hull.faces[f];
      const Vec3& n = hull.normals[f];
      const Vec3& start = hull.corners[face[0]];
      double area = 0;
      Vec3 at = Vec3::Zero();
      for (std::size_t i = 2; i < face.size(); ++i) {
        const Vec3 &a = hull.corners[face[i - 1]], &b = hull.corners[face[i]];
        const double part = 0.5 * n.dot((a - start).cross(b - start));
        area += part;
        at += part * (start + a + b) / 3;
      }
      if (!(area > 0)) continue;
      at /= area;
      if ((at - middle).norm() > reach) continue;
      footings.push_back({piece, area, u.dot(at - middle), v.dot(at - middle), at});
    }
  }
  if (footings.size() < 2) return;
  // a + b u + c v over the footings' areas.
  Mat3 sums = Mat3::Zero();
  Vec3 wanted = Vec3::Zero();
  for (const Footing& f : footings) {
    const Vec3 row(1, f.u, f.v);
    sums += f.area * row * row.transpose();
  }
  for (std::size_t i = patch.first; i < patch.first + patch.count; ++i) {
    const double pressed = -patch.normal.dot(loads[i].force);
    wanted += pressed * Vec3(1, u.dot(loads[i].point - middle), v.dot(loads[i].point - middle));
  }
  sums.diagonal() += Vec3::Constant(1e-12 * sums.trace());
  const Vec3 pressure = solve_symmetric(sums, wanted);
  double borne = 0;
  std::vector<double> shares;
  for (const Footing& f : footings) {
    shares.push_back(std::max(0.0, f.area * pressure.dot(Vec3(1, f.u, f.v))));
    borne += shares.back();
  }
  if (!(borne > 0)) return;
  for (std::size_t i = patch.first; i < patch.first + patch.count; ++i) loads[i].force.setZero();
  for (std::size_t k = 0; k < footings.size(); ++k)
    loads.push_back({footings[k].piece, shares[k] / borne * force, footings[k].at, Vec3::Zero()});
}

Verdict judge(BreakRecord& record, std::vector<PieceLoad>& loads, BondSolver& solver) {
  const PieceSet& set = *record.settings.set;
  for (PieceLoad& load : loads)
    if (load.piece == PieceLoad::by_place) load.piece = piece_at(record, load.point);
  Verdict verdict;
  solver.prepare(set, record.part, record.density);
  const std::vector<BondLoad>& found = solver.solve(loads, rounds_for(record.part.pieces.size()));
  record.use.resize(found.size());
  for (std::size_t i = 0; i < found.size(); ++i) {
    const double use = bond_use(set.faces[record.part.bonds[i]], found[i], record.settings.strength, hit_time);
    record.use[i] = static_cast<float>(use);
    if (use > verdict.worst) verdict = {use, record.part.bonds[i]};
  }
  return verdict;
}

std::size_t cost_of_judging(const BreakRecord& record) {
  const std::size_t pieces = record.part.pieces.size();
  return pieces * static_cast<std::size_t>(rounds_for(pieces));
}

std::vector<std::uint32_t> overloaded(const BreakRecord& record, double worst) {
  std::vector<std::uint32_t> broken;
  for (std::size_t i = 0; i < record.use.size(); ++i)
    if (record.use[i] >= std::max(1.0, std::min(breaks_with * worst, surely_breaks)))
      broken.push_back(record.part.bonds[i]);
  return broken;
}

}  // namespace bronvel
