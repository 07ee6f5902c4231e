// Going on from a moment of a take, and asking takes again.
#include <utility>

#include "app/session/session.h"

namespace bronvel {
void Session::go_on_from_here() {
  const KeptTake* shown = shown_take();
  if (!shown || !shown->take || !head_) return;
  const std::int64_t from = *head_;
  const int number = shown->label.number;
  if (runner_) {
    stop();
    if (runner_) return;  // A long tick: stop first.
    drop_pending();
  }
  shown_ = number;
  head_ = from;
  pause_at_ = from;
  try {
    start_play();
  } catch (...) {
    pause_at_.reset();
    throw;
  }
  // Where it comes from stays in view until it is there.
  runner_->go();
  state_ = PlayState::playing;
  emit play_state_changed();
}

void Session::ask_again() {
  const KeptTake* shown = shown_take();
  if (!shown || !shown->take || runner_) return;
  // While one that was asked is looked at, it is its own base that is asked anew.
  if (shown->label.number != asked_number_ || !take_called(asked_base_)) {
    asked_base_ = shown->label.number;
    asked_number_ = 0;
  }
  const KeptTake* base = take_called(asked_base_);
  if (!base->take) return;
  asked_of_ = document_.as_played();
  Question question = base->take->with([&](const Take& take) { return question_of(take, *asked_of_); });
  if (!base->ask_dropped) question.inputs = without_settings(std::move(question.inputs), base->dropped);
  asker_.ask(std::move(question));
  emit asked_changed();
}

void Session::ask_with_dropped(int number, bool on) {
  KeptTake* kept = take_called(number);
  if (!kept || kept->ask_dropped == on) return;
  kept->ask_dropped = on;
  emit takes_changed();
  const KeptTake* shown = shown_take();
  if (shown && (shown->label.number == number || (shown->label.number == asked_number_ && asked_base_ == number)))
    ask_again();
}

void Session::set_follows(bool on) {
  follows_ = on;
  if (!on) {
    asker_.cancel();
    end_filling();
  }
  if (on) follow_changes();
  emit asked_changed();
}

void Session::follow_changes() {
  if (!follows_ || runner_) return;
  const KeptTake* shown = shown_take();
  if (!shown || !shown->take) return;
  const SceneFolder now = document_.as_played();
  // Back at what was recorded: that is there already.
  const KeptTake* base = shown->asked ? take_called(asked_base_) : nullptr;
  if (base && base->take && shown->label.number == asked_number_ &&
      base->take->with([&](const Take& take) { return plays_alike(take.folder, now); })) {
    asker_.cancel();
    filling_ = false;
    const int number = base->label.number, answer = asked_number_;
    asked_of_ = now;
    show_take(number);
    forget_take(answer);
    return;
  }
  const bool known = asked_of_ ? plays_alike(*asked_of_, now)
                               : shown->take->with([&](const Take& take) { return plays_alike(take.folder, now); });
  if (!known) ask_again();
}

void Session::show_answer(const std::shared_ptr<SharedTake>& take) {
  if (runner_) return;
  KeptTake* kept = asked_number_ > 0 ? take_called(asked_number_) : nullptr;
  if (!kept) {
    forget_takes(1);
    KeptTake fresh;
    fresh.label.number = next_number();
    fresh.asked = true;
    takes_.push_back(std::move(fresh));
    kept = &takes_.back();
    asked_number_ = kept->label.number;
    compared_ = asked_base_;
    compared_reader_.forget();
  }
  const double rate = shown_rate();
  kept->take = take;
  kept->label.about.clear();
  if (const KeptTake* base = take_called(asked_base_); base && base->take) {
    const SceneFolder then = base->take->with([](const Take& t) { return t.folder; });
    const SceneFolder now = take->with([](const Take& t) { return t.folder; });
    kept->label.about = on_one_line(differences(then, now));
    if (kept->label.about.empty()) kept->label.about = "as take " + std::to_string(asked_base_);
    if (!base->ask_dropped)
      for (const std::string& setting : base->dropped)
        kept->label.about += "; without " + setting + ", dropped at stop";
  }
  shown_ = asked_number_;
  keep_head_time(rate);
  filling_ = asker_.busy();
  reader_.forget();
  if (head_) look_at_moment();
  emit takes_changed();
  emit refreshed();
}

// What is shown grows no more: the moment that is looked at may be there now.
void Session::end_filling() {
  if (!std::exchange(filling_, false) || runner_ || !head_) return;
  look_at_moment();
  emit head_moved();
  emit refreshed();
}

// Where scripts were stopped, what follows is not what was meant: said on the take, and marked in its lanes.
void Session::tell_stops(const std::shared_ptr<SharedTake>& answer) {
  KeptTake* kept = take_called(asked_number_);
  if (!kept || kept->take != answer) return;
  const auto [stops, rate] = answer->with([](const Take& take) { return std::pair(take.stops(), take.tick_rate()); });
  if (stops.empty()) return;
  const LogLine& first = stops.front();
  const QString when = QString::number(static_cast<double>(first.tick) / rate, 'f', 2);
  kept->label.about +=
      (kept->label.about.empty() ? "" : "; ") + first.script + " stopped at " + when.toStdString() + " s";
  report("Asked again; but " + QString::fromStdString(first.whole()) + " stopped the script at " + when + " s.");
  emit takes_changed();
}

// An answer that is whole: asked as it was, it has to be the same.
void Session::compare_answer(const std::shared_ptr<SharedTake>& answer) {
  const KeptTake* base = take_called(asked_base_);
  if (!base || !base->take || base->file.empty()) return;
  const auto [folder, digest, ticks] =
      base->take->with([](const Take& take) { return std::tuple(take.folder, take.digest, take.ticks); });
  const bool same = answer->with([&, &folder = folder, &digest = digest, &ticks = ticks](const Take& take) {
    return !digest || take.ticks != ticks || take.digest == digest || !plays_alike(folder, take.folder);
  });
  if (!same)
    report(
        QString("Take %1 no longer plays as it was recorded: another version of Bronvel made it. What it recorded can "
                "still be looked at.")
            .arg(base->label.number));
}

}  // namespace bronvel
