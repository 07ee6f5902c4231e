// A body's insides: how it moves, and all else that is kept of it. Only the dynamics layer includes this.
#pragma once

#include "dynamics/base/box_tree.h"
#include "dynamics/base/flat_array.h"
#include "dynamics/settings/body.h"
#include "geometry/base/vector.h"

namespace bronvel {

/// The moving part of a body. Vectors in the scene's frame.
struct BodyState {
  Vec3 centre = Vec3::Zero();  ///< centre of mass, m
  Quat orientation = Quat::Identity();
  Vec3 velocity = Vec3::Zero();
  Vec3 angular_velocity = Vec3::Zero();
  Vec3 inverse_mass =
      Vec3::Zero();  ///< along each scene axis, 1/kg; 0 for fixed and kinematic bodies and along locked axes
  Mat3 inverse_inertia = Mat3::Zero();  ///< scene frame

  Vec3 velocity_at(const Vec3& arm) const { return velocity + angular_velocity.cross(arm); }
  void push(const Vec3& impulse, const Vec3& arm) {
    velocity += inverse_mass.cwiseProduct(impulse);
    angular_velocity += inverse_inertia * arm.cross(impulse);
  }
};

/// Turns that leave a body's surface where it is: none, those about its own Y axis, all. What touches such a surface
/// stays where it is in the scene while the body turns under it.
enum class Symmetry : std::uint8_t { none, axis, ball };

/// The rest of a body. What every walk over bodies or pairs looks at comes first, side by side: those walks wait for
/// memory.
struct alignas(128) BodyRecord {
  bool alive = false;
  bool asleep = false;
  MotionKind kind = MotionKind::dynamic;  ///< as the settings say
  bool solid = true;                      ///< as the settings say
  bool left_padding = false;
  bool moved = true;  ///< left its padding: look for new pairs
  bool touching = false;
  bool placed = true;                  ///< made or put where it is since the last tick: what it lies on is not known
  bool jointed = false;                ///< some joint holds it
  bool round = false;                  ///< its inertia is the same about every axis
  Symmetry symmetry = Symmetry::none;  ///< of its surface about its centre of mass
  bool free_turning = true;            ///< no turn of it is locked
  bool driven = false;                 ///< by a motor, or by a rope that is paid out: never sleeps
  bool afloat = false;                 ///< in still water, which can hold it at rest
  bool in_moving_medium = false;       ///< by waves, a current or gusts: never sleeps
  bool resisted = false;               ///< by damping or drag, as the settings say
  bool composite = false;              ///< its shape has several parts
  std::uint32_t generation = 0;
  BroadPhase::Leaf leaf = -1;
  std::int32_t breaks = -1;                       ///< its place in WorldState::breakables; −1: it does not break
  std::int32_t mover = -1;                        ///< its place in WorldState::movers; −1: never told where to be
  std::uint32_t groups = 1, meets = 0xFFFFFFFFU;  ///< as the settings say
  Sweeping sweeping = Sweeping::automatic;        ///< as the settings say
  double travel = 0;                              ///< how far any point may move in the coming tick, m
  double radius = 0;                              ///< of a ball about the centre of mass that holds the shape, m
  // The second line.
  double weight = 0;           ///< mass × gravity factor, kg
  double gravity_factor = 1;   ///< as the settings say
  Vec3 force = Vec3::Zero();   ///< summed for the coming tick, N
  Vec3 torque = Vec3::Zero();  ///< N·m
  // The third.
  Bounds bounds;             ///< of the shape with all that it may reach in the coming tick
  double bounds_reach = -1;  ///< of `bounds` around the shape where it is, m; kept of what has parts
  double inner_radius = 0;   ///< radius of the largest ball inside the shape, m
  // What turning goes by.
  Mat3 inverse_inertia = Mat3::Zero();  ///< body frame, about the centre of mass
  MassProperties mass;
  double still_for = 0;  ///< s, towards falling asleep
  BodySettings settings;
  Locks locks;                     ///< of the body and of a planar scene
  Vec3 cross_area = Vec3::Zero();  ///< what it shows along its own axes, m²; reckoned when it first meets water
  Vec3 spin_drag = Vec3::Zero();   ///< ∫ r³ dA of what stems turning about its own axes, m⁵
  /// Where it was when it last counted as moving, on its way to sleep: by the ways of some seconds and of many.
  struct Rest {
    Vec3 centre = Vec3::Zero();
    Quat orientation = Quat::Identity();
    double lasted = 0;  ///< s since then
  };
  Rest rest, long_rest;

  bool dynamic() const { return kind == MotionKind::dynamic; }
  /// It does not move in this tick: a mover that stands still is as good as fixed.
  bool idle() const { return asleep || kind == MotionKind::fixed || (!dynamic() && travel == 0); }
};

/// What is kept of a kinematic body that was ever told where to be.
struct MoverRecord {
  std::uint32_t body = 0;
  std::optional<Pose> target;                         ///< of its shape at the end of the coming tick
  std::int64_t arrived = -1;                          ///< tick at whose end it last came to one
  Vec3 velocity = Vec3::Zero(), spin = Vec3::Zero();  ///< of the mean of that tick, m/s and rad/s
  std::optional<Pose> from;          ///< of its shape, where it was placed elsewhere before the coming tick
  std::int64_t went_as_placed = -1;  ///< the last tick in which it went, or jumped, to where it was placed
  std::int64_t went = -1;            ///< the last tick of which it is known how it went
  Vec3 went_velocity = Vec3::Zero(), went_spin = Vec3::Zero();       ///< in that tick, on the mean
  Vec3 last_change = Vec3::Zero(), last_spin_change = Vec3::Zero();  ///< of these, from the tick before that
  Vec3 last_bend = Vec3::Zero(), last_spin_bend = Vec3::Zero();      ///< of those changes
  bool led = false;                                                  ///< in this tick its velocity changes evenly
  Vec3 ramp = Vec3::Zero(), spin_ramp = Vec3::Zero();                ///< by how much it speeds up within the tick
  Vec3 bend = Vec3::Zero(), spin_bend = Vec3::Zero();                ///< by how much more than in the tick before
};

/// Asks for the two lines of a record that most walks over bodies look at, some bodies before they are needed: records
/// are large, and nothing else asks for the next.
inline void fetch_ahead(const FlatArray<BodyRecord>& records, std::size_t i) {
  constexpr std::size_t ahead = 8;
  if (i + ahead >= records.size()) return;
  __builtin_prefetch(&records[i + ahead]);
  __builtin_prefetch(&records[i + ahead].weight);
}
/// The same for where a body is and how it is turned.
inline void fetch_place_ahead(const FlatArray<BodyState>& motions, std::size_t i) {
  constexpr std::size_t ahead = 8;
  if (i + ahead >= motions.size()) return;
  __builtin_prefetch(&motions[i + ahead].centre);
  __builtin_prefetch(&motions[i + ahead].velocity);
}
/// The same for what turning goes by.
inline void fetch_turning_ahead(const FlatArray<BodyRecord>& records, std::size_t i) {
  constexpr std::size_t ahead = 8;
  if (i + ahead >= records.size()) return;
  const char* first = reinterpret_cast<const char*>(&records[i + ahead].inverse_inertia);
  for (std::size_t line = 0; line < 3; ++line) __builtin_prefetch(first + 64 * line);
}

}  // namespace bronvel
