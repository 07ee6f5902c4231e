// The hand: drags a body by a spring with a top force, so that it can be carried and thrown.
#pragma once

#include <optional>
#include <span>

#include "dynamics/world/world.h"
#include "play/inputs/input.h"

namespace bronvel {

/// What the hand holds. The grip is a critically damped spring from the point where it holds the body to where the hand
/// is, worked out for the tick's end (implicitly, so that it can't shake), of at most `most` newtons.
struct Hand {
  std::optional<BodyHandle> held;
  Vec3 grip = Vec3::Zero();  ///< where it holds, in the frame that the body was made with, m
  Vec3 at = Vec3::Zero();    ///< where it is, scene frame, m
  double most = 500;         ///< N
  Holding holding = Holding::free;
};

/// Takes hold of the body at a point in its frame as it is now, m.
Hand hold(const World& world, BodyHandle body, const Vec3& point);
/// Where it holds the body, scene frame, m. It must be alive.
Vec3 grip_point(const World& world, const Hand& hand);
/// After the body that it holds went to pieces, it holds the one at its grip. Whether that is another body.
bool keep_hold(const World& world, Hand& hand, std::span<const BodyHandle> parts);

/// The force of the hand's grip now, N. Zero when it holds nothing that can be moved.
Vec3 grip_force(const World& world, const Hand& hand);

/// Pulls for the coming tick.
void pull(World& world, const Hand& hand);

}  // namespace bronvel
