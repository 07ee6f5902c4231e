// A breakable body's insides. Only the dynamics layer includes this.
#pragma once

#include "dynamics/settings/breaking.h"

namespace bronvel {

/// What loads come to in all, set's frame; size below 0: never summed.
struct LoadSum {
  double size = -1;            ///< of all forces' sizes, N
  Vec3 force = Vec3::Zero();   ///< N
  Vec3 moment = Vec3::Zero();  ///< about the frame's origin, N·m
};

/// A breakable body's insides. The set's frame is the body's frame moved by `offset`.
struct BreakRecord {
  BodyHandle body;
  BreakSettings settings;
  BondedPart part;
  Vec3 offset = Vec3::Zero();     ///< of a point: in the set's frame less in the body's, m
  double density = 1;             ///< kg/m³
  double safe_load = 0;           ///< sum of forces that surely breaks nothing, N
  LoadSum last_load;              ///< when its bonds were last worked out
  std::vector<float> use;         ///< by bond of the part, then
  std::vector<PieceLoad> struck;  ///< impulses (N·s) that are still to be given to it, set's frame
  std::vector<PieceLoad> borne;   ///< forces of scripts in this tick and impulses given already, as forces, set's frame
};

}  // namespace bronvel
