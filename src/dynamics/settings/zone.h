// Zones: volumes that bodies pass through, which sense them and change what gravity and air do to them.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "dynamics/settings/body.h"
#include "dynamics/settings/water.h"
#include "geometry/base/plane.h"

namespace bronvel {

/// Names a zone for as long as it lives.
struct ZoneHandle {
  std::uint32_t index = std::numeric_limits<std::uint32_t>::max();
  std::uint32_t generation = 0;
  auto operator<=>(const ZoneHandle&) const = default;
};

/// A zone senses every body that is not static, overlaps it and has one of its labels. Gravity, wind, damping and pull
/// act on each by the share of the body that is inside, taken as for a ball of the body's volume; water acts on the
/// very part of the body that lies in it. Where zones overlap they act one after another in the order of their
/// creation: a later one's gravity works on what the earlier ones left, winds, dampings and pulls add up, and so do
/// waters, which therefore stand side by side rather than over each other. A box of water that stands upright reaches
/// up to its surface, waves included, however high its own top is.
struct ZoneSettings {
  Shape shape = Box{};  ///< convex
  Pose pose;
  std::optional<Vec3> gravity{};  ///< instead of the world's, m/s²
  double gravity_factor = 1;      ///< times whatever gravity is there
  Vec3 wind = Vec3::Zero();       ///< velocity of the air, against which drag works, m/s
  double gusts = 0;               ///< share of the wind that swings up and down, 0 to 1
  double gust_time = 4;           ///< s: about how long a swing takes
  std::uint64_t seed = 0;         ///< of gusts and waves
  double linear_damping = 0;      ///< added to the body's own, 1/s
  double angular_damping =
      0;  ///< added to the body's own, 1/s; both dampings work against the water where there is any
  std::optional<Water> water{};
  std::optional<Pull> pull{};
  std::uint32_t labels = 0;  ///< bits: it senses bodies with one of these labels; 0: all

  bool has_field() const {
    return gravity || gravity_factor != 1 || !wind.isZero() || linear_damping != 0 || angular_damping != 0 || water ||
           pull;
  }
};

/// A body that came into water or out of it, faster than 0.1 m/s through its surface.
struct SplashEvent {
  ZoneHandle zone;
  BodyHandle body;
  bool into = true;
  double speed = 0;           ///< through the surface, m/s
  double volume = 0;          ///< of the body under water in that tick (before it, when it came out), m³
  Vec3 point = Vec3::Zero();  ///< on the surface, scene frame, m
};

/// How a body floats: what of it lies in a zone's water.
struct Floating {
  ZoneHandle zone;
  double share = 0;            ///< of the body's volume, 0 to 1
  double volume = 0;           ///< m³
  Vec3 centre = Vec3::Zero();  ///< of buoyancy, scene frame, m
  double force = 0;            ///< buoyancy, N
  Plane surface;               ///< the water's surface about it, scene frame
};

/// A body came into a zone or left it.
struct ZoneEvent {
  ZoneHandle zone;
  BodyHandle body;
  bool entered = true;
};

/// Why these settings can't be used; empty if they can.
std::optional<std::string> zone_fault(const ZoneSettings& settings);

/// The share of a ball that lies below a plane, from how far its middle is above the plane in radii: 1 − the cap's
/// volume over the ball's, (1 − x)² (2 + x) / 4.
double ball_share_below(double middle_above_in_radii);

}  // namespace bronvel
