// Sifting and doing.
#include "app/command_list.h"

#include <QAbstractButton>
#include <QApplication>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QToolButton>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "app/kit/theme.h"

namespace bronvel {

namespace {

// What a menu offers now, with those in it.
void add_menu(QMenu* menu, const QString& under, std::vector<Command>& commands) {
  emit menu->aboutToShow();  // many are filled only then
  for (QAction* action : menu->actions()) {
    if (action->isSeparator() || !action->isEnabled()) continue;
    const QString name = under + action->text().section('\t', 0, 0);
    if (action->menu()) {
      add_menu(action->menu(), name + ": ", commands);
      continue;
    }
    const QString about = action->toolTip() == action->text() ? QString() : action->toolTip().section('\n', 0, 0);
    QPointer<QAction> held = action;
    commands.push_back({name, action->text().section('\t', 1), about, [held] {
                          if (held) held->trigger();
                        }});
  }
}

}  // namespace

std::vector<Command> commands_of_buttons(QWidget* window) {
  std::vector<Command> commands;
  for (auto* button : window->findChildren<QToolButton*>())
    if (button->menu() && button->isEnabled() && button->isVisible()) add_menu(button->menu(), "", commands);
  for (QAbstractButton* button : window->findChildren<QAbstractButton*>()) {
    if (!button->isEnabled() || !button->isVisible() || button->toolTip().isEmpty()) continue;
    if (button->toolTip().startsWith("close")) continue;
    if (const auto* tool = qobject_cast<QToolButton*>(button); tool && tool->menu()) continue;
    const QString word = button->text().size() > 1 ? button->text() : button->accessibleName();
    const QString about = button->toolTip().section('\n', 0, 0);
    if (word.isEmpty()) continue;
    QPointer<QAbstractButton> held = button;
    commands.push_back(
        {word.left(1).toUpper() + word.mid(1), button->shortcut().toString(QKeySequence::NativeText), about, [held] {
           if (held) held->click();
         }});
  }
  return commands;
}

CommandList::CommandList(QWidget* parent) : QFrame(parent) {
  setObjectName("command_list");
  setStyleSheet("#command_list { background: " + theme::sheet.name() + "; border: 1px solid " + theme::ink.name() +
                "; border-radius: 10px; } QTreeWidget { background: transparent; border: none; } "
                "QTreeWidget::item { padding: 3px 4px; } QTreeWidget::item:selected { background: " +
                theme::chosen_wash.name() + "; color: " + theme::ink.name() + "; }");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 12, 14, 12);
  words_ = new QLineEdit(this);
  words_->setObjectName("command_words");
  words_->setFont(theme::words(14));
  words_->setPlaceholderText("what do you want to do?");
  words_->setAccessibleName("what to do");
  words_->installEventFilter(this);
  connect(words_, &QLineEdit::textChanged, this, &CommandList::sift);
  column->addWidget(words_);
  list_ = new QTreeWidget(this);
  list_->setObjectName("commands");
  list_->setColumnCount(3);
  list_->setHeaderHidden(true);
  list_->setRootIsDecorated(false);
  list_->setUniformRowHeights(true);
  list_->setFont(theme::words(12));
  list_->setFocusPolicy(Qt::NoFocus);
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->header()->setStretchLastSection(false);
  list_->header()->setSectionResizeMode(0, QHeaderView::ResizeToContents);
  list_->header()->setSectionResizeMode(1, QHeaderView::Stretch);
  list_->header()->setSectionResizeMode(2, QHeaderView::ResizeToContents);
  connect(list_, &QTreeWidget::itemClicked, this, &CommandList::run_chosen);
  column->addWidget(list_, 1);
  hide();
}

void CommandList::open(std::vector<Command> commands) {
  commands_ = std::move(commands);
  if (!isVisible()) before_ = QApplication::focusWidget();
  words_->clear();
  sift();
  show();
  raise();
  words_->setFocus();
}

// Each word that was typed must be in the name or in what it does; those with all of them in the name come first.
void CommandList::sift() {
  const QStringList wanted = words_->text().split(' ', Qt::SkipEmptyParts);
  const auto has_all = [&](const QString& text) {
    return std::all_of(wanted.begin(), wanted.end(),
                       [&](const QString& word) { return text.contains(word, Qt::CaseInsensitive); });
  };
  list_->clear();
  for (const bool by_name : {true, false})
    for (std::size_t i = 0; i < commands_.size(); ++i) {
      const Command& command = commands_[i];
      const bool named = has_all(command.name);
      if (by_name ? !named : named || !has_all(command.name + " " + command.about)) continue;
      auto* item = new QTreeWidgetItem(list_, {command.name, command.about, command.key});
      item->setData(0, Qt::UserRole, static_cast<int>(i));
      item->setFont(0, theme::words(12, QFont::DemiBold));
      item->setForeground(1, theme::faint_ink);
      item->setFont(2, theme::numbers(11));
      item->setToolTip(1, command.about);
    }
  if (list_->topLevelItemCount() > 0) list_->setCurrentItem(list_->topLevelItem(0));
}

void CommandList::run_chosen() {
  const QTreeWidgetItem* item = list_->currentItem();
  if (!item) return;
  const std::function<void()> run = commands_[static_cast<std::size_t>(item->data(0, Qt::UserRole).toInt())].run;
  close_list();
  run();
}

void CommandList::close_list() {
  hide();
  if (before_) before_->setFocus();
}

bool CommandList::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::FocusOut && isVisible()) hide();
  if (event->type() != QEvent::KeyPress) return QFrame::eventFilter(watched, event);
  const auto* key = static_cast<QKeyEvent*>(event);
  const int row = list_->indexOfTopLevelItem(list_->currentItem());
  const auto go = [&](int to) {
    if (list_->topLevelItemCount() > 0)
      list_->setCurrentItem(list_->topLevelItem(std::clamp(to, 0, list_->topLevelItemCount() - 1)));
  };
  constexpr int page = 10;
  switch (key->key()) {
    case Qt::Key_Escape:
      close_list();
      return true;
    case Qt::Key_Return:
    case Qt::Key_Enter:
      run_chosen();
      return true;
    case Qt::Key_Up:
      go(row - 1);
      return true;
    case Qt::Key_Down:
      go(row + 1);
      return true;
    case Qt::Key_PageUp:
      go(row - page);
      return true;
    case Qt::Key_PageDown:
      go(row + page);
      return true;
    default:
      return false;
  }
}

}  // namespace bronvel
