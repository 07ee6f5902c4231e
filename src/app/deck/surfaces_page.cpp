// The library of surfaces and the matrix of pairs.
#include "app/deck/surfaces_page.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QTableWidget>
#include <QToolButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <iterator>

#include "app/deck/pair_drop.h"
#include "app/kit/deck_table.h"
#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "geometry/base/error.h"
#include "scene/document/dials.h"
#include "scene/document/names.h"
#include "scene/document/starting_surfaces.h"
#include "scene/document/voice.h"
#include "scene/properties/number_entry.h"

namespace bronvel {
namespace {

constexpr int column_count = 10;

// One letter a rule, told under the matrix.
QString rule_letter(Combine rule) {
  return rule == Combine::average ? "a" : rule == Combine::minimum ? "−" : rule == Combine::maximum ? "+" : "×";
}

QString rule_words(Combine rule) {
  const std::string_view word = combine_word(rule);
  return QString::fromUtf8(word.data(), static_cast<qsizetype>(word.size()));
}

}  // namespace

SurfacesPage::SurfacesPage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(16, 4, 16, 8);
  row->setSpacing(18);
  auto* left = new QVBoxLayout;
  list_ = new QTreeWidget(this);
  list_->setObjectName("surfaces");
  style_deck_table(list_);
  list_->setHeaderLabels(
      {"surface", "static μ", "dynamic μ", "rolling", "restitution", "μ by", "e by", "voice", "± pitch", "± loud"});
  constexpr const char* voice_tip =
      "how what has it sounds: wood, stone, iron, glass, rope, ice, rubber, cork, cloth, "
      "water; grey: the one that goes with its name";
  const char* const tips[] = {"",
                              "share of the normal force that holds before sliding",
                              "share of the normal force while sliding",
                              "resisting torque over normal force and arm",
                              "closing speed given back by a hit",
                              "how its friction combines with another's: average, minimum, maximum, multiply",
                              "how its restitution combines with another's",
                              voice_tip,
                              "share by which each hit's pitch differs, by chance",
                              "share by which each hit's loudness differs, by chance"};
  const int widths[] = {72, 52, 62, 46, 64, 58, 62, 48, 48, 46};
  for (int i = 0; i < column_count; ++i) {
    list_->headerItem()->setToolTip(i, tips[i]);
    list_->setColumnWidth(i, widths[i]);
  }
  fit_titles(list_);
  list_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
  list_->setMinimumWidth(200);
  left->addWidget(list_, 1);
  auto* buttons = new QHBoxLayout;
  const auto button = [&](const QString& name, const QString& text, const QString& tip, auto act) {
    buttons->addWidget(deck_button(this, name, text, tip, act));
  };
  button("surface_add", "new surface", "as the one that is marked", &SurfacesPage::add);
  button("surface_remove", "remove", "bodies that have it keep its numbers as their own", &SurfacesPage::remove);
  button("surface_starting", "add the starting set", "oak, cork, wet rope, granite, iron, ice, rubber, slate, wool",
         [this] {
           session_.edit("the starting surfaces", [](Scene& scene) {
             for (const auto& [name, surface] : starting_surfaces()) scene.surfaces.emplace(name, surface);
           });
         });
  button("surface_hear", "hear it", "a half-metre box of the marked surface, struck", &SurfacesPage::hear_marked);
  buttons->addStretch(1);
  left->addLayout(buttons);
  row->addLayout(left, 9);

  auto* middle = new QVBoxLayout;
  pairs_ = new QTableWidget(this);
  pairs_->setObjectName("pairs");
  pairs_->setFrameShape(QFrame::NoFrame);
  pairs_->setFont(theme::numbers(10));
  pairs_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  pairs_->setSelectionMode(QAbstractItemView::SingleSelection);
  pairs_->horizontalHeader()->setFont(theme::words(11));
  pairs_->verticalHeader()->setFont(theme::words(11));
  pairs_->horizontalHeader()->setDefaultSectionSize(64);
  pairs_->verticalHeader()->setDefaultSectionSize(20);
  pairs_->setStyleSheet("QTableWidget { background: transparent; gridline-color: " + theme::rule.name() +
                        "; } QTableWidget::item:selected { background: " + theme::chosen_wash.name() +
                        "; color: " + theme::ink.name() +
                        "; } QHeaderView, QTableCornerButton::section { background: transparent; border: none; } "
                        "QHeaderView::section { background: transparent; border: none; color: " +
                        theme::faint_ink.name() + "; padding: 1px 4px; }");
  pairs_->setMinimumWidth(200);
  middle->addWidget(pairs_, 1);
  auto* letters = theme::label(theme::words(11), theme::faint_ink, this,
                               "static friction and restitution that a pair really gives, and which rules decided: a "
                               "average, − minimum, + maximum, × multiply");
  letters->setWordWrap(true);
  middle->addWidget(letters);
  row->addLayout(middle, 6);
  drop_ = new PairDrop(this);
  drop_->setObjectName("pair_drop");
  drop_->setFixedWidth(230);
  row->addWidget(drop_);

  connect(list_, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item, int column) {
    if (filling_) return;
    set(item->data(0, Qt::UserRole).toString().toStdString(), column, item->text(column).trimmed());
  });
  connect(list_, &QTreeWidget::currentItemChanged, this, [this](QTreeWidgetItem* item) {
    if (filling_ || !item) return;
    floor_ = body_ = item->data(0, Qt::UserRole).toString().toStdString();
    show_pair();
  });
  connect(pairs_, &QTableWidget::currentCellChanged, this, [this](int at, int column) {
    if (filling_ || at < 0 || column < 0) return;
    floor_ = pairs_->horizontalHeaderItem(column)->text().toStdString();
    body_ = pairs_->verticalHeaderItem(at)->text().toStdString();
    show_pair();
  });
  connect(&session_, &Session::document_changed, this, &SurfacesPage::take_over);
  connect(&session_, &Session::opened, this, &SurfacesPage::take_over);
  for (const auto signal : {&Session::values_changed, &Session::play_state_changed, &Session::head_moved})
    connect(&session_, signal, this, &SurfacesPage::take_over);
  take_over();
}

void SurfacesPage::take_over() {
  bool same = false;
  session_.with_settings([&](const Scene& scene) {
    same = shown_ == scene.surfaces;
    if (!same) shown_ = scene.surfaces;
  });
  if (same) return;
  const auto& surfaces = shown_;
  filling_ = true;
  list_->clear();
  const int count = static_cast<int>(surfaces.size());
  pairs_->setRowCount(count);
  pairs_->setColumnCount(count);
  int at = 0;
  for (const auto& [name, surface] : surfaces) {
    const QString word = QString::fromStdString(name);
    auto* item =
        new QTreeWidgetItem(list_, {word, short_number(surface.static_friction), short_number(surface.dynamic_friction),
                                    short_number(surface.rolling_friction), short_number(surface.restitution),
                                    rule_words(surface.friction_combine), rule_words(surface.restitution_combine),
                                    QString::fromStdString(voice_of(session_.scene(), name)),
                                    short_number(surface.pitch_spread), short_number(surface.loudness_spread)});
    if (surface.voice.empty()) item->setForeground(7, theme::faint_ink);
    item->setFlags(item->flags() | Qt::ItemIsEditable);
    item->setData(0, Qt::UserRole, word);
    const std::string source =
        starting_surfaces().contains(name) && starting_surfaces().at(name) == surface ? source_of(name) : "";
    for (int i = 0; i < column_count; ++i)
      item->setToolTip(i, source.empty() ? "double click edits" : QString::fromStdString(source));
    pairs_->setHorizontalHeaderItem(at, new QTableWidgetItem(word));
    pairs_->setVerticalHeaderItem(at, new QTableWidgetItem(word));
    int column = 0;
    for (const auto& [other_name, other] : surfaces) {
      const SurfacePair pair = combine(surface, other);
      auto* cell = new QTableWidgetItem(QString("%1%2 %3%4")
                                            .arg(pair.static_friction, 0, 'f', 2)
                                            .arg(rule_letter(pair.friction_rule))
                                            .arg(pair.restitution, 0, 'f', 2)
                                            .arg(rule_letter(pair.restitution_rule)));
      cell->setToolTip(QString("%1 on %2: static friction %3, dynamic %4 (%5); restitution %6 (%7)")
                           .arg(word, QString::fromStdString(other_name))
                           .arg(pair.static_friction)
                           .arg(pair.dynamic_friction)
                           .arg(rule_words(pair.friction_rule))
                           .arg(pair.restitution)
                           .arg(rule_words(pair.restitution_rule)));
      cell->setTextAlignment(Qt::AlignCenter);
      pairs_->setItem(at, column++, cell);
    }
    ++at;
  }
  filling_ = false;
  if (theme::type_scale > 1)
    for (int i = 0; i < column_count; ++i) list_->resizeColumnToContents(i);
  if (!surfaces.contains(floor_)) floor_ = surfaces.empty() ? "" : surfaces.begin()->first;
  if (!surfaces.contains(body_)) body_ = floor_;
  for (int i = 0; i < pairs_->columnCount(); ++i) pairs_->setColumnWidth(i, static_cast<int>(78 * theme::type_scale));
  show_pair();
}

void SurfacesPage::show_pair() {
  const auto& surfaces = shown_;
  const auto floor = surfaces.find(floor_), body = surfaces.find(body_);
  if (floor == surfaces.end() || body == surfaces.end()) return;
  drop_->show_pair(QString::fromStdString(floor_), floor->second, QString::fromStdString(body_), body->second);
}

void SurfacesPage::set(const std::string& surface, int column, const QString& text) {
  try {
    if (column > 0) {
      // The columns stand in the order of the list.
      const SurfaceProperty& property = surface_properties()[static_cast<std::size_t>(column) - 1];
      const std::string word = text.toStdString();
      if (property.name == "voice" && !word.empty() && !is_voice(word))
        throw Error(surface, "wants a voice, one of " + voice_list() + ", got " + word);
      session_.set_value({SettingOf::surface, surface, property.name},
                         value_from_text(property, word, surface + "." + property.name));
      take_over();
      return;
    }
    session_.edit(QString::fromStdString("surface " + surface), [&](Scene& scene) {
      SceneSurface& s = scene.surfaces.at(surface);
      const std::string name = text.toStdString();
      if (name == surface) return;
      if (const std::string fault = name_fault(name); !fault.empty()) throw Error(surface, "a name " + fault);
      if (scene.surfaces.contains(name)) throw Error(surface, "can't be called " + name + ", which is taken");
      const SceneSurface kept = s;
      scene.surfaces.erase(surface);
      scene.surfaces[name] = kept;
      for (Body& body : scene.bodies)
        if (body.surface == surface) body.surface = name;
      for (Stamp& stamp : scene.stamps)
        for (Body& body : stamp.bodies)
          if (body.surface == surface) body.surface = name;
      rename_in_dials(scene, NamedKind::surface, surface, name);
    });
  } catch (const std::exception& e) {
    emit session_.said(e.what());
    shown_.clear();  // what was typed is not what is there
    take_over();
  }
}

void SurfacesPage::point_at(const std::string& surface, const std::string& number) {
  const std::string columns[] = {"", "static_friction", "dynamic_friction", "rolling_friction", "restitution"};
  const auto column = std::find(std::begin(columns), std::end(columns), number) - std::begin(columns);
  for (int i = 0; i < list_->topLevelItemCount(); ++i) {
    QTreeWidgetItem* item = list_->topLevelItem(i);
    if (item->data(0, Qt::UserRole).toString().toStdString() != surface) continue;
    list_->setCurrentItem(item, column < std::ssize(columns) ? static_cast<int>(column) : 0);
    list_->scrollToItem(item);
    list_->setFocus();
  }
}

void SurfacesPage::hear_marked() {
  const auto* marked = list_->currentItem();
  if (!marked) return;
  Loudspeaker& loudspeaker = session_.loudspeaker();
  loudspeaker.attend();
  if (loudspeaker.card() == Loudspeaker::Card::none || !loudspeaker.on()) {
    session_.say(loudspeaker.on() ? "There is no sound card here."
                                  : "Sound is off; the bell in the header turns it on.");
    return;
  }
  const std::string name = marked->data(0, Qt::UserRole).toString().toStdString();
  const SceneSurface& surface = session_.scene().surfaces.at(name);
  Heard heard;
  Onset& onset = heard.onsets.emplace_back();
  Random random(strikes_++);
  onset.point = session_.scene().view.target;
  onset.ring = ring_of(Box{{0.5, 0.5, 0.5}}, voice_of(session_.scene(), name));
  onset.loudness = 0.6 * (1 + surface.loudness_spread * random.between(-1, 1));
  onset.pitch = 1 + surface.pitch_spread * random.between(-1, 1);
  onset.chance = random.bits();
  loudspeaker.queue()->give(std::move(heard));
  loudspeaker.attend();
}

void SurfacesPage::add() {
  const auto* marked = list_->currentItem();
  const std::string like = marked ? marked->data(0, Qt::UserRole).toString().toStdString() : "";
  session_.edit("new surface", [&](Scene& scene) {
    const std::string name = free_name(like.empty() ? "surface" : like,
                                       [&](const std::string& each) { return scene.surfaces.contains(each); });
    scene.surfaces[name] = scene.surfaces.contains(like) ? scene.surfaces.at(like) : SceneSurface{};
  });
}

void SurfacesPage::remove() {
  const auto* marked = list_->currentItem();
  if (!marked) return;
  const std::string name = marked->data(0, Qt::UserRole).toString().toStdString();
  session_.edit(QString::fromStdString("remove surface " + name), [&](Scene& scene) {
    const Surface gone = scene.surfaces.at(name);
    const auto free = [&](Body& body) {
      if (body.surface != name) return;
      body.surface.clear();
      if (!body.restitution) body.restitution = gone.restitution;
      if (!body.friction) body.friction = gone.static_friction;
    };
    for (Body& body : scene.bodies) free(body);
    for (Stamp& stamp : scene.stamps)
      for (Body& body : stamp.bodies) free(body);
    scene.surfaces.erase(name);
  });
}

}  // namespace bronvel
