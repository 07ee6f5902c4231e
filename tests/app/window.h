// The window on a copy of an example, driven by mouse and keyboard.
#pragma once

#include <QLineEdit>
#include <QMenu>
#include <QTemporaryDir>
#include <QToolButton>
#include <catch2/catch.hpp>
#include <filesystem>

#include "app/stage/shelf.h"
#include "app/window_driver.h"
#include "folders.h"

namespace bronvel {

struct Window {
  /// With an empty scene.
  Window() : Window("") {}
  explicit Window(const std::string& example) {
    if (example.empty()) {
      bench.open_new();
      bench.session().undo();  // the floor: what is built here stands on its own
      show();
      return;
    }
    const std::string scene = copy.path().toStdString() + "/" + example;
    std::filesystem::copy(in_checkout("/examples/") + example, scene, std::filesystem::copy_options::recursive);
    REQUIRE(bench.open(QString::fromStdString(scene)));
    show();
  }
  void show() {
    bench.show();
    QApplication::setActiveWindow(&bench);
    REQUIRE(QTest::qWaitForWindowExposed(&bench));
    REQUIRE(wait_until([&] { return bench.stage()->frames_drawn() > 0; }));
  }

  template <class T>
  T* find(const QString& name) {
    T* found = bench.findChild<T*>(name);
    REQUIRE(found);
    return found;
  }
  /// Drags something from the shelf to a place on the stage.
  void drop(const std::string& label, const QPoint& at) {
    Shelf* shelf = bench.shelf();
    const QPoint from = shelf->place_of(label), to = shelf->mapFromGlobal(bench.stage()->mapToGlobal(at));
    QTest::mousePress(shelf, Qt::LeftButton, {}, from);
    QTest::mouseMove(shelf, (from + to) / 2);
    QTest::mouseMove(shelf, to);
    QTest::mouseRelease(shelf, Qt::LeftButton, {}, to);
  }
  /// A drag on the stage.
  void drag(const QPoint& from, const QPoint& to, Qt::KeyboardModifiers keys = {}) {
    QTest::mousePress(bench.stage(), Qt::LeftButton, keys, from);
    QTest::mouseMove(bench.stage(), (2 * from + to) / 3);
    QTest::mouseMove(bench.stage(), to);
    QTest::mouseRelease(bench.stage(), Qt::LeftButton, keys, to);
  }
  void stage_click(const QPoint& at, Qt::KeyboardModifiers keys = {}) {
    QTest::mouseClick(bench.stage(), Qt::LeftButton, keys, at);
  }
  QPoint pixel(const Vec3& point) { return bench.stage()->pixel_of_point(point).toPoint(); }
  void type_number(const QString& field, const QString& text) {
    auto* edit = find<QLineEdit>(field);
    edit->setFocus();
    edit->selectAll();
    QTest::keyClicks(edit, text);
    QTest::keyClick(edit, Qt::Key_Return);
  }
  void click(const QString& name) { QTest::mouseClick(find<QWidget>(name), Qt::LeftButton); }
  // Chooses from a menu that opens at a button, by the words an entry begins with.
  void choose_from(QToolButton* button, const QString& words) {
    QMenu* menu = button->menu();
    emit menu->aboutToShow();
    for (QAction* action : menu->actions())
      if (action->text().startsWith(words)) {
        action->trigger();
        return;
      }
    FAIL("no such entry: " + words.toStdString());
  }
  void type_script(const QString& text) {
    ScriptEditor* editor = bench.desk()->editor();
    editor->setFocus();
    editor->selectAll();
    QTest::keyClick(editor, Qt::Key_Delete);
    for (const QString& line : text.split('\n')) {
      QTest::keyClicks(editor, line);
      editor->SendScintilla(QsciScintillaBase::SCI_AUTOCCANCEL);
      QTest::keyClick(editor, Qt::Key_Return);
      // The editor indents by itself; what is typed here brings its own.
      int row = 0, column = 0;
      editor->getCursorPosition(&row, &column);
      if (column > 0) {
        editor->setSelection(row, 0, row, column);
        editor->removeSelectedText();
      }
    }
  }
  void press_key(int key) { QTest::keyPress(bench.stage(), static_cast<Qt::Key>(key)); }
  void release_key(int key) { QTest::keyRelease(bench.stage(), static_cast<Qt::Key>(key)); }
  Vec3 place(const std::string& body) {
    for (const BodyView& view : bench.session().bodies())
      if (view.name == body) return view.pose.position;
    FAIL("no body " + body);
    return {};
  }
  bool play(std::int64_t ticks) { return play_ticks(bench, hand, ticks); }
  std::string log() {
    std::string all;
    for (const LogLine& line : bench.session().log_lines()) all += line.whole() + "\n";
    return all;
  }
  std::vector<std::string> snag_kinds() {
    std::vector<std::string> kinds;
    for (const Snag& snag : bench.session().snags()) kinds.push_back(snag.kind);
    return kinds;
  }
  ~Window() {
    bench.session().stop();
    bench.session().drop_pending();
  }

  QTemporaryDir copy;
  HandClock hand;
  Bench bench{hand.clock()};
};

}  // namespace bronvel
