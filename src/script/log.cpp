// The text of a log line.
#include "script/log.h"

namespace bronvel {

std::string LogLine::whole() const {
  std::string where;
  if (!script.empty()) where = script + ":" + std::to_string(line) + ": ";
  return where + text + " (" + (body.empty() ? "" : "on " + body + ", ") + "tick " + std::to_string(tick) + ")";
}

}  // namespace bronvel
