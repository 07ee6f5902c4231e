// The deck's list of input actions: their keys, and what they are at now.
#pragma once

#include <QTreeWidget>
#include <QWidget>

#include "app/session/session.h"

namespace bronvel {

class InputsPage : public QWidget {
  Q_OBJECT

 public:
  explicit InputsPage(Session& session, QWidget* parent = nullptr);

 private:
  QString asked_by(const Action& action) const;
  void rebuild();
  void show_now();
  void changed(QTreeWidgetItem* item, int column);

  Session& session_;
  QTreeWidget* tree_ = nullptr;
  bool filling_ = false;
};

}  // namespace bronvel
