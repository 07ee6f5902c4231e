// Takes: recording, looking back, going on, asking again, keeping.
#include <algorithm>
#include <utility>

#include "app/session/session.h"
#include "app/session/session_fresh.h"
#include "app/session/settings.h"
#include "geometry/error.h"
#include "lab/take_heard.h"

namespace bronvel {
namespace {

constexpr std::size_t most_takes = 50;
constexpr std::size_t least_memory = std::size_t{1} << 20;
const QString memory_setting = "takes/memory_mib";  // MiB
const std::vector<std::string> first_lanes{"height", "speed"};

// What a play depends on, of the scene: the rest may change without asking again.
bool plays_alike(const SceneFolder& a, const SceneFolder& b) {
  if (a.scripts != b.scripts) return false;
  const auto bare = [](Scene scene) {
    scene.view = {};
    scene.views.clear();
    scene.lanes.clear();
    scene.name.clear();
    scene.about.clear();
    scene.tasks.clear();
    return scene;
  };
  return bare(a.scene) == bare(b.scene);
}

std::string joined(const std::vector<std::string>& texts) {
  std::string all;
  for (const std::string& text : texts) all += (all.empty() ? "" : ", ") + text;
  return all;
}

}  // namespace

// ---- recording

int Session::next_number() const {
  return takes_.empty() ? 1 : takes_.back().label.number + 1;
}

void Session::begin_take(SceneFolder folder) {
  drop_pending();
  asker_.cancel();
  filling_ = false;
  asked_number_ = 0;
  script_faults_ = 0;
  fault_told_ = false;
  faults_from_play_ = lines_logged_;
  faults_from_.clear();
  std::unique_ptr<Play> play;
  std::int64_t from = 0;
  const KeptTake* past = pause_at_ ? shown_take() : nullptr;
  const int past_number = past ? past->label.number : 0;
  if (past && past->take) {
    Question question = past->take->with([](const Take& take) { return question_of(take); });
    from = *pause_at_;
    std::erase_if(question.inputs, [&](const Input& input) { return input.tick >= from; });
    folder = question.folder;
    play = std::make_unique<Play>(folder, question.seed, question.inputs);
  } else {
    pause_at_.reset();
    play = std::make_unique<Play>(folder, seed());
  }
  look_for_snags();
  const std::uint64_t its_seed = play->seed();
  snag_watch_ = std::make_shared<SnagWatch>(*play);
  auto take = std::make_shared<SharedTake>(folder, *play);
  fresh_ = std::make_shared<Fresh>();
  actions_.clear();
  runner_ = std::make_unique<Runner>(
      std::move(play), clock_,
      [take, fresh = fresh_, watch = snag_watch_, ears = loudspeaker_.queue(), from](Play& running) {
        const std::vector<LogLine> lines = running.take_log();
        take->record(running, lines);
        fresh->log.insert(fresh->log.end(), lines.begin(), lines.end());
        watch->look(running);
        for (const Drawn& drawn : running.drawn())
          if (drawn.kind == Drawn::Kind::puff || drawn.kind == Drawn::Kind::sound)
            fresh->passing.push_back({drawn, running.tick(), 0});
        // While it hurries to where it goes on, there is nothing to be heard.
        if (ears->wanted() && running.tick() > from)
          ears->give(hear(running, [&ears](const std::string& name) { return ears->has_file(name); }));
      });
  runner_->set_speed(speed_);
  if (from > 0) runner_->hurry_to(from);
  forget_takes(1);
  KeptTake kept;
  kept.label.number = next_number();
  kept.take = take;
  kept.playing = true;
  kept.label.about = about_take(kept);
  if (from > 0) {
    const std::string what =
        "from " + QString::number(static_cast<double>(from) / folder.scene.world.tick_rate, 'f', 2).toStdString() +
        " s of take " + std::to_string(past_number);
    kept.label.about = what;
    compared_ = past_number;
  } else {
    head_.reset();
  }
  shown_ = 0;
  takes_.push_back(std::move(kept));
  reader_.forget();
  LogLine begins;
  begins.text = "take " + std::to_string(takes_.back().label.number) + " begins, seed " + std::to_string(its_seed) +
                (from > 0 ? ", " + takes_.back().label.about : "");
  add_log({begins});
  emit takes_changed();
}

// What is different from the take before.
std::string Session::about_take(const KeptTake& kept) const {
  const KeptTake* before = nullptr;
  for (const KeptTake& each : takes_)
    if (each.take && each.label.number < kept.label.number) before = &each;
  if (!before || !kept.take) return "";
  const SceneFolder then = before->take->with([](const Take& take) { return take.folder; });
  const auto [now, seed] = kept.take->with([](const Take& take) { return std::pair(take.folder, take.seed); });
  std::string about = joined(differences(then, now));
  const std::uint64_t other = before->take->with([](const Take& take) { return take.seed; });
  if (seed != other)
    about += (about.empty() ? "" : ", ") + ("seed " + std::to_string(other) + " → " + std::to_string(seed));
  return about;
}

// The play is held: its changes are taken over.
void Session::end_take() {
  runner_.reset();
  if (takes_.empty() || !takes_.back().playing) return;
  KeptTake& kept = takes_.back();
  kept.playing = false;
  for (const Change& change : pending_) {
    const auto text = [](const Value& value) {
      const auto* x = std::get_if<double>(&value);
      return x ? QString::number(*x, 'g', 4).toStdString() : value_text(value);
    };
    kept.label.about += (kept.label.about.empty() ? "" : ", ") + change.body + " " + change.name + " " +
                        text(change.before) + " → " + text(change.after);
  }
}

namespace {

std::size_t memory_of(const KeptTake& kept) {
  return kept.take ? kept.take->with([](const Take& take) { return take.bytes(); }) : 0;
}

}  // namespace

void Session::recall_takes_memory() {
  most_takes_memory_ = std::max<std::size_t>(
      bench_settings().value(memory_setting, qulonglong{TakeRecorder::most >> 20}).toULongLong() << 20, least_memory);
}

std::size_t Session::takes_memory() const {
  std::size_t sum = 0;
  for (const KeptTake& kept : takes_) sum += memory_of(kept);
  return sum;
}

void Session::set_most_takes_memory(std::size_t bytes) {
  most_takes_memory_ = std::max(bytes, least_memory);
  bench_settings().setValue(memory_setting, static_cast<qulonglong>(most_takes_memory_ >> 20));
  forget_takes();
  emit takes_changed();
}

// The oldest first, until all fit in and `room` more takes do; never one that is pinned or looked at. What lies on disk
// too is only put out of memory. The one that is being recorded may have what the others leave.
void Session::forget_takes(std::size_t room) {
  std::size_t bytes = takes_memory();
  std::size_t count = static_cast<std::size_t>(
      std::count_if(takes_.begin(), takes_.end(), [](const KeptTake& t) { return t.take != nullptr; }));
  bool changed = false;
  while (count + room > most_takes || bytes > most_takes_memory_) {
    const KeptTake* shown = shown_take();
    const auto oldest = std::find_if(takes_.begin(), takes_.end(), [&](const KeptTake& t) {
      const bool looked_at = &t == shown || t.label.number == compared_ || t.label.number == asked_base_;
      return t.take && !looked_at && !t.playing && (!t.label.pinned || !t.file.empty());
    });
    if (oldest == takes_.end()) break;
    const std::size_t given_back = std::min(memory_of(*oldest), bytes);
    changed = true;
    --count;
    if (!oldest->file.empty()) {
      oldest->take.reset();
      bytes -= given_back;
      continue;
    }
    LogLine line;
    line.text =
        "take " + std::to_string(oldest->label.number) + " was forgotten: " +
        (bytes > most_takes_memory_ ? "the takes have all of their " + std::to_string(most_takes_memory_ >> 20) + " MiB"
                                    : "there are " + std::to_string(most_takes) + " others") +
        "; pin what is to be kept";
    takes_.erase(oldest);
    add_log({line});
    bytes -= given_back;
  }
  if (!takes_.empty() && takes_.back().playing) {
    const std::size_t its_own = memory_of(takes_.back());
    takes_.back().take->set_most(most_takes_memory_ - std::min(bytes - std::min(its_own, bytes), most_takes_memory_));
  }
  if (changed) emit takes_changed();
}

// ---- looking

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
    say(QString("Changed since take %1: ").arg(kept.label.number) + QString::fromStdString(joined(since)));
}

void Session::show_take(int number) {
  KeptTake* kept = take_called(number);
  if (!kept) return;
  open_kept(*kept);
  shown_ = number;
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
    frame_ = reader.frame(take, *head_);
    // An answer that still fills may not have come so far: the head waits for it.
    const bool fills = filling_ && shown->label.number == asked_number_;
    if (!pause_at_ && !fills) head_ = frame_.tick;
    waters_ =
        water_views(take.folder.scene, frame_.zones, take.seed, static_cast<double>(frame_.tick) / take.tick_rate());
    chosen_reading_ = reader.body(take, chosen(), frame_.tick);
    joint_reading_ = choice_.kind == ThingKind::joint ? reader.joint(take, choice_.other, frame_.tick) : std::nullopt;
    chosen_floating_ = chosen().empty() ? std::nullopt : reader.floating(take, chosen(), frame_.tick);
    chosen_bonds_ = chosen().empty() ? std::vector<BondReading>{} : reader.bonds(take, chosen(), frame_.tick);
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

// ---- going on, asking again

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
  asker_.ask(base->take->with([&](const Take& take) { return question_of(take, *asked_of_); }));
  emit asked_changed();
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
  kept->take = take;
  kept->label.about.clear();
  if (const KeptTake* base = take_called(asked_base_); base && base->take) {
    const SceneFolder then = base->take->with([](const Take& t) { return t.folder; });
    const SceneFolder now = take->with([](const Take& t) { return t.folder; });
    kept->label.about = joined(differences(then, now));
    if (kept->label.about.empty()) kept->label.about = "as take " + std::to_string(asked_base_);
  }
  shown_ = asked_number_;
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

// ---- keeping

void Session::keep_take_file(KeptTake& kept) {
  if (document_.path().empty() || kept.playing) return;
  open_kept(kept);
  const std::filesystem::path folder = document_.path() / "takes";
  std::error_code fault;
  std::filesystem::create_directories(folder, fault);
  const std::filesystem::path file = folder / ("take-" + std::to_string(kept.label.number) + ".take");
  kept.take->with([&](const Take& take) { save_take(take, kept.label, file); });
  kept.file = file;
}

void Session::try_to_keep(KeptTake& kept) {
  try {
    keep_take_file(kept);
  } catch (const std::exception& e) {
    report(QString("Take %1 was not kept: ").arg(kept.label.number) + e.what());
  }
}

void Session::pin_take(int number, bool pinned) {
  KeptTake* kept = take_called(number);
  if (!kept || kept->label.pinned == pinned) return;
  if (kept->playing) throw Error("take " + std::to_string(number), "is still being played", "stop first, then pin it");
  kept->asked = false;
  if (asked_number_ == number) asked_number_ = 0;
  kept->label.pinned = pinned;
  try {
    if (pinned) {
      keep_take_file(*kept);
      emit said(document_.path().empty() ? QString("take %1 is kept with the scene when that is saved").arg(number)
                                         : QString("take %1 is kept in the scene's takes folder").arg(number));
    } else if (!kept->file.empty()) {
      open_kept(*kept);
      std::error_code fault;
      std::filesystem::remove(kept->file, fault);
      kept->file.clear();
    }
  } catch (...) {
    kept->label.pinned = !pinned;
    emit takes_changed();
    throw;
  }
  emit takes_changed();
}

void Session::label_take(int number, const QString& name, const QString& note) {
  KeptTake* kept = take_called(number);
  if (!kept) return;
  kept->label.name = name.toStdString();
  kept->label.note = note.toStdString();
  if (kept->label.pinned && !kept->file.empty()) keep_take_file(*kept);
  emit takes_changed();
}

void Session::forget_take(int number) {
  KeptTake* kept = take_called(number);
  if (!kept || kept->playing) return;
  if (!kept->file.empty()) {
    std::error_code fault;
    std::filesystem::remove(kept->file, fault);
  }
  std::erase_if(takes_, [&](const KeptTake& each) { return each.label.number == number; });
  if (shown_ == number) shown_ = 0;
  if (compared_ == number) compared_ = 0;
  if (asked_number_ == number) asked_number_ = 0;
  reader_.forget();
  look_at_moment();
  emit takes_changed();
  emit refreshed();
}

void Session::list_takes_on_disk() {
  if (document_.path().empty()) return;
  std::error_code fault;
  for (const auto& entry : std::filesystem::directory_iterator(document_.path() / "takes", fault)) {
    if (entry.path().extension() != ".take") continue;
    KeptTake kept;
    kept.file = entry.path();
    try {
      kept.label = read_take_label(kept.file);
    } catch (const Error& e) {
      // Said, and left where it is.
      LogLine line;
      line.level = LogLevel::warning;
      line.text = e.what();
      log_.push_back(line);
      continue;
    }
    kept.label.pinned = true;
    if (!take_called(kept.label.number)) takes_.push_back(std::move(kept));
  }
  std::sort(takes_.begin(), takes_.end(),
            [](const KeptTake& a, const KeptTake& b) { return a.label.number < b.label.number; });
}

void Session::take_values_of(int number) {
  KeptTake* kept = take_called(number);
  if (!kept) return;
  open_kept(*kept);
  const Take take = kept->take->with([](const Take& t) { return t; });
  edit(QString("values of take %1").arg(number), [&](Scene& scene) { take_values_back(scene, take); });
}

// ---- lanes

std::vector<std::string> Session::lanes() const {
  return scene().lanes.empty() ? first_lanes : scene().lanes;
}

void Session::set_lanes(const std::vector<std::string>& lanes, const QString& about) {
  edit(about, [&](Scene& scene) { scene.lanes = lanes == first_lanes ? std::vector<std::string>{} : lanes; });
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
  set_lanes(all, "lane " + name.trimmed());
}

}  // namespace bronvel
