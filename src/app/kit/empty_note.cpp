// Coming and going with the rows.
#include "app/kit/empty_note.h"

#include <QEvent>

#include "app/kit/theme.h"

namespace bronvel {

EmptyNote::EmptyNote(QTreeWidget* table, const QString& words) : QLabel(words, table->viewport()), table_(table) {
  setFont(theme::words(12));
  setStyleSheet("color: " + theme::faint_ink.name());
  setWordWrap(true);
  setAttribute(Qt::WA_TransparentForMouseEvents);
  const QAbstractItemModel* model = table->model();
  connect(model, &QAbstractItemModel::rowsInserted, this, &EmptyNote::place);
  connect(model, &QAbstractItemModel::rowsRemoved, this, &EmptyNote::place);
  connect(model, &QAbstractItemModel::modelReset, this, &EmptyNote::place);
  table->viewport()->installEventFilter(this);
  place();
}

void EmptyNote::place() {
  setVisible(table_->topLevelItemCount() == 0);
  constexpr int edge = 6, widest = 420;
  const int width = std::min(table_->viewport()->width() - 2 * edge, widest);
  if (width > 0) setGeometry(edge, edge, width, heightForWidth(width));
}

bool EmptyNote::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::Resize) place();
  return QLabel::eventFilter(watched, event);
}

}  // namespace bronvel
