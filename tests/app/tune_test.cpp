// Joints, zones, surfaces and what holds for all are tuned in the window while it plays, and kept at stop.
#include <QCheckBox>
#include <QTreeWidget>

#include "app/window.h"

using namespace bronvel;

namespace {

void settle(Window& w) {
  w.bench.session().refresh();
  QApplication::processEvents();
}

double number(const QString& text) {
  return QString(text).replace("−", "-").toDouble();
}

// The running play's value.
Value in_play(Session& session, const SettingPlace& place) {
  Value value;
  session.with_settings([&](const Scene& scene) { value = value_at(scene, place); });
  return value;
}

}  // namespace

TEST_CASE("a joint, a zone, gravity and a surface are tuned in play and kept in one step") {
  Window w("bell-buoy");
  Session& session = w.bench.session();
  const Scene before = session.scene();
  w.click("play");
  REQUIRE(w.play(20));
  session.choose_thing(ThingKind::joint, "mooring");
  settle(w);
  w.type_number("card_high", "4.5");
  const SettingPlace rope{SettingOf::joint, "mooring", "high"};
  CHECK(std::get<double>(in_play(session, rope)) == 4.5);
  session.choose_thing(ThingKind::zone, "sea");
  settle(w);
  w.type_number("card_wave_height", "0");
  w.type_number("card_size_x", "60");
  CHECK(std::get<double>(in_play(session, {SettingOf::zone, "sea", "size_x"})) == 60);
  w.click("tab_Scene");
  w.type_number("scene_gravity_y", "-3.7");
  w.click("tab_Surfaces");
  auto* surfaces = w.find<QTreeWidget>("surfaces");
  surfaces->findItems("iron", Qt::MatchExactly).first()->setText(4, "0.9");
  // The running play has them, the document has not.
  CHECK(std::get<Vec3>(in_play(session, {SettingOf::world, "", "gravity"})).y() == -3.7);
  CHECK(session.scene() == before);
  REQUIRE(w.play(60));
  CHECK(surfaces->findItems("iron", Qt::MatchExactly).first()->text(4) == "0.9");
  w.click("tab_Scene");
  CHECK(number(w.find<QLineEdit>("scene_gravity_y")->text()) == -3.7);
  w.click("stop");
  REQUIRE(session.pending().size() == 5);
  CHECK(w.find<QCheckBox>("keep_0")->text() == "mooring · greatest");
  CHECK(w.find<QCheckBox>("keep_3")->text() == "gravity");
  CHECK(w.find<QCheckBox>("keep_4")->text() == "iron · restitution");
  // The page is of the scene again until they are kept.
  CHECK(number(w.find<QLineEdit>("scene_gravity_y")->text()) == -9.81);
  w.click("keep_2");  // not the size
  w.click("keep");
  settle(w);
  CHECK(session.scene().joints[0].high == 4.5);
  CHECK(session.scene().zones[0].wave_height == 0);
  CHECK(std::get<Box>(session.scene().zones[0].shape).size.x() == 40);
  CHECK(session.scene().world.gravity.y() == -3.7);
  CHECK(session.scene().surfaces.at("iron").restitution == 0.9);
  session.undo();
  CHECK(session.scene() == before);
}

TEST_CASE("what was set in play stands in its take, at its moment") {
  Window w("bell-buoy");
  Session& session = w.bench.session();
  w.click("tab_Scene");
  w.click("play");
  REQUIRE(w.play(30));
  w.type_number("scene_gravity_y", "-2");
  REQUIRE(w.play(30));
  w.click("pause");
  session.look_at_tick(10);
  settle(w);
  CHECK(number(w.find<QLineEdit>("scene_gravity_y")->text()) == -9.81);
  session.look_at_tick(50);
  settle(w);
  CHECK(number(w.find<QLineEdit>("scene_gravity_y")->text()) == -2);
}

TEST_CASE("what a play can't take over reaches the document, and says from when it counts") {
  Window w("bell-buoy");
  Session& session = w.bench.session();
  QStringList said;
  QObject::connect(&session, &Session::said, &w.bench, [&](const QString& text) { said << text; });
  w.click("tab_Scene");
  w.click("play");
  REQUIRE(w.play(10));
  settle(w);
  w.type_number("scene_tick_rate", "30");
  REQUIRE_FALSE(said.isEmpty());
  CHECK(said.last().contains("tick rate counts from the next play"));
  CHECK(session.scene().world.tick_rate == 30);
  QStringList units;
  for (const QLabel* label : w.bench.findChildren<QLabel*>())
    if (label->text() == "next play") units << label->text();
  CHECK(units.size() >= 2);  // the tick rate and the seed
  session.choose_thing(ThingKind::joint, "mooring");
  settle(w);
  w.type_number("card_anchor_a_x", "-2");
  CHECK(session.scene().joints[0].anchor_a.x() == -2);
  CHECK(said.last().contains("counts from the next play"));
  w.click("stop");
  CHECK(session.pending().empty());
}

namespace {

constexpr const char* gate_script =
    "dials { gate = { body = '' }, who = { tag = '' }, open = false, how = { 'slow', one_of = { 'slow', 'fast' } },\n"
    "  push = { 3, unit = 'N', from = 0, to = 100 } }\n"
    "function on.tick() if dials.gate then dials.gate:force(scene.across * 500) end end\n";

DialValue setting(Window& w, const char* body, const char* dial) {
  const auto& dials = w.bench.session().scene().find(body)->scripts[0].dials;
  const auto found = dials.find(dial);
  return found == dials.end() ? DialValue("as declared") : found->second;
}

}  // namespace

TEST_CASE("dials that are no numbers are chosen on the desk, by pointing too, and follow what they name") {
  Window w("harbour-cart");
  Session& session = w.bench.session();
  session.add_script("gate.lua", gate_script, "cask_1");
  session.edit("tag", [](Scene& scene) { scene.find("cask_2")->tags = {"buoy"}; });
  session.save();
  session.choose("cask_1");
  settle(w);
  w.click("dial_open");
  CHECK(setting(w, "cask_1", "open") == DialValue(true));
  w.choose_from(w.find<QToolButton>("dial_how"), "fast");
  CHECK(setting(w, "cask_1", "how") == DialValue("fast"));
  CHECK(w.find<QToolButton>("dial_who")->text() == "whatever it is");
  w.choose_from(w.find<QToolButton>("dial_who"), "buoy");
  CHECK(setting(w, "cask_1", "who") == DialValue(NamedThing{NamedKind::tag, "buoy"}));
  // The next click on the stage says which; what was chosen stays chosen.
  w.choose_from(w.find<QToolButton>("dial_gate"), "point at it");
  CHECK(session.pointing());
  w.stage_click(w.pixel(session.scene().find("cask_2")->position));
  CHECK(setting(w, "cask_1", "gate") == DialValue(NamedThing{NamedKind::body, "cask_2"}));
  CHECK(session.chosen() == "cask_1");
  CHECK(w.find<QToolButton>("dial_gate")->text() == "cask_2");
  // Called otherwise, and gone.
  session.edit("call it", [](Scene& scene) { rename_body(scene, "cask_2", "keg"); });
  CHECK(setting(w, "cask_1", "gate") == DialValue(NamedThing{NamedKind::body, "keg"}));
  CHECK(w.find<QToolButton>("dial_gate")->text() == "keg");
  QStringList said;
  QObject::connect(&session, &Session::said, &w.bench, [&](const QString& text) { said << text; });
  session.edit("away", [](Scene& scene) { remove_bodies(scene, {"keg"}); });
  CHECK(setting(w, "cask_1", "gate") == DialValue(NamedThing{NamedKind::body, ""}));
  CHECK(said.join(" ").contains("cask_1's gate"));
  session.undo();
  CHECK(w.find<QToolButton>("dial_gate")->text() == "keg");
  // In play it counts from the next tick, and is kept or dropped.
  w.choose_from(w.find<QToolButton>("dial_gate"), "none");
  w.click("play");
  REQUIRE(w.play(20));
  const double before = w.place("keg").x();
  w.choose_from(w.find<QToolButton>("dial_gate"), "keg");
  REQUIRE(w.play(60));
  CHECK(w.place("keg").x() > before + 0.05);
  w.click("stop");
  REQUIRE(session.pending().size() == 1);
  w.click("keep");
  settle(w);
  CHECK(setting(w, "cask_1", "gate") == DialValue(NamedThing{NamedKind::body, "keg"}));
  // Escape gives pointing up.
  w.choose_from(w.find<QToolButton>("dial_gate"), "point at it");
  QTest::keyClick(w.bench.stage(), Qt::Key_Escape);
  CHECK_FALSE(session.pointing());
  CHECK(session.chosen() == "cask_1");
}

TEST_CASE("numbers may be typed by their names, and the card says weight and forward") {
  Window w("harbour-cart");
  Session& session = w.bench.session();
  session.add_script("gate.lua", gate_script, "cask_1");
  session.save();
  session.choose("cask_1");
  settle(w);
  CHECK(w.find<QLabel>("now_weight")->text().toDouble() == Approx(20 * 9.81).epsilon(1e-3));
  w.type_number("dial_number_push", "weight/4");
  CHECK(number_of(setting(w, "cask_1", "push")) == Approx(20 * 9.81 / 4));
  w.type_number("card_mass", "2*mass");
  CHECK(session.scene().find("cask_1")->mass == 40);
  w.type_number("dial_number_push", "2*g N");
  CHECK(number_of(setting(w, "cask_1", "push")) == Approx(2 * 9.81));
  w.type_number("dial_number_push", "2*wait");  // is none of them
  CHECK(number_of(setting(w, "cask_1", "push")) == Approx(2 * 9.81));
  bool told = false;
  for (const QLabel* label : w.bench.findChildren<QLabel*>()) told = told || label->text().contains("forward −Z");
  CHECK(told);
  // In the plane forward is X, and the scene is looked at straight on.
  w.click("tab_Scene");
  w.click("scene_planar");
  settle(w);
  CHECK(w.bench.stage()->camera().view.straight);
  for (const QLabel* label : w.bench.findChildren<QLabel*>()) told = told && !label->text().contains("forward −Z");
  CHECK(told);
}
