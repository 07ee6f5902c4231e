// Lists of folders, and what can be done with what is marked.
#include "app/places_sheet.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/kit/deck_table.h"
#include "app/kit/theme.h"
#include "app/session/folders.h"
#include "app/session/recent.h"
#include "app/session/settings.h"

namespace bronvel {
namespace {

constexpr int path_role = Qt::UserRole, kind_role = Qt::UserRole + 1;
enum EntryKind { up, folder, scene, mesh };
const QStringList mesh_files{"*.obj", "*.stl", "*.gltf", "*.glb"};

QString setting_of(PlacesSheet::Use use) {
  return use == PlacesSheet::Use::pick_mesh ? "places/mesh" : "places/scene";
}

bool is_scene(const QString& path) {
  return QFileInfo::exists(path + "/scene.json");
}

}  // namespace

PlacesSheet::PlacesSheet(QWidget* parent) : QFrame(parent) {
  setObjectName("places_sheet");
  setStyleSheet("#places_sheet { background: " + theme::sheet.name() + "; border: 1px solid " + theme::ink.name() +
                "; border-radius: 10px; } QListWidget { background: transparent; border: 1px solid " +
                theme::rule.name() +
                "; border-radius: 6px; } QListWidget:focus { border-color: " + theme::chosen.name() +
                "; } QListWidget::item { padding: 3px 8px; border: 0px solid transparent; } QListWidget::item:hover { "
                "background: " +
                theme::well.name() + "; } QListWidget::item:selected { background: " + theme::chosen_wash.name() +
                "; color: " + theme::ink.name() + "; }");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 10, 12, 12);
  column->setSpacing(8);
  auto* head = new QHBoxLayout;
  title_ = theme::label(theme::words(15, QFont::Bold), theme::ink, this);
  head->addWidget(title_);
  head->addStretch(1);
  auto* close = new QToolButton(this);
  close->setObjectName("places_close");
  close->setText("✕");
  close->setToolTip("close (Esc)");
  connect(close, &QToolButton::clicked, this, &QFrame::hide);
  head->addWidget(close);
  column->addLayout(head);
  path_ = new QLineEdit(this);
  path_->setObjectName("places_path");
  path_->setFont(theme::numbers(12));
  path_->setToolTip("where one is; another place can be typed");
  path_->setAccessibleName("folder");
  connect(path_, &QLineEdit::returnPressed, this, [this] {
    const QString typed = path_->text().trimmed();
    if (QFileInfo(typed).isDir())
      go_to(typed);
    else
      what_->setText("There is no folder " + typed + ".");
  });
  column->addWidget(path_);
  auto* middle = new QHBoxLayout;
  places_ = new QListWidget(this);
  places_->setObjectName("places");
  places_->setFixedWidth(210);
  places_->setTextElideMode(Qt::ElideLeft);
  places_->setAccessibleName("places");
  connect(places_, &QListWidget::itemActivated, this,
          [this](const QListWidgetItem* item) { go_to(item->data(path_role).toString()); });
  connect(places_, &QListWidget::itemClicked, this,
          [this](const QListWidgetItem* item) { go_to(item->data(path_role).toString()); });
  middle->addWidget(places_);
  list_ = new QListWidget(this);
  list_->setObjectName("places_list");
  list_->setAccessibleName("what is there");
  connect(list_, &QListWidget::itemActivated, this, &PlacesSheet::enter);
  connect(list_, &QListWidget::currentItemChanged, this, &PlacesSheet::show_what);
  middle->addWidget(list_, 1);
  column->addLayout(middle, 1);
  auto* foot = new QHBoxLayout;
  name_word_ = theme::label(theme::words(12), theme::ink, this, "called");
  foot->addWidget(name_word_);
  name_ = new QLineEdit(this);
  name_->setObjectName("places_name");
  name_->setFixedWidth(200);
  name_->setToolTip("the scene's folder; it is made if it is not there");
  connect(name_, &QLineEdit::textChanged, this, &PlacesSheet::show_what);
  connect(name_, &QLineEdit::returnPressed, this, &PlacesSheet::pick);
  foot->addWidget(name_);
  what_ = theme::label(theme::words(12), theme::faint_ink, this);
  what_->setObjectName("places_what");
  what_->setWordWrap(true);
  foot->addWidget(what_, 1);
  main_ = deck_button(this, "places_main", "open", "", &PlacesSheet::pick);
  foot->addWidget(main_);
  column->addLayout(foot);
  hide();
}

void PlacesSheet::begin(Use use, const QString& from, const std::function<void(const QString&)>& picked) {
  use_ = use;
  picked_ = picked;
  title_->setText(use == Use::open_scene   ? "Open a scene"
                  : use == Use::save_scene ? "Save the scene in another folder"
                                           : "A mesh");
  const bool saves = use == Use::save_scene;
  name_->setVisible(saves);
  name_word_->setVisible(saves);
  main_->setText(saves ? "save here" : "open");
  fill_places();
  const QString last = bench_settings().value(setting_of(use)).toString();
  const QString beside = from.isEmpty() ? "" : QFileInfo(from).absolutePath();
  go_to(QFileInfo(last).isDir() ? last : QFileInfo(beside).isDir() ? beside : QDir::homePath());
  if (saves) {
    const QString name = from.isEmpty() ? "scene" : QFileInfo(from).fileName() + "-copy";
    name_->setText(name);
    name_->selectAll();
  }
  show();
  raise();
  if (saves)
    name_->setFocus();
  else
    list_->setFocus();
}

void PlacesSheet::fill_places() {
  places_->clear();
  const auto add = [&](const QString& word, const QString& path) {
    if (!QFileInfo(path).isDir()) return;
    auto* item = new QListWidgetItem(word, places_);
    item->setData(path_role, path);
    item->setToolTip(path);
  };
  add("home", QDir::homePath());
  add("the harbour's examples", QString::fromStdString(examples_folder()));
  QStringList seen;
  for (const QString& scene : recent_scenes()) {
    const QString beside = QFileInfo(scene).absolutePath();
    if (seen.contains(beside) || beside == QString::fromStdString(examples_folder())) continue;
    seen << beside;
    add(beside, beside);
  }
}

void PlacesSheet::go_to(const QString& path) {
  folder_ = QDir(QFileInfo(path).absoluteFilePath());
  path_->setText(folder_.absolutePath());
  list_->clear();
  const auto add = [&](const QString& word, const QString& to, EntryKind kind) {
    auto* item = new QListWidgetItem(word, list_);
    item->setData(path_role, to);
    item->setData(kind_role, kind);
    if (kind == scene || kind == mesh) item->setFont(theme::words(12, QFont::DemiBold));
    if (kind == folder || kind == up) item->setForeground(theme::faint_ink);
  };
  if (!folder_.isRoot()) add("..", QFileInfo(folder_.absolutePath()).absolutePath(), up);
  for (const QFileInfo& each :
       folder_.entryInfoList(QDir::Dirs | QDir::NoDotAndDotDot, QDir::Name | QDir::IgnoreCase)) {
    const bool a_scene = is_scene(each.absoluteFilePath());
    if (a_scene && use_ == Use::pick_mesh) continue;
    add(each.fileName() + (a_scene ? "" : "/"), each.absoluteFilePath(), a_scene ? scene : folder);
  }
  if (use_ == Use::pick_mesh)
    for (const QFileInfo& each : folder_.entryInfoList(mesh_files, QDir::Files, QDir::Name | QDir::IgnoreCase))
      add(each.fileName(), each.absoluteFilePath(), mesh);
  // The first that could be picked.
  int first = 0;
  for (int i = list_->count() - 1; i >= 0; --i)
    if (const int kind = list_->item(i)->data(kind_role).toInt(); kind == scene || kind == mesh) first = i;
  if (list_->count() > 0) list_->setCurrentRow(first);
  show_what();
}

void PlacesSheet::show_what() {
  const QListWidgetItem* item = list_->currentItem();
  const int kind = item ? item->data(kind_role).toInt() : folder;
  if (use_ == Use::save_scene) {
    const QString name = name_->text().trimmed();
    const QString path = folder_.filePath(name);
    const bool good = !name.isEmpty() && !name.contains('/') && name != "." && name != "..";
    main_->setEnabled(good);
    what_->setText(!good                     ? "A folder's name is wanted."
                   : is_scene(path)          ? "There is a scene of that name: it is replaced, and its takes stay."
                   : QFileInfo::exists(path) ? "That folder is there already; the scene is put into it."
                                             : "");
    return;
  }
  main_->setEnabled(item != nullptr);
  const bool goes = kind == folder || kind == up;
  main_->setText(goes ? "go there" : "open");
  const bool any = list_->count() > (folder_.isRoot() ? 0 : 1);
  what_->setText(!any                      ? "Nothing is here."
                 : use_ == Use::open_scene ? "Scenes are folders; those that are one stand out."
                                           : "obj, stl, gltf and glb are read.");
}

void PlacesSheet::enter(const QListWidgetItem* item) {
  if (!item) return;
  const QString path = item->data(path_role).toString();
  const int kind = item->data(kind_role).toInt();
  if (kind == folder || kind == up) return go_to(path);
  if (use_ == Use::save_scene)
    name_->setText(QFileInfo(path).fileName());
  else
    finish(path);
}

void PlacesSheet::pick() {
  if (use_ != Use::save_scene) return enter(list_->currentItem());
  show_what();
  if (main_->isEnabled()) finish(folder_.filePath(name_->text().trimmed()));
}

void PlacesSheet::finish(const QString& path) {
  bench_settings().setValue(setting_of(use_), folder_.absolutePath());
  hide();
  if (picked_) picked_(path);
}

void PlacesSheet::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape)
    hide();
  else if (event->key() == Qt::Key_Backspace && list_->hasFocus() && !folder_.isRoot())
    go_to(QFileInfo(folder_.absolutePath()).absolutePath());
  else
    QFrame::keyPressEvent(event);
}

}  // namespace bronvel
