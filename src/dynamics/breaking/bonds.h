// What a load on some pieces does to each bond.
#pragma once

#include <Eigen/Cholesky>
#include <vector>

#include "dynamics/settings/piece_set.h"

namespace bronvel {

/// What goes through a bond.
struct BondLoad {
  double tension = 0;          ///< N, below 0: pressed together
  double shear = 0;            ///< N
  Vec3 moment = Vec3::Zero();  ///< N·m about the face's u, its v and its normal
};

/// Spreads loads over the bonds of a part as over a lattice of short beams in equilibrium. Where no piece is anchored
/// the part's own acceleration takes up what is left over (d'Alembert's inertia forces), so that only what strains it
/// counts. Conjugate gradients with the blocks of single pieces and of clusters of them as preconditioner (additive
/// Schwarz; Saad, Iterative Methods for Sparse Linear Systems, ch. 14), to a residual of 1e-4 or `most_rounds`.
class BondSolver {
 public:
  /// `density` in kg/m³, of pieces whose own is 1.
  void prepare(const PieceSet& set, const BondedPart& part, double density);
  /// Loads by bond, in the order of the part's bonds. Valid until the next call.
  const std::vector<BondLoad>& solve(const std::vector<PieceLoad>& loads, int most_rounds);
  int rounds() const { return rounds_; }  ///< of the last solve
  bool settled() const { return settled_; }

 private:
  using Vec6 = Eigen::Matrix<double, 6, 1>;
  using Mat6 = Eigen::Matrix<double, 6, 6>;
  struct Beam {
    std::uint32_t a, b;  // pieces of the part
    Vec3 arm_a, arm_b;   // from the pieces' centres to the face's
    Vec3 normal, u, v;
    double pull, slide, bend_u, bend_v, twist;  // stiffness
  };

  Vec6 beam_force(const Beam& beam, const Vec6& of_a, const Vec6& of_b) const;
  void apply(const std::vector<Vec6>& x, std::vector<Vec6>& y) const;
  void precondition(const std::vector<Vec6>& r, std::vector<Vec6>& z);
  void make_blocks();
  void make_clusters();

  std::vector<Vec3> centres_;
  std::vector<double> masses_;
  std::vector<Mat3> inertias_;
  std::vector<char> held_;
  std::vector<Beam> beams_;
  std::vector<std::uint32_t> place_;  // by piece of the set: its place in the part
  bool free_ = false;                 // nothing is held
  std::vector<Mat6> blocks_;
  std::vector<std::uint32_t> cluster_;
  std::vector<Vec3> cluster_centres_;
  Eigen::LDLT<Eigen::MatrixXd> coarse_;
  Eigen::VectorXd coarse_r_;
  std::vector<Vec6> x_, f_, r_, z_, p_, q_;
  std::vector<BondLoad> found_;
  int rounds_ = 0;
  bool settled_ = true;
};

/// How much of its strength a bond is using: 1 breaks. `hit_time` (s) turns forces into impulses where the strength is
/// one.
double bond_use(const SharedFace& face, const BondLoad& load, const BondStrength& strength, double hit_time);

/// The groups of pieces that hang together by these bonds, each with its bonds, in the order of their lowest piece.
/// Anchored pieces hang together through the scene.
std::vector<BondedPart> connected_parts(const PieceSet& set, const BondedPart& whole);

}  // namespace bronvel
