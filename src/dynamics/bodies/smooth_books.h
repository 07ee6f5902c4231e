// What smooth forces gave to a body in a sub-step, by cause.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// After `integrate_velocities` has changed the body's velocities (before: `velocity_before`, `spin_before`) over h
/// seconds, if its books are kept.
void book_smooth_forces(WorldState& state, std::uint32_t body, double h);

}  // namespace bronvel
