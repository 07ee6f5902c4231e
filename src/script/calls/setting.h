// A setting as text, put into a scene before it is played.
#pragma once

#include <string>

#include "scene/files/folder.h"
#include "script/calls/host.h"

namespace bronvel {

/// "fender.mass=4", "fender.dials.push=20" ("fender.dials.nudge.lua/push=20" where several scripts have a dial of that
/// name), "cord.stiffness=2 kN", "basin.level=1.2", "surfaces.cork.restitution=0.9", "world.gravity=0,-1.62,0". A
/// body's name comes before a joint's, a joint's before a zone's. Throws Error, saying what is known, and changes
/// nothing when it does not fit.
void put_setting(SceneFolder& folder, const std::string& assignment);

/// A dial as a setting names it. No script: whichever has it.
struct DialName {
  std::string script, dial;
};
/// Why the dial can't be set to that, as "wants yes or no, got 3"; empty if it can.
std::string dial_fault(const Dial& dial, const DialValue& value);

/// Reads what a user typed for it: a number with its unit, true or false, one of its words, a thing's name ("none" or
/// nothing: none). Throws Error, placed at `where`.
DialValue dial_from_text(const Dial& dial, const std::string& text, const std::string& where);

/// Leaves the one of these dials that the name means. Throws Error where there is none or several; `where` is what was
/// set ("fender.dials.push").
void find_dial(std::vector<Dial>& dials, const DialName& named, const std::string& where);

}  // namespace bronvel
