// The bench's state and what can be done to it.
#include "app/session.h"

#include <QRegularExpression>

#include "app/joint_views.h"
#include "geometry/error.h"

namespace bronvel {
namespace {
constexpr std::size_t most_log_lines = 5000;
constexpr std::size_t most_takes = 20;
}  // namespace

Session::Session(Clock clock, QObject* parent)
    : QObject(parent), clock_(std::move(clock)), history_(std::make_unique<History>(Scene{})) {}

Session::~Session() = default;

void Session::open(const QString& path) {
  SceneFolder folder = open_folder(path.toStdString());
  if (state_ != PlayState::editing) stop();
  path_ = folder.path;
  history_ = std::make_unique<History>(std::move(folder.scene));
  scripts_ = folder.scripts;
  saved_scripts_ = std::move(folder.scripts);
  pending_.clear();
  takes_.clear();
  compared_ = 0;
  seed_.reset();
  log_.clear();
  script_faults_ = 0;
  tick_ = 0;
  chosen_.clear();
  // Begin with the first body that has something to tune.
  for (const Body& body : scene().bodies)
    if (!body.scripts.empty()) {
      chosen_ = body.name;
      break;
    }
  rebuild_views();
  emit opened();
  emit document_changed();
  emit scripts_changed();
  emit chosen_changed();
  emit pending_changed();
  emit takes_changed();
  emit log_added(0);
  look_for_snags();
  emit play_state_changed();
}

SceneFolder Session::folder_now() const {
  return {path_, scene(), saved_scripts_};
}

void Session::save() {
  SceneFolder folder{path_, scene(), scripts_};
  save_folder(folder);
  for (const auto& [file, text] : scripts_)
    if (saved_scripts_[file] != text && runner_) {
      const std::string name = file, source = text;
      runner_->with([&](Play& play) { play.reload(name, source); });
    }
  saved_scripts_ = scripts_;
  history_->mark_saved();
  if (!runner_) look_for_snags();
  emit document_changed();
  emit scripts_changed();
  emit values_changed();
  refresh();
  emit said(state_ == PlayState::editing ? "saved" : QString("saved at tick %1").arg(tick_));
}

QString Session::path() const {
  return QString::fromStdString(path_.string());
}

bool Session::saved() const {
  return history_->saved() && scripts_ == saved_scripts_;
}

void Session::edit(const QString& name, const std::function<void(Scene&)>& change) {
  history_->edit(name.toStdString(), change);
  if (!scene().find(chosen_)) chosen_.clear();
  rebuild_views();
  if (!runner_) look_for_snags();
  emit document_changed();
  emit values_changed();
}

void Session::undo() {
  if (!history_->undo()) return;
  rebuild_views();
  emit document_changed();
  emit values_changed();
}

void Session::redo() {
  if (!history_->redo()) return;
  rebuild_views();
  emit document_changed();
  emit values_changed();
}

void Session::type_script(const std::string& file, const std::string& text) {
  std::string& kept = scripts_[file];
  if (kept == text) return;
  kept = text;
  emit scripts_changed();
}

bool Session::script_unsaved(const std::string& file) const {
  const auto typed = scripts_.find(file), on_disk = saved_scripts_.find(file);
  return typed != scripts_.end() && (on_disk == saved_scripts_.end() || on_disk->second != typed->second);
}

void Session::choose(const std::string& body) {
  if (chosen_ == body) return;
  chosen_ = body;
  refresh();
  emit chosen_changed();
}

void Session::start_play() {
  drop_pending();
  script_faults_ = 0;
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
  if (takes_.size() >= most_takes) takes_.erase(takes_.begin());
  takes_.push_back({number, "", nullptr});
  LogLine begins;
  begins.text = "take " + std::to_string(number) + " begins, seed " + std::to_string(seed());
  add_log({begins});
  emit takes_changed();
}

void Session::play() {
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
  if (!runner_) start_play();
  runner_->step();
  state_ = PlayState::paused;
  refresh();
  emit play_state_changed();
}

void Session::end_take() {
  if (!runner_) return;
  refresh();
  pending_ = runner_->with([](Play& play) { return play.changes(); });
  runner_.reset();
  drawn_.clear();
  passing_.clear();
  keys_.clear();
  actions_.clear();
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

void Session::stop() {
  if (!runner_) return;
  end_take();
  state_ = PlayState::editing;
  tick_ = 0;
  rebuild_views();
  emit takes_changed();
  emit pending_changed();
  emit play_state_changed();
  emit values_changed();
  emit refreshed();
}

void Session::restart() {
  const bool going = state_ != PlayState::paused;
  stop();
  if (going)
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
    runner_->with([&](Play& play) { play.give(input); });
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

namespace {

// "-- needs action: steer (d / a)" lines of a script.
std::vector<Action> needed_actions(const std::string& text) {
  std::vector<Action> needed;
  const QRegularExpression line(R"(--\s*needs action:\s*(\w+)\s*(?:\(([\w ]+?)(?:/([\w ]+))?\))?)");
  auto matches = line.globalMatch(QString::fromStdString(text));
  while (matches.hasNext()) {
    const QRegularExpressionMatch match = matches.next();
    Action action;
    action.name = match.captured(1).toStdString();
    const auto add = [](const QString& key, std::vector<std::string>& keys) {
      const std::string name = key.trimmed().toStdString();
      if (std::find(key_names().begin(), key_names().end(), name) != key_names().end()) keys.push_back(name);
    };
    add(match.captured(2), action.keys);
    add(match.captured(3), action.against);
    needed.push_back(action);
  }
  return needed;
}

std::string free_name(const std::string& stem, const std::function<bool(const std::string&)>& taken) {
  std::string name = stem;
  for (int n = 2; taken(name); ++n) name = stem + "_" + std::to_string(n);
  return name;
}

}  // namespace

std::string Session::add_script(const std::string& file, const std::string& text, const std::string& body) {
  const std::string stem = file.ends_with(".lua") ? file.substr(0, file.size() - 4) : file;
  const std::string name =
      free_name(stem, [&](const std::string& each) { return scripts_.contains(each + ".lua"); }) + ".lua";
  scripts_[name] = text;
  saved_scripts_[name] = text;  // In play from now on; saving the scene writes it.
  const std::vector<Action> needed = needed_actions(text);
  edit(QString::fromStdString("new script " + name), [&](Scene& scene) {
    if (Body* found = scene.find(body)) found->scripts.push_back({name, {}});
    for (const Action& action : needed) {
      const auto same = [&](const Action& each) { return each.name == action.name; };
      if (std::none_of(scene.actions.begin(), scene.actions.end(), same)) scene.actions.push_back(action);
    }
  });
  if (runner_) emit said("the new script plays from the next start");
  emit scripts_changed();
  emit chosen_changed();
  return name;
}

void Session::put_script(const std::string& file, const std::string& body) {
  edit(QString::fromStdString(body + ": script " + file), [&](Scene& scene) {
    if (Body* found = scene.find(body)) found->scripts.push_back({file, {}});
  });
  emit scripts_changed();
  emit chosen_changed();
}

void Session::take_script(const std::string& file, const std::string& body) {
  edit(QString::fromStdString(body + ": without " + file), [&](Scene& scene) {
    if (Body* found = scene.find(body))
      std::erase_if(found->scripts, [&](const ScriptUse& use) { return use.file == file; });
  });
  emit scripts_changed();
  emit chosen_changed();
}

void Session::add_body(const std::string& stem, const Shape& shape, const Vec3& above) {
  Body body;
  body.name = free_name(stem, [&](const std::string& each) { return scene().find(each) != nullptr; });
  body.shape = shape;
  body.mass = shape_volume(shape) * 700;  // oak
  const Bounds bounds = shape_bounds(shape, {});
  body.position = above - Vec3(0, bounds.low.y(), 0);
  edit(QString::fromStdString("new body " + body.name), [&](Scene& scene) { scene.bodies.push_back(body); });
  choose(body.name);
}

void Session::set_speed(double speed) {
  speed_ = speed;
  if (runner_) runner_->set_speed(speed);
  emit play_state_changed();
}

Value Session::value(const std::string& body, const Property& property) {
  if (runner_)
    return runner_->with([&](Play& play) -> Value {
      const auto handle = play.running().find(body);
      return handle ? play.running().value(*handle, property) : Value();
    });
  const Body* found = scene().find(body);
  return found ? property.get(*found) : Value();
}

void Session::set_value(const std::string& body, const Property& property, const Value& value) {
  if (runner_) {
    runner_->with([&](Play& play) { play.set(body, property.name, value); });
    emit values_changed();
    return;
  }
  const std::string fault = value_fault(property, value);
  if (!fault.empty()) throw Error(body + "." + property.name, fault);
  if (property.name == "surface" && !scene().surfaces.contains(std::get<std::string>(value)))
    throw Error(body + ".surface", "there is no surface called " + value_text(value));
  edit(QString::fromStdString(body + ": " + property.label + " " + value_text(value)), [&](Scene& scene) {
    if (Body* found = scene.find(body)) property.set(*found, value);
  });
}

Surface Session::surface_now(const std::string& body) {
  if (runner_)
    return runner_->with([&](Play& play) {
      const Body* found = play.running().scene.find(body);
      return found ? surface_of(play.running().scene, *found) : Surface{};
    });
  const Body* found = scene().find(body);
  return found ? surface_of(scene(), *found) : Surface{};
}

std::vector<Dial> Session::dials(const std::string& body) {
  if (runner_)
    return runner_->with([&](Play& play) {
      const auto handle = play.running().find(body);
      return handle ? play.scripts().dials(*handle) : std::vector<Dial>{};
    });
  std::vector<Dial> all;
  const Body* found = scene().find(body);
  if (!found) return all;
  for (const ScriptUse& use : found->scripts) {
    const auto source = saved_scripts_.find(use.file);
    if (source == saved_scripts_.end()) continue;
    for (Dial dial : declared_dials(use.file, saved_scripts_)) {
      const auto set = use.dials.find(dial.name);
      if (set != use.dials.end()) dial.value = set->second;
      all.push_back(dial);
    }
  }
  return all;
}

void Session::set_dial(const std::string& body, const Dial& dial, double value) {
  if (runner_) {
    runner_->with([&](Play& play) { play.set_dial(body, dial.script, dial.name, value); });
    emit values_changed();
    return;
  }
  edit(QString::fromStdString(body + ": " + dial.name + " " + number_text(value)), [&](Scene& scene) {
    Body* found = scene.find(body);
    if (!found) return;
    for (ScriptUse& use : found->scripts)
      if (use.file == dial.script) use.dials[dial.name] = value;
  });
}

void Session::keep(const std::vector<Change>& changes) {
  if (!changes.empty()) {
    const QString name = changes.size() == 1
                             ? QString::fromStdString("keep " + changes[0].body + "'s " + changes[0].name)
                             : QString("keep %1 values from play").arg(changes.size());
    edit(name, [&](Scene& scene) {
      for (const Change& change : changes) keep_change(scene, change);
    });
  }
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
    runner_->with([&](Play&) { use(*recording_); });
  else if (!takes_.empty() && takes_.back().take)
    use(*takes_.back().take);
}

void Session::compare_take(int number) {
  compared_ = compared_ == number ? 0 : number;
  emit takes_changed();
}

void Session::rebuild_views() {
  views_.clear();
  for (const Body& body : scene().bodies)
    views_.push_back({body.name, body.shape, {body.position, body.orientation}, body.colour, body.kind, false});
  joint_views_ = joint_views(
      scene(),
      [&](const std::string& name) -> std::optional<Pose> {
        const Body* body = scene().find(name);
        return body ? std::optional(Pose{body->position, body->orientation}) : std::nullopt;
      },
      [](const std::string&) { return true; });
  const Body* found = scene().find(chosen_);
  chosen_motion_ = found ? std::optional(motion_of(*found)) : std::nullopt;
}

void Session::look_for_snags() {
  snags_ = snags_before_play(folder_now());
  snags_before_ = snags_.size();
  emit snags_changed();
}

void Session::check_snags() {
  if (runner_) return;
  snags_ = snags_before_play({path_, scene(), scripts_});
  snags_before_ = snags_.size();
  emit snags_changed();
}

void Session::mend(std::size_t at) {
  if (at >= snags_.size() || !snags_[at].do_mend) return;
  const Snag snag = snags_[at];
  SceneFolder folder{path_, scene(), scripts_};
  snag.do_mend(folder);
  // A text is mended as if it had been typed: it counts from the next save.
  for (const auto& [file, text] : folder.scripts) type_script(file, text);
  edit(QString::fromStdString("mend: " + snag.mend), [&](Scene& changed) { changed = folder.scene; });
  check_snags();
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

void Session::refresh() {
  if (!runner_) {
    rebuild_views();
    emit refreshed();
    return;
  }
  std::vector<LogLine> lines;
  bool more_snags = false;
  runner_->with([&](Play& play) {
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
      view.name = body.name;
      view.shape = body.shape;
      view.colour = body.colour;
      view.kind = body.kind;
      view.pose = running.world.motion(*handle).pose;
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
    const auto handle = running.find(chosen_);
    chosen_motion_ = handle ? std::optional(running.world.motion(*handle)) : std::nullopt;
    lines = play.take_log();
  });
  for (Passing& each : passing_) each.age = static_cast<double>(tick_ - each.tick) / scene().world.tick_rate;
  std::erase_if(passing_, [](const Passing& each) { return each.age > 1; });
  add_log(std::move(lines));
  if (more_snags) emit snags_changed();
  emit refreshed();
}

}  // namespace bronvel
