// The running play: its clock, hands and keys, what it changed, its log.
#include "app/session/session.h"
#include "app/session/session_fresh.h"

namespace bronvel {
namespace {
constexpr std::size_t most_log_lines = 5000;
// So long the bench waits for a tick to end (s), so that it always answers within a tenth of a second.
constexpr double patience = 0.08;
}  // namespace

bool Session::with_play(const std::function<void(Play&)>& use) {
  // While a tick takes long, each try only looks: many of them in one answer must not add up.
  late_ = !runner_->try_with(late_ ? 0 : patience, [&](Play& play) {
    give_orders(play);
    use(play);
  });
  return !late_;
}

void Session::give_orders(Play& play) {
  const std::vector<std::function<void(Play&)>> orders = std::move(orders_);
  orders_.clear();
  for (const auto& each : orders) {
    try {
      each(play);
    } catch (const std::exception& e) {
      emit said(e.what());
    }
  }
}

void Session::order(const std::function<void(Play&)>& use) {
  if (!with_play(use)) orders_.push_back(use);
}

void Session::start_play() {
  const auto asks = [](const auto& script) { return script.second.find("pointed") != std::string::npos; };
  const std::map<std::string, std::string> scripts = document_.as_played().scripts;
  asks_pointer_ = std::any_of(scripts.begin(), scripts.end(), asks);
  begin_take(document_.as_played());
}

void Session::play() {
  if (stopping_) return;
  if (!runner_) start_play();
  if (!pause_at_) head_.reset();
  runner_->go();
  state_ = PlayState::playing;
  emit play_state_changed();
}

void Session::pause() {
  if (!runner_) return;
  runner_->pause();
  slides_end_.start();
  state_ = PlayState::paused;
  refresh();
  emit play_state_changed();
}

void Session::step() {
  if (stopping_) return;
  if (!runner_) start_play();
  head_.reset();
  runner_->step(patience);
  slides_end_.start();
  state_ = PlayState::paused;
  refresh();
  emit play_state_changed();
}

void Session::after_stop() {
  loudspeaker_.queue()->hush();
  passing_.clear();
  pause_at_.reset();
  keys_.clear();
  actions_.clear();
  orders_.clear();
  values_read_.clear();
  dials_read_.clear();
  late_ = unread_ = stopping_ = false;
  state_ = PlayState::editing;
  tuned_ = false;
  live_tick_ = 0;
  playing_rate_.reset();
  asked_of_.reset();
  look_at_moment();
  emit takes_changed();
  emit pending_changed();
  emit play_state_changed();
  emit values_changed();
  emit refreshed();
  if (!start_again_) return;
  start_again_ = false;
  play();
}

void Session::stop() {
  if (!runner_) return;
  if (stopping_) {
    give_play_up();
    return;
  }
  runner_->pause();
  stopping_ = true;
  refresh();
  if (!runner_) return;
  emit play_state_changed();
  emit said("Stops when this tick ends; stop again gives it up");
}

void Session::give_play_up() {
  if (!runner_) return;
  LogLine line;
  line.level = LogLevel::error;
  line.tick = live_tick_ + 1;
  line.text = "the play was given up: this tick did not end";
  add_log({line});
  runner_.reset();  // Its thread ends with the tick, whenever that is; the take is its own.
  if (!takes_.empty() && takes_.back().playing) takes_.pop_back();
  head_.reset();
  after_stop();
}

void Session::restart() {
  const bool going = state_ != PlayState::paused;
  if (!stopping_) stop();
  if (runner_)
    start_again_ = true;
  else if (going)
    play();
  else
    step();
}

void Session::restart_with_new_seed() {
  // Any other will do; the next one can be named and found again.
  seed_ = seed() + 1;
  if (runner_) return restart();
  emit play_state_changed();
  emit said(QString("The next play has seed %1.").arg(*seed_));
}

namespace {

// What hands did, with its size; empty for what goes on and for the scene's own keys.
QString told(const Input& input) {
  const QString name = QString::fromStdString(input.name);
  const auto size = [](double x) { return QString::number(x, 'g', 3); };
  switch (input.kind) {
    case Input::Kind::grab:
      return "hand: takes " + name + ", with up to " + size(input.value) + " N";
    case Input::Kind::drop:
      return "hand: lets go";
    case Input::Kind::flick:
      return "flick: " + size(input.vector.norm()) + " N·s on " + name;
    case Input::Kind::cut:
      return "knife: through " + name;
    case Input::Kind::blast:
      return "blast: " + size(input.blast.impulse) + " N·s within " + size(input.blast.radius) + " m";
    default:
      return {};
  }
}

}  // namespace

void Session::point(const Vec3& eye, const Vec3& way) {
  if (!runner_ || !asks_pointer_) return;
  Input input;
  input.kind = Input::Kind::point;
  input.point = eye;
  input.vector = way;
  give(input);
}

void Session::give(const Input& input) {
  if (!runner_) return;
  if (const QString words = told(input); !words.isEmpty()) keep_in_log(words);
  try {
    order([input](Play& play) { play.give(input); });
  } catch (const std::exception& e) {
    emit said(e.what());
  }
}

bool Session::key(const std::string& name, bool down) {
  bool listens = false;
  if (down)
    keys_.insert(name);
  else
    keys_.erase(name);
  const auto any_held = [&](const std::vector<std::string>& keys) {
    return std::any_of(keys.begin(), keys.end(), [&](const std::string& k) { return keys_.contains(k); });
  };
  for (const Action& action : scene().actions) {
    const auto names = [&](const std::vector<std::string>& keys) {
      return std::find(keys.begin(), keys.end(), name) != keys.end();
    };
    if (!names(action.keys) && !names(action.against)) continue;
    listens = true;
    const double value = (any_held(action.keys) ? 1.0 : 0.0) - (any_held(action.against) ? 1.0 : 0.0);
    if (!runner_ || actions_[action.name] == value) continue;
    actions_[action.name] = value;
    Input input;
    input.kind = Input::Kind::action;
    input.name = action.name;
    input.value = value;
    give(input);
  }
  return listens && runner_;
}

void Session::release_keys() {
  const std::set<std::string> held = keys_;
  for (const std::string& each : held) key(each, false);
}

double Session::action_now(const std::string& action) const {
  const auto found = actions_.find(action);
  return found == actions_.end() ? 0 : found->second;
}

void Session::set_speed(double speed) {
  speed_ = speed;
  if (runner_) runner_->set_speed(speed);
  emit play_state_changed();
}

void Session::keep(const std::vector<Change>& changes) {
  // Copies made in play are gone with it, and what changed them.
  std::vector<Change> kept;
  std::string gone;
  for (const Change& change : changes)
    if (in_scene(scene(), change.place))
      kept.push_back(change);
    else
      gone += (gone.empty() ? "" : ", ") + shown_name(change.place);
  try {
    if (!kept.empty()) {
      const QString name = kept.size() == 1 ? QString::fromStdString("keep " + shown_name(kept[0].place))
                                            : QString("keep %1 values from play").arg(kept.size());
      edit(name, [&](Scene& scene) {
        for (const Change& change : kept) set_value_at(scene, change.place, change.after);
      });
    }
  } catch (const std::exception& e) {
    report(e.what());
    return;
  }
  if (!gone.empty())
    report(QString::fromStdString("Not kept, since it was made in play and is no part of the scene: " + gone +
                                  ". Change what they were stamped from."));
  end_pending(changes);
}

void Session::drop_pending() {
  end_pending({});
}

// What is not kept is dropped of the take too, so that asking it again does not set it once more.
void Session::end_pending(const std::vector<Change>& kept) {
  if (pending_.empty()) return;
  for (auto take = takes_.rbegin(); take != takes_.rend(); ++take) {
    if (take->asked || take->playing) continue;
    for (const Change& change : pending_) {
      const bool stays =
          std::any_of(kept.begin(), kept.end(), [&](const Change& each) { return each.place == change.place; });
      if (!stays) take->dropped.push_back(setting_text(change));
    }
    break;
  }
  pending_.clear();
  emit pending_changed();
}

double Session::time() const {
  return moment_.time;
}

void Session::add_log(std::vector<LogLine> lines) {
  if (lines.empty()) return;
  const std::size_t added = lines.size();
  for (LogLine& line : lines) {
    if (line.level == LogLevel::error) ++script_faults_;
    log_.push_back(std::move(line));
  }
  lines_logged_ += added;
  while (log_.size() > most_log_lines) log_.pop_front();
  emit log_added(static_cast<int>(log_.size() - std::min(log_.size(), added)));
}

std::vector<LogLine> Session::faults_of(const std::string& file, std::size_t most) const {
  const auto since = faults_from_.find(file);
  const std::uint64_t first = std::max(faults_from_play_, since == faults_from_.end() ? 0 : since->second);
  std::vector<LogLine> faults;
  if (auto fault = script_fault(file); fault && most > 0) faults.push_back(std::move(*fault));
  // What the log says of it is of the text as it was saved.
  if (!runner_ && script_unsaved(file)) return faults;
  std::uint64_t number = lines_logged_;
  for (auto line = log_.rbegin(); line != log_.rend() && number-- > first && faults.size() < most; ++line) {
    if (line->level != LogLevel::error || line->script != file) continue;
    const bool known =
        std::any_of(faults.begin(), faults.end(), [&](const LogLine& each) { return each.line == line->line; });
    if (!known) faults.push_back(*line);
  }
  return faults;
}

void Session::keep_in_log(const QString& message) {
  const std::string text = message.toStdString();
  if (!log_.empty() && log_.back().text == text) return;
  LogLine line;
  line.tick = live_tick_;
  line.text = text;
  add_log({line});
}

void Session::say(const QString& message) {
  LogLine line;
  line.tick = live_tick_;
  line.text = message.toStdString();
  add_log({line});
  emit said(message);
}

void Session::report(const QString& message) {
  LogLine line;
  line.level = LogLevel::error;
  line.tick = live_tick_;
  line.text = message.toStdString();
  add_log({line});
  emit said(message);
}

void Session::refresh() {
  if (!runner_) {
    look_at_moment();
    emit refreshed();
    return;
  }
  loudspeaker_.attend();
  std::vector<LogLine> lines;
  bool more_snags = false;
  // Told once, and again whenever one tries to go on.
  if (const auto fault = runner_->fault(); fault && (!fault_told_ || state_ == PlayState::playing)) {
    fault_told_ = true;
    state_ = PlayState::paused;
    LogLine line;
    line.level = LogLevel::error;
    line.tick = live_tick_;
    line.text = *fault + "; stop, and play again";
    lines.push_back(line);
    emit said(QString::fromStdString(line.text));
    emit play_state_changed();
  }
  bool ended = false;
  const bool had = with_play([&](Play& play) {
    const std::vector<Snag>& found = snag_watch_->found();
    more_snags = snags_before_ + found.size() > snags_.size();
    snags_.insert(snags_.end(), found.begin() + static_cast<std::ptrdiff_t>(snags_.size() - snags_before_),
                  found.end());
    live_tick_ = play.tick();
    if (pause_at_ && live_tick_ >= *pause_at_) {
      pause_at_.reset();
      head_.reset();
    }
    passing_.insert(passing_.end(), fresh_->passing.begin(), fresh_->passing.end());
    fresh_->passing.clear();
    if (!head_) {
      const bool recorded = !takes_.empty() && takes_.back().playing;
      const std::vector<Touching> touching = recorded ? takes_.back().take->touching() : std::vector<Touching>{};
      renew_moment(moment_, play, recorded ? &touching : nullptr, choice_);
    }
    why_->read(play, fresh_->books);
    // What came since the last tick is not in its recording yet.
    const std::vector<LogLine> late = play.take_log();
    if (!takes_.empty() && takes_.back().playing) takes_.back().take->add_log(late);
    fresh_->log.insert(fresh_->log.end(), late.begin(), late.end());
    for (LogLine& line : fresh_->log) lines.push_back(std::move(line));
    fresh_->log.clear();
    if (stopping_) pending_ = play.changes();
    if (stopping_ && !takes_.empty() && takes_.back().playing) takes_.back().take->finish(play);
    ended = stopping_;
  });
  unread_ = !had;
  const double rate = live_rate();
  for (Passing& each : passing_) each.age = static_cast<double>(live_tick_ - each.tick) / rate;
  std::erase_if(passing_, [](const Passing& each) { return each.age > passing_time; });
  if (head_) look_at_moment();
  if (!had) {
    add_log(std::move(lines));
    emit tick_is_long();
    return;
  }
  constexpr int refreshes_between = 30;
  if (--until_memory_looked_at_ < 0) {
    until_memory_looked_at_ = refreshes_between;
    forget_takes();
  }
  if (!head_) moment_.frame.passing = passing_;
  add_log(std::move(lines));
  if (more_snags) emit snags_changed();
  if (ended) {
    end_take();
    after_stop();
    return;
  }
  emit refreshed();
}

}  // namespace bronvel
