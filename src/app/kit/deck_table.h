// How tables in the deck look.
#pragma once

#include <QHeaderView>
#include <QToolButton>
#include <QTreeWidget>

#include "app/kit/theme.h"

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

/// Widens columns whose title would be cut.
inline void fit_titles(QTreeWidget* tree) {
  constexpr int room = 12;
  const QFontMetrics metrics(tree->header()->font());
  for (int i = 0; i < tree->columnCount(); ++i)
    tree->setColumnWidth(i,
                         std::max(tree->columnWidth(i), metrics.horizontalAdvance(tree->headerItem()->text(i)) + room));
}

/// A button beside a table, with an edge that says it can be pressed.
inline void style_deck_button(QWidget* button) {
  button->setFont(theme::words(12, QFont::Medium));
  button->setStyleSheet(
      "QToolButton { background: " + theme::sheet.name() + "; border: 1px solid " + theme::rule.name() +
      "; border-radius: 6px; padding: 3px 10px; } QToolButton:hover { border-color: " + theme::chosen.name() +
      "; color: " + theme::chosen.name() + "; }");
}

/// One that does something when it is pressed.
template <class Parent, class Act>
QToolButton* deck_button(Parent* parent, const QString& name, const QString& text, const QString& tip, const Act& act) {
  auto* made = new QToolButton(parent);
  made->setObjectName(name);
  made->setText(text);
  made->setToolTip(tip);
  style_deck_button(made);
  QObject::connect(made, &QToolButton::clicked, parent, act);
  return made;
}

}  // namespace bronvel
