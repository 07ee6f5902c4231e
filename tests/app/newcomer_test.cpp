// The first half hour: a floor, what to do next, tasks, places, sheets, sound.
#include <QLabel>
#include <QMimeData>
#include <QSlider>
#include <catch2/catch.hpp>
#include <fstream>

#include "app/guide.h"
#include "app/kit/theme.h"
#include "app/session/settings.h"
#include "app/window.h"
#include "scene/files/folder.h"

using namespace bronvel;

namespace {

QString guide_text(Window& w) {
  QString all;
  for (QLabel* label : w.find<Guide>("guide")->findChildren<QLabel*>())
    if (label->isVisible()) all += label->text() + "\n";
  return all;
}

}  // namespace

TEST_CASE("a scene from nothing has a floor, can be left at once, and says what comes next") {
  bench_settings().remove("guide/first_steps_closed");
  HandClock hand;
  Bench bench(hand.clock());
  bench.open_new();
  bench.show();
  Session& session = bench.session();
  REQUIRE(session.scene().bodies.size() == 1);
  CHECK(session.scene().bodies[0].kind == MotionKind::fixed);
  CHECK(session.untouched());
  auto* guide = bench.findChild<Guide*>("guide");
  CHECK(guide->isVisible());
  const auto title = [&] { return guide->findChildren<QLabel*>().front()->text(); };
  CHECK(title().endsWith("○○○"));
  session.edit("a ball", [](Scene& scene) {
    Body ball;
    ball.name = "ball";
    ball.position = {0, 2, 0};
    scene.bodies.push_back(ball);
  });
  CHECK(title().endsWith("✓○○"));
  CHECK_FALSE(session.untouched());
  session.undo();
  session.undo();
  CHECK(session.scene().bodies.empty());
}

TEST_CASE("the demo's first steps tick themselves off, and do not come again when they were closed for ever") {
  bench_settings().remove("guide/first_steps_closed");
  HandClock hand;
  Bench bench(hand.clock());
  REQUIRE(bench.open(QString::fromStdString(in_checkout("/examples/skerrow-quay"))));
  bench.show();
  Session& session = bench.session();
  auto* guide = bench.findChild<Guide*>("guide");
  REQUIRE(guide->isVisible());
  const auto title = [&] { return guide->findChildren<QLabel*>().front()->text(); };
  CHECK(title().endsWith("○○○○○"));
  session.play();
  CHECK(title().endsWith("✓○○○○"));
  REQUIRE(play_ticks(bench, hand, 30));
  const Dial push = session.dials("fender").front();
  session.set_dial("fender", push, 5.0);
  session.refresh();
  emit session.values_changed();
  CHECK(title().endsWith("✓✓○○○"));
  session.pause();
  session.look_at_tick(10);
  CHECK(title().endsWith("✓✓○✓○"));
  session.live();
  session.stop();
  REQUIRE_FALSE(session.pending().empty());
  session.keep(session.pending());
  CHECK(title().endsWith("✓✓○✓✓"));
  session.undo();
  emit bench.findChild<QLabel*>("guide_end")->linkActivated("end");
  CHECK_FALSE(guide->isVisible());
  REQUIRE(bench.open(QString::fromStdString(in_checkout("/examples/skerrow-quay"))));
  // What is left are the scene's own tasks.
  CHECK(guide->isVisible());
  CHECK(guide->findChildren<QLabel*>().front()->text() == "To try here");
}

TEST_CASE("every example has two tasks, told when it opens") {
  for (const auto& entry : std::filesystem::directory_iterator(in_checkout("/examples"))) {
    INFO(entry.path().string());
    CHECK(open_folder(entry.path()).scene.tasks.size() == 2);
  }
  Window w("ice-dam");
  CHECK(guide_text(w).contains("least charge"));
  // In play it covers nothing of the stage.
  w.click("play");
  CHECK_FALSE(w.find<Guide>("guide")->isVisible());
  w.click("stop");
  CHECK(w.find<Guide>("guide")->isVisible());
  w.click("guide_close");
  w.click("play");
  w.click("stop");
  CHECK_FALSE(w.find<Guide>("guide")->isVisible());
}

TEST_CASE("a scene is opened and saved by going through folders, by keys alone; a folder is dropped on the window") {
  bench_settings().remove("places/scene");
  Window w("skerrow-quay");
  const QString folder = w.copy.path();
  std::filesystem::copy(in_checkout("/examples/ice-dam"), (folder + "/ice-dam").toStdString(),
                        std::filesystem::copy_options::recursive);
  QTest::keyClick(&w.bench, Qt::Key_O, Qt::ControlModifier);
  auto* list = w.find<QListWidget>("places_list");
  REQUIRE(list->isVisible());
  CHECK(w.find<QLineEdit>("places_path")->text() == folder);
  CHECK(list->hasFocus());
  CHECK(list->currentItem()->text() == "ice-dam");
  QTest::keyClick(list, Qt::Key_Return);
  CHECK(w.bench.session().scene().name == "Ice dam");
  QTest::keyClick(&w.bench, Qt::Key_S, Qt::ControlModifier | Qt::ShiftModifier);
  auto* name = w.find<QLineEdit>("places_name");
  REQUIRE(name->hasFocus());
  QTest::keyClicks(name, "a/b");
  CHECK_FALSE(w.find<QToolButton>("places_main")->isEnabled());
  name->selectAll();
  QTest::keyClicks(name, "wall-two");
  QTest::keyClick(name, Qt::Key_Return);
  CHECK(std::filesystem::exists((folder + "/wall-two/scene.json").toStdString()));
  CHECK(w.bench.session().path() == folder + "/wall-two");
  QTest::keyClick(&w.bench, Qt::Key_O, Qt::ControlModifier);
  w.type_number("places_path", folder + "/nowhere");
  CHECK(w.find<QLabel>("places_what")->text().contains("There is no folder"));
  w.click("places_close");
  // Dropped from elsewhere.
  QMimeData data;
  data.setUrls({QUrl::fromLocalFile(folder + "/skerrow-quay")});
  QDragEnterEvent enter({300, 300}, Qt::CopyAction, &data, Qt::LeftButton, {});
  QApplication::sendEvent(&w.bench, &enter);
  CHECK(enter.isAccepted());
  QDropEvent drop({300, 300}, Qt::CopyAction, &data, Qt::LeftButton, {});
  QApplication::sendEvent(&w.bench, &drop);
  CHECK(w.bench.session().scene().name == "Skerrow quay");
}

TEST_CASE("sizes and what is folded are remembered for scenes in space and for those in the plane") {
  {
    Window w("skerrow-quay");
    QTest::keyClick(&w.bench, Qt::Key_F8);
    CHECK_FALSE(w.bench.desk()->isVisible());
  }
  Window again("skerrow-quay");
  CHECK_FALSE(again.bench.desk()->isVisible());
  QTest::keyClick(&again.bench, Qt::Key_F8);
  CHECK(again.bench.desk()->isVisible());
  bench_settings().remove("layout");
}

TEST_CASE("sound can be turned off and down; where there is no sound card it is said quietly, and bits are the same") {
  Window w("skerrow-quay");
  Loudspeaker& loudspeaker = w.bench.session().loudspeaker();
  CHECK(loudspeaker.on());
  auto* button = w.find<QToolButton>("sound");
  emit button->menu()->aboutToShow();
  w.find<QSlider>("sound_level")->setValue(30);
  CHECK(loudspeaker.level() == Approx(0.3));
  w.click("play");
  REQUIRE(w.play(200));
  CHECK(wait_until([&] { return loudspeaker.queue()->given() > 0 || loudspeaker.card() == Loudspeaker::Card::none; }));
  w.bench.session().refresh();
  REQUIRE(wait_until([&] { return loudspeaker.card() != Loudspeaker::Card::not_tried; }));
  if (loudspeaker.card() == Loudspeaker::Card::none) CHECK(button->toolTip().contains("no sound card"));
  w.click("stop");
  w.bench.session().drop_pending();
  w.choose_from(button, "Sounds are heard");
  CHECK_FALSE(loudspeaker.on());
  CHECK_FALSE(loudspeaker.queue()->wanted());
  w.choose_from(button, "Sounds are heard");
  CHECK(loudspeaker.on());
  loudspeaker.set_level(0.7);
}

TEST_CASE("a sound that can't be read is one clear message, and the scene opens") {
  Window w("ice-dam");
  const QString scene = w.copy.path() + "/ice-dam";
  std::filesystem::create_directories((scene + "/sounds").toStdString());
  std::ofstream((scene + "/sounds/blast.ogg").toStdString()) << "nothing to hear";
  REQUIRE(w.bench.open(scene));
  CHECK_THAT(w.log(), Catch::Contains("A sound is left out") && Catch::Contains("blast.ogg"));
}

TEST_CASE("in the hand with Shift a body goes along the floor") {
  Window w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(2));
  w.find<StageTools>("stage_tools")->take(Tool::hand);
  const double height = w.place("fender").y();
  const QPoint from = w.bench.stage()->pixel_of("fender").toPoint(), to = from + QPoint(60, -40);
  QTest::mousePress(w.bench.stage(), Qt::LeftButton, {}, from);
  QMouseEvent move(QEvent::MouseMove, to, w.bench.stage()->mapToGlobal(to), Qt::NoButton, Qt::LeftButton,
                   Qt::ShiftModifier);
  QApplication::sendEvent(w.bench.stage(), &move);
  double carried = 0;
  w.bench.session().runner()->with([&](Play& play) {
    play.step();
    carried = play.hand().at.y();
  });
  CHECK(carried == Approx(height).margin(0.4));
  QTest::mouseRelease(w.bench.stage(), Qt::LeftButton, {}, to);
}

TEST_CASE("a copy made in play has a card, which says that it goes with the play") {
  Window w("herring-spout");
  w.click("play");
  w.press_key(Qt::Key_Space);
  REQUIRE(w.play(60));
  w.release_key(Qt::Key_Space);
  std::string copy;
  for (const BodyView& view : w.bench.session().bodies())
    if (!w.bench.session().scene().find(view.name)) copy = view.name;
  REQUIRE_FALSE(copy.empty());
  w.click("pause");
  w.bench.session().choose(copy);
  w.bench.session().refresh();
  CHECK(w.find<QLabel>("made_in_play")->isVisible());
  w.type_number("card_mass", "2.5");
  w.click("play");
  REQUIRE(w.play(1));
  double mass = 0;
  w.bench.session().runner()->with([&](Play& play) {
    if (const auto handle = play.running().find(copy)) mass = play.running().body_of(*handle)->mass;
  });
  CHECK(mass == 2.5);
  w.click("stop");
  w.bench.session().drop_pending();
  CHECK_FALSE(w.bench.findChild<QLabel*>("made_in_play"));
}
