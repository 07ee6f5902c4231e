// Playing what is wished.
#include "app/session/wishes.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>
#include <thread>

#include "app/session/session.h"
#include "geometry/base/error.h"
#include "scene/document/names.h"
#include "script/calls/setting.h"

namespace bronvel {
namespace {

constexpr int points_of_a_sweep = 21, seeds_of_a_spread = 20;

int cores() {
  return static_cast<int>(std::clamp(std::thread::hardware_concurrency(), 1U, 16U));
}

// To three digits: a wish is no reading.
double rounded(double x) {
  if (x == 0 || !std::isfinite(x)) return x;
  const double scale = std::pow(10, 2 - std::floor(std::log10(std::abs(x))));
  return std::round(x * scale) / scale;
}

// Keys, hands and the like: what a play of the take needs besides the scene. Values and scripts are the scene's.
std::vector<Input> acts_of(const Take& take, double rate) {
  std::vector<Input> acts = inputs_at_rate(take.inputs, take.tick_rate(), rate);
  std::erase_if(acts,
                [](const Input& input) { return input.kind == Input::Kind::set || input.kind == Input::Kind::script; });
  return acts;
}

// Puts them into the scene's folder, beside what is there: other wishes may be played with that. Gives the file's name
// there. Throws Error.
std::string keep_acts(const std::filesystem::path& folder, const std::string& text, int take) {
  const auto file_of = [](const std::string& name) { return "inputs/" + name + ".jsonl"; };
  std::filesystem::create_directories(folder / "inputs");
  const std::string name = free_name("take_" + std::to_string(take), [&](const std::string& each) {
    const auto file = folder / file_of(each);
    return std::filesystem::exists(file) && read_file(file) != text;
  });
  write_atomically(folder / file_of(name), text);
  return file_of(name);
}

}  // namespace

Wishes::Wishes(Session& session) : session_(session) {
  soon_.setSingleShot(true);
  constexpr int pause = 150;  // ms
  soon_.setInterval(pause);
  connect(&soon_, &QTimer::timeout, this, &Wishes::start);
  connect(&session_, &Session::opened, this, [this] {
    number_.clear();
    own_range_ = false;
    chosen_ = 0;
  });
  for (const auto signal : {&Session::document_changed, &Session::scripts_changed, &Session::opened})
    connect(&session_, signal, this, &Wishes::document_changed);
  connect(&session_, &Session::play_state_changed, this, &Wishes::document_changed);
  connect(&session_, &Session::chosen_changed, this, [this] {
    if (number_.empty()) document_changed();
  });
}

Wishes::~Wishes() {
  cancel();
  *stop_aside_ = true;
}

void Wishes::cancel() {
  if (stop_) *stop_ = true;
  ++round_;
  aiming_ = false;
  job_.cancel();
}

template <class Use>
void Wishes::later(std::uint64_t round, Use use) {
  QMetaObject::invokeMethod(
      this,
      [this, round, use = std::move(use)] {
        if (round != round_) return;
        use();
        emit changed();
      },
      Qt::QueuedConnection);
}

void Wishes::set_watched(bool watched) {
  if (watched == watched_) return;
  watched_ = watched;
  if (watched)
    document_changed();
  else
    cancel();
}

void Wishes::document_changed() {
  if (!watched_) return;
  cancel();
  current_ = false;
  // A play has the machine to itself.
  if (session_.play_state() == Session::PlayState::editing) soon_.start();
  emit changed();
}

std::size_t Wishes::count() const {
  return session_.scene().checks.size();
}

const CheckAnswer* Wishes::answer(std::size_t wish) const {
  if (!current_ || wish >= answers_.size() || wish >= count() ||
      !(answers_[wish].wish == session_.scene().checks[wish]))
    return nullptr;
  return &answers_[wish];
}

std::optional<std::size_t> Wishes::chosen() const {
  if (count() == 0) return std::nullopt;
  return std::min(chosen_, count() - 1);
}

void Wishes::choose(std::size_t wish) {
  if (wish == chosen_) return;
  chosen_ = wish;
  document_changed();
}

void Wishes::add(const std::string& text) {
  SceneFolder folder = session_.folder_as_typed();
  Wish wish;
  wish.measure = text;
  try {
    measure_called(text, folder.scene, folder.path.string());
    // The keys of the take that is looked at go into the scene's folder, where the check will find them.
    session_.with_take([&](const Take& take, TakeReader&) {
      const std::vector<Input> acts = acts_of(take, folder.scene.world.tick_rate);
      const KeptTake* kept = session_.shown_take();
      if (acts.empty() || !session_.has_folder() || !kept) return;
      wish.inputs = keep_acts(folder.path, inputs_text(acts), kept->label.number);
      wish.seconds = rounded(take.seconds());
    });
  } catch (const std::exception& e) {
    refuse(e.what());
    return;
  }
  fault_.clear();
  aside_.start([this, folder = std::move(folder), wish, stop = stop_aside_](const LatestJob::Wanted&) {
    Wish whole = wish;
    double value = std::numeric_limits<double>::quiet_NaN();
    try {
      const Measure measure = measure_called(wish.measure, folder.scene, folder.path.string());
      value = try_out(question_of(study_of(folder, wish), {}), std::span(&measure, 1), "", stop.get()).values[0];
    } catch (const Error&) {
      // It is added all the same, and says why it can't be played.
    }
    if (std::isnan(value))
      whole.is = Wish::Is::never;
    else
      whole.value = rounded(value);
    QMetaObject::invokeMethod(
        this,
        [this, whole] {
          const std::size_t last = count();
          edit([&](std::vector<Wish>& wishes) { wishes.push_back(whole); });
          choose(last);
        },
        Qt::QueuedConnection);
  });
}

void Wishes::refuse(const QString& why) {
  fault_ = why;
  session_.report(fault_);
  emit changed();
}

void Wishes::edit(const std::function<void(std::vector<Wish>&)>& change) {
  try {
    session_.edit("wish", [&](Scene& scene) { change(scene.checks); });
    fault_.clear();
  } catch (const Error& e) {
    refuse(e.what());
  }
}

void Wishes::change(std::size_t wish, const Wish& to) {
  edit([&](std::vector<Wish>& wishes) {
    if (wish < wishes.size()) wishes[wish] = to;
  });
}

void Wishes::remove(std::size_t wish) {
  edit([&](std::vector<Wish>& wishes) {
    if (wish < wishes.size()) wishes.erase(wishes.begin() + static_cast<std::ptrdiff_t>(wish));
  });
}

const Matter* Wishes::number_now() const {
  for (const Matter& each : numbers_)
    if (each.name == number_) return &each;
  return nullptr;
}

void Wishes::set_number(const std::string& name) {
  if (name == number_) return;
  number_ = name;
  own_range_ = false;
  document_changed();
}

void Wishes::set_range(double from, double to) {
  if (!(from < to)) return;
  from_ = from;
  to_ = to;
  own_range_ = true;
  document_changed();
}

void Wishes::point_at(std::optional<std::size_t> point) {
  if (point == pointed_) return;
  pointed_ = point;
  emit pointed_changed();
}

void Wishes::read_numbers() {
  const SceneFolder folder = session_.folder_as_typed();
  numbers_ = numbers_of(folder);
  std::erase_if(numbers_, [](const Matter& each) { return each.vector; });
  if (!number_now()) {
    number_.clear();
    own_range_ = false;
    // A dial of what is measured, or of what is chosen; else the first there is.
    const std::string owner = measure_ ? measure_->thing : session_.chosen();
    for (const bool own : {true, false})
      for (const Matter& each : numbers_)
        if (number_.empty() && each.name.find(".dials.") != std::string::npos &&
            (!own || each.name.starts_with(owner + ".")))
          number_ = each.name;
    if (number_.empty() && !numbers_.empty()) number_ = numbers_[0].name;
  }
  const Matter* now = number_now();
  if (now && !own_range_) {
    from_ = now->from;
    to_ = now->to;
  }
}

void Wishes::read_wish() {
  measure_.reset();
  fault_.clear();
  const auto wish = chosen();
  if (!wish) return;
  const SceneFolder folder = session_.folder_as_typed();
  try {
    measure_ = measure_called(session_.scene().checks[*wish].measure, folder.scene, folder.path.string());
  } catch (const Error& e) {
    fault_ = e.what();
  }
}

void Wishes::forget_answers() {
  answers_.clear();
  points_.clear();
  pointed_.reset();
  seeds_.clear();
  rates_.clear();
  rate_lines_.clear();
  matters_ = {};
  plays_ = 0;
  spent_ = 0;
  complete_ = false;
}

void Wishes::start() {
  cancel();
  read_wish();
  read_numbers();
  forget_answers();
  found_.reset();
  found_text_.clear();
  current_ = true;
  const auto round = begin_round();
  emit changed();
  if (round) job_.start([this, round = *round](const LatestJob::Wanted&) { play(round); });
}

std::optional<Wishes::Round> Wishes::begin_round() {
  if (count() == 0) return std::nullopt;
  stop_ = std::make_shared<std::atomic<bool>>(false);
  return Round{round_, stop_, session_.folder_as_typed(), *chosen(), measure_, number_, from_, to_};
}

void Wishes::count_plays(const Round& round, int plays) {
  later(round.number, [this, plays, spent = round.spent()] {
    plays_ += plays;
    spent_ = spent;
  });
}

void Wishes::add_point(Point point) {
  const auto at = std::lower_bound(points_.begin(), points_.end(), point.value,
                                   [](const Point& each, double value) { return each.value < value; });
  points_.insert(at, std::move(point));
}

void Wishes::play(const Round& round) {
  const std::vector<Wish>& wishes = round.folder.scene.checks;
  std::vector<CheckAnswer> answers = run_checks(round.folder, wishes, cores(), round.stop.get());
  if (*round.stop) return;
  int plays = 0;
  for (const CheckAnswer& each : answers) plays += static_cast<int>(each.plays.size());
  count_plays(round, plays);
  later(round.number, [this, answers = std::move(answers)] { answers_ = answers; });
  if (!round.measure) return;
  try {
    const Study study = study_of(round.folder, wishes[round.wish]);
    play_sweep(round, study);
    play_beside(round, study);
    if (*round.stop) return;
    const Matters matters = what_matters(
        study, *round.measure, cores(), [&](const Matter&) { count_plays(round, 2); }, round.stop.get());
    if (*round.stop) return;
    later(round.number, [this, matters] {
      matters_ = matters;
      complete_ = true;
    });
  } catch (const std::exception& e) {
    later(round.number, [this, fault = QString(e.what())] { fault_ = fault; });
  }
}

void Wishes::play_sweep(const Round& round, const Study& study) {
  if (round.turned.empty() || !(round.from < round.to)) return;
  Sweep sweep;
  sweep.study = study;
  sweep.varied = {{round.turned, even_values(round.from, round.to, points_of_a_sweep)}};
  sweep.measures = {*round.measure};
  sweep.follow = round.measure->thing;
  run_sweep(
      sweep, coarse_first(sweep), cores(),
      [&](std::size_t play, TrialAnswer&& answer) {
        Point point;
        point.value = point_of(sweep, play).values[0];
        point.measured = answer.values[0];
        point.fault = std::move(answer.fault);
        point.way = std::move(answer.way);
        count_plays(round, 1);
        later(round.number, [this, point = std::move(point)] { add_point(point); });
      },
      round.stop.get());
}

void Wishes::play_beside(const Round& round, const Study& study) {
  Sweep seeds;
  seeds.study = study;
  seeds.seeds = seeds_of_a_spread;
  seeds.measures = {*round.measure};
  run_sweep(
      seeds, coarse_first(seeds), cores(),
      [&](std::size_t, TrialAnswer&& answer) {
        count_plays(round, 1);
        later(round.number, [this, value = answer.values[0]] { seeds_.push_back(value); });
      },
      round.stop.get());
  if (*round.stop) return;
  const double usual = study.folder.scene.world.tick_rate;
  std::vector<double> tick_rates{30, 60, 120};
  if (std::find(tick_rates.begin(), tick_rates.end(), usual) == tick_rates.end()) tick_rates.push_back(usual);
  std::vector<Rate> wanted = rates_of(study.folder, tick_rates, {}, false);
  wanted.push_back({usual, 1, true});
  const Rates rates = play_at_rates(study, std::span(&*round.measure, 1), wanted, cores(), round.stop.get());
  if (*round.stop) return;
  count_plays(round, static_cast<int>(wanted.size()));
  later(round.number, [this, rates] {
    rates_ = rates.rates;
    rate_lines_ = rates.lines;
  });
}

void Wishes::make_take(std::size_t point) {
  const auto wish = chosen();
  if (point >= points_.size() || !wish) return;
  try {
    const TrialSetting setting{number_, number_text(points_[point].value)};
    const Study study = study_of(session_.folder_as_typed(), session_.scene().checks[*wish]);
    const std::string about = number_words(number_) + " " + number_text(rounded(points_[point].value));
    aside_.start([this, about, stop = stop_aside_,
                  question = question_of(study, std::span(&setting, 1))](const LatestJob::Wanted& wanted) {
      const auto on_bench = [this](const auto& use) { QMetaObject::invokeMethod(this, use, Qt::QueuedConnection); };
      try {
        const auto take = ask(question, nullptr, [&](Play&) { return !*stop && wanted(); });
        if (*stop || !wanted()) return;
        on_bench([this, take, about] {
          try {
            session_.add_take(take, about);
          } catch (const Error& e) {
            session_.report(e.what());
          }
        });
      } catch (const std::exception& e) {
        on_bench([this, why = QString(e.what())] { session_.report(why); });
      }
    });
  } catch (const Error& e) {
    session_.report(e.what());
  }
}

void Wishes::keep(double value) {
  try {
    session_.edit(QString::fromStdString(number_words(number_)), [&](Scene& scene) {
      SceneFolder folder = session_.folder_as_typed();
      folder.scene = scene;
      for (const std::string& target : targets_of(scene, number_))
        put_setting(folder, target + "=" + number_text(value));
      scene = std::move(folder.scene);
    });
  } catch (const Error& e) {
    session_.report(e.what());
  }
}

void Wishes::aim() {
  if (!chosen() || !measure_ || number_.empty() || !current_) return;
  Aim aim;
  try {
    aim.study = study_of(session_.folder_as_typed(), session_.scene().checks[*chosen()]);
  } catch (const Error& e) {
    session_.report(e.what());
    return;
  }
  // What is still on its way comes after it, from the start.
  const bool rest = !complete_;
  cancel();
  if (rest) forget_answers();
  found_.reset();
  found_text_.clear();
  aim.measure = *measure_;
  aim.wish = session_.scene().checks[*chosen()];
  aim.turned = {{number_, from_, to_}};
  aiming_ = true;
  const auto round = begin_round();
  emit changed();
  if (!round) return;
  job_.start([this, round = *round, aim, rest](const LatestJob::Wanted&) {
    search(round, aim);
    if (rest && !*round.stop) play(round);
  });
}

void Wishes::search(const Round& round, const Aim& aim) {
  try {
    const AimAnswer answer = find_aim(
        aim,
        [&](const AimTry& one) {
          count_plays(round, 1);
          later(round.number,
                [this, point = Point{one.values[0], one.measured, one.fault, {}, true}] { add_point(point); });
        },
        round.stop.get());
    later(round.number, [this, answer, text = QString::fromStdString(aim_text(aim, answer))] {
      found_ = answer;
      found_text_ = text;
      aiming_ = false;
    });
  } catch (const std::exception& e) {
    later(round.number, [this, fault = QString(e.what())] {
      fault_ = fault;
      aiming_ = false;
    });
  }
}

}  // namespace bronvel
