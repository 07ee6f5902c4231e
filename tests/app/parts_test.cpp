// Parts of the window by themselves, each with a session alone: the card, the desk, the pages of the deck.
#include <QCheckBox>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTableView>
#include <QToolButton>
#include <QTreeWidget>

#include "app/card/card.h"
#include "app/deck/bodies_page.h"
#include "app/deck/inputs_page.h"
#include "app/deck/log_page.h"
#include "app/deck/scene_page.h"
#include "app/deck/snags_page.h"
#include "app/deck/surfaces_page.h"
#include "app/desk/desk.h"
#include "app/keep_panel.h"
#include "app/kit/dial_scale.h"
#include "app/session_alone.h"

using namespace bronvel;

namespace {

template <class Part>
struct Shown {
  explicit Shown(Session& session) : part(session) {
    part.resize(700, 500);
    part.show();
  }
  template <class T>
  T* find(const QString& name) {
    T* found = part.template findChild<T*>(name);
    INFO(name.toStdString());
    REQUIRE(found);
    return found;
  }
  void press(const QString& button) {
    find<QAbstractButton>(button)->click();
    QApplication::processEvents();
  }
  Part part;
};

void type(QLineEdit* field, const QString& text) {
  field->setFocus();
  field->selectAll();
  if (text.isEmpty()) QTest::keyClick(field, Qt::Key_Delete);
  QTest::keyClicks(field, text);
  QTest::keyClick(field, Qt::Key_Return);
  QApplication::processEvents();
}

}  // namespace

TEST_CASE("the card sets what is typed, and says what it can't take") {
  Alone alone;
  alone.add_box("crate", {0, 1, 0});
  Shown<Card> card(alone.session);
  type(card.find<QLineEdit>("card_mass"), "2*3");
  CHECK(alone.session.scene().find("crate")->mass == 6);
  type(card.find<QLineEdit>("card_mass"), "1.5 t");
  CHECK(alone.session.scene().find("crate")->mass == 1500);
  for (const char* wrong : {"-4", "0", "heavy", "1/0"}) {
    INFO(wrong);
    alone.said.clear();
    type(card.find<QLineEdit>("card_mass"), wrong);
    CHECK(alone.session.scene().find("crate")->mass == 1500);
    CHECK_FALSE(alone.said.isEmpty());
    CHECK(card.find<QLineEdit>("card_mass")->text().contains("1500"));
  }
  type(card.find<QLineEdit>("card_position_y"), "3");
  CHECK(alone.session.scene().find("crate")->position.y() == 3);
  type(card.find<QLineEdit>("card_restitution"), "0.4");
  CHECK(alone.session.scene().find("crate")->restitution == 0.4);
  type(card.find<QLineEdit>("card_restitution"), "");
  CHECK_FALSE(alone.session.scene().find("crate")->restitution);
}

TEST_CASE("the card renames everywhere, and keeps the name that can't be taken") {
  Alone alone;
  alone.add_box("crate", {0, 1, 0});
  Shown<Card> card(alone.session);
  type(card.find<QLineEdit>("card_name"), "tub");
  CHECK(alone.session.scene().find("tub"));
  CHECK(alone.session.chosen() == "tub");
  for (const char* wrong : {"floor", "a b", "", "9x"}) {
    INFO(wrong);
    type(card.find<QLineEdit>("card_name"), wrong);
    CHECK(alone.session.scene().find("tub"));
    CHECK(alone.session.scene().bodies.size() == 2);
  }
}

TEST_CASE("the card of several bodies changes each") {
  Alone alone;
  for (const char* name : {"a", "b", "c"}) alone.add_box(name, {0, 1, 0});
  alone.session.edit("masses", [](Scene& scene) {
    scene.find("b")->mass = 2;
    scene.find("c")->mass = 3;
  });
  alone.session.choose_bodies({"a", "b", "c"});
  Shown<Card> card(alone.session);
  type(card.find<QLineEdit>("card_mass"), "*2");
  CHECK(alone.session.scene().find("a")->mass == 2);
  CHECK(alone.session.scene().find("c")->mass == 6);
  type(card.find<QLineEdit>("card_mass"), "+1");
  CHECK(alone.session.scene().find("b")->mass == 5);
  type(card.find<QLineEdit>("card_mass"), "7");
  for (const char* name : {"a", "b", "c"}) CHECK(alone.session.scene().find(name)->mass == 7);
  for (int i = 0; i < 3; ++i) alone.session.undo();
  CHECK(alone.session.scene().find("c")->mass == 3);
}

TEST_CASE("the card follows whatever is chosen, of every example, in edit and in play") {
  for (const char* example : {"skerrow-quay", "mooring-bell", "filling-lock", "harbour-cart"}) {
    INFO(example);
    Alone alone(example);
    Shown<Card> card(alone.session);
    const Scene scene = alone.session.scene();
    const auto visit = [&] {
      for (const Body& body : scene.bodies) {
        alone.session.choose(body.name);
        CHECK(card.part.has_content());
        CHECK(card.find<QLineEdit>("card_name")->text().toStdString() == body.name);
      }
      for (const SceneJoint& joint : scene.joints) alone.session.choose_thing(ThingKind::joint, joint.name);
      for (const SceneZone& zone : scene.zones) alone.session.choose_thing(ThingKind::zone, zone.name);
      for (const ScenePath& path : scene.paths) alone.session.choose_thing(ThingKind::path, path.name);
      alone.session.choose("");
      CHECK_FALSE(card.part.has_content());
    };
    visit();
    alone.session.play();
    REQUIRE(alone.play_ticks(6));
    visit();
    alone.session.stop();
    REQUIRE(wait_until([&] { return alone.session.play_state() == Session::PlayState::editing; }));
    visit();
    CHECK(alone.session.scene() == scene);
  }
}

TEST_CASE("the card of a body that was not there at the moment that is looked at") {
  Alone alone("skerrow-quay");
  Session& session = alone.session;
  Shown<Card> card(session);
  session.play();
  REQUIRE(alone.play_ticks(20));
  session.stop();
  REQUIRE(wait_until([&] { return session.play_state() == Session::PlayState::editing; }));
  session.set_follows(false);
  alone.add_box("crate", {0, 1, 0});
  session.look_at_tick(7);
  REQUIRE(session.in_past());
  for (const char* name : {"crate", "fender", "crate"}) {
    session.choose(name);
    session.refresh();
    CHECK(card.part.has_content());
    CHECK(card.find<QLineEdit>("card_name")->text() == name);
  }
  session.choose_bodies({"fender", "crate"});
  session.refresh();
  session.live();
  session.choose("crate");
  CHECK(card.find<QLineEdit>("card_density")->text().toDouble() == Approx(1));
}

TEST_CASE("the inputs page: actions made, changed and taken away, and what it can't take") {
  Alone alone;
  Session& session = alone.session;
  Shown<InputsPage> page(session);
  auto* tree = page.find<QTreeWidget>("inputs");
  page.press("add_action");
  page.press("add_action");
  REQUIRE(session.scene().actions.size() == 2);
  CHECK(session.scene().actions[0].name == "action");
  CHECK(session.scene().actions[1].name == "action_2");
  tree->topLevelItem(0)->setText(0, "steer");
  CHECK(session.scene().actions[0].name == "steer");
  tree->topLevelItem(0)->setText(1, "D, right");
  CHECK(session.scene().actions[0].keys == std::vector<std::string>{"d", "right"});
  tree->topLevelItem(0)->setText(2, "a");
  CHECK(session.scene().actions[0].against == std::vector<std::string>{"a"});
  const Scene good = session.scene();
  const std::vector<std::tuple<int, const char*, const char*>> wrong{
      {0, "two words", "letters, digits and _"},
      {0, "", "letters, digits and _"},
      {0, "action_2", "action_2"},  // taken
      {1, "d, no_such_key", "no_such_key"},
      {2, "hyper", "hyper"},
  };
  for (const auto& [column, text, words] : wrong) {
    INFO(column << " " << text);
    alone.said.clear();
    tree->topLevelItem(0)->setText(column, text);
    QApplication::processEvents();
    CHECK(session.scene() == good);
    REQUIRE_FALSE(alone.said.isEmpty());
    CHECK(alone.said.last().contains(words));
    CHECK(tree->topLevelItem(0)->text(0) == "steer");
    CHECK(tree->topLevelItem(0)->text(1) == "d, right");
  }
  tree->setCurrentItem(tree->topLevelItem(1));
  page.press("remove_action");
  CHECK(session.scene().actions.size() == 1);
  // What no one has chosen can't be taken away.
  tree->setCurrentItem(nullptr);
  page.press("remove_action");
  CHECK(session.scene().actions.size() == 1);
}

TEST_CASE("the inputs page shows which scripts ask, and what is pressed") {
  Alone alone;
  Session& session = alone.session;
  alone.add_box("crate", {0, 1, 0});
  Shown<InputsPage> page(session);
  session.add_script("push.lua", "-- needs action: shove (w)\nfunction on.tick()\n  if held('shove') then end\nend",
                     "crate");
  auto* tree = page.find<QTreeWidget>("inputs");
  REQUIRE(tree->topLevelItemCount() == 1);
  CHECK(tree->topLevelItem(0)->text(4) == "push.lua:3");
  session.play();
  session.key("w", true);
  REQUIRE(alone.play_ticks(2));
  CHECK(tree->topLevelItem(0)->text(3) == "1");
  session.key("w", false);
  REQUIRE(alone.play_ticks(2));
  CHECK(tree->topLevelItem(0)->text(3) == "0");
}

TEST_CASE("the desk shows the chosen body's script, types into it, and has its dials") {
  Alone alone;
  Session& session = alone.session;
  alone.add_box("crate", {0, 1, 0});
  alone.add_box("tub", {3, 1, 0});
  session.add_script("push.lua", "dials { force = { 5, from = 0, to = 9 } }\n", "crate");
  session.add_script("pull.lua", "dials { force = { 2, from = 0, to = 9 } }\n", "crate");
  Shown<Desk> desk(session);
  session.choose("crate");
  CHECK(desk.part.editor()->text().contains("force"));
  const auto scales = desk.part.findChildren<DialScale*>();
  REQUIRE(scales.size() == 2);
  // Two dials of the same name are each its own script's.
  CHECK(scales[0]->value() == 5);
  CHECK(scales[1]->value() == 2);
  emit scales[1]->turned(4);
  emit scales[1]->let_go(4);
  CHECK(number_of(session.dials("crate")[0].value) == 5);
  CHECK(number_of(session.dials("crate")[1].value) == 4);
  session.choose("tub");
  QApplication::processEvents();
  CHECK(desk.part.findChildren<DialScale*>().empty());
  session.choose("crate");
  desk.part.go_to("pull.lua", 1);
  desk.part.editor()->setText("-- typed\n");
  CHECK(session.scripts().at("pull.lua") == "-- typed\n");
  CHECK(session.script_unsaved("pull.lua"));
  desk.part.go_to("no such.lua", 99);
  session.edit("gone", [](Scene& scene) { remove_bodies(scene, {"crate"}); });
  QApplication::processEvents();
}

TEST_CASE("the page of surfaces: numbers, new ones, and those that are in use") {
  Alone alone;
  Session& session = alone.session;
  alone.add_box("crate", {0, 1, 0});
  Shown<SurfacesPage> page(session);
  auto* list = page.find<QTreeWidget>("surfaces");
  REQUIRE(list->topLevelItemCount() == static_cast<int>(session.scene().surfaces.size()));
  const std::size_t before = session.scene().surfaces.size();
  const Scene scene = session.scene();
  for (int column = 1; column < list->columnCount(); ++column) {
    INFO(column);
    list->topLevelItem(0)->setText(column, "no number");
    QApplication::processEvents();
    for (const auto& [name, surface] : session.scene().surfaces) CHECK(std::isfinite(surface.restitution));
    CHECK(session.scene().surfaces.size() == before);
  }
  while (!session.undo_name().isEmpty() && !(session.scene() == scene)) session.undo();
  CHECK(session.scene() == scene);
}

TEST_CASE("the page of bodies changes many at once") {
  Alone alone;
  Session& session = alone.session;
  for (const char* name : {"a", "b", "c"}) alone.add_box(name, {0, 1, 0});
  Shown<BodiesPage> page(session);
  auto* table = page.find<QTableView>("bodies");
  CHECK(table->model()->rowCount() == 4);
  type(page.find<QLineEdit>("bodies_filter"), "fl");
  CHECK(table->model()->rowCount() == 1);
  type(page.find<QLineEdit>("bodies_filter"), "");
  CHECK(table->model()->rowCount() == 4);
  session.choose_bodies({"a", "c"});
  CHECK(table->selectionModel()->selectedRows().size() == 2);
  // Every cell takes any text, or refuses it with words.
  const Scene scene = session.scene();
  for (int column = 0; column < table->model()->columnCount(); ++column)
    for (const char* text : {"", "no such", "-1e300", "nan", "2", "floor"}) {
      INFO(column << " " << text);
      table->model()->setData(table->model()->index(1, column), text);
      CHECK(session.scene().bodies.size() == 4);
    }
  while (!session.undo_name().isEmpty() && !(session.scene() == scene)) session.undo();
  CHECK(session.scene() == scene);
}

TEST_CASE("the page of the scene: settings, and what they can't be") {
  Alone alone;
  Session& session = alone.session;
  Shown<ScenePage> page(session);
  const auto fields = page.part.findChildren<QLineEdit*>();
  int set = 0;
  for (QLineEdit* field : fields) {
    if (!field->objectName().startsWith("scene_")) continue;
    INFO(field->objectName().toStdString());
    const Scene before = session.scene();
    type(field, "3");
    if (!(session.scene() == before)) ++set;
    const Scene good = session.scene();
    for (const char* wrong : {"no number", "1e308", "nan"}) {
      type(field, wrong);
      const WorldSettings& world = session.scene().world;
      CHECK(world.gravity.allFinite());
      CHECK(world.tick_rate >= 1);
      CHECK(world.tick_rate <= 10000);
      CHECK(world.substeps >= 1);
    }
    CHECK(field->text() != "nan");
  }
  CHECK(set >= 5);
  page.find<QCheckBox>("scene_planar")->click();
  CHECK(session.scene().world.planar);
  page.find<QCheckBox>("scene_falls_out")->click();
  const bool falls = session.scene().sweep_away.has_value();
  page.find<QCheckBox>("scene_falls_out")->click();
  CHECK(session.scene().sweep_away.has_value() != falls);
}

TEST_CASE("the panel of what was changed in play keeps what is ticked") {
  Alone alone("skerrow-quay");
  Session& session = alone.session;
  Shown<KeepPanel> panel(session);
  const double mass = session.scene().find("fender")->mass;
  session.play();
  REQUIRE(alone.play_ticks(3));
  session.set_value("fender", *find_property("mass"), Value(mass + 1));
  session.set_value("fender", *find_property("gravity_factor"), Value(0.5));
  session.stop();
  REQUIRE(wait_until([&] { return session.play_state() == Session::PlayState::editing; }));
  CHECK(panel.part.isVisible());
  panel.find<QCheckBox>("keep_0")->setChecked(false);
  panel.find<QPushButton>("keep")->click();
  REQUIRE(wait_until([&] { return session.pending().empty(); }));
  CHECK_FALSE(panel.part.isVisible());
  CHECK(session.scene().find("fender")->mass == mass);
  CHECK(session.scene().find("fender")->gravity_factor == 0.5);
}

TEST_CASE("the log folds what comes again, and can show only what went wrong") {
  Alone alone;
  Shown<LogPage> page(alone.session);
  auto* tree = page.find<QTreeWidget>("log");
  for (int i = 0; i < 5; ++i) alone.session.say("a wave");
  alone.session.report("a leak");
  CHECK(tree->topLevelItemCount() == 2);
  bool counted = false;
  for (int column = 0; column < tree->columnCount(); ++column)
    counted = counted || tree->topLevelItem(0)->text(column).contains("5");
  CHECK(counted);
  alone.session.open_new();
  CHECK(tree->topLevelItemCount() == 0);
}

TEST_CASE("snags are listed, and mended as an edit") {
  Alone alone;
  Session& session = alone.session;
  alone.add_box("crate", {0, 1, 0});
  Shown<SnagsPage> page(session);
  auto* tree = page.find<QTreeWidget>("snags");
  CHECK(tree->topLevelItemCount() == 0);
  session.add_script("push.lua", "function on.tik()\n  body:force(vec(0, 99, 0))\nend\n", "crate");
  session.check_snags();
  REQUIRE(tree->topLevelItemCount() >= 1);
  REQUIRE_FALSE(session.snags().empty());
  tree->setCurrentItem(tree->topLevelItem(0));
  page.press("snag_mend");
  CHECK(session.scripts().at("push.lua").find("on.tick") != std::string::npos);
  session.mend(99);  // there is none
}
