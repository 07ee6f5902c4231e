// Breakable bodies' insides: parts of piece sets, and what the rest of the world tells the bonds. Only the dynamics
// layer includes this.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// How long a hit is taken to last, s: its impulse loads bonds as a force over this time, at any tick rate.
inline constexpr double hit_time = 0.01;

/// A force (N) at a point (scene frame) loads the body's bonds in this tick, if it has any.
void bear(WorldState& state, std::uint32_t body, const Vec3& force, const Vec3& point);

/// The body's mass was changed to this many times what it was: its pieces' too.
void weigh_pieces(WorldState& state, std::uint32_t body, double times);

/// The body no longer breaks.
void forget_bonds(WorldState& state, std::uint32_t body);

double volume_of_part(const PieceSet& set, const BondedPart& part);  ///< m³
double weight_of_part(const PieceSet& set, const BondedPart& part);  ///< volume × density, m³
Vec3 centre_of_part(const PieceSet& set, const BondedPart& part);    ///< set's frame, m
bool anchored(const PieceSet& set, const BondedPart& part);          ///< the scene holds some piece of it

/// The pieces as one shape about `origin` (set's frame).
Shape shape_of_part(const PieceSet& set, const BondedPart& part, const Vec3& origin);

/// The piece of the record's part that a point (set's frame) lies in, or comes nearest to: by how far it is outside of
/// its faces.
std::uint32_t piece_at(const BreakRecord& record, const Vec3& point);

/// A load given in the scene, in the record's set frame, for the body's pose; on the piece that is there.
PieceLoad local_load(const BreakRecord& record, const Pose& pose, const Vec3& force, const Vec3& point);

/// A sum of forces (N) below which no bond can reach its strength: as if all of it went through the weakest with the
/// longest lever, in a body of this radius.
double safe_load(const BreakRecord& record, double radius);

}  // namespace bronvel
