// The guide's steps and how it sees that they are done.
#include "app/guide.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/kit/theme.h"
#include "app/session/folders.h"
#include "app/session/settings.h"

namespace bronvel {
namespace {

const QString closed_setting = "guide/first_steps_closed";

// What the demo's first steps are, in their order.
enum FirstStep : std::size_t { play, turn, change, why, keep };
// And those of a scene from nothing.
enum EmptyStep : std::size_t { put_down, give_script, try_it };

}  // namespace

Guide::Guide(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
  setObjectName("guide");
  setStyleSheet("#guide { background: " + theme::sheet.name() + "; border: 1px solid " + theme::rule.name() +
                "; border-radius: 8px; }");
  setFixedWidth(232);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 7, 8, 9);
  column->setSpacing(5);
  auto* top = new QHBoxLayout;
  title_ = theme::label(theme::words(12, QFont::DemiBold), theme::ink, this);
  top->addWidget(title_, 1);
  auto* close = new QToolButton(this);
  close->setObjectName("guide_close");
  close->setText("✕");
  close->setToolTip("close this until the scene is opened again");
  connect(close, &QToolButton::clicked, this, [this] {
    of_ = Of::nothing;
    hide();
    emit resized();
  });
  top->addWidget(close);
  column->addLayout(top);
  list_ = new QVBoxLayout;
  list_->setSpacing(4);
  column->addLayout(list_);
  end_ = theme::label(theme::words(11), theme::faint_ink, this, "<a href=\"end\">do not show this again</a>");
  end_->setObjectName("guide_end");
  end_->setFocusPolicy(Qt::StrongFocus);
  end_->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
  connect(end_, &QLabel::linkActivated, this, [this] {
    bench_settings().setValue(closed_setting, true);
    hide();
    emit resized();
  });
  column->addWidget(end_);
  hide();
  connect(&session_, &Session::opened, this, &Guide::begin);
  for (const auto signal : {&Session::play_state_changed, &Session::values_changed, &Session::document_changed,
                            &Session::scripts_changed, &Session::pending_changed, &Session::head_moved})
    connect(&session_, signal, this, &Guide::look);
}

void Guide::begin() {
  const Scene& scene = session_.scene();
  dials_before_.clear();
  for (const Body& body : scene.bodies)
    if (!body.scripts.empty())
      for (const Dial& dial : session_.dials(body.name))
        dials_before_[body.name][dial.script + "/" + dial.name] = number_of(dial.value);
  scripts_before_ = session_.scripts();
  waited_for_keep_ = false;
  of_ = Of::nothing;
  const bool closed = bench_settings().value(closed_setting, false).toBool();
  std::error_code none;
  const bool demo = session_.has_folder() && std::filesystem::equivalent(session_.path().toStdString(),
                                                                         examples_folder() + "/skerrow-quay", none);
  if (demo && !closed) {
    of_ = Of::demo;
    show_steps("First steps",
               {{"Press F5 to play."},
                {"Turn the dial push on the desk: while it plays, or after it, for the take to follow."},
                {"Change the 3.0 in line 4 of nudge.lua, and save with Ctrl+S."},
                {"See why: press a mark in the lane of events, below."},
                {"Stop with Shift+F5 and keep a value."}},
               true);
  } else if (!session_.has_folder() && !closed) {
    of_ = Of::empty;
    show_steps("From nothing",
               {{"Put something down: a click in the shelf below, or drag it to where it belongs."},
                {"Give it a script: + on the desk, or a ready behaviour."},
                {"Press F5 to try it."}},
               true);
  } else if (!scene.tasks.empty()) {
    of_ = Of::tasks;
    std::vector<Step> tasks;
    for (const std::string& task : scene.tasks) tasks.push_back({QString::fromStdString(task), false});
    show_steps("To try here", std::move(tasks), false);
  } else {
    hide();
  }
  emit resized();
}

void Guide::show_steps(const QString& title, std::vector<Step> steps, bool may_end_for_ever) {
  title_->setText(title);
  for (const Step& step : steps_) delete step.mark->parentWidget();
  steps_ = std::move(steps);
  for (Step& step : steps_) {
    auto* row = new QWidget(this);
    auto* layout = new QHBoxLayout(row);
    layout->setContentsMargins(0, 0, 4, 0);
    layout->setSpacing(7);
    step.mark = theme::label(theme::words(12), theme::accent, row, step.counts ? "○" : "·");
    step.mark->setFixedWidth(12);
    layout->addWidget(step.mark, 0, Qt::AlignTop);
    step.label = theme::label(theme::words(12), theme::ink, row, step.words);
    step.label->setWordWrap(true);
    layout->addWidget(step.label, 1);
    list_->addWidget(row);
  }
  end_->setVisible(may_end_for_ever);
  title_words_ = title;
  show_next();
  show();
  fit();
}

// Of steps that count only the next is told, so that little of the stage is covered; tasks are told all.
void Guide::show_next() {
  QString marks;
  bool told = false;
  for (Step& step : steps_) {
    if (!step.counts) continue;
    marks += step.done ? "✓" : "○";
    step.mark->parentWidget()->setVisible(!step.done && !told);
    told = told || !step.done;
  }
  title_->setText(marks.isEmpty() ? title_words_ : title_words_ + "  " + marks);
}

void Guide::fit() {
  layout()->activate();
  resize(width(), layout()->totalHeightForWidth(width()));
}

void Guide::tick_off(std::size_t at) {
  Step& step = steps_.at(at);
  if (step.done) return;
  step.done = true;
  show_next();
  if (std::all_of(steps_.begin(), steps_.end(), [](const Step& each) { return each.done; })) {
    title_->setText("Done. That is the whole of it.");
    end_->hide();
    bench_settings().setValue(closed_setting, true);
  }
  fit();
  emit resized();
}

void Guide::saw_why() {
  if (of_ == Of::demo) tick_off(why);
}

void Guide::look() {
  const bool plays = session_.play_state() == Session::PlayState::playing;
  if (of_ == Of::empty) {
    const Scene& scene = session_.scene();
    if (std::any_of(scene.bodies.begin(), scene.bodies.end(),
                    [](const Body& b) { return b.kind != MotionKind::fixed; }))
      tick_off(put_down);
    if (std::any_of(scene.bodies.begin(), scene.bodies.end(), [](const Body& b) { return !b.scripts.empty(); }))
      tick_off(give_script);
    if (plays && steps_[put_down].done) tick_off(try_it);
    return;
  }
  // Tasks are told on opening and between plays: in play the stage is for the hands.
  if (of_ == Of::tasks && isVisibleTo(parentWidget()) != session_.building()) {
    setVisible(session_.building());
    emit resized();
  }
  if (of_ != Of::demo) return;
  if (plays) tick_off(play);
  if (!steps_[turn].done && (session_.live_play() || session_.shown_take()))
    for (const auto& [body, dials] : dials_before_)
      for (const Dial& dial : session_.dials(body))
        if (const auto found = dials.find(dial.script + "/" + dial.name);
            found != dials.end() && found->second != number_of(dial.value) && std::isfinite(found->second))
          tick_off(turn);
  if (session_.scripts() != scripts_before_ && session_.saved()) tick_off(change);
  if (session_.in_past()) tick_off(why);
  if (waited_for_keep_ && session_.pending().empty() && session_.undo_name().startsWith("keep ")) tick_off(keep);
  waited_for_keep_ = !session_.pending().empty();
}

}  // namespace bronvel
