// Small scenes for tests of scripts.
#pragma once

#include "play/run/play.h"
#include "scene/files/folder.h"

namespace bronvel {

inline Body fixed_floor() {
  Body floor;
  floor.name = "ground";
  floor.kind = MotionKind::fixed;
  floor.shape = Box{{60, 1, 60}};
  floor.position = {0, -0.5, 0};
  floor.tags = {"stone"};
  floor.restitution = 0;
  return floor;
}

inline Body ball_at(const std::string& name, const Vec3& position, double mass = 2) {
  Body ball;
  ball.name = name;
  ball.shape = Sphere{0.5};
  ball.position = position;
  ball.mass = mass;
  ball.restitution = 0;
  return ball;
}

// A floor, a ball that carries act.lua, a stone beside it, and one of everything that scripts can name.
inline SceneFolder full_scene(const std::string& source) {
  SceneFolder folder;
  Scene& s = folder.scene;
  s.world.tick_rate = 100;
  Body ball = ball_at("ball", {0, 2.5, 0});
  ball.scripts.push_back({"act.lua", {}});
  Body stone = ball_at("stone", {6, 0.5, 0}, 5);
  stone.tags = {"stone"};
  s.bodies = {fixed_floor(), ball, stone};
  SceneJoint cord;
  cord.name = "cord";
  cord.kind = JointKind::distance;
  cord.b = "stone";
  cord.anchor_a = {6, 3, 0};
  cord.high = 4;
  s.joints = {cord};
  SceneZone draught;
  draught.name = "draught";
  draught.shape = Box{{4, 2, 4}};
  draught.position = {0, 1, 0};
  SceneZone basin;
  basin.name = "basin";
  basin.shape = Box{{4, 2, 4}};
  basin.position = {-12, -1, 0};
  basin.water = true;
  s.zones = {draught, basin};
  ScenePath ferry;
  ferry.name = "ferry";
  ferry.points = {{0, 3, 0}, {2, 3, 0}, {4, 3, 2}};
  s.paths = {ferry};
  Cue bell;
  bell.name = "bell";
  bell.at = 0.05;
  s.cues = {bell};
  s.actions = {{"haul", {"space"}, {}}};
  folder.scripts["act.lua"] = source;
  folder.scripts["shared.lua"] = "return { twice = function(x) return 2 * x end }";
  folder.scripts["lifted.lua"] = "function on.tick() body:force(vec(0, body.weight, 0)) end";
  return folder;
}

inline void run(Play& play, int ticks) {
  for (int i = 0; i < ticks; ++i) play.step();
}

inline BodyMotion motion(Play& play, const std::string& body) {
  return play.running().world.motion(*play.running().find(body));
}

inline std::vector<std::string> texts(Play& play) {
  std::vector<std::string> all;
  for (const LogLine& line : play.take_log()) all.push_back(line.text);
  return all;
}

inline std::string errors(Play& play) {
  std::string all;
  for (const LogLine& line : play.take_log())
    if (line.level != LogLevel::print) all += line.whole() + "\n";
  return all;
}

inline Input press(const std::string& action, double value) {
  Input input;
  input.kind = Input::Kind::action;
  input.name = action;
  input.value = value;
  return input;
}

}  // namespace bronvel
