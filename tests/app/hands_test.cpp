// Scripts and hands in the real window, by mouse and keyboard.
#include <QComboBox>
#include <QMenu>
#include <QToolButton>
#include <QTreeWidget>
#include <catch2/catch.hpp>
#include <filesystem>

#include "app/examples_sheet.h"
#include "app/window.h"

using namespace bronvel;

TEST_CASE("a script from nothing: new body, new script, type, save, play") {
  Window w("cork-hoppers");
  w.drop("box", w.bench.stage()->rect().center());
  REQUIRE(w.bench.session().chosen() == "box");
  w.choose_from(w.find<QToolButton>("script_picker"), "New script on box");
  w.type_script("function on.tick()\n  body:force(vec(0, body.weight * 1.1, 0))\nend");
  QTest::keyClick(&w.bench, Qt::Key_S, Qt::ControlModifier);
  CHECK(w.bench.session().saved());
  const double before = w.place("box").y();
  w.click("play");
  REQUIRE(w.play(120));
  CHECK(w.place("box").y() - before == Approx(0.5 * 0.981).epsilon(0.02));
  CHECK(open_folder(w.bench.session().path().toStdString()).scripts.contains("box.lua"));
}

TEST_CASE("six common mistakes, each met with the message or snag that names it") {
  struct Mistake {
    const char* source;
    const char* said;  // in the log, or the kind of a snag
  };
  const Mistake mistakes[] = {
      {"function on.tick()\n  body.force(vec(1, 0, 0))\nend", "write body:name(…), not body.name(…)"},
      {"function on.tik()\nend", "did you mean on.tick?"},
      {"function on.tick()\n  body:force(5)\nend", "body:force wants a vector in newtons, got 5"},
      {"function on.tick(dt)\n  body:force(vec(9, 0, 0) * dt)\nend", "force_times_dt"},
      {"function on.touch(hit)\n  if hit.other:has(\"stoen\") then body:halt() end\nend", "lost_tag"},
      {"function on.tick()\n  body.velocity = vec(1, 0.5, 0)\nend", "lost_gravity"},
  };
  for (const Mistake& m : mistakes) {
    CAPTURE(m.source);
    Window w("cork-hoppers");
    w.bench.session().choose("cork_1");
    w.choose_from(w.find<QToolButton>("script_picker"), "New script on cork_1");
    w.type_script(m.source);
    QTest::keyClick(&w.bench, Qt::Key_S, Qt::ControlModifier);
    w.click("play");
    REQUIRE(w.play(60));
    const auto kinds = w.snag_kinds();
    const bool as_snag = std::find(kinds.begin(), kinds.end(), m.said) != kinds.end();
    CHECK((as_snag || w.log().find(m.said) != std::string::npos));
  }
}

TEST_CASE("a key makes them hop; one that is let go elsewhere is let go") {
  Window w("cork-hoppers");
  w.click("play");
  REQUIRE(w.play(30));
  w.bench.stage()->setFocus();
  w.press_key(Qt::Key_Space);
  REQUIRE(w.play(30));
  CHECK(w.place("cork_1").y() > 0.6);
  CHECK(w.bench.session().action_now("hop") == 1);
  w.bench.desk()->editor()->setFocus();
  QTest::qWait(10);
  CHECK(w.bench.session().action_now("hop") == 0);
}

TEST_CASE("the hand takes a body, carries it, and throws it; on.grab and on.drop come") {
  Window w("mooring-bell");
  w.bench.session().type_script("return_to_start.lua",
                                "function on.grab() print(\"grabbed\") end function on.drop() print(\"let go\") end");
  w.bench.save();
  w.click("play");
  REQUIRE(w.play(20));
  w.bench.stage()->tools()->take(Tool::hand);
  const QPoint from = w.bench.stage()->pixel_of("bell").toPoint();
  QTest::mousePress(w.bench.stage(), Qt::LeftButton, {}, from);
  for (int i = 1; i <= 20; ++i) {
    QTest::mouseMove(w.bench.stage(), from + QPoint(0, -5 * i));
    REQUIRE(w.play(4));
  }
  REQUIRE(w.play(60));
  const double held = w.place("bell").y();
  CHECK(held > 1);
  for (int i = 1; i <= 6; ++i) {
    QTest::mouseMove(w.bench.stage(), from + QPoint(20 * i, -100));
    REQUIRE(w.play(2));
  }
  QTest::mouseRelease(w.bench.stage(), Qt::LeftButton, {}, from + QPoint(120, -100));
  const double at = w.place("bell").x();
  REQUIRE(w.play(30));
  CHECK(w.place("bell").x() > at + 0.3);
  CHECK_THAT(w.log(), Catch::Contains("grabbed"));
  CHECK_THAT(w.log(), Catch::Contains("let go"));
  CHECK_THAT(w.log(), Catch::Contains("hand: takes bell, with up to") && Catch::Contains("hand: lets go"));
}

TEST_CASE("a flick is drawn and given; a blast throws a pile about; its drag does not turn the view") {
  Window w("ice-stones");
  w.click("play");
  REQUIRE(w.play(2));
  w.bench.stage()->tools()->take(Tool::flick);
  const double turn = w.bench.stage()->camera().view.turn;
  const QPoint from = w.bench.stage()->pixel_of("stone_3").toPoint();
  const double before = w.place("stone_3").x();
  QTest::mousePress(w.bench.stage(), Qt::LeftButton, {}, from);
  QTest::mouseMove(w.bench.stage(), from + QPoint(30, 0));
  QTest::mouseMove(w.bench.stage(), from + QPoint(70, 0));
  QTest::mouseRelease(w.bench.stage(), Qt::LeftButton, {}, from + QPoint(70, 0));
  REQUIRE(w.play(30));
  CHECK(w.place("stone_3").x() > before + 0.3);
  CHECK(w.bench.stage()->camera().view.turn == turn);
  w.bench.stage()->tools()->take(Tool::blast);
  std::map<std::string, Vec3> places;
  for (const BodyView& view : w.bench.session().bodies()) places[view.name] = view.pose.position;
  QTest::mouseClick(w.bench.stage(), Qt::LeftButton, {}, w.bench.stage()->pixel_of("stone_2").toPoint());
  REQUIRE(w.play(30));
  int moved = 0;
  for (const BodyView& view : w.bench.session().bodies())
    moved += (view.pose.position - places[view.name]).norm() > 0.2 ? 1 : 0;
  CHECK(moved >= 3);
  CHECK_THAT(w.log(), Catch::Contains("N·s on stone_3") && Catch::Contains("blast: "));
}

TEST_CASE("what hands and keys did in the window plays the same bits headless") {
  Window w("cork-hoppers");
  w.click("play");
  REQUIRE(w.play(30));
  w.bench.stage()->setFocus();
  w.press_key(Qt::Key_Space);
  REQUIRE(w.play(10));
  w.release_key(Qt::Key_Space);
  w.bench.stage()->tools()->take(Tool::blast);
  QTest::mouseClick(w.bench.stage(), Qt::LeftButton, {}, w.bench.stage()->pixel_of("cork_3").toPoint());
  REQUIRE(w.play(60));
  std::vector<Input> inputs;
  std::uint64_t digest = 0;
  std::int64_t ticks = 0;
  w.bench.session().pause();
  w.bench.session().runner()->with([&](Play& play) {
    inputs = play.inputs();
    digest = play.running().world.digest();
    ticks = play.tick();
  });
  CHECK(inputs.size() >= 3);
  Play again(open_folder(w.bench.session().path().toStdString()), w.bench.session().seed(),
             read_inputs(inputs_text(inputs), "inputs", 60));
  while (again.tick() < ticks) again.step();
  CHECK(again.running().world.digest() == digest);
}

TEST_CASE("a ready behaviour goes onto the chosen body with the keys it needs, and undoes") {
  Window w("cork-hoppers");
  w.bench.session().choose("crate");
  QMenu* menu = w.find<QToolButton>("script_picker")->menu();
  emit menu->aboutToShow();
  auto* ready = w.find<QMenu>("ready_behaviours");
  QAction* serve = nullptr;
  for (QAction* action : ready->actions())
    if (action->text() == "serve") serve = action;
  REQUIRE(serve);
  CHECK(serve->toolTip().contains("random direction"));
  serve->trigger();
  CHECK(w.bench.session().scene().find("crate")->scripts.back().file == "serve.lua");
  CHECK(w.bench.session().scene().actions.back().name == "serve");
  CHECK(w.bench.session().scene().actions.back().keys == std::vector<std::string>{"enter"});
  CHECK(w.bench.desk()->editor()->text().startsWith("-- Serve"));
  QTest::keyClick(&w.bench, Qt::Key_Z, Qt::ControlModifier);
  CHECK(w.bench.session().scene().find("crate")->scripts.empty());
}

TEST_CASE("the editor offers what fits, finds definitions, and replaces") {
  Window w("mooring-bell");
  ScriptEditor* editor = w.bench.desk()->editor();
  editor->setFocus();
  w.bench.desk()->go_to("return_to_start.lua", 2);
  QTest::keyClick(editor, Qt::Key_End);
  QTest::keyClick(editor, Qt::Key_Return);
  QTest::keyClicks(editor, "body:imp");
  CHECK(editor->SendScintilla(QsciScintillaBase::SCI_AUTOCACTIVE) == 1);
  QTest::keyClick(editor, Qt::Key_Tab);
  CHECK(editor->text().contains("body:impulse"));
  QTest::keyClicks(editor, "(");
  CHECK(editor->SendScintilla(QsciScintillaBase::SCI_CALLTIPACTIVE) == 1);
  // From the call in on.drop to the function.
  const QStringList lines = editor->text().split('\n');
  const int call = static_cast<int>(lines.indexOf("function on.drop() start_waiting() end"));
  REQUIRE(call > 0);
  editor->setCursorPosition(call, 25);
  QTest::keyClick(editor, Qt::Key_D, Qt::ControlModifier);
  int line = 0, column = 0;
  editor->getCursorPosition(&line, &column);
  CHECK(lines[line].startsWith("local function start_waiting"));
  QTest::keyClick(&w.bench, Qt::Key_F, Qt::ControlModifier);
  QTest::keyClicks(w.find<QLineEdit>("find_what"), "pending");
  QTest::keyClicks(w.find<QLineEdit>("find_with"), "waiting");
  w.click("replace_all");
  CHECK_FALSE(editor->text().contains("pending"));
}

TEST_CASE("snags are counted, gone to, and mended; actions are edited; the log is sifted") {
  Window w("mooring-bell");
  CHECK(w.bench.session().snags().empty());
  w.bench.session().edit("mistake", [](Scene& scene) { scene.find("bell")->reports = false; });
  REQUIRE(w.snag_kinds() == std::vector<std::string>{"deaf_body"});
  CHECK(w.find<QToolButton>("tab_Snags")->text() == "Snags · 1");
  w.click("tab_Snags");
  w.click("snag_mend");
  CHECK(w.bench.session().snags().empty());
  CHECK(w.bench.session().scene().find("bell")->reports);

  // In a script's text: the editor shows the mend, and typing on does not take it back.
  w.bench.session().type_script("return_to_start.lua", "function on.tuch() end\n");
  w.bench.session().check_snags();
  REQUIRE(w.snag_kinds() == std::vector<std::string>{"misspelt_handler"});
  w.click("tab_Snags");
  w.click("snag_mend");
  CHECK(w.bench.desk()->editor()->text() == "function on.touch() end\n");
  CHECK(w.bench.session().script_unsaved("return_to_start.lua"));
  CHECK(w.bench.session().snags().empty());

  w.click("tab_Inputs");
  w.click("add_action");
  auto* inputs = w.find<QTreeWidget>("inputs");
  REQUIRE(inputs->topLevelItemCount() == 1);
  inputs->topLevelItem(0)->setText(1, "w, up");
  CHECK(w.bench.session().scene().actions[0].keys == std::vector<std::string>{"w", "up"});
  inputs->topLevelItem(0)->setText(1, "hyper");
  CHECK(w.bench.session().scene().actions[0].keys == std::vector<std::string>{"w", "up"});

  w.bench.session().type_script("return_to_start.lua", "print(\"here\")");
  w.bench.save();
  w.click("play");
  REQUIRE(w.play(3));
  auto* filter = w.find<QComboBox>("log_filter");
  REQUIRE(filter->findText("bell") > 0);
  filter->setCurrentText("bell");
  auto* log = w.find<QTreeWidget>("log");
  for (int i = 0; i < log->topLevelItemCount(); ++i)
    CHECK(log->topLevelItem(i)->isHidden() == (log->topLevelItem(i)->text(1) != "bell"));
}

TEST_CASE("a new seed plays another take; a dial turned while playing counts from the next tick") {
  Window w("rope-ferry");
  w.click("play");
  REQUIRE(w.play(360));
  const Vec3 first = w.place("load");
  w.click("seed");
  REQUIRE(w.play(360));
  CHECK(w.bench.session().seed() == w.bench.session().scene().seed + 1);
  CHECK((w.place("load") - first).norm() > 1e-3);
}

TEST_CASE("the examples are listed and a click opens one") {
  Window w("mooring-bell");
  auto* sheet = w.bench.findChild<ExamplesSheet*>();
  REQUIRE(sheet);
  sheet->setGeometry(w.bench.rect().adjusted(120, 70, -120, -60));
  sheet->open();
  auto* list = w.find<QListWidget>("examples");
  CHECK(list->count() >= 16);
  QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualItemRect(list->item(1)).center());
  CHECK_FALSE(sheet->isVisible());
  CHECK(w.bench.session().scene().name == "Bell buoy");  // the second, by the names of their folders
}
