// Small worlds that several experiments start from.
#pragma once

#include <string>

#include "dynamics/world/world.h"

namespace bronvel::prove {

inline constexpr double g = 9.81;

/// "60 Hz".
std::string at_rate(double rate);

/// A fixed slab whose top is at height 0.
BodyHandle add_floor(World& world, const Surface& surface, double side = 200);

void run(World& world, double seconds);

/// A joint to the scene at a point given in the scene's frame, axis X along `axis`.
JointSettings to_scene(const World& world, JointKind kind, BodyHandle body, const Vec3& anchor,
                       const Vec3& axis = Vec3::Unit(0));
/// The same between two bodies.
JointSettings between(const World& world, JointKind kind, BodyHandle a, BodyHandle b, const Vec3& anchor,
                      const Vec3& axis = Vec3::Unit(0));

/// Complete elliptic integral of the first kind, K(m), by the arithmetic-geometric mean (Abramowitz and Stegun, 17.6).
double elliptic_k(double m);

}  // namespace bronvel::prove
