// The fan of a sweep on the stage: the way of what is measured for each value, and the wish as a line.
#pragma once

#include "app/session/session.h"
#include "app/stage/pencil.h"

namespace bronvel {

void draw_fan(Pencil& pencil, Session& session);

}  // namespace bronvel
