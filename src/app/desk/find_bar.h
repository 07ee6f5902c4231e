// Finding and replacing in the script on the desk.
#pragma once

#include <QFrame>

class QLabel;
class QLineEdit;
class QsciScintilla;

namespace bronvel {

class FindBar : public QFrame {
  Q_OBJECT

 public:
  explicit FindBar(QsciScintilla* editor, QWidget* parent = nullptr);
  /// Shows itself, with the selected word to look for.
  void open();

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  bool find_next(bool forward);
  void replace_one();
  void replace_all();

  QsciScintilla* editor_;
  QLineEdit *what_ = nullptr, *with_ = nullptr;
  QLabel* count_ = nullptr;
};

}  // namespace bronvel
