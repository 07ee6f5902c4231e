// What scripts cost: ten thousand bodies that each read their velocity and push once a tick, against the same loop in
// plain Lua that calls an empty C function.
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <lua.hpp>

#include "play/run/play.h"
#include "script/sandbox/sandbox.h"

using namespace bronvel;

namespace {

using Clock2 = std::chrono::steady_clock;

double since(Clock2::time_point start) {
  return std::chrono::duration<double, std::milli>(Clock2::now() - start).count();
}

double median(std::vector<double> all) {
  std::sort(all.begin(), all.end());
  return all[all.size() / 2];
}

constexpr int bodies = 10000;

// Bodies far apart and without gravity: the world has little to do.
RunningScene scene_of_bodies() {
  Scene scene;
  scene.world.gravity = Vec3::Zero();
  for (int i = 0; i < bodies; ++i) {
    Body body;
    body.name = "b" + std::to_string(i);
    body.shape = Sphere{0.2};
    body.position = {static_cast<double>(i % 100) * 2, static_cast<double>(i / 100) * 2, 0};
    body.may_sleep = false;
    scene.bodies.push_back(body);
  }
  return RunningScene(scene);
}

int nothing(lua_State*) {
  return 0;
}

// The floor: one closure for each body, called through lua_pcall, that reads a field and calls an empty C function.
double floor_milliseconds() {
  lua_State* lua = luaL_newstate();
  luaL_openlibs(lua);
  lua_pushcfunction(lua, nothing);
  lua_setglobal(lua, "nothing");
  std::vector<int> functions;
  for (int i = 0; i < bodies; ++i) {
    static_cast<void>(luaL_dostring(lua,
                                    "local body = { velocity = { x = 1, y = 2, z = 3 } } return function(dt) local v = "
                                    "body.velocity nothing(body, v) end"));
    functions.push_back(luaL_ref(lua, LUA_REGISTRYINDEX));
  }
  std::vector<double> ticks;
  for (int t = 0; t < 60; ++t) {
    const auto start = Clock2::now();
    for (const int f : functions) {
      lua_rawgeti(lua, LUA_REGISTRYINDEX, f);
      lua_pushnumber(lua, 0.01);
      lua_pcall(lua, 1, 0, 0);
    }
    ticks.push_back(since(start));
  }
  lua_close(lua);
  return median(ticks);
}

}  // namespace

int main() {
  RunningScene running = scene_of_bodies();
  ScriptHost host(running, 1,
                  {{"act.lua", "function on.tick(dt) local v = body.velocity body:force(v * -0.5) end"},
                   {"plain.lua", "function on.tick(dt) local v = body.velocity body:force(v) end"}});
  const char* file = "plain.lua";
  for (const BodyHandle body : running.world.bodies()) host.add(body, {file, {}});
  host.play();
  std::vector<double> ticks, rubbish;
  for (int t = 0; t < 240; ++t) {
    const auto start = Clock2::now();
    host.tick(1.0 / 60);
    ticks.push_back(since(start));
    const auto after = Clock2::now();
    host.clear_away();
    rubbish.push_back(since(after));
    running.world.step();
  }
  const double floor = floor_milliseconds(), scripts = median(ticks);
  std::printf("10,000 bodies, on.tick reads its velocity and applies one force\n");
  std::printf("  scripts        %6.2f ms a tick (limit 8)\n", scripts);
  std::printf("  floor          %6.2f ms a tick\n", floor);
  std::printf("  ratio          %6.2f (limit 4)\n", scripts / floor);
  std::printf("  garbage, worst %6.2f ms a tick (limit 2), median %.2f ms, memory %zu MB\n",
              *std::max_element(rubbish.begin(), rubbish.end()), median(rubbish), host.memory() >> 20);
  return 0;
}
