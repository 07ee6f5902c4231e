// How much of their strength the bonds of breakable bodies used, tick by tick.
#pragma once

#include <cstdint>
#include <map>
#include <span>
#include <string>
#include <vector>

#include "dynamics/settings/breaking.h"
#include "geometry/shapes/shape.h"
#include "lab/tracks/packed_rows.h"

namespace bronvel {

/// Of all breakable bodies of a play, by their place in a list. What changed is kept, with its tick: which bonds hold,
/// and what share of its strength each uses, in steps of 1/200, up to 255 of them.
class BondTrack {
 public:
  /// After each tick, in their order; null where the body has no bonds (any more).
  void add(std::int64_t tick, std::uint32_t body, const BondsNow* now, Packer& packer);
  /// As they were after the tick, the body standing at `pose`. Throws Error where it was kept wrongly.
  std::vector<BondReading> at(std::int64_t tick, std::uint32_t body, const Pose& pose, Packer& packer) const;
  std::size_t bytes() const { return bytes_; }

  // To and from a file.
  void write(std::vector<std::uint8_t>& to) const;
  /// Throws Error when they are no such bytes.
  static BondTrack read(std::span<const std::uint8_t>& from);

 private:
  struct Place {  // of a bond, set's frame
    Vec3 point = Vec3::Zero(), normal = Vec3::Unit(0);
    double area = 0;
  };
  struct Set {
    std::shared_ptr<const PieceSet> from;  // while it is recorded
    std::vector<Place> places;
  };
  struct Packed {
    std::string bytes;
    std::uint32_t raw = 0;
  };
  // Which bonds hold, and where their body's frame stands in the set's.
  struct Layout {
    std::uint32_t set = 0;
    Vec3 offset = Vec3::Zero();
    std::uint32_t count = 0;
    Packed bonds;
  };
  struct Use {
    std::int64_t tick = 0;
    std::uint32_t layout = 0;
    Packed uses;  // a byte a bond
  };
  struct Body {
    std::vector<Layout> layouts;
    std::vector<Use> uses;
    // As last recorded.
    std::vector<std::uint32_t> bonds;
    std::vector<std::uint8_t> now;
    bool known = false;
  };
  std::uint32_t place_of(const std::shared_ptr<const PieceSet>& set);

  std::vector<Set> sets_;
  std::map<std::uint32_t, Body> bodies_;
  std::size_t bytes_ = 0;
};

}  // namespace bronvel
