// A wish: what a measure of a play shall be. Kept with the scene it is a check.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace bronvel {

struct Wish {
  enum class Is { equal, at_most, at_least, never };
  std::string measure{};  ///< as it is called: "apex:buoy"
  Is is = Is::equal;
  double value = 0;                ///< in the measure's unit; of no use to `never`
  std::optional<double> within{};  ///< how far off `equal` may be; none: a hundredth of the value
  double seconds = 5;              ///< of play
  int seeds = 1;                   ///< from the scene's own on
  std::vector<double> rates{};     ///< ticks a second; none: the scene's
  std::string inputs{};            ///< a file in the scene's folder to be played with it; "": none
  bool operator==(const Wish&) const = default;
};

inline constexpr int most_seeds_of_a_check = 1000;

/// The things that wishes measure are called otherwise: "apex:buoy", "at:buoy.height,2".
void rename_in_wishes(std::vector<Wish>& wishes, const std::string& from, const std::string& to);

/// How far off `equal` may be.
double tolerance_of(const Wish& wish);
/// Whether the measured value is as wished; what never came about is not a number.
bool met(const Wish& wish, double value);
/// "= 3", "≤ 2.5", "never"; `unit` behind the number.
std::string wish_text(const Wish& wish, const std::string& unit = "");

}  // namespace bronvel
