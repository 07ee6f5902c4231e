// Zones: volumes that bodies pass through, which sense them and change what gravity and air do to them.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "dynamics/body.h"

namespace bronvel {

/// Names a zone for as long as it lives.
struct ZoneHandle {
  std::uint32_t index = std::numeric_limits<std::uint32_t>::max();
  std::uint32_t generation = 0;
  auto operator<=>(const ZoneHandle&) const = default;
};

/// A zone senses every body that is not static, overlaps it and has one of its labels. Its field acts on each by the
/// share of the body that is inside, taken as for a ball of the body's volume. Where zones overlap they act one after
/// another in the order of their creation, a later one on what the earlier ones left.
struct ZoneSettings {
  Shape shape = Box{};  ///< convex
  Pose pose;
  std::optional<Vec3> gravity{};  ///< instead of the world's, m/s²
  double gravity_factor = 1;      ///< times whatever gravity is there
  Vec3 wind = Vec3::Zero();       ///< velocity of the air, against which drag works, m/s
  double linear_damping = 0;      ///< added to the body's own, 1/s
  double angular_damping = 0;     ///< added to the body's own, 1/s
  std::uint32_t labels = 0;       ///< bits: it senses bodies with one of these labels; 0: all

  bool has_field() const {
    return gravity || gravity_factor != 1 || !wind.isZero() || linear_damping != 0 || angular_damping != 0;
  }
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
