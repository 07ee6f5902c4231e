// How a line of a property list is made from a field: listed::number(…). Only the lists include this.
#pragma once

#include <algorithm>
#include <cmath>

#include "scene/properties/property.h"

namespace bronvel::listed {

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

}  // namespace bronvel::listed
