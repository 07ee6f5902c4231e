// Reading calls.
#include "lab/measures/call_text.h"

#include <cmath>
#include <cstdlib>
#include <sstream>

#include "geometry/base/error.h"

namespace bronvel {

std::vector<std::string> parts_of(const std::string& text, char at) {
  std::vector<std::string> parts;
  std::stringstream stream(text);
  for (std::string part; std::getline(stream, part, at);) parts.push_back(part);
  return parts;
}

double number_in(const std::string& text, const std::string& where) {
  char* end = nullptr;
  const double value = std::strtod(text.c_str(), &end);
  if (text.empty() || end != text.c_str() + text.size() || !std::isfinite(value))
    throw Error(where, "wants a number, got \"" + text + "\"");
  return value;
}

}  // namespace bronvel
