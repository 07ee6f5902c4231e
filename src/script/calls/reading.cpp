// Reading scripts.
#include "script/calls/reading.h"

#include <algorithm>
#include <memory>
#include <set>

namespace bronvel {
namespace {

void add_fault(std::vector<LogLine>& faults, const LogLine& line) {
  const bool known = std::any_of(faults.begin(), faults.end(), [&](const LogLine& each) {
    return each.script == line.script && each.line == line.line && each.text == line.text;
  });
  if (!known) faults.push_back(line);
}

void add_errors(std::vector<LogLine>& faults, const std::vector<LogLine>& log) {
  for (const LogLine& line : log)
    if (line.level == LogLevel::error) add_fault(faults, line);
}

}  // namespace

ScriptReading read_script(const std::string& file, const std::map<std::string, std::string>& sources) {
  Scene scene;
  scene.bodies.push_back({.name = "body", .shape = Sphere{}});
  RunningScene running(scene);
  ScriptHost host(running, 1, sources);
  const BodyHandle body = *running.find("body");
  host.add(body, {file, {}});
  std::vector<LogLine> faults;
  add_errors(faults, host.take_log());
  return {host.dials(body), faults.empty() ? std::nullopt : std::optional(faults.front())};
}

std::optional<LogLine> syntax_fault(const std::string& file, const std::string& text) {
  const std::string chunk = "@" + file;
  const std::unique_ptr<lua_State, void (*)(lua_State*)> lua(luaL_newstate(), lua_close);
  if (!lua || luaL_loadbufferx(lua.get(), text.data(), text.size(), chunk.c_str(), "t") == LUA_OK) return std::nullopt;
  LogLine line;
  line.level = LogLevel::error;
  line.script = file;
  put_place(line, lua_tostring(lua.get(), -1), [&](const std::string& named) { return named == file; });
  return line;
}

std::vector<LogLine> load_faults(const SceneFolder& folder) {
  std::vector<LogLine> faults;
  RunningScene running(folder.scene);
  ScriptHost host(running, folder.scene.seed, folder.scripts);
  std::set<std::string> carried;
  for (const Body& body : folder.scene.bodies)
    for (const ScriptUse& use : body.scripts) {
      carried.insert(use.file);
      host.add(*running.find(body.name), use);
    }
  add_errors(faults, host.take_log());
  for (const auto& [file, text] : folder.scripts)
    if (!carried.contains(file))
      if (const auto fault = syntax_fault(file, text)) add_fault(faults, *fault);
  return faults;
}

}  // namespace bronvel
