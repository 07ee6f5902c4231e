// What a zone has.
#include "dynamics/fields/wave_look.h"
#include "geometry/base/error.h"
#include "geometry/shapes/sized.h"
#include "scene/document/names.h"
#include "scene/properties/property_makers.h"

namespace bronvel {
namespace {

const std::vector<std::string> pull_targets{"point", "axis", "plane"};
const std::vector<std::string> falloffs{"even", "linear", "square", "spring", "inverse_square"};

std::vector<ZoneProperty> make_zone_list() {
  constexpr const char* where = "Where is it?";
  constexpr const char* does = "What does it do?";
  std::vector<ZoneProperty> list;
  list.push_back(
      listed::vector("position", "position", "m", where, &SceneZone::position, "of the shape's middle; Y is up"));
  list.push_back(listed::rotation<SceneZone>(where));
  list.push_back(listed::own_vector("gravity", "gravity", "m/s²", does, -1e6, &SceneZone::gravity,
                                    "instead of the scene's, inside; left out, the scene's"));
  list.push_back(listed::number("gravity_factor", "gravity factor", "×", does, -100, 100, &SceneZone::gravity_factor,
                                "gravity acts this many times inside: 0.2 is light, 0 floats"));
  list.push_back(
      listed::vector("wind", "wind", "m/s", does, &SceneZone::wind,
                     "velocity of the air inside; it pushes bodies through their drag area and linear drag"));
  list.push_back(
      listed::number("gusts", "gusts", "×", does, 0, 1, &SceneZone::gusts,
                     "share of the wind that swings up and down: 0 steady, 0.5 squally; the same for the same seed"));
  ZoneProperty gust_time = listed::number("gust_time", "gust time", "s", does, 0, 1e4, &SceneZone::gust_time,
                                          "about how long a gust takes to come and go; 2 to 10 s is common");
  gust_time.low_open = true;
  list.push_back(gust_time);
  list.push_back(listed::number("linear_damping", "damping", "1/s", does, 0, 1000, &SceneZone::linear_damping,
                                "share of its speed that a body loses in a second inside, on top of its own"));
  list.push_back(listed::number("angular_damping", "spin damping", "1/s", does, 0, 1000, &SceneZone::angular_damping,
                                "share of its spin that a body loses in a second inside, on top of its own"));
  constexpr const char* wet = "Is it water?";
  constexpr const char* pulls = "Does it pull?";
  list.push_back(
      listed::flag("water", "holds water", wet, &SceneZone::water,
                   "bodies float in it by what they displace, and its damping works against the water's own motion"));
  ZoneProperty density = listed::number("density", "density", "kg/m³", wet, 0, 1e6, &SceneZone::density,
                                        "fresh water 1000, the sea 1025, oil 900; what is lighter for its size floats");
  density.low_open = true;
  list.push_back(density);
  list.push_back(
      listed::own_number("level", "level", "m", wet, -1e6, 1e6, &SceneZone::level,
                         "height of the still surface in the scene; left out, the zone's top. Move it for a tide"));
  list.push_back(listed::vector("current", "current", "m/s", wet, &SceneZone::current, "velocity of the water"));
  list.push_back(
      listed::number("water_drag", "drag", "", wet, 0, 100, &SceneZone::water_drag,
                     "drag coefficient of bodies that have no drag area: 1 for blunt things, 0.4 for round ones"));
  list.push_back(listed::number("wave_height", "wave height", "m", wet, 0, 1e4, &SceneZone::wave_height,
                                "from trough to crest, no more than a seventh of the length; 0: flat"));
  ZoneProperty wave_length = listed::number("wave_length", "wave length", "m", wet, 0, 1e6, &SceneZone::wave_length,
                                            "from crest to crest; long waves run faster, as on deep water");
  wave_length.low_open = true;
  list.push_back(wave_length);
  list.push_back(listed::number("wave_heading", "wave heading", "rad", wet, -1e3, 1e3, &SceneZone::wave_heading,
                                "where they run, turned about the vertical from the scene's X"));
  list.push_back(listed::number("wave_trains", "wave trains", "", wet, 1, static_cast<int>(most_trains),
                                &SceneZone::wave_trains,
                                "how many waves run over each other: 1 regular, 4 and more a broken sea"));
  list.push_back(
      listed::number("pull", "pull", "m/s²", pulls, -1e6, 1e6, &SceneZone::pull,
                     "acceleration towards the zone's middle, its axis or its plane; below 0 it drives off"));
  list.push_back(listed::word("pull_to", "pull to", pulls, pull_targets, &SceneZone::pull_to,
                              "the zone's middle, its own Y axis, or the plane through its middle across that axis"));
  list.push_back(
      listed::word("pull_falloff", "pull falloff", pulls, falloffs, &SceneZone::pull_falloff,
                   "with the distance: even everywhere; linear or square to nothing at the rim; spring grows from "
                   "nothing to full at the rim; inverse_square is full at 1 m"));
  return list;
}

// Of a shape that has no such length: none.
std::optional<std::size_t> size_of(const Shape& shape, const std::string& name) {
  const std::vector<ShapeSize> sizes = shape_sizes(shape);
  for (std::size_t i = 0; i < sizes.size(); ++i) {
    std::string word = sizes[i].name;
    std::replace(word.begin(), word.end(), ' ', '_');
    if (word == name) return i;
  }
  return std::nullopt;
}

std::vector<ZoneProperty> make_form_list() {
  constexpr const char* what = "What is it?";
  std::vector<ZoneProperty> list;
  for (const char* name :
       {"size_x", "size_y", "size_z", "radius", "length", "height", "reach_x", "reach_y", "reach_z"}) {
    ZoneProperty p =
        listed::described<SceneZone>(PropertyKind::optional_number, name, name, "m", what, "of the zone's shape");
    std::replace(p.label.begin(), p.label.end(), '_', ' ');
    p.low = 0;
    p.low_open = true;
    p.high = 1e6;
    p.get = [name](const SceneZone& zone) {
      const auto size = size_of(zone.shape, name);
      return size ? Value(shape_sizes(zone.shape)[*size].value) : Value();
    };
    p.set = [name](SceneZone& zone, const Value& value) {
      const auto size = size_of(zone.shape, name);
      if (!size || !std::holds_alternative<double>(value)) throw Error(zone.name, "has no " + std::string(name));
      zone.shape = with_size(zone.shape, *size, std::get<double>(value));
    };
    list.push_back(p);
  }
  ZoneProperty tags = listed::described<SceneZone>(PropertyKind::text, "tags", "tags", "", what,
                                                   "bodies with one of these tags are sensed; none named: all");
  tags.get = [](const SceneZone& zone) { return Value(names_text(zone.tags)); };
  tags.set = [](SceneZone& zone, const Value& value) { zone.tags = names_in(std::get<std::string>(value)); };
  list.push_back(tags);
  return list;
}

}  // namespace

std::span<const ZoneProperty> zone_form_properties() {
  static const std::vector<ZoneProperty> list = make_form_list();
  return list;
}

std::span<const ZoneProperty> zone_properties() {
  static const std::vector<ZoneProperty> list = make_zone_list();
  return list;
}

const ZoneProperty* find_zone_property(const std::string& name) {
  for (const ZoneProperty& p : zone_properties())
    if (p.name == name) return &p;
  return nullptr;
}

}  // namespace bronvel
