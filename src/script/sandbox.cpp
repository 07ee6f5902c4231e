// The safe Lua state.
#include "script/sandbox.h"

#include <algorithm>
#include <array>
#include <chrono>
#include <cstdlib>
#include <cstring>
#include <stdexcept>
#include <string_view>
#include <vector>

namespace bronvel {
namespace {

constexpr int hook_step = 1000;  // instructions between looks at the budget

std::string type_word(lua_State* lua, int index) {
  return luaL_typename(lua, index);
}

// pcall and xpcall hand on the one error that must not be caught: being out of time.
int safe_pcall(lua_State* lua) {
  if (lua_gettop(lua) == 0) return luaL_error(lua, "pcall wants a function");
  const int status = lua_pcall(lua, lua_gettop(lua) - 1, LUA_MULTRET, 0);
  if (status != LUA_OK && Sandbox::of(lua).over_budget()) return lua_error(lua);
  lua_pushboolean(lua, status == LUA_OK);
  lua_insert(lua, 1);
  return lua_gettop(lua);
}

int safe_xpcall(lua_State* lua) {
  if (lua_gettop(lua) < 2) return luaL_error(lua, "xpcall wants a function and a handler");
  lua_pushvalue(lua, 2);
  lua_pushvalue(lua, 1);
  lua_replace(lua, 2);
  lua_replace(lua, 1);  // handler, function, arguments …
  const int status = lua_pcall(lua, lua_gettop(lua) - 2, LUA_MULTRET, 1);
  if (status != LUA_OK && Sandbox::of(lua).over_budget()) return lua_error(lua);
  lua_pushboolean(lua, status == LUA_OK);
  lua_replace(lua, 1);
  return lua_gettop(lua);
}

int safe_rep(lua_State* lua) {
  std::size_t length = 0, between = 0;
  luaL_checklstring(lua, 1, &length);
  luaL_optlstring(lua, 3, "", &between);
  const lua_Integer times = luaL_checkinteger(lua, 2);
  constexpr double most = 1 << 20;
  if (times > 0 && static_cast<double>(length + between) * static_cast<double>(times) > most)
    return luaL_error(lua, "string.rep would make more than a megabyte of text");
  lua_pushvalue(lua, lua_upvalueindex(1));
  lua_insert(lua, 1);
  lua_call(lua, lua_gettop(lua) - 1, 1);
  return 1;
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
    for (const char* field : {"__gc", "__mode"}) {
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

// table.move and table.concat walk ranges that a script makes up, in C.
template <int first, int last>
int safe_range(lua_State* lua) {
  // As the library reads them: a float with a whole value is an integer too.
  int low_is_one = 0, high_is_one = 0;
  const auto low = static_cast<double>(lua_tointegerx(lua, first, &low_is_one));
  const auto high = static_cast<double>(lua_tointegerx(lua, last, &high_is_one));
  if (low_is_one != 0 && high_is_one != 0 && high - low > 1e6)
    return luaL_error(lua, "a range of more than a million is too long");
  lua_pushvalue(lua, lua_upvalueindex(1));
  lua_insert(lua, 1);
  lua_call(lua, lua_gettop(lua) - 1, LUA_MULTRET);
  return lua_gettop(lua);
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
  for (std::size_t at = wanted.find('%'); at != std::string_view::npos && at + 1 < wanted.size();
       at = wanted.find('%', at + 2))
    if (const auto letter = wanted.find_first_not_of("-+ #0123456789.", at + 1);
        letter != std::string_view::npos && wanted[letter] == 'p')
      return luaL_error(lua, "string.format knows no %%p here: addresses differ from run to run");
  for (int i = 2; i <= lua_gettop(lua); ++i) {
    if (!told_by_address(lua, i)) continue;
    lua_pushstring(lua, luaL_typename(lua, i));
    lua_replace(lua, i);
  }
  lua_pushvalue(lua, lua_upvalueindex(1));
  lua_insert(lua, 1);
  lua_call(lua, lua_gettop(lua) - 1, 1);
  return 1;
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

Sandbox::Sandbox(const SandboxLimits& limits, void* user_data) : user(user_data), limits_(limits) {
  lua = lua_newstate(allocate, this);
  if (!lua) throw std::bad_alloc();
  *static_cast<Sandbox**>(lua_getextraspace(lua)) = this;
  open_libraries();
  lua_sethook(lua, count, LUA_MASKCOUNT, hook_step);
  constexpr int pause = 200, work = 100, step = 10;  // a step of 2^10 bytes worth of work
  lua_gc(lua, LUA_GCINC, pause, work, step);
  lua_gc(lua, LUA_GCSTOP);
}

Sandbox::~Sandbox() {
  lua_sethook(lua, nullptr, 0, 0);
  lua_close(lua);
}

Sandbox& Sandbox::of(lua_State* lua) {
  return **static_cast<Sandbox**>(lua_getextraspace(lua));
}

void* Sandbox::allocate(void* self, void* block, std::size_t old_size, std::size_t new_size) {
  auto& box = *static_cast<Sandbox*>(self);
  const std::size_t had = block ? old_size : 0;
  const auto small = [](std::size_t size) { return size > 0 && size <= SmallBlocks::largest; };
  // Only what scripts do is limited: outside of a call an error would have nowhere to go.
  if (box.calls_ > 0 && new_size > had && box.memory_used_ - had + new_size > box.limits_.memory) return nullptr;
  void* got = nullptr;
  if (!small(had) && !small(new_size)) {
    if (new_size == 0)
      std::free(block);
    else
      got = std::realloc(block, new_size);
  } else {
    if (new_size > 0) got = small(new_size) ? box.small_.take(new_size) : std::malloc(new_size);
    if (got && had > 0) std::memcpy(got, block, std::min(had, new_size));
    if (got || new_size == 0) {
      if (small(had))
        box.small_.give(block, had);
      else
        std::free(block);
    }
  }
  if (got || new_size == 0) box.memory_used_ = box.memory_used_ - had + new_size;
  return got;
}

void Sandbox::count(lua_State* lua, lua_Debug*) {
  Sandbox& box = of(lua);
  box.instructions_left_ -= hook_step;
  if (box.instructions_left_ <= 0)
    luaL_error(lua, "ran for more than %d million instructions in one go and was stopped; does a loop never end?",
               static_cast<int>(box.limits_.instructions / 1'000'000));
}

void Sandbox::open_libraries() {
  const auto open = [&](const char* name, lua_CFunction function) { luaL_requiref(lua, name, function, 0); };
  lua_newtable(lua);  // the globals that scripts see
  const int shared = lua_gettop(lua);

  open("_G", luaopen_base);
  for (const char* name :
       {"assert", "error", "ipairs", "rawequal", "rawlen", "rawget", "select", "getmetatable", "tonumber", "type"}) {
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
  lua_getfield(lua, -1, "rep");
  lua_pushcclosure(lua, safe_rep, 1);
  lua_setfield(lua, -2, "rep");
  lua_getfield(lua, -1, "format");
  lua_pushcclosure(lua, safe_format, 1);
  lua_setfield(lua, -2, "format");
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
  lua_getfield(lua, -1, "move");
  lua_pushcclosure(lua, safe_range<2, 3>, 1);
  lua_setfield(lua, -2, "move");
  lua_getfield(lua, -1, "concat");
  lua_pushcclosure(lua, safe_range<3, 4>, 1);
  lua_setfield(lua, -2, "concat");
  make_read_only(lua, "table");
  lua_setfield(lua, shared, "table");

  const std::array<std::pair<const char*, lua_CFunction>, 2> others{
      {{"utf8", luaopen_utf8}, {"coroutine", luaopen_coroutine}}};
  for (const auto& [name, function] : others) {
    open(name, function);
    make_read_only(lua, name);
    lua_setfield(lua, shared, name);
  }
  globals = luaL_ref(lua, LUA_REGISTRYINDEX);
}

void Sandbox::spend(std::int64_t steps) {
  instructions_left_ -= steps;
  if (instructions_left_ <= 0)
    throw ScriptFault("ran for more than " + std::to_string(limits_.instructions / 1'000'000) +
                      " million steps in one go and was stopped; does a pattern try too many ways?");
}

int Sandbox::keep(lua_State* on) {
  if (lua_isnil(on, -1)) {
    lua_pop(on, 1);
    return LUA_NOREF;
  }
  if (kept_unused_.empty()) {
    lua_createtable(on, kept_in_a_table, 0);
    const int first = static_cast<int>(kept_tables_.size()) * kept_in_a_table;
    kept_tables_.push_back(luaL_ref(on, LUA_REGISTRYINDEX));
    for (int i = kept_in_a_table; i-- > 0;) kept_unused_.push_back(first + i);
  }
  const int kept = kept_unused_.back();
  kept_unused_.pop_back();
  lua_rawgeti(on, LUA_REGISTRYINDEX, kept_tables_[static_cast<std::size_t>(kept / kept_in_a_table)]);
  lua_insert(on, -2);
  lua_rawseti(on, -2, kept % kept_in_a_table + 1);
  lua_pop(on, 1);
  return kept;
}

void Sandbox::push(lua_State* on, int kept) {
  if (kept == LUA_NOREF) {
    lua_pushnil(on);
    return;
  }
  lua_rawgeti(on, LUA_REGISTRYINDEX, kept_tables_[static_cast<std::size_t>(kept / kept_in_a_table)]);
  lua_rawgeti(on, -1, kept % kept_in_a_table + 1);
  lua_replace(on, -2);
}

void Sandbox::drop(int& kept) {
  if (kept == LUA_NOREF) return;
  lua_rawgeti(lua, LUA_REGISTRYINDEX, kept_tables_[static_cast<std::size_t>(kept / kept_in_a_table)]);
  lua_pushboolean(lua, 0);  // not nil, so that the table keeps its array
  lua_rawseti(lua, -2, kept % kept_in_a_table + 1);
  lua_pop(lua, 1);
  kept_unused_.push_back(kept);
  kept = LUA_NOREF;
}

void Sandbox::collect(double seconds) {
  // Begin a round when what is in use has grown by half since the last one, as Lua's own collector would.
  constexpr std::size_t small = std::size_t{1} << 20;
  if (memory_used_ < collected_at_ + collected_at_ / 2 + small && !collecting_) return;
  collecting_ = true;
  const auto start = std::chrono::steady_clock::now();
  do {
    // 0: one small step, and not all that is owed since the last.
    if (lua_gc(lua, LUA_GCSTEP, 0) != 0) {
      collecting_ = false;
      collected_at_ = memory_used_;
      return;
    }
  } while (std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count() < seconds);
}

const char* kind_word(Kind kind) {
  constexpr const char* words[kind_count] = {"vector", "turn", "body", "zone", "joint", "timer"};
  return words[static_cast<int>(kind)];
}

std::string Sandbox::call(int arguments) {
  // A call within a call has what is left of the outer one's budget.
  if (calls_ == 0) instructions_left_ = limits_.instructions;
  ++calls_;
  const int status = lua_pcall(lua, arguments, 0, 0);
  --calls_;
  if (status == LUA_OK) return "";
  std::string text;
  if (status == LUA_ERRMEM) {
    text = "the scripts used more than " + std::to_string(limits_.memory >> 20) +
           " MB of memory and this one was stopped; does a table or a text grow without end?";
    lua_gc(lua, LUA_GCCOLLECT, 0);
  } else if (lua_type(lua, -1) == LUA_TSTRING) {
    text = lua_tostring(lua, -1);
  } else {
    text = "an error that is not a text but a " + type_word(lua, -1);
  }
  lua_pop(lua, 1);
  return text;
}

std::string Sandbox::compile(const std::string& source, const std::string& file) {
  const std::string chunk = "@" + file;
  if (luaL_loadbufferx(lua, source.data(), source.size(), chunk.c_str(), "t") == LUA_OK) return "";
  std::string text = lua_tostring(lua, -1);
  lua_pop(lua, 1);
  return text;
}

}  // namespace bronvel
