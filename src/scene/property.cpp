// The property list.
#include "scene/property.h"

#include <array>
#include <charconv>
#include <sstream>

#include "geometry/error.h"

namespace bronvel {
namespace {

const std::vector<std::string> kinds{"static", "kinematic", "dynamic"};

Property number(const char* name, const char* label, const char* unit, const char* group, double low, double high,
                double Body::*field, const char* tip) {
  Property p;
  p.name = name;
  p.label = label;
  p.unit = unit;
  p.group = group;
  p.tip = tip;
  p.low = low;
  p.high = high;
  p.get = [field](const Body& b) { return Value(b.*field); };
  p.set = [field](Body& b, const Value& v) { b.*field = std::get<double>(v); };
  return p;
}

Property own_number(const char* name, const char* label, double high, std::optional<double> Body::*field,
                    const char* tip) {
  Property p;
  p.name = name;
  p.label = label;
  p.group = "How does it meet others?";
  p.tip = tip;
  p.kind = PropertyKind::optional_number;
  p.low = 0;
  p.high = high;
  p.get = [field](const Body& b) { return b.*field ? Value(*(b.*field)) : Value(); };
  p.set = [field](Body& b, const Value& v) {
    if (const auto* x = std::get_if<double>(&v))
      b.*field = *x;
    else
      (b.*field).reset();
  };
  return p;
}

Property vector(const char* name, const char* label, const char* unit, const char* group, Vec3 Body::*field,
                const char* tip) {
  Property p;
  p.name = name;
  p.label = label;
  p.unit = unit;
  p.group = group;
  p.tip = tip;
  p.kind = PropertyKind::vector;
  p.low = -1e6;
  p.high = 1e6;
  p.get = [field](const Body& b) { return Value(b.*field); };
  p.set = [field](Body& b, const Value& v) { b.*field = std::get<Vec3>(v); };
  return p;
}

Property flag(const char* name, const char* label, const char* group, bool Body::*field, const char* tip) {
  Property p;
  p.name = name;
  p.label = label;
  p.group = group;
  p.tip = tip;
  p.kind = PropertyKind::flag;
  p.get = [field](const Body& b) { return Value(b.*field); };
  p.set = [field](Body& b, const Value& v) { b.*field = std::get<bool>(v); };
  return p;
}

std::vector<Property> make_list() {
  constexpr const char* where = "Where is it?";
  constexpr const char* heavy = "How heavy?";
  constexpr const char* meets = "How does it meet others?";
  constexpr const char* slows = "What slows it?";
  std::vector<Property> list;

  Property kind;
  kind.name = "kind";
  kind.label = "kind";
  kind.group = where;
  kind.tip = "static never moves; kinematic moves as told and is not pushed; dynamic obeys forces and contacts";
  kind.kind = PropertyKind::word;
  kind.words = kinds;
  kind.get = [](const Body& b) { return Value(kind_word(b.kind)); };
  kind.set = [](Body& b, const Value& v) {
    const auto found = std::find(kinds.begin(), kinds.end(), std::get<std::string>(v));
    b.kind = static_cast<MotionKind>(found - kinds.begin());
  };
  list.push_back(kind);

  list.push_back(vector("position", "position", "m", where, &Body::position, "of the shape's middle; Y is up"));
  Property orientation;
  orientation.name = "orientation";
  orientation.label = "orientation";
  orientation.group = where;
  orientation.tip = "unit quaternion x, y, z, w";
  orientation.kind = PropertyKind::rotation;
  orientation.get = [](const Body& b) { return Value(b.orientation); };
  orientation.set = [](Body& b, const Value& v) {
    const Quat& q = std::get<Quat>(v);
    // One that is unit already is kept bit for bit, so that files come back as they were.
    b.orientation = std::abs(q.squaredNorm() - 1) < 1e-12 ? q : q.normalized();
  };
  list.push_back(orientation);
  list.push_back(vector("velocity", "velocity", "m/s", where, &Body::velocity, "at the start of play"));
  list.push_back(vector("angular_velocity", "angular velocity", "rad/s", where, &Body::angular_velocity,
                        "at the start of play, about the axes of the scene"));

  Property mass = number("mass", "mass", "kg", heavy, 0, 1e12, &Body::mass,
                         "what a force has to move; weight is mass × gravity. A full cask is about 250 kg");
  mass.low_open = true;
  list.push_back(mass);
  list.push_back(number("gravity_factor", "gravity factor", "×", heavy, -100, 100, &Body::gravity_factor,
                        "gravity acts this many times: 1 as usual, 0 floats, below 0 rises"));

  Property surface;
  surface.name = "surface";
  surface.label = "surface";
  surface.group = meets;
  surface.tip = "friction and restitution, from the scene's surfaces";
  surface.kind = PropertyKind::text;
  surface.get = [](const Body& b) { return Value(b.surface); };
  surface.set = [](Body& b, const Value& v) { b.surface = std::get<std::string>(v); };
  list.push_back(surface);
  list.push_back(own_number("restitution", "restitution", 1, &Body::restitution,
                            "share of the closing speed given back by a hit: 0 stays, 1 gives all back. "
                            "Set here it stands in for the surface's"));
  list.push_back(own_number("friction", "friction", 10, &Body::friction,
                            "share of the normal force that resists sliding, 0.1 for ice to 1 for rubber. "
                            "Set here it stands in for the surface's"));
  list.push_back(flag("solid", "solid", meets, &Body::solid, "off: it senses contacts but nothing bounces off it"));

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
  return list;
}

std::string range_text(const Property& p) {
  const bool low = p.low > -1e299, high = p.high < 1e299;
  if (low && high && !p.low_open) return "from " + number_text(p.low) + " to " + number_text(p.high);
  if (low && p.low_open) return "above " + number_text(p.low) + (high ? ", up to " + number_text(p.high) : "");
  if (low) return "of " + number_text(p.low) + " or more";
  return "";
}

bool in_range(const Property& p, double x) {
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

const Property* find_property(const std::string& name) {
  for (const Property& p : body_properties())
    if (p.name == name) return &p;
  return nullptr;
}

std::string value_fault(const Property& p, const Value& value) {
  const std::string got = ", got " + value_text(value);
  switch (p.kind) {
    case PropertyKind::number:
    case PropertyKind::optional_number: {
      if (p.kind == PropertyKind::optional_number && std::holds_alternative<std::monostate>(value)) return "";
      const auto* x = std::get_if<double>(&value);
      if (x && in_range(p, *x)) return "";
      const std::string range = range_text(p);
      return "wants a number" + (range.empty() ? "" : " " + range) + (p.unit.empty() ? "" : " " + p.unit) + got;
    }
    case PropertyKind::flag:
      return std::holds_alternative<bool>(value) ? "" : "wants true or false" + got;
    case PropertyKind::word: {
      const auto* word = std::get_if<std::string>(&value);
      if (word && std::find(p.words.begin(), p.words.end(), *word) != p.words.end()) return "";
      std::string choices;
      for (const std::string& w : p.words) choices += (choices.empty() ? "" : ", ") + w;
      return "wants one of " + choices + got;
    }
    case PropertyKind::text:
      return std::holds_alternative<std::string>(value) ? "" : "wants a name" + got;
    case PropertyKind::vector: {
      const auto* v = std::get_if<Vec3>(&value);
      if (v && in_range(p, v->x()) && in_range(p, v->y()) && in_range(p, v->z())) return "";
      return "wants three numbers " + range_text(p) + " " + p.unit + got;
    }
    case PropertyKind::rotation: {
      const auto* q = std::get_if<Quat>(&value);
      return q && finite(*q) && std::abs(q->norm() - 1) < 1e-3 ? "" : "wants a unit quaternion x, y, z, w" + got;
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

Value value_from_text(const Property& p, const std::string& text, const std::string& where) {
  Value value;
  if (p.kind == PropertyKind::flag && (text == "true" || text == "false")) {
    value = text == "true";
  } else if (p.kind == PropertyKind::word || p.kind == PropertyKind::text) {
    value = text;
  } else if (p.kind == PropertyKind::optional_number && text == "none") {
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
