// Script, dials, and keeping them in step with what is chosen.
#include "app/desk.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QMenu>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/theme.h"

namespace bronvel {
namespace {
using theme::label;
}  // namespace

Desk::Desk(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
  setObjectName("desk");
  setStyleSheet("#desk { background: " + theme::sheet.name() + "; }");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);

  auto* head = new QFrame(this);
  head->setObjectName("desk_head");
  head->setStyleSheet("#desk_head { border-bottom: 1px solid " + theme::rule.name() + "; }");
  head->setFixedHeight(38);
  auto* row = new QHBoxLayout(head);
  row->setContentsMargins(12, 0, 16, 0);
  picker_ = new QToolButton(head);
  picker_->setObjectName("script_picker");
  picker_->setFont(theme::words(13, QFont::Bold));
  picker_->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  picker_->setLayoutDirection(Qt::RightToLeft);
  picker_->setIcon(theme::icon("chevron"));
  picker_->setIconSize({13, 13});
  picker_->setPopupMode(QToolButton::InstantPopup);
  picker_->setToolTip("the scripts of this scene");
  auto* menu = new QMenu(picker_);
  connect(menu, &QMenu::aboutToShow, this, [this, menu] {
    menu->clear();
    for (const auto& [file, text] : session_.scripts()) {
      QStringList bodies;
      for (const Body& body : session_.scene().bodies)
        for (const ScriptUse& use : body.scripts)
          if (use.file == file) bodies << QString::fromStdString(body.name);
      menu->addAction(QString::fromStdString(file) + "\t" + (bodies.isEmpty() ? "on no body" : bodies.join(", ")), this,
                      [this, name = file] { show_file(name); });
    }
  });
  picker_->setMenu(menu);
  row->addWidget(picker_);
  on_ = label(theme::words(12), theme::faint_ink, head);
  row->addWidget(on_);
  row->addStretch(1);
  state_ = label(theme::words(11), theme::faint_ink, head);
  row->addWidget(state_);
  column->addWidget(head);

  editor_ = new ScriptEditor(this);
  column->addWidget(editor_, 1);

  auto* dial_head = new QFrame(this);
  dial_head->setObjectName("dial_head");
  dial_head->setStyleSheet("#dial_head { border-top: 1px solid " + theme::rule.name() + "; }");
  auto* dial_row = new QHBoxLayout(dial_head);
  dial_row->setContentsMargins(18, 8, 16, 0);
  auto* title = label(theme::words(13, QFont::Bold), theme::ink, dial_head);
  title->setText("Dials");
  dial_row->addWidget(title);
  dials_of_ = label(theme::words(12), theme::faint_ink, dial_head);
  dial_row->addWidget(dials_of_);
  dial_row->addStretch(1);
  column->addWidget(dial_head);
  dial_area_ = new QScrollArea(this);
  dial_area_->setWidgetResizable(true);
  dial_area_->setFrameShape(QFrame::NoFrame);
  dial_area_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  dial_area_->setStyleSheet("QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; }");
  column->addWidget(dial_area_);

  connect(editor_, &QsciScintilla::textChanged, this, [this] {
    if (!showing_ && !file_.empty()) session_.type_script(file_, editor_->text().toStdString());
  });
  connect(&session_, &Session::opened, this, [this] {
    file_.clear();
    show_chosen();
  });
  connect(&session_, &Session::chosen_changed, this, &Desk::show_chosen);
  connect(&session_, &Session::scripts_changed, this, &Desk::show_head);
  connect(&session_, &Session::scripts_changed, this, [this] {
    if (session_.saved()) rebuild_dials();
  });
  connect(&session_, &Session::play_state_changed, this, [this] {
    rebuild_dials();
    show_head();
    show_faults();
  });
  connect(&session_, &Session::values_changed, this, &Desk::show_dials);
  connect(&session_, &Session::document_changed, this, &Desk::show_dials);
  connect(&session_, &Session::log_added, this, &Desk::show_faults);
}

void Desk::show_chosen() {
  const Body* body = session_.scene().find(session_.chosen());
  if (body && !body->scripts.empty()) {
    show_file(body->scripts.front().file);
  } else if (file_.empty() && !session_.scripts().empty()) {
    show_file(session_.scripts().begin()->first);
  }
  show_head();
  rebuild_dials();
}

void Desk::show_file(const std::string& file) {
  file_ = file;
  const auto found = session_.scripts().find(file);
  showing_ = true;
  editor_->show_text(found == session_.scripts().end() ? "" : QString::fromStdString(found->second));
  showing_ = false;
  show_head();
  show_faults();
}

void Desk::show_head() {
  picker_->setText(file_.empty() ? "no script" : QString::fromStdString(file_));
  QStringList bodies;
  for (const Body& body : session_.scene().bodies)
    for (const ScriptUse& use : body.scripts)
      if (use.file == file_) bodies << QString::fromStdString(body.name);
  const QString chosen = QString::fromStdString(session_.chosen());
  QString first = bodies.contains(chosen) ? chosen : bodies.value(0);
  on_->setText(bodies.isEmpty() ? "on no body yet"
                                : "on <span style='color:" + theme::chosen.name() + "'><b>" + first + "</b></span>" +
                                      (bodies.size() > 1 ? QString(" +%1").arg(bodies.size() - 1) : QString()));
  const bool unsaved = session_.script_unsaved(file_);
  const bool live = session_.play_state() != Session::PlayState::editing;
  state_->setText(unsaved ? (live ? "Ctrl+S applies it now" : "not saved") : live ? "live" : "saved");
  state_->setStyleSheet("color: " + (unsaved ? theme::accent : theme::faint_ink).name());
}

void Desk::rebuild_dials() {
  scales_.clear();
  numbers_.clear();
  dial_rows_ = new QWidget;
  auto* grid = new QGridLayout(dial_rows_);
  grid->setContentsMargins(18, 4, 12, 8);
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(3);
  grid->setColumnStretch(1, 1);
  const std::string body = session_.chosen();
  dials_of_->setText(body.empty() ? "" : "of " + QString::fromStdString(body));
  int row = 0;
  for (const Dial& dial : session_.dials(body)) {
    const QString name = QString::fromStdString(dial.name), unit = QString::fromStdString(dial.unit);
    const QString tip = QString::fromStdString(dial.tip) + (unit.isEmpty() ? "" : " [" + unit + "]") + "\nIn " +
                        QString::fromStdString(dial.script) + ". Home puts it back to " + short_number(dial.usual) +
                        ".";
    auto* title = label(theme::words(12, QFont::Medium), theme::ink, dial_rows_);
    title->setText(name);
    title->setToolTip(tip);
    title->setMinimumWidth(56);
    auto* scale = new DialScale(dial_rows_);
    scale->setObjectName("dial_" + name);
    scale->setAccessibleName(name);
    scale->set_range(dial.from, dial.to, dial.usual);
    scale->set_value(dial.value);
    scale->setToolTip(tip);
    auto* number = new NumberField(unit, dial_rows_);
    number->setObjectName("dial_number_" + name);
    number->setFixedWidth(66);
    number->show_value(dial.value);
    number->setToolTip(tip);
    auto* unit_label = label(theme::words(11), theme::faint_ink, dial_rows_);
    unit_label->setText(unit);
    unit_label->setMinimumWidth(26);
    const auto set = [this, body, dial](double value) {
      try {
        session_.set_dial(body, dial, value);
      } catch (const std::exception& e) {
        emit session_.said(e.what());
      }
    };
    connect(scale, &DialScale::turned, this, set);
    connect(number, &NumberField::entered, this, set);
    connect(number, &NumberField::refused, &session_, &Session::said);
    grid->addWidget(title, row, 0);
    grid->addWidget(scale, row, 1);
    grid->addWidget(number, row, 2);
    grid->addWidget(unit_label, row, 3);
    scales_[name] = scale;
    numbers_[name] = number;
    ++row;
  }
  if (row == 0) {
    auto* none = label(theme::words(12), theme::faint_ink, dial_rows_);
    none->setText(body.empty()
                      ? "Choose a body on the stage to see its dials."
                      : "This body has no dials. A script declares them:  dials { push = { 3, unit = \"N\" } }");
    none->setWordWrap(true);
    grid->addWidget(none, 0, 0, 1, 4);
    row = 1;
  }
  grid->setRowStretch(row, 1);
  dial_area_->setWidget(dial_rows_);
  dial_area_->setFixedHeight(std::clamp(row * 40 + 14, 54, 174));
}

void Desk::show_dials() {
  const std::vector<Dial> dials = session_.dials(session_.chosen());
  if (static_cast<int>(dials.size()) != scales_.size()) {
    rebuild_dials();
    return;
  }
  for (const Dial& dial : dials) {
    const QString name = QString::fromStdString(dial.name);
    if (!scales_.contains(name)) {
      rebuild_dials();
      return;
    }
    scales_[name]->set_value(dial.value);
    numbers_[name]->show_value(dial.value);
  }
}

void Desk::show_faults() {
  editor_->clear_faults();
  if (session_.play_state() == Session::PlayState::editing && session_.script_faults() == 0) return;
  const auto& log = session_.log_lines();
  int marked = 0;
  for (auto line = log.rbegin(); line != log.rend() && marked < 3; ++line) {
    if (line->level != LogLevel::error || line->script != file_) continue;
    editor_->mark_fault(line->line, QString::fromStdString(line->text));
    ++marked;
  }
}

void Desk::go_to(const std::string& file, int line) {
  if (!session_.scripts().contains(file)) return;
  show_file(file);
  editor_->setCursorPosition(std::max(0, line - 1), 0);
  editor_->ensureLineVisible(std::max(0, line - 1));
  editor_->setFocus();
}

}  // namespace bronvel
