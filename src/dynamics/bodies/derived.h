// What follows from a body's settings: mass, inertia, radii, symmetry.
#pragma once

#include "dynamics/state/body_record.h"

namespace bronvel {

/// Takes the settings over into the record, and what follows from them into both; where the body is stays. `planar`
/// locks what a planar scene does not allow.
void take_settings(BodyRecord& record, BodyState& motion, const BodySettings& settings, bool planar);

}  // namespace bronvel
