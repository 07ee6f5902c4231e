// Small worlds that several experiments start from.
#pragma once

#include <string>

#include "dynamics/world.h"

namespace bronvel::prove {

inline constexpr double g = 9.81;

/// "60 Hz".
std::string at_rate(double rate);

/// A fixed slab whose top is at height 0.
BodyHandle add_floor(World& world, const Surface& surface, double side = 200);

void run(World& world, double seconds);

/// Complete elliptic integral of the first kind, K(m), by the arithmetic-geometric mean (Abramowitz and Stegun, 17.6).
double elliptic_k(double m);

}  // namespace bronvel::prove
