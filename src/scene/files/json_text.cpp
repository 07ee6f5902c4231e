// Writing JSON for people, and finding places in it.
#include "scene/files/json_text.h"

#include <map>

#include "scene/properties/property.h"

namespace bronvel {
namespace {

void write(const Json& json, int indent, std::string& out) {
  const std::string pad(static_cast<std::size_t>(indent) * 2, ' ');
  const auto plain = [](const Json& j) { return !j.is_structured(); };
  if (json.is_number_float()) {
    const double x = json.get<double>();
    // "-0" would be read back as a whole number, which has no such zero.
    out += x == 0 && std::signbit(x) ? "-0.0" : number_text(x);
  } else if (json.is_object() && !json.empty()) {
    out += "{\n";
    std::size_t left = json.size();
    for (const auto& [key, value] : json.items()) {
      out += pad + "  " + Json(key).dump() + ": ";
      write(value, indent + 1, out);
      out += --left > 0 ? ",\n" : "\n";
    }
    out += pad + "}";
  } else if (json.is_array() && !json.empty()) {
    const bool one_line = std::all_of(json.begin(), json.end(), plain);
    out += "[";
    bool first = true;
    for (const Json& value : json) {
      if (!first) out += one_line ? ", " : ",";
      if (!one_line) out += "\n" + pad + "  ";
      write(value, indent + 1, out);
      first = false;
    }
    out += one_line ? "]" : "\n" + pad + "]";
  } else {
    out += json.dump();
  }
}

}  // namespace

std::string json_text(const Json& json) {
  std::string out;
  write(json, 0, out);
  return out + "\n";
}

}  // namespace bronvel
