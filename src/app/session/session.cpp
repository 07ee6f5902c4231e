// The open document, what is chosen, and the values of bodies.
#include "app/session/session.h"

#include <QRegularExpression>
#include <unordered_set>

#include "geometry/error.h"
#include "scene/names.h"
#include "scene/starting_surfaces.h"

namespace bronvel {
namespace {
const QString floor_edit = "a floor";
}

Session::Session(Clock clock, QObject* parent)
    : QObject(parent), clock_(std::move(clock)), history_(std::make_unique<History>(Scene{})) {
  recall_takes_memory();
  slides_end_.setSingleShot(true);
  slides_end_.setInterval(150);
  connect(&slides_end_, &QTimer::timeout, this, [this] { loudspeaker_.queue()->give({}); });
  connect(&asker_, &Asker::shown, this, &Session::show_answer);
  connect(&asker_, &Asker::ended, this, [this](const std::shared_ptr<SharedTake>& take, double milliseconds) {
    compare_answer(take);
    last_answer_ = milliseconds;
    end_filling();
    emit asked_changed();
  });
  connect(&asker_, &Asker::failed, this, [this](const QString& why) {
    report("It can't be asked again: " + why);
    end_filling();
    emit asked_changed();
  });
}

Session::~Session() = default;

void Session::open(const QString& path) {
  begin_document(open_folder(path.toStdString()));
}

bool Session::changed_on_disk() const {
  if (path_.empty()) return false;
  try {
    if (read_file(path_ / "scene.json") != on_disk_) return true;
    for (const auto& [name, text] : saved_scripts_) {
      const std::filesystem::path file = path_ / "scripts" / name;
      if (std::filesystem::exists(file) && read_file(file) != text) return true;
    }
  } catch (const std::exception&) {
    // Being written just now; the next notice of the disk looks again.
  }
  return false;
}

void Session::open_new() {
  Scene scene;
  scene.surfaces = starting_surfaces();
  scene.sweep_away = SweepAway{};  // what falls out comes back, and that is said
  begin_document({"", std::move(scene), {}});
  edit(floor_edit, [](Scene& now) {
    Body floor;
    floor.name = "floor";
    floor.kind = MotionKind::fixed;
    floor.shape = Box{{24, 0.5, 24}};
    floor.position = {0, -0.25, 0};
    floor.surface = "granite";
    floor.colour = "#9A9C98";
    now.bodies.push_back(floor);
  });
}

bool Session::untouched() const {
  return !has_folder() && scripts_.empty() && (scene().bodies.empty() || undo_name() == floor_edit);
}

void Session::open_recovered(SceneFolder folder) {
  begin_document(std::move(folder));
  history_->mark_unsaved();
  emit document_changed();
}

void Session::begin_document(SceneFolder folder) {
  start_again_ = false;
  if (runner_) stop();
  if (runner_) give_play_up();
  path_ = folder.path;
  on_disk_ = !path_.empty() && std::filesystem::exists(path_ / "scene.json") ? read_file(path_ / "scene.json") : "";
  history_ = std::make_unique<History>(std::move(folder.scene));
  scripts_ = folder.scripts;
  saved_scripts_ = std::move(folder.scripts);
  pending_.clear();
  asker_.cancel();
  filling_ = false;
  asked_of_.reset();
  asked_number_ = 0;
  last_answer_ = 0;
  takes_.clear();
  shown_ = compared_ = 0;
  head_.reset();
  seed_.reset();
  log_.clear();
  faults_from_.clear();
  script_faults_ = 0;
  live_tick_ = 0;
  list_takes_on_disk();
  chosen_.clear();
  thing_.clear();
  kind_ = ThingKind::body;
  // Begin with the first body that has something to tune.
  for (const Body& body : scene().bodies)
    if (!body.scripts.empty()) {
      chosen_ = body.name;
      break;
    }
  chosen_bodies_ = chosen_.empty() ? BodyNames{} : BodyNames{chosen_};
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
  for (const std::string& fault : loudspeaker_.open(path_))
    report("A sound is left out. " + QString::fromStdString(fault));
}

SceneFolder Session::folder_now() const {
  return {path_, scene(), saved_scripts_};
}

void Session::save() {
  if (path_.empty()) throw Error("", "the scene has no folder yet", "choose one with Save as");
  save_folder({path_, scene(), scripts_});
  on_disk_ = read_file(path_ / "scene.json");
  for (const auto& [file, text] : scripts_) {
    if (saved_scripts_[file] == text) continue;
    faults_from_[file] = lines_logged_;
    if (!runner_) continue;
    const std::string name = file, source = text;
    order([name, source](Play& play) { play.reload(name, source); });
  }
  saved_scripts_ = scripts_;
  for (KeptTake& kept : takes_)
    if (kept.label.pinned && kept.file.empty()) try_to_keep(kept);
  history_->mark_saved();
  follow_changes();
  if (!runner_) look_for_snags();
  emit document_changed();
  emit scripts_changed();
  emit values_changed();
  refresh();
  emit said(state_ == PlayState::editing ? "saved" : QString("saved at tick %1").arg(live_tick_));
  emit was_saved();
}

void Session::save_as(const QString& path) {
  const std::filesystem::path before = path_;
  path_ = path.toStdString();
  try {
    save();
  } catch (...) {
    path_ = before;
    throw;
  }
  if (path_ == before) return;
  for (KeptTake& kept : takes_)
    if (kept.label.pinned) try_to_keep(kept);
  if (before.empty() || !std::filesystem::is_directory(before / "sounds")) return;
  std::error_code fault;
  std::filesystem::copy(before / "sounds", path_ / "sounds",
                        std::filesystem::copy_options::recursive | std::filesystem::copy_options::skip_existing, fault);
  if (fault) report("The scene's sounds were not copied: " + QString::fromStdString(fault.message()));
}

QString Session::path() const {
  return QString::fromStdString(path_.string());
}

bool Session::saved() const {
  return history_->saved() && scripts_ == saved_scripts_;
}

void Session::keep_choice() {
  if (!chosen_bodies_.empty()) {
    std::set<std::string> there;
    for (const Body& body : scene().bodies) there.insert(body.name);
    std::erase_if(chosen_bodies_, [&](const std::string& name) { return !there.contains(name); });
  }
  const std::string last = chosen_bodies_.empty() ? "" : chosen_bodies_.back();
  const bool thing_gone = kind_ != ThingKind::body && !chosen_joint() && !chosen_zone() && !chosen_path();
  if (thing_gone) {
    kind_ = ThingKind::body;
    thing_.clear();
  }
  if (chosen_ == last && !thing_gone) return;
  chosen_ = last;
  emit chosen_changed();
}

void Session::after_edit() {
  keep_choice();
  look_at_moment();
  if (!runner_) look_for_snags();
  emit document_changed();
  emit values_changed();
  follow_changes();
}

void Session::edit(const QString& name, const std::function<void(Scene&)>& change) {
  history_->edit(name.toStdString(), change);
  after_edit();
}

void Session::try_out(const std::function<void(Scene&)>& change) {
  try {
    history_->try_out(change);
  } catch (const Error& e) {
    emit said(e.what());
    return;
  }
  // Drawing the stage is dear: a dial that is dragged changes nothing on it.
  const Frame before = frame_;
  look_at_moment();
  emit values_changed();
  if (!looks_alike(before, frame_)) emit refreshed();
  follow_changes();
}

void Session::settle(const QString& name) {
  if (!history_->trying()) return;
  history_->settle(name.toStdString());
  after_edit();
}

void Session::let_go() {
  if (!history_->trying()) return;
  history_->let_go();
  after_edit();
}

void Session::undo() {
  const QString name = undo_name();
  if (!history_->undo()) return;
  after_edit();
  emit scripts_changed();
  emit said("undone: " + name);
}

void Session::redo() {
  const QString name = redo_name();
  if (!history_->redo()) return;
  after_edit();
  emit scripts_changed();
  emit said("done again: " + name);
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

bool Session::is_chosen(const std::string& body) const {
  return std::find(chosen_bodies_.begin(), chosen_bodies_.end(), body) != chosen_bodies_.end();
}

void Session::choose(const std::string& body) {
  choose_bodies(body.empty() ? BodyNames{} : BodyNames{body});
}

void Session::choose_bodies(const BodyNames& bodies) {
  if (chosen_bodies_ == bodies && kind_ == ThingKind::body) return;
  chosen_bodies_ = bodies;
  pulled_ = 0;
  chosen_ = bodies.empty() ? "" : bodies.back();
  kind_ = ThingKind::body;
  thing_.clear();
  refresh();
  emit chosen_changed();
}

void Session::choose_also(const std::string& body) {
  BodyNames bodies = chosen_bodies_;
  if (is_chosen(body))
    std::erase(bodies, body);
  else
    bodies.push_back(body);
  choose_bodies(bodies);
}

void Session::choose_thing(ThingKind kind, const std::string& name) {
  if (kind == ThingKind::body) {
    choose(name);
    return;
  }
  if (kind_ == kind && thing_ == name) return;
  kind_ = kind;
  thing_ = name;
  chosen_bodies_.clear();
  chosen_.clear();
  refresh();
  emit chosen_changed();
}

namespace {

template <class Thing>
const Thing* of_name(const std::vector<Thing>& things, const std::string& name) {
  for (const Thing& each : things)
    if (each.name == name) return &each;
  return nullptr;
}

}  // namespace

const SceneJoint* Session::chosen_joint() const {
  return kind_ == ThingKind::joint ? of_name(scene().joints, thing_) : nullptr;
}
const SceneZone* Session::chosen_zone() const {
  return kind_ == ThingKind::zone ? of_name(scene().zones, thing_) : nullptr;
}
const ScenePath* Session::chosen_path() const {
  return kind_ == ThingKind::path ? of_name(scene().paths, thing_) : nullptr;
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

Value Session::value(const std::string& body, const Property& property) {
  const Body* found = scene().find(body);
  if (!runner_ && (found || !head_)) return found ? property.get(*found) : Value();
  if (head_) {
    Value then;
    with_take([&](const Take& take, TakeReader& reader) {
      if (const auto settings = reader.settings(take, body, *head_)) then = property.get(*settings);
      const auto reading = reader.body(take, body, *head_);
      if (!reading) return;
      if (property.name == "position") then = reading->pose.position;
      if (property.name == "orientation") then = reading->pose.orientation;
      if (property.name == "velocity") then = reading->velocity;
      if (property.name == "angular_velocity") then = reading->angular_velocity;
    });
    return then;
  }
  const std::string key = body + "." + property.name;
  Value now;
  if (with_play([&](Play& play) {
        const auto handle = play.running().find(body);
        if (handle) now = play.running().value(*handle, property);
      }))
    return values_read_[key] = now;
  const auto read = values_read_.find(key);
  return read != values_read_.end() ? read->second : found ? property.get(*found) : Value();
}

std::vector<const Body*> Session::chosen_in_document() const {
  std::vector<const Body*> found;
  if (chosen_bodies_.size() == 1) {
    if (const Body* body = scene().find(chosen_)) found.push_back(body);
    return found;
  }
  const std::unordered_set<std::string> wanted(chosen_bodies_.begin(), chosen_bodies_.end());
  for (const Body& body : scene().bodies)
    if (wanted.contains(body.name)) found.push_back(&body);
  return found;
}

std::optional<Body> Session::made_in_play() {
  std::optional<Body> made;
  if (kind_ != ThingKind::body || chosen_bodies_.size() != 1 || scene().find(chosen_)) return made;
  if (head_)
    with_take([&](const Take& take, TakeReader& reader) {
      if (const auto settings = reader.settings(take, chosen_, *head_)) made = *settings;
    });
  else if (runner_)
    with_play([&](Play& play) {
      if (const auto handle = play.running().find(chosen_)) made = *play.running().body_of(*handle);
    });
  return made;
}

std::vector<Value> Session::chosen_values(const Property& property) {
  std::vector<Value> values;
  const std::vector<const Body*> bodies = chosen_in_document();
  if (!runner_) {
    for (const Body* body : bodies) values.push_back(property.get(*body));
    return values;
  }
  if (head_) {
    for (const Body* body : bodies) values.push_back(value(body->name, property));
    return values;
  }
  const bool had = with_play([&](Play& play) {
    for (const Body* body : bodies)
      if (const auto handle = play.running().find(body->name))
        values.push_back(play.running().value(*handle, property));
  });
  if (!had)
    for (const Body* body : bodies) values.push_back(value(body->name, property));
  return values;
}

namespace {

// Sets it; throws Error when the body could not break as it then says.
void take(Body& body, const Property& property, const Value& value) {
  const Breaking before = body.breaking;
  property.set(body, value);
  if (body.breaking == before) return;
  if (const std::string fault = breaking_fault(body.shape, body.breaking); !fault.empty())
    throw Error(body.name + "." + property.name, fault);
}

}  // namespace

void Session::set_value(const std::string& body, const Property& property, const Value& value) {
  if (runner_) {
    order([body, name = property.name, value](Play& play) { play.set(body, name, value); });
    emit values_changed();
    return;
  }
  const std::string fault = value_fault(property, value);
  if (!fault.empty()) throw Error(body + "." + property.name, fault);
  if (property.name == "surface" && !scene().surfaces.contains(std::get<std::string>(value)))
    throw Error(body + ".surface", "there is no surface called " + value_text(value));
  edit(QString::fromStdString(body + ": " + property.label + " " + value_text(value)), [&](Scene& scene) {
    if (Body* found = scene.find(body)) take(*found, property, value);
  });
}

void Session::set_values(const BodyNames& bodies, const Property& property, const QString& about,
                         const std::function<Value(const Body&)>& value_of) {
  const std::set<std::string> wanted(bodies.begin(), bodies.end());
  // All are looked at before any is changed.
  std::vector<std::pair<std::string, Value>> values;
  const auto look = [&](const Scene& now) {
    for (const Body& body : now.bodies) {
      if (!wanted.contains(body.name)) continue;
      const Value value = value_of(body);
      const std::string fault = value_fault(property, value);
      if (!fault.empty()) throw Error(body.name + "." + property.name, fault);
      if (property.name == "surface" && !now.surfaces.contains(std::get<std::string>(value)))
        throw Error(body.name + ".surface", "there is no surface called " + value_text(value));
      values.emplace_back(body.name, value);
    }
  };
  if (runner_) {
    if (!with_play([&](Play& play) {
          look(play.running().scene);
          for (const auto& [name, value] : values) play.set(name, property.name, value);
        }))
      throw Error("", "this tick takes long: nothing was changed", "try again when it has ended");
    emit values_changed();
    return;
  }
  look(scene());
  edit(about, [&](Scene& changed) {
    std::size_t next = 0;
    for (Body& body : changed.bodies)
      if (next < values.size() && values[next].first == body.name) take(body, property, values[next++].second);
  });
}

Surface Session::surface_now(const std::string& body) {
  if (runner_) {
    Surface now;
    if (with_play([&](Play& play) {
          const Body* found = play.running().scene.find(body);
          if (found) now = surface_of(play.running().scene, *found);
        }))
      return now;
  }
  const Body* found = scene().find(body);
  return found ? surface_of(scene(), *found) : Surface{};
}

std::vector<Dial> Session::dials(const std::string& body) {
  std::vector<Dial> all;
  if (runner_) {
    const bool had = with_play([&](Play& play) {
      const auto handle = play.running().find(body);
      if (handle) all = play.scripts().dials(*handle);
    });
    if (had) dials_read_[body] = all;
    if (!had) all = dials_read_[body];
    if (head_)  // as they stood at that moment
      with_take([&](const Take& take, TakeReader& reader) {
        for (Dial& dial : all) {
          Channel channel;
          channel.of = Channel::Of::dial;
          channel.owner = body;
          channel.script = dial.script;
          channel.quantity = dial.name;
          channel.name = body + ".dials." + dial.script + "/" + dial.name;
          if (const double then = reader.number(take, channel, 0, *head_); std::isfinite(then)) dial.value = then;
        }
      });
    return all;
  }
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

namespace {

void turn_dial(Scene& scene, const std::string& body, const Dial& dial, double value) {
  Body* found = scene.find(body);
  if (!found) return;
  for (ScriptUse& use : found->scripts)
    if (use.file == dial.script) use.dials[dial.name] = value;
}

}  // namespace

void Session::try_dial(const std::string& body, const Dial& dial, double value) {
  if (runner_)
    set_dial(body, dial, value);
  else
    try_out([&](Scene& scene) { turn_dial(scene, body, dial, value); });
}

void Session::settle_dial(const std::string& body, const Dial& dial, double value) {
  if (!runner_) settle(QString::fromStdString(body + ": " + dial.name + " " + number_text(value)));
}

void Session::set_dial(const std::string& body, const Dial& dial, double value) {
  if (runner_) {
    order([=](Play& play) { play.set_dial(body, dial.script, dial.name, value); });
    emit values_changed();
    return;
  }
  edit(QString::fromStdString(body + ": " + dial.name + " " + number_text(value)),
       [&](Scene& scene) { turn_dial(scene, body, dial, value); });
}

void Session::rebuild_views() {
  frame_ = frame_of(scene());
  waters_ = water_views(scene(), frame_.zones, seed(), 0);
  chosen_floating_.reset();
  chosen_bonds_.clear();
  if (pulled_ > 0)
    if (const auto pieces = chosen_pieces()) show_pieces(*pieces);
  chosen_reading_.reset();
  joint_reading_.reset();
  if (const Body* found = scene().find(chosen_)) {
    const BodyMotion motion = motion_of(*found);
    BodyReading reading;
    reading.pose = motion.pose;
    reading.velocity = motion.velocity;
    reading.angular_velocity = motion.angular_velocity;
    reading.kind = found->kind;
    reading.mass.mass = found->mass;
    reading.gravity = scene().world.gravity;
    chosen_reading_ = reading;
  }
}

std::shared_ptr<const PieceSet> Session::chosen_pieces() const {
  const Body* body = scene().find(chosen_);
  if (!body || body->breaking.into == Breaking::Into::nothing) return nullptr;
  try {
    return pieces_of(body->shape, body->breaking);
  } catch (const Error&) {
    return nullptr;
  }
}

void Session::pull_apart(double share) {
  pulled_ = share;
  if (!building()) return;
  rebuild_views();
  emit refreshed();
}

// The chosen body's pieces in its place, drawn away from its middle; those that are held stand darker.
void Session::show_pieces(const PieceSet& pieces) {
  const Body* body = scene().find(chosen_);
  std::vector<BodyView>& views = frame_.bodies;
  const auto at = std::find_if(views.begin(), views.end(), [&](const BodyView& v) { return v.name == chosen_; });
  if (!body || at == views.end()) return;
  const BodyView whole = *at;
  views.erase(at);
  const Bounds bounds = shape_bounds(body->shape, Pose{});
  const Vec3 middle = 0.5 * (bounds.low + bounds.high);
  for (std::size_t i = 0; i < pieces.pieces.size(); ++i) {
    BodyView piece = whole;
    piece.model = nullptr;
    piece.piece = true;
    piece.shape = pieces.pieces[i];
    piece.pose.position += whole.pose.orientation * (pulled_ * (pieces.pieces[i].data->centre - middle));
    if (pieces.anchored[i] != 0) piece.colour = "#5A6068";
    views.push_back(std::move(piece));
  }
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
  try {
    snag.do_mend(folder);
    if (folder.scene == scene() && folder.scripts == scripts_) {
      report(QString::fromStdString(snag.body + " was made in play and is no part of the scene: mend what it was " +
                                    "stamped from"));
      return;
    }
    // A text is mended as if it had been typed: it counts from the next save.
    for (const auto& [file, text] : folder.scripts) type_script(file, text);
    edit(QString::fromStdString("mend: " + snag.mend), [&](Scene& changed) { changed = folder.scene; });
  } catch (const std::exception& e) {
    report(e.what());
    return;
  }
  check_snags();
}

}  // namespace bronvel
