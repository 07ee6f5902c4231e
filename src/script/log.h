// Lines for the log: what scripts print and what goes wrong in them.
#pragma once

#include <cstdint>
#include <string>

namespace bronvel {

enum class LogLevel { print, warning, error };

struct LogLine {
  LogLevel level = LogLevel::print;
  std::int64_t tick = 0;
  std::string body;    ///< empty if none
  std::string script;  ///< file name, empty if none
  int line = 0;        ///< in the script, 0 if none
  std::string text;

  /// "hoist.lua:9: … (on crane_hook, tick 12)".
  std::string whole() const;
};

}  // namespace bronvel
