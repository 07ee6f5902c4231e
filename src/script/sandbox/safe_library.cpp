// Lua's own libraries as scripts get them: nothing that reaches out, differs from run to run, or costs more than it
// pays.
#include <algorithm>
#include <array>
#include <cmath>
#include <string_view>

#include "script/sandbox/sandbox.h"

namespace bronvel {
namespace {

// What a call costs: a handful of steps, and one for each value or so many bytes that it goes through.
void charge(lua_State* lua, std::int64_t steps) {
  Sandbox& box = Sandbox::of(lua);
  box.take_off(steps);
  if (box.over_budget()) luaL_error(lua, "%s", box.budget_fault());
}

// `in_a_step`: so many bytes of the arguments' texts cost as much as a step.
void charge_texts(lua_State* lua, std::int64_t in_a_step = static_cast<std::int64_t>(bytes_in_a_step)) {
  std::int64_t bytes = 0;
  for (int i = 1; i <= lua_gettop(lua); ++i)
    if (lua_type(lua, i) == LUA_TSTRING) bytes += static_cast<std::int64_t>(lua_rawlen(lua, i));
  charge(lua, 2 + lua_gettop(lua) + bytes / in_a_step);
}

// How many values from `low` to `high`, as the library reads them: a float with a whole value is an integer too.
std::int64_t range_length(lua_State* lua, int low_at, int high_at, lua_Integer otherwise_high) {
  const lua_Integer low = lua_isnoneornil(lua, low_at) ? 1 : lua_tointeger(lua, low_at);
  const lua_Integer high = lua_isnoneornil(lua, high_at) ? otherwise_high : lua_tointeger(lua, high_at);
  if (high < low) return 0;
  const double length = static_cast<double>(high) - static_cast<double>(low) + 1;
  constexpr double most = 1e6;
  if (length > most) luaL_error(lua, "a range of more than a million is too long");
  return static_cast<std::int64_t>(length);
}

// The number of things in the list at `index`, as its metatable may make up.
lua_Integer list_length(lua_State* lua, int index) {
  luaL_checkany(lua, index);
  if (lua_type(lua, index) == LUA_TTABLE || luaL_getmetafield(lua, index, "__len") != LUA_TNIL) {
    lua_settop(lua, std::max(lua_gettop(lua), index));
    return luaL_len(lua, index);
  }
  return 0;  // the library will say what is wrong with it
}

// The library's own function, which is the first upvalue, with the arguments as they are. It runs in our place, so that
// what it complains of has its name and the script's line.
int call_own(lua_State* lua) {
  return lua_tocfunction(lua, lua_upvalueindex(1))(lua);
}

// A function that costs by the texts that it is given.
int by_texts(lua_State* lua) {
  charge_texts(lua);
  return call_own(lua);
}

// One that reads them byte by byte.
int by_bytes(lua_State* lua) {
  charge_texts(lua, 4);
  return call_own(lua);
}

// table.concat, unpack, move: by the range that is asked for.
template <int list, int low, int high>
int by_range(lua_State* lua) {
  const int given = lua_gettop(lua);
  const lua_Integer length = lua_isnoneornil(lua, high) ? list_length(lua, list) : 0;
  lua_settop(lua, given);
  charge(lua, 4 + range_length(lua, low, high, length));
  return call_own(lua);
}

int safe_sort(lua_State* lua) {
  const int given = lua_gettop(lua);
  const lua_Integer length = list_length(lua, 1);
  lua_settop(lua, given);
  const auto count = static_cast<double>(std::max<lua_Integer>(length, 1));
  constexpr double most = 1e6;
  if (count > most) return luaL_error(lua, "a list of more than a million is too long to sort");
  charge(lua, 4 + static_cast<std::int64_t>(4 * count * std::log2(count + 1)));
  return call_own(lua);
}

// table.insert and remove: what lies behind the place is moved along.
template <int place, int arguments_with_place>
int safe_shift(lua_State* lua) {
  const int given = lua_gettop(lua);
  if (given >= arguments_with_place) {
    const lua_Integer length = list_length(lua, 1);
    lua_settop(lua, given);
    const auto moved = static_cast<double>(length) - static_cast<double>(lua_tointeger(lua, place));
    constexpr double most = 1e6;
    if (moved > most) return luaL_error(lua, "a list of more than a million is too long to move along");
    charge(lua, static_cast<std::int64_t>(std::max(moved, 0.0)));
  }
  charge(lua, 4);
  return call_own(lua);
}

// string.byte and utf8.codepoint give a value for each place.
int by_places(lua_State* lua) {
  charge_texts(lua);
  const int given = lua_gettop(lua);
  const auto length = static_cast<lua_Integer>(lua_type(lua, 1) == LUA_TSTRING ? lua_rawlen(lua, 1) : 0);
  const lua_Integer from = lua_isnoneornil(lua, 2) ? 1 : lua_tointeger(lua, 2);
  lua_Integer to = lua_isnoneornil(lua, 3) ? from : lua_tointeger(lua, 3);
  if (to < 0) to += length + 1;
  lua_settop(lua, given);
  charge(lua, std::clamp<std::int64_t>(to - from, 0, length));
  return call_own(lua);
}

constexpr std::int64_t of_caught_error = 60;  // the call may fail

// pcall and xpcall hand on the one error that must not be caught: being out of time.
int safe_pcall(lua_State* lua) {
  charge(lua, of_caught_error);
  if (lua_gettop(lua) == 0) return luaL_error(lua, "pcall wants a function");
  const int status = lua_pcall(lua, lua_gettop(lua) - 1, LUA_MULTRET, 0);
  if (status != LUA_OK && Sandbox::of(lua).over_budget()) return lua_error(lua);
  lua_pushboolean(lua, status == LUA_OK);
  lua_insert(lua, 1);
  return lua_gettop(lua);
}

// The handler runs after the call has ended, not where it failed: there it could loop for ever, since Lua watches
// nothing while it deals with an error out of the watching itself. Without the debug library a script can't tell.
int safe_xpcall(lua_State* lua) {
  charge(lua, of_caught_error);
  if (lua_gettop(lua) < 2) return luaL_error(lua, "xpcall wants a function and a handler");
  lua_pushvalue(lua, 2);
  lua_insert(lua, 1);
  lua_remove(lua, 3);  // handler, function, arguments …
  const int status = lua_pcall(lua, lua_gettop(lua) - 2, LUA_MULTRET, 0);
  if (status != LUA_OK) {
    if (Sandbox::of(lua).over_budget()) return lua_error(lua);
    lua_settop(lua, 2);
    if (lua_pcall(lua, 1, LUA_MULTRET, 0) != LUA_OK && Sandbox::of(lua).over_budget()) return lua_error(lua);
    lua_pushboolean(lua, 0);
    lua_insert(lua, 1);
    return lua_gettop(lua);
  }
  lua_pushboolean(lua, 1);
  lua_replace(lua, 1);
  return lua_gettop(lua);
}

// What runs in a coroutine is counted a thousand steps at a time, and the last of each thread not at all.
constexpr std::int64_t thread_cost = 1000;

// As pcall does, resume hands on being out of time.
int safe_resume(lua_State* lua) {
  charge(lua, 20 + lua_gettop(lua));
  if (lua_State* thread = lua_tothread(lua, 1)) Sandbox::of(lua).watch(thread);
  const int results = call_own(lua);
  if (Sandbox::of(lua).over_budget()) return luaL_error(lua, "%s", Sandbox::of(lua).budget_fault());
  return results;
}

int resume_wrapped(lua_State* lua) {
  charge(lua, 20 + lua_gettop(lua));
  // The wrapped function has its thread for its one upvalue.
  if (lua_getupvalue(lua, lua_upvalueindex(1), 1) != nullptr) {
    if (lua_State* thread = lua_tothread(lua, -1)) Sandbox::of(lua).watch(thread);
    lua_pop(lua, 1);
  }
  lua_pushvalue(lua, lua_upvalueindex(1));
  lua_insert(lua, 1);
  lua_call(lua, lua_gettop(lua) - 1, LUA_MULTRET);
  return lua_gettop(lua);
}

int safe_create(lua_State* lua) {
  charge(lua, thread_cost);
  return call_own(lua);
}

int safe_wrap(lua_State* lua) {
  charge(lua, thread_cost);
  call_own(lua);
  lua_pushcclosure(lua, resume_wrapped, 1);
  return 1;
}

int safe_rep(lua_State* lua) {
  std::size_t length = 0, between = 0;
  luaL_checklstring(lua, 1, &length);
  luaL_optlstring(lua, 3, "", &between);
  const lua_Integer times = luaL_checkinteger(lua, 2);
  constexpr double most = 1 << 20;
  if (times > 0 && static_cast<double>(length + between) * static_cast<double>(times) > most)
    return luaL_error(lua, "string.rep would make more than a megabyte of text");
  // The library's own goes round for each, also where there is nothing to put down.
  if (length + between == 0) {
    charge(lua, 2);
    lua_pushliteral(lua, "");
    return 1;
  }
  charge(lua, 2 + std::max<lua_Integer>(times, 0));
  return call_own(lua);
}

// pairs in a fixed order (numbers, then texts by their bytes, then the rest), so that plays repeat exactly: Lua's own
// order differs from run to run.
int next_sorted(lua_State* lua) {
  const lua_Integer at = lua_tointeger(lua, lua_upvalueindex(2)) + 1;
  lua_pushinteger(lua, at);
  lua_replace(lua, lua_upvalueindex(2));
  if (lua_rawgeti(lua, lua_upvalueindex(1), at) == LUA_TNIL) return 1;
  lua_pushvalue(lua, -1);
  lua_rawget(lua, 1);
  return 2;
}

bool key_before(lua_State* lua, int a, int b) {
  const auto rank = [&](int i) {
    const int type = lua_type(lua, i);
    return type == LUA_TNUMBER ? 0 : type == LUA_TSTRING ? 1 : type == LUA_TBOOLEAN ? 2 : 3;
  };
  if (rank(a) != rank(b)) return rank(a) < rank(b);
  if (rank(a) <= 1) return lua_compare(lua, a, b, LUA_OPLT) != 0;
  if (rank(a) == 2) return lua_toboolean(lua, a) < lua_toboolean(lua, b);
  // Bodies, vectors and such by what they hold: it is the same on every run.
  const std::string_view x(static_cast<const char*>(lua_touserdata(lua, a)), lua_rawlen(lua, a));
  const std::string_view y(static_cast<const char*>(lua_touserdata(lua, b)), lua_rawlen(lua, b));
  return x < y;
}

int sorted_pairs(lua_State* lua) {
  luaL_checkany(lua, 1);
  if (luaL_getmetafield(lua, 1, "__pairs") != LUA_TNIL) {
    lua_pushvalue(lua, 1);
    lua_call(lua, 1, 3);
    return 3;
  }
  luaL_checktype(lua, 1, LUA_TTABLE);
  lua_settop(lua, 1);
  lua_newtable(lua);
  lua_Integer count = 0;
  lua_pushnil(lua);
  while (lua_next(lua, 1) != 0) {
    lua_pop(lua, 1);
    const int type = lua_type(lua, -1);
    if (type == LUA_TTABLE || type == LUA_TFUNCTION || type == LUA_TTHREAD)
      return luaL_error(lua,
                        "pairs can't go through keys that are %ss in the same order on every run; use names or numbers",
                        lua_typename(lua, type));
    lua_pushvalue(lua, -1);
    lua_rawseti(lua, 2, ++count);
  }
  charge(lua,
         4 + static_cast<std::int64_t>(20 * static_cast<double>(count) * std::log2(static_cast<double>(count) + 1)));
  // Heap sort on the list of keys: no memory of our own that an error could leak.
  const auto less = [&](lua_Integer i, lua_Integer j) {
    lua_rawgeti(lua, 2, i);
    lua_rawgeti(lua, 2, j);
    const bool before = key_before(lua, -2, -1);
    lua_pop(lua, 2);
    return before;
  };
  const auto swap = [&](lua_Integer i, lua_Integer j) {
    lua_rawgeti(lua, 2, i);
    lua_rawgeti(lua, 2, j);
    lua_rawseti(lua, 2, i);
    lua_rawseti(lua, 2, j);
  };
  const auto sink = [&](lua_Integer from, lua_Integer end) {
    for (lua_Integer i = from; 2 * i <= end;) {
      lua_Integer child = 2 * i;
      if (child < end && less(child, child + 1)) ++child;
      if (!less(i, child)) return;
      swap(i, child);
      i = child;
    }
  };
  for (lua_Integer i = count / 2; i >= 1; --i) sink(i, count);
  for (lua_Integer end = count; end > 1; --end) {
    swap(1, end);
    sink(1, end - 1);
  }
  lua_pushinteger(lua, 0);
  lua_pushcclosure(lua, next_sorted, 2);
  lua_pushvalue(lua, 1);
  lua_pushnil(lua);
  return 3;
}

// Without finalizers and weak tables: when they act depends on when garbage is collected, which differs from run to
// run.
int safe_setmetatable(lua_State* lua) {
  luaL_checktype(lua, 1, LUA_TTABLE);
  if (!lua_isnoneornil(lua, 2)) {
    luaL_checktype(lua, 2, LUA_TTABLE);
    for (const char* field : {"__gc", "__mode", "__close"}) {
      lua_pushstring(lua, field);
      lua_rawget(lua, 2);
      if (!lua_isnil(lua, -1)) return luaL_error(lua, "a metatable may have no %s here", field);
      lua_pop(lua, 1);
    }
  }
  if (luaL_getmetafield(lua, 1, "__metatable") != LUA_TNIL) return luaL_error(lua, "this metatable is protected");
  lua_settop(lua, 2);
  lua_setmetatable(lua, 1);
  return 1;
}

int refuse_change(lua_State* lua) {
  return luaL_error(lua, "%s can't be changed by a script", lua_tostring(lua, lua_upvalueindex(1)));
}

// What all scripts share can't be changed past its metatable either.
int safe_rawset(lua_State* lua) {
  luaL_checktype(lua, 1, LUA_TTABLE);
  luaL_checkany(lua, 3);
  // Ours are those whose metatable is hidden and whose changes go to a function of ours.
  const bool hidden = luaL_getmetafield(lua, 1, "__metatable") == LUA_TBOOLEAN;
  if (hidden && luaL_getmetafield(lua, 1, "__newindex") != LUA_TNIL && lua_iscfunction(lua, -1) != 0)
    return luaL_error(lua, "what all scripts share can't be changed by one of them");
  lua_settop(lua, 3);
  lua_rawset(lua, 1);
  return 1;
}

// Whether the value is told by its address, which differs from run to run.
bool told_by_address(lua_State* lua, int index) {
  const int type = lua_type(lua, index);
  if (type != LUA_TTABLE && type != LUA_TFUNCTION && type != LUA_TTHREAD && type != LUA_TUSERDATA &&
      type != LUA_TLIGHTUSERDATA)
    return false;
  if (luaL_getmetafield(lua, index, "__tostring") == LUA_TNIL) return true;
  lua_pop(lua, 1);
  return false;
}

int safe_tostring(lua_State* lua) {
  charge(lua, 20);
  luaL_checkany(lua, 1);
  if (told_by_address(lua, 1))
    lua_pushstring(lua, luaL_typename(lua, 1));
  else
    luaL_tolstring(lua, 1, nullptr);
  return 1;
}

// string.format without addresses.
int safe_format(lua_State* lua) {
  const std::string_view wanted = luaL_checkstring(lua, 1);
  bool quotes = false;
  for (std::size_t at = wanted.find('%'); at != std::string_view::npos && at + 1 < wanted.size();
       at = wanted.find('%', at + 2))
    if (const auto letter = wanted.find_first_not_of("-+ #0123456789.", at + 1); letter != std::string_view::npos) {
      if (wanted[letter] == 'p')
        return luaL_error(lua, "string.format knows no %%p here: addresses differ from run to run");
      quotes = quotes || wanted[letter] == 'q';
    }
  // Quoting goes byte by byte.
  for (int i = 2; quotes && i <= lua_gettop(lua); ++i)
    if (lua_type(lua, i) == LUA_TSTRING) charge(lua, static_cast<std::int64_t>(lua_rawlen(lua, i)));
  for (int i = 2; i <= lua_gettop(lua); ++i) {
    if (!told_by_address(lua, i)) continue;
    lua_pushstring(lua, luaL_typename(lua, i));
    lua_replace(lua, i);
  }
  charge_texts(lua);
  return call_own(lua);
}

// Puts `ours` in place of the function of that name in the table on top of the stack, with that as its upvalue.
void replace(lua_State* lua, const char* name, lua_CFunction ours) {
  lua_getfield(lua, -1, name);
  lua_pushcclosure(lua, ours, 1);
  lua_setfield(lua, -2, name);
}

}  // namespace

void make_read_only(lua_State* lua, const char* name) {
  lua_newtable(lua);  // stand-in
  lua_newtable(lua);  // its metatable
  lua_pushvalue(lua, -3);
  lua_setfield(lua, -2, "__index");
  lua_pushstring(lua, name);
  lua_pushcclosure(lua, refuse_change, 1);
  lua_setfield(lua, -2, "__newindex");
  lua_pushboolean(lua, 0);
  lua_setfield(lua, -2, "__metatable");
  lua_setmetatable(lua, -2);
  lua_remove(lua, -2);
}

void Sandbox::open_libraries() {
  const auto open = [&](const char* name, lua_CFunction function) { luaL_requiref(lua, name, function, 0); };
  lua_newtable(lua);  // the globals that scripts see
  const int shared = lua_gettop(lua);

  open("_G", luaopen_base);
  for (const char* name : {"assert", "error", "ipairs", "rawequal", "rawlen", "rawget", "getmetatable", "type"}) {
    lua_getfield(lua, -1, name);
    lua_setfield(lua, shared, name);
  }
  for (const char* name : {"select", "tonumber"}) {
    replace(lua, name, by_bytes);
    lua_getfield(lua, -1, name);
    lua_setfield(lua, shared, name);
  }
  lua_pop(lua, 1);
  lua_pushcfunction(lua, safe_rawset);
  lua_setfield(lua, shared, "rawset");
  lua_pushcfunction(lua, safe_tostring);
  lua_setfield(lua, shared, "tostring");
  lua_pushcfunction(lua, safe_pcall);
  lua_setfield(lua, shared, "pcall");
  lua_pushcfunction(lua, safe_xpcall);
  lua_setfield(lua, shared, "xpcall");
  lua_pushcfunction(lua, sorted_pairs);
  lua_setfield(lua, shared, "pairs");
  lua_pushcfunction(lua, safe_setmetatable);
  lua_setfield(lua, shared, "setmetatable");

  open("string", luaopen_string);
  lua_pushnil(lua);
  lua_setfield(lua, -2, "dump");
  replace(lua, "rep", safe_rep);
  replace(lua, "format", safe_format);
  replace(lua, "byte", by_places);
  for (const char* name : {"char", "lower", "upper", "reverse", "sub", "pack", "packsize", "unpack"})
    replace(lua, name, by_texts);
  set_patterns(lua);
  make_read_only(lua, "string");
  lua_pushliteral(lua, "");  // texts' own metatable, hidden and pointing at the safe library
  lua_getmetatable(lua, -1);
  lua_pushvalue(lua, -3);
  lua_setfield(lua, -2, "__index");
  lua_pushboolean(lua, 0);
  lua_setfield(lua, -2, "__metatable");
  lua_pop(lua, 2);
  lua_setfield(lua, shared, "string");

  open("math", luaopen_math);
  for (const char* name : {"random", "randomseed"}) {
    lua_pushnil(lua);
    lua_setfield(lua, -2, name);
  }
  make_read_only(lua, "math");
  lua_setfield(lua, shared, "math");

  open("table", luaopen_table);
  replace(lua, "move", by_range<1, 2, 3>);
  replace(lua, "concat", by_range<1, 3, 4>);
  replace(lua, "unpack", by_range<1, 2, 3>);
  replace(lua, "pack", by_texts);
  replace(lua, "sort", safe_sort);
  replace(lua, "insert", safe_shift<2, 3>);
  replace(lua, "remove", safe_shift<2, 2>);
  make_read_only(lua, "table");
  lua_setfield(lua, shared, "table");

  open("utf8", luaopen_utf8);
  replace(lua, "codepoint", by_places);
  for (const char* name : {"char", "len", "offset", "codes"}) replace(lua, name, by_bytes);
  make_read_only(lua, "utf8");
  lua_setfield(lua, shared, "utf8");

  open("coroutine", luaopen_coroutine);
  replace(lua, "resume", safe_resume);
  replace(lua, "create", safe_create);
  replace(lua, "wrap", safe_wrap);
  make_read_only(lua, "coroutine");
  lua_setfield(lua, shared, "coroutine");
  globals = luaL_ref(lua, LUA_REGISTRYINDEX);
}

}  // namespace bronvel
