// Lines for the log: what scripts print and what goes wrong in them.
#pragma once

#include <cstdint>
#include <functional>
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
  /// "hoist.lua:9: …", the text without the body and the tick.
  std::string placed() const;
};

/// Takes a message as Lua writes it, "file:line: text", apart into the line's script, line and text. Where it names no
/// file that `is_script` knows, it is the text whole.
void put_place(LogLine& line, const std::string& message, const std::function<bool(const std::string&)>& is_script);

}  // namespace bronvel
