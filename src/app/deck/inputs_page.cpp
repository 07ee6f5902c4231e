// Editing actions and their keys.
#include "app/deck/inputs_page.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/kit/deck_table.h"
#include "app/kit/empty_note.h"
#include "geometry/base/error.h"
#include "lab/snags/script_text.h"
#include "scene/document/dials.h"
#include "scene/document/names.h"

namespace bronvel {
namespace {

QString joined(const std::vector<std::string>& keys) {
  QStringList list;
  for (const std::string& key : keys) list << QString::fromStdString(key);
  return list.join(", ");
}

// Throws nothing: a key that is not known comes back in `unknown`.
std::vector<std::string> keys_in(const QString& text, QString& unknown) {
  std::vector<std::string> keys;
  for (const QString& part : text.split(',', Qt::SkipEmptyParts)) {
    const std::string key = part.trimmed().toLower().toStdString();
    if (std::find(key_names().begin(), key_names().end(), key) != key_names().end())
      keys.push_back(key);
    else
      unknown = part.trimmed();
  }
  return keys;
}

}  // namespace

InputsPage::InputsPage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(12, 4, 14, 6);
  row->setSpacing(14);
  tree_ = new QTreeWidget(this);
  tree_->setObjectName("inputs");
  tree_->setColumnCount(5);
  tree_->setHeaderLabels({"action", "keys (+1)", "against (−1)", "now", "asked for by"});
  style_deck_table(tree_);
  tree_->setColumnWidth(0, 140);
  tree_->setColumnWidth(1, 160);
  tree_->setColumnWidth(2, 160);
  tree_->setColumnWidth(3, 60);
  fit_titles(tree_);
  new EmptyNote(tree_,
                "No actions yet. An action is what scripts listen to, whatever key it is on: held(\"haul\"), "
                "axis(\"steer\"), on.press. New action makes one; a ready behaviour brings those that it needs.");
  tree_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
  row->addWidget(tree_, 1);
  auto* side = new QVBoxLayout;
  auto* about =
      theme::label(theme::words(12), theme::faint_ink, this,
                   "Scripts ask for actions by name: held(\"haul\"), axis(\"steer\"), on.press. Keys count while "
                   "the stage has the focus. Double click to change; several keys are parted by commas: a to z, 0 "
                   "to 9, space, enter, shift, ctrl, left, right, up, down, mouse_left, mouse_right, mouse_middle.");
  about->setWordWrap(true);
  about->setFixedWidth(300);
  about->setAlignment(Qt::AlignTop);
  side->addWidget(about, 1);
  auto* buttons = new QHBoxLayout;
  auto* add = new QToolButton(this);
  add->setObjectName("add_action");
  add->setText("New action");
  style_deck_button(add);
  auto* remove = new QToolButton(this);
  remove->setObjectName("remove_action");
  remove->setText("Remove");
  style_deck_button(remove);
  buttons->addWidget(add);
  buttons->addWidget(remove);
  buttons->addStretch(1);
  side->addLayout(buttons);
  row->addLayout(side);
  connect(add, &QToolButton::clicked, this, [this] {
    session_.edit("new action", [](Scene& scene) {
      scene.actions.push_back({free_name(scene.actions, "action"), {"space"}, {}});
    });
  });
  connect(remove, &QToolButton::clicked, this, [this] {
    const int at = tree_->indexOfTopLevelItem(tree_->currentItem());
    if (at < 0) return;
    session_.edit("remove an action", [at](Scene& scene) {
      if (static_cast<std::size_t>(at) < scene.actions.size()) scene.actions.erase(scene.actions.begin() + at);
    });
  });
  connect(tree_, &QTreeWidget::itemChanged, this, &InputsPage::changed);
  connect(&session_, &Session::document_changed, this, &InputsPage::rebuild);
  connect(&session_, &Session::scripts_changed, this, &InputsPage::rebuild);
  connect(&session_, &Session::refreshed, this, &InputsPage::show_now);
  rebuild();
}

// The lines of scripts that name it, and the dials that are set to it.
QString InputsPage::asked_by(const Action& action) const {
  QStringList places;
  for (const auto& [file, source] : session_.scripts())
    for (const int line : lines_naming(source, action.name))
      places << QString::fromStdString(file) + ":" + QString::number(line);
  for (const Body& body : session_.scene().bodies)
    for (const ScriptUse& use : body.scripts)
      for (const auto& [dial, value] : use.dials)
        if (value == DialValue(NamedThing{NamedKind::action, action.name}))
          places << QString::fromStdString(body.name + "." + dial);
  return places.isEmpty() ? "no script" : places.join(", ");
}

void InputsPage::rebuild() {
  filling_ = true;
  tree_->clear();
  for (const Action& action : session_.scene().actions) {
    auto* item = new QTreeWidgetItem(tree_, {QString::fromStdString(action.name), joined(action.keys),
                                             joined(action.against), "0", asked_by(action)});
    item->setForeground(4, theme::faint_ink);
    item->setFlags(item->flags() | Qt::ItemIsEditable);
  }
  filling_ = false;
}

void InputsPage::show_now() {
  filling_ = true;
  const auto& actions = session_.scene().actions;
  for (int i = 0; i < tree_->topLevelItemCount() && static_cast<std::size_t>(i) < actions.size(); ++i) {
    const double value = session_.action_now(actions[static_cast<std::size_t>(i)].name);
    const QString text = QString::number(value);
    QTreeWidgetItem* item = tree_->topLevelItem(i);
    if (item->text(3) != text) item->setText(3, text);
    item->setForeground(3, value != 0 ? theme::accent : theme::faint_ink);
  }
  filling_ = false;
}

void InputsPage::changed(QTreeWidgetItem* item, int column) {
  if (filling_) return;
  if (column > 2) return rebuild();  // what is told, and not typed
  const auto at = static_cast<std::size_t>(tree_->indexOfTopLevelItem(item));
  const QString text = item->text(column).trimmed();
  QString unknown;
  const std::vector<std::string> keys = keys_in(text, unknown);
  try {
    if (!unknown.isEmpty() && column != 0)
      throw Error("", "\"" + unknown.toStdString() + "\" is not the name of a key", "see the list beside");
    session_.edit("change an action", [&](Scene& scene) {
      if (at >= scene.actions.size()) return;
      if (column == 0)
        rename_in_dials(scene, NamedKind::action, std::exchange(scene.actions[at].name, text.toStdString()),
                        text.toStdString());
      if (column == 1) scene.actions[at].keys = keys;
      if (column == 2) scene.actions[at].against = keys;
    });
  } catch (const Error& e) {
    emit session_.said(e.what());
  }
  rebuild();
}

}  // namespace bronvel
