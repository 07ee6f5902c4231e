// Which bodies touch, where and how hard: of a running world, and kept tick by tick in a take.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "dynamics/world/world.h"
#include "lab/tracks/packed_rows.h"

namespace bronvel {

/// Two bodies that touched in a tick.
struct Touching {
  BodyHandle a, b;
  Vec3 point = Vec3::Zero();    ///< in the middle of their points, m
  Vec3 normal = Vec3::Unit(1);  ///< from a to b, unit
  double along = 0;             ///< mean force of the tick along the normal, N
  double across = 0;            ///< of friction, N
  int points = 0;
};

/// So many are kept of a tick: those that bear most.
inline constexpr std::size_t most_touching = 512;

/// Brings what touched in the tick before up to date: pairs that fell asleep touch on as they did.
void renew_touching(std::vector<Touching>& touching, const World& world);

/// Likewise, with places of bodies in a list for handles.
struct ContactMark {
  std::uint32_t a = 0, b = 0;
  Vec3 point = Vec3::Zero();
  Vec3 normal = Vec3::Unit(1);
  double along = 0, across = 0;
  int points = 0;
  bool operator==(const ContactMark&) const = default;
};

/// The marks of each tick. Points are kept to a millimetre, normals to 1/500, forces to 1 %. Ticks are packed 64 at a
/// time.
class ContactTrack {
 public:
  static constexpr int ticks_a_chunk = 64;

  void add(std::vector<ContactMark> marks, Packer& packer);
  std::int64_t ticks() const { return ticks_; }
  std::size_t bytes() const { return bytes_ + open_.capacity(); }
  /// Of all ticks of the chunk that holds the tick, the first of them `first`. Throws Error where it was kept wrongly.
  void unpack(std::int64_t tick, Packer& packer, std::int64_t& first,
              std::vector<std::vector<ContactMark>>& marks) const;

  // To and from a file.
  void write(std::vector<std::uint8_t>& to) const;
  /// Throws Error when they are no such bytes.
  static ContactTrack read(std::span<const std::uint8_t>& from);

 private:
  static constexpr std::size_t columns = 9;
  struct Row {
    std::uint32_t a = 0, b = 0;
    std::array<std::int64_t, columns> numbers{};
    bool operator==(const Row&) const = default;
  };
  struct Chunk {
    std::string packed;
    std::uint32_t raw = 0;
  };
  static Row row_of(const ContactMark& mark);
  static ContactMark mark_of(const Row& row);

  std::int64_t ticks_ = 0;
  std::vector<Row> last_;  // of the tick before, in the open chunk
  std::vector<Chunk> chunks_;
  std::vector<std::uint8_t> open_;
  int open_ticks_ = 0;
  std::size_t bytes_ = 0;
};

}  // namespace bronvel
