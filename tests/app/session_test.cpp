// The session by itself: documents, choosing, editing, playing and values, as the parts of the window use them.
#include "app/session_alone.h"
#include "geometry/base/error.h"

using namespace bronvel;

TEST_CASE("a new scene has a floor, is untouched, and has no folder") {
  Alone alone;
  Session& session = alone.session;
  CHECK(session.scene().bodies.size() == 1);
  CHECK(session.untouched());
  CHECK_FALSE(session.has_folder());
  CHECK_THROWS_WITH(session.save(), Catch::Contains("Save as"));
  session.undo();
  CHECK(session.scene().bodies.empty());
  CHECK(session.untouched());
  alone.add_box("crate", {0, 1, 0});
  CHECK_FALSE(session.untouched());
  CHECK_FALSE(session.saved());
  const QString folder = alone.copy.path() + "/mine";
  session.save_as(folder);
  CHECK(session.saved());
  CHECK(session.has_folder());
  CHECK(session.path() == folder);
  session.open(folder);
  CHECK(session.scene().find("crate"));
  CHECK(session.undo_name().isEmpty());
}

TEST_CASE("what can't be opened leaves what was open") {
  Alone alone("skerrow-quay");
  const Scene before = alone.session.scene();
  const QString path = alone.session.path();
  alone.session.choose("fender");
  CHECK_THROWS_AS(alone.session.open(alone.copy.path() + "/nowhere"), Error);
  CHECK(alone.session.scene() == before);
  CHECK(alone.session.path() == path);
  CHECK(alone.session.chosen() == "fender");
}

TEST_CASE("choosing tells once, and what goes is chosen no longer") {
  Alone alone;
  Session& session = alone.session;
  for (const char* name : {"a", "b", "c"}) alone.add_box(name, {0, 1, 0});
  QSignalSpy told(&session, &Session::chosen_changed);
  session.choose("a");
  session.choose("a");
  CHECK(told.count() == 1);
  session.choose_also("b");
  session.choose_also("c");
  CHECK(session.chosen_bodies() == BodyNames{"a", "b", "c"});
  CHECK(session.chosen() == "c");
  CHECK(session.is_chosen("b"));
  session.choose_also("b");
  CHECK(session.chosen_bodies() == BodyNames{"a", "c"});
  CHECK_FALSE(session.is_chosen("b"));
  told.clear();
  session.edit("gone", [](Scene& scene) { remove_bodies(scene, {"c"}); });
  CHECK(session.chosen_bodies() == BodyNames{"a"});
  CHECK(told.count() == 1);
  session.edit("another", [](Scene& scene) { remove_bodies(scene, {"b"}); });
  CHECK(told.count() == 1);
  session.choose("");
  CHECK(session.chosen_bodies().empty());
  CHECK(session.chosen() == "");
}

TEST_CASE("a joint, a zone or a path is chosen instead of bodies") {
  Alone alone;
  Session& session = alone.session;
  alone.add_box("crate", {0, 1, 0});
  session.edit("things", [](Scene& scene) {
    SceneJoint rope;
    rope.name = "rope";
    rope.kind = JointKind::distance;
    rope.b = "crate";
    rope.high = 2;
    scene.joints = {rope};
    SceneZone basin;
    basin.name = "basin";
    scene.zones = {basin};
    scene.paths = {{"way", {{0, 0, 0}, {1, 0, 0}}, true, false}};
  });
  session.choose_thing(ThingKind::joint, "rope");
  CHECK(session.chosen_bodies().empty());
  CHECK(session.chosen_thing() == "rope");
  REQUIRE(session.chosen_joint());
  CHECK(session.chosen_joint()->name == "rope");
  CHECK_FALSE(session.chosen_zone());
  session.choose_thing(ThingKind::zone, "basin");
  CHECK(session.chosen_zone());
  CHECK_FALSE(session.chosen_joint());
  session.choose_thing(ThingKind::path, "way");
  CHECK(session.chosen_path());
  // A joint goes with its body: nothing is chosen then.
  session.choose_thing(ThingKind::joint, "rope");
  session.edit("gone", [](Scene& scene) { remove_bodies(scene, {"crate"}); });
  CHECK(session.chosen_kind() == ThingKind::body);
  CHECK(session.chosen_thing() == "");
  session.undo();
  session.choose_thing(ThingKind::body, "crate");
  CHECK(session.chosen() == "crate");
}

TEST_CASE("what is tried is shown, and becomes a step only when it is settled") {
  Alone alone;
  Session& session = alone.session;
  alone.add_box("crate", {0, 1, 0});
  const Scene before = session.scene();
  const QString last = session.undo_name();
  const auto move_to = [](double x) { return [x](Scene& scene) { scene.find("crate")->position.x() = x; }; };
  for (int i = 1; i <= 5; ++i) {
    session.try_out(move_to(i));
    CHECK(session.trying());
    CHECK(session.scene().find("crate")->position.x() == i);
    CHECK(session.undo_name() == last);
    CHECK(session.bodies().back().pose.position.x() == i);
  }
  session.let_go();
  CHECK(session.scene() == before);
  session.try_out(move_to(3));
  session.settle("crate: moved");
  CHECK_FALSE(session.trying());
  CHECK(session.undo_name() == "crate: moved");
  // What could not be saved is refused with words, and what was tried before stays.
  session.try_out(move_to(4));
  alone.said.clear();
  session.try_out([](Scene& scene) { scene.find("crate")->mass = -1; });
  CHECK(session.scene().find("crate")->position.x() == 4);
  REQUIRE(alone.said.size() == 1);
  CHECK(alone.said[0].contains("mass"));
  session.let_go();
  session.undo();
  CHECK(session.scene() == before);
  CHECK(alone.said.last() == "undone: crate: moved");
  session.redo();
  CHECK(session.scene().find("crate")->position.x() == 3);
}

TEST_CASE("a value is set in the document while nothing plays") {
  Alone alone;
  Session& session = alone.session;
  for (const char* name : {"a", "b"}) alone.add_box(name, {0, 1, 0});
  const Property& mass = *find_property("mass");
  session.set_value("a", mass, Value(4.0));
  CHECK(std::get<double>(session.value("a", mass)) == 4);
  CHECK(session.undo_name() == "a: mass 4");
  CHECK_THROWS_WITH(session.set_value("a", mass, Value(-4.0)), Catch::Contains("a.mass"));
  CHECK_THROWS_WITH(session.set_value("a", *find_property("surface"), Value(std::string("cheese"))),
                    Catch::Contains("no surface called"));
  CHECK(std::get<double>(session.value("a", mass)) == 4);
  CHECK(std::holds_alternative<std::monostate>(session.value("nobody", mass)));
  // Of several in one step, or of none where one does not fit.
  session.choose_bodies({"b", "a"});
  session.set_values({"a", "b"}, mass, "heavier", [](const Body& body) { return Value(body.mass * 2); });
  CHECK(std::get<double>(session.chosen_values(mass).at(0)) == 8);
  CHECK(std::get<double>(session.chosen_values(mass).at(1)) == 2);
  CHECK_THROWS_AS(session.set_values({"a", "b"}, mass, "wrong",
                                     [](const Body& body) { return Value(body.name == "b" ? -1.0 : 5.0); }),
                  Error);
  CHECK(session.scene().find("a")->mass == 8);
  session.undo();
  CHECK(session.scene().find("a")->mass == 4);
  CHECK(session.scene().find("b")->mass == 1);
}

TEST_CASE("a value is set in the play while one runs, waits to be kept, and is kept or dropped") {
  Alone alone("skerrow-quay");
  Session& session = alone.session;
  const Property& mass = *find_property("mass");
  const double before = session.scene().find("fender")->mass;
  session.play();
  REQUIRE(alone.play_ticks(5));
  session.set_value("fender", mass, Value(before + 3));
  REQUIRE(alone.play_ticks(3));
  CHECK(std::get<double>(session.value("fender", mass)) == before + 3);
  CHECK(session.scene().find("fender")->mass == before);
  session.stop();
  REQUIRE(wait_until([&] { return session.play_state() == Session::PlayState::editing; }));
  REQUIRE(session.pending().size() == 1);
  CHECK(session.pending()[0].place.owner == "fender");
  CHECK(session.pending()[0].place.name == "mass");
  session.keep(session.pending());
  CHECK(session.pending().empty());
  CHECK(session.scene().find("fender")->mass == before + 3);
  CHECK(session.undo_name() == "keep fender · mass");

  session.play();
  REQUIRE(alone.play_ticks(3));
  session.set_value("fender", mass, Value(9.0));
  session.stop();
  REQUIRE(wait_until([&] { return session.play_state() == Session::PlayState::editing; }));
  session.drop_pending();
  CHECK(session.pending().empty());
  CHECK(session.scene().find("fender")->mass == before + 3);
}

TEST_CASE("a change of what is no longer in the scene is told, not kept") {
  Alone alone("skerrow-quay");
  Session& session = alone.session;
  alone.said.clear();
  session.keep({Change{body_place("nobody", "mass"), Value(1.0), Value(2.0)}});
  REQUIRE_FALSE(alone.said.empty());
  CHECK(alone.said.last().contains("nobody · mass"));
  session.keep({Change{body_place("fender", "no such property"), Value(1.0), Value(2.0)}});
  CHECK(alone.said.last().contains("no such property"));
  session.keep({Change{dial_place("fender", "none.lua", "push"), Value(1.0), Value(2.0)}});
  CHECK(alone.said.last().contains("no longer carries none.lua"));
  CHECK(session.undo_name().isEmpty());
}

TEST_CASE("dials are those of the scripts as saved, and as set") {
  Alone alone;
  Session& session = alone.session;
  alone.add_box("crate", {0, 1, 0});
  const std::string file = session.add_script(
      "push.lua", "-- needs action: shove (w / s)\ndials { force = { 5, from = 0, to = 9 } }\n", "crate");
  CHECK(file == "push.lua");
  REQUIRE(session.scene().actions.size() == 1);
  CHECK(session.scene().actions[0].name == "shove");
  REQUIRE(session.dials("crate").size() == 1);
  const Dial dial = session.dials("crate")[0];
  CHECK(dial.name == "force");
  CHECK(number_of(dial.value) == 5);
  session.try_dial("crate", dial, 6.0);
  session.try_dial("crate", dial, 7.0);
  CHECK(number_of(session.dials("crate")[0].value) == 7);
  session.settle_dial("crate", dial, 7.0);
  CHECK(session.undo_name() == "crate: force 7");
  session.undo();
  CHECK(number_of(session.dials("crate")[0].value) == 5);
  session.set_dial("crate", dial, 8.0);
  CHECK(session.scene().find("crate")->scripts[0].dials.at("force") == DialValue(8.0));
  session.take_script(file, "crate");
  CHECK(session.dials("crate").empty());
  session.put_script(file, "crate");
  CHECK(number_of(session.dials("crate")[0].value) == 5);
}

TEST_CASE("the play goes, pauses, steps and stops, and says so") {
  Alone alone("skerrow-quay");
  Session& session = alone.session;
  using State = Session::PlayState;
  session.step();
  CHECK(session.play_state() == State::paused);
  REQUIRE(wait_until([&] {
    session.refresh();
    return session.tick() == 1;
  }));
  session.play();
  CHECK(session.play_state() == State::playing);
  REQUIRE(alone.play_ticks(20));
  session.pause();
  CHECK(session.play_state() == State::paused);
  const std::int64_t paused = session.tick();
  alone.hand.advance(5);
  QTest::qWait(20);
  session.refresh();
  CHECK(session.tick() == paused);
  session.stop();
  REQUIRE(wait_until([&] { return session.play_state() == State::editing; }));
  CHECK(session.tick() == 0);
  CHECK(session.takes().size() == 1);
  CHECK(session.building());
  // From the start again, with another seed, which is told.
  const std::uint64_t seed = session.seed();
  session.restart_with_new_seed();
  CHECK(session.seed() == seed + 1);
  CHECK(alone.said.last().contains(QString::number(seed + 1)));
}

TEST_CASE("keys are actions of the scene while it plays, and are let go") {
  Alone alone;
  Session& session = alone.session;
  session.edit("actions", [](Scene& scene) {
    scene.actions = {{"steer", {"d", "right"}, {"a", "left"}}, {"hop", {"space"}, {}}};
  });
  CHECK_FALSE(session.key("d", true));  // nothing plays
  session.key("d", false);
  session.play();
  CHECK(session.key("d", true));
  CHECK(session.action_now("steer") == 1);
  CHECK(session.key("a", true));
  CHECK(session.action_now("steer") == 0);
  session.key("d", false);
  CHECK(session.action_now("steer") == -1);
  CHECK_FALSE(session.key("q", true));
  session.key("space", true);
  CHECK(session.action_now("hop") == 1);
  session.release_keys();
  CHECK(session.action_now("steer") == 0);
  CHECK(session.action_now("hop") == 0);
  CHECK(session.action_now("no such") == 0);
}

TEST_CASE("another document forgets what belonged to the one before") {
  Alone alone("skerrow-quay");
  Session& session = alone.session;
  session.play();
  REQUIRE(alone.play_ticks(12));
  session.set_value("fender", *find_property("mass"), Value(7.0));
  session.key("space", true);
  session.open_new();
  CHECK(session.play_state() == Session::PlayState::editing);
  CHECK(session.pending().empty());
  CHECK(session.takes().empty());
  CHECK_FALSE(session.head());
  CHECK(session.tick() == 0);
  CHECK(session.log_lines().empty());
  CHECK(session.script_faults() == 0);
  CHECK(session.chosen() == "");
}

TEST_CASE("the log keeps the last of very many lines") {
  Alone alone;
  for (int i = 0; i < 6000; ++i) alone.session.say(QString("line %1").arg(i));
  CHECK(alone.session.log_lines().size() == 5000);
  CHECK(alone.session.log_lines().back().text == "line 5999");
  CHECK(alone.session.log_lines().front().text == "line 1000");
  alone.session.keep_in_log("once");
  alone.session.keep_in_log("once");
  CHECK(alone.session.log_lines().back().text == "once");
  CHECK(alone.session.log_lines()[alone.session.log_lines().size() - 2].text == "line 5999");
}

TEST_CASE("a choice is a plain value: of bodies, of one other thing, or of nothing") {
  Scene scene;
  for (const char* name : {"a", "b", "c", "d"}) {
    Body body;
    body.name = name;
    scene.bodies.push_back(body);
  }
  SceneZone basin;
  basin.name = "basin";
  scene.zones = {basin};
  const Choice none;
  CHECK(none.body() == "");
  CHECK(none.thing() == "");
  CHECK(bodies_of(none, scene).empty());
  CHECK(choice_of(ThingKind::body, "") == none);
  CHECK(choice_of({"a"}) == choice_of(ThingKind::body, "a"));
  // The last one counts; what is told of them is in the scene's order.
  const Choice some = choice_of({"d", "a", "c"});
  CHECK(some.body() == "c");
  CHECK(some.has("d"));
  CHECK_FALSE(some.has("b"));
  const auto found = bodies_of(some, scene);
  REQUIRE(found.size() == 3);
  CHECK(found[0]->name == "a");
  CHECK(found[2]->name == "d");
  CHECK(choice_with(some, "a").bodies == BodyNames{"d", "c"});
  CHECK(choice_with(some, "b").bodies == BodyNames{"d", "a", "c", "b"});
  const Choice zone = choice_of(ThingKind::zone, "basin");
  CHECK(zone.body() == "");
  CHECK(zone.thing() == "basin");
  CHECK(zone_of(zone, scene) == &scene.zones[0]);
  CHECK_FALSE(joint_of(zone, scene));
  CHECK_FALSE(path_of(zone, scene));
  CHECK(choice_with(zone, "a") == choice_of({"a"}));
  // What is left when things go.
  CHECK(choice_left(some, scene) == some);
  scene.bodies.erase(scene.bodies.begin());
  CHECK(choice_left(some, scene).bodies == BodyNames{"d", "c"});
  CHECK(choice_left(zone, scene) == zone);
  scene.zones.clear();
  CHECK(choice_left(zone, scene) == none);
}
