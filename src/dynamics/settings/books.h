// The books of a body: everything that changed its momentum and energy in a tick, by cause, so that it adds up.
#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "dynamics/settings/body.h"

namespace bronvel {

/// What changes a body's momentum. The word of each is `cause_word`.
enum class Cause : std::uint8_t {
  weight,        ///< gravity, zones counted
  pull,          ///< of a zone
  buoyancy,      ///< of a zone's water, swell counted
  water_drag,    ///< of a zone's water
  air_drag,      ///< through air that stands or blows
  damping,       ///< the body's own and that of zones
  normal,        ///< a contact's force along its normal
  friction,      ///< a contact's, against sliding
  rolling,       ///< a contact's, against rolling
  torsion,       ///< a contact's, against turning about the normal
  overlap,       ///< a contact that overlaps: pushed out of it, or sinking into it; energy of height alone
  hit,           ///< a collision's impulse along its normal
  hit_friction,  ///< a collision's impulse across it
  joint,         ///< what a joint holds
  limit,         ///< a joint's limit, or a rope's length
  motor,         ///< a joint's
  spring,        ///< a joint's spring and damper
  force,         ///< from outside: a force or torque over the tick
  impulse,       ///< from outside: at once
  set_velocity,  ///< from outside: the velocity was set
  placed,        ///< from outside: it was put elsewhere, or made another
  lock,          ///< what holds a locked axis
  breaking,      ///< it broke, or was cut
  sleep,         ///< it was put to rest
  solver         ///< what the engine itself corrects, and what rounding leaves
};
inline constexpr std::size_t cause_count = static_cast<std::size_t>(Cause::solver) + 1;

/// "weight", "hit friction" …
std::string cause_word(Cause cause);

/// What a cause acts through: the other body of a contact, the zone of weight, pulls and water, the joint; of what
/// comes from outside the act's number (World::acting). By index and generation; `nobody` where it is the scene or
/// nothing.
struct CauseBy {
  static constexpr std::uint32_t nobody = 0xFFFFFFFFU;
  std::uint32_t index = nobody;
  std::uint32_t generation = 0;
  bool operator==(const CauseBy&) const = default;
};

/// One line of the books, over a tick.
struct BookLine {
  Cause cause = Cause::solver;
  CauseBy by;
  Vec3 impulse = Vec3::Zero();  ///< N·s, scene frame; mean force × tick
  Vec3 turn = Vec3::Zero();     ///< angular impulse about the centre of mass, N·m·s
  /// What it gave to the body's kinetic energy, J. Of weight: what it took from or gave to the energy of height.
  double work = 0;
  Vec3 at = Vec3::Zero();  ///< where it acted, weighed by its size, scene frame, m
  double weight = 0;       ///< what `at` was weighed by, N·s; 0: it acted on the body as a whole
};

/// The books of one body over a tick: from the end of the last one to the end of this. The lines add up to the changes,
/// `solver` being what is left.
struct BodyBooks {
  BodyHandle body;
  std::vector<BookLine> lines;                                   ///< in the order in which causes first acted
  Vec3 momentum_before = Vec3::Zero(), momentum = Vec3::Zero();  ///< kg·m/s
  Vec3 turning_before = Vec3::Zero(), turning = Vec3::Zero();    ///< about the centre of mass, kg·m²/s
  double kinetic_before = 0, kinetic = 0;                        ///< J
  double lifted = 0;  ///< by how much the energy of its height, by its own gravity, grew, J
};

}  // namespace bronvel
