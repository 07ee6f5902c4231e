// The header's buttons and readings.
#include "app/header.h"

#include <QAction>
#include <QActionGroup>
#include <QDir>
#include <QHBoxLayout>
#include <QMenu>
#include <QShortcut>
#include <QSlider>
#include <QStackedWidget>
#include <QToolButton>
#include <QWidgetAction>
#include <cmath>

#include "app/kit/theme.h"
#include "app/session/recent.h"
#include "app/start.h"

namespace bronvel {
namespace {

using theme::label;
struct Speed {
  double factor;
  const char* word;
};
constexpr Speed speeds[] = {{0.02, "1/50×"}, {0.1, "1/10×"}, {0.25, "1/4×"}, {0.5, "1/2×"}, {1, "1×"}, {2, "2×"}};

}  // namespace

Header::Header(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
  setObjectName("header");
  setStyleSheet("#header { background: " + theme::sheet.name() + "; border-bottom: 1px solid " + theme::rule.name() +
                "; }");
  setFixedHeight(46);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(16, 0, 14, 0);
  row->setSpacing(8);

  auto* name = label(theme::words(15, QFont::Bold), theme::ink, this);
  name->setText("Bronvel");
  row->addWidget(name);
  auto* line = new QFrame(this);
  line->setFixedSize(1, 28);
  line->setStyleSheet("background: " + theme::rule.name());
  row->addSpacing(6);
  row->addWidget(line);
  scene_ = new QToolButton(this);
  scene_->setObjectName("scene_menu");
  scene_->setFont(theme::words(13, QFont::Medium));
  scene_->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  scene_->setLayoutDirection(Qt::RightToLeft);
  scene_->setIcon(theme::icon("chevron"));
  scene_->setIconSize({13, 13});
  scene_->setPopupMode(QToolButton::InstantPopup);
  scene_->setToolTip("the open scene: open another, save, undo");
  auto* menu = new QMenu(scene_);
  menu->setLayoutDirection(Qt::LeftToRight);  // only the button has its arrow behind its words
  connect(menu, &QMenu::aboutToShow, this, [this, menu] {
    menu->clear();
    menu->addAction("New scene\tCtrl+N", this, &Header::new_asked);
    menu->addAction("Open a scene folder…\tCtrl+O", this, &Header::open_asked);
    menu->addAction("Examples from the harbour…", this, &Header::examples_asked);
    auto* recent = menu->addMenu("Lately open");
    recent->setObjectName("recent");
    for (const QString& path : recent_scenes())
      recent->addAction(path, this, [this, path] { emit recent_asked(path); });
    recent->setEnabled(!recent->isEmpty());
    menu->addAction("Save scene and scripts\tCtrl+S", this, &Header::save_asked);
    menu->addAction("Save as…\tCtrl+Shift+S", this, &Header::save_as_asked);
    menu->addAction("All that can be done…\tF1", this, &Header::commands_asked);
    auto* look = menu->addMenu("Sheet and type");
    look->setObjectName("look");
    const std::pair<const char*, theme::Sheet> sheets[] = {{"as the desktop", theme::Sheet::desktop},
                                                           {"light: ink on warm paper", theme::Sheet::light},
                                                           {"dark: chalk on slate", theme::Sheet::dark}};
    for (const auto& [words, sheet] : sheets) {
      QAction* action = look->addAction(words, this, [this, which = sheet] { emit look_asked(which); });
      action->setCheckable(true);
      action->setChecked(chosen_sheet() == sheet);
    }
    look->addSeparator();
    const std::pair<const char*, double> sizes[] = {{"type as usual", 1}, {"larger type", 1.15}, {"largest type", 1.3}};
    for (const auto& [words, scale] : sizes) {
      QAction* action = look->addAction(words, this, [this, which = scale] { emit type_asked(which); });
      action->setCheckable(true);
      action->setChecked(std::abs(chosen_type() - scale) < 0.01);
    }
    menu->addSeparator();
    auto* undo = menu->addAction(session_.undo_name().isEmpty() ? "Nothing to undo" : "Undo " + session_.undo_name(),
                                 &session_, &Session::undo);
    undo->setText(undo->text() + "\tCtrl+Z");
    undo->setEnabled(!session_.undo_name().isEmpty());
    auto* redo = menu->addAction(session_.redo_name().isEmpty() ? "Nothing to redo" : "Redo " + session_.redo_name(),
                                 &session_, &Session::redo);
    redo->setText(redo->text() + "\tCtrl+Shift+Z");
    redo->setEnabled(!session_.redo_name().isEmpty());
  });
  scene_->setMenu(menu);
  row->addWidget(scene_);
  saved_ = label(theme::words(11), theme::faint_ink, this);
  row->addWidget(saved_);
  row->addStretch(1);

  auto* controls = new QFrame(this);
  controls->setObjectName("controls");
  controls->setStyleSheet("#controls { background: " + theme::paper.name() + "; border: 1px solid " +
                          theme::rule.name() + "; border-radius: 17px; }");
  auto* inner = new QHBoxLayout(controls);
  inner->setContentsMargins(8, 2, 8, 2);
  inner->setSpacing(3);
  play_ = button("play", "play (F5)", Qt::Key_F5, "play");
  play_->setIcon(theme::icon("play", theme::accent));
  pause_ = button("pause", "pause (F6)", Qt::Key_F6, "pause");
  step_ = button("step", "one tick forward, of the play or in the take (F7)", Qt::Key_F7, "step");
  stop_ = button("stop", "stop: back to the start, with a list of what you changed (Shift+F5)",
                 QKeySequence(Qt::SHIFT | Qt::Key_F5), "stop");
  restart_ =
      button("restart", "start again with the same seed (Ctrl+F5)", QKeySequence(Qt::CTRL | Qt::Key_F5), "restart");
  back_ = button("back", "one tick back in the take (Shift+F7)", QKeySequence(Qt::SHIFT | Qt::Key_F7), "back");
  for (QToolButton* each : {play_, pause_, back_, step_, stop_, restart_}) inner->addWidget(each);
  speed_ = new QToolButton(controls);
  speed_->setObjectName("speed");
  speed_->setFont(theme::numbers(12));
  speed_->setPopupMode(QToolButton::InstantPopup);
  speed_->setFixedWidth(52);
  speed_->setToolTip("how fast play runs: from a fiftieth to twice the real speed");
  auto* speed_menu = new QMenu(speed_);
  for (const Speed& speed : speeds)
    speed_menu->addAction(speed.word, this, [this, factor = speed.factor] { session_.set_speed(factor); });
  speed_->setMenu(speed_menu);
  inner->addWidget(speed_);
  sound_ = new QToolButton(controls);
  sound_->setObjectName("sound");
  sound_->setIconSize({17, 17});
  sound_->setFixedSize(30, 26);
  sound_->setPopupMode(QToolButton::InstantPopup);
  sound_->setAccessibleName("sound");
  auto* sound_menu = new QMenu(sound_);
  QAction* heard = sound_menu->addAction("Sounds are heard");
  heard->setObjectName("sound_on");
  heard->setCheckable(true);
  connect(heard, &QAction::toggled, &session_.loudspeaker(), &Loudspeaker::set_on);
  auto* level = new QSlider(Qt::Horizontal, sound_menu);
  level->setObjectName("sound_level");
  level->setRange(0, 100);
  level->setFixedWidth(150);
  level->setToolTip("how loud sounds are");
  connect(level, &QSlider::valueChanged, this,
          [this](int percent) { session_.loudspeaker().set_level(percent / 100.0); });
  auto* level_row = new QWidget(sound_menu);
  auto* level_layout = new QHBoxLayout(level_row);
  level_layout->setContentsMargins(12, 4, 12, 6);
  level_layout->addWidget(label(theme::words(12), theme::ink, level_row, "loudness"));
  level_layout->addWidget(level);
  auto* level_action = new QWidgetAction(sound_menu);
  level_action->setDefaultWidget(level_row);
  sound_menu->addAction(level_action);
  connect(sound_menu, &QMenu::aboutToShow, this, [this, heard, level] {
    const QSignalBlocker quiet_heard(heard), quiet_level(level);
    heard->setChecked(session_.loudspeaker().on());
    level->setValue(static_cast<int>(std::lround(100 * session_.loudspeaker().level())));
  });
  sound_->setMenu(sound_menu);
  connect(&session_.loudspeaker(), &Loudspeaker::changed, this, &Header::show_sound);
  inner->addWidget(sound_);
  controls->setFixedHeight(34);
  row->addWidget(controls);
  row->addSpacing(10);

  time_ = label(theme::numbers(15, QFont::DemiBold), theme::accent, this);
  time_->setToolTip("time in play: tick ÷ tick rate");
  time_->setFixedWidth(96);
  time_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  row->addWidget(time_);
  row->addSpacing(6);
  tick_ = label(theme::numbers(12), theme::faint_ink, this);
  tick_->setFixedWidth(84);
  row->addWidget(tick_);
  // What is said of now, and the way back to it: one place, so that nothing beside it moves.
  moment_ = new QStackedWidget(this);
  moment_->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Preferred);
  auto* now = new QWidget(moment_);
  auto* now_row = new QHBoxLayout(now);
  now_row->setContentsMargins(0, 0, 0, 0);
  now_row->setSpacing(8);
  rate_ = label(theme::numbers(12), theme::faint_ink, now);
  rate_->setToolTip("ticks a second · solver sub-steps in a tick");
  now_row->addWidget(rate_);
  seed_ = new QToolButton(now);
  seed_->setObjectName("seed");
  seed_->setFont(theme::numbers(12));
  seed_->setStyleSheet("QToolButton { color: " + theme::faint_ink.name() +
                       "; border: 1px solid transparent; } QToolButton:focus { border-color: " + theme::chosen.name() +
                       "; }");
  seed_->setToolTip(
      "the same seed gives the same play, bit for bit; click to take the next one, with which a play that runs begins "
      "again");
  connect(seed_, &QToolButton::clicked, this, [this] { try_to([this] { session_.restart_with_new_seed(); }); });
  now_row->addWidget(seed_);
  moment_->addWidget(now);
  auto* past = new QWidget(moment_);
  auto* past_row = new QHBoxLayout(past);
  past_row->setContentsMargins(0, 0, 0, 0);
  live_ = new QToolButton(past);
  live_->setObjectName("to_live");
  live_->setText("to live");
  live_->setFont(theme::words(11, QFont::Medium));
  live_->setToolTip("back from this moment of the take to now (Escape on the stage or in the lanes)");
  live_->setStyleSheet(
      "QToolButton { background: " + theme::chosen.name() + "; color: " + theme::on_chosen.name() +
      "; border: 1px solid " + theme::chosen.name() +
      "; border-radius: 11px; padding: 2px 12px; } QToolButton:focus { border-color: " + theme::ink.name() + "; }");
  connect(live_, &QToolButton::clicked, &session_, &Session::live);
  past_row->addWidget(live_, 0, Qt::AlignCenter);
  moment_->addWidget(past);
  row->addWidget(moment_);
  row->addSpacing(8);
  pace_ = label(theme::words(11, QFont::Medium), theme::faint_ink, this);
  pace_->setObjectName("pace");
  pace_->setFixedWidth(104);
  pace_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  row->addWidget(pace_);

  connect(play_, &QToolButton::clicked, this, [this] { try_to([this] { session_.play(); }); });
  connect(pause_, &QToolButton::clicked, &session_, &Session::pause);
  connect(step_, &QToolButton::clicked, this, [this] {
    try_to([this] {
      if (session_.in_past())
        session_.step_head(1);
      else
        session_.step();
    });
  });
  connect(back_, &QToolButton::clicked, this, [this] { session_.step_head(-1); });
  connect(&session_, &Session::takes_changed, this, &Header::show_state);
  connect(&session_, &Session::head_moved, this, &Header::show_state);
  connect(stop_, &QToolButton::clicked, &session_, &Session::stop);
  connect(restart_, &QToolButton::clicked, this, [this] { try_to([this] { session_.restart(); }); });
  connect(&session_, &Session::play_state_changed, this, &Header::show_state);
  connect(&session_, &Session::document_changed, this, &Header::show_state);
  connect(&session_, &Session::scripts_changed, this, &Header::show_state);
  connect(&session_, &Session::values_changed, this, &Header::show_state);
  connect(&session_, &Session::pending_changed, this, &Header::show_state);
  connect(&session_, &Session::refreshed, this, &Header::show_time);
  connect(&session_, &Session::tick_is_long, this, &Header::show_time);
  show_sound();
  show_state();
}

void Header::show_sound() {
  const Loudspeaker& loudspeaker = session_.loudspeaker();
  const bool none = loudspeaker.card() == Loudspeaker::Card::none;
  sound_->setIcon(theme::icon(loudspeaker.on() && !none ? "sound" : "silent", none ? theme::faint_ink : theme::ink));
  sound_->setToolTip(none               ? "no sound: no sound card was found; all else works"
                     : loudspeaker.on() ? "hits, slides and splashes are heard; how loud"
                                        : "silent; click to hear hits, slides and splashes");
}

QToolButton* Header::button(const QString& icon, const QString& tip, const QKeySequence& key, const QString& name) {
  auto* made = new QToolButton(this);
  made->setObjectName(name);
  made->setIcon(theme::icon(icon));
  made->setIconSize({17, 17});
  made->setFixedSize(30, 26);
  made->setToolTip(tip);
  made->setAccessibleName(name);
  made->setShortcut(key);
  return made;
}

void Header::try_to(const std::function<void()>& act) {
  try {
    act();
  } catch (const std::exception& e) {
    emit session_.said(e.what());
  }
}

void Header::show_state() {
  const auto state = session_.play_state();
  const bool editing = state == Session::PlayState::editing;
  scene_->setText(QString::fromStdString(session_.scene().name));
  saved_->setText(!session_.has_folder() ? "not on disk"
                  : session_.tuned()     ? "tuned, not kept"
                  : session_.saved()     ? "saved"
                                         : "not saved");
  saved_->setStyleSheet("color: " + (session_.saved() && !session_.tuned() ? theme::faint_ink : theme::accent).name());
  play_->setEnabled(state != Session::PlayState::playing);
  pause_->setEnabled(state == Session::PlayState::playing);
  back_->setEnabled(session_.shown_take() != nullptr);
  moment_->setCurrentIndex(session_.in_past() ? 1 : 0);
  stop_->setEnabled(!editing);
  restart_->setEnabled(!editing);
  for (const Speed& speed : speeds)
    if (speed.factor == session_.speed()) speed_->setText(speed.word);
  rate_->setText(QString("%1 Hz · %2").arg(session_.scene().world.tick_rate).arg(session_.scene().world.substeps));
  seed_->setText(QString("seed %1").arg(session_.seed()));
  show_time();
}

void Header::show_time() {
  time_->setText(QString::number(session_.time(), 'f', 3) + " s");
  tick_->setText(QString("tick %1").arg(session_.tick()));
  const double behind = session_.behind();
  QString pace;
  switch (session_.play_state()) {
    case Session::PlayState::editing:
      pace = session_.in_past() ? "" : "at the start";
      break;
    case Session::PlayState::paused:
      pace = "paused";
      break;
    case Session::PlayState::playing:
      pace = behind > 0.02 ? QString("%1 s behind").arg(behind, 0, 'f', 1) : "keeping time";
      break;
  }
  if (const KeptTake* take = session_.in_past() ? session_.shown_take() : nullptr)
    pace = QString("of take %1").arg(take->label.number);
  const double long_tick = session_.long_tick();
  if (long_tick > 0.25)
    pace = QString(session_.stopping() ? "stops after it: %1 s" : "in a tick for %1 s").arg(long_tick, 0, 'f', 0);
  pace_->setText(pace);
  pace_->setStyleSheet("color: " + (behind > 0.02 || long_tick > 0.25 ? theme::accent : theme::faint_ink).name());
}

}  // namespace bronvel
