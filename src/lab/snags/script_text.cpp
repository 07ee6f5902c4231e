// Cutting Lua into words.
#include "lab/snags/script_text.h"

#include <algorithm>
#include <cctype>

namespace bronvel {
namespace {

// The length of a long bracket's opening "[==[" at `at`, or 0.
std::size_t long_bracket(const std::string& s, std::size_t at) {
  if (s[at] != '[') return 0;
  std::size_t i = at + 1;
  while (i < s.size() && s[i] == '=') ++i;
  return i < s.size() && s[i] == '[' ? i - at + 1 : 0;
}

bool opens(const std::string& word) {
  return word == "function" || word == "if" || word == "do" || word == "repeat";
}
bool closes(const std::string& word) {
  return word == "end" || word == "until";
}

}  // namespace

std::vector<ScriptWord> words_of(const std::string& s) {
  std::vector<ScriptWord> words;
  int line = 1;
  std::size_t i = 0;
  const auto skip_to = [&](std::size_t end) {
    for (; i < std::min(end, s.size()); ++i)
      if (s[i] == '\n') ++line;
  };
  const auto skip_long = [&](std::size_t opening) {
    const std::string closing = "]" + std::string(opening - 2, '=') + "]";
    const std::size_t found = s.find(closing, i + opening);
    skip_to(found == std::string::npos ? s.size() : found + closing.size());
  };
  while (i < s.size()) {
    const char c = s[i];
    if (std::isspace(static_cast<unsigned char>(c)) != 0) {
      skip_to(i + 1);
    } else if (s.compare(i, 2, "--") == 0) {
      i += 2;
      const std::size_t opening = i < s.size() ? long_bracket(s, i) : 0;
      if (opening > 0)
        skip_long(opening);
      else
        skip_to(std::min(s.find('\n', i), s.size()));
    } else if (c == '"' || c == '\'') {
      ScriptWord word{"", line, true};
      for (++i; i < s.size() && s[i] != c && s[i] != '\n'; ++i) {
        if (s[i] == '\\' && i + 1 < s.size()) ++i;
        if (s[i] == '\n') ++line;
        word.text += s[i];
      }
      if (i < s.size() && s[i] == c) ++i;
      words.push_back(word);
    } else if (const std::size_t opening = long_bracket(s, i); opening > 0) {
      words.push_back({"", line, true});
      skip_long(opening);
    } else if (std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_') {
      const std::size_t start = i;
      while (i < s.size() && (std::isalnum(static_cast<unsigned char>(s[i])) != 0 || s[i] == '_')) ++i;
      words.push_back({s.substr(start, i - start), line, false});
    } else {
      words.push_back({std::string(1, c), line, false});
      ++i;
    }
  }
  return words;
}

std::vector<int> levels_of(const std::string& source) {
  const std::vector<ScriptWord> words = words_of(source);
  const auto lines = static_cast<std::size_t>(std::count(source.begin(), source.end(), '\n') + 1);
  std::vector<int> levels(lines, 0);
  std::vector<int> open;  // by what is open, the line that opened it
  const auto level = [&] {
    int sum = 0, last = 0;
    for (const int line : open) {
      sum += line != last ? 1 : 0;
      last = line;
    }
    return sum;
  };
  const auto close = [&] {
    if (!open.empty()) open.pop_back();
  };
  std::size_t i = 0;
  for (std::size_t line = 0; line < lines; ++line) {
    const auto here = [&] { return i < words.size() && words[i].line == static_cast<int>(line) + 1; };
    bool first = true;  // nothing but what closes so far
    int own = -1;
    for (; here(); ++i) {
      const std::string& word = words[i].quoted ? "" : words[i].text;
      const bool turns = word == "else" || word == "elseif";
      const bool shuts = closes(word) || word == "}" || word == ")" || turns;
      if (first && !shuts) own = level();
      if (shuts) close();
      if (first && turns) own = level();
      first = first && shuts && !turns;
      if (opens(word) || word == "{" || word == "(" || turns) open.push_back(static_cast<int>(line) + 1);
    }
    levels[line] = own >= 0 ? own : level();
  }
  return levels;
}

std::vector<ScriptFunction> functions_of(const std::vector<ScriptWord>& words) {
  std::vector<ScriptFunction> functions;
  const auto text = [&](std::size_t i) { return i < words.size() && !words[i].quoted ? words[i].text : std::string(); };
  for (std::size_t i = 0; i < words.size(); ++i) {
    if (text(i) != "function") continue;
    ScriptFunction f;
    f.line = words[i].line;
    std::size_t k = i + 1;
    // function a.b(…), or a.b = function(…)
    if (text(k) != "(") {
      f.name = text(k);
      while (text(k + 1) == "." || text(k + 1) == ":") {
        f.name += "." + text(k + 2);
        k += 2;
      }
      ++k;
    } else if (i >= 2 && text(i - 1) == "=") {
      f.name = text(i - 2);
      if (i >= 4 && text(i - 3) == ".") f.name = text(i - 4) + "." + f.name;
    }
    while (k < words.size() && text(k) != ")") ++k;
    f.begin = std::min(k + 1, words.size());  // a script that is being typed may end here
    int depth = 1;
    for (k = f.begin; k < words.size(); ++k) {
      if (words[k].quoted) continue;
      if (opens(words[k].text)) ++depth;
      if (closes(words[k].text) && --depth == 0) break;
    }
    f.end = k;
    if (!f.name.empty()) functions.push_back(f);
  }
  return functions;
}

std::vector<int> lines_naming(const std::string& source, const std::string& text) {
  std::vector<int> lines;
  for (const ScriptWord& word : words_of(source))
    if (word.quoted && word.text == text && (lines.empty() || lines.back() != word.line)) lines.push_back(word.line);
  return lines;
}

}  // namespace bronvel
