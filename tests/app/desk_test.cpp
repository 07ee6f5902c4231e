// Writing at the desk: what indents by itself, what is offered when, and lines that are moved and left out.
#include <QLabel>
#include <QMenu>
#include <catch2/catch.hpp>

#include "app/window.h"

using namespace bronvel;

namespace {

ScriptEditor* empty_script(Window& w) {
  w.bench.session().choose("cork_1");
  w.choose_from(w.find<QToolButton>("script_picker"), "New script on cork_1");
  ScriptEditor* editor = w.bench.desk()->editor();
  editor->setFocus();
  editor->selectAll();
  QTest::keyClick(editor, Qt::Key_Delete);
  return editor;
}

// As a hand types it: nothing brings its own spaces.
void type(ScriptEditor* editor, const QString& text) {
  const QStringList lines = text.split('\n');
  for (int i = 0; i < lines.size(); ++i) {
    if (i > 0) QTest::keyClick(editor, Qt::Key_Return);
    QTest::keyClicks(editor, lines[i]);
  }
}

bool offers(ScriptEditor* editor) {
  return editor->SendScintilla(QsciScintillaBase::SCI_AUTOCACTIVE) == 1;
}

}  // namespace

TEST_CASE("what opens indents, what closes goes back to where it was opened") {
  Window w("cork-hoppers");
  ScriptEditor* editor = empty_script(w);
  type(editor,
       "function on.tick()\n"
       "if body.position.y > 1 then\n"
       "local t = {\n"
       "a = 1,\n"
       "}\n"
       "else\n"
       "for i = 1, 3 do\n"
       "after(1, function()\n"
       "endless = i\n"
       "end)\n"
       "end\n"
       "end\n"
       "end\n"
       "repeat\n"
       "x = 1\n"
       "until x");
  CHECK(editor->text().toStdString() ==
        "function on.tick()\n"
        "  if body.position.y > 1 then\n"
        "    local t = {\n"
        "      a = 1,\n"
        "    }\n"
        "  else\n"
        "    for i = 1, 3 do\n"
        "      after(1, function()\n"
        "        endless = i\n"
        "      end)\n"
        "    end\n"
        "  end\n"
        "end\n"
        "repeat\n"
        "  x = 1\n"
        "until x");
}

TEST_CASE("Enter ends the line unless one has gone to a word; a closing quote offers nothing") {
  Window w("cork-hoppers");
  ScriptEditor* editor = empty_script(w);
  type(editor, "body:imp");
  REQUIRE(offers(editor));
  auto* said = editor->findChild<QLabel*>("explanation");
  REQUIRE(said);
  CHECK(said->isVisible());
  CHECK(said->text().contains("impulse"));
  QTest::keyClick(editor, Qt::Key_Return);
  CHECK(editor->text() == "body:imp\n");
  CHECK_FALSE(offers(editor));
  CHECK_FALSE(said->isVisible());
  type(editor, "body:imp");
  QTest::keyClick(editor, Qt::Key_Down);
  QTest::keyClick(editor, Qt::Key_Return);
  CHECK(editor->text().startsWith("body:imp\nbody:impulse"));

  editor->selectAll();
  QTest::keyClick(editor, Qt::Key_Delete);
  type(editor, "local c = scene:find(\"");
  CHECK(offers(editor));
  QTest::keyClicks(editor, "cork_2\"");
  CHECK_FALSE(offers(editor));
  QTest::keyClicks(editor, ")");
  CHECK_FALSE(offers(editor));
  QTest::keyClick(editor, Qt::Key_Return);
  CHECK(editor->text() == "local c = scene:find(\"cork_2\")\n");
}

TEST_CASE("lines are left out and let in again, moved, indented; each is one step back") {
  Window w("cork-hoppers");
  ScriptEditor* editor = empty_script(w);
  const QString text = "function on.tick()\n  local a = 1\n\n  local b = 2\nend\n";
  editor->setText(text);
  editor->setSelection(1, 0, 4, 0);
  QTest::keyClick(editor, Qt::Key_Minus, Qt::ControlModifier);
  CHECK(editor->text() == "function on.tick()\n  -- local a = 1\n\n  -- local b = 2\nend\n");
  QTest::keyClick(editor, Qt::Key_Minus, Qt::ControlModifier);
  CHECK(editor->text() == text);
  editor->setCursorPosition(3, 4);
  QTest::keyClick(editor, Qt::Key_Minus, Qt::ControlModifier);
  CHECK(editor->text(3) == "  -- local b = 2\n");
  editor->undo();
  CHECK(editor->text() == text);
  editor->setCursorPosition(3, 4);
  QTest::keyClick(editor, Qt::Key_Up, Qt::AltModifier);
  QTest::keyClick(editor, Qt::Key_Up, Qt::AltModifier);
  CHECK(editor->text() == "function on.tick()\n  local b = 2\n  local a = 1\n\nend\n");
  QTest::keyClick(editor, Qt::Key_Down, Qt::AltModifier);
  CHECK(editor->text() == "function on.tick()\n  local a = 1\n  local b = 2\n\nend\n");
  editor->setSelection(1, 0, 3, 0);
  QTest::keyClick(editor, Qt::Key_Tab);
  CHECK(editor->text() == "function on.tick()\n    local a = 1\n    local b = 2\n\nend\n");
  QTest::keyClick(editor, Qt::Key_Backtab);
  CHECK(editor->text() == "function on.tick()\n  local a = 1\n  local b = 2\n\nend\n");
}

TEST_CASE("a long line goes on in the next row: the view stays at the left") {
  Window w("cork-hoppers");
  ScriptEditor* editor = empty_script(w);
  type(editor, "local words = " + QString("one .. ").repeated(40));
  CHECK(editor->SendScintilla(QsciScintillaBase::SCI_GETXOFFSET) == 0);
  CHECK(editor->SendScintilla(QsciScintillaBase::SCI_WRAPCOUNT, 0UL) > 3);
}
