// Pieces of a breakable body, and the bonds that hold them.
#pragma once

#include <memory>
#include <vector>

#include "geometry/cutting/pieces.h"

namespace bronvel {

/// Pieces of a breakable body and the faces that bond them, in the frame of the body that was whole. Shared by all that
/// comes of it.
struct PieceSet {
  std::vector<Hull> pieces;
  std::vector<SharedFace> faces;
  std::vector<char> anchored;     ///< by piece: held by the scene
  std::vector<double> densities;  ///< by piece, against each other
  double weight = 0;              ///< sum of volume × density, m³

  double weight_of(std::uint32_t piece) const { return densities[piece] * pieces[piece].data->volume; }
};
/// `densities` of nothing: all alike.
std::shared_ptr<const PieceSet> make_piece_set(std::vector<Hull> pieces, std::vector<char> anchored,
                                               std::vector<double> densities, double gap);

/// What bonds stand. Beam formulas: Timoshenko, Strength of Materials, I: normal stress N/A + M_v x/I_v − M_u y/I_u at
/// the worst corner, shear V/A + T/W.
struct BondStrength {
  double tension = 1e6;  ///< Pa, also of the outer fibre in bending
  double shear = 1e6;    ///< Pa
  double impulse = 0;    ///< N·s in a hit or a tick; above 0 it stands for both of them
};

/// A load on one piece, in the set's frame: a force at a point (N, m) and a torque (N·m).
struct PieceLoad {
  static constexpr std::uint32_t by_place = 0xFFFFFFFFU;  ///< the piece that the point lies in: not looked for yet
  std::uint32_t piece = 0;
  Vec3 force = Vec3::Zero();
  Vec3 point = Vec3::Zero();
  Vec3 torque = Vec3::Zero();
};

/// Some pieces of a set, hanging together by bonds that still hold.
struct BondedPart {
  std::vector<std::uint32_t> pieces;  ///< numbers in the set, ascending
  std::vector<std::uint32_t> bonds;   ///< numbers of faces, ascending
};

}  // namespace bronvel
