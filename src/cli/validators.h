// What arguments have to be.
#pragma once

#include <CLI/CLI.hpp>
#include <cstdlib>
#include <string>

namespace bronvel {

// Takes what a number has to be, and says so: the conversions themselves let "-1" and "nan" pass.
inline const CLI::Validator whole_number(
    [](std::string& text) {
      const bool good = !text.empty() && text.size() <= 20 &&
                        text.find_first_not_of("0123456789") == std::string::npos &&
                        (text.size() < 20 || text <= "18446744073709551615");
      return good ? std::string() : "wants a whole number from 0 to 2^64 - 1, got \"" + text + "\"";
    },
    "WHOLE NUMBER");
inline const CLI::Validator something(
    [](std::string& text) { return text.empty() ? std::string("wants something, got nothing") : std::string(); },
    "TEXT");
inline CLI::Validator number_from(double low, double high, const std::string& wants) {
  return CLI::Validator(
      [=](std::string& text) {
        char* end = nullptr;
        const double value = std::strtod(text.c_str(), &end);
        const bool good = !text.empty() && end == text.c_str() + text.size() && value >= low && value <= high;
        return good ? std::string() : "wants " + wants + ", got \"" + text + "\"";
      },
      "NUMBER");
}
inline const CLI::Validator length_of_time = number_from(0, 1e6, "0 to 1,000,000 s");

}  // namespace bronvel
