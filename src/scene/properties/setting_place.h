// Where a value of the scene stands: of which thing, under which name. Inputs of a play, `--set`, the card and what is
// kept at stop all name by it what they set.
#pragma once

#include <string>

#include "scene/properties/property.h"

namespace bronvel {

/// What has the value.
enum class SettingOf { body, dial, joint, zone, surface, world };

struct SettingPlace {
  SettingOf of = SettingOf::body;
  std::string owner{};   ///< the body (a dial's too), joint, zone or surface; "" for what holds for the whole scene
  std::string name{};    ///< of the property or dial
  std::string script{};  ///< of a dial: whose it is; "": whichever script of the body has it
  bool operator==(const SettingPlace&) const = default;
};

SettingPlace body_place(const std::string& body, const std::string& property);
SettingPlace dial_place(const std::string& body, const std::string& script, const std::string& dial);

/// "fender.mass", "fender.dials.nudge.lua/push", "cord.stiffness", "basin.level", "surfaces.cork.restitution",
/// "world.gravity": as `setting_named` reads it.
std::string place_text(const SettingPlace& place);

/// A place, and the text of a value for it.
struct SettingText {
  SettingPlace place;
  std::string value;
};

/// Reads "fender.mass=4". A body's name comes before a joint's, a joint's before a zone's. Throws Error, saying what is
/// known, when the scene has no such thing or the thing no such property; of a dial only the body is looked for.
SettingText setting_named(const Scene& scene, const std::string& assignment);

/// What is said of the property; null for a dial, which its script declares, and for what there is not.
const PropertyInfo* info_at(const SettingPlace& place);

/// Whether the scene has the thing, of a dial the body.
bool in_scene(const Scene& scene, const SettingPlace& place);

/// Throws Error, placed at `where`, for what no dial can be set to.
DialValue dial_value_of(const Value& value, const std::string& where);

/// The scene's value. Nothing (`monostate`) for a dial that is as its script declares it, and where the thing is gone.
Value value_at(const Scene& scene, const SettingPlace& place);

/// Sets it. Throws Error when the thing is gone or the value does not fit the property; whether the scene is then one
/// that can be played is for `check_scene`.
void set_value_at(Scene& scene, const SettingPlace& place, const Value& value);

/// Whether a running play takes it over; what does not counts from the next play on.
bool counts_in_play(const SettingPlace& place);

}  // namespace bronvel
