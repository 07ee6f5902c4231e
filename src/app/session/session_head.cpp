// Looking at takes: which one, the play head, and the lanes that are plotted of it.
#include <algorithm>

#include "app/session/session.h"
#include "geometry/base/error.h"
#include "lab/takes/take_heard.h"

namespace bronvel {
namespace {
const std::vector<std::string> first_lanes{"height", "speed"};
}

const KeptTake* Session::take_called(int number) const {
  for (const KeptTake& kept : takes_)
    if (kept.label.number == number) return &kept;
  return nullptr;
}

KeptTake* Session::take_called(int number) {
  return const_cast<KeptTake*>(std::as_const(*this).take_called(number));
}

const KeptTake* Session::shown_take() const {
  if (const KeptTake* picked = shown_ > 0 ? take_called(shown_) : nullptr) return picked;
  for (auto kept = takes_.rbegin(); kept != takes_.rend(); ++kept)
    if (kept->take) return &*kept;
  return nullptr;
}

const KeptTake* Session::compared_take() const {
  const KeptTake* kept = compared_ > 0 ? take_called(compared_) : nullptr;
  return kept && kept->take && kept != shown_take() ? kept : nullptr;
}

void Session::with_take(const std::function<void(const Take&, TakeReader&)>& use) {
  if (const KeptTake* kept = shown_take(); kept && kept->take)
    kept->take->with([&](const Take& take) { use(take, reader_); });
}

void Session::with_compared(const std::function<void(const Take&, TakeReader&)>& use) {
  if (const KeptTake* kept = compared_take()) kept->take->with([&](const Take& take) { use(take, compared_reader_); });
}

void Session::open_kept(KeptTake& kept) {
  if (kept.take) return;
  TakeFile file = open_take(kept.file);
  const std::vector<std::string> since = differences(file.take.folder, document_.as_played());
  kept.take = std::make_shared<SharedTake>(std::move(file.take));
  if (!since.empty())
    say(QString("Changed since take %1: ").arg(kept.label.number) + QString::fromStdString(on_one_line(since)));
}

double Session::shown_rate() const {
  const KeptTake* shown = shown_take();
  return shown && shown->take ? shown->take->with([](const Take& take) { return take.tick_rate(); })
                              : scene().world.tick_rate;
}

void Session::keep_head_time(double rate_before) {
  if (head_) head_ = tick_at_rate(*head_, rate_before, shown_rate());
}

void Session::show_take(int number) {
  KeptTake* kept = take_called(number);
  if (!kept) return;
  open_kept(*kept);
  const double rate = shown_rate();
  shown_ = number;
  keep_head_time(rate);
  if (compared_ == number) compared_ = 0;
  reader_.forget();
  if (head_) look_at_tick(*head_);
  emit takes_changed();
}

void Session::compare_take(int number) {
  KeptTake* kept = take_called(number);
  if (kept && compared_ != number) open_kept(*kept);
  compared_ = compared_ == number ? 0 : number;
  compared_reader_.forget();
  emit takes_changed();
  emit refreshed();
}

// The frame of the moment that is looked at, where that is not the running play's.
void Session::look_at_moment() {
  if (!head_) {
    if (!runner_) rebuild_views();
    return;
  }
  const KeptTake* shown = shown_take();
  if (!shown || !shown->take) {
    head_.reset();
    if (!runner_) rebuild_views();
    return;
  }
  with_take([&](const Take& take, TakeReader& reader) {
    moment_ = moment_of(take, reader, *head_, choice_);
    // An answer that still fills may not have come so far: the head waits for it.
    const bool fills = filling_ && shown->label.number == asked_number_;
    if (!pause_at_ && !fills) head_ = moment_.frame.tick;
  });
}

void Session::look_at_tick(std::int64_t tick) {
  const KeptTake* shown = shown_take();
  if (!shown || !shown->take || pause_at_) return;
  const bool began = !head_;
  hear_up_to(std::max<std::int64_t>(tick, 0));
  head_ = std::max<std::int64_t>(tick, 0);
  if (began && trying()) let_go();
  look_at_moment();
  if (began) emit play_state_changed();
  emit head_moved();
  emit refreshed();
}

// The same sounds as when it was played, at whatever pace the head goes forward; none when it jumps or goes back.
void Session::hear_up_to(std::int64_t tick) {
  SoundQueue& ears = *loudspeaker_.queue();
  if (!head_ || tick <= *head_ || !ears.wanted()) return;
  const auto has_file = [&](const std::string& name) { return ears.has_file(name); };
  with_take([&](const Take& take, TakeReader& reader) {
    const std::int64_t last = std::min(tick, take.ticks - 1);
    constexpr double furthest = 1;  // s
    if (static_cast<double>(tick - *head_) > furthest * take.tick_rate()) return;
    for (std::int64_t t = *head_ + 1; t <= last; ++t) ears.give(hear(take, reader, t, has_file));
  });
  loudspeaker_.attend();
  slides_end_.start();
}

void Session::step_head(std::int64_t ticks) {
  std::int64_t now = 0;
  with_take([&](const Take& take, TakeReader&) { now = head_.value_or(take.ticks - 1); });
  look_at_tick(now + ticks);
}

void Session::live() {
  if (!head_ || pause_at_) return;
  head_.reset();
  refresh();
  emit play_state_changed();
  emit head_moved();
  emit values_changed();
}

std::vector<std::string> Session::lanes() const {
  return scene().lanes.empty() ? first_lanes : scene().lanes;
}

void Session::set_lanes(const std::vector<std::string>& lanes) {
  document_.history().set_lanes(lanes == first_lanes ? std::vector<std::string>{} : lanes);
  emit document_changed();
  emit takes_changed();
}

void Session::add_lane(const QString& name) {
  const std::string wanted = name.trimmed().toStdString();
  if (wanted.empty()) return;
  std::vector<std::string> all = lanes();
  if (std::find(all.begin(), all.end(), wanted) != all.end()) {
    emit said(name + " is a lane already");
    return;
  }
  const bool of_chosen = wanted.find('.') == std::string::npos;
  Channel channel;
  try {
    const std::string whole = of_chosen ? chosen() + "." + wanted : wanted;
    bool told = false;
    with_take([&](const Take& take, TakeReader&) {
      told = true;
      channel = channel_called(whole, take.owners());
    });
    if (!told) channel = channel_called(whole, ChannelOwners::of(scene()));
  } catch (const Error& e) {
    emit said(e.what());
    return;
  }
  // A vector has a lane a component.
  for (const std::string& column : channel.columns) {
    const std::string lane = of_chosen ? column.substr(chosen().size() + 1) : column;
    if (std::find(all.begin(), all.end(), lane) == all.end()) all.push_back(lane);
  }
  set_lanes(all);
}

}  // namespace bronvel
