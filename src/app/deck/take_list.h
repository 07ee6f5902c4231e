// The list of takes: each with its number and name, what it is, and what was different in it.
#pragma once

#include <QListWidget>

#include "app/session/session.h"

namespace bronvel {

/// A click lays a take under the one that is looked at, a double click looks at it, the menu does all else.
class TakeList : public QListWidget {
  Q_OBJECT

 public:
  explicit TakeList(Session& session, QWidget* parent = nullptr);

 private:
  void fill();
  void show_menu(int number, const QPoint& global);
  void ask_words(int number);
  void attempt(const std::function<void()>& act);
  void contextMenuEvent(QContextMenuEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

  Session& session_;
};

}  // namespace bronvel
