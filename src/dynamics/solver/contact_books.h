// What contacts gave to bodies whose books are kept, in each half of a sub-step.
#pragma once

#include "dynamics/state/world_state.h"

namespace bronvel {

/// Before the sub-steps: contacts have given nothing yet.
void begin_contact_books(WorldState& state);

/// After the iterations before the move (`first_half`), or after those that follow it: the impulses since the
/// sub-step's start, or since the move.
void book_contacts(WorldState& state, bool first_half);

}  // namespace bronvel
