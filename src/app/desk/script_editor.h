// The code editor: Lua in the bench's ink.
#pragma once

#include <Qsci/qsciscintilla.h>

#include <QLabel>
#include <QString>
#include <QStringList>
#include <map>
#include <optional>
#include <vector>

class QPainter;

namespace bronvel {

/// What stands at the right of a line: what it did.
struct LineNote {
  QString words, tip;
  QColor colour;
  std::vector<float> spark;  ///< sizes over the take
  double head = -1;          ///< where the play head is in it, 0 to 1; below 0: nowhere
};

class ScriptEditor : public QsciScintilla {
  Q_OBJECT

 public:
  explicit ScriptEditor(QWidget* parent = nullptr);
  void show_text(const QString& text);
  /// Marks the line (from 1) and writes the message under it.
  void mark_fault(int line, const QString& message);
  void clear_faults();
  /// What lines (from 1) did, at their right.
  void show_notes(std::map<int, LineNote> notes);
  const std::map<int, LineNote>& notes() const { return notes_; }
  /// Names that this scene adds to the completion: bodies, dials, actions.
  void set_scene_words(const QStringList& words) { scene_words_ = words; }
  /// What stands under the cursor: a name such as "start_waiting" or "on.touch", or a text in quotes.
  QString word_here() const;

 signals:
  void note_clicked(int line);
  void asked_for(const QString& word);  ///< Ctrl+D, or a click with Ctrl held: where is this defined?

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void paintEvent(QPaintEvent* event) override;
  bool viewportEvent(QEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;

 private:
  void after_character(int character);
  void offer(const QString& owner, const QString& begun);
  void show_tip(const QString& owner, const QString& name);
  /// Puts the line where it belongs by what is open above it, as far from the line above as that tells.
  void indent_line(int line);
  /// Puts -- before the lines that are marked, or takes it off all of them.
  void toggle_comment();
  /// Says what the word does that one has come to among those that are offered.
  void explain_offer();
  void place_explanation();

  /// Where a line's note stands in the viewport.
  std::optional<QRect> place_of(int line) const;
  void draw_note(QPainter& painter, int line, const LineNote& note) const;

  std::map<int, LineNote> notes_;
  QStringList scene_words_;
  QString offered_after_;          // what stands before the words that are offered: "body", or ""
  bool chosen_in_offer_ = false;   // by the arrows
  QLabel* explanation_ = nullptr;  // while words are offered
};

}  // namespace bronvel
