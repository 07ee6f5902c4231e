// The list of a body's properties, written once: the scene file, its schema, the card, the command line and scripts
// all read it. To add a property, add a field to Body and a line here.
#pragma once

#include <functional>
#include <span>
#include <string>
#include <variant>
#include <vector>

#include "scene/document/document.h"

namespace bronvel {

/// A property's value, or a dial's. `monostate` means not set (an own value left to the surface).
using Value = std::variant<std::monostate, double, bool, std::string, Vec3, Quat, NamedThing>;
bool operator==(const Value& a, const Value& b) = delete;
bool same_value(const Value& a, const Value& b);

enum class PropertyKind { number, optional_number, flag, word, text, vector, optional_vector, rotation };

/// What is said of a property, whoever has it.
struct PropertyInfo {
  std::string name;   ///< as in scene.json, Lua and --set
  std::string label;  ///< on the card
  std::string unit;   ///< SI, empty if none
  std::string group;  ///< the question it answers on the card
  std::string tip;
  PropertyKind kind = PropertyKind::number;
  double low = -1e300, high = 1e300;
  bool low_open = false;           ///< the value must be above `low`, not equal
  bool whole = false;              ///< the value must be a whole number
  std::vector<std::string> words;  ///< what a word may be
};

/// What is said of one without group, range or words.
PropertyInfo property_info(PropertyKind kind, const std::string& name, const std::string& label,
                           const std::string& unit, const std::string& tip);

/// A property of an Owner.
template <class Owner>
struct PropertyOf : PropertyInfo {
  std::function<Value(const Owner&)> get;
  std::function<void(Owner&, const Value&)> set;  ///< takes a value that value_fault found good
};
using Property = PropertyOf<Body>;
using JointProperty = PropertyOf<SceneJoint>;
using ZoneProperty = PropertyOf<SceneZone>;
using WorldProperty = PropertyOf<WorldSettings>;
using SurfaceProperty = PropertyOf<SceneSurface>;
using SceneProperty = PropertyOf<Scene>;

/// In the order in which they are written and shown.
std::span<const Property> body_properties();
std::span<const JointProperty> joint_properties();
std::span<const JointProperty> axis_properties();  ///< of the six axes: "move_x.freedom", "turn_z.stiffness"
std::span<const ZoneProperty> zone_properties();
std::span<const ZoneProperty> zone_form_properties();  ///< its sizes and tags, which the scene file says otherwise
std::span<const WorldProperty> world_properties();
std::span<const SurfaceProperty> surface_properties();
std::span<const SceneProperty> scene_properties();       ///< what holds for all of it beside the world's
const Property* find_property(const std::string& name);  ///< null if there is none of that name
const ZoneProperty* find_zone_property(const std::string& name);

/// Why the value can't be taken, as "wants a number above 0, got -4"; empty if it can.
std::string value_fault(const PropertyInfo& property, const Value& value);

/// "3.5", "true", "(1, 2, 3)", "oak".
std::string value_text(const Value& value);

/// As `value_from_text` reads it back, exact: "3.5", "1,2,3", "oak"; "none" for a value that is not set.
std::string assignable_text(const Value& value);

Value value_of(const DialValue& dial);

/// Reads what a user typed after `--set name=`: a number, with a unit and as a sum if one likes ("30MPa", "12*3");
/// three or four numbers parted by commas, with or without the brackets of scene.json; a word. Throws Error, placed at
/// `where`
/// ("fender.mass"), when it does not fit the property.
Value value_from_text(const PropertyInfo& property, const std::string& text, const std::string& where);

std::string kind_word(MotionKind kind);  ///< "static", "kinematic", "dynamic"

/// The shortest text that reads back as the same number.
std::string number_text(double value);

}  // namespace bronvel
