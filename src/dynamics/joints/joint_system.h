// The sparse system of all joint rows, kept from tick to tick as long as the same joints are awake.
#pragma once

#include <Eigen/SparseCholesky>
#include <vector>

#include "dynamics/joints/joint_rows.h"

namespace bronvel {

/// What an impulse of 1 along a row does to a body.
struct RowPush {
  Vec3 velocity = Vec3::Zero();
  Vec3 spin = Vec3::Zero();
};

/// Bodies that joints tie together, and what is known of their energy in this sub-step (`joint_energy.h`).
struct JointIsland {
  std::vector<std::uint32_t> bodies;   ///< dynamic
  std::vector<std::uint32_t> anchors;  ///< joints that tie it to what is not
  std::vector<Vec3> centres;           ///< of the bodies, at the sub-step's start, m
  double energy = 0;                   ///< at the sub-step's start, J
  /// Then: its centre of mass, or what it hangs by, m; how fast that went, m/s; the angular momentum about it, kg·m²/s.
  Vec3 about = Vec3::Zero(), velocity = Vec3::Zero(), turning = Vec3::Zero();
  bool locked = false;  ///< some of its bodies may not go or turn every way
  bool kept = false;    ///< nothing has taken of it so far or given to it but steady forces
};
inline constexpr std::uint32_t no_island = 0xFFFFFFFFU;

/// Scratch of the joint solver.
struct JointSystem {
  std::vector<std::uint32_t> joints;                    // awake, in order
  std::vector<std::uint32_t> bodies;                    // moved by them, each once
  std::vector<std::uint32_t> body_a, body_b, joint_of;  // of each row
  std::vector<Vec3> arm_b;                              // of each row: to B's anchor
  std::vector<JointRow> rows, ahead;                    // where the bodies are; where they will be
  std::vector<RowPush> push_a, push_b;
  std::vector<double> impulse;                        // of this stage, N·s or N·m·s
  std::vector<double> held;                           // what `hold` gave
  std::vector<char> active;                           // takes part in the system
  std::vector<int> flips;                             // how often it left
  std::vector<char> loaded;                           // by body: a contact bears on it
  std::vector<char> smooth;                           // by body: moves with the velocity of the sub-step's middle
  std::vector<Vec3> shift, spin_shift;                // by body: what was taken off its velocity for that
  FlatArray<BodyState> later;                         // by body: where it will be
  int rounds = 1, round = 0;                          // of turns with the contacts in a sub-step; how many were held
  bool in_parts = false;                              // this sub-step was gone through in parts
  bool beyond_parts = false;                          // in this tick the most parts did not do: none are tried any more
  std::vector<double> given;                          // what each row gave in them
  FlatArray<BodyState> before;                        // motions of `bodies`, to go back to, and
  std::vector<Vec3> spin_before;                      // of `bodies`
  std::vector<std::pair<double, double>> row_before;  // of each row: how fast it strays, and its impulse
  std::vector<double> impulse_before;                 // of each row
  std::vector<std::pair<Vec3, Vec3>> borne_before;    // what each joint had borne: impulse, angular impulse

  std::vector<JointIsland> islands;
  std::vector<std::uint32_t> island_of;  // by body
  std::vector<double> strays;            // of each row: how fast it strayed at the sub-step's start, before forces
  std::vector<double> put_apart;         // of each row: how far it was from being met then, before hits put bodies
                                         // back to where they would have been; from then on how far these did, m or rad

  // The matrix (its upper half), the place in it of each row, and where each product of two rows goes.
  struct Term {
    std::uint32_t row, column;
    bool row_is_a, column_is_a;
    Eigen::Index slot;
  };
  std::vector<std::uint32_t> pattern;  // what the matrix was laid out for
  std::vector<Term> terms;
  std::vector<Eigen::Index> place, diagonal;
  Eigen::SparseMatrix<double> matrix;
  Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>, Eigen::Upper, Eigen::NaturalOrdering<int>> factor;
  Eigen::VectorXd residual, answer;
};

}  // namespace bronvel
