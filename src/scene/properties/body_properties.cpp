// What a body has: its place in the list of properties is here, and nowhere else.
#include "scene/properties/property_makers.h"

namespace bronvel {
namespace {

const std::vector<std::string> kinds{"static", "kinematic", "dynamic"};
const std::vector<std::string> sweepings{"automatic", "always", "never"};
const std::vector<std::string> axis_sets{"none", "x", "y", "z", "xy", "xz", "yz", "xyz"};

Property locked_axes(const char* name, const char* label, std::array<bool, 3> Body::*field, const char* tip) {
  auto p = listed::described<Body>(PropertyKind::word, name, label, "", "Where is it?", tip);
  p.words = axis_sets;
  p.get = [field](const Body& b) {
    std::string set;
    for (std::size_t i = 0; i < 3; ++i)
      if ((b.*field)[i]) set += "xyz"[i];
    return Value(set.empty() ? "none" : set);
  };
  p.set = [field](Body& b, const Value& v) {
    const std::string& set = std::get<std::string>(v);
    for (std::size_t i = 0; i < 3; ++i) (b.*field)[i] = set != "none" && set.find("xyz"[i]) != std::string::npos;
  };
  return p;
}

// A body's breaking is a value of its own: the makers above serve its fields.
Property of_breaking(const PropertyOf<Breaking>& inner) {
  Property p;
  static_cast<PropertyInfo&>(p) = inner;
  p.get = [get = inner.get](const Body& b) { return get(b.breaking); };
  p.set = [set = inner.set](Body& b, const Value& v) { set(b.breaking, v); };
  return p;
}

std::vector<Property> breaking_list() {
  constexpr const char* breaks = "When does it break?";
  const auto above = [](PropertyOf<Breaking> p) {
    p.low_open = true;
    return p;
  };
  const std::vector<PropertyOf<Breaking>> list{
      listed::word(
          "breaks_into", "breaks into", breaks, into_words(), &Breaking::into,
          "nothing: it never breaks; cells: irregular; bricks in courses; planks side by side; pane: rings and spokes; "
          "planes: by drawn cuts; parts: those of a compound. Until something breaks it moves as one body"),
      listed::number("pieces", "pieces", "", breaks, 1, 2000, &Breaking::pieces,
                     "how many cells or planks; 10 to 100 is common"),
      listed::number("piece_seed", "seed", "", breaks, 0, 1e9, &Breaking::seed, "another one gives other cells"),
      listed::own_vector<Breaking>("piece_near", "finer near", "m", breaks, -1e6, &Breaking::near,
                                   "in the body's own frame: where cells crowd and a pane's spokes meet"),
      listed::number("piece_crowding", "crowding", "", breaks, 0, 1, &Breaking::crowding,
                     "share of the cells that crowd there"),
      above(listed::number("brick_length", "brick length", "m", breaks, 0, 1e4, &Breaking::brick_length, "of a brick")),
      above(
          listed::number("brick_height", "brick height", "m", breaks, 0, 1e4, &Breaking::brick_height, "of a course")),
      listed::number("plank_length", "plank length", "m", breaks, 0, 1e6, &Breaking::plank_length,
                     "planks are cut across into parts about so long, where they may break; 0: each is one piece, and "
                     "breaks only from the next"),
      listed::number("pane_rings", "rings", "", breaks, 1, 40, &Breaking::rings, "of a pane"),
      listed::number("pane_spokes", "spokes", "", breaks, 3, 60, &Breaking::spokes, "of a pane"),
      listed::number("piece_unevenness", "unevenness", "", breaks, 0, 0.9, &Breaking::unevenness,
                     "of planks, and of a pane's rings and spokes: 0 all alike"),
      above(listed::number(
          "tension_strength", "tension", "Pa", breaks, 0, 1e15, &Breaking::tension,
          "stress at which bonds part when pulled or bent: mortar 0.3 MPa, window glass 30 MPa, ice 1 MPa, oak "
          "across the grain 5 MPa")),
      above(listed::number("shear_strength", "shear", "Pa", breaks, 0, 1e15, &Breaking::shear,
                           "stress at which bonds part when sheared; often about that in tension")),
      listed::number("break_impulse", "impulse", "N·s", breaks, 0, 1e12, &Breaking::impulse,
                     "the simple way: a bond parts when this impulse goes through it; 0: by the strengths"),
      above(listed::number(
          "toughness", "toughness", "J/m²", breaks, 0, 1e9, &Breaking::toughness,
          "what a square metre of new crack takes, for body:shatter: glass 10, ice 1, brick 50, oak 500")),
      listed::word(
          "held_pieces", "held pieces", breaks, held_words(), &Breaking::held,
          "pieces that the scene holds and that stay: at the bottom, the top, both ends of the longest way, all around "
          "the rim, or those listed in held_parts"),
      listed::number("merge_below", "merge below", "m³", breaks, 0, 1e9, &Breaking::merge_below,
                     "what would break off smaller than this stays with its neighbour; 0: nothing does"),
      listed::number("debris_below", "debris below", "m³", breaks, 0, 1e9, &Breaking::debris_below,
                     "parts smaller than this are debris, for the next two; 0: none are"),
      listed::number("debris_age", "debris lasts", "s", breaks, 0, 1e6, &Breaking::debris_age,
                     "debris shrinks and is removed after this time, and the log says so; 0: it stays"),
      listed::number(
          "debris_most", "debris most", "", breaks, 0, 1e6, &Breaking::debris_most,
          "how many pieces of debris this body may leave; the oldest go first, and the log says so; 0: any number"),
      listed::flag("parts_scripted", "parts scripted", breaks, &Breaking::parts_scripted,
                   "parts that break off carry the body's scripts, with its dials")};
  std::vector<Property> all;
  all.reserve(list.size());
  for (const PropertyOf<Breaking>& each : list) all.push_back(of_breaking(each));
  return all;
}

std::vector<Property> make_list() {
  constexpr const char* where = "Where is it?";
  constexpr const char* heavy = "How heavy?";
  constexpr const char* meets = "How does it meet others?";
  constexpr const char* slows = "What slows it?";
  std::vector<Property> list;

  list.push_back(
      listed::word("kind", "kind", where, kinds, &Body::kind,
                   "static never moves; kinematic moves as told and is not pushed; dynamic obeys forces and contacts"));
  list.push_back(listed::vector("position", "position", "m", where, &Body::position, "of the shape's middle; Y is up"));
  list.push_back(listed::rotation<Body>(where));
  list.push_back(listed::vector("velocity", "velocity", "m/s", where, &Body::velocity, "at the start of play"));
  list.push_back(listed::vector("angular_velocity", "angular velocity", "rad/s", where, &Body::angular_velocity,
                                "at the start of play, about the axes of the scene"));

  Property mass = listed::number("mass", "mass", "kg", heavy, 0, 1e12, &Body::mass,
                                 "what a force has to move; weight is mass × gravity. A full cask is about 250 kg");
  mass.low_open = true;
  list.push_back(mass);
  list.push_back(listed::number("gravity_factor", "gravity factor", "×", heavy, -100, 100, &Body::gravity_factor,
                                "gravity acts this many times: 1 as usual, 0 floats, below 0 rises"));

  list.push_back(listed::own_vector<Body>("centre_of_mass", "centre of mass", "m", heavy, -1e6, &Body::centre_of_mass,
                                          "in the body's own frame; left out, that of the shape filled evenly"));
  list.push_back(listed::own_vector<Body>(
      "inertia", "inertia", "kg·m²", heavy, 0, &Body::inertia,
      "about the body's own X, Y and Z through its centre of mass; left out, that of the shape"));

  list.push_back(
      listed::text("surface", "surface", meets, &Body::surface, "friction and restitution, from the scene's surfaces"));
  list.push_back(listed::own_number("restitution", "restitution", "", meets, 0, 1, &Body::restitution,
                                    "share of the closing speed given back by a hit: 0 stays, 1 gives all back. "
                                    "Set here it stands in for the surface's"));
  list.push_back(listed::own_number("friction", "friction", "", meets, 0, 10, &Body::friction,
                                    "share of the normal force that resists sliding, 0.1 for ice to 1 for rubber. "
                                    "Set here it stands in for the surface's"));
  list.push_back(
      listed::flag("solid", "solid", meets, &Body::solid, "off: it senses contacts but nothing bounces off it"));

  list.push_back(listed::flag("reports", "reports contacts", meets, &Body::reports,
                              "off: its scripts hear nothing of its contacts, so on.touch and on.part never come"));
  list.push_back(
      listed::word("sweeping", "sweeping", meets, sweepings, &Body::sweeping,
                   "whether its path is looked along so that it can't jump through thin things: automatic does so "
                   "when it moves far for its size"));
  list.push_back(locked_axes("locked_moves", "locked moves", &Body::locked_moves,
                             "axes of the scene along which a dynamic body may not move"));
  list.push_back(locked_axes("locked_turns", "locked turns", &Body::locked_turns,
                             "axes of the scene about which a dynamic body may not turn"));

  list.push_back(listed::number("linear_damping", "damping", "1/s", slows, 0, 1000, &Body::linear_damping,
                                "share of its speed lost in a second; 0 to 0.5 is common"));
  list.push_back(listed::number("angular_damping", "spin damping", "1/s", slows, 0, 1000, &Body::angular_damping,
                                "share of its spin lost in a second"));
  list.push_back(listed::number("linear_drag", "linear drag", "N·s/m", slows, 0, 1e9, &Body::linear_drag,
                                "c in F = −c v, as in syrup or slow water"));
  list.push_back(listed::number("drag_area", "drag area", "m²", slows, 0, 1e6, &Body::drag_area,
                                "drag coefficient × area, for F = ½ ρ v² × this; a person falling has about 0.7"));
  list.push_back(listed::flag("may_sleep", "may sleep", slows, &Body::may_sleep,
                              "at rest it stops costing anything until something stirs it"));
  list.push_back(listed::flag("silent", "silent", "How does it sound?", &Body::silent,
                              "on: its hits, slides and splashes are not heard; sounds of its scripts are"));
  for (Property& each : breaking_list()) list.push_back(std::move(each));
  return list;
}

}  // namespace

std::span<const Property> body_properties() {
  static const std::vector<Property> list = make_list();
  return list;
}

const Property* find_property(const std::string& name) {
  for (const Property& p : body_properties())
    if (p.name == name) return &p;
  return nullptr;
}

std::string kind_word(MotionKind kind) {
  return kinds.at(static_cast<std::size_t>(kind));
}

}  // namespace bronvel
