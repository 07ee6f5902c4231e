// The code editor: Lua in the bench's ink.
#pragma once

#include <Qsci/qsciscintilla.h>

#include <QString>

namespace bronvel {

class ScriptEditor : public QsciScintilla {
  Q_OBJECT

 public:
  explicit ScriptEditor(QWidget* parent = nullptr);
  void show_text(const QString& text);
  /// Marks the line (from 1) and writes the message under it.
  void mark_fault(int line, const QString& message);
  void clear_faults();
};

}  // namespace bronvel
