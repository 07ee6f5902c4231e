// Walking JSON text without reading it.
#include "scene/document/json_place.h"

#include <map>
#include <set>
#include <vector>

namespace bronvel {
namespace {

// Walks good JSON text and notes the line of each value by its pointer.
class LineFinder {
 public:
  explicit LineFinder(const std::string& text) : text_(text) { value(""); }
  std::map<std::string, int> lines;

 private:
  void blank() {
    while (at_ < text_.size() && (text_[at_] == ' ' || text_[at_] == '\t' || text_[at_] == '\r' || text_[at_] == '\n'))
      if (text_[at_++] == '\n') ++line_;
  }
  std::string string() {
    std::string got;
    for (++at_; at_ < text_.size() && text_[at_] != '"'; ++at_) {
      if (text_[at_] == '\\') ++at_;
      got += text_[at_];
    }
    ++at_;
    return got;
  }
  void value(const std::string& pointer) {
    blank();
    lines[pointer] = line_;
    if (at_ >= text_.size()) return;
    const char c = text_[at_];
    if (c == '{' || c == '[') {
      const char close = c == '{' ? '}' : ']';
      ++at_;
      for (int i = 0;; ++i) {
        blank();
        if (at_ >= text_.size()) return;
        if (text_[at_] == close) break;
        if (text_[at_] == ',') {
          ++at_;
          blank();
        }
        std::string key = std::to_string(i);
        if (c == '{') {
          key = string();
          blank();
          ++at_;  // ':'
        }
        value(pointer + "/" + key);
      }
      ++at_;
    } else if (c == '"') {
      string();
    } else {
      while (at_ < text_.size() && std::string_view(",]} \t\r\n").find(text_[at_]) == std::string_view::npos) ++at_;
    }
  }

  const std::string& text_;
  std::size_t at_ = 0;
  int line_ = 1;
};

constexpr std::size_t deepest_nesting = 100;

// How many bytes the character at `at` has in UTF-8 (RFC 3629); 0 if it is none.
std::size_t utf8_length(const std::string& text, std::size_t at) {
  const auto byte = [&](std::size_t i) { return i < text.size() ? static_cast<unsigned char>(text[i]) : 0U; };
  const auto follows = [&](std::size_t i, unsigned low = 0x80, unsigned high = 0xBF) {
    return byte(i) >= low && byte(i) <= high;
  };
  const unsigned first = byte(at);
  if (first < 0x80) return 1;
  if (first >= 0xC2 && first <= 0xDF) return follows(at + 1) ? 2 : 0;
  if (first >= 0xE0 && first <= 0xEF)
    return follows(at + 1, first == 0xE0 ? 0xA0 : 0x80, first == 0xED ? 0x9F : 0xBF) && follows(at + 2) ? 3 : 0;
  if (first >= 0xF0 && first <= 0xF4)
    return follows(at + 1, first == 0xF0 ? 0x90 : 0x80, first == 0xF4 ? 0x8F : 0xBF) && follows(at + 2) &&
                   follows(at + 3)
               ? 4
               : 0;
  return 0;
}

}  // namespace

std::optional<JsonTextFault> json_text_fault(const std::string& text) {
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t length = utf8_length(text, at);
    if (length == 0) return JsonTextFault{at, "is not written in UTF-8 here", "save it as UTF-8"};
    at += length;
  }
  struct Level {
    bool object = false;
    std::set<std::string> keys;
  };
  std::vector<Level> levels;
  for (std::size_t at = 0; at < text.size(); ++at) {
    const char c = text[at];
    if (c == '{' || c == '[') {
      if (levels.size() == deepest_nesting)
        return JsonTextFault{at, "is nested more than 100 deep", "no scene needs that"};
      levels.push_back({c == '{', {}});
    } else if ((c == '}' || c == ']') && !levels.empty()) {
      levels.pop_back();
    } else if (c == '"') {
      const std::size_t start = ++at;
      for (; at < text.size() && text[at] != '"'; ++at)
        if (text[at] == '\\') ++at;
      const std::size_t end = std::min(at, text.size());
      const std::size_t next = text.find_first_not_of(" \t\r\n", end + 1);
      if (levels.empty() || !levels.back().object || next == std::string::npos || text[next] != ':') continue;
      const std::string key = text.substr(start, end - start);
      if (!levels.back().keys.insert(key).second)
        return JsonTextFault{start, "gives \"" + key + "\" twice in one object", "keep one of them"};
    }
  }
  return std::nullopt;
}

int line_of(const std::string& text, const std::string& pointer) {
  const LineFinder finder(text);
  std::string place = pointer;
  while (true) {
    const auto found = finder.lines.find(place);
    if (found != finder.lines.end()) return found->second;
    const auto cut = place.rfind('/');
    if (cut == std::string::npos) return 1;
    place.resize(cut);
  }
}

std::string readable_place(const std::string& pointer) {
  std::string place;
  std::size_t from = 1;
  while (from <= pointer.size() && !pointer.empty()) {
    const std::size_t to = std::min(pointer.find('/', from), pointer.size());
    const std::string part = pointer.substr(from, to - from);
    if (!part.empty() && part.find_first_not_of("0123456789") == std::string::npos)
      place += "[" + part + "]";
    else
      place += (place.empty() ? "" : ".") + part;
    from = to + 1;
  }
  return place;
}

}  // namespace bronvel
