// The bar under the editor.
#include "app/desk/find_bar.h"

#include <Qsci/qsciscintilla.h>

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QToolButton>

#include "app/kit/theme.h"

namespace bronvel {

FindBar::FindBar(QsciScintilla* editor, QWidget* parent) : QFrame(parent), editor_(editor) {
  setObjectName("find_bar");
  setStyleSheet("#find_bar { border-top: 1px solid " + theme::rule.name() + "; }");
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(12, 3, 8, 3);
  row->setSpacing(5);
  const auto field = [&](const QString& name, const QString& hint) {
    auto* edit = new QLineEdit(this);
    edit->setObjectName(name);
    edit->setPlaceholderText(hint);
    edit->setFont(theme::numbers(12));
    edit->setMinimumWidth(60);
    row->addWidget(edit, 1);
    return edit;
  };
  const auto button = [&](const QString& name, const QString& text, const QString& tip, auto act) {
    auto* made = new QToolButton(this);
    made->setObjectName(name);
    made->setText(text);
    made->setFont(theme::words(11));
    made->setToolTip(tip);
    connect(made, &QToolButton::clicked, this, act);
    row->addWidget(made);
  };
  what_ = field("find_what", "find");
  count_ = theme::label(theme::numbers(11), theme::faint_ink, this);
  row->addWidget(count_);
  button("find_next", "next", "the next one (Enter)", [this] { find_next(true); });
  with_ = field("find_with", "put in its place");
  button("replace_one", "one", "replaces this one and goes on", [this] { replace_one(); });
  button("replace_all", "all", "replaces every one in this script", [this] { replace_all(); });
  button("find_close", "✕", "close (Esc)", [this] { hide(); });
  connect(what_, &QLineEdit::returnPressed, this, [this] { find_next(true); });
  connect(with_, &QLineEdit::returnPressed, this, [this] { replace_one(); });
  connect(what_, &QLineEdit::textChanged, this, [this](const QString& text) {
    const auto found = text.isEmpty() ? 0 : editor_->text().count(text, Qt::CaseSensitive);
    count_->setText(text.isEmpty() ? "" : QString::number(found));
  });
  hide();
}

void FindBar::open() {
  if (editor_->hasSelectedText() && !editor_->selectedText().contains('\n')) what_->setText(editor_->selectedText());
  show();
  what_->setFocus();
  what_->selectAll();
}

bool FindBar::find_next(bool forward) {
  constexpr bool as_pattern = false, heeds_case = true, whole_words = false, wraps = true;
  return !what_->text().isEmpty() &&
         editor_->findFirst(what_->text(), as_pattern, heeds_case, whole_words, wraps, forward);
}

void FindBar::replace_one() {
  if (editor_->selectedText() == what_->text() && !what_->text().isEmpty()) editor_->replaceSelectedText(with_->text());
  find_next(true);
}

void FindBar::replace_all() {
  if (what_->text().isEmpty()) return;
  const QString changed = editor_->text().replace(what_->text(), with_->text());
  if (changed == editor_->text()) return;
  editor_->beginUndoAction();
  editor_->selectAll();
  editor_->replaceSelectedText(changed);
  editor_->endUndoAction();
}

void FindBar::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape) {
    hide();
    editor_->setFocus();
    return;
  }
  QFrame::keyPressEvent(event);
}

}  // namespace bronvel
