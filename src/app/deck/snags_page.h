// The deck's list of snags: what will not do what one thinks, where, why, and a mend where one is safe.
#pragma once

#include <QTreeWidget>
#include <QWidget>

#include "app/session/session.h"

class QLabel;
class QToolButton;

namespace bronvel {

class SnagsPage : public QWidget {
  Q_OBJECT

 public:
  explicit SnagsPage(Session& session, QWidget* parent = nullptr);

 signals:
  void line_chosen(const std::string& script, int line);

 private:
  void show_snags();
  void show_chosen();
  void mend();

  Session& session_;
  QTreeWidget* tree_ = nullptr;
  QLabel* why_ = nullptr;
  QToolButton* mend_ = nullptr;
};

}  // namespace bronvel
