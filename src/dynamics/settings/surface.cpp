// Combining surfaces.
#include "dynamics/settings/surface.h"

#include <algorithm>
#include <array>

namespace bronvel {
namespace {
constexpr std::array<std::string_view, 4> words{"average", "minimum", "maximum", "multiply"};
}

double combined(Combine rule, double x, double y) {
  switch (rule) {
    case Combine::minimum:
      return std::min(x, y);
    case Combine::maximum:
      return std::max(x, y);
    case Combine::multiply:
      return x * y;
    case Combine::average:
      break;
  }
  return 0.5 * (x + y);
}

SurfacePair combine(const Surface& a, const Surface& b) {
  SurfacePair pair;
  pair.friction_rule = std::max(a.friction_combine, b.friction_combine);
  pair.restitution_rule = std::max(a.restitution_combine, b.restitution_combine);
  pair.static_friction = combined(pair.friction_rule, a.static_friction, b.static_friction);
  pair.dynamic_friction =
      std::min(pair.static_friction, combined(pair.friction_rule, a.dynamic_friction, b.dynamic_friction));
  pair.rolling_friction = combined(pair.friction_rule, a.rolling_friction, b.rolling_friction);
  pair.restitution = combined(pair.restitution_rule, a.restitution, b.restitution);
  return pair;
}

std::string_view combine_word(Combine rule) {
  return words.at(static_cast<std::size_t>(rule));
}

std::optional<Combine> combine_from_word(std::string_view word) {
  const auto* found = std::find(words.begin(), words.end(), word);
  if (found == words.end()) return std::nullopt;
  return static_cast<Combine>(found - words.begin());
}

}  // namespace bronvel
