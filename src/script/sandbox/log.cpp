// The text of a log line.
#include "script/sandbox/log.h"

#include <algorithm>
#include <cstdlib>

namespace bronvel {

std::string LogLine::placed() const {
  return script.empty() ? text : script + ":" + std::to_string(line) + ": " + text;
}

std::string LogLine::whole() const {
  return placed() + " (" + (body.empty() ? "" : "on " + body + ", ") + "tick " + std::to_string(tick) + ")";
}

void put_place(LogLine& line, const std::string& message, const std::function<bool(const std::string&)>& is_script) {
  line.text = message;
  const auto cut = message.find(".lua:");
  if (cut == std::string::npos) return;
  const std::string file = message.substr(0, cut + 4);
  const auto end = message.find(':', file.size() + 1);
  if (!is_script(file) || end == std::string::npos) return;
  line.script = file;
  line.line = std::atoi(message.c_str() + file.size() + 1);
  line.text = message.substr(std::min(message.find_first_not_of(' ', end + 1), message.size()));
}

}  // namespace bronvel
