// Building the rows of dials and keeping them in step.
#include "app/desk/dial_board.h"

#include <QCheckBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <set>

#include "app/kit/dial_scale.h"
#include "app/kit/lane_drag.h"
#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "scene/document/dials.h"

namespace bronvel {
namespace {

QString words_of(const DialValue& value) {
  if (const auto* word = std::get_if<std::string>(&value)) return QString::fromStdString(*word);
  const auto* named = std::get_if<NamedThing>(&value);
  if (!named || !named->name.empty()) return QString::fromStdString(named ? named->name : "");
  return named->kind == NamedKind::tag ? "whatever it is" : "none";
}

QString kind_of(const Dial& dial) {
  const auto* named = std::get_if<NamedThing>(&dial.default_value);
  return named ? QString::fromStdString(named_word(named->kind)) : "";
}

// What the stage can point at.
std::optional<ThingKind> on_stage(const NamedThing& named) {
  if (named.kind == NamedKind::body) return ThingKind::body;
  if (named.kind == NamedKind::joint) return ThingKind::joint;
  if (named.kind == NamedKind::zone) return ThingKind::zone;
  if (named.kind == NamedKind::path) return ThingKind::path;
  return std::nullopt;
}

}  // namespace

DialBoard::DialBoard(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
  setObjectName("dial_board");
  setStyleSheet("#dial_board { border-top: 1px solid " + theme::rule.name() + "; }");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  auto* head = new QHBoxLayout;
  head->setContentsMargins(18, 8, 16, 0);
  head->setSpacing(6);
  head->addWidget(theme::label(theme::words(13, QFont::Bold), theme::ink, this, "Dials"));
  of_ = theme::label(theme::words(12), theme::faint_ink, this);
  head->addWidget(of_);
  head->addStretch(1);
  column->addLayout(head);
  area_ = new QScrollArea(this);
  area_->setWidgetResizable(true);
  area_->setFrameShape(QFrame::NoFrame);
  area_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  area_->setStyleSheet("QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; }");
  column->addWidget(area_);
  for (const auto signal : {&Session::values_changed, &Session::document_changed, &Session::head_moved})
    connect(&session_, signal, this, &DialBoard::show_values);
  for (const auto signal : {&Session::play_state_changed, &Session::scripts_read})
    connect(&session_, signal, this, &DialBoard::rebuild);
  connect(&session_, &Session::scripts_changed, this, [this] {
    if (session_.saved()) rebuild();
  });
}

void DialBoard::rebuild() {
  rows_.clear();
  // One of them may be the reason for this.
  if (QWidget* before = area_->takeWidget()) before->deleteLater();
  inside_ = new QWidget;
  auto* grid = new QGridLayout(inside_);
  grid->setContentsMargins(18, 4, 12, 8);
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(3);
  grid->setColumnStretch(1, 1);
  body_ = session_.chosen();
  of_->setText(body_.empty() ? "" : "of " + QString::fromStdString(body_));
  std::set<std::string> mute;  // scripts that do not load
  const std::vector<Dial> dials = session_.dials(body_);
  rows_.reserve(dials.size());
  int at = 0;
  for (const Dial& dial : dials) {
    const bool several =
        std::count_if(dials.begin(), dials.end(), [&](const Dial& d) { return d.name == dial.name; }) > 1;
    const QString script = QString::fromStdString(dial.script), unit = QString::fromStdString(dial.unit);
    const QString name = QString::fromStdString(dial.name) + (several ? " · " + script.chopped(4) : "");
    QString tip = QString::fromStdString(dial.tip) + (unit.isEmpty() ? "" : " [" + unit + "]") + "\nIn " + script + ".";
    Row& row = rows_.emplace_back();
    row.dial = dial;
    if (const auto* number = std::get_if<double>(&dial.default_value)) {
      tip += " Home puts it back to " + short_number(*number) + ".";
      add_number(row, name, tip, grid, at);
    } else if (std::holds_alternative<bool>(dial.default_value)) {
      add_flag(row, name, grid, at);
    } else {
      add_list(row, name, grid, at);
    }
    auto* title = theme::label(theme::words(12, QFont::Medium), theme::ink, inside_, name);
    title->setToolTip(tip);
    title->setMinimumWidth(56);
    if (std::isfinite(number_of(dial.default_value)))
      make_lane_source(title, [body = body_, dial] {
        return QString::fromStdString(body + ".dials." + dial.script + "/" + dial.name);
      });
    grid->addWidget(title, at, 0);
    row.title = title;
    show_value(row, dial.value);
    std::vector<QWidget*> parts{row.title, row.scale, row.number, row.box, row.list};
    std::erase(parts, nullptr);
    for (QWidget* part : parts) part->setToolTip(tip);
    if (!session_.dial_counts(dial)) {
      for (QWidget* part : parts) part->setEnabled(false);
      for (QWidget* words : parts)
        if (words != row.scale) words->setStyleSheet("color: " + theme::faint_ink.name());
      mute.insert(dial.script);
    }
    ++at;
  }
  const auto wide = [&](const QColor& colour, const QString& text) {
    auto* made = theme::label(theme::words(theme::faint_ink == colour ? 12 : 11), colour, inside_, text);
    made->setWordWrap(true);
    grid->addWidget(made, at++, 0, 1, 4);
    return made;
  };
  for (const std::string& script : mute)
    wide(theme::accent, QString::fromStdString(script) + " does not load: these count for nothing until it does.")
        ->setObjectName("dials_wait");
  if (at == 0)
    wide(theme::faint_ink,
         body_.empty() ? "Choose a body on the stage to see its dials."
                       : "This body has no dials. A script declares them:  dials { push = { 3, unit = \"N\" } }");
  grid->setRowStretch(at, 1);
  area_->setWidget(inside_);
  area_->setFixedHeight(std::clamp(at * 40 + 14, 54, 174));
}

void DialBoard::add_number(Row& row, const QString& name, const QString& tip, QGridLayout* grid, int at) {
  const Dial& dial = row.dial;
  auto* scale = row.scale = new DialScale(inside_);
  scale->setObjectName("dial_" + name);
  scale->setAccessibleName(name);
  scale->set_range(dial.from, dial.to, std::get<double>(dial.default_value));
  auto* number = row.number = new NumberField(QString::fromStdString(dial.unit), inside_);
  number->setObjectName("dial_number_" + name);
  number->setFixedWidth(66);
  number->set_names([this] { return session_.entry_names(); });
  number->setToolTip(tip);
  auto* unit = theme::label(theme::words(11), theme::faint_ink, inside_, QString::fromStdString(dial.unit));
  unit->setMinimumWidth(26);
  connect(scale, &DialScale::turned, this, [this, scale, dial](double value) {
    if (!scale->dragged()) return set(dial, value);
    try {
      session_.try_dial(body_, dial, value);
    } catch (const std::exception& e) {
      emit session_.said(e.what());
    }
  });
  connect(scale, &DialScale::let_go, this, [this, dial](double value) { session_.settle_dial(body_, dial, value); });
  connect(number, &NumberField::entered, this, [this, dial](double value) { set(dial, value); });
  connect(number, &NumberField::refused, &session_, &Session::said);
  grid->addWidget(scale, at, 1);
  grid->addWidget(number, at, 2);
  grid->addWidget(unit, at, 3);
}

void DialBoard::add_flag(Row& row, const QString& name, QGridLayout* grid, int at) {
  row.box = new QCheckBox(inside_);
  row.box->setObjectName("dial_" + name);
  row.box->setAccessibleName(name);
  connect(row.box, &QCheckBox::clicked, this, [this, dial = row.dial](bool on) { set(dial, on); });
  grid->addWidget(row.box, at, 1, 1, 3, Qt::AlignLeft);
}

void DialBoard::add_list(Row& row, const QString& name, QGridLayout* grid, int at) {
  auto* list = row.list = new QToolButton(inside_);
  list->setObjectName("dial_" + name);
  list->setAccessibleName(name);
  list->setFont(theme::numbers(12));
  list->setIcon(theme::icon("chevron", theme::faint_ink));
  list->setIconSize({12, 12});
  list->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  list->setLayoutDirection(Qt::RightToLeft);
  list->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(list);
  menu->setLayoutDirection(Qt::LeftToRight);
  list->setMenu(menu);
  // The scene may have others by the time that it is asked.
  connect(menu, &QMenu::aboutToShow, list, [this, made = row] { fill_list(made); });
  grid->addWidget(list, at, 1, 1, 2, Qt::AlignLeft | Qt::AlignAbsolute);
  if (const QString kind = kind_of(row.dial); !kind.isEmpty())
    grid->addWidget(theme::label(theme::words(11), theme::faint_ink, inside_, kind), at, 3);
}

void DialBoard::fill_list(const Row& row) {
  QMenu* menu = row.list->menu();
  menu->clear();
  const Dial dial = row.dial;
  const auto offer = [&](const DialValue& value) {
    menu->addAction(words_of(value), this, [this, dial, value] { set(dial, value); });
  };
  const auto* named = std::get_if<NamedThing>(&dial.default_value);
  if (!named) {
    for (const std::string& word : dial.words) offer(word);
    return;
  }
  offer(NamedThing{named->kind, ""});
  if (const auto kind = on_stage(*named))
    menu->addAction("point at it on the stage …", this, [this, dial, kind = *kind, of = named->kind] {
      session_.point_at(kind, [this, dial, of](const std::string& name) { set(dial, NamedThing{of, name}); });
    });
  menu->addSeparator();
  for (const std::string& name : things_named(session_.scene(), named->kind)) offer(NamedThing{named->kind, name});
}

void DialBoard::show_value(const Row& row, const DialValue& value) {
  if (row.scale) row.scale->set_value(std::get<double>(value));
  if (row.number) row.number->show_value(std::get<double>(value));
  if (row.box) row.box->setChecked(std::get<bool>(value));
  if (row.list) row.list->setText(words_of(value));
}

void DialBoard::set(const Dial& dial, const DialValue& value) {
  try {
    session_.set_dial(body_, dial, value);
  } catch (const std::exception& e) {
    emit session_.said(e.what());
  }
  show_values();
}

void DialBoard::show_values() {
  const std::vector<Dial> dials = session_.dials(session_.chosen());
  const auto same = [](const Dial& d, const Row& row) {
    return d.script == row.dial.script && d.name == row.dial.name &&
           d.default_value.index() == row.dial.default_value.index();
  };
  if (body_ != session_.chosen() || !std::equal(dials.begin(), dials.end(), rows_.begin(), rows_.end(), same)) {
    rebuild();
    return;
  }
  for (std::size_t i = 0; i < dials.size(); ++i) show_value(rows_[i], dials[i].value);
}

}  // namespace bronvel
