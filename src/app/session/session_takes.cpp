// Takes: recording them, the memory that they have, and keeping them on disk.
#include <algorithm>
#include <utility>

#include "app/session/session.h"
#include "app/session/session_fresh.h"
#include "app/session/settings.h"
#include "geometry/base/error.h"

namespace bronvel {
namespace {

constexpr std::size_t most_takes = 50;
constexpr std::size_t least_memory = std::size_t{1} << 20;
const QString memory_setting = "takes/memory_mib";  // MiB

}  // namespace

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
        fresh->books.after_tick(running);
        for (const Drawn& drawn : running.drawn())
          if (drawn.kind == Drawn::Kind::puff || drawn.kind == Drawn::Kind::sound)
            fresh->passing.push_back({drawn, running.tick(), 0});
        // While it hurries to where it goes on, there is nothing to be heard.
        if (ears->wanted() && running.tick() > from)
          ears->give(hear(running, [&ears](const std::string& name) { return ears->has_file(name); }));
      });
  runner_->set_speed(speed_);
  playing_rate_ = folder.scene.world.tick_rate;
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

void Session::add_take(const std::shared_ptr<SharedTake>& take, const std::string& about) {
  if (runner_) throw Error("take", "a play runs", "stop it first");
  forget_takes(1);
  KeptTake kept;
  kept.label.number = next_number();
  kept.label.about = about;
  kept.take = take;
  takes_.push_back(std::move(kept));
  // The hand goes on from it.
  asker_.cancel();
  asked_number_ = asked_base_ = 0;
  asked_of_.reset();
  shown_ = 0;
  reader_.forget();
  look_at_moment();
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
  std::string about = on_one_line(differences(then, now));
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
    kept.label.about += (kept.label.about.empty() ? "" : ", ") + shown_name(change.place) + " " + text(change.before) +
                        " → " + text(change.after);
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

}  // namespace bronvel
