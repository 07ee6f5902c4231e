// Filling the list of snags.
#include "app/deck/snags_page.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/kit/deck_table.h"

namespace bronvel {

SnagsPage::SnagsPage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(12, 4, 14, 6);
  row->setSpacing(14);
  tree_ = new QTreeWidget(this);
  tree_->setObjectName("snags");
  tree_->setColumnCount(3);
  tree_->setHeaderLabels({"body", "where", "what"});
  style_deck_table(tree_);
  tree_->setColumnWidth(0, 120);
  tree_->setColumnWidth(1, 150);
  tree_->setToolTip("double click goes to the line");
  row->addWidget(tree_, 1);
  auto* side = new QVBoxLayout;
  auto* title = theme::label(theme::words(11, QFont::DemiBold), theme::chosen, this, "Why it matters");
  side->addWidget(title);
  why_ = theme::label(theme::words(12), theme::ink, this);
  why_->setObjectName("snag_why");
  why_->setWordWrap(true);
  why_->setFixedWidth(300);
  why_->setAlignment(Qt::AlignTop);
  side->addWidget(why_, 1);
  mend_ = new QToolButton(this);
  mend_->setObjectName("snag_mend");
  style_deck_button(mend_);
  mend_->setToolTip("makes this change; in the scene it can be undone, in a script it counts from the next save");
  side->addWidget(mend_);
  row->addLayout(side);
  connect(&session_, &Session::snags_changed, this, &SnagsPage::show_snags);
  connect(tree_, &QTreeWidget::currentItemChanged, this, &SnagsPage::show_chosen);
  connect(tree_, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
    const auto at = static_cast<std::size_t>(item->data(0, Qt::UserRole).toInt());
    if (at >= session_.snags().size()) return;
    const Snag& snag = session_.snags()[at];
    if (!snag.body.empty()) session_.choose(snag.body);
    if (!snag.script.empty()) emit line_chosen(snag.script, snag.line);
  });
  connect(mend_, &QToolButton::clicked, this, &SnagsPage::mend);
  show_snags();
}

void SnagsPage::show_snags() {
  tree_->clear();
  const auto& snags = session_.snags();
  for (std::size_t i = 0; i < snags.size(); ++i) {
    const Snag& snag = snags[i];
    const QString where =
        snag.script.empty() ? QString() : QString("%1:%2").arg(QString::fromStdString(snag.script)).arg(snag.line);
    auto* item =
        new QTreeWidgetItem(tree_, {QString::fromStdString(snag.body), where, QString::fromStdString(snag.what)});
    item->setData(0, Qt::UserRole, static_cast<int>(i));
    item->setToolTip(2, QString::fromStdString(snag.what));
    for (int column = 0; column < 2; ++column) item->setForeground(column, theme::faint_ink);
  }
  if (!snags.empty()) tree_->setCurrentItem(tree_->topLevelItem(0));
  show_chosen();
}

void SnagsPage::show_chosen() {
  const QTreeWidgetItem* item = tree_->currentItem();
  const auto at = item ? static_cast<std::size_t>(item->data(0, Qt::UserRole).toInt()) : session_.snags().size();
  if (at >= session_.snags().size()) {
    why_->setText(
        "No snags: nothing here is known to do something other than it says. More are looked for while it plays.");
    mend_->hide();
    return;
  }
  const Snag& snag = session_.snags()[at];
  why_->setText(QString::fromStdString(snag.why));
  mend_->setText(QString::fromStdString("Mend: " + snag.mend));
  mend_->setVisible(!snag.mend.empty());
}

void SnagsPage::mend() {
  const QTreeWidgetItem* item = tree_->currentItem();
  if (item) session_.mend(static_cast<std::size_t>(item->data(0, Qt::UserRole).toInt()));
}

}  // namespace bronvel
