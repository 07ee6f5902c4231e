// Scripts that mean harm, by mistake or not: play goes on, and nothing leaks out.
#include <catch2/catch.hpp>

#include "script/scenes.h"

using namespace bronvel;

namespace {

struct Hostile {
  const char* name;
  const char* source;
  const char* says;  // part of the message; "" if it is merely to be survived
};

const Hostile hostile[] = {
    {"a pattern that backtracks for ever",
     "function on.tick() string.find(string.rep('a', 40), string.rep('a*', 20) .. 'b') end", "a pattern try too many"},
    {"the same behind pcall",
     "function on.tick() while true do pcall(string.find, string.rep('a', 40), string.rep('a*', 20) .. 'b') end end",
     "in one tick"},
    {"a replacement that never ends", "function on.tick() string.gsub('x', 'x', function() while true do end end) end",
     "in one tick"},
    {"a giant text", "function on.tick() local s = 'x' while true do s = s .. s end end", "megabyte"},
    {"a giant table", "function on.tick() local t = {} for i = 1, 1e9 do t[i] = {i} end end", ""},
    {"moving what is not there", "function on.tick() table.move({}, 1, 1e15, 2) end", "too long"},
    {"joining what is not there",
     "function on.tick() table.concat(setmetatable({}, {__index = function() return 'x' end}), '', 1, 1e15) end",
     "too long"},
    {"deep recursion", "local function f(n) return 1 + f(n + 1) end function on.tick() f(1) end", "stack overflow"},
    {"recursion through text",
     "local t = setmetatable({}, {__tostring = function(t) return tostring(t) end}) "
     "function on.tick() tostring(t) end",
     "overflow"},
    {"an error in an error handler",
     "function on.tick() xpcall(function() error('a') end, function() error('b') end) error('c') end", "c"},
    {"an error that is a table with tricks",
     "function on.tick() error(setmetatable({}, {__tostring = function() while true do end end})) end", "not a text"},
    {"a finalizer", "function on.tick() setmetatable({}, {__gc = function() while true do end end}) end", "no __gc"},
    {"a weak table", "function on.tick() setmetatable({}, {__mode = 'k'}) end", "no __mode"},
    {"an index that never ends",
     "local t = setmetatable({}, {__index = function(t, k) return t[k] end}) function on.tick() local x = t.y end",
     "overflow"},
    {"a coroutine left hanging",
     "function on.tick() for i = 1, 1000 do local c = coroutine.wrap(function() coroutine.yield() end) c() end end",
     ""},
    {"yielding out of a handler", "function on.tick() coroutine.yield() end", "yield"},
    {"a coroutine that never ends", "function on.tick() coroutine.wrap(function() while true do end end)() end",
     "in one tick"},
    {"sorting with nonsense",
     "function on.tick() local t = {} for i = 1, 200 do t[i] = i end table.sort(t, function() return true end) end",
     ""},
    {"changing what all share", "function on.tick() string.rep = nil end", "can't be changed"},
    {"changing the scene's calls", "function on.tick() scene.find = nil end", "can't be set"},
    {"changing a body's kind of value", "function on.tick() getmetatable(body).__index = nil end", "index"},
    {"looking behind the metatable", "function on.tick() local m = getmetatable('') m.__index = nil end", "index"},
    {"rawset on the handlers", "rawset(on, 'tick', 5) function on.play() end", ""},
    {"nothing but nan", "function on.tick() body.velocity = vec(0/0, 1/0, 0) end", "three numbers"},
    {"a stamp in a stamp in a stamp", "function on.play() scene:stamp(body, {position = vec(0, 90, 0)}) end", ""},
    {"stamping without end", "function on.tick() while true do scene:stamp('stone', {scripts = false}) end end", ""},
    {"timers without end", "function on.tick() for i = 1, 1e6 do after(1e6, function() end) end end", ""},
    {"telling itself for ever", "function on.message() tell(body, 'again') tell(body, 'again') end tell(body, 'go')",
     ""},
    {"a timer that starts itself at once", "local function f() after(0, f) end after(0, f)", ""},
    {"removing what it lists",
     "function on.tick() for _, b in ipairs(scene:bodies()) do if b ~= body then b:remove() end end end", ""},
    {"removing itself in its own touch", "function on.touch(hit) body:remove() hit.other:has('x') end", ""},
    {"removing the other in a touch", "function on.touch(hit) hit.other:remove() hit.other:impulse(vec(0, 1, 0)) end",
     ""},
    {"joining in its own snap", "function on.snap() scene:join { b = body } end", ""},
    {"turning static in its own touch", "function on.touch() body.kind = 'static' body.solid = false end", ""},
    {"blasting in a blast's touch",
     "function on.touch(hit) scene:blast { at = hit.point, radius = 9, impulse = 1e9 } end", ""},
    {"requiring itself by way of itself", "require('act')", "requires itself"},
    {"bytes that are not text", "function on.tick() print('\\xff\\xfe\\0\\1') end", ""},
    {"a megabyte a line", "function on.tick() print(string.rep('x', 1000000)) end", ""},
};

}  // namespace

TEST_CASE("no script crashes, hangs or gets out; the rest plays on") {
  for (const Hostile& h : hostile) {
    CAPTURE(h.name);
    SceneFolder folder = full_scene(h.source);
    folder.scene.joints.clear();
    folder.scene.bodies.push_back(ball_at("witness", {20, 30, 20}));
    folder.scene.bodies.back().scripts.push_back({"witness.lua", {}});
    folder.scripts["witness.lua"] = "n = 0 function on.tick() n = n + 1 if n == 90 then print('I am well') end end";
    Play play(folder, 1);
    std::string said;
    bool well = false, removed = false;
    for (int i = 0; i < 95; ++i) {
      play.step();
      for (const LogLine& line : play.take_log()) {
        if (line.level == LogLevel::error) said += line.whole() + "\n";
        well = well || line.text == "I am well";
      }
      removed = removed || !play.running().find("witness");
    }
    CHECK((well || removed));
    CHECK_THAT(said, Catch::Contains(h.says));
    for (const BodyHandle body : play.running().world.bodies())
      CHECK(finite(play.running().world.motion(body).pose.position));
  }
}

TEST_CASE("patterns match as the manual says") {
  const std::pair<const char*, const char*> cases[] = {
      {"('hello world'):find('o w')", "5 7"},
      {"('hello'):find('l', 1, true)", "3 3"},
      {"('key = value'):match('^(%w+)%s*=%s*(%w+)$')", "key value"},
      {"('  trim  '):match('^%s*(.-)%s*$')", "trim"},
      {"('f(a(b)c)d'):match('%b()')", "(a(b)c)"},
      {"('THE (quick) fox'):find('%f[%a]%a+%f[%A]')", "1 3"},
      {"('abc'):gsub('%w', '%0%0')", "aabbcc 3"},
      {"('hello world'):gsub('o', {o = '0'})", "hell0 w0rld 2"},
      {"('abc'):gsub('', '-')", "-a-b-c- 4"},
      {"('abc'):gsub('b', false and '' or function() return nil end)", "abc 1"},
      {"('x = 1, y = 2'):gsub('(%w) = (%w)', '%2 = %1')", "1 = x, 2 = y 2"},
      {"('2026-11-23'):match('(%d+)-(%d+)-(%d+)')", "2026 11 23"},
      {"('abc'):match('()b()')", "2 3"},
      {"('aaa'):match('a-')", ""},
      {"('aaa'):match('^a-$')", "aaa"},
      {"('[]^-'):match('[]]')", "]"},
      {"('a-z'):match('[a%-z]+')", "a-z"},
      {"('abcabc'):match('(abc)%1')", "abc"},
      {"('x'):rep(3, ',')", "x,x,x"},
  };
  for (const auto& [source, wanted] : cases) {
    CAPTURE(source);
    Play play(full_scene(std::string("print(") + source + ")"), 1);
    const auto lines = texts(play);
    REQUIRE(lines.size() == 1);
    CHECK(lines[0] == wanted);
  }
  Play all(full_scene("for k, v in ('a=1, b=2'):gmatch('(%w)=(%w)') do print(k, v) end"), 1);
  CHECK(texts(all) == std::vector<std::string>{"a 1", "b 2"});
  for (const char* bad : {"('x'):find('[a')", "('x'):find('%')", "('x'):find('(x')", "('x'):match('x)')",
                          "('x'):find('%1')", "('x'):gsub('x', '%2')", "('x'):find({})"}) {
    CAPTURE(bad);
    Play play(full_scene(bad + std::string("\n")), 1);
    CHECK_FALSE(errors(play).empty());
  }
}
