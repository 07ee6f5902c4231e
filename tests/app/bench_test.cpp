// The real window under a real display, driven by mouse and keyboard as a user would.
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTemporaryDir>
#include <QToolButton>
#include <catch2/catch.hpp>
#include <filesystem>

#include "app/kit/dial_scale.h"
#include "app/window_driver.h"
#include "folders.h"

using namespace bronvel;
namespace fs = std::filesystem;

namespace {

// A copy of the demo that may be saved over, open in a bench that is on screen.
struct OpenBench {
  QTemporaryDir folder;
  HandClock hand;
  QString path;
  std::unique_ptr<Bench> bench;

  OpenBench() {
    path = folder.path() + "/skerrow-quay";
    fs::copy(in_checkout("/examples/skerrow-quay"), path.toStdString(), fs::copy_options::recursive);
    reopen();
  }
  void reopen() {
    bench = std::make_unique<Bench>(hand.clock());
    REQUIRE(bench->open(path));
    bench->show();
    REQUIRE(QTest::qWaitForWindowExposed(bench.get()));
    QApplication::setActiveWindow(bench.get());  // there is no window manager to do it
    REQUIRE(wait_until([&] { return bench->stage()->frames_drawn() > 0; }));
  }
  Session& session() { return bench->session(); }
  template <class Widget>
  Widget* find(const QString& name) {
    auto* found = bench->findChild<Widget*>(name);
    INFO(name.toStdString());
    REQUIRE(found);
    return found;
  }
  void click(const QString& name) { QTest::mouseClick(find<QWidget>(name), Qt::LeftButton); }
  void type_number(const QString& field, const QString& text) {
    auto* edit = find<QLineEdit>(field);
    QTest::mouseClick(edit, Qt::LeftButton);
    edit->selectAll();
    QTest::keyClicks(edit, text);
    QTest::keyClick(edit, Qt::Key_Return);
  }
  double height() { return session().chosen_reading()->pose.position.y(); }
};

double touches_of(Session& session, const std::string& body) {
  double count = 0;
  session.with_take([&](const Take& take, TakeReader&) {
    for (const PlayEvent& e : take.events)
      if (e.phase == ContactPhase::touch && (e.a == body || e.b == body)) ++count;
  });
  return count;
}

}  // namespace

TEST_CASE("play, see it fall and bounce, tune, stop, keep, save, close, reopen: the values are there") {
  OpenBench open;
  Session& session = open.session();
  CHECK(session.chosen() == "fender");
  open.click("play");
  REQUIRE(session.play_state() == Session::PlayState::playing);
  REQUIRE(play_ticks(*open.bench, open.hand, 72));
  CHECK(open.height() < 1.7);  // fell
  REQUIRE(play_ticks(*open.bench, open.hand, 40));
  CHECK(open.height() > 1.9);  // and bounced
  CHECK(touches_of(session, "fender") == 1);
  REQUIRE(wait_until([&] { return open.bench->deck()->takes()->points_in("height") > 100; }));

  // Turn the dial by dragging its pointer to the far right, and type a restitution on the card.
  const float before = [&] {
    float v = 0;
    session.with_take([&](const Take& take, TakeReader& reader) {
      v = static_cast<float>(reader.body(take, "fender", take.ticks - 1)->velocity.x());
    });
    return v;
  }();
  auto* dial = open.find<DialScale>("dial_push");
  QTest::mousePress(dial, Qt::LeftButton, {}, {dial->width() / 2, 15});
  QTest::mouseMove(dial, {dial->width() - 10, 15});
  QTest::mouseRelease(dial, Qt::LeftButton, {}, {dial->width() - 10, 15});
  CHECK(dial->value() == Approx(10).margin(0.2));
  open.type_number("card_restitution", "0.45*2");
  REQUIRE(play_ticks(*open.bench, open.hand, 60));
  session.with_take([&](const Take& take, TakeReader& reader) {
    const float gained = static_cast<float>(reader.body(take, "fender", take.ticks - 1)->velocity.x()) - before;
    CHECK(gained > 0.4F);  // 10 N on 9 kg for half a second
  });

  open.click("stop");
  REQUIRE(session.pending().size() == 2);
  CHECK(open.find<QWidget>("keep_panel")->isVisible());
  CHECK_FALSE(session.scene().find("fender")->restitution);
  open.click("keep");
  REQUIRE(wait_until([&] { return session.pending().empty(); }));
  CHECK(session.scene().find("fender")->restitution == 0.9);
  CHECK_FALSE(session.saved());
  QTest::keyClick(open.bench.get(), Qt::Key_S, Qt::ControlModifier);
  CHECK(session.saved());

  open.reopen();
  CHECK(open.session().scene().find("fender")->restitution == 0.9);
  CHECK(number_of(open.session().dials("fender")[0].value) == Approx(10).margin(0.2));
  CHECK(open.find<DialScale>("dial_push")->value() == Approx(10).margin(0.2));
}

TEST_CASE("what is dropped at stop stays out of the scene") {
  OpenBench open;
  open.click("play");
  REQUIRE(play_ticks(*open.bench, open.hand, 5));
  open.type_number("card_mass", "2 t");
  REQUIRE(play_ticks(*open.bench, open.hand, 5));
  open.click("stop");
  REQUIRE(open.session().pending().size() == 1);
  CHECK(std::get<double>(open.session().pending()[0].after) == 2000);
  open.click("drop");
  REQUIRE(wait_until([&] { return open.session().pending().empty(); }));
  CHECK(open.session().scene().find("fender")->mass == 9);
  CHECK(open.session().saved());
}

TEST_CASE("an unticked change is not kept") {
  OpenBench open;
  open.click("play");
  open.type_number("card_mass", "4");
  open.type_number("card_drag_area", "0.5");
  open.click("stop");
  auto* box = open.find<QWidget>("keep_0");
  QTest::mouseClick(box, Qt::LeftButton, {}, {8, box->height() / 2});
  open.click("keep");
  REQUIRE(wait_until([&] { return open.session().pending().empty(); }));
  CHECK(open.session().scene().find("fender")->mass == 9);
  CHECK(open.session().scene().find("fender")->drag_area == 0.5);
}

TEST_CASE("a script edited while playing takes effect on save; a broken one is marked and the old one runs on") {
  OpenBench open;
  open.click("play");
  REQUIRE(play_ticks(*open.bench, open.hand, 12));
  ScriptEditor* editor = open.bench->desk()->editor();
  QTest::mouseClick(editor->viewport(), Qt::LeftButton);
  editor->selectAll();
  QTest::keyClicks(editor, "function on.tick() body:force(vec(0, 2 * body.weight, 0)) end");
  CHECK(open.session().script_unsaved("nudge.lua"));
  QTest::keyClick(open.bench.get(), Qt::Key_S, Qt::ControlModifier);
  const double start = open.session().chosen_reading()->velocity.y();
  REQUIRE(play_ticks(*open.bench, open.hand, 12));
  CHECK(open.session().chosen_reading()->velocity.y() - start == Approx(0.981).margin(0.02));

  editor->selectAll();
  QTest::keyClicks(editor, "function on.tick( oops");
  QTest::keyClick(open.bench.get(), Qt::Key_S, Qt::ControlModifier);
  REQUIRE(play_ticks(*open.bench, open.hand, 12));
  CHECK(open.session().script_faults() == 1);
  CHECK(editor->annotation(0).size() > 5);
  CHECK(open.session().chosen_reading()->velocity.y() - start == Approx(2 * 0.981).margin(0.04));
}

TEST_CASE("a click chooses a body; a drag turns the view instead") {
  OpenBench open;
  Stage* stage = open.bench->stage();
  const QPoint crate = stage->pixel_of("crate_top").toPoint();
  REQUIRE(stage->rect().contains(crate));
  QTest::mouseClick(stage, Qt::LeftButton, {}, crate);
  CHECK(open.session().chosen() == "crate_top");
  const double turn = stage->camera().view.turn;
  QTest::mousePress(stage, Qt::LeftButton, {}, {300, 400});
  QTest::mouseMove(stage, {340, 410});
  QTest::mouseMove(stage, {380, 420});
  QTest::mouseRelease(stage, Qt::LeftButton, {}, {380, 420});
  CHECK(stage->camera().view.turn != turn);
  CHECK(open.session().chosen() == "crate_top");
}

TEST_CASE("pause, step and speed do what they say") {
  OpenBench open;
  open.click("step");
  open.click("step");
  CHECK(open.session().tick() == 2);
  CHECK(open.session().play_state() == Session::PlayState::paused);
  open.session().set_speed(0.1);
  open.click("play");
  open.hand.advance(1 + 1e-9);  // ten ticks' worth at a tenth of 120 Hz is 12
  REQUIRE(wait_until([&] {
    open.session().refresh();
    return open.session().tick() >= 14;
  }));
  open.click("pause");
  CHECK(open.session().tick() == 14);
}

TEST_CASE("the window plays the same bits as the command line") {
  OpenBench open;
  open.click("play");
  REQUIRE(play_ticks(*open.bench, open.hand, 240));
  open.click("pause");
  Play headless(open_folder(open.path.toStdString()), open.session().seed());
  for (int i = 0; i < 240; ++i) headless.step();
  REQUIRE(open.session().tick() == 240);
  CHECK(open.session().runner()->with([](Play& play) { return play.running().world.digest(); }) ==
        headless.running().world.digest());
}

TEST_CASE("a scene that can't be opened says why and leaves the open one as it is") {
  OpenBench open;
  const fs::path bad = fs::path(open.folder.path().toStdString()) / "bad";
  fs::create_directories(bad);
  write_atomically(bad / "scene.json",
                   "{\"bronvel\": 1, \"bodies\": [{\"name\": \"x\", \"shape\": {}, \"mass\": -1}]}");
  CHECK_FALSE(open.bench->open(QString::fromStdString(bad.string())));
  CHECK(open.find<QWidget>("notice")->isVisible());
  CHECK(open.find<QLabel>("notice_text")->text().contains("scene.json:1"));
  CHECK(open.session().scene().name == "Skerrow quay");
}

TEST_CASE("edits undo and redo from the keyboard") {
  OpenBench open;
  open.type_number("card_mass", "12");
  CHECK(open.session().scene().find("fender")->mass == 12);
  CHECK(open.session().undo_name() == "fender: mass 12");
  open.bench->stage()->setFocus();
  QTest::keyClick(open.bench->stage(), Qt::Key_Z, Qt::ControlModifier);
  CHECK(open.session().scene().find("fender")->mass == 9);
  open.session().redo();
  CHECK(open.session().scene().find("fender")->mass == 12);
}

TEST_CASE("closing in the middle of play ends cleanly") {
  OpenBench open;
  open.click("play");
  REQUIRE(play_ticks(*open.bench, open.hand, 10));
  CHECK(open.bench->close());
}
