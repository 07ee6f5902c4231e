// Numbers as people type them: "12*3", "2.5 kN", "(1+2)/4 m".
#pragma once

#include <map>
#include <optional>
#include <string>

namespace bronvel {

/// The value in `unit` of what was typed: a sum of + − * / and brackets, then, if wanted, a unit that is `unit` itself
/// or it with a prefix from µ to G (for kg: g and t as well; for m: mm, cm, km; for rad and rad/s: deg or ° too).
/// Empty if it can't be read or is not finite. A name of `names` may stand for its number: "0.9*weight".
using EntryNames = std::map<std::string, double>;
std::optional<double> entered_number(const std::string& text, const std::string& unit, const EntryNames& names = {});

/// What was typed for several values at once: a number for all, or a change of each: "×1.5" or "*1.5", "/2", "+2", and
/// "+-2" to take away.
struct NumberChange {
  enum class Kind { set, times, plus };
  Kind kind = Kind::set;
  double number = 0;  ///< in the unit, but for times
  double of(double value) const {
    return kind == Kind::times ? value * number : kind == Kind::plus ? value + number : number;
  }
};
std::optional<NumberChange> entered_change(const std::string& text, const std::string& unit,
                                           const EntryNames& names = {});

}  // namespace bronvel
