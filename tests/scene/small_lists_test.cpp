// Small things that scenes are made of: what does nothing, voices, numbers as they are typed.
#include <rapidcheck.h>

#include <catch2/catch.hpp>
#include <cmath>

#include "scene/document/idle.h"
#include "scene/document/starting_surfaces.h"
#include "scene/document/voice.h"
#include "scene/properties/number_entry.h"
#include "scene/properties/property.h"

using namespace bronvel;

namespace {

// A random sum as text, with its value: numbers, the four signs, brackets.
std::pair<std::string, double> any_sum(int depth) {
  if (depth == 0 || *rc::gen::inRange(0, 3) == 0) {
    const double value = *rc::gen::inRange(1, 1000) / 8.0;
    return {number_text(value), value};
  }
  const auto [left, x] = any_sum(depth - 1);
  const auto [right, y] = any_sum(depth - 1);
  switch (*rc::gen::inRange(0, 5)) {
    case 0:
      return {"(" + left + " + " + right + ")", x + y};
    case 1:
      return {"(" + left + "-" + right + ")", x - y};
    case 2:
      return {"(" + left + ")*(" + right + ")", x * y};
    case 3:
      return {"(" + left + ") / (" + right + ")", x / y};
    default:
      return {"-(" + left + ")", -x};
  }
}

}  // namespace

TEST_CASE("whatever sum is typed is what it comes to") {
  CHECK(rc::check("against the same sum", [] {
    const auto [text, value] = any_sum(5);
    const auto entered = entered_number(text, "N");
    if (!std::isfinite(value)) {
      RC_ASSERT(!entered);
      return;
    }
    RC_ASSERT(entered.has_value());
    RC_ASSERT(std::abs(*entered - value) <= 1e-9 * std::abs(value));
    RC_ASSERT(std::abs(*entered_number(text + " kN", "N") - 1000 * value) <= 1e-6 * std::abs(value));
  }));
  CHECK(rc::check("any text at all is read or refused", [](const std::string& text) {
    if (const auto entered = entered_number(text, "m")) RC_ASSERT(std::isfinite(*entered));
    static_cast<void>(entered_change(text, "m"));
  }));
}

TEST_CASE("things that do nothing are told, and a good scene has none") {
  Scene scene;
  Body block;
  block.name = "block";
  block.breaking.into = Breaking::Into::planes;
  scene.bodies = {block};
  SceneJoint rope;
  rope.name = "rope";
  rope.kind = JointKind::distance;
  rope.b = "block";
  SceneJoint hoist = rope;
  hoist.name = "hoist";
  hoist.kind = JointKind::pulley;
  scene.joints = {rope, hoist};
  auto idle = idle_things(scene);
  REQUIRE(idle.size() == 3);
  CHECK(idle[0].thing == "block");
  CHECK(idle[0].what.find("planes") != std::string::npos);
  CHECK(idle[1].thing == "rope");
  CHECK(idle[2].thing == "hoist");
  scene.bodies[0].breaking.planes.push_back({Vec3::Unit(0), 0});
  scene.joints[0].stiffness = 5;
  scene.joints[1].high = 7;
  CHECK(idle_things(scene).empty());
  // Planks that reach from one held end to the other can't break; cut across they can.
  scene.bodies[0].shape = Box{{3, 0.1, 1}};
  scene.bodies[0].breaking.into = Breaking::Into::planks;
  scene.bodies[0].breaking.held = HeldPieces::ends;
  idle = idle_things(scene);
  REQUIRE(idle.size() == 1);
  CHECK(idle[0].thing == "block");
  CHECK(idle[0].what.find("held_pieces") != std::string::npos);
  scene.bodies[0].breaking.plank_length = 0.5;
  CHECK(idle_things(scene).empty());
  scene.joints[0].stiffness = 0;
  scene.joints[0].low = 0;
  CHECK(idle_things(scene).empty());
}

TEST_CASE("every surface has a voice that there is") {
  Scene scene;
  scene.surfaces = starting_surfaces();
  CHECK(voice_names().size() >= 10);
  for (const auto& [name, surface] : scene.surfaces) {
    INFO(name);
    CHECK(is_voice(voice_of(scene, name)));
  }
  CHECK(voice_of(scene, "no such surface") == "wood");
  CHECK(voice_of(scene, "") == "wood");
  scene.surfaces.begin()->second.voice = "glass";
  CHECK(voice_of(scene, scene.surfaces.begin()->first) == "glass");
  CHECK_FALSE(is_voice("tuba"));
  for (const std::string& voice : voice_names()) CHECK(voice_list().find(voice) != std::string::npos);
}

TEST_CASE("the starting surfaces are ones that can be") {
  for (const auto& [name, surface] : starting_surfaces()) {
    INFO(name);
    CHECK(surface.restitution >= 0);
    CHECK(surface.restitution <= 1);
    CHECK(surface.static_friction >= surface.dynamic_friction);
    CHECK(surface.dynamic_friction >= 0);
    CHECK(surface.rolling_friction >= 0);
  }
}

TEST_CASE("a change typed for many is a number for all, or one of each") {
  for (const char* text : {"4", "+4", "-4", "*4", "×4", "/4", "+-4", "2*2"}) CHECK(entered_change(text, "m"));
  CHECK(entered_change("4", "m")->of(10) == 4);
  CHECK(entered_change("-4", "m")->of(10) == -4);
  CHECK(entered_change("+4", "m")->of(10) == 14);
  CHECK(entered_change("+-4", "m")->of(10) == 6);
  CHECK(entered_change("*4", "m")->of(10) == 40);
  CHECK(entered_change("/4", "m")->of(10) == 2.5);
  CHECK(entered_change("+50 cm", "m")->of(1) == Approx(1.5));
  // A letter x is a sign of times where there is no × on the keys.
  CHECK(entered_change("x2", "m")->of(10) == 20);
  CHECK(entered_change("x0.1", "")->of(10) == Approx(1));
  CHECK(entered_change("2*2", "m")->of(10) == 4);
  CHECK(entered_change(" 3 ", "")->kind == NumberChange::Kind::set);
  CHECK(entered_change("+1", "")->kind == NumberChange::Kind::plus);
  CHECK(entered_change("/2", "")->kind == NumberChange::Kind::times);
  for (const char* text : {"", "*", "/0", "+", "4 kg"}) CHECK_FALSE(entered_change(text, "m"));
}
