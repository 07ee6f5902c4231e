// Scripts in coroutines, and scripts that reach for what all share.
#include <catch2/catch.hpp>

#include "geometry/base/error.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

// What the script prints, or its error.
std::vector<std::string> said_by(const std::string& source, int ticks = 3) {
  Play play(full_scene(source), 1);
  run(play, ticks);
  return texts(play);
}

}  // namespace

TEST_CASE("a timer asked for in a coroutine keeps its own function, a handler read in one is the handler") {
  CHECK(said_by("function on.play()\n"
                "  local twice = coroutine.wrap(function() after(0, function() print('mine') end) end)\n"
                "  twice()\n"
                "end") == std::vector<std::string>{"mine"});
  CHECK(said_by("function on.cue() end\n"
                "function on.play()\n"
                "  local same = coroutine.wrap(function()\n"
                "    for i = 1, 100000 do local f = on.cue if type(f) ~= 'function' then return false end end\n"
                "    return on.cue == on.cue\n"
                "  end)\n"
                "  print(same())\n"
                "end") == std::vector<std::string>{"true"});
}

TEST_CASE("what all scripts share can't be changed past its metatable") {
  for (const char* name : {"math", "string", "table", "coroutine", "scene"}) {
    const auto said = said_by(std::string("rawset(") + name + ", 'floor', 1)");
    INFO(name);
    REQUIRE(said.size() == 1);
    CHECK_THAT(said[0], Catch::Contains("can't be changed"));
  }
  CHECK(said_by("local own = {} rawset(own, 'floor', 1) print(own.floor)") == std::vector<std::string>{"1"});
}

TEST_CASE("no address comes out of a script: plays would differ") {
  CHECK(said_by("print(tostring({}), tostring(print), tostring(3), string.format('%s %d', {}, 4))") ==
        std::vector<std::string>{"table function 3 table 4"});
  CHECK_THAT(said_by("print(string.format('%p', {}))")[0], Catch::Contains("addresses differ"));
  CHECK_THAT(said_by("for k in pairs({[{}] = 1, [{}] = 2}) do end")[0], Catch::Contains("same order"));
  CHECK(said_by("local n = 0 for k in pairs({[body] = 1, [vec(1, 2, 3)] = 2, x = 3}) do n = n + 1 end print(n)") ==
        std::vector<std::string>{"3"});
}
