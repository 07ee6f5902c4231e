// Writing JSON for people, and finding places in it.
#include "scene/json_text.h"

#include <map>

#include "scene/property.h"

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

}  // namespace

std::string json_text(const Json& json) {
  std::string out;
  write(json, 0, out);
  return out + "\n";
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
