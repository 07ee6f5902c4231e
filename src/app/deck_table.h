// How tables in the deck look.
#pragma once

#include <QHeaderView>
#include <QTreeWidget>

#include "app/theme.h"

namespace bronvel {

inline void style_deck_table(QTreeWidget* tree) {
  tree->setRootIsDecorated(false);
  tree->setUniformRowHeights(true);
  tree->setFont(theme::numbers(12));
  tree->setFrameShape(QFrame::NoFrame);
  tree->header()->setFont(theme::words(11));
  tree->header()->setStretchLastSection(true);
  tree->header()->setStyleSheet(
      "QHeaderView { background: transparent; } QHeaderView::section { background: "
      "transparent; border: none; border-bottom: 1px solid " +
      theme::rule.name() + "; color: " + theme::faint_ink.name() + "; padding: 3px 4px; }");
  tree->setStyleSheet(
      "QTreeWidget { background: transparent; } QTreeWidget::item { padding: 1px 4px; } "
      "QTreeWidget::item:selected { background: " +
      theme::chosen_wash.name() + "; color: " + theme::ink.name() + "; }");
}

}  // namespace bronvel
