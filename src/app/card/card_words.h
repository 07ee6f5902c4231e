// What the card's parts share: properties that are not of a list, their order, lists of names as text.
#pragma once

#include <QString>
#include <algorithm>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "geometry/base/error.h"
#include "geometry/shapes/sized.h"
#include "scene/document/names.h"
#include "scene/properties/property.h"

namespace bronvel {

// Question by question, in the order in which the list first asks them.
template <class Listed>
std::vector<const Listed*> by_question(std::span<const Listed> list) {
  std::vector<const Listed*> ordered;
  for (const Listed& first : list) {
    const auto same = [&](const Listed* each) { return each->group == first.group; };
    if (std::any_of(ordered.begin(), ordered.end(), same)) continue;
    for (const Listed& each : list)
      if (each.group == first.group) ordered.push_back(&each);
  }
  return ordered;
}

inline std::vector<std::string> split_names(const QString& text) {
  return names_in(text.toStdString());
}

inline QString joined(const std::vector<std::string>& names) {
  return QString::fromStdString(names_text(names));
}

/// The number as a value; no value if there is none.
inline Value number_or_none(const std::optional<double>& x) {
  Value value;
  if (x) value = *x;
  return value;
}

/// The shape's size with that place in its list.
/// Throws Error where it has none: a row may outlive the shape that it was made for.
inline ShapeSize size_of(const Shape& shape, std::size_t i) {
  const std::vector<ShapeSize> sizes = shape_sizes(shape);
  if (i >= sizes.size()) throw Error("", "it has another shape by now, without that size", "choose it anew");
  return sizes[i];
}

/// The same as a value; no value where it has none.
inline Value size_value(const Shape& shape, std::size_t i) {
  const std::vector<ShapeSize> sizes = shape_sizes(shape);
  return number_or_none(i < sizes.size() ? std::optional(sizes[i].value) : std::nullopt);
}

}  // namespace bronvel
