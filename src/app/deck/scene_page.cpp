// Settings and lists of the scene.
#include "app/deck/scene_page.h"

#include <QCheckBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPlainTextEdit>
#include <QToolButton>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "app/kit/deck_table.h"
#include "app/kit/empty_note.h"
#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "geometry/base/error.h"
#include "scene/document/dials.h"
#include "scene/document/names.h"
#include "scene/edits/stamps.h"
#include "scene/properties/number_entry.h"

namespace bronvel {

namespace {

QTreeWidget* list(QWidget* parent, const QString& name, const QStringList& titles) {
  auto* made = new QTreeWidget(parent);
  made->setObjectName(name);
  style_deck_table(made);
  made->setHeaderLabels(titles);
  made->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
  return made;
}

// The first column takes what the others leave.
void first_stretches(QTreeWidget* tree, const std::vector<int>& others) {
  tree->header()->setStretchLastSection(false);
  const QFontMetrics metrics(tree->header()->font());
  constexpr int room = 12;
  tree->header()->setMinimumSectionSize(metrics.horizontalAdvance(tree->headerItem()->text(0)) + room);
  tree->header()->setSectionResizeMode(0, QHeaderView::Stretch);
  for (std::size_t i = 0; i < others.size(); ++i) tree->setColumnWidth(static_cast<int>(i) + 1, others[i]);
  fit_titles(tree);
}

}  // namespace

ScenePage::ScenePage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(16, 6, 16, 8);
  row->setSpacing(14);
  auto* left = new QVBoxLayout;
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(6);
  grid->setVerticalSpacing(3);
  grid->addWidget(theme::label(theme::words(12, QFont::DemiBold), theme::chosen, this, "What holds for all of it?"), 0,
                  0, 1, 6);
  const auto world = [](const char* name) { return SettingPlace{SettingOf::world, "", name}; };
  for (int axis = 0; axis < 3; ++axis) add_setting(grid, world("gravity"), axis);
  for (const char* name :
       {"air_density", "seed", "tick_rate", "substeps", "restitution_speed", "rest_way", "falls_below"})
    add_setting(grid, world(name));
  grid->addWidget(add_flag(world("planar")), 6, 0, 1, 3);
  grid->addWidget(add_flag(world("falls_out")), 6, 3, 1, 3);
  back_ = add_flag(world("bring_back"));
  grid->addWidget(back_, 7, 3, 1, 3);
  left->addLayout(grid);
  left->addStretch(1);
  row->addLayout(left);
  auto* words = new QVBoxLayout;
  const auto asked = [&](const QString& question, QWidget* answer) {
    words->addWidget(theme::label(theme::words(12, QFont::DemiBold), theme::chosen, this, question));
    words->addWidget(answer, 1);
  };
  about_ = text_field("scene_about", "a line or two, shown in lists", "shown with the scene in lists");
  asked("What is it for?", about_);
  tasks_ = text_field("scene_tasks", "a line each", "told on the stage when the scene opens");
  asked("What may one try here?", tasks_);
  row->addLayout(words, 3);

  const auto button = [this](QHBoxLayout* where, const QString& name, const QString& text, const QString& tip,
                             auto act) { where->addWidget(deck_button(this, name, text, tip, act)); };
  auto* cue_column = new QVBoxLayout;
  cues_ = list(this, "cues", {"cue", "at s", "every s", "times"});
  cues_->headerItem()->setToolTip(1, "when it first comes");
  cues_->headerItem()->setToolTip(2, "and again after this long; 0: once");
  cues_->headerItem()->setToolTip(3, "how often in all; 0: for ever");
  first_stretches(cues_, {40, 56, 44});
  new EmptyNote(cues_, "No cues yet: moments on the scene's own clock, a bell or a beat, that scripts hear in on.cue.");
  cue_column->addWidget(cues_, 1);
  auto* cue_buttons = new QHBoxLayout;
  button(cue_buttons, "cue_add", "new cue", "a named moment on the scene's clock: on.cue(name)", [this] {
    attempt("new cue", [&](Scene& scene) { scene.cues.push_back({free_name(scene.cues, "cue"), 1, 0, 0}); });
  });
  button(cue_buttons, "cue_remove", "remove", "the marked cue", [this] {
    const int marked = cues_->indexOfTopLevelItem(cues_->currentItem());
    attempt("remove cue", [&](Scene& scene) {
      if (marked >= 0 && static_cast<std::size_t>(marked) < scene.cues.size())
        scene.cues.erase(scene.cues.begin() + marked);
    });
  });
  cue_buttons->addStretch(1);
  cue_column->addLayout(cue_buttons);
  row->addLayout(cue_column, 3);

  auto* stamp_column = new QVBoxLayout;
  stamps_ = list(this, "stamps", {"stamp", "bodies", "copies"});
  first_stretches(stamps_, {52, 52});
  new EmptyNote(stamps_,
                "No stamps yet: assemblies that are placed again and again, and changed all at once. Choose bodies, "
                "then arrange, make a stamp.");
  stamp_column->addWidget(stamps_, 1);
  auto* stamp_buttons = new QHBoxLayout;
  button(stamp_buttons, "stamp_remove", "remove", "its copies stay as free bodies", [this] {
    if (!stamps_->currentItem()) return;
    const std::string name = stamps_->currentItem()->data(0, Qt::UserRole).toString().toStdString();
    attempt(QString::fromStdString("remove stamp " + name), [&](Scene& scene) { remove_stamp(scene, name); });
  });
  stamp_buttons->addStretch(1);
  stamp_column->addLayout(stamp_buttons);
  row->addLayout(stamp_column, 3);

  things_ = list(this, "things", {"joint, zone, path", "ties"});
  things_->header()->setSectionResizeMode(0, QHeaderView::ResizeToContents);
  new EmptyNote(things_, "Joints, zones and paths are listed here; tie, zone and path above the stage make them.");
  things_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  things_->setToolTip("click chooses it on the stage");
  row->addWidget(things_, 3);

  connect(cues_, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item, int column) {
    if (!filling_) set_cue(cues_->indexOfTopLevelItem(item), column, item->text(column).trimmed());
  });
  connect(stamps_, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item, int column) {
    if (filling_ || column != 0) return;
    const std::string from = item->data(0, Qt::UserRole).toString().toStdString(),
                      to = item->text(0).trimmed().toStdString();
    attempt(QString::fromStdString("call stamp " + from + " " + to), [&](Scene& scene) {
      if (const std::string fault = name_fault(to); !fault.empty()) throw Error(from, "a name " + fault);
      if (from != to && free_name(scene.stamps, to) != to)
        throw Error(from, "can't be called " + to + ", which is taken");
      for (Stamp& stamp : scene.stamps)
        if (stamp.name == from) stamp.name = to;
      for (Body& body : scene.bodies)
        if (body.stamped.stamp == from) body.stamped.stamp = to;
      for (SceneJoint& joint : scene.joints)
        if (joint.stamped.stamp == from) joint.stamped.stamp = to;
    });
  });
  connect(things_, &QTreeWidget::itemClicked, this, [this](QTreeWidgetItem* item) {
    session_.choose_thing(static_cast<ThingKind>(item->data(0, Qt::UserRole).toInt()), item->text(0).toStdString());
  });
  connect(&session_, &Session::document_changed, this, &ScenePage::take_over);
  connect(&session_, &Session::opened, this, &ScenePage::take_over);
  for (const auto signal :
       {&Session::values_changed, &Session::play_state_changed, &Session::head_moved, &Session::refreshed})
    connect(&session_, signal, this, &ScenePage::show_settings);
  take_over();
}

void ScenePage::add_setting(QGridLayout* grid, const SettingPlace& place, int part) {
  constexpr int rows = 5;
  const PropertyInfo& info = *info_at(place);
  const QString axis = part < 0 ? "" : QString("xyz"[part]), unit = QString::fromStdString(info.unit),
                label = QString::fromStdString(info.label) + (axis.isEmpty() ? "" : " " + axis);
  auto* name = theme::label(theme::words(12), theme::ink, this, label);
  name->setToolTip(QString::fromStdString(info.tip));
  auto* field = new NumberField(unit, this);
  field->setObjectName("scene_" + QString::fromStdString(place.name) + (axis.isEmpty() ? "" : "_" + axis));
  field->setFixedSize(70, 21);
  field->setToolTip(name->toolTip());
  field->set_whole(info.whole);
  connect(field, &NumberField::entered, this, [this, place, part](double value) {
    Value wanted = value;
    if (part >= 0) {
      session_.with_settings([&](const Scene& scene) { wanted = value_at(scene, place); });
      std::get<Vec3>(wanted)[part] = value;
    }
    set(place, wanted);
  });
  connect(field, &NumberField::refused, &session_, &Session::said);
  const int at = static_cast<int>(fields_.size()), row = 1 + at % rows, column = at / rows * 3;
  auto* unit_label = theme::label(theme::words(10), theme::faint_ink, this, unit);
  grid->addWidget(name, row, column);
  grid->addWidget(field, row, column + 1);
  grid->addWidget(unit_label, row, column + 2);
  fields_.push_back({field, unit_label, place, part});
}

QCheckBox* ScenePage::add_flag(const SettingPlace& place) {
  const PropertyInfo& info = *info_at(place);
  auto* box = new QCheckBox(QString::fromStdString(info.label), this);
  box->setObjectName("scene_" + QString::fromStdString(place.name));
  box->setToolTip(QString::fromStdString(info.tip));
  connect(box, &QCheckBox::clicked, this, [this, place](bool on) { set(place, on); });
  flags_.emplace_back(box, place);
  return box;
}

void ScenePage::set(const SettingPlace& place, const Value& value) {
  try {
    session_.set_value(place, value);
  } catch (const std::exception& e) {
    emit session_.said(e.what());
  }
  show_settings();
}

void ScenePage::show_settings() {
  if (!isVisible()) return;
  session_.with_settings([&](const Scene& scene) {
    for (const Shown& shown : fields_) {
      const Value value = value_at(scene, shown.place);
      shown.field->show_value(shown.part < 0 ? std::get<double>(value) : std::get<Vec3>(value)[shown.part]);
    }
    for (const auto& [box, place] : flags_) box->setChecked(std::get<bool>(value_at(scene, place)));
    back_->setEnabled(scene.sweep_away.has_value());
  });
  // What counts from the next play only says so where its unit stands.
  for (const Shown& shown : fields_) {
    const bool later = session_.from_next_play(shown.place);
    shown.unit->setText(later ? "next play" : QString::fromStdString(info_at(shown.place)->unit));
  }
}

void ScenePage::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  show_settings();
}

// Of several lines; what was typed counts when it is left.
QPlainTextEdit* ScenePage::text_field(const QString& name, const QString& asks, const QString& tip) {
  auto* made = new QPlainTextEdit(this);
  made->setObjectName(name);
  made->setPlaceholderText(asks);
  made->setToolTip(tip);
  made->setTabChangesFocus(true);
  made->setFont(theme::words(12));
  made->setMinimumHeight(40);
  made->setStyleSheet("QPlainTextEdit { background: " + theme::well.name() + "; border: 1px solid " +
                      theme::rule.name() +
                      "; border-radius: 5px; } QPlainTextEdit:focus { border-color: " + theme::chosen.name() + "; }");
  made->installEventFilter(this);
  return made;
}

bool ScenePage::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::FocusOut) {
    const std::string about = about_->toPlainText().trimmed().toStdString();
    if (watched == about_ && about != session_.scene().about)
      attempt("about", [&](Scene& scene) { scene.about = about; });
    std::vector<std::string> tasks;
    for (const QString& line : tasks_->toPlainText().split('\n'))
      if (!line.trimmed().isEmpty()) tasks.push_back(line.trimmed().toStdString());
    if (watched == tasks_ && tasks != session_.scene().tasks)
      attempt("tasks", [&](Scene& scene) { scene.tasks = tasks; });
  }
  return QWidget::eventFilter(watched, event);
}

void ScenePage::attempt(const QString& name, const std::function<void(Scene&)>& change) {
  try {
    session_.edit(name, change);
  } catch (const std::exception& e) {
    emit session_.said(e.what());
  }
  take_over();
}

void ScenePage::take_over() {
  const Scene& scene = session_.scene();
  filling_ = true;
  show_settings();
  if (!about_->hasFocus() && about_->toPlainText() != QString::fromStdString(scene.about)) {
    about_->setPlainText(QString::fromStdString(scene.about));
  }
  QStringList tasks;
  for (const std::string& task : scene.tasks) tasks << QString::fromStdString(task);
  if (!tasks_->hasFocus() && tasks_->toPlainText() != tasks.join('\n')) tasks_->setPlainText(tasks.join('\n'));
  cues_->clear();
  for (const Cue& cue : scene.cues) {
    auto* item = new QTreeWidgetItem(cues_, {QString::fromStdString(cue.name), short_number(cue.at),
                                             short_number(cue.every), QString::number(cue.times)});
    item->setFlags(item->flags() | Qt::ItemIsEditable);
  }
  std::map<std::string, std::set<std::string>> copies;
  for (const Body& body : scene.bodies)
    if (!body.stamped.copy.empty()) copies[body.stamped.stamp].insert(body.stamped.copy);
  stamps_->clear();
  for (const Stamp& stamp : scene.stamps) {
    auto* item = new QTreeWidgetItem(stamps_, {QString::fromStdString(stamp.name), QString::number(stamp.bodies.size()),
                                               QString::number(copies[stamp.name].size())});
    item->setFlags(item->flags() | Qt::ItemIsEditable);
    item->setData(0, Qt::UserRole, QString::fromStdString(stamp.name));
  }
  things_->clear();
  const auto thing = [&](ThingKind kind, const std::string& name, const std::string& about) {
    auto* item = new QTreeWidgetItem(things_, {QString::fromStdString(name), QString::fromStdString(about)});
    item->setData(0, Qt::UserRole, static_cast<int>(kind));
  };
  for (const SceneJoint& joint : scene.joints)
    thing(ThingKind::joint, joint.name,
          joint_word(joint.kind) + ", " + (joint.a.empty() ? "ground" : joint.a) + " – " + joint.b);
  for (const SceneZone& zone : scene.zones) thing(ThingKind::zone, zone.name, "zone, " + shape_word(zone.shape));
  for (const ScenePath& path : scene.paths)
    thing(ThingKind::path, path.name, "path of " + std::to_string(path.points.size()) + " points");
  filling_ = false;
}

void ScenePage::set_cue(int index, int column, const QString& text) {
  attempt("cue", [&](Scene& scene) {
    if (index < 0 || static_cast<std::size_t>(index) >= scene.cues.size()) return;
    Cue& cue = scene.cues[static_cast<std::size_t>(index)];
    if (column == 0) {
      const std::string name = text.toStdString();
      if (const std::string fault = name_fault(name); !fault.empty()) throw Error("cue", "a name " + fault);
      if (name != cue.name && free_name(scene.cues, name) != name) throw Error("cue", "there is one called " + name);
      rename_in_dials(scene, NamedKind::cue, std::exchange(cue.name, name), name);
      return;
    }
    const auto value = entered_number(text.toStdString(), column == 3 ? "" : "s");
    if (!value || *value < 0 || *value > 1e6)
      throw Error(cue.name, "wants a number of 0 or more, got " + text.toStdString());
    if (column == 1) cue.at = *value;
    if (column == 2) cue.every = *value;
    if (column == 3) cue.times = static_cast<int>(std::round(*value));
  });
}

}  // namespace bronvel
