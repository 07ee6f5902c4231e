// Reading scripts without playing them: what they declare, and whether they load.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "scene/files/folder.h"
#include "script/calls/host.h"

namespace bronvel {

/// A script on a body alone in an empty scene.
struct ScriptReading {
  std::vector<Dial> dials;  ///< that it declares, in the order it declares them; none when it does not compile
  std::optional<LogLine> fault;
};

/// `sources` are the scene's scripts by file, for what it builds on.
ScriptReading read_script(const std::string& file, const std::map<std::string, std::string>& sources);

/// Why the text is no Lua; none if it is. Nothing of it runs.
std::optional<LogLine> syntax_fault(const std::string& file, const std::string& text);

/// What goes wrong when the scene's scripts are put on the bodies that carry them, before `on.play`: of each line the
/// first fault. Scripts that no body carries are read by themselves. Empty when all load.
std::vector<LogLine> load_faults(const SceneFolder& folder);

}  // namespace bronvel
