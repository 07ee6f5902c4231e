// Snags: each kind is found where it is, its mend mends it, and the shipped examples have none.
#include <catch2/catch.hpp>

#include "folders.h"
#include "lab/snags/snags.h"

using namespace bronvel;

namespace {

SceneFolder with_script(const std::string& source) {
  SceneFolder folder;
  folder.scene.world.tick_rate = 100;
  Body floor;
  floor.name = "ground";
  floor.kind = MotionKind::fixed;
  floor.shape = Box{{40, 1, 40}};
  floor.position = {0, -0.5, 0};
  floor.tags = {"stone"};
  Body ball;
  ball.name = "ball";
  ball.shape = Sphere{0.25};
  ball.position = {0, 5, 0};
  ball.scripts.push_back({"act.lua", {}});
  folder.scene.bodies = {floor, ball};
  folder.scripts["act.lua"] = source;
  return folder;
}

std::vector<std::string> kinds(const std::vector<Snag>& snags) {
  std::vector<std::string> all;
  for (const Snag& snag : snags) {
    CHECK_FALSE(snag.what.empty());
    CHECK_FALSE(snag.why.empty());
    CHECK((snag.mend.empty() == !snag.do_mend));
    all.push_back(snag.kind);
  }
  return all;
}

std::vector<Snag> before(const SceneFolder& folder) {
  return snags_before_play(folder);
}

std::vector<Snag> during(const SceneFolder& folder, int ticks = 200) {
  Play play(folder, 1);
  SnagWatch watch(play);
  for (int i = 0; i < ticks; ++i) {
    play.step();
    watch.look(play);
  }
  return watch.found();
}

using Kinds = std::vector<std::string>;

}  // namespace

TEST_CASE("a script on no body, unless another takes it in") {
  SceneFolder folder = with_script("");
  folder.scripts["spare.lua"] = "return {}";
  CHECK(kinds(before(folder)) == Kinds{"idle_script"});
  folder.scripts["act.lua"] = "local s = require(\"spare\")";
  CHECK(before(folder).empty());
}

TEST_CASE("a misspelt handler is named and mended") {
  SceneFolder folder = with_script("-- on.tuch in a comment is fine\nfunction on.tuch(hit) end\nlocal s = \"on.tik\"");
  const auto found = before(folder);
  REQUIRE(kinds(found) == Kinds{"misspelt_handler"});
  CHECK(found[0].line == 2);
  CHECK(found[0].mend == "write on.touch");
  found[0].do_mend(folder);
  CHECK(folder.scripts["act.lua"].find("function on.touch(hit)") != std::string::npos);
  CHECK(before(folder).empty());
}

TEST_CASE("a push on a body that can't be pushed") {
  SceneFolder folder = with_script("function on.tick()\n  body:force(vec(1, 0, 0))\nend");
  folder.scene.bodies[1].kind = MotionKind::fixed;
  const auto found = before(folder);
  REQUIRE(kinds(found) == Kinds{"pushed_but_fixed"});
  CHECK(found[0].line == 2);
  found[0].do_mend(folder);
  CHECK(before(folder).empty());
}

TEST_CASE("a dial at 0 that the push is multiplied by") {
  SceneFolder folder = with_script(
      "dials { push = { 3, unit = \"N\" } }\n"
      "function on.tick() body:force(body.forward * dials.push) end");
  CHECK(before(folder).empty());
  folder.scene.bodies[1].scripts[0].dials["push"] = 0.0;
  const auto found = before(folder);
  REQUIRE(kinds(found) == Kinds{"zero_dial"});
  found[0].do_mend(folder);
  CHECK(before(folder).empty());
}

TEST_CASE("a dial at 0 by way of a variable and a function; what is added to it pushes all the same") {
  const auto found_in = [](const std::string& body) {
    SceneFolder folder = with_script("dials { push = { 0, unit = \"N\" } }\n" + body);
    return kinds(before(folder));
  };
  const Kinds zero{"zero_dial"}, none;
  CHECK(found_in("function on.tick()\n  local f = dials.push * 2\n  body:force(vec(f, 0, 0))\nend") == zero);
  CHECK(found_in("local function shove() return body.forward * dials.push end\n"
                 "function on.tick()\n  body:force(shove())\nend") == zero);
  CHECK(found_in("local function strength() return dials.push end\n"
                 "local function shove()\n  local s = strength()\n  return vec(0, s, 0)\nend\n"
                 "function on.press(name)\n  body:impulse(shove())\nend") == zero);
  CHECK(found_in("function on.tick()\n  local f = dials.push + 2\n  body:force(vec(f, 0, 0))\nend") == none);
  CHECK(found_in("function on.tick()\n  local f = dials.push * 2\n  body:force(vec(f, 9, 0))\nend") == none);
  CHECK(found_in("function on.tick()\n  local f = dials.push * 2\n  f = f + 1\n  body:force(vec(f, 0, 0))\nend") ==
        none);
  CHECK(found_in("function on.tick()\n  local f = dials.push > 0 and 5 or 3\n  body:force(vec(f, 0, 0))\nend") == none);
}

TEST_CASE("a push far below what friction holds; one that moves it is fine, and so is one upward") {
  SceneFolder folder = with_script("function on.tick()\n  body:force(vec(3, 0, 0))\nend");
  Body& crate = folder.scene.bodies[1];
  crate.shape = Box{{1, 1, 1}};
  crate.position = {0, 0.5, 0};
  crate.mass = 190;
  const auto found = during(folder, 300);
  REQUIRE(kinds(found) == Kinds{"weak_push"});
  CHECK(found[0].line == 2);
  CHECK(found[0].what.find("3 N") != std::string::npos);
  CHECK(found[0].what.find("190 kg") != std::string::npos);
  folder.scripts["act.lua"] = "function on.tick() body:force(vec(3000, 0, 0)) end";
  CHECK(during(folder, 100).empty());
  folder.scripts["act.lua"] = "function on.tick() body:force(vec(0, 3, 0)) end";
  CHECK(during(folder, 300).empty());
}

TEST_CASE("a body that gives all back is told what it meets takes") {
  SceneFolder folder = with_script("");
  folder.scene.bodies[0].restitution = 0.2;
  folder.scene.bodies[1].restitution = 1;
  const auto found = during(folder, 300);
  REQUIRE(kinds(found) == Kinds{"bounce_lost"});
  CHECK(found[0].what.find("together 0.6, by the rule average") != std::string::npos);
  CHECK(found[0].why.find("36 %") != std::string::npos);
  folder.scene.bodies[0].restitution = 1;
  CHECK(during(folder, 300).empty());
}

TEST_CASE("tags that nobody has, in scripts and in zones") {
  SceneFolder folder = with_script(
      "function on.touch(hit) if hit.other:has(\"stone\") then end\n"
      "if hit.other:has(\"stoen\") then end end");
  SceneZone zone;
  zone.name = "zone";
  zone.tags = {"feather"};
  folder.scene.zones = {zone};
  const auto found = before(folder);
  REQUIRE(kinds(found) == Kinds{"lost_tag", "lost_tag"});
  CHECK(found[0].line == 2);
  folder.scripts["act.lua"] = "body:tag(\"feather\")";
  CHECK(before(folder).empty());
}

TEST_CASE("on.touch where contacts are not reported") {
  SceneFolder folder = with_script("function on.touch() end");
  folder.scene.bodies[1].reports = false;
  const auto found = before(folder);
  REQUIRE(kinds(found) == Kinds{"deaf_body"});
  found[0].do_mend(folder);
  CHECK(before(folder).empty());
}

TEST_CASE("a force times dt; a length times dt is fine") {
  CHECK(kinds(before(with_script("function on.tick(dt) body:force(vec(0, 9, 0) * dt) end"))) ==
        Kinds{"force_times_dt"});
  CHECK(before(with_script("function on.tick(dt) body:place(body.position + vec(1, 0, 0) * dt) "
                           "body:force(body.velocity / dt) end"))
            .empty());
}

TEST_CASE("a timer that its opposite forgets, also by way of a function of its own") {
  const std::string start =
      "local t\nlocal function wait() t = after(1, function() body:halt() end) end\n"
      "function on.drop() wait() end\n";
  CHECK(kinds(before(with_script(start))) == Kinds{"forgotten_timer"});
  CHECK(kinds(before(with_script(start + "function on.grab() print(1) end"))) == Kinds{"forgotten_timer"});
  CHECK(before(with_script(start + "function on.grab() t:cancel() end")).empty());
  // What one presses a key for comes once, and needs no opposite; what comes again and again does.
  CHECK(before(with_script("function on.press() after(1, function() body:halt() end) end")).empty());
  CHECK(kinds(before(with_script("function on.press() every(1, function() body:halt() end) end"))) ==
        Kinds{"forgotten_timer"});
}

TEST_CASE("a velocity that is set every tick loses gravity; one that keeps its y does not") {
  const auto found = during(with_script("function on.tick()\n  body.velocity = vec(2, 0, 0)\nend"));
  REQUIRE(kinds(found) == Kinds{"lost_gravity"});
  CHECK(found[0].line == 2);
  CHECK(during(with_script("function on.tick() body.velocity = vec(2, body.velocity.y, 0) end")).empty());
}

TEST_CASE("a velocity that is multiplied every tick") {
  SceneFolder folder = with_script("function on.tick() body.velocity = body.velocity * 0.98 end");
  folder.scene.bodies[1].velocity = {3, 0, 0};
  CHECK(kinds(during(folder)) == Kinds{"velocity_multiplied"});
}

TEST_CASE("an impulse every tick; now and then is fine") {
  CHECK(kinds(during(with_script("function on.tick() body:impulse(vec(0, 0.01, 0)) end"))) ==
        Kinds{"impulse_every_tick"});
  CHECK(during(with_script("function on.tick() if scene.tick % 20 == 0 then body:impulse(vec(0, 0.01, 0)) end end"))
            .empty());
}

TEST_CASE("a body that has fallen out of the scene, and its mend") {
  SceneFolder folder = with_script("");
  folder.scene.bodies[1].position = {100, 5, 0};
  const auto found = during(folder, 600);
  REQUIRE(kinds(found) == Kinds{"fallen_out"});
  found[0].do_mend(folder);
  CHECK(during(folder, 600).empty());
}

TEST_CASE("fast with sweeping off, and thin things in its way") {
  SceneFolder folder = with_script("");
  folder.scene.bodies[1].velocity = {60, 0, 0};
  folder.scene.bodies[1].sweeping = Sweeping::never;
  Body plate;
  plate.name = "plate";
  plate.kind = MotionKind::fixed;
  plate.shape = Box{{0.02, 5, 5}};
  plate.position = {-9, 3, 0};
  folder.scene.bodies.push_back(plate);
  const auto found = during(folder, 20);
  REQUIRE(kinds(found) == Kinds{"fast_unswept", "thin_shape"});
  found[0].do_mend(folder);
  CHECK(during(folder, 20).empty());
}

TEST_CASE("the shipped examples and recipes have no snags") {
  for (const auto& entry : std::filesystem::directory_iterator(in_checkout("/examples"))) {
    const SceneFolder folder = open_folder(entry.path());
    CAPTURE(folder.scene.name);
    for (const Snag& snag : before(folder)) {
      CAPTURE(snag.what);
      CHECK(snag.kind.empty());
    }
    for (const Snag& snag : during(folder, 480)) {
      CAPTURE(snag.what);
      CHECK(snag.kind.empty());
    }
  }
  for (const auto& entry : std::filesystem::directory_iterator(in_checkout("/recipes"))) {
    const SceneFolder folder = with_script(read_file(entry.path()));
    CAPTURE(entry.path().filename().string());
    for (const Snag& snag : before(folder)) {
      CAPTURE(snag.what);
      CHECK(snag.kind.empty());
    }
  }
}

TEST_CASE("a push on what is static, and its mend") {
  SceneFolder folder = with_script("function on.play() scene:find('post'):impulse(vec(0, 0, 5)) end");
  Body post;
  post.name = "post";
  post.kind = MotionKind::fixed;
  post.shape = Box{{1, 1, 1}};
  post.position = {5, 0.5, 0};
  folder.scene.bodies.push_back(post);
  folder.scripts["act.lua"] =
      "function on.tick() if scene.tick == 5 then scene:find('post'):impulse(vec(0, 0, 5)) end end";
  const auto found = during(folder, 20);
  REQUIRE(kinds(found) == Kinds{"pushed_static"});
  CHECK(found[0].body == "post");
  CHECK(found[0].line == 1);
  found[0].do_mend(folder);
  CHECK(during(folder, 20).empty());
}

TEST_CASE("a push along an axis that is locked, or that the plane locks") {
  const std::string push = "function on.tick() if scene.tick == 5 then body:impulse(vec(0, 0, 5)) end end";
  SceneFolder planar = with_script(push);
  planar.scene.world.planar = true;
  const auto found = during(planar, 20);
  REQUIRE(kinds(found) == Kinds{"locked_push"});
  CHECK(found[0].what.find("a planar scene locks") != std::string::npos);
  SceneFolder locked = with_script(push);
  locked.scene.bodies[1].locked_moves = {false, false, true};
  CHECK(kinds(during(locked, 20)) == Kinds{"locked_push"});
  CHECK(during(with_script(push), 20).empty());
  // What is free of it counts.
  planar.scripts["act.lua"] = "function on.tick() if scene.tick == 5 then body:impulse(vec(4, 0, 4)) end end";
  CHECK(during(planar, 20).empty());
}

TEST_CASE("the same added to the velocity each tick; set and scaled in one tick is something else") {
  CHECK(kinds(during(with_script("function on.tick() body.velocity = body.velocity + vec(0.05, 0, 0) end"))) ==
        Kinds{"velocity_added"});
  CHECK(kinds(during(with_script("function on.tick()\n  local v = body.velocity\n  body.velocity = vec(2, v.y, 0)\n"
                                 "  body.velocity = body.velocity * 1.5\n  body.velocity = vec(3, v.y, 0)\nend"))) ==
        Kinds{});
}

TEST_CASE("a dynamic body that is placed each tick, and its mend") {
  SceneFolder folder = with_script("function on.tick() body.position = vec(math.sin(scene.time), 5, 0) end");
  const auto found = during(folder);
  REQUIRE(kinds(found) == Kinds{"placed_every_tick"});
  found[0].do_mend(folder);
  CHECK(during(folder).empty());
}

TEST_CASE("an impulse that points into the floor that it lies on") {
  SceneFolder folder = with_script("function on.tick() if scene.tick == 150 then body:impulse(vec(0, -5, 0)) end end");
  CHECK(kinds(during(folder)) == Kinds{"into_contact"});
  folder.scripts["act.lua"] = "function on.tick() if scene.tick == 150 then body:impulse(vec(5, 5, 0)) end end";
  CHECK(during(folder).empty());
}

TEST_CASE("a function that nothing calls, a script without handlers, and a dial's tag that no body has") {
  const auto uncalled =
      before(with_script("local function lift() body:force(vec(0, 9, 0)) end\n"
                         "function on.touch() print(1) end"));
  REQUIRE(kinds(uncalled) == Kinds{"uncalled_function"});
  CHECK(uncalled[0].what.find("lift") != std::string::npos);
  CHECK(
      before(with_script("local function lift() body:force(vec(0, 9, 0)) end\nfunction on.tick() lift() end")).empty());
  CHECK(before(with_script("local function lift() end\nafter(1, lift)")).empty());
  CHECK(kinds(before(with_script("dials { push = 3 }\nlocal x = 4"))) == Kinds{"no_handlers"});
  CHECK(before(with_script("body.kind = 'kinematic'")).empty());
  SceneFolder folder =
      with_script("dials { who = { tag = '' } }\nfunction on.touch(h) print(h.other:has(dials.who)) end");
  CHECK(before(folder).empty());
  folder.scene.bodies[1].scripts[0].dials["who"] = NamedThing{NamedKind::tag, "rope"};
  CHECK(kinds(before(folder)) == Kinds{"lost_tag"});
}
