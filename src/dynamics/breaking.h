// Bodies that break: pieces held by bonds that move as one until something is too much for them.
#pragma once

#include <memory>
#include <vector>

#include "dynamics/body.h"
#include "dynamics/bonds.h"

namespace bronvel {

/// What makes a body breakable. Its pieces are in its own frame and fill its shape.
struct BreakSettings {
  std::shared_ptr<const PieceSet> set;
  BondStrength strength{};
  double merge_below = 0;  ///< m³: what breaks off smaller than this stays with its best neighbour
};

/// A body that broke in the last tick. The largest part, or the one that the scene holds, goes on as the body itself;
/// the others are new.
struct CrackEvent {
  BodyHandle body;
  std::vector<BodyHandle> parts;  ///< all of them, the body itself first
  std::size_t bonds = 0;          ///< that broke
  Vec3 point = Vec3::Zero();      ///< of the bond that was strained most, scene frame, m
  double use = 0;                 ///< of its strength
};

/// A bond that holds, as it is now.
struct BondReading {
  Vec3 point = Vec3::Zero();  ///< scene frame, m
  Vec3 normal = Vec3::Unit(0);
  double area = 0;  ///< m²
  double use = 0;   ///< of its strength when it was last worked out: 1 breaks
};

}  // namespace bronvel
