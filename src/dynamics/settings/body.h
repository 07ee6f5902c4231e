// A rigid body as the world's users see it: handle, settings, motion.
#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <optional>
#include <string>

#include "dynamics/settings/surface.h"
#include "geometry/shapes/mass.h"
#include "geometry/shapes/shape.h"

namespace bronvel {

/// Names a body for as long as it lives; a handle of a removed body is never taken for another one.
struct BodyHandle {
  std::uint32_t index = std::numeric_limits<std::uint32_t>::max();
  std::uint32_t generation = 0;
  auto operator<=>(const BodyHandle&) const = default;
};

enum class MotionKind {
  fixed,      ///< static: never moves
  kinematic,  ///< moves as told, pushes others, is not pushed
  dynamic     ///< obeys forces and contacts
};

/// Axes of the scene along which a dynamic body may not move, or about which it may not turn: x, y, z.
struct Locks {
  std::array<bool, 3> move{};
  std::array<bool, 3> turn{};
  bool any_turn() const { return turn[0] || turn[1] || turn[2]; }
  bool operator==(const Locks&) const = default;
};

/// Whether a body's path within a sub-step is looked along, so that it can't jump through thin things.
enum class Sweeping {
  automatic,  ///< when the pair moves far for its size
  always,
  never
};

/// Everything about a body but its motion.
struct BodySettings {
  MotionKind kind = MotionKind::dynamic;
  Shape shape = Sphere{};
  double mass = 1;                       ///< kg, above 0; used by dynamic bodies
  std::optional<Vec3> centre_of_mass{};  ///< in the body's frame, m; else that of the evenly filled shape
  std::optional<Mat3> inertia{};         ///< about the centre of mass, body frame, kg·m²; else of the filled shape
  Surface surface{};
  double gravity_factor = 1;   ///< gravity acts this many times
  double linear_damping = 0;   ///< share of velocity lost, 1/s
  double angular_damping = 0;  ///< share of angular velocity lost, 1/s
  double linear_drag = 0;      ///< c in F = −c v, N·s/m
  double drag_area = 0;        ///< drag coefficient × area, m²; F = ½ ρ area |v| v
  bool solid = true;           ///< false: senses contacts, gives no response
  bool may_sleep = true;
  Locks locks{};
  Sweeping sweeping = Sweeping::automatic;
  std::uint32_t groups = 1;           ///< bits
  std::uint32_t labels = 0;           ///< bits that zones know bodies by
  std::uint32_t meets = 0xFFFFFFFFU;  ///< bits of the groups it collides with; both bodies must agree
};

/// A body's motion in the scene's frame.
struct BodyMotion {
  Pose pose;                             ///< of the shape's origin
  Vec3 velocity = Vec3::Zero();          ///< of the centre of mass, m/s
  Vec3 angular_velocity = Vec3::Zero();  ///< rad/s
};

/// Why these settings or this motion can't be used; empty if they can.
std::optional<std::string> body_fault(const BodySettings& settings, const BodyMotion& motion);

}  // namespace bronvel
