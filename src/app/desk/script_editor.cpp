// Colours and behaviour of the code editor.
#include "app/desk/script_editor.h"

#include <Qsci/qscilexerlua.h>
#include <Qsci/qscistyle.h>

#include <QKeyEvent>
#include <QListWidget>
#include <QMouseEvent>
#include <QRegularExpression>
#include <QScrollBar>

#include "app/kit/theme.h"
#include "lab/snags/script_text.h"
#include "script/reference/reference.h"

namespace bronvel {
namespace {
constexpr int fault_marker = 1;
constexpr int fault_style = 90;

// The editor reads fonts by points, not pixels.
QFont code_font(double points, QFont::Weight weight = QFont::Normal) {
  QFont font = theme::numbers(13, weight);
  font.setPointSizeF(points * theme::type_scale);
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
    lexer->setColor(theme::text_value, style);
  lexer->setColor(theme::chosen, QsciLexerLua::Number);
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
  setAutoIndent(false);  // `indent_line` knows more
  setBackspaceUnindents(true);
  setBraceMatching(QsciScintilla::SloppyBraceMatch);
  setMatchedBraceBackgroundColor(theme::chosen_wash);
  setMatchedBraceForegroundColor(theme::chosen);
  setUnmatchedBraceForegroundColor(theme::accent);
  setCaretLineVisible(true);
  setCaretLineBackgroundColor(theme::current_line);
  setCaretForegroundColor(theme::accent);
  setCaretWidth(2);
  setSelectionBackgroundColor(theme::chosen_wash);
  resetSelectionForegroundColor();
  setPaper(theme::sheet);
  SendScintilla(SCI_SETEXTRAASCENT, 2);
  SendScintilla(SCI_SETEXTRADESCENT, 2);
  // Long lines go on in the next row: the view never leaves the left.
  setWrapMode(QsciScintilla::WrapWord);
  setWrapIndentMode(QsciScintilla::WrapIndentDeeplyIndented);

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

  SendScintilla(SCI_AUTOCSETMAXHEIGHT, 9);
  SendScintilla(SCI_AUTOCSETORDER, SC_ORDER_PERFORMSORT);
  SendScintilla(SCI_AUTOCSETIGNORECASE, 1);
  setCallTipsBackgroundColor(theme::sheet);
  setCallTipsForegroundColor(theme::ink);
  SendScintilla(SCI_SETMOUSEDWELLTIME, 500);
  connect(this, &QsciScintillaBase::SCN_CHARADDED, this, &ScriptEditor::after_character);
  explanation_ = new QLabel(this);
  explanation_->setObjectName("explanation");
  explanation_->setFont(theme::words(11));
  explanation_->setWordWrap(true);
  explanation_->setMargin(6);
  explanation_->setStyleSheet("background: " + theme::paper.name() + "; color: " + theme::ink.name() +
                              "; border-top: 1px solid " + theme::rule.name() + ";");
  explanation_->hide();
  connect(this, &QsciScintillaBase::SCN_AUTOCCANCELLED, explanation_, &QWidget::hide);
  connect(this, &QsciScintillaBase::SCN_AUTOCCOMPLETED, explanation_, &QWidget::hide);
  // What a word means, where the mouse rests.
  connect(this, &QsciScintillaBase::SCN_DWELLSTART, this, [this](int position, int, int) {
    if (position < 0) return;
    int line = 0, column = 0;
    lineIndexFromPosition(position, &line, &column);
    static const QRegularExpression name(R"((?:(\w+)[.:])?(\w+))");
    auto matches = name.globalMatch(text(line));
    while (matches.hasNext()) {
      const auto match = matches.next();
      if (match.capturedStart(2) <= column && column <= match.capturedEnd(2))
        show_tip(match.captured(1), match.captured(2));
    }
  });
  connect(this, &QsciScintillaBase::SCN_DWELLEND, this, [this](int, int, int) { SendScintilla(SCI_CALLTIPCANCEL); });
}

namespace {

const std::vector<Completion>& known() {
  static const std::vector<Completion> all = completions();
  return all;
}

// What kind of thing a name before a dot or colon most likely is.
QString kind_of(const QString& owner) {
  for (const char* kind : {"body", "scene", "on", "vec", "turn", "zone", "joint", "timer"})
    if (owner == kind) return owner;
  if (owner == "other" || owner.endsWith("body") || owner == "copy") return "body";
  return "";
}

// Whether the word can stand after that. After a name that could be anything, what bodies and vectors have.
bool fits_after(const Completion& c, const QString& owner) {
  const QString kind = kind_of(owner), after = QString::fromStdString(c.after);
  return owner.isEmpty() ? after.isEmpty() : kind.isEmpty() ? after == "body" || after == "vec" : after == kind;
}

QString wrapped(const QString& text, int width) {
  QString all, row;
  for (const QString& word : text.split(' ')) {
    if (row.size() + word.size() > width && !row.isEmpty()) {
      all += row + "\n";
      row.clear();
    }
    row += (row.isEmpty() ? "" : " ") + word;
  }
  return all + row;
}

}  // namespace

namespace {

// Whether the end of the text is inside quotes.
bool in_quotes(const QString& text) {
  QChar open;
  for (int i = 0; i < text.size(); ++i) {
    const QChar c = text[i];
    if (c == '\\' && !open.isNull())
      ++i;
    else if (open.isNull() && (c == '"' || c == '\''))
      open = c;
    else if (c == open)
      open = QChar();
  }
  return !open.isNull();
}

}  // namespace

void ScriptEditor::indent_line(int line) {
  const std::vector<int> levels = levels_of(text().toStdString());
  if (line <= 0 || line >= static_cast<int>(levels.size())) return;
  int above = line - 1;
  while (above > 0 && text(above).trimmed().isEmpty()) --above;
  const int further = levels[static_cast<std::size_t>(line)] - levels[static_cast<std::size_t>(above)];
  const int wanted = std::max(0, indentation(above) + further * indentationWidth()), now = indentation(line);
  int row = 0, column = 0;
  getCursorPosition(&row, &column);
  if (wanted != now) setIndentation(line, wanted);
  if (row == line) setCursorPosition(line, std::max(wanted, column + wanted - now));
}

void ScriptEditor::toggle_comment() {
  if (isReadOnly()) return;
  int first = 0, from = 0, last = 0, to = 0, row = 0, column = 0;
  getCursorPosition(&row, &column);
  const bool marked = hasSelectedText();
  getSelection(&first, &from, &last, &to);
  if (!marked)
    first = last = row;
  else if (to == 0 && last > first)
    --last;  // its end is the start of a line that is not meant
  int least = 1000;
  bool all = true;
  for (int line = first; line <= last; ++line) {
    const QString words = text(line).trimmed();
    if (words.isEmpty()) continue;
    least = std::min(least, indentation(line));
    all = all && words.startsWith("--");
  }
  if (least == 1000) return;
  beginUndoAction();
  for (int line = first; line <= last; ++line) {
    const QString whole = text(line);
    if (whole.trimmed().isEmpty()) continue;
    if (all) {
      const int at = static_cast<int>(whole.indexOf("--"));
      setSelection(line, at, line, at + (whole.mid(at + 2, 1) == " " ? 3 : 2));
      removeSelectedText();
    } else {
      insertAt("-- ", line, least);
    }
  }
  endUndoAction();
  if (marked)
    setSelection(first, 0, last, static_cast<int>(text(last).size()) - (text(last).endsWith('\n') ? 1 : 0));
  else
    setCursorPosition(row, std::max(0, column + (all ? -3 : 3)));
}

void ScriptEditor::explain_offer() {
  const bool of_scene = offered_after_ == "\"" || offered_after_ == "dials";
  if (!isListActive() || of_scene) return explanation_->hide();
  const long length = SendScintilla(SCI_AUTOCGETCURRENTTEXT, 0UL, static_cast<void*>(nullptr));
  QByteArray chosen(static_cast<int>(std::max(length, 0L)) + 1, '\0');
  SendScintilla(SCI_AUTOCGETCURRENTTEXT, 0UL, static_cast<void*>(chosen.data()));
  const QString word = QString::fromUtf8(chosen.constData());
  for (const Completion& c : known()) {
    if (QString::fromStdString(c.word) != word || !fits_after(c, offered_after_)) continue;
    explanation_->setText("<b>" + QString::fromStdString(c.call).toHtmlEscaped() + "</b>  " +
                          QString::fromStdString(c.tip).toHtmlEscaped());
    place_explanation();
    explanation_->show();
    explanation_->raise();
    return;
  }
  explanation_->hide();
}

// At the foot, or at the head while one writes in the lower half: what is offered opens downward.
void ScriptEditor::place_explanation() {
  const long at = SendScintilla(SCI_GETCURRENTPOS);
  const bool low = SendScintilla(SCI_POINTYFROMPOSITION, 0UL, at) > height() / 2;
  const int tall = explanation_->heightForWidth(width());
  explanation_->setGeometry(0, low ? 0 : height() - tall, width(), tall);
}

void ScriptEditor::resizeEvent(QResizeEvent* event) {
  QsciScintilla::resizeEvent(event);
  if (explanation_) place_explanation();
}

void ScriptEditor::after_character(int character) {
  int line = 0, column = 0;
  getCursorPosition(&line, &column);
  if (character == '\n') {
    indent_line(line);
    return;
  }
  // What closes goes back to where it was opened, as soon as it is whole; with one letter more it was another word.
  static const QRegularExpression lone(R"(^\s*((end|else|elseif|until)\w?[})]*|[})]+)\s*$)");
  if (lone.match(text(line)).hasMatch()) {
    indent_line(line);
    getCursorPosition(&line, &column);
  }
  const QString before = text(line).left(column);
  if (before.contains("--")) return;
  static const QRegularExpression call(R"((?:(\w+)\s*[.:]\s*)?(\w+)\s*[({]$)");
  if (character == '(' || character == '{') {
    const auto match = call.match(before);
    if (match.hasMatch()) show_tip(match.captured(1), match.captured(2));
    return;
  }
  static const QRegularExpression owned(R"((\w+)\s*[.:](\w*)$)"), alone(R"((?:^|[^\w.:"'])(\w{2,})$)"),
      quoted(R"(["'](\w*)$)");
  if (const auto match = owned.match(before); match.hasMatch() && !match.captured(1)[0].isDigit())
    offer(match.captured(1), match.captured(2));
  else if (const auto name = quoted.match(before); name.hasMatch() && in_quotes(before))
    offer("\"", name.captured(1));
  else if (const auto word = alone.match(before); word.hasMatch())
    offer("", word.captured(1));
}

void ScriptEditor::offer(const QString& owner, const QString& begun) {
  QStringList words;
  if (owner == "\"") {
    words = scene_words_;
  } else if (owner == "dials") {
    for (const QString& word : scene_words_)
      if (word.startsWith("dials.")) words << word.mid(6);
  } else {
    for (const Completion& c : known())
      if (fits_after(c, owner)) words << QString::fromStdString(c.word);
    if (owner.isEmpty())
      words << "body"
            << "scene"
            << "function"
            << "local"
            << "return"
            << "then"
            << "else"
            << "end"
            << "math"
            << "string"
            << "table"
            << "ipairs"
            << "pairs";
  }
  words.erase(std::remove_if(words.begin(), words.end(),
                             [&](const QString& w) {
                               return w.startsWith("dials.") || !w.startsWith(begun, Qt::CaseInsensitive) || w == begun;
                             }),
              words.end());
  words.removeDuplicates();
  words.sort();
  if (words.isEmpty()) {
    SendScintilla(SCI_AUTOCCANCEL);
    return;
  }
  offered_after_ = owner;
  chosen_in_offer_ = false;
  SendScintilla(SCI_AUTOCSHOW, static_cast<unsigned long>(begun.toUtf8().size()), words.join(' ').toUtf8().constData());
  // The list is a window of its own: without this it has no paper of its own either.
  for (QListWidget* list : findChildren<QListWidget*>()) {
    list->setStyleSheet("QListWidget { background: " + theme::sheet.name() + "; color: " + theme::ink.name() +
                        "; border: 1px solid " + theme::rule.name() + "; } QListWidget::item:selected { background: " +
                        theme::chosen_wash.name() + "; color: " + theme::ink.name() + "; }");
  }
}

void ScriptEditor::show_tip(const QString& owner, const QString& name) {
  for (const Completion& c : known()) {
    if (QString::fromStdString(c.word) != name || !fits_after(c, owner)) continue;
    const QString tip = QString::fromStdString(c.call) + "\n" + wrapped(QString::fromStdString(c.tip), 62);
    const long at = SendScintilla(SCI_GETCURRENTPOS);
    SendScintilla(SCI_CALLTIPSHOW, static_cast<unsigned long>(at), tip.toUtf8().constData());
    return;
  }
}

QString ScriptEditor::word_here() const {
  int line = 0, column = 0;
  getCursorPosition(&line, &column);
  static const QRegularExpression name(R"(["']([^"']*)["']|((?:on\.)?\w+))");
  auto matches = name.globalMatch(text(line));
  while (matches.hasNext()) {
    const auto match = matches.next();
    if (match.capturedStart() <= column && column <= match.capturedEnd())
      return match.captured(1).isEmpty() ? match.captured(2) : match.captured(1);
  }
  return {};
}

void ScriptEditor::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_D && event->modifiers() == Qt::ControlModifier) {
    emit asked_for(word_here());
    return;
  }
  if (event->key() == Qt::Key_Minus && event->modifiers() == Qt::ControlModifier) return toggle_comment();
  if (event->modifiers() == Qt::AltModifier && (event->key() == Qt::Key_Up || event->key() == Qt::Key_Down)) {
    if (!isReadOnly()) SendScintilla(event->key() == Qt::Key_Up ? SCI_MOVESELECTEDLINESUP : SCI_MOVESELECTEDLINESDOWN);
    return;
  }
  // Enter takes a word only when one has gone to it; else it ends the line, as it looks.
  if (isListActive()) {
    const int key = event->key();
    if (key == Qt::Key_Up || key == Qt::Key_Down || key == Qt::Key_PageUp || key == Qt::Key_PageDown)
      chosen_in_offer_ = true;
    if ((key == Qt::Key_Return || key == Qt::Key_Enter) && !chosen_in_offer_) cancelList();
  }
  QsciScintilla::keyPressEvent(event);
  explain_offer();
}

void ScriptEditor::mouseReleaseEvent(QMouseEvent* event) {
  QsciScintilla::mouseReleaseEvent(event);
  if (event->modifiers() == Qt::ControlModifier && event->button() == Qt::LeftButton) emit asked_for(word_here());
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
  const QsciStyle style(fault_style, "fault", theme::accent, theme::notice, code_font(8.25));
  // Wrapped by hand: annotations do not wrap.
  annotate(line - 1, wrapped(message, 54), style);
}

void ScriptEditor::clear_faults() {
  markerDeleteAll(fault_marker);
  clearAnnotations();
}

}  // namespace bronvel
