// Impulse propagation: an impact on a jointed body is met by what its joints make of the mass at that place.
//
// With M the masses, J the rows of the joints and H that of the contact, an impulse p changes the velocities by M⁻¹ (Hᵀ
// − Jᵀ A⁻¹ J M⁻¹ Hᵀ) p with A = J M⁻¹ Jᵀ: no joint is parted by it (Featherstone, Rigid Body Dynamics Algorithms, 2008,
// ch. 11).
#pragma once

#include <vector>

#include "dynamics/joints/joint_rows.h"

namespace bronvel {

/// The joints of each body, for a world whose joints stay as they are.
struct JointsOfBodies {
  std::vector<std::uint32_t> first;  ///< by body, and one more: where its joints are in `joints`
  std::vector<std::uint32_t> joints;
};
JointsOfBodies joints_of_bodies(const WorldState& state);

/// What an impulse at a place does to a body: each takes it (N·s, on B; the other way round on A) to a change.
struct ImpulseResponse {
  Mat3 move = Mat3::Zero();  ///< of velocity
  Mat3 turn = Mat3::Zero();  ///< of angular velocity
};

/// Two bodies that meet, and those that joints tie to them: the nearest, as far as the rows of their joints go into a
/// small system. Beyond that bodies answer as if they were free.
class StruckGroup {
 public:
  /// Where the bodies are now.
  void gather(const WorldState& state, const JointsOfBodies& joints, std::uint32_t a, std::uint32_t b);
  bool any_joints() const { return !rows_.empty(); }
  /// Dynamic bodies of the group. The first are A and B, as far as they are dynamic.
  const std::vector<std::uint32_t>& bodies() const { return bodies_; }
  /// Chooses the limits that hold: those that an impulse along `way` (on B, at the arms from the centres of mass)
  /// presses on.
  void choose_stops(const WorldState& state, const Vec3& arm_a, const Vec3& arm_b, const Vec3& way);
  /// Responses of all bodies of the group, in their order, to an impulse at these arms.
  std::vector<ImpulseResponse> answers(const WorldState& state, const Vec3& arm_a, const Vec3& arm_b) const;
  /// Books what the joints bear of an impulse at these arms.
  void bear(WorldState& state, const Vec3& arm_a, const Vec3& arm_b, const Vec3& impulse) const;

 private:
  static constexpr std::uint32_t none = 0xFFFFFFFFU;
  void add_body(const WorldState& state, std::uint32_t body);
  void factorize(const WorldState& state);
  std::vector<double> rows_answer(const WorldState& state, const Vec3& arm_a, const Vec3& arm_b,
                                  const Vec3& impulse) const;

  std::uint32_t a_ = none, b_ = none;  // places in bodies_, of the two that meet
  std::vector<std::uint32_t> bodies_;
  std::vector<JointRow> rows_;
  std::vector<std::uint32_t> row_a_, row_b_;  // places in bodies_ of each row's ends
  std::vector<std::uint32_t> joint_of_;       // of each row
  std::vector<Vec3> arm_b_of_;                // of each row: B's anchor from its centre of mass, scene frame, m
  std::vector<double> inverse_;               // of A, row after row
};

}  // namespace bronvel
