// Pairs of bodies that are near each other, with the contacts between them. Only the dynamics layer includes this.
#pragma once

#include <algorithm>
#include <array>
#include <compare>
#include <vector>

#include "dynamics/settings/surface.h"
#include "geometry/base/vector.h"
#include "geometry/queries/contact.h"

namespace bronvel {

/// One contact point, at the tick's start.
struct ManifoldPoint {
  Vec3 arm_a = Vec3::Zero();                        ///< from A's centre of mass, scene frame, m
  double gap = 0;                                   ///< m
  double impulse = 0;                               ///< of one sub-step, kept as a first guess, N·s
  double total = 0;                                 ///< over the tick, N·s
  Eigen::Vector3f aside = Eigen::Vector3f::Zero();  ///< of the point on B from that on A: 0 unless found on the way, m
  std::uint32_t number = 0;                         ///< its name among the pair's points
};

/// Friction of a whole manifold: against sliding at its middle, against turning about the normal, against rolling.
struct ManifoldFriction {
  std::array<double, 2> slide{};        ///< impulses of one sub-step along the tangents, N·s
  double twist = 0;                     ///< N·m·s
  std::array<double, 2> roll{};         ///< N·m·s
  std::array<double, 2> slide_total{};  ///< over the tick, N·s
  std::array<double, 2> anchor{};       ///< how far it has given way while it held, along the tangents, m
};

/// Which parts of which bodies make a pair; convex bodies have one part, number 0.
struct PairKey {
  std::uint32_t a = 0, b = 0;  ///< body indices, a < b
  std::uint32_t part_a = 0, part_b = 0;
  auto operator<=>(const PairKey&) const = default;
};

struct PairKeyHash {
  std::size_t operator()(const PairKey& k) const {
    std::uint64_t hash = 0x9E3779B97F4A7C15ULL;
    for (const std::uint32_t part : {k.a, k.b, k.part_a, k.part_b}) hash = (hash ^ part) * 0xFF51AFD7ED558CCDULL + 1;
    return hash ^ (hash >> 32);
  }
};

/// Both ways of a pair of bodies as one number.
inline std::uint64_t unordered_key(std::uint32_t a, std::uint32_t b) {
  return (static_cast<std::uint64_t>(std::min(a, b)) << 32) | std::max(a, b);
}

/// A resting body must be seen to touch although it floats a hair above: points this near are always kept.
inline constexpr double least_reach = 0.005;  // m
/// Where no points were found, it was looked so much farther than need be: none will be until the surfaces come so much
/// nearer.
inline constexpr double looked_farther = 0.002;  // m

/// Two bodies whose padded boxes overlap.
struct Overlap {
  static constexpr std::uint32_t no_pair = 0xFFFFFFFFU;
  std::uint32_t a = 0, b = 0;    ///< a < b
  std::uint32_t pair = no_pair;  ///< theirs, if they are convex and so near that they have one

  bool operator==(const Overlap& other) const { return a == other.a && b == other.b; }
  bool operator<(const Overlap& other) const { return a != other.a ? a < other.a : b < other.b; }
};

/// Which parts of two near bodies may meet, one of them being made of several.
struct PartOverlaps {
  double reach = -1;                 ///< how far apart parts could be when they were found, m; below 0: not yet
  double moved = 0;                  ///< how far the bodies may have moved against one another since then, m
  std::vector<std::uint32_t> pairs;  ///< of these parts
};

/// How near two bodies are in this tick: the padded boxes apart, those of what they may reach apart, or not; and then
/// whether one has several parts.
enum class Nearness : std::uint8_t { gone, apart, meeting, meeting_in_parts };

/// What every walk over the pairs looks at, side by side.
struct PairState {
  int count = 0;
  std::uint32_t block = 0;    ///< where the solver has it in this tick, if it is active
  std::uint32_t numbers = 0;  ///< how many of its points have been named so far
  float moved = 0;         ///< how far its surfaces may have moved against one another since its points were found, m
  float reach = -1;        ///< how far apart points could be then, m; below 0: to be found anew
  std::uint8_t lane = 0;   ///< of the block
  std::uint8_t found = 0;  ///< how many points it has; from `count` on they are left out of a patch
  bool alive = false;
  bool apart = false;                ///< no longer near, and only kept to tell so
  bool fast = false;                 ///< may jump over one another in a sub-step: swept
  bool passing = false;              ///< found to stay apart in this sub-step: the solver leaves it alone
  FaceOf face_of = FaceOf::neither;  ///< whose face its normal turns with
  bool at_internal_edge : 1 =
      false;                ///< a facet beyond a gentle internal edge that the ball turns at: no hit in this sub-step
  bool beyond : 1 = false;  ///< a facet at whose edge the surface has bent down from its plane: it bears nothing there
  bool in_double : 1 = false;  ///< solved in double in this tick, if it is active
  bool missed : 1 = false;     ///< left alone by the iterations of this sub-step (`ImpactScratch::missed`)
  bool touching = false;
  bool was_touching = false;
  std::uint8_t touches = 0;  ///< bit by point
  double closing_speed = 0;  ///< greatest seen in this tick, m/s
  Vec3 normal = Vec3::Unit(1);
  Vec3 between = Vec3::Zero();  ///< from B's centre of mass to A's at the tick's start, m
};

/// Two convex parts of two bodies that are near each other, with the contact between them. There are many, and walks
/// over them wait for memory: what follows from the rest is worked out and not kept.
struct Pair : PairKey, PairState {
  ManifoldFriction friction;
  std::array<ManifoldPoint, 4> points;  ///< the first `found` are its points
  SurfacePair surface;

  /// Makes another pair of it. Its rows stay as they are: none is a point any more.
  void begin_anew(const PairKey& key) {
    static_cast<PairKey&>(*this) = key;
    static_cast<PairState&>(*this) = PairState{};
    friction = ManifoldFriction{};
    alive = true;
  }

  /// From B's centre of mass to the point on B, scene frame at the tick's start, m.
  Vec3 arm_b(const ManifoldPoint& row) const { return row.arm_a + between + row.aside.cast<double>(); }
  std::array<Vec3, 2> tangents() const {
    const Vec3 first = any_perpendicular(normal);
    return {first, normal.cross(first)};
  }
  /// Friction's impulse on B over the tick, N·s.
  Vec3 slid() const { return friction.slide_total[0] * tangents()[0] + friction.slide_total[1] * tangents()[1]; }
};

/// Where and when a pair that did not touch before was first hit in a tick.
struct HitPlace {
  std::uint32_t pair = 0;
  int count = 0;
  double moment = 0;             ///< s into the tick
  std::array<Vec3, 4> points{};  ///< of those that were met, scene frame, m
  std::array<int, 4> rows{};     ///< which of the pair's points each is
};

/// A kinematic body that came up against another as it was advanced, between two ticks.
struct AdvanceHit {
  std::uint32_t body = 0, other = 0;
  Vec3 point = Vec3::Zero();    ///< scene frame, m
  Vec3 normal = Vec3::Unit(1);  ///< out of the other body
  double speed = 0;             ///< at which it closed, m/s
  double impulse = 0;           ///< that it gave a dynamic body, N·s
};

/// A point of two bodies of several parts, while those that bear are chosen.
struct PatchPoint {
  std::uint32_t listed = 0, row = 0;  ///< place of its pair in WorldState::listed, and its own in the pair
  Vec3 normal = Vec3::Unit(1);
  Vec3 arm = Vec3::Zero();  ///< from A's centre of mass, m
  double gap = 0;           ///< m
  bool bears = false;       ///< it did in the tick before
  bool kept = false;
};

/// What can be said of an active pair without looking at it.
struct ActiveEnds {
  std::uint32_t a = 0, b = 0;
  std::uint32_t block = 0;  ///< where the solver has it in this tick
  std::uint8_t lane = 0;
  std::uint8_t points = 0;
  bool moves_a = false, moves_b = false;  ///< dynamic
  bool rolls = false;                     ///< against rolling friction
  bool calm = false;                      ///< neither has moved for a while: a few iterations do
  bool fast = false;
  bool in_double = false;  ///< solved in double in this tick
  float least_gap = 0;     ///< at the tick's start, m
};

}  // namespace bronvel
