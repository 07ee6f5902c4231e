// Script, dials, and keeping them in step with what is chosen.
#include "app/desk/desk.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QMenu>
#include <QRegularExpression>
#include <QScrollArea>
#include <QToolButton>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "app/desk/recipes.h"
#include "app/kit/lane_drag.h"
#include "app/kit/theme.h"
#include "app/session/why.h"
#include "lab/snags/script_text.h"

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
  menu->setLayoutDirection(Qt::LeftToRight);
  connect(menu, &QMenu::aboutToShow, this, [this, menu] { fill_menu(menu); });
  picker_->setMenu(menu);
  row->addWidget(picker_);
  on_ = label(theme::words(12), theme::faint_ink, head);
  row->addWidget(on_);
  row->addStretch(1);
  list_button_ = new QToolButton(head);
  list_button_->setObjectName("show_script_list");
  list_button_->setText("list");
  list_button_->setFont(theme::words(11));
  list_button_->setCheckable(true);
  list_button_->setToolTip("the scene's scripts beside the text, with the bodies that carry them");
  connect(list_button_, &QToolButton::toggled, this, [this](bool on) {
    list_->setVisible(on);
    fill_list();
  });
  row->addWidget(list_button_);
  state_ = label(theme::words(11), theme::faint_ink, head);
  row->addWidget(state_);
  column->addWidget(head);

  auto* middle = new QHBoxLayout;
  middle->setSpacing(0);
  list_ = new QTreeWidget(this);
  list_->setObjectName("script_list");
  list_->setHeaderHidden(true);
  list_->setFixedWidth(132);
  list_->setIndentation(10);
  list_->setFrameShape(QFrame::NoFrame);
  list_->setFont(theme::words(11));
  list_->setStyleSheet("QTreeWidget { background: " + theme::paper.name() + "; border-right: 1px solid " +
                       theme::rule.name() + "; }");
  list_->setToolTip("the scene's scripts, and under each the bodies that carry it; click to go there");
  list_->hide();
  connect(list_, &QTreeWidget::itemClicked, this, [this](QTreeWidgetItem* item) {
    if (item->parent()) session_.choose(item->text(0).toStdString());
    show_file((item->parent() ? item->parent() : item)->text(0).toStdString());
  });
  middle->addWidget(list_);
  editor_ = new ScriptEditor(this);
  nothing_ =
      theme::label(theme::words(12), theme::faint_ink, editor_,
                   "What makes the chosen body move stands here.\n\nThe menu above makes a new script for it, or "
                   "puts a ready behaviour on it: push, hop, hover, drive, bounce off …");
  nothing_->setObjectName("desk_empty");
  nothing_->setWordWrap(true);
  constexpr int left = 48, top = 24, wide = 300;
  nothing_->setGeometry(left, top, wide, nothing_->heightForWidth(wide));
  nothing_->setAttribute(Qt::WA_TransparentForMouseEvents);
  middle->addWidget(editor_, 1);
  column->addLayout(middle, 1);
  find_bar_ = new FindBar(editor_, this);
  column->addWidget(find_bar_);
  connect(editor_, &ScriptEditor::asked_for, this, &Desk::find_definition);

  dials_ = new DialBoard(session_, this);
  column->addWidget(dials_);

  connect(editor_, &QsciScintilla::textChanged, this, [this] {
    if (!showing_ && !file_.empty()) session_.type_script(file_, editor_->text().toStdString());
  });
  connect(&session_, &Session::document_changed, this, [this] { scene_words_.clear(); });
  connect(&session_, &Session::opened, this, [this] {
    scene_words_.clear();
    file_.clear();
    show_chosen();
  });
  connect(&session_, &Session::chosen_changed, this, &Desk::show_chosen);
  connect(&session_, &Session::scripts_changed, this, &Desk::fill_list);
  connect(&session_, &Session::scripts_changed, this, [this] {
    // Something other than the keyboard changed the text.
    const auto now = session_.scripts().find(file_);
    if (now != session_.scripts().end() && editor_->text().toStdString() != now->second) show_file(file_);
  });
  connect(&session_, &Session::document_changed, this, &Desk::fill_list);
  connect(&session_, &Session::scripts_changed, this, &Desk::show_head);
  connect(&session_, &Session::play_state_changed, this, [this] {
    show_head();
    show_faults();
  });
  connect(&session_, &Session::log_added, this, &Desk::show_faults);
  connect(&session_.why(), &Why::changed, this, &Desk::show_acts);
  connect(&session_, &Session::scripts_read, this, [this] {
    show_faults();
    show_head();
  });
}

void Desk::show_chosen() {
  const Body* body = session_.scene().find(session_.chosen());
  if (body && !body->scripts.empty()) {
    show_file(body->scripts.front().file);
  } else if (file_.empty() && !session_.scripts().empty()) {
    show_file(session_.scripts().begin()->first);
  } else if (!session_.scripts().contains(file_)) {
    show_file("");  // of a scene that was open before
  }
  show_head();
  dials_->rebuild();
}

void Desk::show_file(const std::string& file) {
  file_ = file;
  const auto found = session_.scripts().find(file);
  showing_ = true;
  editor_->show_text(found == session_.scripts().end() ? "" : QString::fromStdString(found->second));
  editor_->setReadOnly(found == session_.scripts().end());  // what is typed must belong to a script
  showing_ = false;
  show_head();
  show_faults();
  show_acts();
}

void Desk::show_acts() {
  const Why& why = session_.why();
  std::map<int, LineNote> notes;
  // Of a text that was typed otherwise since, the lines are other ones.
  if (why.known() && !session_.script_unsaved(file_)) {
    double share = -1;
    if (session_.in_past())
      session_.with_take([&](const Take& take, TakeReader&) {
        if (take.ticks > 1) share = static_cast<double>(session_.tick()) / static_cast<double>(take.ticks - 1);
      });
    for (const auto& [line, act] : why.lines_of(file_)) {
      LineNote note;
      const bool acts = act.now.share > 0;
      note.words = acts ? QString::fromStdString(size_text(act.now)) : "–";
      note.colour = acts ? theme::ink : theme::faint_ink;
      note.spark = act.sizes;
      note.head = act.sizes.empty() ? -1 : share;
      note.tip = QString("what this line does to %1 at this moment%2")
                     .arg(QString::fromStdString(session_.chosen()))
                     .arg(act.sizes.empty() ? "" : ", and how much over the take");
      notes[line] = note;
    }
  }
  editor_->show_notes(std::move(notes));
}

namespace {

constexpr const char* blank_script =
    "-- What this body does.\n"
    "dials {\n"
    "  push = { 3, unit = \"N\", from = 0, to = 20, tip = \"steady pull along X\" },\n"
    "}\n\n"
    "function on.tick(dt)\n"
    "  body:force(vec(dials.push, 0, 0))\n"
    "end\n";

}  // namespace

void Desk::fill_menu(QMenu* menu) {
  menu->clear();
  const std::string body = session_.chosen();
  const QString chosen = QString::fromStdString(body);
  auto* fresh = menu->addAction(body.empty() ? "New script" : "New script on " + chosen, this, &Desk::new_script);
  fresh->setObjectName("new_script");
  auto* ready = menu->addMenu(body.empty() ? "Ready behaviour" : "Ready behaviour on " + chosen);
  ready->setObjectName("ready_behaviours");
  ready->setToolTipsVisible(true);
  for (const Recipe& recipe : recipes()) {
    auto* action = ready->addAction(QString::fromStdString(recipe.title), this, [this, recipe, body] {
      show_file(session_.add_script(recipe.file, recipe.text, body));
    });
    action->setToolTip(QString::fromStdString(recipe.about));
  }
  const Body* found = session_.scene().find(body);
  if (found && !file_.empty()) {
    const bool carries = std::any_of(found->scripts.begin(), found->scripts.end(),
                                     [&](const ScriptUse& use) { return use.file == file_; });
    const QString file = QString::fromStdString(file_);
    if (carries)
      menu->addAction("Take " + file + " off " + chosen, this, [this, body] { session_.take_script(file_, body); });
    else
      menu->addAction("Put " + file + " on " + chosen, this, [this, body] { session_.put_script(file_, body); });
  }
  menu->addAction("Find and replace\tCtrl+F", this, &Desk::find);
  menu->addSeparator();
  for (const auto& [file, text] : session_.scripts()) {
    QStringList bodies;
    for (const Body& each : session_.scene().bodies)
      for (const ScriptUse& use : each.scripts)
        if (use.file == file) bodies << QString::fromStdString(each.name);
    const QString who = bodies.isEmpty()    ? "on no body"
                        : bodies.size() > 3 ? QString("%1 bodies").arg(bodies.size())
                                            : bodies.join(", ");
    menu->addAction(QString::fromStdString(file) + "\t" + who, this, [this, name = file] { show_file(name); });
  }
}

void Desk::fill_list() {
  if (!list_->isVisible()) return;
  list_->clear();
  for (const auto& [file, text] : session_.scripts()) {
    auto* item = new QTreeWidgetItem(list_, {QString::fromStdString(file)});
    item->setFont(0, theme::words(11, QFont::DemiBold));
    int count = 0;
    for (const Body& each : session_.scene().bodies)
      for (const ScriptUse& use : each.scripts)
        if (use.file == file && ++count <= 200) new QTreeWidgetItem(item, {QString::fromStdString(each.name)});
    if (count == 0) {
      auto* none = new QTreeWidgetItem(item, {"on no body"});
      none->setForeground(0, theme::accent);
      none->setFlags(Qt::NoItemFlags);
    }
    item->setExpanded(true);
  }
}

void Desk::new_script() {
  const std::string body = session_.chosen();
  show_file(session_.add_script(body.empty() ? "script" : body, blank_script, body));
  editor_->setFocus();
}

// Another script that is named in quotes, or a function of this one.
void Desk::find_definition(const QString& word) {
  const std::string name = word.toStdString();
  for (const std::string& file : {name, name + ".lua"})
    if (session_.scripts().contains(file)) {
      go_to(file, 1);
      return;
    }
  for (const auto& [file, text] : session_.scripts()) {
    if (file != file_) continue;
    for (const ScriptFunction& f : functions_of(words_of(text)))
      if (f.name == name || f.name == "on." + name) {
        go_to(file, f.line);
        return;
      }
  }
  if (!word.isEmpty()) emit session_.said("\"" + word + "\" is not defined in this scene's scripts.");
}

// The scene's own names, gathered anew only when it changed.
void Desk::gather_scene_words() {
  QStringList words;
  for (const Body& body : session_.scene().bodies) {
    if (words.size() < 2000) words << QString::fromStdString(body.name);
    for (const std::string& tag : body.tags) words << QString::fromStdString(tag);
  }
  for (const Action& action : session_.scene().actions) words << QString::fromStdString(action.name);
  for (const ScenePath& path : session_.scene().paths) words << QString::fromStdString(path.name);
  for (const SceneZone& zone : session_.scene().zones) words << QString::fromStdString(zone.name);
  for (const SceneJoint& joint : session_.scene().joints) words << QString::fromStdString(joint.name);
  words.removeDuplicates();
  scene_words_ = words;
}

void Desk::set_words() {
  if (scene_words_.isEmpty()) gather_scene_words();
  QStringList words = scene_words_;
  for (const Dial& dial : session_.dials(session_.chosen())) words << "dials." + QString::fromStdString(dial.name);
  editor_->set_scene_words(words);
}

void Desk::show_head() {
  set_words();
  nothing_->setVisible(file_.empty());
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
  if (file_.empty()) {
    state_->setText("");
    return;
  }
  const bool broken = session_.script_fault(file_).has_value();
  state_->setText(broken    ? "does not load"
                  : unsaved ? (live ? "Ctrl+S applies it now" : "not saved")
                            : (live ? "live" : "saved"));
  state_->setStyleSheet("color: " + (unsaved || broken ? theme::accent : theme::faint_ink).name());
}

// Those of the text that runs: what was said of one before it is no longer so.
void Desk::show_faults() {
  editor_->clear_faults();
  constexpr std::size_t most_marks = 3;
  for (const LogLine& line : session_.faults_of(file_, most_marks))
    editor_->mark_fault(line.line, QString::fromStdString(line.text));
}

void Desk::go_to(const std::string& file, int line) {
  if (!session_.scripts().contains(file)) return;
  show_file(file);
  editor_->setCursorPosition(std::max(0, line - 1), 0);
  editor_->ensureLineVisible(std::max(0, line - 1));
  editor_->setFocus();
}

}  // namespace bronvel
