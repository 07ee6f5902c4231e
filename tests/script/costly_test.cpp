// Scripts that cost without end, reach for what is not theirs, or ask for nonsense: each is stopped or survived, soon,
// and all else plays on.
#include <catch2/catch.hpp>
#include <chrono>
#include <ctime>
#include <fstream>
#include <thread>

#include "script/scenes.h"

using namespace bronvel;

namespace {

struct Costly {
  const char* name;
  const char* source;
  const char* says;  // part of the message; "" if it is merely to be survived
};

const Costly costly[] = {
    // Loops in every place where a script's code runs.
    {"a loop at the top", "while true do end", "in one tick"},
    {"a loop in on.play", "function on.play() while true do end end", "in one tick"},
    {"a loop in a timer", "after(0, function() while true do end end)", "in one tick"},
    {"a loop in every", "every(0.01, function() while true do end end)", "in one tick"},
    {"a loop in a message", "function on.message() while true do end end tell(body, 'go')", "in one tick"},
    {"a loop in a cue", "function on.cue() while true do end end", ""},
    {"a loop in an index",
     "local t = setmetatable({}, {__index = function() while true do end end}) "
     "function on.tick() local x = t.x end",
     "in one tick"},
    {"a loop in a comparison",
     "local m = {__lt = function() while true do end end} local a, b = setmetatable({}, m), "
     "setmetatable({}, m) function on.tick() return a < b end",
     "in one tick"},
    {"a loop in __pairs",
     "function on.tick() for k in pairs(setmetatable({}, {__pairs = function() while true do end end})) "
     "do end end",
     "in one tick"},
    {"a loop in a sort",
     "function on.tick() local t = {1, 2, 3, 4} table.sort(t, function() while true do end end) end", "in one tick"},
    {"a loop in an error handler", "function on.tick() xpcall(error, function() while true do end end) end", ""},
    {"many timers that each take all",
     "function on.tick() for i = 1, 500 do after(0, function() while true do end end) end end", "in one tick"},
    {"pcall around a loop, for ever",
     "function on.tick() while true do pcall(function() while true do end end) end end", "in one tick"},
    {"xpcall around a loop, for ever",
     "function on.tick() while true do xpcall(function() while true do end end, function() while true do end end) end "
     "end",
     ""},
    {"error handlers within each other",
     "local function f() xpcall(f, f) end function on.tick() while true do f() end end", ""},
    {"resume around a loop, for ever",
     "function on.tick() while true do coroutine.resume(coroutine.create(function() while true do end end)) end end",
     "in one tick"},
    {"coroutines within each other",
     "local function f() while true do coroutine.resume(coroutine.create(f)) end end function on.tick() f() end", ""},
    {"wrapped coroutines within each other",
     "local function f() while true do coroutine.wrap(f)() end end function on.tick() f() end", ""},
    {"a coroutine that is resumed for ever",
     "function on.tick() local c = coroutine.wrap(function() while true do coroutine.yield() end end) while true do "
     "c() end end",
     "in one tick"},
    {"coroutines that yield at once", "function on.tick() while true do coroutine.wrap(coroutine.yield)() end end",
     "in one tick"},
    {"handlers read in a coroutine",
     "function on.touch() end function on.tick() coroutine.wrap(function() for i = 1, 300000 do local x = on.touch end "
     "end)() end",
     ""},
    {"timers in a coroutine, without end",
     "function on.tick() coroutine.wrap(function() while true do after(1, function() end) end end)() end", "timers"},
    // What the library does in one call.
    {"comparing long texts",
     "local a, b = string.rep('x', 1000000), string.rep('x', 999999) .. 'x' function on.tick() while true do local c = "
     "a == b "
     "end end",
     "in one tick"},
    {"ordering long texts",
     "local a, b = string.rep('x', 1000000), string.rep('x', 999999) .. 'x' function on.tick() while true do local c = "
     "a < b "
     "end end",
     "in one tick"},
    {"joining long texts",
     "local a = string.rep('x', 400000) function on.tick() while true do local c = a .. a end end", ""},
    {"formatting long texts",
     "local a = string.rep('x', 400000) function on.tick() while true do local c = string.format('%s%s', a, a) end end",
     ""},
    {"quoting long texts",
     "local a = string.rep('\\0', 200000) function on.tick() while true do local c = string.format('%q', a) end end",
     ""},
    {"turning long texts round",
     "local a = string.rep('x', 1000000) function on.tick() while true do local c = a:reverse() end end", ""},
    {"raising long texts",
     "local a = string.rep('x', 1000000) function on.tick() while true do local c = a:upper() end end", ""},
    {"cutting long texts",
     "local a = string.rep('x', 1000000) function on.tick() while true do local c = a:sub(2) end end", ""},
    {"numbers from long texts",
     "local a = string.rep(' ', 1000000) .. '1' function on.tick() while true do local c = tonumber(a) end end",
     "in one tick"},
    {"adding long texts",
     "local a = string.rep(' ', 900000) .. '1' function on.tick() while true do local c = a + 1 end end",
     "in one tick"},
    {"counting long texts",
     "local a = string.rep('x', 1000000) function on.tick() while true do local c = utf8.len(a) end end",
     "in one tick"},
    {"offsets in long texts",
     "local a = string.rep('x', 1000000) function on.tick() while true do local c = utf8.offset(a, 900000) end end",
     "in one tick"},
    {"bytes of a long text",
     "local a = string.rep('x', 200000) function on.tick() while true do local n = select('#', a:byte(1, -1)) end end",
     "in one tick"},
    {"code points of a long text",
     "local a = string.rep('x', 200000) function on.tick() while true do local n = select('#', utf8.codepoint(a, 1, "
     "-1)) end end",
     "in one tick"},
    {"finding in a long text",
     "local a = string.rep('x', 1000000) function on.tick() while true do local c = a:find('y', 1, true) end end",
     "in one tick"},
    {"unpacking a long list",
     "local t = {} for i = 1, 100000 do t[i] = i end function on.tick() while true do local n = select('#', "
     "table.unpack(t)) end "
     "end",
     "in one tick"},
    {"packing many arguments",
     "local t = {} for i = 1, 100000 do t[i] = i end function on.tick() while true do local n = "
     "table.pack(table.unpack(t)) end "
     "end",
     "in one tick"},
    {"handing on many arguments",
     "local t = {} for i = 1, 100000 do t[i] = i end local function f(...) return ... end "
     "function on.tick() local function g(...) while true do f(...) end end g(table.unpack(t)) end",
     "in one tick"},
    {"arguments that grow", "local function f(...) return f(1, ...) end function on.tick() f() end", ""},
    {"arguments that double",
     "local function f(n, ...) if n == 0 then return end return f(n - 1, 1, ..., ...) end function on.tick() while "
     "true do "
     "f(5000) end end",
     "in one tick"},
    {"unpacking a made-up length",
     "function on.tick() while true do pcall(table.unpack, setmetatable({}, {__len = function() return 900000 end})) "
     "end end",
     "in one tick"},
    {"unpacking a giant range", "function on.tick() table.unpack({}, 1, 1e8) end", "too long"},
    {"joining a made-up length",
     "function on.tick() table.concat(setmetatable({}, {__len = function() return 1e15 end, __index = function() "
     "return 'x' "
     "end})) end",
     "too long"},
    {"joining 900,000",
     "local m = setmetatable({}, {__index = function() return 'x' end}) function on.tick() while true do "
     "table.concat(m, ',', 1, 900000) end end",
     ""},
    {"moving 900,000", "local t = {} function on.tick() while true do table.move(t, 1, 900000, 2) end end",
     "in one tick"},
    {"sorting a made-up length",
     "function on.tick() table.sort(setmetatable({}, {__len = function() return 1e9 end, __index = function() return 1 "
     "end, "
     "__newindex = function() end})) end",
     "too long"},
    {"sorting again and again",
     "local t = {} for i = 1, 200000 do t[i] = i * 7919 % 200000 end function on.tick() while true do table.sort(t) "
     "end end",
     "in one tick"},
    {"inserting in front",
     "local t = {} for i = 1, 200000 do t[i] = i end function on.tick() while true do "
     "table.insert(t, 1, 0) end end",
     "in one tick"},
    {"removing in front",
     "local t = {} for i = 1, 200000 do t[i] = i end function on.tick() while true do "
     "table.insert(t, table.remove(t, 1)) end end",
     "in one tick"},
    {"inserting with a made-up length",
     "function on.tick() table.insert(setmetatable({}, {__len = function() return 1e15 end}), 1, 0) end", ""},
    {"going through a large table again and again",
     "local t = {} for i = 1, 100000 do t['k' .. i] = i end function on.tick() while true do for k in pairs(t) do "
     "break end end "
     "end",
     "in one tick"},
    {"a giant text by rep", "function on.tick() string.rep('x', 1e9) end", "megabyte"},
    {"a giant text by rep with parts", "function on.tick() string.rep('', 1e12, 'abc') end", "megabyte"},
    {"a text past a megabyte", "function on.tick() local s = string.rep('x', 1000000) local t = s .. s end",
     "megabyte"},
    {"a text past a megabyte, behind pcall",
     "local s = string.rep('x', 1000000) function on.tick() while true do pcall(function() return s .. s end) end end",
     ""},
    {"a format that is a megabyte wide", "function on.tick() string.format('%99999999d', 1) end", ""},
    {"memory, behind pcall",
     "function on.tick() while true do pcall(function() local t = {} for i = 1, 1e7 do t[i] = {i} end end) end end",
     ""},
    {"an index chain of 1,800 tables",
     "local t = {} for i = 1, 1800 do t = setmetatable({}, {__index = t}) end function on.tick() while true do local x "
     "= t.y "
     "end end",
     ""},
    {"patterns without end",
     "local a = string.rep('a', 3000) function on.tick() while true do a:gsub('a*b', '') end end", "in one tick"},
    // What the bench's calls do.
    {"rays without end", "function on.tick() while true do scene:ray(vec(0, 9, 0), vec(0, -1, 0)) end end",
     "in one tick"},
    {"sweeps without end", "function on.tick() while true do scene:sweep(0.3, vec(0, -9, 0), vec(0, 9, 0)) end end",
     "in one tick"},
    {"looking near without end", "function on.tick() while true do scene:near(vec(0, 0, 0), 1e6) end end",
     "in one tick"},
    {"listing without end", "function on.tick() while true do scene:bodies() scene:tagged('stone') end end",
     "in one tick"},
    {"finding without end", "function on.tick() while true do scene:find('stone') end end", "in one tick"},
    {"blasts without end",
     "function on.tick() while true do scene:blast { at = vec(0, 0, 0), radius = 50, impulse = 0.001 } end end",
     "in one tick"},
    {"forces without end", "function on.tick() while true do body:force(vec(0, 0.001, 0)) end end", "in one tick"},
    {"advancing without end",
     "body.kind = 'kinematic' function on.tick() while true do body:advance(vec(0, 0.01, 0)) end end", ""},
    {"joints without end",
     "function on.tick() while true do scene:join { b = scene:find('stone'), kind = 'distance' } end end",
     "64 joints already"},
    {"joints between two for ever",
     "function on.tick() scene:join { a = body, b = scene:find('stone'), kind = 'distance', high = 9 } end", ""},
    {"tags without end", "function on.tick() local i = 0 while true do i = i + 1 body:tag('t' .. i) end end", ""},
    {"tagging back and forth", "function on.tick() while true do body:tag('a') body:untag('a') end end", "in one tick"},
    {"marks without end", "function on.tick() while true do mark(vec(0, 0, 0), 'x') end end", "drew more"},
    {"sounds without end", "function on.tick() while true do sound('knock') end end", "drew more"},
    {"prints without end", "function on.tick() while true do print('x') end end", "printed more"},
    {"long prints without end",
     "local a = string.rep('x', 1000000) function on.tick() while true do print(a, a, a) end end", ""},
    {"timers in a handler without end", "function on.tick() while true do after(9, function() end) end end", "timers"},
    {"messages without end", "function on.tick() while true do tell('stone', 'x') end end", ""},
    {"messages that double", "function on.message() tell(body, 'a') tell(body, 'b') end tell(body, 'go')", ""},
    {"cancelling among many",
     "local t for i = 1, 9000 do t = after(1e6, function() end) end function on.tick() while true do t:cancel() end "
     "end",
     "in one tick"},
    {"asking among many",
     "local t for i = 1, 9000 do t = after(1e6, function() end) end function on.tick() while true do local x = "
     "t.waiting end end",
     "in one tick"},
    {"cuts without end",
     "function on.tick() while true do scene:find('stone'):slice(vec(6, 0.5, 0), vec(1, 0, 0)) end end", ""},
    {"shattering without end",
     "function on.tick() while true do scene:find('stone'):shatter(vec(6, 0.5, 0), 1e9) end end", ""},
    {"removing without end", "function on.tick() while true do body:remove() end end", ""},
    {"changing a property without end", "function on.tick() while true do body.mass = 3 body.mass = 4 end end", ""},
    {"vectors without end", "function on.tick() local v = vec(1, 2, 3) while true do v = v + v end end", ""},
    {"turns without end", "function on.tick() while true do local t = turn(vec(0, 1, 0), 1) end end", ""},
    {"random without end", "function on.tick() while true do random() end end", "in one tick"},
    {"stamps that stamp on every tick",
     "function on.tick() scene:stamp(body, {position = vec(random(-50, 50), 9, 0)}) end", ""},
    {"many timers of a moment each",
     "local n = 0 function on.tick() for i = 1, 9999 do after(0, function() for k = 1, 150 do n = n + k end end) end "
     "end",
     "in one tick"},
    {"reading all handlers for ever", "function on.tick() while true do local x = on.tick end end", "in one tick"},
    {"reading dials for ever", "dials { a = { 1 } } function on.tick() while true do local x = dials.a end end",
     "in one tick"},
    {"other dials for ever",
     "local i = 0 function on.tick() while true do i = i + 1 dials { ['a' .. i] = { 1, tip = string.rep('x', 9999) } } "
     "end end",
     ""},
    {"a joint that is no text", "function on.tick() scene:join { b = scene:find('stone'), name = '\\xff\\xfe' } end",
     "wants letters"},
    {"declaring dials for ever", "function on.tick() while true do dials { a = { 1 } } end end", ""},
    {"printing with a reading that never ends",
     "local t = setmetatable({}, {__tostring = function() while true do end end}) function on.tick() print(t) end", ""},
    {"a name that is a metatable's trick",
     "local t = setmetatable({}, {__name = string.rep('x', 100000)}) function on.tick() body:force(t) end",
     "body:force wants"},
    // One call that never ends, or nearly.
    {"nothing, again and again", "function on.tick() while true do (''):rep(1 << 60) end end", "in one tick"},
    {"nothing with something between", "function on.tick() while true do local s = (''):rep(1 << 19, 'ab') end end",
     ""},
    {"a long text in a long text",
     "local a = string.rep('a', 1 << 20 - 8) local b = string.rep('a', 1 << 18) .. 'b' function on.tick() while true "
     "do "
     "a:find(b, 1, true) end end",
     ""},
    {"a quarter of a megabyte in a megabyte",
     "local a = string.rep('a', (1 << 20) - 99) local b = string.rep('a', (1 << 18) - 1) .. 'b' function on.tick() "
     "while "
     "true do a:find(b, 1, true) end end",
     "in one tick"},
    {"slicing a thousand times behind pcall",
     "function on.tick() for i = 1, 1000 do pcall(function() body:slice(body.position, vec(random(-1, 1), 1, 0)) end) "
     "end end",
     ""},
    {"missing a thousand times behind pcall",
     "function on.tick() for i = 1, 1000 do pcall(function() body:slice(vec(99, 0, 0), vec(1, 0, 0)) end) end end",
     "in one tick"},
    {"shattering from far away",
     "function on.tick() for i = 1, 1000 do pcall(function() scene:find('stone'):shatter(vec(1e300, 0, 0), 1e6) end) "
     "end "
     "end",
     ""},
    {"shattering from a million kilometres",
     "function on.tick() for i = 1, 1000 do pcall(function() scene:find('stone'):shatter(vec(9e8, 0, 0), 1e6) end) end "
     "end",
     ""},
    {"pieces made anew without end",
     "body.breaks_into = 'cells' function on.tick() local i = 0 while true do i = i + 1 body.pieces = 100 + i % 900 "
     "end "
     "end",
     "in one tick"},
    {"closing what closes more",
     "local function f() local m = setmetatable({}, {}) getmetatable(m).__close = f local a <close> = m local b "
     "<close> = "
     "m local c <close> = m while true do end end function on.tick() f() end",
     "in one tick"},
    {"closing by loops that close more",
     "local mt = {} local a, b = setmetatable({}, mt), setmetatable({}, mt) local function f() for _ in next, {1}, "
     "nil, "
     "a do for _ in next, {1}, nil, b do while true do end end end end mt.__close = f function on.tick() f() end",
     ""},
    {"a deep chain of what closes",
     "local mt = {} mt.__close = function() local x = 1 end local function f(n) local a <close> = setmetatable({}, mt) "
     "if n > 0 then return (f(n - 1)) end while true do end end function on.tick() f(150) end",
     ""},
    {"closing in coroutines",
     "local mt = {} local function f() local a <close> = setmetatable({}, mt) local b <close> = setmetatable({}, mt) "
     "coroutine.wrap(f)() end mt.__close = f function on.tick() f() end",
     ""},
    // Reaching others.
    {"rawset on math", "function on.tick() rawset(math, 'sin', nil) end", "can't be changed"},
    {"rawset on string", "function on.tick() rawset(string, 'rep', nil) end", "can't be changed"},
    {"rawset on table", "function on.tick() rawset(table, 'sort', nil) end", "can't be changed"},
    {"rawset on coroutine", "function on.tick() rawset(coroutine, 'wrap', nil) end", "can't be changed"},
    {"rawset on utf8", "function on.tick() rawset(utf8, 'len', nil) end", "can't be changed"},
    {"rawset on the scene", "function on.tick() rawset(scene, 'find', nil) end", "can't be changed"},
    {"writing over math", "function on.tick() math.pi = 3 end", "can't be changed"},
    {"a metatable for math", "function on.tick() setmetatable(math, {}) end", "protected"},
    {"a metatable for the scene", "function on.tick() setmetatable(scene, {}) end", ""},
    {"a metatable for dials", "function on.tick() setmetatable(dials, {}) end", ""},
    {"no loading of code", "function on.tick() load('x = 1')() end", "nil value"},
    {"no files", "function on.tick() io.open('/etc/passwd') end", "nil value"},
    {"no processes", "function on.tick() os.execute('true') end", "nil value"},
    {"no debug", "function on.tick() debug.getregistry() end", "nil value"},
    {"no dump", "function on.tick() string.dump(on.tick) end", "nil value"},
    {"no package", "function on.tick() package.loadlib('x', 'y') end", "nil value"},
    {"requiring a path", "require('../../etc/passwd')", ""},
    // Addresses, which differ from run to run.
    {"an address by %p", "function on.tick() print(string.format('%p', {})) end", "addresses"},
    {"an address after flags", "function on.tick() print(string.format('%-20p', {})) end", "addresses"},
    {"an address as a key", "function on.tick() for k in pairs({[{}] = 1, [{}] = 2}) do end end", "same order"},
    // Nonsense as arguments.
    {"not a number as a force", "function on.tick() body:force(vec(0 / 0, 0, 0)) end", ""},
    {"without end as a force", "function on.tick() body:force(vec(1 / 0, 0, 0)) end", ""},
    {"1e308 as a force", "function on.tick() body:force(vec(1e308, 1e308, 0)) end", ""},
    {"1e308 as an impulse", "function on.tick() body:impulse(vec(0, 1e308, 0)) end", ""},
    {"1e308 as a torque", "function on.tick() body:torque(vec(0, 1e308, 0)) end", ""},
    {"1e308 as gravity", "function on.tick() scene.gravity = vec(0, -1e308, 0) end", ""},
    {"1e308 as a velocity", "function on.tick() body.velocity = vec(1e308, 0, 0) end", ""},
    {"1e308 as a spin", "function on.tick() body.angular_velocity = vec(1e308, 0, 0) end", ""},
    {"1e308 as a place", "function on.tick() body:place(vec(1e308, 0, 0)) end", ""},
    {"1e-308 as a mass", "function on.tick() body.mass = 1e-308 end", ""},
    {"0 as a mass", "function on.tick() body.mass = 0 end", "above 0"},
    {"a blast of 1e308", "function on.tick() scene:blast { at = body.position, radius = 9, impulse = 1e308 } end", ""},
    {"a blast without a radius", "function on.tick() scene:blast { at = body.position, radius = 0, impulse = 1 } end",
     ""},
    {"a ray along nothing", "function on.tick() scene:ray(vec(0, 0, 0), vec(0, 0, 0)) end", ""},
    {"a ray of 1e308", "function on.tick() scene:ray(vec(1e308, 0, 0), vec(-1e308, 0, 0), 1e308) end", ""},
    {"a sweep of 1e300", "function on.tick() scene:sweep(1, vec(1e300, 0, 0)) end", ""},
    {"a sweep without a radius", "function on.tick() scene:sweep(0, vec(1, 0, 0)) end", ""},
    {"a negative radius", "function on.tick() scene:sweep(-1, vec(1, 0, 0)) end", ""},
    {"a timer in 1e300 s", "after(1e300, function() end)", "wants 0 seconds"},
    {"a timer in nan s", "after(0 / 0, function() end)", "wants 0 seconds"},
    {"a motor of 1e308",
     "local j = scene:joint('cord') function on.tick() j.motor_most = 1e308 j.motor_speed = 1e308 end", ""},
    {"a limit that is not a number", "local j = scene:joint('cord') function on.tick() j.high = 0 / 0 end", ""},
    {"a stamp far away", "function on.play() scene:stamp('stone', {position = vec(1e300, 0, 0)}) end", ""},
    {"slicing along nothing", "function on.tick() body:slice(body.position, vec(0, 0, 0)) end", ""},
    {"shattering with 1e308 J", "function on.tick() scene:find('stone'):shatter(vec(6, 0.5, 0), 1e308) end", ""},
    {"a ride in no time", "function on.play() body:ride('ferry', { seconds = 0 }) end", ""},
    {"a ride for 1e300 s", "function on.play() body:ride('ferry', { seconds = 1e300 }) end", ""},
    {"nil everywhere", "function on.tick() body:force() end", "body:force wants"},
    {"a function as a number", "function on.tick() body.mass = print end", "body.mass"},
    {"an integer that wraps", "function on.tick() body.mass = math.maxinteger + 1 end", ""},
    {"dividing an integer by 0", "function on.tick() local x = 1 // 0 end", ""},
};

double processor_seconds() {
  return static_cast<double>(std::clock()) / CLOCKS_PER_SEC;
}

// Of this process, from the system.
std::size_t resident_bytes() {
  std::ifstream statm("/proc/self/statm");
  std::size_t all = 0, resident = 0;
  statm >> all >> resident;
  return resident * 4096;
}

constexpr int ticks = 4;
// For a tick: three seconds of a script at most, and what the bench needs to come to them; sanitizers make it several
// times that.
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
constexpr double most_seconds = 30;
#else
constexpr double most_seconds = 5;
#endif

}  // namespace

TEST_CASE("no script costs more than it may") {
  for (const Costly& h : costly) {
    CAPTURE(h.name);
    SceneFolder folder = full_scene(h.source);
    folder.scene.bodies.push_back(ball_at("witness", {20, 30, 20}));
    folder.scene.bodies.back().scripts.push_back({"witness.lua", {}});
    folder.scripts["witness.lua"] =
        "n = 0 function on.tick() n = n + 1 if n == 3 then print('I am well ' .. math.pi) end end";
    double start = processor_seconds(), longest = 0;
    const auto look_at_time = [&] {
      longest = std::max(longest, processor_seconds() - start);
      start = processor_seconds();
    };
    Play play(folder, 1);
    look_at_time();
    std::string said;
    bool well = false;
    for (int i = 0; i < ticks; ++i) {
      play.step();
      look_at_time();
      for (const LogLine& line : play.take_log()) {
        if (line.level == LogLevel::error) said += line.whole() + "\n";
        well = well || line.text.starts_with("I am well 3.14");
      }
    }
    CHECK(well);
    CHECK_THAT(said, Catch::Contains(h.says));
    CHECK(longest < most_seconds);
    for (const BodyHandle body : play.running().world.bodies()) {
      const BodyMotion m = play.running().world.motion(body);
      CHECK((finite(m.pose.position) && finite(m.velocity) && finite(m.angular_velocity)));
      CHECK(std::abs(m.pose.orientation.norm() - 1) < 1e-6);
    }
  }
}

TEST_CASE("what a script may take is its own: timers, messages and handlers of a tick together") {
  // Each timer takes two fifths of what there is: the third is one too many.
  const std::string third =
      "local function work() for i = 1, 700000 do local x = i * i + i end end\n"
      "for i = 1, 4 do after(0, function() work() print('done ' .. i) end) end";
  Play play(full_scene(third), 1);
  std::vector<std::string> lines;
  for (int i = 0; i < 3; ++i) {
    play.step();
    for (const LogLine& line : play.take_log()) lines.push_back(line.text);
  }
  REQUIRE_FALSE(lines.empty());
  CHECK(lines.size() < 5);
  CHECK_THAT(lines.back(), Catch::Contains("in one tick"));
}

TEST_CASE("where all scripts together take too much, the one that comes to it is stopped and the next plays on") {
  SceneFolder folder = full_scene("function on.tick() for i = 1, 1e6 do local x = i * i + i end end");
  for (int i = 0; i < 30; ++i) {
    folder.scene.bodies.push_back(ball_at("worker_" + std::to_string(i), {3.0 * i, 50, 0}));
    folder.scene.bodies.back().scripts.push_back({"act.lua", {}});
  }
  folder.scene.bodies.push_back(ball_at("modest", {0, 80, 0}));
  folder.scene.bodies.back().scripts.push_back({"modest.lua", {}});
  folder.scripts["modest.lua"] = "n = 0 function on.tick() n = n + 1 if n == 3 then print('still here') end end";
  Play play(folder, 1);
  run(play, 4);
  std::size_t stopped = 0;
  bool here = false;
  for (const LogLine& line : play.take_log()) {
    stopped += line.text.find("all scripts together") != std::string::npos ? 1 : 0;
    here = here || line.text == "still here";
  }
  CHECK(stopped > 0);
  CHECK(stopped < 31);
  CHECK(here);
}

TEST_CASE("the same scripts are stopped at the same tick on every run") {
  const char* source = "n = 0 function on.tick() n = n + 1 for i = 1, n * 200000 do local x = {i} end print(n) end";
  std::vector<std::string> before;
  for (int again = 0; again < 2; ++again) {
    Play play(full_scene(source), 1);
    run(play, 12);
    std::vector<std::string> lines = texts(play);
    CHECK(lines.size() > 2);
    if (again == 1) CHECK(lines == before);
    before = lines;
  }
}

TEST_CASE("a script saved while it plays spends as much as when that is played again") {
  // Three quarters of a tick's budget at the top, as much again in each tick.
  const std::string text =
      "local function work() for i = 1, 1200000 do local x = i * i + i end end work() function on.tick() work() "
      "print('done') end";
  const SceneFolder folder = full_scene("function on.tick() end");
  Play play(folder, 1);
  run(play, 3);
  REQUIRE(play.reload("act.lua", text));
  run(play, 3);
  const std::vector<std::string> lines = texts(play);
  REQUIRE_FALSE(lines.empty());
  CHECK_THAT(lines.front(), Catch::Contains("in one tick"));
  Play again(folder, 1, play.inputs());
  run(again, 6);
  CHECK(texts(again) == lines);
}

// What scripts make the bench keep counts too, wherever it lies.
TEST_CASE("memory that grows tick by tick ends at what scripts may have") {
  const char* const growing[] = {
      "local i = 0 function on.tick() for k = 1, 10 do i = i + 1 dials { ['d' .. i] = { 1, tip = string.rep('x', 3e5) "
      "} } "
      "end end",
      "local i = 0 function on.tick() for k = 1, 40 do i = i + 1 body:tag(string.rep('x', 3e5) .. i) end end",
      "local i = 0 function on.tick() for k = 1, 10 do i = i + 1 tell_in(1e6, body, string.rep('x', 3e5) .. i) end "
      "end",
      "local i = 0 function on.tick() for k = 1, 10 do i = i + 1 tell_in(1e6, string.rep('x', 3e5) .. i, 'go') end "
      "end",
      "local i = 0 function on.tick() i = i + 1 scene:join { b = scene:find('stone'), kind = 'distance', high = 99, "
      "name = "
      "string.rep('x', 3e5) .. i } end",
      "function on.tick() for k = 1, 10 do mark(body.position, string.rep('x', 3e5)) end end",
      "function on.tick() for k = 1, 10 do sound(string.rep('x', 3e5)) end end",
      "local n = 0 function on.tick() for k = 1, 300 do n = n + 1 scene:stamp('stone', {kind = 'static', position = "
      "vec(n % 150, 50, n // 150), tags = {string.rep('x', 60) .. n}}) end end",
      "local n = 0 function on.tick() for k = 1, 300 do n = n + 1 scene:join{kind = 'distance', b = "
      "scene:find('stone'), high = 99} end end",
  };
  for (const char* source : growing) {
    CAPTURE(source);
    const std::size_t before = resident_bytes();
    Play play(full_scene(source), 1);
    std::string said;
    for (int i = 0; i < 120; ++i) {
      play.step();
      for (const LogLine& line : play.take_log()) said += line.text + "\n";
    }
    CAPTURE(said);
    if (std::string(source).find("tell_in") != std::string::npos) CHECK_THAT(said, Catch::Contains("MB of memory"));
    constexpr std::size_t cap = std::size_t{256} << 20;
#if !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
    // Sanitizers hold on to what was freed.
    constexpr std::size_t more = std::size_t{64} << 20;
    CHECK(resident_bytes() < before + cap + more);
#else
    static_cast<void>(before);
#endif
    CHECK(play.scripts().memory() <= cap);
  }
}

TEST_CASE("what bodies and joints made in play take is given back when they are gone") {
  Play play(full_scene("local n = 0\n"
                       "function on.tick()\n"
                       "  n = n + 1\n"
                       "  if n % 2 == 1 then\n"
                       "    for k = 1, 100 do\n"
                       "      local made = scene:stamp('stone', {kind = 'static', position = vec(k, 50, 0)})\n"
                       "      made:tag('made')\n"
                       "      scene:join{kind = 'distance', b = made, high = 99}\n"
                       "    end\n"
                       "  else\n"
                       "    for _, made in ipairs(scene:tagged('made')) do made:remove() end\n"
                       "  end\n"
                       "end"),
            1);
  run(play, 20);
  const std::size_t before = play.scripts().memory();
  run(play, 200);
  CHECK(errors(play).empty());
  CHECK(play.scripts().memory() < before + 500'000);
  run(play, 1);
  CHECK(play.scripts().memory() > before + 500'000);
}

// The bytes that scripts have, and so when they run out, go by what they did alone.
TEST_CASE("the same script has the same memory at the same tick, whatever else the machine does") {
  const auto memory = [](bool slowly) {
    Play play(full_scene("local t = {} function on.tick() for i = 1, 400 do t[i] = { tostring(i) .. 'x' } end end"), 1);
    std::vector<std::size_t> all;
    for (int i = 0; i < 60; ++i) {
      play.step();
      if (slowly) std::this_thread::sleep_for(std::chrono::milliseconds(1));
      all.push_back(play.scripts().memory());
    }
    return all;
  };
  CHECK(memory(false) == memory(true));
}
