// What an empty table will hold, written where its rows would be.
#pragma once

#include <QLabel>
#include <QTreeWidget>

namespace bronvel {

class EmptyNote : public QLabel {
  Q_OBJECT

 public:
  /// Lies in the table for as long as that has no rows.
  EmptyNote(QTreeWidget* table, const QString& words);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void place();

  QTreeWidget* table_;
};

}  // namespace bronvel
