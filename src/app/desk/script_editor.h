// The code editor: Lua in the bench's ink.
#pragma once

#include <Qsci/qsciscintilla.h>

#include <QString>
#include <QStringList>

namespace bronvel {

class ScriptEditor : public QsciScintilla {
  Q_OBJECT

 public:
  explicit ScriptEditor(QWidget* parent = nullptr);
  void show_text(const QString& text);
  /// Marks the line (from 1) and writes the message under it.
  void mark_fault(int line, const QString& message);
  void clear_faults();
  /// Names that this scene adds to the completion: bodies, dials, actions.
  void set_scene_words(const QStringList& words) { scene_words_ = words; }
  /// What stands under the cursor: a name such as "start_waiting" or "on.touch", or a text in quotes.
  QString word_here() const;

 signals:
  void asked_for(const QString& word);  ///< Ctrl+D, or a click with Ctrl held: where is this defined?

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;

 private:
  void after_character(int character);
  void offer(const QString& owner, const QString& begun);
  void show_tip(const QString& owner, const QString& name);

  QStringList scene_words_;
};

}  // namespace bronvel
