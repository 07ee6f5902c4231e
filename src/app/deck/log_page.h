// The log: what scripts printed and what went wrong, with where.
#pragma once

#include <QWidget>

#include "app/session/session.h"

class QComboBox;
class QTreeWidget;
class QTreeWidgetItem;

namespace bronvel {

/// A double click on a line goes to the script line. A line that comes again at once is folded with a count.
class LogPage : public QWidget {
  Q_OBJECT

 public:
  explicit LogPage(Session& session, QWidget* parent = nullptr);

 signals:
  void line_chosen(const std::string& file, int line);
  void hit_asked(std::size_t event);  ///< of the take that is looked at

 private:
  void add_new(int first_new);
  void go_to_tick(const QTreeWidgetItem& item);
  void show_moment();
  void apply_filter();

  QComboBox* only_ = nullptr;

  Session& session_;
  QTreeWidget* tree_ = nullptr;
  LogLine last_;
  QTreeWidgetItem* last_item_ = nullptr;
  int repeats_ = 1;
};

}  // namespace bronvel
