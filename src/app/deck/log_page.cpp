// Filling the log.
#include "app/deck/log_page.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include "app/kit/deck_table.h"
#include "lab/takes/hit.h"

namespace bronvel {

LogPage::LogPage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 4, 6, 4);
  tree_ = new QTreeWidget(this);
  tree_->setObjectName("log");
  tree_->setColumnCount(4);
  tree_->setHeaderLabels({"tick", "body", "where", "what"});
  style_deck_table(tree_);
  tree_->headerItem()->setTextAlignment(0, Qt::AlignRight | Qt::AlignVCenter);
  tree_->setColumnWidth(0, 70);
  tree_->setColumnWidth(1, 130);
  tree_->setColumnWidth(2, 130);
  tree_->setToolTip("a click goes to the moment in the take, a double click to the script's line");
  auto* filter = new QHBoxLayout;
  filter->addWidget(theme::label(theme::words(11), theme::faint_ink, this, "of"));
  only_ = new QComboBox(this);
  only_->setObjectName("log_filter");
  only_->setFont(theme::words(12));
  only_->setToolTip("lines of one body only");
  only_->addItem("all bodies");
  filter->addWidget(only_);
  filter->addStretch(1);
  column->addLayout(filter);
  column->addWidget(tree_);
  connect(only_, &QComboBox::currentIndexChanged, this, &LogPage::apply_filter);
  connect(&session_, &Session::opened, this, [this] { only_->setCurrentIndex(0); });
  connect(&session_, &Session::log_added, this, &LogPage::add_new);
  connect(tree_, &QTreeWidget::itemClicked, this, [this](QTreeWidgetItem* item) { go_to_tick(*item); });
  connect(&session_, &Session::head_moved, this, &LogPage::show_moment);
  connect(tree_, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
    emit line_chosen(item->data(0, Qt::UserRole).toString().toStdString(), item->data(1, Qt::UserRole).toInt());
  });
}

void LogPage::add_new(int first_new) {
  const auto& log = session_.log_lines();
  if (log.empty()) {
    tree_->clear();
    last_item_ = nullptr;
    while (only_->count() > 1) only_->removeItem(1);
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
    const QString body = QString::fromStdString(line.body);
    if (!body.isEmpty() && only_->findText(body) < 0 && only_->count() < 500) only_->addItem(body);
    last_item_->setHidden(only_->currentIndex() > 0 && body != only_->currentText());
  }
  while (tree_->topLevelItemCount() > 5000) delete tree_->takeTopLevelItem(0);
  tree_->scrollToBottom();
}

// A line of the take that is looked at: the bench goes to its tick, and to the hit that it tells of, if it does.
void LogPage::go_to_tick(const QTreeWidgetItem& item) {
  std::optional<std::int64_t> tick;
  std::optional<std::size_t> hit;
  session_.with_take([&](const Take& take, TakeReader&) {
    const QString text = item.toolTip(3);
    for (const LogLine& line : take.log) {
      if (QString::number(line.tick) != item.text(0) || QString::fromStdString(line.text) != text) continue;
      tick = line.tick;
      // What a handler of a touch printed belongs to that hit.
      hit = touch_at(take, line.body, line.tick);
      if (hit && take.events[*hit].tick != line.tick) hit.reset();
    }
  });
  if (hit)
    emit hit_asked(*hit);
  else if (tick)
    session_.look_at_tick(*tick);
}

// The last line that was there at the moment that is looked at.
void LogPage::show_moment() {
  const auto head = session_.head();
  if (!head) {
    tree_->setCurrentItem(nullptr);
    return;
  }
  for (int i = tree_->topLevelItemCount() - 1; i >= 0; --i) {
    QTreeWidgetItem* item = tree_->topLevelItem(i);
    if (item->text(0).toLongLong() > *head || item->isHidden()) continue;
    tree_->setCurrentItem(item);
    return;
  }
}

void LogPage::apply_filter() {
  for (int i = 0; i < tree_->topLevelItemCount(); ++i)
    tree_->topLevelItem(i)->setHidden(only_->currentIndex() > 0 &&
                                      tree_->topLevelItem(i)->text(1) != only_->currentText());
}

}  // namespace bronvel
