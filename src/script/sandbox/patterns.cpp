// Lua's patterns, step by counted step.
#include <array>
#include <cctype>
#include <cstring>
#include <string_view>

#include "script/sandbox/sandbox.h"

namespace bronvel {
namespace {

constexpr int most_captures = 32;
constexpr int deepest = 200;  // calls within calls

constexpr std::ptrdiff_t is_open = -1;      // a capture whose end is not yet known
constexpr std::ptrdiff_t is_position = -2;  // the capture "()"

bool in_class(unsigned char c, unsigned char letter) {
  bool in = false;
  switch (std::tolower(letter)) {
    case 'a':
      in = std::isalpha(c) != 0;
      break;
    case 'c':
      in = std::iscntrl(c) != 0;
      break;
    case 'd':
      in = std::isdigit(c) != 0;
      break;
    case 'g':
      in = std::isgraph(c) != 0;
      break;
    case 'l':
      in = std::islower(c) != 0;
      break;
    case 'p':
      in = std::ispunct(c) != 0;
      break;
    case 's':
      in = std::isspace(c) != 0;
      break;
    case 'u':
      in = std::isupper(c) != 0;
      break;
    case 'w':
      in = std::isalnum(c) != 0;
      break;
    case 'x':
      in = std::isxdigit(c) != 0;
      break;
    default:
      return letter == c;
  }
  return std::isupper(letter) != 0 ? !in : in;
}

// One try of a pattern on a text. Places are indices; `nowhere` means that it does not match.
class Matcher {
 public:
  Matcher(Sandbox& box, std::string_view text, std::string_view pattern) : box_(box), text_(text), pattern_(pattern) {}

  static constexpr std::size_t nowhere = std::string_view::npos;

  // The end of the match that starts at `s`, or nowhere.
  std::size_t match_at(std::size_t s) {
    count_ = 0;
    depth_ = 0;
    return match(s, 0);
  }

  int captures() const { return count_; }

  // Pushes capture i, or the whole match if the pattern has none.
  void push(lua_State* lua, int i, std::size_t start, std::size_t end) const {
    if (i >= count_) {
      if (i != 0) throw ScriptFault("the pattern has no capture %" + std::to_string(i + 1));
      lua_pushlstring(lua, text_.data() + start, end - start);
      return;
    }
    const Capture& c = capture_[static_cast<std::size_t>(i)];
    if (c.length == is_open) throw ScriptFault("the pattern has a ( without its )");
    if (c.length == is_position)
      lua_pushinteger(lua, static_cast<lua_Integer>(c.start) + 1);
    else
      lua_pushlstring(lua, text_.data() + c.start, static_cast<std::size_t>(c.length));
  }

  int push_all(lua_State* lua, std::size_t start, std::size_t end, bool whole_if_none) const {
    const int count = count_ == 0 && whole_if_none ? 1 : count_;
    luaL_checkstack(lua, count, "too many captures");
    for (int i = 0; i < count; ++i) push(lua, i, start, end);
    return count;
  }

 private:
  struct Capture {
    std::size_t start = 0;
    std::ptrdiff_t length = is_open;
  };

  bool pattern_ends(std::size_t p) const { return p >= pattern_.size(); }
  unsigned char pattern_at(std::size_t p) const {
    return p < pattern_.size() ? static_cast<unsigned char>(pattern_[p]) : 0;
  }

  // The end of the single class that starts at p.
  std::size_t class_end(std::size_t p) const {
    const char c = pattern_[p++];
    if (c == '%') {
      if (pattern_ends(p)) throw ScriptFault("the pattern ends with %");
      return p + 1;
    }
    if (c == '[') {
      if (pattern_at(p) == '^') ++p;
      do {
        if (pattern_ends(p)) throw ScriptFault("the pattern has a [ without its ]");
        const char inside = pattern_[p++];
        if (inside == '%') ++p;
      } while (pattern_ends(p) || pattern_[p] != ']');
      return p + 1;
    }
    return p;
  }

  // Whether c is in the set [ … ] from p to its closing bracket at `end`.
  bool in_set(unsigned char c, std::size_t p, std::size_t end) const {
    bool wanted = true;
    if (pattern_at(p + 1) == '^') {
      wanted = false;
      ++p;
    }
    while (++p < end) {
      if (pattern_[p] == '%') {
        ++p;
        if (in_class(c, pattern_at(p))) return wanted;
      } else if (pattern_at(p + 1) == '-' && p + 2 < end) {
        p += 2;
        if (pattern_at(p - 2) <= c && c <= pattern_at(p)) return wanted;
      } else if (pattern_at(p) == c) {
        return wanted;
      }
    }
    return !wanted;
  }

  bool single(std::size_t s, std::size_t p, std::size_t end) {
    box_.spend(1);
    if (s >= text_.size()) return false;
    const auto c = static_cast<unsigned char>(text_[s]);
    switch (pattern_[p]) {
      case '.':
        return true;
      case '%':
        return in_class(c, pattern_at(p + 1));
      case '[':
        return in_set(c, p, end - 1);
      default:
        return pattern_at(p) == c;
    }
  }

  std::size_t balanced(std::size_t s, std::size_t p) {
    if (p + 1 >= pattern_.size()) throw ScriptFault("%b in the pattern wants two characters");
    if (s >= text_.size() || text_[s] != pattern_[p]) return nowhere;
    int open = 1;
    for (std::size_t i = s + 1; i < text_.size(); ++i) {
      box_.spend(1);
      if (text_[i] == pattern_[p + 1]) {
        if (--open == 0) return i + 1;
      } else if (text_[i] == pattern_[p]) {
        ++open;
      }
    }
    return nowhere;
  }

  std::size_t longest_first(std::size_t s, std::size_t p, std::size_t end) {
    std::size_t count = 0;
    while (single(s + count, p, end)) ++count;
    for (;; --count) {
      const std::size_t found = match(s + count, end + 1);
      if (found != nowhere || count == 0) return found;
    }
  }

  std::size_t shortest_first(std::size_t s, std::size_t p, std::size_t end) {
    for (;; ++s) {
      const std::size_t found = match(s, end + 1);
      if (found != nowhere) return found;
      if (!single(s, p, end)) return nowhere;
    }
  }

  std::size_t open_capture(std::size_t s, std::size_t p, std::ptrdiff_t what) {
    if (count_ >= most_captures) throw ScriptFault("the pattern has more than 32 captures");
    capture_[static_cast<std::size_t>(count_)] = {s, what};
    ++count_;
    const std::size_t found = match(s, p);
    if (found == nowhere) --count_;
    return found;
  }

  std::size_t close_capture(std::size_t s, std::size_t p) {
    int last = count_ - 1;
    while (last >= 0 && capture_[static_cast<std::size_t>(last)].length != is_open) --last;
    if (last < 0) throw ScriptFault("the pattern has a ) without its (");
    Capture& c = capture_[static_cast<std::size_t>(last)];
    c.length = static_cast<std::ptrdiff_t>(s - c.start);
    const std::size_t found = match(s, p);
    if (found == nowhere) c.length = is_open;
    return found;
  }

  std::size_t same_again(std::size_t s, unsigned char digit) {
    const int i = digit - '1';
    if (i < 0 || i >= count_ || capture_[static_cast<std::size_t>(i)].length < 0)
      throw ScriptFault("the pattern asks for a capture that it does not have");
    const Capture& c = capture_[static_cast<std::size_t>(i)];
    const auto length = static_cast<std::size_t>(c.length);
    box_.spend(static_cast<std::int64_t>(length));
    return text_.substr(c.start, length) == text_.substr(s, length) && s + length <= text_.size() ? s + length
                                                                                                  : nowhere;
  }

  std::size_t match(std::size_t s, std::size_t p) {
    if (++depth_ > deepest) throw ScriptFault("the pattern is too involved");
    const std::size_t found = match_here(s, p);
    --depth_;
    return found;
  }

  std::size_t match_here(std::size_t s, std::size_t p) {
    for (;;) {
      box_.spend(1);
      if (pattern_ends(p)) return s;
      switch (pattern_[p]) {
        case '(':
          return pattern_at(p + 1) == ')' ? open_capture(s, p + 2, is_position) : open_capture(s, p + 1, is_open);
        case ')':
          return close_capture(s, p + 1);
        case '$':
          if (p + 1 == pattern_.size()) return s == text_.size() ? s : nowhere;
          break;
        case '%':
          if (pattern_at(p + 1) == 'b') {
            s = balanced(s, p + 2);
            if (s == nowhere) return nowhere;
            p += 4;
            continue;
          }
          if (pattern_at(p + 1) == 'f') {
            p += 2;
            if (pattern_at(p) != '[') throw ScriptFault("%f in the pattern wants a set [ … ]");
            const std::size_t end = class_end(p);
            const unsigned char before = s == 0 ? 0 : static_cast<unsigned char>(text_[s - 1]);
            const unsigned char here = s < text_.size() ? static_cast<unsigned char>(text_[s]) : 0;
            if (in_set(before, p, end - 1) || !in_set(here, p, end - 1)) return nowhere;
            p = end;
            continue;
          }
          if (std::isdigit(pattern_at(p + 1)) != 0) {
            s = same_again(s, pattern_at(p + 1));
            if (s == nowhere) return nowhere;
            p += 2;
            continue;
          }
          break;
        default:
          break;
      }
      const std::size_t end = class_end(p);
      switch (pattern_at(end)) {
        case '?': {
          if (single(s, p, end)) {
            const std::size_t found = match(s + 1, end + 1);
            if (found != nowhere) return found;
          }
          p = end + 1;
          continue;
        }
        case '+':
          return single(s, p, end) ? longest_first(s + 1, p, end) : nowhere;
        case '*':
          return longest_first(s, p, end);
        case '-':
          return shortest_first(s, p, end);
        default:
          if (!single(s, p, end)) return nowhere;
          ++s;
          p = end;
      }
    }
  }

  Sandbox& box_;
  std::string_view text_, pattern_;
  std::array<Capture, most_captures> capture_{};
  int count_ = 0;
  int depth_ = 0;
};

std::string_view text_at(lua_State* lua, int index, const char* call) {
  if (lua_type(lua, index) != LUA_TSTRING && lua_type(lua, index) != LUA_TNUMBER)
    throw ScriptFault(std::string(call) + " wants a text, got " + luaL_typename(lua, index));
  std::size_t size = 0;
  const char* bytes = lua_tolstring(lua, index, &size);
  return {bytes, size};
}

// Where to begin, from Lua's third argument: from 1, or from the end when negative.
std::size_t start_at(lua_State* lua, int index, std::size_t size) {
  const lua_Integer from = lua_isinteger(lua, index) != 0 ? lua_tointeger(lua, index) : 1;
  if (from > 0) return static_cast<std::size_t>(from) - 1;
  if (from == 0 || static_cast<std::size_t>(-from) > size) return 0;
  return size - static_cast<std::size_t>(-from);
}

int look(lua_State* lua, const char* call, bool find) {
  const std::string_view text = text_at(lua, 1, call);
  std::string_view pattern = text_at(lua, 2, call);
  const std::size_t from = start_at(lua, 3, text.size());
  if (from > text.size()) {
    lua_pushnil(lua);
    return 1;
  }
  const bool plain =
      find && (lua_toboolean(lua, 4) != 0 || pattern.find_first_of("^$*+?.([%-") == std::string_view::npos);
  Sandbox& box = Sandbox::of(lua);
  if (plain) {
    box.spend(static_cast<std::int64_t>((text.size() + pattern.size()) / 4));
    // memmem's time grows with the sum of both lengths, not with their product.
    const void* const found = memmem(text.data() + from, text.size() - from, pattern.data(), pattern.size());
    const std::size_t at = found ? static_cast<std::size_t>(static_cast<const char*>(found) - text.data()) : 0;
    if (!found) {
      lua_pushnil(lua);
      return 1;
    }
    lua_pushinteger(lua, static_cast<lua_Integer>(at) + 1);
    lua_pushinteger(lua, static_cast<lua_Integer>(at) + static_cast<lua_Integer>(pattern.size()));
    return 2;
  }
  const bool anchored = pattern.starts_with('^');
  if (anchored) pattern.remove_prefix(1);
  Matcher matcher(box, text, pattern);
  for (std::size_t s = from; s <= text.size(); ++s) {
    const std::size_t end = matcher.match_at(s);
    if (end != Matcher::nowhere) {
      if (!find) return matcher.push_all(lua, s, end, true);
      lua_pushinteger(lua, static_cast<lua_Integer>(s) + 1);
      lua_pushinteger(lua, static_cast<lua_Integer>(end));
      return 2 + matcher.push_all(lua, s, end, false);
    }
    if (anchored) break;
  }
  lua_pushnil(lua);
  return 1;
}

int find(lua_State* lua) {
  return look(lua, "string.find", true);
}
int match(lua_State* lua) {
  return look(lua, "string.match", false);
}

// Upvalues: text, pattern, where to go on, end of the last match.
int next_match(lua_State* lua) {
  const std::string_view text = text_at(lua, lua_upvalueindex(1), "string.gmatch");
  const std::string_view pattern = text_at(lua, lua_upvalueindex(2), "string.gmatch");
  const auto last = static_cast<std::size_t>(lua_tointeger(lua, lua_upvalueindex(4)));
  Matcher matcher(Sandbox::of(lua), text, pattern);
  for (auto s = static_cast<std::size_t>(lua_tointeger(lua, lua_upvalueindex(3))); s <= text.size(); ++s) {
    const std::size_t end = matcher.match_at(s);
    if (end == Matcher::nowhere || end + 1 == last) continue;
    lua_pushinteger(lua, static_cast<lua_Integer>(end));
    lua_replace(lua, lua_upvalueindex(3));
    lua_pushinteger(lua, static_cast<lua_Integer>(end) + 1);
    lua_replace(lua, lua_upvalueindex(4));
    return matcher.push_all(lua, s, end, true);
  }
  lua_pushnil(lua);
  return 1;
}

int gmatch(lua_State* lua) {
  text_at(lua, 1, "string.gmatch");
  text_at(lua, 2, "string.gmatch");
  lua_settop(lua, 2);
  lua_tolstring(lua, 1, nullptr);
  lua_pushinteger(lua, 0);
  lua_pushinteger(lua, 0);
  lua_pushcclosure(lua, lua_guarded<next_match>, 4);
  return 1;
}

// What stands in for a match, onto the stack: nil or false keeps what was there.
void push_replacement(lua_State* lua, const Matcher& matcher, std::size_t start, std::size_t end) {
  switch (lua_type(lua, 3)) {
    case LUA_TFUNCTION: {
      lua_pushvalue(lua, 3);
      const int count = matcher.push_all(lua, start, end, true);
      lua_call(lua, count, 1);
      return;
    }
    case LUA_TTABLE:
      matcher.push(lua, 0, start, end);
      lua_gettable(lua, 3);
      return;
    default:
      break;
  }
  const std::string_view with = text_at(lua, 3, "string.gsub");
  luaL_Buffer made;
  luaL_buffinit(lua, &made);
  for (std::size_t i = 0; i < with.size(); ++i) {
    if (with[i] != '%') {
      luaL_addchar(&made, with[i]);
      continue;
    }
    ++i;
    if (i < with.size() && with[i] == '%') {
      luaL_addchar(&made, '%');
    } else if (i < with.size() && std::isdigit(static_cast<unsigned char>(with[i])) != 0) {
      if (with[i] == '0')
        lua_pushlstring(lua, text_at(lua, 1, "string.gsub").data() + start, end - start);
      else
        matcher.push(lua, with[i] - '1', start, end);
      luaL_addvalue(&made);
    } else {
      throw ScriptFault("string.gsub: a % in the new text wants a digit or another % after it");
    }
  }
  luaL_pushresult(&made);
}

int gsub(lua_State* lua) {
  const std::string_view text = text_at(lua, 1, "string.gsub");
  std::string_view pattern = text_at(lua, 2, "string.gsub");
  const int type = lua_type(lua, 3);
  if (type != LUA_TSTRING && type != LUA_TNUMBER && type != LUA_TTABLE && type != LUA_TFUNCTION)
    throw ScriptFault(std::string("string.gsub wants a text, a table or a function third, got ") +
                      luaL_typename(lua, 3));
  const lua_Integer most = lua_isinteger(lua, 4) != 0 ? lua_tointeger(lua, 4) : LUA_MAXINTEGER;
  const bool anchored = pattern.starts_with('^');
  if (anchored) pattern.remove_prefix(1);
  Matcher matcher(Sandbox::of(lua), text, pattern);
  lua_settop(lua, 4);
  lua_newtable(lua);  // the pieces of the new text: the stack stays flat whatever the replacements do
  lua_Integer pieces = 0, count = 0;
  const auto keep = [&](std::size_t from, std::size_t to) {
    if (from == to) return;
    lua_pushlstring(lua, text.data() + from, to - from);
    lua_rawseti(lua, 5, ++pieces);
  };
  std::size_t s = 0, kept = 0, last = Matcher::nowhere;
  while (count < most) {
    const std::size_t end = matcher.match_at(s);
    if (end != Matcher::nowhere && end != last) {
      ++count;
      Sandbox::of(lua).spend(15);
      keep(kept, s);
      push_replacement(lua, matcher, s, end);
      if (lua_toboolean(lua, -1) == 0) {
        lua_pop(lua, 1);
        lua_pushlstring(lua, text.data() + s, end - s);
      } else if (lua_isstring(lua, -1) == 0) {
        throw ScriptFault(std::string("string.gsub can't put in a ") + luaL_typename(lua, -1));
      }
      lua_rawseti(lua, 5, ++pieces);
      s = kept = last = end;
    } else if (s < text.size()) {
      ++s;
    } else {
      break;
    }
    if (anchored) break;
  }
  keep(std::min(kept, text.size()), text.size());
  luaL_Buffer made;
  luaL_buffinit(lua, &made);
  for (lua_Integer i = 1; i <= pieces; ++i) {
    lua_rawgeti(lua, 5, i);
    luaL_addvalue(&made);
  }
  luaL_pushresult(&made);
  lua_pushinteger(lua, count);
  return 2;
}

}  // namespace

void set_patterns(lua_State* lua) {
  const std::array<std::pair<const char*, lua_CFunction>, 4> functions{{{"find", lua_guarded<find>},
                                                                        {"match", lua_guarded<match>},
                                                                        {"gmatch", lua_guarded<gmatch>},
                                                                        {"gsub", lua_guarded<gsub>}}};
  for (const auto& [name, function] : functions) {
    lua_pushcfunction(lua, function);
    lua_setfield(lua, -2, name);
  }
}

}  // namespace bronvel
