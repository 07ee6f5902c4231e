// The open document and what is chosen.
#include "app/session/session.h"

#include <utility>

#include "app/session/why.h"
#include "app/session/wishes.h"
#include "geometry/base/error.h"
#include "scene/document/dials.h"
#include "scene/document/names.h"
#include "scene/document/starting_surfaces.h"
#include "scene/edits/script_edits.h"
#include "scene/files/write.h"
#include "script/calls/reading.h"

namespace bronvel {
namespace {
const QString floor_edit = "a floor";
}

Session::Session(Clock clock, QObject* parent) : QObject(parent), clock_(std::move(clock)) {
  why_ = std::make_unique<Why>(*this);
  wishes_ = std::make_unique<Wishes>(*this);
  recall_takes_memory();
  slides_end_.setSingleShot(true);
  slides_end_.setInterval(150);
  connect(&slides_end_, &QTimer::timeout, this, [this] { loudspeaker_.queue()->give({}); });
  typing_ends_.setSingleShot(true);
  typing_ends_.setInterval(300);
  connect(&typing_ends_, &QTimer::timeout, this, &Session::read_typed);
  connect(&asker_, &Asker::shown, this, &Session::show_answer);
  connect(&asker_, &Asker::ended, this, [this](const std::shared_ptr<SharedTake>& take, double milliseconds) {
    refused_.clear();
    compare_answer(take);
    tell_stops(take);
    last_answer_ = milliseconds;
    end_filling();
    emit asked_changed();
  });
  connect(&asker_, &Asker::failed, this, [this](const QString& why) {
    // Said each time, and kept in the log once.
    const bool again = std::exchange(refused_, why.toStdString()) == why.toStdString();
    const QString message = "Not asked again. " + why;
    if (again)
      emit said(message);
    else
      report(message);
    end_filling();
    emit asked_changed();
  });
}

Session::~Session() = default;

void Session::open(const QString& path) {
  begin_document(open_folder(path.toStdString()));
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
  return !has_folder() && scripts().empty() && (scene().bodies.empty() || undo_name() == floor_edit);
}

void Session::open_recovered(SceneFolder folder) {
  begin_document(std::move(folder));
  document_.history().mark_unsaved();
  emit document_changed();
}

void Session::begin_document(SceneFolder folder) {
  start_again_ = false;
  if (runner_) stop();
  if (runner_) give_play_up();
  document_ = OpenScene(std::move(folder));
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
  choice_ = {};
  // Begin with the first body that has something to tune.
  for (const Body& body : scene().bodies)
    if (!body.scripts.empty()) {
      choice_ = choice_of({body.name});
      break;
    }
  rebuild_views();
  declared_.clear();
  load_faults_.clear();
  typed_faults_.clear();
  typed_lately_.clear();
  read_scripts();
  emit opened();
  emit document_changed();
  emit scripts_changed();
  emit chosen_changed();
  emit pending_changed();
  emit takes_changed();
  emit log_added(0);
  look_for_snags();
  emit play_state_changed();
  for (const std::string& fault : loudspeaker_.open(document_.path()))
    report("A sound is left out. " + QString::fromStdString(fault));
}

void Session::save() {
  after_saving(document_.save());
}

void Session::save_as(const QString& path) {
  const std::filesystem::path before = document_.path();
  after_saving(document_.save_as(path.toStdString()));
  const std::filesystem::path& now = document_.path();
  if (now == before) return;
  for (KeptTake& kept : takes_)
    if (kept.label.pinned) try_to_keep(kept);
  if (before.empty() || !std::filesystem::is_directory(before / "sounds")) return;
  std::error_code fault;
  std::filesystem::copy(before / "sounds", now / "sounds",
                        std::filesystem::copy_options::recursive | std::filesystem::copy_options::skip_existing, fault);
  if (fault) report("The scene's sounds were not copied: " + QString::fromStdString(fault.message()));
}

void Session::take_up_scripts(const std::vector<std::string>& files) {
  for (const std::string& file : files) {
    faults_from_[file] = lines_logged_;
    typed_faults_.erase(file);
    typed_lately_.erase(file);
    asks_pointer_ = asks_pointer_ || document_.saved_scripts().at(file).find("pointed") != std::string::npos;
    if (runner_) order([file, text = document_.saved_scripts().at(file)](Play& play) { play.reload(file, text); });
  }
  read_scripts();
}

void Session::take_in_from_disk(bool all) {
  const DiskChanges changes = changes_on_disk();
  const std::vector<std::string> other = document_.take_in_from_disk(all);
  take_up_scripts(other);
  after_edit();
  emit scripts_changed();
  std::string names;
  if (changes.scene &&
      (all || std::find(changes.clashes.begin(), changes.clashes.end(), "scene.json") == changes.clashes.end()))
    names = "scene.json";
  for (const std::string& file : changes.meshes) names += (names.empty() ? "" : ", ") + file;
  if (runner_ && !names.empty()) names += " (from the next play)";
  for (const std::string& file : other) names += (names.empty() ? "" : ", ") + file;
  if (!names.empty()) say("Changed outside, and taken in: " + QString::fromStdString(names));
}

QString Session::clash_text(const std::string& file) const {
  const bool scene_file = file == "scene.json";
  std::string mine, theirs;
  try {
    mine = scene_file ? write_scene(scene()) : scripts().at(file);
    theirs = read_file(document_.path() / (scene_file ? "" : "scripts") / file);
  } catch (const std::exception&) {
    return QString::fromStdString(file);
  }
  const QStringList here = QString::fromStdString(mine).split('\n'), there = QString::fromStdString(theirs).split('\n');
  qsizetype line = 0;
  while (line < std::min(here.size(), there.size()) && here[line] == there[line]) ++line;
  constexpr qsizetype longest = 60;
  const auto shown = [&](const QStringList& lines) {
    return line < lines.size() ? lines[line].trimmed().left(longest) : QString("(ends)");
  };
  return QString("%1, line %2: here \"%3\", there \"%4\"")
      .arg(QString::fromStdString(file))
      .arg(line + 1)
      .arg(shown(here), shown(there));
}

// Of the fault of the text that runs the play has told already.
void Session::read_scripts() {
  std::vector<LogLine> fresh;
  try {
    const std::vector<LogLine> before = std::exchange(load_faults_, load_faults(document_.as_played()));
    for (const LogLine& line : load_faults_) {
      const bool known = std::any_of(before.begin(), before.end(), [&](const LogLine& each) {
        return each.script == line.script && each.line == line.line && each.text == line.text;
      });
      if (!known && !runner_) fresh.push_back(line);
    }
  } catch (const std::exception& e) {
    report(QString("The scripts could not be read: ") + e.what());
  }
  for (const auto& [file, text] : document_.saved_scripts()) {
    ScriptReading reading = read_script(file, document_.saved_scripts());
    if (!reading.dials.empty() || !loads_not(file)) declared_[file] = std::move(reading.dials);
  }
  add_log(std::move(fresh));
  emit scripts_read();
}

void Session::read_typed() {
  for (const std::string& file : std::exchange(typed_lately_, {})) {
    typed_faults_.erase(file);
    const auto typed = scripts().find(file);
    if (typed == scripts().end() || !script_unsaved(file)) continue;
    if (auto fault = syntax_fault(file, typed->second)) typed_faults_.emplace(file, std::move(*fault));
  }
  emit scripts_read();
}

const LogLine* Session::loads_not(const std::string& file) const {
  for (const LogLine& line : load_faults_)
    if (line.script == file) return &line;
  return nullptr;
}

std::optional<LogLine> Session::script_fault(const std::string& file) const {
  if (script_unsaved(file)) {
    const auto typed = typed_faults_.find(file);
    return typed == typed_faults_.end() ? std::nullopt : std::optional(typed->second);
  }
  const LogLine* saved = loads_not(file);
  return saved ? std::optional(*saved) : std::nullopt;
}

void Session::after_saving(const std::vector<std::string>& scripts) {
  take_up_scripts(scripts);
  for (KeptTake& kept : takes_)
    if (kept.label.pinned && kept.file.empty()) try_to_keep(kept);
  follow_changes();
  if (!runner_) look_for_snags();
  emit document_changed();
  emit scripts_changed();
  emit values_changed();
  refresh();
  const QString where = state_ == PlayState::editing ? "saved" : QString("saved at tick %1").arg(live_tick_);
  const LogLine* fault = load_faults_.empty() ? nullptr : &load_faults_.front();
  emit said(!fault ? where : where + "; but it does not load: " + QString::fromStdString(fault->placed()));
  emit was_saved();
}

QString Session::path() const {
  return QString::fromStdString(document_.path().string());
}

void Session::keep_choice() {
  const Choice left = choice_left(choice_, scene());
  if (left == choice_) return;
  choice_ = left;
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
  std::vector<std::string> cleared;
  document_.history().edit(name.toStdString(), [&](Scene& scene) {
    change(scene);
    cleared = clear_lost_names(history().scene(), scene);
  });
  after_edit();
  if (!cleared.empty())
    say(QString::fromStdString("What " + names_text(cleared) + " named is gone: " +
                               (cleared.size() == 1 ? "it names" : "they name") + " nothing now."));
}

void Session::try_out(const std::function<void(Scene&)>& change) {
  try {
    document_.history().try_out(change);
  } catch (const Error& e) {
    emit said(e.what());
    return;
  }
  // Drawing the stage is dear: a dial that is dragged changes nothing on it.
  const Frame before = moment_.frame;
  look_at_moment();
  emit values_changed();
  if (!looks_alike(before, moment_.frame)) emit refreshed();
  follow_changes();
}

void Session::settle(const QString& name) {
  if (!document_.history().trying()) return;
  document_.history().settle(name.toStdString());
  after_edit();
}

void Session::let_go() {
  if (!document_.history().trying()) return;
  document_.history().let_go();
  after_edit();
}

void Session::undo() {
  const QString name = undo_name();
  if (!document_.history().undo()) return;
  after_edit();
  emit scripts_changed();
  emit said("undone: " + name);
}

void Session::redo() {
  const QString name = redo_name();
  if (!document_.history().redo()) return;
  after_edit();
  emit scripts_changed();
  emit said("done again: " + name);
}

void Session::type_script(const std::string& file, const std::string& text) {
  if (!document_.type_script(file, text)) return;
  typed_lately_.insert(file);
  typing_ends_.start();
  emit scripts_changed();
}

void Session::point_at(ThingKind kind, const std::function<void(const std::string&)>& take) {
  pointed_ = take;
  pointed_kind_ = kind;
  constexpr const char* words[] = {"a body", "a joint", "a zone", "a path"};
  emit said(QString("Click %1 on the stage; Escape gives it up.").arg(words[static_cast<int>(kind)]));
}

void Session::choose(const Choice& choice) {
  if (pointed_) {
    const auto take = std::exchange(pointed_, nullptr);
    if (choice.kind == pointed_kind_ && !choice.thing().empty()) return take(choice.thing());
    emit said("Nothing was pointed at.");
    if (choice.thing().empty()) return;
  }
  if (choice == choice_) return;
  choice_ = choice;
  pulled_ = 0;
  refresh();
  emit chosen_changed();
}

std::string Session::add_script(const std::string& file, const std::string& text, const std::string& body) {
  const std::string name = document_.new_script(file, text);
  edit(QString::fromStdString("new script " + name), [&](Scene& scene) {
    bronvel::put_script(scene, name, body);
    add_actions(scene, needed_actions(text));
  });
  read_scripts();
  if (runner_) emit said("the new script plays from the next start");
  emit scripts_changed();
  emit chosen_changed();
  return name;
}

void Session::put_script(const std::string& file, const std::string& body) {
  edit(QString::fromStdString(body + ": script " + file),
       [&](Scene& scene) { bronvel::put_script(scene, file, body); });
  emit scripts_changed();
  emit chosen_changed();
}

void Session::take_script(const std::string& file, const std::string& body) {
  edit(QString::fromStdString(body + ": without " + file),
       [&](Scene& scene) { bronvel::take_script(scene, file, body); });
  emit scripts_changed();
  emit chosen_changed();
}

void Session::rebuild_views() {
  moment_ = moment_of(scene(), seed(), choice_);
  if (pulled_ > 0)
    if (const auto pieces = chosen_pieces()) show_pieces(*pieces);
}

std::shared_ptr<const PieceSet> Session::chosen_pieces() const {
  const Body* body = scene().find(chosen());
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
  const Body* body = scene().find(chosen());
  std::vector<BodyView>& views = moment_.frame.bodies;
  const auto at = std::find_if(views.begin(), views.end(), [&](const BodyView& v) { return v.name == chosen(); });
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
  snags_ = snags_before_play(document_.as_played());
  snags_before_ = snags_.size();
  emit snags_changed();
}

void Session::check_snags() {
  if (runner_) return;
  snags_ = snags_before_play(document_.as_typed());
  snags_before_ = snags_.size();
  emit snags_changed();
}

void Session::mend(std::size_t at) {
  if (at >= snags_.size() || !snags_[at].do_mend) return;
  const Snag snag = snags_[at];
  SceneFolder folder = document_.as_typed();
  try {
    snag.do_mend(folder);
    if (folder.scene == scene() && folder.scripts == scripts()) {
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
