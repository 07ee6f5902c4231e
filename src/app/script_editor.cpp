// Colours and behaviour of the code editor.
#include "app/script_editor.h"

#include <Qsci/qscilexerlua.h>
#include <Qsci/qscistyle.h>

#include <QScrollBar>

#include "app/theme.h"

namespace bronvel {
namespace {
constexpr int fault_marker = 1;
constexpr int fault_style = 90;

// The editor reads fonts by points, not pixels.
QFont code_font(double points, QFont::Weight weight = QFont::Normal) {
  QFont font = theme::numbers(13, weight);
  font.setPointSizeF(points);
  return font;
}
}  // namespace

ScriptEditor::ScriptEditor(QWidget* parent) : QsciScintilla(parent) {
  setObjectName("editor");
  const QFont code = code_font(9);
  auto* lexer = new QsciLexerLua(this);
  lexer->setDefaultFont(code);
  lexer->setFont(code);
  lexer->setDefaultPaper(theme::sheet);
  lexer->setPaper(theme::sheet);
  lexer->setDefaultColor(theme::ink);
  lexer->setColor(theme::ink);
  for (const int style : {QsciLexerLua::Comment, QsciLexerLua::LineComment}) lexer->setColor(theme::faint_ink, style);
  for (const int style : {QsciLexerLua::String, QsciLexerLua::Character, QsciLexerLua::LiteralString})
    lexer->setColor(QColor(0x8A, 0x5A, 0x14), style);
  lexer->setColor(QColor(0x0E, 0x6E, 0x74), QsciLexerLua::Number);
  lexer->setColor(theme::ink, QsciLexerLua::Keyword);
  lexer->setFont(code_font(9, QFont::Bold), QsciLexerLua::Keyword);
  for (const int style : {QsciLexerLua::BasicFunctions, QsciLexerLua::StringTableMathsFunctions,
                          QsciLexerLua::CoroutinesIOSystemFacilities})
    lexer->setColor(theme::ink, style);
  setLexer(lexer);

  setFrameShape(QFrame::NoFrame);
  setUtf8(true);
  setEolMode(QsciScintilla::EolUnix);
  setIndentationsUseTabs(false);
  setTabWidth(2);
  setIndentationWidth(2);
  setAutoIndent(true);
  setBackspaceUnindents(true);
  setBraceMatching(QsciScintilla::SloppyBraceMatch);
  setMatchedBraceBackgroundColor(theme::chosen_wash);
  setMatchedBraceForegroundColor(theme::chosen);
  setUnmatchedBraceForegroundColor(theme::accent);
  setCaretLineVisible(true);
  setCaretLineBackgroundColor(QColor(0xF6, 0xEE, 0xDE));
  setCaretForegroundColor(theme::accent);
  setCaretWidth(2);
  setSelectionBackgroundColor(theme::chosen_wash);
  resetSelectionForegroundColor();
  setPaper(theme::sheet);
  SendScintilla(SCI_SETEXTRAASCENT, 2);
  SendScintilla(SCI_SETEXTRADESCENT, 2);
  SendScintilla(SCI_SETSCROLLWIDTHTRACKING, 1);
  SendScintilla(SCI_SETSCROLLWIDTH, 1);

  setMarginType(0, QsciScintilla::NumberMargin);
  setMarginWidth(0, 38);
  setMarginsFont(code_font(8.25));
  setMarginsBackgroundColor(theme::sheet);
  setMarginsForegroundColor(theme::faint_ink);
  setMarginWidth(1, 8);
  setMarginType(1, QsciScintilla::SymbolMargin);
  setMarginBackgroundColor(1, theme::sheet);
  setMarginWidth(2, 0);
  markerDefine(QsciScintilla::FullRectangle, fault_marker);
  setMarkerBackgroundColor(theme::accent, fault_marker);
  setMarginMarkerMask(1, 1 << fault_marker);
  setAnnotationDisplay(QsciScintilla::AnnotationIndented);
}

void ScriptEditor::show_text(const QString& shown) {
  if (text() == shown) return;
  setText(shown);
  clear_faults();
  verticalScrollBar()->setValue(0);
}

void ScriptEditor::mark_fault(int line, const QString& message) {
  if (line < 1 || line > lines()) return;
  markerAdd(line - 1, fault_marker);
  const QsciStyle style(fault_style, "fault", theme::accent, QColor(0xFA, 0xE9, 0xE2), code_font(8.25));
  // Wrapped by hand: annotations do not wrap.
  QString wrapped, row;
  for (const QString& word : message.split(' ')) {
    if (row.size() + word.size() > 54 && !row.isEmpty()) {
      wrapped += row + "\n";
      row.clear();
    }
    row += (row.isEmpty() ? "" : " ") + word;
  }
  annotate(line - 1, wrapped + row, style);
}

void ScriptEditor::clear_faults() {
  markerDeleteAll(fault_marker);
  clearAnnotations();
}

}  // namespace bronvel
