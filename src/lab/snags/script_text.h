// A script's text as a list of words, so that it can be looked over before it runs.
#pragma once

#include <string>
#include <vector>

namespace bronvel {

/// A name, number, text in quotes or sign. Comments are left out.
struct ScriptWord {
  std::string text;  ///< of a text in quotes: what is inside
  int line = 1;
  bool quoted = false;
};
std::vector<ScriptWord> words_of(const std::string& source);

/// For each line the level at which it stands, 0 at the left: by what is open above it, and less by what it closes
/// first. What one line opens counts as one level, however much it is.
std::vector<int> levels_of(const std::string& source);

/// The lines that have this text in quotes, ascending, each once.
std::vector<int> lines_naming(const std::string& source, const std::string& text);

/// A function of the script that has a name, and where its words begin and end.
struct ScriptFunction {
  std::string name;  ///< "on.touch", "start_waiting"
  int line = 1;
  std::size_t begin = 0, end = 0;  ///< of its body, in the list of words
};
std::vector<ScriptFunction> functions_of(const std::vector<ScriptWord>& words);

}  // namespace bronvel
