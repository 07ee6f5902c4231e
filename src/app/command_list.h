// Everything that can be done, in one list: found by its words, with its key, and done from there.
#pragma once

#include <QFrame>
#include <QKeySequence>
#include <QPointer>
#include <functional>
#include <vector>

class QLineEdit;
class QTreeWidget;

namespace bronvel {

struct Command {
  QString name;  ///< "Save scene and scripts"
  QString key;   ///< as the keyboard has it; empty if there is none
  QString about;
  std::function<void()> run;
};

/// What the buttons in the window do that can be pressed now, by what they say of themselves.
std::vector<Command> commands_of_buttons(QWidget* window);

class CommandList : public QFrame {
  Q_OBJECT

 public:
  explicit CommandList(QWidget* parent = nullptr);
  /// Shows the list. What had the keys before gets them back, whatever is chosen.
  void open(std::vector<Command> commands);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void sift();
  void run_chosen();
  void close_list();

  std::vector<Command> commands_;
  QLineEdit* words_ = nullptr;
  QTreeWidget* list_ = nullptr;
  QPointer<QWidget> before_;
};

}  // namespace bronvel
