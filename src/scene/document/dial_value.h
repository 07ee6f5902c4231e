// What a dial can be set to: a number, yes or no, a word, or a thing of the scene by its name.
#pragma once

#include <cmath>
#include <limits>
#include <string>
#include <variant>

namespace bronvel {

/// What a name is of.
enum class NamedKind { tag, body, joint, zone, path, surface, action, cue };
inline constexpr const char* named_words[] = {"tag", "body", "joint", "zone", "path", "surface", "action", "cue"};

inline std::string named_word(NamedKind kind) {
  return named_words[static_cast<int>(kind)];
}

/// A thing of the scene, or all that carry a tag. No name: none, or whichever.
struct NamedThing {
  NamedKind kind = NamedKind::tag;
  std::string name{};
  bool operator==(const NamedThing&) const = default;
};

using DialValue = std::variant<double, bool, std::string, NamedThing>;

/// Yes is 1, no is 0; what is no number is not a number.
inline double number_of(const DialValue& value) {
  if (const auto* number = std::get_if<double>(&value)) return *number;
  if (const auto* on = std::get_if<bool>(&value)) return *on ? 1 : 0;
  return std::numeric_limits<double>::quiet_NaN();
}

}  // namespace bronvel
