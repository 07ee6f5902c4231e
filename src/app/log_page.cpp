// Filling the log.
#include "app/log_page.h"

#include <QHeaderView>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "app/theme.h"

namespace bronvel {

LogPage::LogPage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 4, 6, 4);
  tree_ = new QTreeWidget(this);
  tree_->setObjectName("log");
  tree_->setColumnCount(4);
  tree_->setHeaderLabels({"tick", "body", "where", "what"});
  tree_->setRootIsDecorated(false);
  tree_->setUniformRowHeights(true);
  tree_->setFont(theme::numbers(12));
  tree_->setFrameShape(QFrame::NoFrame);
  tree_->header()->setFont(theme::words(11));
  tree_->header()->setStretchLastSection(true);
  tree_->header()->setStyleSheet(
      "QHeaderView { background: transparent; } QHeaderView::section { background: "
      "transparent; border: none; border-bottom: 1px solid " +
      theme::rule.name() + "; color: " + theme::faint_ink.name() + "; padding: 3px 4px; }");
  tree_->setStyleSheet(
      "QTreeWidget { background: transparent; } QTreeWidget::item { padding: 1px 4px; } "
      "QTreeWidget::item:selected { background: " +
      theme::chosen_wash.name() + "; color: " + theme::ink.name() + "; }");
  tree_->headerItem()->setTextAlignment(0, Qt::AlignRight | Qt::AlignVCenter);
  tree_->setColumnWidth(0, 70);
  tree_->setColumnWidth(1, 130);
  tree_->setColumnWidth(2, 130);
  tree_->setToolTip("double click goes to the line");
  column->addWidget(tree_);
  connect(&session_, &Session::log_added, this, &LogPage::add_new);
  connect(tree_, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
    emit line_chosen(item->data(0, Qt::UserRole).toString().toStdString(), item->data(1, Qt::UserRole).toInt());
  });
}

void LogPage::add_new(int first_new) {
  const auto& log = session_.log_lines();
  if (log.empty()) {
    tree_->clear();
    last_item_ = nullptr;
    return;
  }
  for (std::size_t i = static_cast<std::size_t>(first_new); i < log.size(); ++i) {
    const LogLine& line = log[i];
    const bool again = last_item_ && line.text == last_.text && line.body == last_.body &&
                       line.script == last_.script && line.line == last_.line && line.level == last_.level;
    const QString text = QString::fromStdString(line.text);
    last_ = line;
    if (again) {
      last_item_->setText(0, QString::number(line.tick));
      last_item_->setText(3, QString("%1   ×%2").arg(text).arg(++repeats_));
      continue;
    }
    repeats_ = 1;
    const QString where =
        line.script.empty() ? "" : QString("%1:%2").arg(QString::fromStdString(line.script)).arg(line.line);
    last_item_ =
        new QTreeWidgetItem(tree_, {QString::number(line.tick), QString::fromStdString(line.body), where, text});
    last_item_->setData(0, Qt::UserRole, QString::fromStdString(line.script));
    last_item_->setData(1, Qt::UserRole, line.line);
    last_item_->setTextAlignment(0, Qt::AlignRight);
    for (int column = 0; column < 3; ++column) last_item_->setForeground(column, theme::faint_ink);
    if (line.script.empty() && line.level == LogLevel::print) last_item_->setForeground(3, theme::faint_ink);
    if (line.level != LogLevel::print)
      last_item_->setForeground(3, line.level == LogLevel::error ? theme::accent : theme::compared);
    last_item_->setToolTip(3, text);
  }
  while (tree_->topLevelItemCount() > 5000) delete tree_->takeTopLevelItem(0);
  tree_->scrollToBottom();
}

}  // namespace bronvel
