// Reading typed numbers.
#include "scene/properties/number_entry.h"

#include <cctype>
#include <charconv>
#include <cmath>
#include <string_view>
#include <utility>

#include "geometry/base/vector.h"

namespace bronvel {
namespace {

// Recursive descent over sum := product (± product)*, product := factor (*/ factor)*, factor := ±factor | (sum) |
// number | name.
class Entry {
 public:
  Entry(std::string_view text, const EntryNames& names) : rest_(text), names_(names) {}

  std::optional<double> sum() {
    auto left = product();
    while (left && (next('+') || next('-'))) {
      const bool minus = taken_ == '-';
      const auto right = product();
      if (!right) return std::nullopt;
      left = minus ? *left - *right : *left + *right;
    }
    return left;
  }
  std::string_view rest() {
    blank();
    return rest_;
  }

 private:
  void blank() {
    while (!rest_.empty() && rest_.front() == ' ') rest_.remove_prefix(1);
  }
  bool next(char c) {
    blank();
    if (rest_.empty() || rest_.front() != c) return false;
    rest_.remove_prefix(1);
    taken_ = c;
    return true;
  }
  std::optional<double> product() {
    auto left = factor();
    while (left && (next('*') || next('/'))) {
      const bool divide = taken_ == '/';
      const auto right = factor();
      if (!right) return std::nullopt;
      left = divide ? *left / *right : *left * *right;
    }
    return left;
  }
  std::optional<double> factor() {
    if (++depth_ > 100) return std::nullopt;
    if (next('-')) {
      const auto value = factor();
      return value ? std::optional(-*value) : std::nullopt;
    }
    if (next('+')) return factor();
    if (next('(')) {
      const auto value = sum();
      return next(')') ? value : std::nullopt;
    }
    blank();
    if (const auto named = name()) return named;
    double value = 0;
    const auto [end, fault] = std::from_chars(rest_.data(), rest_.data() + rest_.size(), value);
    if (fault != std::errc()) return std::nullopt;
    rest_.remove_prefix(static_cast<std::size_t>(end - rest_.data()));
    return value;
  }

  std::optional<double> name() {
    std::size_t length = 0;
    while (length < rest_.size() && (std::isalpha(static_cast<unsigned char>(rest_[length])) != 0)) ++length;
    const auto found = names_.find(std::string(rest_.substr(0, length)));
    if (length == 0 || found == names_.end()) return std::nullopt;
    rest_.remove_prefix(length);
    return found->second;
  }

  std::string_view rest_;
  const EntryNames& names_;
  char taken_ = 0;
  int depth_ = 0;
};

std::optional<double> unit_factor(std::string_view typed, std::string_view unit) {
  if (typed.empty() || typed == unit) return 1;
  if (unit == "kg") {
    if (typed == "g") return 1e-3;
    if (typed == "t") return 1e3;
    return std::nullopt;
  }
  if (unit == "m" && typed == "cm") return 1e-2;
  if (unit == "rad" && (typed == "deg" || typed == "°")) return pi / 180;
  if (unit == "rad/s" && (typed == "deg/s" || typed == "°/s")) return pi / 180;
  if (unit.empty() && typed == "%") return 1e-2;
  constexpr std::pair<std::string_view, double> prefixes[] = {{"µ", 1e-6}, {"u", 1e-6}, {"m", 1e-3},
                                                              {"k", 1e3},  {"M", 1e6},  {"G", 1e9}};
  for (const auto& [prefix, factor] : prefixes)
    if (typed.starts_with(prefix) && typed.substr(prefix.size()) == unit && unit.find("²") == std::string_view::npos)
      return factor;
  return std::nullopt;
}

}  // namespace

std::optional<double> entered_number(const std::string& text, const std::string& unit, const EntryNames& names) {
  Entry entry(text, names);
  const auto value = entry.sum();
  if (!value) return std::nullopt;
  std::string_view typed = entry.rest();
  while (!typed.empty() && typed.back() == ' ') typed.remove_suffix(1);
  const auto factor = unit_factor(typed, unit);
  if (!factor || !std::isfinite(*value * *factor)) return std::nullopt;
  return *value * *factor;
}

std::optional<NumberChange> entered_change(const std::string& text, const std::string& unit, const EntryNames& names) {
  const std::size_t start = text.find_first_not_of(' ');
  if (start == std::string::npos) return std::nullopt;
  std::string rest = text.substr(start);
  NumberChange change;
  bool divides = false;
  if (rest.starts_with("×")) {
    change.kind = NumberChange::Kind::times;
    rest = rest.substr(std::string("×").size());
  } else if (rest[0] == 'x' || rest[0] == 'X') {
    change.kind = NumberChange::Kind::times;
    rest = rest.substr(1);
  } else if (rest[0] == '*' || rest[0] == '/') {
    change.kind = NumberChange::Kind::times;
    divides = rest[0] == '/';
    rest = rest.substr(1);
  } else if (rest[0] == '+') {
    change.kind = NumberChange::Kind::plus;
    rest = rest.substr(1);
  }
  const auto number = entered_number(rest, change.kind == NumberChange::Kind::times ? "" : unit, names);
  if (!number || (divides && *number == 0)) return std::nullopt;
  change.number = divides ? 1 / *number : *number;
  return change;
}

}  // namespace bronvel
