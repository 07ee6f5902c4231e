// Contacts made ready for many iterations: eight pairs side by side in a block, blocks in colours that share no body.
//
// The blocks hold what the iterations read and write, in flat arrays; T is float for large scenes, where memory is what
// iterations wait for, and double for small ones. Every processor target gives the same bits: eight lanes always, no
// fused multiply-add.
#pragma once

#include <array>
#include <cstdint>
#include <type_traits>
#include <vector>

#include "dynamics/base/flat_array.h"

namespace bronvel {

inline constexpr std::size_t lanes = 8;

template <class T>
using Lanes8 = std::array<T, lanes>;
template <class T>
using Vectors8 = std::array<Lanes8<T>, 3>;

/// arm × direction, for the arms to where the iterations bear, m. In double that is, in each sub-step, one place
/// between the points of A and of B, which drift apart as the bodies move: on two places, they would make angular
/// momentum. In float they bear where they did at the tick's start; that is crossed each time, and the memory is saved.
template <class T>
struct Turns {};
template <>
struct alignas(64) Turns<double> {
  Vectors8<double> a, b;
};

/// The same for the two ways of sliding, from B's centre of mass to A's at the tick's start, m, and how far from A's
/// point to B's the iterations bear: 0 is on A's, 1 on B's.
template <class T>
struct SlideTurns {};
template <>
struct alignas(64) SlideTurns<double> {
  std::array<Turns<double>, 2> along;
  Vectors8<double> between;
  Lanes8<double> towards_b;
};

/// Friction anchors: how far the contact has been dragged along its two tangents since it took hold, m; `before` less
/// what the bodies have moved since the tick's start, `now` at their present place. In double only.
template <class T>
struct FrictionAnchor {};
template <>
struct alignas(64) FrictionAnchor<double> {
  std::array<Lanes8<double>, 2> before{}, now{};
  Lanes8<double> counts{};  ///< 1, or 0 where a round body rolls on: its surface is not told from where it was
};

/// One point of eight contacts.
template <class T>
struct alignas(64) BlockPoint {
  Vectors8<T> arm_a, arm_b;  ///< from the centres of mass, at the tick's start, m
  [[no_unique_address]] Turns<T> turn;
  Vectors8<T> spin_a, spin_b;  ///< what an impulse of 1 along the normal turns
  Lanes8<T> mass;              ///< that such an impulse moves, kg
  Lanes8<T> gap, gap_now;      ///< at the tick's start; with the positions of the iterations that go on, m
  Lanes8<T> impulse, total;    ///< of one sub-step; over the tick, N·s
};

/// Rolling friction of eight contacts.
template <class T>
struct alignas(64) BlockRoll {
  std::array<Vectors8<T>, 2> spin_a, spin_b;
  std::array<Lanes8<T>, 2> mass, impulse;
  Lanes8<T> share;  ///< greatest torque over the load, m
};

/// Eight contacts, no two of which move the same body.
template <class T>
struct alignas(64) ContactBlock {
  using Index = std::conditional_t<sizeof(T) == 4, std::int32_t, std::int64_t>;
  Lanes8<Index> a, b;  ///< bodies
  Lanes8<std::int32_t> moves_a, moves_b;
  std::int32_t count = 0;        ///< most points of any of the eight
  std::int32_t roll = -1;        ///< in ContactBlocks::rolls, or -1
  bool placed = true;            ///< gaps and arms are those of the bodies' last known poses
  alignas(64) Lanes8<T> active;  ///< 1, or 0 for an empty lane or a pair that passes by
  Vectors8<T> normal, tangent;
  Vectors8<T> inverse_mass_a, inverse_mass_b;
  Vectors8<T> arm_a, arm_b;  ///< of friction, at the tick's start
  [[no_unique_address]] SlideTurns<T> slide_turn;
  std::array<Vectors8<T>, 2> slide_spin_a, slide_spin_b;
  std::array<Lanes8<T>, 2> slide_mass, slide, slide_total;
  [[no_unique_address]] FrictionAnchor<T> anchor;
  Vectors8<T> twist_spin_a, twist_spin_b;
  Lanes8<T> twist_mass, twist, torsional_radius;
  Lanes8<T> rocking;     ///< spin of one against the other across the normal at the tick's start, rad/s
  Lanes8<T> round_face;  ///< 1 where the four points stand on the rim of one, else 0
  Lanes8<T> static_friction, dynamic_friction;
  Lanes8<T> friction_in_effect;  ///< static friction, or dynamic once the iterations have found that it slides
  Lanes8<T> closing_speed;       ///< greatest of the points at the tick's start, m/s
  std::array<BlockPoint<T>, 4> points;
};

/// What the iterations change of a body, read and written whole.
template <class T>
struct alignas(8 * sizeof(T)) BodyMotionLane {
  std::array<T, 3> velocity{};
  std::array<T, 3> spin{};
  T margin =
      0;  ///< how much faster any of its points may come to move within the sub-step, m/s; the iterations forget it
  T unused{};
};

/// How a body answers to impulses, and where it has gone since the tick's start. The inertia is that of the tick's
/// start; in double it is brought up to date with the rest.
template <class T>
struct alignas(64) BodyFrameLane {
  std::array<T, 3> inverse_mass{};
  std::array<T, 6> inverse_inertia{};  ///< xx, yy, zz, xy, xz, yz, scene frame
  std::array<T, 7> unused{};
  std::array<T, 3> drift{};  ///< of the centre, m
  std::array<T, 9> turn{};   ///< rotation less identity, row by row
  std::array<T, 4> unused_too{};
};

/// Numbers of one round of iterations.
template <class T>
struct IterationNumbers {
  T step = 0;            ///< of the sub-step, s
  T baumgarte_rate = 0;  ///< 1/s
  T recovery_speed = 0;  ///< m/s
  T softness = 0;
  T stirs = 0;        ///< a change of speed of so much counts, m/s
  int iteration = 0;  ///< the first two go over everything
  bool push_out = false;
  bool place = false;        ///< gaps anew from where the bodies are
  bool settle = false;       ///< a contact that slips keeps dynamic friction
  bool has_anchors = false;  ///< friction is soft, and pulled back to its anchor
  bool sum = false;          ///< adds the impulses to the totals afterwards
  bool last_first = false;   ///< goes through the blocks from the last to the first
};

/// A run of blocks of one colour; or, of few contacts, of all: one worker goes through them one after another.
struct Colour {
  std::uint32_t first = 0, count = 0;
  std::uint32_t lively = 0;  ///< of these the first so many: not all of their contacts are between calm bodies
};

template <class T>
struct ContactBlocks {
  FlatArray<ContactBlock<T>> blocks;
  FlatArray<BlockRoll<T>> rolls;
  FlatArray<BodyMotionLane<T>> motions;  // by body; one more at the end that stands for empty lanes
  FlatArray<BodyFrameLane<T>> frames;
  std::vector<std::uint8_t> closing;  // by block, a bit for each lane
  std::vector<std::int32_t> stirred;  // by body: the last iteration that changed its motion by what counts
  std::vector<char> elsewhere;        // by body: put elsewhere since blocks were last placed
};

}  // namespace bronvel
