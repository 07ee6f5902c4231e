// The property list.
#include "scene/property.h"

#include <array>
#include <charconv>
#include <sstream>

#include "geometry/error.h"

namespace bronvel {
namespace {

const std::vector<std::string> kinds{"static", "kinematic", "dynamic"};
const std::vector<std::string> pull_targets{"point", "axis", "plane"};
const std::vector<std::string> falloffs{"even", "linear", "square", "spring", "inverse_square"};
const std::vector<std::string> sweepings{"automatic", "always", "never"};

// What every maker below begins with.
template <class Owner>
PropertyOf<Owner> described(PropertyKind kind, const char* name, const char* label, const char* unit, const char* group,
                            const char* tip) {
  PropertyOf<Owner> p;
  static_cast<PropertyInfo&>(p) = property_info(kind, name, label, unit, tip);
  p.group = group;
  return p;
}

template <class Owner>
PropertyOf<Owner> number(const char* name, const char* label, const char* unit, const char* group, double low,
                         double high, double Owner::*field, const char* tip) {
  auto p = described<Owner>(PropertyKind::number, name, label, unit, group, tip);
  p.low = low;
  p.high = high;
  p.get = [field](const Owner& b) { return Value(b.*field); };
  p.set = [field](Owner& b, const Value& v) { b.*field = std::get<double>(v); };
  return p;
}

template <class Owner>
PropertyOf<Owner> own_number(const char* name, const char* label, const char* unit, const char* group, double low,
                             double high, std::optional<double> Owner::*field, const char* tip) {
  auto p = described<Owner>(PropertyKind::optional_number, name, label, unit, group, tip);
  p.low = low;
  p.high = high;
  p.get = [field](const Owner& b) { return b.*field ? Value(*(b.*field)) : Value(); };
  p.set = [field](Owner& b, const Value& v) {
    if (const auto* x = std::get_if<double>(&v))
      b.*field = *x;
    else
      (b.*field).reset();
  };
  return p;
}

template <class Owner>
PropertyOf<Owner> vector(const char* name, const char* label, const char* unit, const char* group, Vec3 Owner::*field,
                         const char* tip) {
  auto p = described<Owner>(PropertyKind::vector, name, label, unit, group, tip);
  p.low = -1e6;
  p.high = 1e6;
  p.get = [field](const Owner& b) { return Value(b.*field); };
  p.set = [field](Owner& b, const Value& v) { b.*field = std::get<Vec3>(v); };
  return p;
}

// A unit quaternion.
template <class Owner>
PropertyOf<Owner> rotation(const char* group) {
  auto p =
      described<Owner>(PropertyKind::rotation, "orientation", "orientation", "", group, "unit quaternion x, y, z, w");
  p.get = [](const Owner& b) { return Value(b.orientation); };
  p.set = [](Owner& b, const Value& v) {
    const Quat& q = std::get<Quat>(v);
    // One that is unit already is kept bit for bit, so that files come back as they were.
    b.orientation = std::abs(q.squaredNorm() - 1) < 1e-12 ? q : q.normalized();
  };
  return p;
}

template <class Owner>
PropertyOf<Owner> own_vector(const char* name, const char* label, const char* unit, const char* group, double low,
                             std::optional<Vec3> Owner::*field, const char* tip) {
  auto p = described<Owner>(PropertyKind::optional_vector, name, label, unit, group, tip);
  p.low = low;
  p.high = 1e12;
  p.get = [field](const Owner& b) { return b.*field ? Value(*(b.*field)) : Value(); };
  p.set = [field](Owner& b, const Value& v) {
    if (const auto* x = std::get_if<Vec3>(&v))
      b.*field = *x;
    else
      (b.*field).reset();
  };
  return p;
}

template <class Owner>
PropertyOf<Owner> flag(const char* name, const char* label, const char* group, bool Owner::*field, const char* tip) {
  auto p = described<Owner>(PropertyKind::flag, name, label, "", group, tip);
  p.get = [field](const Owner& b) { return Value(b.*field); };
  p.set = [field](Owner& b, const Value& v) { b.*field = std::get<bool>(v); };
  return p;
}

template <class Owner>
PropertyOf<Owner> text(const char* name, const char* label, const char* group, std::string Owner::*field,
                       const char* tip) {
  auto p = described<Owner>(PropertyKind::text, name, label, "", group, tip);
  p.get = [field](const Owner& b) { return Value(b.*field); };
  p.set = [field](Owner& b, const Value& v) { b.*field = std::get<std::string>(v); };
  return p;
}

// An enumeration whose values are the words' places in the list.
template <class Owner, class Choice>
PropertyOf<Owner> word(const char* name, const char* label, const char* group, const std::vector<std::string>& words,
                       Choice Owner::*field, const char* tip) {
  auto p = described<Owner>(PropertyKind::word, name, label, "", group, tip);
  p.words = words;
  p.get = [field, words](const Owner& b) { return Value(words.at(static_cast<std::size_t>(b.*field))); };
  p.set = [field, words](Owner& b, const Value& v) {
    const auto found = std::find(words.begin(), words.end(), std::get<std::string>(v));
    b.*field = static_cast<Choice>(found - words.begin());
  };
  return p;
}

const std::vector<std::string> axis_sets{"none", "x", "y", "z", "xy", "xz", "yz", "xyz"};

Property locked_axes(const char* name, const char* label, std::array<bool, 3> Body::*field, const char* tip) {
  auto p = described<Body>(PropertyKind::word, name, label, "", "Where is it?", tip);
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
      word(
          "breaks_into", "breaks into", breaks, into_words(), &Breaking::into,
          "nothing: it never breaks; cells: irregular; bricks in courses; planks side by side; pane: rings and spokes; "
          "planes: by drawn cuts; parts: those of a compound. Until something breaks it moves as one body"),
      number("pieces", "pieces", "", breaks, 1, 2000, &Breaking::pieces,
             "how many cells or planks; 10 to 100 is common"),
      number("piece_seed", "seed", "", breaks, 0, 1e9, &Breaking::seed, "another one gives other cells"),
      own_vector<Breaking>("piece_near", "finer near", "m", breaks, -1e6, &Breaking::near,
                           "in the body's own frame: where cells crowd and a pane's spokes meet"),
      number("piece_crowding", "crowding", "", breaks, 0, 1, &Breaking::crowding,
             "share of the cells that crowd there"),
      above(number("brick_length", "brick length", "m", breaks, 0, 1e4, &Breaking::brick_length, "of a brick")),
      above(number("brick_height", "brick height", "m", breaks, 0, 1e4, &Breaking::brick_height, "of a course")),
      number("pane_rings", "rings", "", breaks, 1, 40, &Breaking::rings, "of a pane"),
      number("pane_spokes", "spokes", "", breaks, 3, 60, &Breaking::spokes, "of a pane"),
      number("piece_unevenness", "unevenness", "", breaks, 0, 0.9, &Breaking::unevenness,
             "of planks, and of a pane's rings and spokes: 0 all alike"),
      above(
          number("tension_strength", "tension", "Pa", breaks, 0, 1e15, &Breaking::tension,
                 "stress at which bonds part when pulled or bent: mortar 0.3 MPa, window glass 30 MPa, ice 1 MPa, oak "
                 "across the grain 5 MPa")),
      above(number("shear_strength", "shear", "Pa", breaks, 0, 1e15, &Breaking::shear,
                   "stress at which bonds part when sheared; often about that in tension")),
      number("break_impulse", "impulse", "N·s", breaks, 0, 1e12, &Breaking::impulse,
             "the simple way: a bond parts when this impulse goes through it; 0: by the strengths"),
      above(number("toughness", "toughness", "J/m²", breaks, 0, 1e9, &Breaking::toughness,
                   "what a square metre of new crack takes, for body:shatter: glass 10, ice 1, brick 50, oak 500")),
      word(
          "held_pieces", "held pieces", breaks, held_words(), &Breaking::held,
          "pieces that the scene holds and that stay: at the bottom, the top, both ends of the longest way, all around "
          "the rim, or those listed in held_parts"),
      number("merge_below", "merge below", "m³", breaks, 0, 1e9, &Breaking::merge_below,
             "what would break off smaller than this stays with its neighbour; 0: nothing does"),
      number("debris_below", "debris below", "m³", breaks, 0, 1e9, &Breaking::debris_below,
             "parts smaller than this are debris, for the next two; 0: none are"),
      number("debris_age", "debris lasts", "s", breaks, 0, 1e6, &Breaking::debris_age,
             "debris shrinks and is removed after this time, and the log says so; 0: it stays"),
      number("debris_most", "debris most", "", breaks, 0, 1e6, &Breaking::debris_most,
             "how many pieces of debris this body may leave; the oldest go first, and the log says so; 0: any number"),
      flag("parts_scripted", "parts scripted", breaks, &Breaking::parts_scripted,
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
      word("kind", "kind", where, kinds, &Body::kind,
           "static never moves; kinematic moves as told and is not pushed; dynamic obeys forces and contacts"));
  list.push_back(vector("position", "position", "m", where, &Body::position, "of the shape's middle; Y is up"));
  list.push_back(rotation<Body>(where));
  list.push_back(vector("velocity", "velocity", "m/s", where, &Body::velocity, "at the start of play"));
  list.push_back(vector("angular_velocity", "angular velocity", "rad/s", where, &Body::angular_velocity,
                        "at the start of play, about the axes of the scene"));

  Property mass = number("mass", "mass", "kg", heavy, 0, 1e12, &Body::mass,
                         "what a force has to move; weight is mass × gravity. A full cask is about 250 kg");
  mass.low_open = true;
  list.push_back(mass);
  list.push_back(number("gravity_factor", "gravity factor", "×", heavy, -100, 100, &Body::gravity_factor,
                        "gravity acts this many times: 1 as usual, 0 floats, below 0 rises"));

  list.push_back(own_vector<Body>("centre_of_mass", "centre of mass", "m", heavy, -1e6, &Body::centre_of_mass,
                                  "in the body's own frame; left out, that of the shape filled evenly"));
  list.push_back(
      own_vector<Body>("inertia", "inertia", "kg·m²", heavy, 0, &Body::inertia,
                       "about the body's own X, Y and Z through its centre of mass; left out, that of the shape"));

  list.push_back(
      text("surface", "surface", meets, &Body::surface, "friction and restitution, from the scene's surfaces"));
  list.push_back(own_number("restitution", "restitution", "", meets, 0, 1, &Body::restitution,
                            "share of the closing speed given back by a hit: 0 stays, 1 gives all back. "
                            "Set here it stands in for the surface's"));
  list.push_back(own_number("friction", "friction", "", meets, 0, 10, &Body::friction,
                            "share of the normal force that resists sliding, 0.1 for ice to 1 for rubber. "
                            "Set here it stands in for the surface's"));
  list.push_back(flag("solid", "solid", meets, &Body::solid, "off: it senses contacts but nothing bounces off it"));

  list.push_back(flag("reports", "reports contacts", meets, &Body::reports,
                      "off: its scripts hear nothing of its contacts, so on.touch and on.part never come"));
  list.push_back(word("sweeping", "sweeping", meets, sweepings, &Body::sweeping,
                      "whether its path is looked along so that it can't jump through thin things: automatic does so "
                      "when it moves far for its size"));
  list.push_back(locked_axes("locked_moves", "locked moves", &Body::locked_moves,
                             "axes of the scene along which a dynamic body may not move"));
  list.push_back(locked_axes("locked_turns", "locked turns", &Body::locked_turns,
                             "axes of the scene about which a dynamic body may not turn"));

  list.push_back(number("linear_damping", "damping", "1/s", slows, 0, 1000, &Body::linear_damping,
                        "share of its speed lost in a second; 0 to 0.5 is common"));
  list.push_back(number("angular_damping", "spin damping", "1/s", slows, 0, 1000, &Body::angular_damping,
                        "share of its spin lost in a second"));
  list.push_back(number("linear_drag", "linear drag", "N·s/m", slows, 0, 1e9, &Body::linear_drag,
                        "c in F = −c v, as in syrup or slow water"));
  list.push_back(number("drag_area", "drag area", "m²", slows, 0, 1e6, &Body::drag_area,
                        "drag coefficient × area, for F = ½ ρ v² × this; a person falling has about 0.7"));
  list.push_back(flag("may_sleep", "may sleep", slows, &Body::may_sleep,
                      "at rest it stops costing anything until something stirs it"));
  list.push_back(flag("silent", "silent", "How does it sound?", &Body::silent,
                      "on: its hits, slides and splashes are not heard; sounds of its scripts are"));
  for (Property& each : breaking_list()) list.push_back(std::move(each));
  return list;
}

std::vector<JointProperty> make_joint_list() {
  constexpr const char* what = "What does it tie?";
  constexpr const char* goes = "How far does it go?";
  constexpr const char* pulls = "What pulls on it?";
  constexpr const char* breaks = "When does it break?";
  std::vector<JointProperty> list;
  std::vector<std::string> joint_words;
  joint_words.reserve(7);
  for (int i = 0; i < 7; ++i) joint_words.push_back(joint_word(static_cast<JointKind>(i)));
  list.push_back(word("kind", "kind", what, joint_words, &SceneJoint::kind,
                      "ball turns every way; hinge about its axis; slider moves along it; fixed not at all; distance "
                      "keeps two points between a least and a greatest length; pulley is a rope over two supports"));
  list.push_back(text("a", "body A", what, &SceneJoint::a, "the body that it hangs on; empty: the scene itself"));
  list.push_back(text("b", "body B", what, &SceneJoint::b, "the body that it holds"));
  list.push_back(vector("anchor_a", "anchor on A", "m", what, &SceneJoint::anchor_a,
                        "in A's own frame; in the scene's where there is no A"));
  list.push_back(vector("anchor_b", "anchor on B", "m", what, &SceneJoint::anchor_b, "in B's own frame"));
  list.push_back(vector("axis", "axis", "", what, &SceneJoint::axis,
                        "of hinge, slider, twist and the six axes' X, in A's own frame; B's follows from how the two "
                        "stand when the scene starts, where angle and travel are 0"));
  list.push_back(
      own_number("low", "least", "", goes, -1e6, 1e6, &SceneJoint::low, "least angle (rad), travel or length (m)"));
  list.push_back(own_number("high", "greatest", "", goes, -1e6, 1e6, &SceneJoint::high,
                            "greatest angle (rad), travel or length (m); for a pulley the length of the rope"));
  list.push_back(own_number("cone", "cone", "rad", goes, 1e-6, pi, &SceneJoint::cone,
                            "ball: how far the axis may lean from where it started"));
  list.push_back(number("stiffness", "stiffness", "", pulls, 0, 1e15, &SceneJoint::stiffness,
                        "of a spring, N/m or N·m/rad; 0: none"));
  list.push_back(number("damping", "damping", "", pulls, 0, 1e15, &SceneJoint::damping, "N·s/m or N·m·s/rad"));
  list.push_back(number("rest", "rest", "", pulls, -1e6, 1e6, &SceneJoint::rest,
                        "angle, travel or length at which the spring pulls nowhere"));
  list.push_back(number("motor_speed", "motor speed", "", pulls, -1e6, 1e6, &SceneJoint::motor_speed,
                        "that the motor tries to keep, rad/s or m/s"));
  list.push_back(number("motor_most", "motor's most", "", pulls, 0, 1e15, &SceneJoint::motor_most,
                        "its greatest torque or force, N·m or N; 0: no motor"));
  list.push_back(number("pay_out", "pay out", "m/s", pulls, -1e6, 1e6, &SceneJoint::pay_out,
                        "distance: how fast the greatest length grows; below 0 it is hauled in"));
  list.push_back(vector("support_a", "support of A", "m", what, &SceneJoint::support_a,
                        "pulley: where the rope of A turns, scene frame"));
  list.push_back(vector("support_b", "support of B", "m", what, &SceneJoint::support_b,
                        "pulley: where the rope of B turns, scene frame"));
  JointProperty ratio = number("ratio", "ratio", "×", what, 0, 1e6, &SceneJoint::ratio,
                               "pulley: rope given up on A's side for each metre taken on B's");
  ratio.low_open = true;
  list.push_back(ratio);
  list.push_back(flag("bodies_meet", "bodies meet", what, &SceneJoint::bodies_meet,
                      "whether the two bodies collide with each other"));
  list.push_back(number("breaks_at_force", "breaks at force", "N", breaks, 0, 1e15, &SceneJoint::breaks_at_force,
                        "force at which it snaps; 0: never"));
  list.push_back(number("breaks_at_torque", "breaks at torque", "N·m", breaks, 0, 1e15, &SceneJoint::breaks_at_torque,
                        "torque at which it snaps; 0: never"));
  return list;
}

std::vector<ZoneProperty> make_zone_list() {
  constexpr const char* where = "Where is it?";
  constexpr const char* does = "What does it do?";
  std::vector<ZoneProperty> list;
  list.push_back(vector("position", "position", "m", where, &SceneZone::position, "of the shape's middle; Y is up"));
  list.push_back(rotation<SceneZone>(where));
  list.push_back(own_vector("gravity", "gravity", "m/s²", does, -1e6, &SceneZone::gravity,
                            "instead of the scene's, inside; left out, the scene's"));
  list.push_back(number("gravity_factor", "gravity factor", "×", does, -100, 100, &SceneZone::gravity_factor,
                        "gravity acts this many times inside: 0.2 is light, 0 floats"));
  list.push_back(vector("wind", "wind", "m/s", does, &SceneZone::wind,
                        "velocity of the air inside; it pushes bodies through their drag area and linear drag"));
  list.push_back(
      number("gusts", "gusts", "×", does, 0, 1, &SceneZone::gusts,
             "share of the wind that swings up and down: 0 steady, 0.5 squally; the same for the same seed"));
  ZoneProperty gust_time = number("gust_time", "gust time", "s", does, 0, 1e4, &SceneZone::gust_time,
                                  "about how long a gust takes to come and go; 2 to 10 s is common");
  gust_time.low_open = true;
  list.push_back(gust_time);
  list.push_back(number("linear_damping", "damping", "1/s", does, 0, 1000, &SceneZone::linear_damping,
                        "share of its speed that a body loses in a second inside, on top of its own"));
  list.push_back(number("angular_damping", "spin damping", "1/s", does, 0, 1000, &SceneZone::angular_damping,
                        "share of its spin that a body loses in a second inside, on top of its own"));
  constexpr const char* wet = "Is it water?";
  constexpr const char* pulls = "Does it pull?";
  list.push_back(
      flag("water", "holds water", wet, &SceneZone::water,
           "bodies float in it by what they displace, and its damping works against the water's own motion"));
  ZoneProperty density = number("density", "density", "kg/m³", wet, 0, 1e6, &SceneZone::density,
                                "fresh water 1000, the sea 1025, oil 900; what is lighter for its size floats");
  density.low_open = true;
  list.push_back(density);
  list.push_back(own_number("level", "level", "m", wet, -1e6, 1e6, &SceneZone::level,
                            "height of the still surface in the scene; left out, the zone's top. Move it for a tide"));
  list.push_back(vector("current", "current", "m/s", wet, &SceneZone::current, "velocity of the water"));
  list.push_back(number("water_drag", "drag", "", wet, 0, 100, &SceneZone::water_drag,
                        "drag coefficient of bodies that have no drag area: 1 for blunt things, 0.4 for round ones"));
  list.push_back(number("wave_height", "wave height", "m", wet, 0, 1e4, &SceneZone::wave_height,
                        "from trough to crest, no more than a seventh of the length; 0: flat"));
  ZoneProperty wave_length = number("wave_length", "wave length", "m", wet, 0, 1e6, &SceneZone::wave_length,
                                    "from crest to crest; long waves run faster, as on deep water");
  wave_length.low_open = true;
  list.push_back(wave_length);
  list.push_back(number("wave_heading", "wave heading", "rad", wet, -1e3, 1e3, &SceneZone::wave_heading,
                        "where they run, turned about the vertical from the scene's X"));
  list.push_back(number("wave_trains", "wave trains", "", wet, 1, 16, &SceneZone::wave_trains,
                        "how many waves run over each other: 1 regular, 4 and more a broken sea"));
  list.push_back(number("pull", "pull", "m/s²", pulls, -1e6, 1e6, &SceneZone::pull,
                        "acceleration towards the zone's middle, its axis or its plane; below 0 it drives off"));
  list.push_back(word("pull_to", "pull to", pulls, pull_targets, &SceneZone::pull_to,
                      "the zone's middle, its own Y axis, or the plane through its middle across that axis"));
  list.push_back(word("pull_falloff", "pull falloff", pulls, falloffs, &SceneZone::pull_falloff,
                      "with the distance: even everywhere; linear or square to nothing at the rim; spring grows from "
                      "nothing to full at the rim; inverse_square is full at 1 m"));
  return list;
}

std::string range_text(const PropertyInfo& p) {
  const bool low = p.low > -1e299, high = p.high < 1e299;
  if (low && high && !p.low_open) return "from " + number_text(p.low) + " to " + number_text(p.high);
  if (low && p.low_open) return "above " + number_text(p.low) + (high ? ", up to " + number_text(p.high) : "");
  if (low) return "of " + number_text(p.low) + " or more";
  return "";
}

bool in_range(const PropertyInfo& p, double x) {
  return finite(x) && (p.low_open ? x > p.low : x >= p.low) && x <= p.high;
}

}  // namespace

bool same_value(const Value& a, const Value& b) {
  if (a.index() != b.index()) return false;
  return std::visit(
      [&](const auto& x) {
        using T = std::decay_t<decltype(x)>;
        if constexpr (std::is_same_v<T, Quat>)
          return x.coeffs() == std::get<T>(b).coeffs();
        else
          return x == std::get<T>(b);
      },
      a);
}

std::span<const Property> body_properties() {
  static const std::vector<Property> list = make_list();
  return list;
}

std::span<const JointProperty> joint_properties() {
  static const std::vector<JointProperty> list = make_joint_list();
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

const Property* find_property(const std::string& name) {
  for (const Property& p : body_properties())
    if (p.name == name) return &p;
  return nullptr;
}

PropertyInfo property_info(PropertyKind kind, const std::string& name, const std::string& label,
                           const std::string& unit, const std::string& tip) {
  PropertyInfo made;
  made.kind = kind;
  made.name = name;
  made.label = label;
  made.unit = unit;
  made.tip = tip;
  return made;
}

std::string value_fault(const PropertyInfo& p, const Value& value) {
  const auto got = [&] { return ", got " + value_text(value); };
  switch (p.kind) {
    case PropertyKind::number:
    case PropertyKind::optional_number: {
      if (p.kind == PropertyKind::optional_number && std::holds_alternative<std::monostate>(value)) return "";
      const auto* x = std::get_if<double>(&value);
      if (x && in_range(p, *x)) return "";
      const std::string range = range_text(p);
      return "wants a number" + (range.empty() ? "" : " " + range) + (p.unit.empty() ? "" : " " + p.unit) + got();
    }
    case PropertyKind::flag:
      return std::holds_alternative<bool>(value) ? "" : "wants true or false" + got();
    case PropertyKind::word: {
      const auto* word = std::get_if<std::string>(&value);
      if (word && std::find(p.words.begin(), p.words.end(), *word) != p.words.end()) return "";
      std::string choices;
      for (const std::string& w : p.words) choices += (choices.empty() ? "" : ", ") + w;
      return "wants one of " + choices + got();
    }
    case PropertyKind::text:
      return std::holds_alternative<std::string>(value) ? "" : "wants a name" + got();
    case PropertyKind::optional_vector:
      if (std::holds_alternative<std::monostate>(value)) return "";
      [[fallthrough]];
    case PropertyKind::vector: {
      const auto* v = std::get_if<Vec3>(&value);
      if (v && in_range(p, v->x()) && in_range(p, v->y()) && in_range(p, v->z())) return "";
      return "wants three numbers " + range_text(p) + " " + p.unit + got();
    }
    case PropertyKind::rotation: {
      const auto* q = std::get_if<Quat>(&value);
      return q && finite(*q) && std::abs(q->norm() - 1) < 1e-3 ? "" : "wants a unit quaternion x, y, z, w" + got();
    }
  }
  return "";
}

std::string number_text(double value) {
  std::array<char, 40> buffer{};
  const auto end = std::to_chars(buffer.data(), buffer.data() + buffer.size(), value);
  return {buffer.data(), end.ptr};
}

std::string value_text(const Value& value) {
  if (const auto* x = std::get_if<double>(&value)) return number_text(*x);
  if (const auto* b = std::get_if<bool>(&value)) return *b ? "true" : "false";
  if (const auto* s = std::get_if<std::string>(&value)) return "\"" + *s + "\"";
  if (const auto* v = std::get_if<Vec3>(&value))
    return "(" + number_text(v->x()) + ", " + number_text(v->y()) + ", " + number_text(v->z()) + ")";
  if (const auto* q = std::get_if<Quat>(&value))
    return "(" + number_text(q->x()) + ", " + number_text(q->y()) + ", " + number_text(q->z()) + ", " +
           number_text(q->w()) + ")";
  return "nothing";
}

std::string assignable_text(const Value& value) {
  if (const auto* s = std::get_if<std::string>(&value)) return *s;
  if (std::holds_alternative<std::monostate>(value)) return "none";
  std::string text = value_text(value);
  std::erase_if(text, [](char c) { return c == '(' || c == ')' || c == ' '; });
  return text;
}

Value value_from_text(const PropertyInfo& p, const std::string& text, const std::string& where) {
  Value value;
  if (p.kind == PropertyKind::flag && (text == "true" || text == "false")) {
    value = text == "true";
  } else if (p.kind == PropertyKind::word || p.kind == PropertyKind::text) {
    value = text;
  } else if ((p.kind == PropertyKind::optional_number || p.kind == PropertyKind::optional_vector) && text == "none") {
    value = std::monostate{};
  } else {
    std::vector<double> numbers;
    std::stringstream parts(text);
    for (std::string part; std::getline(parts, part, ',');) {
      double x = 0;
      const auto [end, fault] = std::from_chars(part.data(), part.data() + part.size(), x);
      if (fault != std::errc() || end != part.data() + part.size())
        throw Error(where, "wants a number, got \"" + text + "\"");
      numbers.push_back(x);
    }
    if (numbers.size() == 1) value = numbers[0];
    if (numbers.size() == 3) value = Vec3(numbers[0], numbers[1], numbers[2]);
    if (numbers.size() == 4) value = Quat(numbers[3], numbers[0], numbers[1], numbers[2]);
  }
  const std::string fault = value_fault(p, value);
  if (!fault.empty()) throw Error(where, fault);
  return value;
}

std::string kind_word(MotionKind kind) {
  return kinds.at(static_cast<std::size_t>(kind));
}

}  // namespace bronvel
