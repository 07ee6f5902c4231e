// Surfaces: friction and restitution, and how two of them combine.
#pragma once

#include <optional>
#include <string_view>

namespace bronvel {

/// How the values of two surfaces make one. The set is that of the open glTF rigid-body extension.
enum class Combine { average, minimum, maximum, multiply };

/// A physics material.
struct Surface {
  double static_friction = 0.5;   ///< share of the normal force that holds before sliding
  double dynamic_friction = 0.4;  ///< share of the normal force while sliding
  /// Resisting torque over (normal force × arm of the contact), against rolling; as much against spinning on the spot.
  double rolling_friction = 0;
  double restitution = 0.2;  ///< closing speed given back, 0 to 1
  Combine friction_combine = Combine::average;
  Combine restitution_combine = Combine::average;
  bool operator==(const Surface&) const = default;
};

/// What two touching surfaces give together.
struct SurfacePair {
  double static_friction = 0;
  double dynamic_friction = 0;
  double rolling_friction = 0;
  double restitution = 0;
  Combine friction_rule = Combine::average;     ///< the rule that decided
  Combine restitution_rule = Combine::average;  ///< the rule that decided
};

/// Where the two name different rules, the one later in the list average, minimum, maximum, multiply decides.
/// Dynamic friction never comes out above static friction.
SurfacePair combine(const Surface& a, const Surface& b);

/// The value of x and y under the rule.
double combined(Combine rule, double x, double y);

std::string_view combine_word(Combine rule);
std::optional<Combine> combine_from_word(std::string_view word);

}  // namespace bronvel
