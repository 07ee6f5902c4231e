// Whether wishes are met.
#include "scene/document/wish.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace bronvel {

void rename_in_wishes(std::vector<Wish>& wishes, const std::string& from, const std::string& to) {
  for (Wish& wish : wishes) {
    // Names stand behind the colon, with commas between, alone or before a dot.
    auto at = wish.measure.find(':');
    while (at != std::string::npos) {
      const auto begin = at + 1, end = std::min(wish.measure.find_first_of(",.@", begin), wish.measure.size());
      if (wish.measure.compare(begin, end - begin, from) == 0) wish.measure.replace(begin, end - begin, to);
      at = wish.measure.find(',', begin);
    }
  }
}

double tolerance_of(const Wish& wish) {
  constexpr double usual = 0.01, rounding = 1e-9;
  return wish.within.value_or(std::max(usual * std::abs(wish.value), rounding));
}

bool met(const Wish& wish, double value) {
  switch (wish.is) {
    case Wish::Is::equal:
      return std::abs(value - wish.value) <= tolerance_of(wish);
    case Wish::Is::at_most:
      return value <= wish.value;
    case Wish::Is::at_least:
      return value >= wish.value;
    case Wish::Is::never:
      break;
  }
  return std::isnan(value);
}

std::string wish_text(const Wish& wish, const std::string& unit) {
  if (wish.is == Wish::Is::never) return "never";
  char number[40];
  std::snprintf(number, sizeof number, "%.6g", wish.value);
  const char* sign = wish.is == Wish::Is::equal ? "= " : wish.is == Wish::Is::at_most ? "≤ " : "≥ ";
  return sign + std::string(number) + (unit.empty() ? "" : " " + unit);
}

}  // namespace bronvel
