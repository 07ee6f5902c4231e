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
