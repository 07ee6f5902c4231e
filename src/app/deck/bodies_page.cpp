// The table of bodies.
#include "app/deck/bodies_page.h"

#include <QAbstractTableModel>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QItemSelectionModel>
#include <QLabel>
#include <QLineEdit>
#include <QSortFilterProxyModel>
#include <QTableView>
#include <QToolButton>
#include <QVBoxLayout>
#include <unordered_map>

#include "app/kit/deck_table.h"
#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "geometry/base/error.h"
#include "scene/properties/aspects.h"
#include "scene/properties/number_entry.h"

namespace bronvel {
namespace {

struct Column {
  const char* title;
  const char* property;  // of the list; "" for what is not one
  const char* unit;
  int width;
};
constexpr Column columns[] = {{"name", "", "", 110},
                              {"kind", "kind", "", 76},
                              {"shape", "", "", 170},
                              {"mass", "mass", "kg", 76},
                              {"density", "", "kg/m³", 98},
                              {"drag area", "drag_area", "m²", 94},
                              {"damping", "linear_damping", "1/s", 94},
                              {"surface", "surface", "", 82},
                              {"friction", "friction", "", 78},
                              {"restitution", "restitution", "", 80},
                              {"scripts", "", "", 120},
                              {"tags", "", "", 110}};
enum { name_column, kind_column, shape_column, mass_column, density_column };
constexpr int scripts_column = 10, tags_column = 11, column_count = 12;

bool is_number(int column) {
  return column == density_column || (columns[column].property[0] != '\0' && column != kind_column && column != 7);
}

}  // namespace

class BodiesModel : public QAbstractTableModel {
 public:
  explicit BodiesModel(Session& session, QObject* parent) : QAbstractTableModel(parent), session_(session) {}

  void take_over() {
    const std::vector<Body>& bodies = session_.scene().bodies;
    const bool same = bodies.size() == names_.size() &&
                      std::equal(bodies.begin(), bodies.end(), names_.begin(),
                                 [](const Body& body, const std::string& name) { return body.name == name; });
    if (same) {
      if (!names_.empty()) emit dataChanged(index(0, 0), index(static_cast<int>(names_.size()) - 1, column_count - 1));
      return;
    }
    beginResetModel();
    names_.clear();
    rows_.clear();
    for (const Body& body : bodies) {
      rows_[body.name] = static_cast<int>(names_.size());
      names_.push_back(body.name);
    }
    endResetModel();
  }

  const Body* body(int row) const {
    const auto& bodies = session_.scene().bodies;
    return row >= 0 && static_cast<std::size_t>(row) < bodies.size() ? &bodies[static_cast<std::size_t>(row)] : nullptr;
  }
  int row_of(const std::string& name) const {
    const auto found = rows_.find(name);
    return found == rows_.end() ? -1 : found->second;
  }

  int rowCount(const QModelIndex& parent) const override {
    return parent.isValid() ? 0 : static_cast<int>(names_.size());
  }
  int columnCount(const QModelIndex& parent) const override { return parent.isValid() ? 0 : column_count; }

  QVariant headerData(int section, Qt::Orientation way, int role) const override {
    if (way != Qt::Horizontal) return {};
    const Column& column = columns[section];
    if (role == Qt::DisplayRole) return QString(column.title) + (column.unit[0] ? QString(" ") + column.unit : "");
    const Property* property = find_property(column.property);
    if (role == Qt::ToolTipRole && property) return QString::fromStdString(property->tip);
    if (role == Qt::TextAlignmentRole && is_number(section)) return QVariant(Qt::AlignRight | Qt::AlignVCenter);
    return {};
  }

  // The number of a cell; none where there is none.
  std::optional<double> number(const Body& b, int column) const {
    if (column == density_column) {
      const double volume = shape_volume(b.shape);
      return volume > 0 ? std::optional(b.mass / volume) : std::nullopt;
    }
    const Property* property = find_property(columns[column].property);
    if (!property) return std::nullopt;
    const Value value = property->get(b);
    const auto* x = std::get_if<double>(&value);
    return x ? std::optional(*x) : std::nullopt;
  }

  QVariant data(const QModelIndex& index, int role) const override {
    const Body* b = body(index.row());
    if (!b) return {};
    const int column = index.column();
    if (role == Qt::TextAlignmentRole && is_number(column)) return QVariant(Qt::AlignRight | Qt::AlignVCenter);
    if (role == Qt::ForegroundRole && b->locked) return theme::faint_ink;
    if (role == Qt::DecorationRole && column == name_column) {
      QPixmap chip(10, 10);
      chip.fill(QColor(QString::fromStdString(b->colour)));
      return chip;
    }
    const bool sort = role == Qt::UserRole;
    if (role != Qt::DisplayRole && role != Qt::EditRole && !sort) return {};
    if (is_number(column)) {
      const auto x = number(*b, column);
      if (sort) return x.value_or(-1);
      if (role == Qt::EditRole) return x ? QString::number(*x, 'g', 10) : QString();
      return x ? short_number(*x) : QString(column == 8 || column == 9 ? "surface's" : "–");
    }
    switch (column) {
      case name_column:
        return QString::fromStdString(b->name);
      case kind_column:
        return QString::fromStdString(kind_word(b->kind));
      case shape_column:
        return QString::fromStdString(shape_text(b->shape));
      case scripts_column:
      case tags_column:
        return QString::fromStdString(find_aspect(column == tags_column ? "tags" : "scripts")->text(*b))
            .replace("none", "");
      default:
        return QString::fromStdString(b->surface);
    }
  }

  Qt::ItemFlags flags(const QModelIndex& index) const override {
    const bool fixed = index.column() == shape_column || index.column() == scripts_column;
    return QAbstractTableModel::flags(index) | (fixed ? Qt::NoItemFlags : Qt::ItemIsEditable);
  }

  // A cell that was edited: for all chosen bodies, if it is one of them.
  bool setData(const QModelIndex& index, const QVariant& value, int role) override {
    const Body* b = body(index.row());
    if (role != Qt::EditRole || !b) return false;
    const QString text = value.toString().trimmed();
    if (text == data(index, Qt::EditRole).toString()) return false;
    const BodyNames names = session_.is_chosen(b->name) ? session_.chosen_bodies() : BodyNames{b->name};
    set(names, index.column(), text);
    return true;
  }

  /// Throws nothing: what does not fit is said.
  void set(const BodyNames& names, int column, const QString& text) {
    try {
      change(names, column, text);
    } catch (const std::exception& e) {
      emit session_.said(e.what());
    }
  }

 private:
  void change(const BodyNames& names, int column, const QString& text) {
    const QString what = names.size() == 1 ? QString::fromStdString(names[0]) : QString("%1 bodies").arg(names.size());
    const bool of_document = column == name_column || column == tags_column;
    if (of_document && session_.play_state() != Session::PlayState::editing)
      throw Error(columns[column].title, "can't be changed while it plays", "stop first");
    if (column == name_column) {
      if (names.size() > 1) throw Error("", "a name is one body's", "choose one row to rename it");
      session_.edit(what + ": call it " + text,
                    [&](Scene& scene) { rename_body(scene, names[0], text.toStdString()); });
      session_.choose(text.toStdString());
      return;
    }
    if (column == tags_column) {
      std::vector<std::string> tags;
      for (const QString& one : text.split(',', Qt::SkipEmptyParts)) tags.push_back(one.trimmed().toStdString());
      session_.edit(what + ": tags", [&](Scene& scene) {
        for (const std::string& name : names)
          if (Body* found = scene.find(name)) found->tags = tags;
      });
      return;
    }
    const Property* property = find_property(column == density_column ? "mass" : columns[column].property);
    if (!property) return;
    const QString about = what + ": " + columns[column].title;
    if (!is_number(column)) {
      session_.set_values(names, *property, about, [&](const Body&) { return Value(text.toStdString()); });
      return;
    }
    if (text.isEmpty() && property->kind == PropertyKind::optional_number) {
      session_.set_values(names, *property, about, [](const Body&) { return Value(); });
      return;
    }
    const auto change = entered_change(text.toStdString(), columns[column].unit);
    if (!change)
      throw Error(columns[column].title, "\"" + text.toStdString() + "\" is not a number",
                  "12*3, ×1.5, /2 and +2 work too");
    session_.set_values(names, *property, about, [&](const Body& each) {
      const double volume = column == density_column ? shape_volume(each.shape) : 1;
      const double after = change->of(number(each, column).value_or(0));
      return Value(column == density_column ? (volume > 0 ? after * volume : each.mass) : after);
    });
  }

  Session& session_;
  std::vector<std::string> names_;
  std::unordered_map<std::string, int> rows_;
};

namespace {

// Rows in which any cell has all the words.
class Sifted : public QSortFilterProxyModel {
 public:
  using QSortFilterProxyModel::QSortFilterProxyModel;
  void sift(const QString& words) {
    words_ = words.split(' ', Qt::SkipEmptyParts);
    invalidateFilter();
  }

 private:
  bool filterAcceptsRow(int row, const QModelIndex& parent) const override {
    return std::all_of(words_.begin(), words_.end(), [&](const QString& word) {
      for (int column = 0; column < column_count; ++column)
        if (sourceModel()->index(row, column, parent).data().toString().contains(word, Qt::CaseInsensitive))
          return true;
      return false;
    });
  }
  QStringList words_;
};

}  // namespace

BodiesPage::BodiesPage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 6, 16, 8);
  column->setSpacing(4);
  auto* row = new QHBoxLayout;
  filter_ = new QLineEdit(this);
  filter_->setObjectName("bodies_filter");
  filter_->setPlaceholderText("sift: words of any column");
  filter_->setFixedWidth(220);
  row->addWidget(filter_);
  count_ = theme::label(theme::words(11), theme::faint_ink, this);
  row->addWidget(count_);
  row->addStretch(1);
  target_ = theme::label(theme::words(12), theme::ink, this);
  row->addWidget(target_);
  many_ = new QLineEdit(this);
  many_->setObjectName("bodies_many");
  many_->setFixedWidth(110);
  many_->setFont(theme::numbers(12));
  many_->setPlaceholderText("×1.5, +2, 4 k");
  many_->setToolTip("for every chosen row at once: a value, or ×1.5, /2, +2 to change each");
  row->addWidget(many_);
  auto* go = new QToolButton(this);
  go->setObjectName("bodies_apply");
  go->setText("set");
  style_deck_button(go);
  row->addWidget(go);
  column->addLayout(row);

  model_ = new BodiesModel(session_, this);
  auto* sifted = new Sifted(this);
  sifted_ = sifted;
  sifted_->setSourceModel(model_);
  sifted_->setSortRole(Qt::UserRole);
  sifted_->setDynamicSortFilter(false);
  table_ = new QTableView(this);
  table_->setObjectName("bodies");
  table_->setModel(sifted_);
  table_->setSortingEnabled(true);
  table_->sortByColumn(-1, Qt::AscendingOrder);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
  table_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
  table_->setFrameShape(QFrame::NoFrame);
  table_->setFont(theme::numbers(12));
  table_->setShowGrid(false);
  table_->setAlternatingRowColors(false);
  table_->verticalHeader()->hide();
  table_->verticalHeader()->setDefaultSectionSize(21);
  table_->horizontalHeader()->setFont(theme::words(11));
  table_->horizontalHeader()->setHighlightSections(false);
  table_->horizontalHeader()->setStretchLastSection(true);
  for (int i = 0; i < column_count; ++i) table_->setColumnWidth(i, columns[i].width);
  table_->setStyleSheet(
      "QTableView { background: transparent; selection-background-color: " + theme::chosen_wash.name() +
      "; selection-color: " + theme::ink.name() +
      "; } QHeaderView { background: transparent; } QHeaderView::section { background: transparent; border: none; "
      "border-bottom: 1px solid " +
      theme::rule.name() + "; color: " + theme::faint_ink.name() + "; padding: 2px 4px; }");
  column->addWidget(table_, 1);

  connect(filter_, &QLineEdit::textChanged, this, [this, sifted](const QString& words) {
    sifted->sift(words);
    show_target();
  });
  connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, &BodiesPage::choose_rows);
  connect(table_->selectionModel(), &QItemSelectionModel::currentChanged, this, &BodiesPage::show_target);
  connect(go, &QToolButton::clicked, this, &BodiesPage::apply);
  connect(many_, &QLineEdit::returnPressed, this, &BodiesPage::apply);
  connect(&session_, &Session::document_changed, this, &BodiesPage::take_over);
  connect(&session_, &Session::opened, this, &BodiesPage::take_over);
  connect(&session_, &Session::opened, filter_, &QLineEdit::clear);
  connect(&session_, &Session::chosen_changed, this, &BodiesPage::show_chosen);
  take_over();
}

void BodiesPage::take_over() {
  following_ = true;
  model_->take_over();
  following_ = false;
  show_chosen();
}

void BodiesPage::show_chosen() {
  if (following_) return;
  following_ = true;
  std::vector<int> at;
  for (const std::string& name : session_.chosen_bodies()) {
    const int row = model_->row_of(name);
    const QModelIndex shown = row < 0 ? QModelIndex() : sifted_->mapFromSource(model_->index(row, 0));
    if (shown.isValid()) at.push_back(shown.row());
  }
  const int first = at.empty() ? -1 : at.back();
  // Neighbours as one stretch: thousands of single rows are slow to choose.
  std::sort(at.begin(), at.end());
  QItemSelection rows;
  for (std::size_t i = 0; i < at.size();) {
    std::size_t end = i + 1;
    while (end < at.size() && at[end] == at[end - 1] + 1) ++end;
    rows.select(sifted_->index(at[i], 0), sifted_->index(at[end - 1], column_count - 1));
    i = end;
  }
  table_->selectionModel()->select(rows, QItemSelectionModel::ClearAndSelect);
  if (first >= 0 && isVisible()) table_->scrollTo(sifted_->index(first, 0));
  following_ = false;
  show_target();
}

void BodiesPage::choose_rows() {
  if (following_) return;
  following_ = true;
  BodyNames names;
  for (const QModelIndex& at : table_->selectionModel()->selectedRows())
    if (const Body* body = model_->body(sifted_->mapToSource(at).row())) names.push_back(body->name);
  // The row clicked last is the one that the card speaks of.
  const QModelIndex current = sifted_->mapToSource(table_->currentIndex());
  if (const Body* last = current.isValid() ? model_->body(current.row()) : nullptr) {
    const auto at = std::find(names.begin(), names.end(), last->name);
    if (at != names.end()) std::rotate(at, at + 1, names.end());
  }
  session_.choose_bodies(names);
  following_ = false;
  show_target();
}

void BodiesPage::show_target() {
  const std::size_t chosen = session_.chosen_bodies().size();
  const int column = std::max(table_->currentIndex().column(), 0);
  const QString title = column == shape_column || column == scripts_column || column == name_column
                            ? QString("mass")
                            : QString(columns[column].title);
  target_->setText(chosen == 0
                       ? "choose rows to set a column of all"
                       : QString("%1 of %2").arg(title).arg(chosen == 1 ? "1 body" : QString("%1 bodies").arg(chosen)));
  const int shown = sifted_->rowCount(), all = model_->rowCount({});
  count_->setText(shown == all ? QString("%1 bodies").arg(all) : QString("%1 of %2 bodies").arg(shown).arg(all));
}

void BodiesPage::apply() {
  const BodyNames names = session_.chosen_bodies();
  int column = std::max(table_->currentIndex().column(), 0);
  if (column == shape_column || column == scripts_column || column == name_column) column = mass_column;
  if (names.empty() || many_->text().trimmed().isEmpty()) return;
  model_->set(names, column, many_->text().trimmed());
  many_->clear();
}

}  // namespace bronvel
