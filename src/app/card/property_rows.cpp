// Building rows and keeping them in step.
#include "app/card/property_rows.h"

#include <QCheckBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QToolButton>

#include "app/kit/lane_drag.h"
#include "app/kit/number_field.h"
#include "app/kit/theme.h"

namespace bronvel {
namespace {

constexpr double to_degrees = 180 / pi;

// About the vertical, then about the body's own X, then its own Z, in radians.
Vec3 angles_of(const Quat& q) {
  const Mat3 m = q.toRotationMatrix();
  const double tilt = std::asin(std::clamp(-m(1, 2), -1.0, 1.0));
  if (std::abs(m(1, 2)) > 1 - 1e-9) return {tilt, std::atan2(-m(2, 0), m(0, 0)), 0};
  return {tilt, std::atan2(m(0, 2), m(2, 2)), std::atan2(m(1, 0), m(1, 1))};
}

Quat from_angles(const Vec3& angles) {
  return Quat(Eigen::AngleAxisd(angles.y(), Vec3::Unit(1)) * Eigen::AngleAxisd(angles.x(), Vec3::Unit(0)) *
              Eigen::AngleAxisd(angles.z(), Vec3::Unit(2)))
      .normalized();
}

}  // namespace

struct PropertyRows::Row {
  RowSource source;
  QLabel *name = nullptr, *note = nullptr;
  std::vector<NumberField*> fields;
  QCheckBox* flag = nullptr;
  QToolButton* word = nullptr;
  QLineEdit* text = nullptr;
  std::function<void(const std::vector<Value>&)> show;
};

PropertyRows::PropertyRows(Session& session, QWidget* parent)
    : QObject(parent), session_(session), inside_(new QWidget(parent)), grid_(new QGridLayout(inside_)) {
  grid_->setContentsMargins(13, 4, 11, 8);
  grid_->setHorizontalSpacing(5);
  grid_->setVerticalSpacing(2);
  grid_->setColumnStretch(1, 1);
  grid_->setColumnMinimumWidth(3, 34);
}

PropertyRows::~PropertyRows() = default;

QLabel* PropertyRows::add_question(const QString& question, const std::function<void()>& more, bool open) {
  auto* head = theme::label(theme::words(11, QFont::DemiBold), theme::chosen, inside_, question);
  head->setContentsMargins(0, next_ > 0 ? 6 : 2, 0, 0);
  grid_->addWidget(head, next_, 0, 1, more ? 3 : 4);
  if (more) {
    auto* button = new QToolButton(inside_);
    button->setObjectName("more_" + question.section(' ', 0, 1).toLower().replace(' ', '_').remove('?'));
    button->setText(open ? "less" : "more");
    button->setFont(theme::words(10));
    button->setFocusPolicy(Qt::TabFocus);
    button->setStyleSheet("QToolButton { color: " + theme::faint_ink.name() + "; padding: 0 3px; }");
    button->setToolTip(open ? "only the usual settings" : "all settings that answer this");
    connect(
        button, &QToolButton::clicked, this, [more] { more(); }, Qt::QueuedConnection);
    grid_->addWidget(button, next_, 3, Qt::AlignRight | Qt::AlignBottom);
  }
  ++next_;
  return head;
}

QLabel* PropertyRows::name_label(Row& row) {
  const PropertyInfo& info = row.source.info;
  const QString unit = QString::fromStdString(info.unit);
  auto* name = theme::label(theme::words(12), theme::ink, inside_, QString::fromStdString(info.label));
  name->setToolTip(QString::fromStdString(info.tip) + (unit.isEmpty() ? "" : " [" + unit + "]") +
                   (row.source.lane ? "; drag the name down to make it a lane" : ""));
  if (row.source.lane) make_lane_source(name, row.source.lane);
  return row.name = name;
}

void PropertyRows::set(const Row& row, const std::function<Value(const Value&)>& make) {
  try {
    row.source.change(make);
  } catch (const std::exception& e) {
    emit session_.said(e.what());
  }
  renew();
}

void PropertyRows::add(const RowSource& source) {
  rows_.push_back(std::make_unique<Row>());
  Row& row = *rows_.back();
  row.source = source;
  switch (source.info.kind) {
    case PropertyKind::number:
    case PropertyKind::optional_number:
      add_number(row);
      break;
    case PropertyKind::vector:
    case PropertyKind::optional_vector:
      add_vector(row);
      break;
    case PropertyKind::flag:
      add_flag(row);
      break;
    case PropertyKind::word: {
      std::vector<QString> words;
      for (const std::string& word : source.info.words) words.push_back(QString::fromStdString(word));
      add_choice(row, words);
      break;
    }
    case PropertyKind::text:
      add_choice(row, source.choices);
      break;
    case PropertyKind::rotation:
      add_rotation(row);
      break;
  }
  ++next_;
}

void PropertyRows::add_number(Row& row) {
  const PropertyInfo& info = row.source.info;
  const QString unit = QString::fromStdString(info.unit);
  auto* name = name_label(row);
  row.note = theme::label(theme::numbers(10), theme::faint_ink, inside_);
  row.note->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  auto* field = new NumberField(unit, inside_);
  field->setObjectName("card_" + QString::fromStdString(info.name));
  field->setFixedSize(62, 21);
  const bool several = row.source.values().size() > 1;
  field->set_several(several);
  field->set_names([this] { return session_.entry_names(); });
  field->setToolTip(name->toolTip() + "\nSums, prefixes and names work: 12*3, 2.5 k" + unit + ", 0.9*weight, 2*g" +
                    (several ? "\n×1.5 or +2 changes each by that" : ""));
  field->setAccessibleName(QString::fromStdString(info.label));
  const double scale = row.source.scale;
  connect(field, &NumberField::entered, this,
          [this, &row, scale](double value) { set(row, [=](const Value&) { return Value(value / scale); }); });
  connect(field, &NumberField::changed, this, [this, &row, scale](const NumberChange& change) {
    set(row, [=](const Value& now) {
      const auto* x = std::get_if<double>(&now);
      return Value(change.of(x ? *x * scale : 0) / scale);
    });
  });
  connect(field, &NumberField::cleared, this, [this, &row] {
    if (row.source.info.kind == PropertyKind::optional_number)
      set(row, [](const Value&) { return Value(); });
    else
      renew();
  });
  connect(field, &NumberField::refused, &session_, &Session::said);
  row.fields = {field};
  grid_->addWidget(name, next_, 0);
  grid_->addWidget(row.note, next_, 1);
  grid_->addWidget(field, next_, 2);
  grid_->addWidget(theme::label(theme::words(11), theme::faint_ink, inside_, unit), next_, 3);
  row.show = [&row, field, scale](const std::vector<Value>& values) {
    const bool same =
        std::all_of(values.begin(), values.end(), [&](const Value& v) { return same_value(v, values[0]); });
    const auto* x = std::get_if<double>(&values[0]);
    if (!same)
      field->show_none("mixed");
    else if (x)
      field->show_value(*x * scale);
    else
      field->show_none(row.source.hint ? row.source.hint() : "none");
    const Value before = row.source.before ? row.source.before() : values[0];
    const bool changed = same && row.source.before && !same_value(values[0], before);
    field->setStyleSheet(changed ? "color: " + theme::accent.name() + "; font-weight: 600;" : "");
    const auto* was = std::get_if<double>(&before);
    const bool later = row.source.from_next_play && row.source.from_next_play();
    row.note->setText(later                           ? "next play"
                      : changed                       ? "was " + (was ? short_number(*was * scale) : QString("unset"))
                      : !x && same && row.source.hint ? "surface's"
                                                      : "");
  };
}

// A row of three numbers; `change_one` changes the i-th of them in a value.
void PropertyRows::add_three(Row& row, const std::string& object, const QString& tip,
                             const std::function<Value(const Value&, int, const NumberChange&)>& change_one) {
  const PropertyInfo& info = row.source.info;
  auto* line = new QWidget(inside_);
  auto* boxes = new QHBoxLayout(line);
  boxes->setContentsMargins(0, 0, 0, 0);
  boxes->setSpacing(3);
  const bool several = row.source.values().size() > 1;
  for (int i = 0; i < 3; ++i) {
    auto* field = new NumberField(QString::fromStdString(info.kind == PropertyKind::rotation ? "" : info.unit), line);
    field->setObjectName(QString::fromStdString(object) + "_" + "xyz"[i]);
    field->setFixedHeight(21);
    field->setMinimumWidth(40);
    field->setStyleSheet("padding: 2px 3px");  // three share a row: the digits need it more
    field->set_several(several);
    field->set_names([this] { return session_.entry_names(); });
    field->setToolTip(tip.arg(QChar("xyz"[i])));
    const auto change = [this, &row, i, change_one](const NumberChange& typed) {
      set(row, [=](const Value& now) { return change_one(now, i, typed); });
    };
    connect(field, &NumberField::entered, this, [change](double value) { change({NumberChange::Kind::set, value}); });
    connect(field, &NumberField::changed, this, change);
    connect(field, &NumberField::cleared, this, [this, &row] {
      if (row.source.info.kind == PropertyKind::optional_vector)
        set(row, [](const Value&) { return Value(); });
      else
        renew();
    });
    connect(field, &NumberField::refused, &session_, &Session::said);
    boxes->addWidget(field);
    row.fields.push_back(field);
  }
  grid_->addWidget(name_label(row), next_, 0);
  grid_->addWidget(line, next_, 1, 1, 3);
}

void PropertyRows::add_vector(Row& row) {
  const PropertyInfo& info = row.source.info;
  add_three(row, "card_" + info.name,
            "%1 of " + QString::fromStdString(info.label + ": " + info.tip + " [" + info.unit + "]"),
            [](const Value& now, int i, const NumberChange& change) {
              const auto* v = std::get_if<Vec3>(&now);
              Vec3 made = v ? *v : Vec3(Vec3::Zero());
              made[i] = change.of(made[i]);
              return Value(made);
            });
  row.show = [&row](const std::vector<Value>& values) {
    for (int i = 0; i < 3; ++i) {
      const auto part = [&](const Value& v) -> std::optional<double> {
        const auto* u = std::get_if<Vec3>(&v);
        return u ? std::optional((*u)[i]) : std::nullopt;
      };
      const bool same =
          std::all_of(values.begin(), values.end(), [&](const Value& v) { return part(v) == part(values[0]); });
      NumberField* field = row.fields[static_cast<std::size_t>(i)];
      if (!same)
        field->show_none("mixed");
      else if (const auto x = part(values[0]))
        field->show_value(*x);
      else
        field->show_none("shape's");
    }
  };
}

void PropertyRows::add_rotation(Row& row) {
  row.source.info.label = "turned";
  row.source.info.unit = "°";
  row.source.info.tip = "about its own x and z, after about the vertical y";
  add_three(row, "card_orientation", "about %1 [°]: " + QString::fromStdString(row.source.info.tip),
            [](const Value& now, int i, const NumberChange& change) {
              const auto* q = std::get_if<Quat>(&now);
              Vec3 angles = angles_of(q ? *q : Quat::Identity());
              angles[i] = change.of(angles[i] * to_degrees) / to_degrees;
              return Value(from_angles(angles));
            });
  row.show = [&row](const std::vector<Value>& values) {
    std::vector<Vec3> angles;
    for (const Value& v : values)
      if (const auto* q = std::get_if<Quat>(&v)) angles.push_back(angles_of(*q) * to_degrees);
    for (int i = 0; i < 3 && !angles.empty(); ++i) {
      const bool same = std::all_of(angles.begin(), angles.end(),
                                    [&](const Vec3& a) { return std::abs(a[i] - angles[0][i]) < 1e-6; });
      NumberField* field = row.fields[static_cast<std::size_t>(i)];
      if (same)
        field->show_value(std::round(angles[0][i] * 1e4) / 1e4 + 0.0);  // what rounding turned is not shown
      else
        field->show_none("mixed");
    }
  };
}

void PropertyRows::add_flag(Row& row) {
  row.flag = new QCheckBox(inside_);
  row.flag->setObjectName("card_" + QString::fromStdString(row.source.info.name));
  row.flag->setToolTip(QString::fromStdString(row.source.info.tip));
  connect(row.flag, &QCheckBox::clicked, this, [this, &row] {
    const bool on = row.flag->checkState() != Qt::Unchecked;
    set(row, [=](const Value&) { return Value(on); });
  });
  grid_->addWidget(name_label(row), next_, 0, 1, 2);
  grid_->addWidget(row.flag, next_, 2, 1, 2, Qt::AlignRight);
  row.show = [&row](const std::vector<Value>& values) {
    const bool same =
        std::all_of(values.begin(), values.end(), [&](const Value& v) { return same_value(v, values[0]); });
    const auto* on = std::get_if<bool>(&values[0]);
    row.flag->setTristate(!same);
    row.flag->setCheckState(!same ? Qt::PartiallyChecked : on && *on ? Qt::Checked : Qt::Unchecked);
  };
}

void PropertyRows::add_choice(Row& row, const std::vector<QString>& words) {
  row.word = new QToolButton(inside_);
  row.word->setObjectName("card_" + QString::fromStdString(row.source.info.name));
  row.word->setFont(theme::numbers(12));
  row.word->setIcon(theme::icon("chevron", theme::faint_ink));
  row.word->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  row.word->setLayoutDirection(Qt::RightToLeft);
  row.word->setPopupMode(QToolButton::InstantPopup);
  row.word->setIconSize({12, 12});
  row.word->setToolTip(QString::fromStdString(row.source.info.tip));
  auto* menu = new QMenu(row.word);
  menu->setLayoutDirection(Qt::LeftToRight);
  for (const QString& word : words) {
    // Behind a tab stands what the word is worth.
    const std::string choice = word.section('\t', 0, 0).toStdString();
    QAction* action = menu->addAction(word.isEmpty() ? "none" : word, this,
                                      [this, &row, choice] { set(row, [=](const Value&) { return Value(choice); }); });
    action->setData(QString::fromStdString(choice));
  }
  // It begins at what is set.
  connect(menu, &QMenu::aboutToShow, row.word, [&row, menu] {
    const std::vector<Value> values = row.source.values();
    const auto* set = values.empty() ? nullptr : std::get_if<std::string>(&values[0]);
    for (QAction* action : menu->actions())
      if (set && action->data().toString().toStdString() == *set) menu->setActiveAction(action);
  });
  row.word->setMenu(menu);
  grid_->addWidget(name_label(row), next_, 0);
  grid_->addWidget(row.word, next_, 1, 1, 3, Qt::AlignRight);
  row.show = [&row](const std::vector<Value>& values) {
    const bool same =
        std::all_of(values.begin(), values.end(), [&](const Value& v) { return same_value(v, values[0]); });
    const auto* word = std::get_if<std::string>(&values[0]);
    row.word->setText(!same ? "mixed" : word && !word->empty() ? QString::fromStdString(*word) : "none");
  };
}

QLabel* PropertyRows::add_reading(const QString& name, const QString& unit, const QString& tip) {
  auto* text = theme::label(theme::words(12), theme::ink, inside_, name);
  text->setToolTip(tip);
  auto* value = theme::label(theme::numbers(12, QFont::Medium), theme::ink, inside_, "–");
  value->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  value->setContentsMargins(0, 0, 7, 0);
  grid_->addWidget(text, next_, 0);
  grid_->addWidget(value, next_, 1, 1, 2);
  grid_->addWidget(theme::label(theme::words(11), theme::faint_ink, inside_, unit), next_, 3);
  ++next_;
  return value;
}

void PropertyRows::add_wide(QWidget* widget) {
  // Long words are cut, rather than making the card wider than it is.
  widget->setSizePolicy(QSizePolicy::Ignored, widget->sizePolicy().verticalPolicy());
  grid_->addWidget(widget, next_++, 0, 1, 4);
}

void PropertyRows::renew() {
  for (const auto& row : rows_) {
    const std::vector<Value> values = row->source.values();
    if (!values.empty()) row->show(values);
    if (!row->source.from_next_play) continue;
    QPalette palette = row->name->palette();
    palette.setColor(QPalette::WindowText, row->source.from_next_play() ? theme::faint_ink : theme::ink);
    row->name->setPalette(palette);
  }
}

}  // namespace bronvel
