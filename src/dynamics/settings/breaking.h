// Bodies that break: pieces held by bonds that move as one until something is too much for them.
#pragma once

#include <memory>
#include <span>
#include <vector>

#include "dynamics/settings/body.h"
#include "dynamics/settings/piece_set.h"

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

/// The bonds of a body that hold, as they are kept. Valid until the next step or change.
struct BondsNow {
  std::shared_ptr<const PieceSet> set;
  Vec3 offset = Vec3::Zero();            ///< in the body's frame a face of the set lies at its point less this, m
  std::span<const std::uint32_t> bonds;  ///< numbers of the set's faces, ascending
  std::span<const float> use;            ///< of their strength, when it was last worked out: 1 breaks
};

/// A bond that holds, as it is now.
struct BondReading {
  Vec3 point = Vec3::Zero();  ///< scene frame, m
  Vec3 normal = Vec3::Unit(0);
  double area = 0;  ///< m²
  double use = 0;   ///< of its strength when it was last worked out: 1 breaks
};

}  // namespace bronvel
