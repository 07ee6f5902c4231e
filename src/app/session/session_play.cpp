// The running play: its clock, hands and keys, what it changed, its takes and log.
#include "app/session/joint_views.h"
#include "app/session/session.h"

namespace bronvel {
namespace {
constexpr std::size_t most_log_lines = 5000;
constexpr std::size_t most_takes = 20, most_take_bytes = std::size_t{1} << 30;
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
  drop_pending();
  script_faults_ = 0;
  fault_told_ = false;
  auto play = std::make_unique<Play>(folder_now(), seed());
  look_for_snags();
  snag_watch_ = std::make_shared<SnagWatch>(*play);
  recording_ = std::make_shared<Take>(*play);
  fresh_passing_ = std::make_shared<std::vector<Passing>>();
  actions_.clear();
  runner_ = std::make_unique<Runner>(std::move(play), clock_,
                                     [take = recording_, fresh = fresh_passing_, watch = snag_watch_](Play& running) {
                                       take->record(running);
                                       watch->look(running);
                                       for (const Drawn& drawn : running.drawn())
                                         if (drawn.kind == Drawn::Kind::puff || drawn.kind == Drawn::Kind::sound)
                                           fresh->push_back({drawn, running.tick(), 0});
                                     });
  runner_->set_speed(speed_);
  const int number = takes_.empty() ? 1 : takes_.back().number + 1;
  forget_takes();
  takes_.push_back({number, "", nullptr});
  LogLine begins;
  begins.text = "take " + std::to_string(number) + " begins, seed " + std::to_string(seed());
  add_log({begins});
  emit takes_changed();
}

// The oldest first, until there is room for another; never the one that the next is compared with.
void Session::forget_takes() {
  const auto bytes = [&] {
    std::size_t sum = 0;
    for (const KeptTake& kept : takes_) sum += kept.take ? kept.take->bytes() : 0;
    return sum;
  };
  while (takes_.size() >= most_takes || bytes() > most_take_bytes - Take::most_bytes) {
    const auto oldest =
        std::find_if(takes_.begin(), takes_.end(), [&](const KeptTake& t) { return t.number != compared_; });
    if (oldest == takes_.end()) return;
    takes_.erase(oldest);
  }
}

void Session::play() {
  if (stopping_) return;
  if (!runner_) start_play();
  runner_->go();
  state_ = PlayState::playing;
  emit play_state_changed();
}

void Session::pause() {
  if (!runner_) return;
  runner_->pause();
  state_ = PlayState::paused;
  refresh();
  emit play_state_changed();
}

void Session::step() {
  if (stopping_) return;
  if (!runner_) start_play();
  runner_->step(patience);
  state_ = PlayState::paused;
  refresh();
  emit play_state_changed();
}

// The play is held: its changes and its take are taken over.
void Session::end_take() {
  runner_.reset();
  std::string about;
  for (const Change& change : pending_) {
    std::string after = value_text(change.after);
    if (const auto* x = std::get_if<double>(&change.after)) after = QString::number(*x, 'g', 4).toStdString();
    about += (about.empty() ? "" : ", ") + change.name + " " + after;
  }
  if (!takes_.empty()) {
    takes_.back().take = recording_;
    takes_.back().about = about;
  }
}

void Session::after_stop() {
  drawn_.clear();
  passing_.clear();
  keys_.clear();
  actions_.clear();
  orders_.clear();
  values_read_.clear();
  dials_read_.clear();
  late_ = stopping_ = false;
  state_ = PlayState::editing;
  tick_ = 0;
  rebuild_views();
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
  line.tick = tick_ + 1;
  line.text = "the play was given up: this tick did not end";
  add_log({line});
  runner_.reset();  // Its thread ends with the tick, whenever that is; the take is its own.
  recording_.reset();
  if (!takes_.empty()) takes_.pop_back();
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
  if (runner_)
    restart();
  else
    play();
}

void Session::give(const Input& input) {
  if (!runner_) return;
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
    if (scene().find(change.body))
      kept.push_back(change);
    else
      gone += (gone.empty() ? "" : ", ") + change.body + "'s " + change.name;
  try {
    if (!kept.empty()) {
      const QString name = kept.size() == 1 ? QString::fromStdString("keep " + kept[0].body + "'s " + kept[0].name)
                                            : QString("keep %1 values from play").arg(kept.size());
      edit(name, [&](Scene& scene) {
        for (const Change& change : kept) keep_change(scene, change);
      });
    }
  } catch (const std::exception& e) {
    report(e.what());
    return;
  }
  if (!gone.empty())
    report(QString::fromStdString("Not kept, since the bodies were made in play and are no part of the scene: " + gone +
                                  ". Change what they were stamped from."));
  drop_pending();
}

void Session::drop_pending() {
  if (pending_.empty()) return;
  pending_.clear();
  emit pending_changed();
}

double Session::time() const {
  return static_cast<double>(tick_) / scene().world.tick_rate;
}

void Session::with_take(const std::function<void(const Take&)>& use) {
  if (runner_)
    with_play([&](Play&) { use(*recording_); });
  else if (!takes_.empty() && takes_.back().take)
    use(*takes_.back().take);
}

void Session::compare_take(int number) {
  compared_ = compared_ == number ? 0 : number;
  emit takes_changed();
}

void Session::add_log(std::vector<LogLine> lines) {
  if (lines.empty()) return;
  const std::size_t added = lines.size();
  for (LogLine& line : lines) {
    if (line.level == LogLevel::error) ++script_faults_;
    log_.push_back(std::move(line));
  }
  while (log_.size() > most_log_lines) log_.pop_front();
  emit log_added(static_cast<int>(log_.size() - std::min(log_.size(), added)));
}

void Session::report(const QString& message) {
  LogLine line;
  line.level = LogLevel::error;
  line.tick = tick_;
  line.text = message.toStdString();
  add_log({line});
  emit said(message);
}

void Session::refresh() {
  if (!runner_) {
    rebuild_views();
    emit refreshed();
    return;
  }
  std::vector<LogLine> lines;
  bool more_snags = false;
  // Told once, and again whenever one tries to go on.
  if (const auto fault = runner_->fault(); fault && (!fault_told_ || state_ == PlayState::playing)) {
    fault_told_ = true;
    state_ = PlayState::paused;
    LogLine line;
    line.level = LogLevel::error;
    line.tick = tick_;
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
    tick_ = play.tick();
    const RunningScene& running = play.running();
    views_.resize(running.scene.bodies.size());
    std::size_t count = 0;
    for (const Body& body : running.scene.bodies) {
      const auto handle = running.find(body.name);
      if (!handle) continue;
      BodyView& view = views_[count++];
      view = BodyView::of(body, running.world.motion(*handle).pose, running.scene.models);
      view.asleep = running.world.asleep(*handle);
    }
    views_.resize(count);
    drawn_ = play.drawn();
    passing_.insert(passing_.end(), fresh_passing_->begin(), fresh_passing_->end());
    fresh_passing_->clear();
    joint_views_ = joint_views(
        running.scene,
        [&](const std::string& name) -> std::optional<Pose> {
          const auto body = running.find(name);
          return body ? std::optional(running.world.motion(*body).pose) : std::nullopt;
        },
        [&](const std::string& name) { return running.find_joint(name).has_value(); });
    for (const auto& [body, left] : play.fading()) {
      const std::string& name = running.name_of(body);
      for (auto view = views_.rbegin(); view != views_.rend(); ++view)
        if (view->name == name) view->left = left;
    }
    zones_ = running.scene.zones;
    const auto handle = running.find(chosen_);
    chosen_bonds_ = handle ? running.world.bonds(*handle) : std::vector<BondReading>{};
    chosen_floating_ = handle ? floating_reading(running.world, *handle) : std::nullopt;
    chosen_motion_ = handle ? std::optional(running.world.motion(*handle)) : std::nullopt;
    for (LogLine& line : play.take_log()) lines.push_back(std::move(line));
    if (stopping_) pending_ = play.changes();
    ended = stopping_;
  });
  if (!had) {
    add_log(std::move(lines));
    emit tick_is_long();
    return;
  }
  waters_ = water_views(scene(), zones_, seed(), time());
  for (Passing& each : passing_) each.age = static_cast<double>(tick_ - each.tick) / scene().world.tick_rate;
  std::erase_if(passing_, [](const Passing& each) { return each.age > 1; });
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
