// Which bodies are in which zones, and what the zones do to them. Only the dynamics layer includes this.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// What follows from a zone's settings: its reach, sides and waves.
void prepare_zone(const WorldState& state, ZoneRecord& zone);

/// Wakes the bodies in the zone.
void wake_inside(WorldState& state, const ZoneRecord& zone);

/// After a tick: who is in each zone now, who came or left since, and who splashed. Events are in the order of zones,
/// then bodies.
void update_zones(WorldState& state);

/// Before a tick: what the zones make of gravity and air for each body that is in one.
void apply_zones(WorldState& state);

/// Before a sub-step of h seconds that starts `seconds` into the tick: the push of waters and pulls on each body,
/// worked out for where it will be halfway, so that floats bob without gaining height (leapfrog; Hairer, Lubich and
/// Wanner, Geometric Numerical Integration, I.1).
void push_by_fields(WorldState& state, double seconds, double h);

/// After the sub-step's velocities: drag of the waters, implicit, at the middle of what is submerged.
void drag_by_waters(WorldState& state, double h);

/// How far to each side of its middle a body takes the water's surface, m.
double surface_reach(const BodyRecord& record);

/// What of the body, shifted, lies in the zone's water at a time; volume 0 if nothing does.
Wet wet_part(const WorldState& state, const ZoneRecord& zone, std::uint32_t body, const Vec3& shift, double time);

}  // namespace bronvel
