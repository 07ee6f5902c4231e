// Shapes made into pieces that fill them, and the faces that the pieces share.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "geometry/base/plane.h"
#include "geometry/shapes/hull.h"

namespace bronvel {

/// How a shape is made into pieces.
struct PieceRecipe {
  enum class Kind {
    cells,   ///< each the part that is nearest to one of `count` points strewn in it (Voronoi, 1908)
    bricks,  ///< courses of bricks, each course half a brick on from the one below
    planks,  ///< `count` slabs side by side along the longest way, each cut across where `plank_length` says so
    pane,    ///< rings and spokes about a point, through the thinnest way
    planes,  ///< cut by `planes`
    parts    ///< the parts that a compound has already
  };
  Kind kind = Kind::cells;
  int count = 16;  ///< cells or planks, 1 to 2,000
  std::uint64_t seed = 1;
  std::optional<Vec3> near{};  ///< cells crowd there, a pane's spokes meet there; shape's frame, m
  double crowding = 0.5;       ///< share of the cells that crowd, where `near` is given, 0 to 1
  double length = 0.5;         ///< of a brick, m
  double height = 0.25;        ///< of a brick, m
  double plank_length = 0;     ///< about so long are the parts that a plank is cut into, m; 0: it is one piece
  int rings = 4, spokes = 9;
  double unevenness = 0.3;  ///< of planks' and panes' parts, 0 to 0.9
  std::vector<Plane> planes{};
};

/// "cells", "bricks" …, in the order of the kinds.
const std::vector<std::string>& piece_words();

/// Convex pieces that fill the shape, in its frame. What is round is cut by its facets, which have its volume. Throws
/// Error for surfaces without an inside and for recipes that make no sense or more than 5,000 pieces.
/// `densities`, if given, gets each piece's density against the others', which differ in a compound.
std::vector<Hull> make_pieces(const Shape& shape, const PieceRecipe& recipe, std::vector<double>* densities = nullptr);

/// The face that two pieces share, seen as the cross-section of a short beam between them.
struct SharedFace {
  std::uint32_t a = 0, b = 0;         ///< pieces, a < b
  Vec3 point = Vec3::Zero();          ///< its centre, m
  Vec3 normal = Vec3::Unit(0);        ///< from a to b
  double area = 0;                    ///< m²
  Vec3 u = Vec3::Unit(1);             ///< principal axis in the face; the other is normal × u
  double moment_u = 0, moment_v = 0;  ///< second moments of area about u and about normal × u, m⁴
  double reach_u = 0, reach_v = 0;    ///< farthest that the face goes from those axes, m
  /// Its corners from the centre, along u and along normal × u, m.
  std::vector<std::array<double, 2>> corners{};
  double twist_moment = 0;   ///< a torque about the normal turns by torque / (G × this) a metre, m⁴
  double twist_modulus = 0;  ///< and shears by torque / this at most, m³
};

/// Sets the face's answer to torsion from its corners, area and second moments, by Saint-Venant's solutions (Young and
/// Budynas, Roark's Formulas for Stress and Strain, table 10.1). Four corners count as the rectangle of the same second
/// moments, 12 and more as the ellipse: they stand for what is round. Others by A⁴ / 40 I_p for the stiffness and by
/// the largest circle about the centre for the stress (ibid., end of the table), the factors fitted to regular
/// polygons: within 1 %, a triangle's stress within 3 %.
void set_torsion(SharedFace& face);

/// All faces that two of the pieces share: where they lie against each other no more than `gap` apart, over more than
/// 1e-6 of the pieces' extent squared. In order of a, then b; two pieces may share several.
std::vector<SharedFace> shared_faces(const std::vector<Hull>& pieces, double gap);

/// The same hull with its corners shifted.
Hull shifted(const Hull& hull, const Vec3& by);

}  // namespace bronvel
