// What scripts see of breaking: on.crack, slice and shatter, the parts as bodies, debris.
#include <catch2/catch.hpp>

#include "geometry/base/error.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

// A crock that falls on the floor; it carries act.lua.
SceneFolder crock(const std::string& source) {
  SceneFolder folder;
  folder.scene.world.tick_rate = 100;
  Body body;
  body.name = "crock";
  body.shape = Box{{1, 1, 1}};
  body.mass = 60;
  body.position = {0, 3, 0};
  body.orientation = Quat(Eigen::AngleAxisd(0.5, Vec3(1, 0.3, 0.6).normalized()));
  body.tags = {"clay"};
  body.friction = 0.3;
  body.breaking.into = Breaking::Into::cells;
  body.breaking.pieces = 30;
  body.breaking.tension = body.breaking.shear = 2e4;
  body.scripts.push_back({"act.lua", {}});
  folder.scene.bodies = {fixed_floor(), body};
  folder.scripts["act.lua"] = source;
  return folder;
}

std::vector<std::string> bodies(Play& play) {
  std::vector<std::string> names;
  for (const BodyHandle body : play.running().world.bodies()) names.push_back(play.running().name_of(body));
  return names;
}

double mass_of_all_but_floor(Play& play) {
  double sum = 0;
  for (const BodyHandle body : play.running().world.bodies())
    if (play.running().name_of(body) != "ground") sum += play.running().world.mass(body).mass;
  return sum;
}

}  // namespace

TEST_CASE("on.crack is given the pieces, which are bodies of the scene with the whole's surface and tags") {
  Play play(
      crock("local told = false\n"
            "function on.crack(pieces, how)\n"
            "  if told or #pieces < 2 then return end\n"
            "  told = true\n"
            "  print(pieces[1] == body, pieces[2]:has(\"clay\"), pieces[2].friction, how.use > 1, how.bonds > 0)\n"
            "end"),
      1);
  run(play, 200);
  REQUIRE(bodies(play).size() > 5);
  CHECK(texts(play).at(0) == "true true 0.3 true true");
  CHECK(play.running().find("crock_1"));
  CHECK(mass_of_all_but_floor(play) == Approx(60).epsilon(1e-9));
  CHECK(play.running().scene.find("crock_1")->scripts.empty());
}

TEST_CASE("parts carry the scripts, with their dials, where the body says so") {
  SceneFolder folder = crock("dials { lift = { 1 } }\nfunction on.play() print(body.name, dials.lift) end");
  Body& body = folder.scene.bodies[1];
  body.breaking.parts_scripted = true;
  body.scripts[0].dials["lift"] = 3.0;
  Play play(folder, 1);
  run(play, 200);
  std::size_t told = 0;
  for (const std::string& line : texts(play)) told += line.starts_with("crock") && line.ends_with(" 3") ? 1 : 0;
  CHECK(told == bodies(play).size() - 1);
}

TEST_CASE("slice gives the other part; both go on as they moved; what can't be cut stops the script and says why") {
  SceneFolder folder = crock(
      "function on.tick()\n"
      "  if scene.tick == 5 then\n"
      "    local other = body:slice(body.position, vec(1, 0, 0))\n"
      "    print(other.name, other.mass, body.mass, (other.velocity - body.velocity):length() < 1e-9)\n"
      "  elseif scene.tick == 7 then body:slice(body.position + vec(9, 0, 0), vec(1, 0, 0)) end\n"
      "end");
  Play play(folder, 1);
  run(play, 6);
  CHECK(texts(play) == std::vector<std::string>{"crock_1 30 30 true"});
  run(play, 4);
  const std::string said = errors(play);
  CHECK_THAT(said, Catch::Contains("slice") && Catch::Contains("misses") && Catch::Contains("act.lua:5"));
  CHECK(bodies(play).size() == 3);
  for (const char* call :
       {"body:slice()", "body:slice(vec(0, 0, 0))", "body:slice(vec(0/0, 0, 0), vec(1, 0, 0))",
        "body:slice(body.position, vec(0, 0, 0))", "body:shatter(body.position)", "body:shatter(body.position, 0/0)",
        "body:shatter(body.position, -1)", "scene:find(\"ground\"):slice(vec(0, -0.5, 0), vec(1, 0, 0))"}) {
    CAPTURE(call);
    Play refused(crock("function on.tick() " + std::string(call) + " end"), 1);
    run(refused, 2);
    CHECK(bodies(refused).size() == 2);
    CHECK_FALSE(errors(refused).empty());
  }
}

TEST_CASE("shatter makes more pieces of more energy, and never without end") {
  const auto pieces = [](const std::string& energy) {
    Play play(crock("function on.play() body:shatter(body.position, " + energy + ") end"), 1);
    return bodies(play).size() - 1;
  };
  CHECK(pieces("10") >= 2);
  CHECK(pieces("500") > pieces("100"));
  CHECK(pieces("1e9") <= 200);
  SceneFolder folder = crock("function on.tick() for i = 1, 1000 do body:slice(body.position, vec(1, i, 0)) end end");
  folder.scene.bodies[1].breaking.into = Breaking::Into::nothing;
  Play play(folder, 1);
  run(play, 3);
  CHECK_FALSE(errors(play).empty());
  CHECK(bodies(play).size() < 80);
}

TEST_CASE("debris goes by age and by number, and the log says so") {
  SceneFolder folder = crock("");
  folder.scene.bodies[1].breaking.debris_below = 10;  // all of it
  folder.scene.bodies[1].breaking.debris_age = 1;
  Play play(folder, 1);
  run(play, 120);
  const std::size_t most = bodies(play).size();
  REQUIRE(most > 5);
  run(play, 400);
  CHECK(bodies(play).size() < most);
  CHECK(bodies(play).size() >= 2);  // the floor and what goes on as the crock
  std::string said;
  for (const std::string& line : texts(play)) said += line + "\n";
  CHECK_THAT(said, Catch::Contains("removed: lasted its time"));

  SceneFolder few = crock("");
  few.scene.bodies[1].breaking.debris_below = 10;
  few.scene.bodies[1].breaking.debris_most = 3;
  Play other(few, 1);
  run(other, 400);
  CHECK(bodies(other).size() <= 5);
  said.clear();
  for (const std::string& line : texts(other)) said += line + "\n";
  CHECK_THAT(said, Catch::Contains("more than there may be"));
}

TEST_CASE("strengths are changed while it plays; how it breaks only while it is whole") {
  SceneFolder folder = crock("");
  Body& body = folder.scene.bodies[1];
  body.orientation = Quat::Identity();
  body.position.y() = 30;
  body.breaking.into = Breaking::Into::planes;
  body.breaking.planes = {{Vec3::Unit(0), -0.25}, {Vec3::Unit(0), 0.25}};
  Play play(folder, 1);
  run(play, 2);
  // The outer bond bears more of a pull at one end than the inner one.
  const auto pull = [&] {
    const BodyHandle crock_now = *play.running().find("crock");
    const Vec3 end = play.running().world.motion(crock_now).pose.to_scene({0.5, 0, 0});
    play.running().world.impulse_at(crock_now, {380, 0, 0}, end);
    run(play, 2);
  };
  play.set(body_place("crock", "tension_strength"), 1e6);
  pull();
  CHECK(bodies(play).size() == 2);
  play.set(body_place("crock", "tension_strength"), 2e4);
  pull();
  CHECK(bodies(play).size() == 3);
  CHECK_THROWS_WITH(play.set(body_place("crock", "breaks_into"), std::string("cells")),
                    Catch::Contains("broken already"));
}

TEST_CASE("what scripts read of a broken body is where its pieces are, and joints and the hand go with them") {
  SceneFolder folder = crock("");
  folder.scene.bodies[1].breaking = {};
  folder.scene.bodies[1].shape = Box{{4, 0.4, 0.4}};
  folder.scene.bodies[1].orientation = Quat::Identity();
  SceneJoint cord;
  cord.name = "cord";
  cord.kind = JointKind::distance;
  cord.b = "crock";
  cord.anchor_a = {1.8, 6, 0};
  cord.anchor_b = {1.8, 0, 0};
  cord.high = 5;
  folder.scene.joints = {cord};
  Play play(folder, 1);
  const auto give = [&](Input::Kind kind, const Vec3& point, const Vec3& vector) {
    Input input;
    input.kind = kind;
    input.name = "crock";
    input.point = point;
    input.vector = vector;
    input.value = 2000;
    play.give(input);
  };
  give(Input::Kind::grab, {1.5, 0, 0}, Vec3::Zero());
  play.step();
  const Vec3 held_at = motion(play, "crock").pose.to_scene({1.5, 0, 0});
  give(Input::Kind::cut, motion(play, "crock").pose.position, Vec3::Unit(0));
  play.step();
  REQUIRE(play.running().find("crock_1"));
  CHECK(motion(play, "crock").pose.position.x() == Approx(-1).margin(0.01));
  CHECK(motion(play, "crock_1").pose.position.x() == Approx(1).margin(0.01));
  CHECK(play.running().name_of(*play.hand().held) == "crock_1");
  CHECK((grip_point(play.running().world, play.hand()) - held_at).norm() < 0.02);
  CHECK(play.running().scene.joints[0].b == "crock_1");
  CHECK(play.running().scene.joints[0].anchor_b.x() == Approx(0.8).margin(1e-9));
}
