// What stands over the stage of waters, winds and bonds: depth rules, streamers, a floater's centres, strained bonds.
#pragma once

#include "app/session/session.h"
#include "app/stage/pencil.h"

namespace bronvel {

/// A rule of depth at each water's nearest corner.
void draw_depths(Pencil& pencil, const Session& session);

/// Short strokes that go along with the wind, and on the water with the current.
void draw_streams(Pencil& pencil, const Session& session);

/// The chosen body's centre of mass (G), centre of buoyancy (B) and metacentre (M), and how deep it lies.
void draw_floating(Pencil& pencil, const Session& session);

/// The chosen body's bonds, the more strained the redder and the thicker, the worst with its share.
void draw_bonds(Pencil& pencil, const Session& session);

}  // namespace bronvel
