// Values of properties: whether they fit, and as texts.
#include "scene/properties/property.h"

#include <array>
#include <charconv>
#include <cmath>
#include <sstream>

#include "geometry/base/error.h"
#include "scene/properties/number_entry.h"

namespace bronvel {
namespace {

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
      if (x && in_range(p, *x) && (!p.whole || *x == std::floor(*x))) return "";
      const std::string range = range_text(p);
      return std::string("wants a ") + (p.whole ? "whole " : "") + "number" + (range.empty() ? "" : " " + range) +
             (p.unit.empty() ? "" : " " + p.unit) + got();
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
  if (const auto* named = std::get_if<NamedThing>(&value)) return named->name.empty() ? "none" : named->name;
  return "nothing";
}

Value value_of(const DialValue& dial) {
  return std::visit([](const auto& value) { return Value(value); }, dial);
}

std::string assignable_text(const Value& value) {
  if (const auto* s = std::get_if<std::string>(&value)) return *s;
  if (const auto* named = std::get_if<NamedThing>(&value)) return named->name.empty() ? "none" : named->name;
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
    const bool in_brackets = text.size() > 1 && text.front() == '[' && text.back() == ']';
    // What ends in a comma has an empty part after it.
    std::stringstream parts((in_brackets ? text.substr(1, text.size() - 2) : text) + ",");
    for (std::string part; std::getline(parts, part, ',');) {
      const auto x = entered_number(part, p.unit);
      if (!x) throw Error(where, "wants a number" + (p.unit.empty() ? "" : " in " + p.unit) + ", got \"" + text + "\"");
      numbers.push_back(*x);
    }
    if (numbers.size() == 1) value = numbers[0];
    if (numbers.size() == 3) value = Vec3(numbers[0], numbers[1], numbers[2]);
    if (numbers.size() == 4) value = Quat(numbers[3], numbers[0], numbers[1], numbers[2]);
  }
  const std::string fault = value_fault(p, value);
  if (!fault.empty()) throw Error(where, fault);
  return value;
}

}  // namespace bronvel
