// Breaking bodies: what is too much for bonds, and what becomes of the parts.
#include <utility>

#include "dynamics/bodies/integrate.h"
#include "dynamics/breaking/bond_loads.h"
#include "dynamics/islands/sleep.h"
#include "dynamics/narrow_phase/manifolds.h"
#include "dynamics/world/move_joints.h"
#include "dynamics/world/world.h"
#include "geometry/base/disjoint_sets.h"
#include "geometry/base/error.h"

namespace bronvel {
namespace {

// What the hits of this tick cost each group of bodies that touch, J: as much can be taken back, and no more.
class LostEnergy {
 public:
  explicit LostEnergy(const WorldState& state) : lost_(state.records.size(), 0) {
    make_sets(root_, state.records.size());
    for (const std::uint32_t p : state.listed) {
      const Pair& pair = state.pairs[p];
      if (!pair.alive || !pair.touching) continue;
      if (!state.records[pair.a].dynamic() || !state.records[pair.b].dynamic()) continue;
      join_sets(root_, pair.a, pair.b);
    }
    for (std::uint32_t i = 0; i < std::min(state.records.size(), state.at_start.size()); ++i) {
      const BodyRecord& record = state.records[i];
      if (!record.alive || !record.dynamic() || record.asleep) continue;
      const Vec3 fallen = state.bodies[i].centre - state.at_start[i].centre;
      const double weight_work = record.mass.mass * record.gravity_factor * state.gravity_on(i).dot(fallen);
      lost_[find_set(root_, i)] +=
          kinetic_energy_of(record, state.at_start[i]) + weight_work - kinetic_energy_of(record, state.bodies[i]);
    }
  }
  double& of(std::uint32_t body) { return lost_[find_set(root_, body)]; }

 private:
  std::vector<std::uint32_t> root_;
  std::vector<double> lost_;
};

// Takes back a share of what the pair did to its bodies in this tick.
void take_back(WorldState& state, const Pair& pair, double share) {
  for (int i = 0; i < pair.count; ++i) {
    const ManifoldPoint& row = pair.points[static_cast<std::size_t>(i)];
    const Vec3 impulse = share * row.total * pair.normal;
    state.bodies[pair.b].push(-impulse, pair.arm_b(row));
    state.bodies[pair.a].push(impulse, row.arm_a);
  }
  const FrictionPlace place(pair);
  const Vec3 slid = share * pair.slid();
  state.bodies[pair.b].push(-slid, place.arm_b);
  state.bodies[pair.a].push(slid, place.arm_a);
}

}  // namespace

namespace {

void check(const BondStrength& strength) {
  const bool good = strength.impulse > 0 ? finite(strength.impulse)
                                         : strength.tension > 0 && strength.shear > 0 && finite(strength.tension) &&
                                               finite(strength.shear) && strength.impulse == 0;
  if (!good) throw Error("breaking", "wants strengths above 0 Pa, or an impulse above 0 N·s");
}

}  // namespace

void World::make_breakable(BodyHandle body, const BreakSettings& settings) {
  WorldState& s = *state_;
  const std::uint32_t i = s.index_of(body);
  if (!settings.set || settings.set->pieces.empty()) throw Error("breaking", "wants pieces");
  check(settings.strength);
  forget_bonds(s, i);
  BreakRecord record;
  record.body = body;
  record.settings = settings;
  for (std::uint32_t p = 0; p < settings.set->pieces.size(); ++p) record.part.pieces.push_back(p);
  for (std::uint32_t b = 0; b < settings.set->faces.size(); ++b) record.part.bonds.push_back(b);
  if (anchored(*settings.set, record.part) && s.records[i].dynamic()) {
    BodySettings held = s.records[i].settings;
    held.kind = MotionKind::fixed;
    change(body, held);
  }
  record.density = s.records[i].settings.mass / settings.set->weight;
  record.use.assign(record.part.bonds.size(), 0);
  record.safe_load = safe_load(record, s.records[i].radius);
  s.records[i].breaks = static_cast<std::int32_t>(s.breakables.size());
  s.breakables.push_back(std::move(record));
  s.disturbed = true;
}

void World::make_unbreakable(BodyHandle body) {
  forget_bonds(*state_, state_->index_of(body));
}

bool World::breakable(BodyHandle body) const {
  return state_->records[state_->index_of(body)].breaks >= 0;
}

bool World::whole(BodyHandle body) const {
  const std::int32_t r = state_->records[state_->index_of(body)].breaks;
  if (r < 0) return false;
  const BreakRecord& record = state_->breakables[static_cast<std::size_t>(r)];
  return record.part.pieces.size() == record.settings.set->pieces.size();
}

void World::set_strength(BodyHandle body, const BondStrength& strength, double merge_below) {
  WorldState& s = *state_;
  const std::uint32_t i = s.index_of(body);
  check(strength);
  if (s.records[i].breaks < 0) return;
  BreakRecord& record = s.breakables[static_cast<std::size_t>(s.records[i].breaks)];
  record.settings.strength = strength;
  record.settings.merge_below = merge_below;
  record.safe_load = safe_load(record, s.records[i].radius);
  record.last_load = {};
  wake_island(s, i);
  s.disturbed = true;
}

std::optional<BondsNow> World::bonds_now(BodyHandle body) const {
  const std::int32_t r = state_->records[state_->index_of(body)].breaks;
  if (r < 0) return std::nullopt;
  const BreakRecord& record = state_->breakables[static_cast<std::size_t>(r)];
  return BondsNow{record.settings.set, record.offset, record.part.bonds, record.use};
}

std::vector<BondReading> World::bonds(BodyHandle body) const {
  std::vector<BondReading> all;
  const auto now = bonds_now(body);
  if (!now) return all;
  const Pose pose = motion(body).pose;
  for (std::size_t k = 0; k < now->bonds.size(); ++k) {
    const SharedFace& face = now->set->faces[now->bonds[k]];
    all.push_back({pose.to_scene(face.point - now->offset), pose.orientation * face.normal, face.area,
                   k < now->use.size() ? static_cast<double>(now->use[k]) : 0});
  }
  return all;
}

std::span<const CrackEvent> World::cracks() const {
  return state_->cracks;
}

void World::strike_pieces(BodyHandle body, const std::function<Vec3(const Vec3&, double)>& share) {
  WorldState& s = *state_;
  const std::uint32_t i = s.index_of(body);
  if (s.records[i].breaks < 0) return;
  BreakRecord& record = s.breakables[static_cast<std::size_t>(s.records[i].breaks)];
  const PieceSet& set = *record.settings.set;
  const Pose pose = motion(body).pose;
  const double volume = volume_of_part(set, record.part);
  for (const std::uint32_t piece : record.part.pieces) {
    const HullData& hull = *set.pieces[piece].data;
    const Vec3 impulse = share(pose.to_scene(hull.centre - record.offset), hull.volume / volume);
    if (!finite(impulse)) throw Error("impulse", "wants a vector in newton seconds");
    if (impulse.isZero()) continue;
    record.struck.push_back({piece, pose.orientation.conjugate() * impulse, hull.centre, Vec3::Zero()});
  }
  wake_island(s, i);
}

// Takes back as much of the share of these hits as the energy that they cost allows.
void World::take_hits_back(std::uint32_t body, const std::vector<std::uint32_t>& pairs, double share, double& allowed) {
  WorldState& s = *state_;
  std::vector<std::uint32_t> bodies{body};
  for (const std::uint32_t p : pairs) bodies.push_back(s.pairs[p].a == body ? s.pairs[p].b : s.pairs[p].a);
  std::sort(bodies.begin(), bodies.end());
  bodies.erase(std::unique(bodies.begin(), bodies.end()), bodies.end());
  std::vector<BodyState> before;
  before.reserve(bodies.size());
  const auto energy = [&] {
    double sum = 0;
    for (const std::uint32_t i : bodies) sum += kinetic_energy_of(s.records[i], s.bodies[i]);
    return sum;
  };
  for (const std::uint32_t i : bodies) before.push_back(s.bodies[i]);
  const double start = energy();
  const auto gain = [&](double part) {
    for (std::size_t k = 0; k < bodies.size(); ++k) s.bodies[bodies[k]] = before[k];
    for (const std::uint32_t p : pairs) take_back(s, s.pairs[p], part);
    return energy() - start;
  };
  double low = 0, high = share;
  if (gain(share) > allowed) {
    for (int i = 0; i < 30; ++i) {
      const double middle = 0.5 * (low + high);
      (gain(middle) > allowed ? high : low) = middle;
    }
    allowed -= gain(low);
  } else {
    allowed -= energy() - start;
  }
}

// What of the record's body hangs together without these bonds goes its own way. Throws Error, with nothing changed,
// when a part would be no body.
void World::take_apart(std::uint32_t r, std::vector<std::uint32_t> broken, const Vec3& point, double use) {
  WorldState& s = *state_;
  const BodyHandle body = s.breakables[r].body;
  const std::shared_ptr<const PieceSet> set = s.breakables[r].settings.set;
  BondedPart left = s.breakables[r].part;
  const auto without = [&] {
    BondedPart rest = left;
    std::erase_if(rest.bonds, [&](std::uint32_t b) { return std::binary_search(broken.begin(), broken.end(), b); });
    return rest;
  };
  std::sort(broken.begin(), broken.end());
  std::vector<BondedPart> parts = connected_parts(*set, without());
  if (s.breakables[r].settings.merge_below > 0 && parts.size() > 1) {
    // Crumbs keep their widest bond.
    for (const BondedPart& part : parts) {
      if (volume_of_part(*set, part) >= s.breakables[r].settings.merge_below || anchored(*set, part)) continue;
      std::optional<std::uint32_t> widest;
      for (const std::uint32_t b : broken) {
        const SharedFace& face = set->faces[b];
        const bool at_a = std::binary_search(part.pieces.begin(), part.pieces.end(), face.a);
        const bool at_b = std::binary_search(part.pieces.begin(), part.pieces.end(), face.b);
        if (at_a != at_b && (!widest || face.area > set->faces[*widest].area)) widest = b;
      }
      if (widest) std::erase(broken, *widest);
    }
    parts = connected_parts(*set, without());
  }
  const auto told = [&] {
    CrackEvent& crack = s.cracks.emplace_back();
    crack.body = body;
    crack.parts = {body};
    crack.bonds = broken.size();
    crack.point = motion(body).pose.to_scene(point - s.breakables[r].offset);
    crack.use = use;
  };
  if (parts.size() == 1) {
    told();
    s.breakables[r].part = parts[0];
    s.breakables[r].use.assign(parts[0].bonds.size(), 0);
    s.breakables[r].last_load = {};
    return;
  }
  // What the scene holds goes on as the body, else the largest.
  std::size_t keeper = 0;
  double most = -1;
  for (std::size_t k = 0; k < parts.size(); ++k) {
    const double weight = volume_of_part(*set, parts[k]) + (anchored(*set, parts[k]) ? 1e300 : 0);
    if (weight > most) {
      most = weight;
      keeper = k;
    }
  }
  const BreakRecord old = s.breakables[r];
  const BodySettings before = body_settings(body);
  std::vector<BodyHandle> owners(parts.size(), body);
  std::vector<Vec3> offsets;  // of their frames in the set's
  for (std::size_t k = 0; k < parts.size(); ++k)
    offsets.push_back(k == keeper && before.kind == MotionKind::kinematic ? old.offset
                                                                          : centre_of_part(*set, parts[k]));
  const auto settings_for = [&](std::size_t k) {
    BodySettings settings = before;
    settings.shape = shape_of_part(*set, parts[k], offsets[k]);
    settings.mass = old.density * weight_of_part(*set, parts[k]);
    settings.centre_of_mass.reset();
    settings.inertia.reset();
    if (anchored(*set, parts[k]))
      settings.kind = MotionKind::fixed;
    else if (k != keeper || before.kind == MotionKind::fixed)
      settings.kind = MotionKind::dynamic;
    return settings;
  };
  std::vector<BodySettings> settings;
  for (std::size_t k = 0; k < parts.size(); ++k) {
    settings.push_back(settings_for(k));
    if (const auto fault = body_fault(settings.back(), motion(body)))
      throw Error("breaking", "a piece would be no body: " + *fault);
  }
  told();
  const std::size_t event = s.cracks.size() - 1;
  const auto bonded = [&](std::size_t k) {
    forget_bonds(s, owners[k].index);
    if (parts[k].bonds.empty()) return;
    BreakRecord record;
    record.body = owners[k];
    record.settings = old.settings;
    record.part = parts[k];
    record.offset = offsets[k];
    record.density = old.density;
    record.use.assign(parts[k].bonds.size(), 0);
    record.safe_load = safe_load(record, s.records[owners[k].index].radius);
    s.records[owners[k].index].breaks = static_cast<std::int32_t>(s.breakables.size());
    s.breakables.push_back(std::move(record));
  };
  forget_bonds(s, body.index);
  std::vector<std::size_t> part_with(set->pieces.size(), keeper);
  for (std::size_t k = 0; k < parts.size(); ++k)
    for (const std::uint32_t piece : parts[k].pieces) part_with[piece] = k;
  const auto give_struck = [&] {
    // Impulses that are still to be given go to whoever has the piece now.
    for (const PieceLoad& load : old.struck) {
      const std::size_t k = part_with[load.piece];
      const Pose pose = motion(owners[k]).pose;
      const Vec3 at = pose.to_scene(load.point - offsets[k]);
      impulse(owners[k], pose.orientation * load.force);
      angular_impulse(owners[k], (at - centre_of_mass(owners[k])).cross(pose.orientation * load.force));
    }
  };
  make_room(s.records, parts.size());
  make_room(s.bodies, parts.size());
  for (std::size_t k = 0; k < parts.size(); ++k) {
    if (k == keeper) continue;
    owners[k] = part_off(body, settings[k], offsets[k] - old.offset);
    s.cracks[event].parts.push_back(owners[k]);
  }
  keep_part(body, settings[keeper], offsets[keeper] - old.offset);
  for (std::size_t k = 0; k < parts.size(); ++k) bonded(k);
  give_struck();
  // Joints stay with the piece that they hold.
  move_joints(*this, s, body, [&](const Vec3& place) {
    const std::size_t k = part_with[piece_at(old, place + old.offset)];
    return NewEnd{owners[k], offsets[k] - old.offset};
  });
  s.disturbed = true;
}

// As take_apart, in a tick: what can't go its own way is told, and holds from now on.
void World::break_apart(std::uint32_t r, std::vector<std::uint32_t> broken, const Vec3& point, double use) {
  const BodyHandle body = state_->breakables[r].body;
  try {
    take_apart(r, std::move(broken), point, use);
  } catch (const Error& e) {
    state_->faults.push_back({body, std::string("it broke and could not: ") + e.what() + "; it breaks no more"});
    forget_bonds(*state_, body.index);
  }
}

void World::break_struck() {
  WorldState& s = *state_;
  if (s.breakables.empty()) return;
  BondSolver solver;
  for (std::uint32_t r = 0; r < s.breakables.size(); ++r) {
    if (s.breakables[r].body == BodyHandle{} || s.breakables[r].struck.empty()) continue;
    BreakRecord& record = s.breakables[r];
    std::vector<PieceLoad> loads = record.struck;
    double sum = 0;
    for (PieceLoad& load : loads) {
      load.force /= hit_time;
      sum += load.force.norm();
    }
    const Verdict verdict = sum > record.safe_load ? judge(record, loads, solver) : Verdict{};
    if (verdict.worst >= 1) {
      const std::size_t known = s.cracks.size();
      const BodyHandle body = record.body;
      const std::vector<PieceLoad> struck = record.struck;
      break_apart(r, overloaded(record, verdict.worst), record.settings.set->faces[verdict.bond].point, verdict.worst);
      if (s.cracks.size() > known && s.cracks[known].parts.size() > 1) continue;  // given to the parts
      if (s.records[body.index].breaks < 0) continue;
    }
    BreakRecord& whole = s.breakables[r];
    const std::vector<PieceLoad> struck = std::exchange(whole.struck, {});
    const BodyHandle body = whole.body;
    const Pose pose = motion(body).pose;
    const Vec3 offset = whole.offset;
    for (const PieceLoad& load : struck) {
      const Vec3 at = pose.to_scene(load.point - offset), impulse_now = pose.orientation * load.force;
      impulse(body, impulse_now);
      angular_impulse(body, (at - centre_of_mass(body)).cross(impulse_now));
    }
  }
}

void World::break_loaded() {
  WorldState& s = *state_;
  if (s.breakables.empty()) return;
  BreakScratch& scratch = *s.scratch.breaking;
  const Bearings& bearings = scratch.bearings;
  BodyLoads& all = scratch.loads;
  find_bearings(s, scratch.bearings);
  std::optional<LostEnergy> lost;
  std::size_t work = 120000;  // pieces × rounds in a tick; hits are always worked out
  for (std::uint32_t r = 0; r < bearings.records(); ++r) {
    // Breaking one may make the list shorter or longer.
    if (r >= s.breakables.size() || s.breakables[r].body == BodyHandle{}) continue;
    BreakRecord& record = s.breakables[r];
    const std::uint32_t i = record.body.index;
    if (record.part.bonds.empty()) {
      record.borne.clear();
      continue;
    }
    gather_loads(s, r, bearings.on(r), all);
    if (!differs(all.sum, record.last_load, s.records[i].radius)) continue;
    // What surely holds is only worked out now and then, for those who look.
    const bool safe = all.sum.size < record.safe_load;
    if (safe && ((s.tick + r) % 16 != 0 || record.part.pieces.size() > 400)) continue;
    const std::size_t cost = cost_of_judging(record);
    if (!all.hit && record.last_load.size >= 0 && cost > work) continue;
    work -= std::min(work, cost);
    record.last_load = all.sum;
    for (const Patch& patch : all.patches) spread(record, patch, all.loads);
    const Verdict verdict = judge(record, all.loads, scratch.solver);
    if (verdict.worst < 1) continue;
    // A hit goes only as far as the bonds could carry it: what is left of it is taken back, for the pieces to meet.
    std::vector<std::uint32_t> hits;
    for (const Bearing& bearing : bearings.on(r))
      if (bearing.hit) hits.push_back(bearing.pair);
    if (!hits.empty()) {
      if (!lost) lost.emplace(s);
      const Pair& first = s.pairs[hits.front()];
      const std::uint32_t of = s.records[i].dynamic() ? i : first.a == i ? first.b : first.a;
      take_hits_back(i, hits, 1 - 1 / verdict.worst, lost->of(of));
    }
    const Vec3 point = record.settings.set->faces[verdict.bond].point;
    break_apart(r, overloaded(record, verdict.worst), point, verdict.worst);
  }
}

}  // namespace bronvel
