// What a body of the scene breaks into, and when: its settings, and what the world is told of them.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "dynamics/settings/breaking.h"

namespace bronvel {

/// Which pieces the scene holds, so that they stay where they are.
enum class HeldPieces { none, bottom, top, ends, rim, listed };

/// A body's breaking. Whole numbers are kept as doubles, as the property list has them.
struct Breaking {
  enum class Into { nothing, cells, bricks, planks, pane, planes, parts };  ///< after `nothing` as PieceRecipe::Kind
  Into into = Into::nothing;
  double pieces = 16;            ///< cells or planks
  double seed = 1;               ///< of the cells
  std::optional<Vec3> near{};    ///< where cells crowd and a pane's spokes meet, body frame, m
  double crowding = 0.5;         ///< share of the cells that crowd
  double brick_length = 0.5;     ///< m
  double brick_height = 0.25;    ///< m
  double plank_length = 0;       ///< of the parts that planks are cut into, m; 0: they are whole
  double rings = 4, spokes = 9;  ///< of a pane
  double unevenness = 0.3;       ///< of planks and panes
  std::vector<Plane> planes{};   ///< body frame
  double tension = 1e6;          ///< Pa
  double shear = 1e6;            ///< Pa
  double impulse = 0;            ///< N·s; above 0 it stands for both
  double toughness = 100;        ///< J/m²: what a square metre of new crack takes, for body:shatter
  HeldPieces held = HeldPieces::none;
  std::vector<std::uint32_t> held_parts{};  ///< with HeldPieces::listed: numbers of pieces
  double merge_below = 0;                   ///< m³: smaller parts stay with their neighbour
  double debris_below = 0;                  ///< m³: parts smaller than this are debris; 0: none are
  double debris_age = 0;                    ///< s after which debris fades away; 0: never
  double debris_most = 0;       ///< how many pieces of debris there may be, the oldest go first; 0: any number
  bool parts_scripted = false;  ///< parts that break off carry the body's scripts

  /// The pieces that were made of it last: copies share them, so that a scene played again need not make them again. No
  /// part of the value.
  struct Made;
  mutable std::shared_ptr<Made> made{};
};
bool operator==(const Breaking& a, const Breaking& b);
/// Whether both make the same pieces of a shape, however strong.
bool same_pieces(const Breaking& a, const Breaking& b);

/// The recipe for the pieces of a body of this shape. `into` must not be `nothing`.
PieceRecipe recipe_of(const Breaking& breaking);

/// Whether the scene holds each of the pieces: such a body can't break.
bool holds_all(const PieceSet& pieces);

/// "none", "bottom" …, in the order of HeldPieces; "nothing", "cells" …, in the order of Into.
const std::vector<std::string>& held_words();
const std::vector<std::string>& into_words();

/// The pieces of a shape that breaks, with what is held and what bonds them; those made of it before, where it is the
/// same. Throws Error when they can't be made.
std::shared_ptr<const PieceSet> pieces_of(const Shape& shape, const Breaking& breaking);

/// What the world needs to know of it. Throws Error when the pieces can't be made.
BreakSettings settings_of(const Shape& shape, const Breaking& breaking);
BondStrength strength_of(const Breaking& breaking);

/// Why a body of this shape can't break so; empty if it can.
std::string breaking_fault(const Shape& shape, const Breaking& breaking);

/// How many cells this much energy (J) can part a shape of that volume (m³) into, from 2 to 200: n cubes in a cube
/// share 3 V^⅔ (n^⅓ − 1) of faces, each square metre of which takes the toughness.
/// About how many pieces it would break into, without making them: what making them costs goes by it.
int pieces_expected(const Shape& shape, const Breaking& breaking);

int pieces_for_energy(double energy, double volume, double toughness);
inline constexpr int most_pieces_for_energy = 200;

}  // namespace bronvel
