// Parts of piece sets.
#include "dynamics/breaking/break_state.h"

#include "dynamics/bodies/integrate.h"
#include "geometry/shapes/compound.h"

namespace bronvel {

double safe_load(const BreakRecord& record, double radius) {
  const BondStrength& strength = record.settings.strength;
  double least = 1e300;
  for (const std::uint32_t b : record.part.bonds) {
    const SharedFace& face = record.settings.set->faces[b];
    if (strength.impulse > 0) {
      least = std::min(least, strength.impulse / hit_time);
      continue;
    }
    const double bending =
        2 * radius * (face.reach_u / std::max(face.moment_u, 1e-300) + face.reach_v / std::max(face.moment_v, 1e-300));
    const double twisting = 2 * radius / std::max(face.twist_modulus, 1e-300);
    least =
        std::min({least, strength.tension / (1 / face.area + bending), strength.shear / (1 / face.area + twisting)});
  }
  return 0.5 * least;
}

double volume_of_part(const PieceSet& set, const BondedPart& part) {
  double volume = 0;
  for (const std::uint32_t piece : part.pieces) volume += set.pieces[piece].data->volume;
  return volume;
}

double weight_of_part(const PieceSet& set, const BondedPart& part) {
  double weight = 0;
  for (const std::uint32_t piece : part.pieces) weight += set.weight_of(piece);
  return weight;
}

Vec3 centre_of_part(const PieceSet& set, const BondedPart& part) {
  Vec3 moment = Vec3::Zero();
  for (const std::uint32_t piece : part.pieces) moment += set.weight_of(piece) * set.pieces[piece].data->centre;
  return moment / weight_of_part(set, part);
}

bool anchored(const PieceSet& set, const BondedPart& part) {
  return std::any_of(part.pieces.begin(), part.pieces.end(), [&](std::uint32_t p) { return set.anchored[p] != 0; });
}

Shape shape_of_part(const PieceSet& set, const BondedPart& part, const Vec3& origin) {
  if (part.pieces.size() == 1) return shifted(set.pieces[part.pieces[0]], -origin);
  std::vector<Part> parts;
  parts.reserve(part.pieces.size());
  for (const std::uint32_t piece : part.pieces)
    parts.push_back({set.pieces[piece], {-origin, Quat::Identity()}, set.densities[piece]});
  return make_compound(std::move(parts));
}

std::uint32_t piece_at(const BreakRecord& record, const Vec3& point) {
  double least = 1e300;
  std::uint32_t found = record.part.pieces[0];
  for (const std::uint32_t piece : record.part.pieces) {
    const HullData& hull = *record.settings.set->pieces[piece].data;
    double out = -1e300;
    for (std::size_t f = 0; f < hull.normals.size() && out < least; ++f)
      out = std::max(out, hull.normals[f].dot(point) - hull.offsets[f]);
    if (out < least) {
      least = out;
      found = piece;
    }
  }
  return found;
}

PieceLoad local_load(const BreakRecord& record, const Pose& pose, const Vec3& force, const Vec3& point) {
  PieceLoad load;
  load.force = pose.orientation.conjugate() * force;
  load.point = pose.to_local(point) + record.offset;
  load.piece = PieceLoad::by_place;
  return load;
}

void bear(WorldState& state, std::uint32_t body, const Vec3& force, const Vec3& point) {
  const std::int32_t r = state.records[body].breaks;
  if (r < 0) return;
  BreakRecord& record = state.breakables[static_cast<std::size_t>(r)];
  state.disturbed = true;  // what is held and quiet too
  record.borne.push_back(local_load(record, shape_pose(state.records[body], state.bodies[body]), force, point));
}

void weigh_pieces(WorldState& state, std::uint32_t body, double times) {
  const std::int32_t r = state.records[body].breaks;
  if (r >= 0) state.breakables[static_cast<std::size_t>(r)].density *= times;
}

void forget_bonds(WorldState& state, std::uint32_t body) {
  const std::int32_t r = state.records[body].breaks;
  if (r < 0) return;
  state.breakables[static_cast<std::size_t>(r)] = BreakRecord{};
  state.records[body].breaks = -1;
  while (!state.breakables.empty() && state.breakables.back().body == BodyHandle{}) state.breakables.pop_back();
}

}  // namespace bronvel
