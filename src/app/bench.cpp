// Putting the bench together.
#include "app/bench.h"

#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileInfo>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QShortcut>
#include <QSplitter>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>
#include <filesystem>

#include "app/application.h"
#include "app/build/arrange_sheet.h"
#include "app/build/build_bar.h"
#include "app/build/import_sheet.h"
#include "app/examples_sheet.h"
#include "app/guide.h"
#include "app/kit/deck_table.h"
#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "app/session/recent.h"
#include "app/session/settings.h"
#include "app/stage/difference_sheet.h"
#include "app/stage/hit_sheet.h"
#include "app/stage/ledger_sheet.h"
#include "app/stage/shelf.h"
#include "app/start.h"

namespace bronvel {

namespace {

// The folder of a scene that is dragged in; "" if it is none.
QString dropped_scene(const QMimeData* data) {
  if (!data->hasUrls() || data->urls().isEmpty()) return "";
  QString path = data->urls().front().toLocalFile();
  if (path.endsWith("/scene.json")) path.chop(static_cast<int>(qstrlen("/scene.json")));
  return QFileInfo::exists(path + "/scene.json") ? path : "";
}

}  // namespace

Bench::Bench(Clock clock, QWidget* parent) : QWidget(parent), session_(std::move(clock)) {
  setWindowTitle("Bronvel");
  resize(1280, 800);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  header_ = new Header(session_, this);
  column->addWidget(header_);
  upper_ = new QSplitter(Qt::Horizontal);
  QSplitter* upper = upper_;
  desk_ = new Desk(session_, upper);
  stage_ = new Stage(session_, upper);
  upper->addWidget(desk_);
  upper->addWidget(stage_);
  card_ = new Card(session_, upper);
  upper->addWidget(card_);
  upper->setHandleWidth(1);
  upper->setStretchFactor(0, 0);
  upper->setStretchFactor(1, 1);
  upper->setStretchFactor(2, 0);
  const int card_width = static_cast<int>(std::lround(284 * theme::type_scale));
  upper->setSizes({440, 840 - card_width, card_width});
  deck_ = new Deck(session_, this);
  whole_ = new QSplitter(Qt::Vertical, this);
  QSplitter* whole = whole_;
  whole->addWidget(upper);
  whole->addWidget(deck_);
  whole->setHandleWidth(1);
  whole->setStretchFactor(0, 1);
  whole->setStretchFactor(1, 0);
  whole->setSizes({492, 262});
  column->addWidget(whole, 1);
  for (QSplitter* each : {upper_, whole_}) connect(each, &QSplitter::splitterMoved, this, &Bench::keep_layout);
  connect(&session_, &Session::opened, this, &Bench::take_layout);

  keep_ = new KeepPanel(session_, stage_);
  hint_words_ = {"drag turns", "right drag moves", "wheel zooms", "F chosen", "A all"};
  hint_ = new QLabel(stage_);
  hint_->setFont(theme::words(11));
  hint_->setStyleSheet("color: " + theme::faint_ink.name() +
                       "; padding: 1px 4px; border-radius: 4px; background: " + theme::veil(215).name(QColor::HexArgb));
  hint_->setAttribute(Qt::WA_TransparentForMouseEvents);
  connect(stage_->tools(), &StageTools::taken, this, &Bench::place_overlays);
  connect(stage_, &Stage::drawn_plainly, hint_, [this] {
    hint_words_ << "no graphics card: plain shadows";
    place_overlays();
  });
  notice_ = new QFrame(stage_);
  notice_->setObjectName("notice");
  notice_->setStyleSheet("#notice { background: " + theme::notice.name() + "; border: 1px solid " +
                         theme::accent.name() + "; border-radius: 8px; }");
  auto* notice_row = new QHBoxLayout(notice_);
  notice_row->setContentsMargins(12, 8, 8, 8);
  notice_text_ = new QLabel(notice_);
  notice_text_->setObjectName("notice_text");
  notice_text_->setWordWrap(true);
  notice_text_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  notice_row->addWidget(notice_text_, 1);
  for (QToolButton** button : {&notice_yes_, &notice_no_}) {
    *button = new QToolButton(notice_);
    style_deck_button(*button);
    (*button)->hide();
    notice_row->addWidget(*button, 0, Qt::AlignTop);
  }
  notice_yes_->setObjectName("notice_yes");
  notice_no_->setObjectName("notice_no");
  connect(notice_yes_, &QToolButton::clicked, this, [this] {
    notice_->hide();
    if (on_yes_) on_yes_();
  });
  connect(notice_no_, &QToolButton::clicked, this, [this] {
    notice_->hide();
    if (on_no_) on_no_();
  });
  auto* close = new QToolButton(notice_);
  close->setText("✕");
  close->setToolTip("close this notice");
  connect(close, &QToolButton::clicked, notice_, &QFrame::hide);
  notice_row->addWidget(close, 0, Qt::AlignTop);
  notice_->hide();
  stage_->installEventFilter(this);
  keep_->installEventFilter(this);
  stage_->tools()->installEventFilter(this);

  build_sayings();
  connect(header_, &Header::open_asked, this, [this] {
    show_places(PlacesSheet::Use::open_scene, [this](const QString& folder) {
      if (may_leave()) open(folder);
    });
  });
  connect(header_, &Header::new_asked, this, [this] {
    if (may_leave()) open_new();
  });
  connect(header_, &Header::recent_asked, this, [this](const QString& path) {
    if (may_leave()) open(path);
  });
  connect(header_, &Header::save_as_asked, this,
          [this] { show_places(PlacesSheet::Use::save_scene, [this](const QString& folder) { save_as(folder); }); });
  recovery_ = std::make_unique<Recovery>(session_);
  disk_timer_.setSingleShot(true);
  disk_timer_.setInterval(200);
  connect(&disk_, &QFileSystemWatcher::fileChanged, &disk_timer_, qOverload<>(&QTimer::start));
  connect(&disk_, &QFileSystemWatcher::directoryChanged, &disk_timer_, qOverload<>(&QTimer::start));
  connect(&disk_timer_, &QTimer::timeout, this, [this] {
    take_in_from_disk();
    watch_disk();
  });
  connect(&session_, &Session::opened, this, &Bench::watch_disk);
  connect(&session_, &Session::opened, this, [this] {
    asks_about_disk_ = false;
    notice_->hide();
    hit_->hide();
  });
  connect(&session_, &Session::was_saved, this, &Bench::watch_disk);
  examples_ = new ExamplesSheet(this);
  places_ = new PlacesSheet(this);
  setAcceptDrops(true);
  connect(header_, &Header::examples_asked, this, [this] {
    examples_->setGeometry(rect().adjusted(120, 70, -120, -60));
    examples_->open();
  });
  connect(examples_, &ExamplesSheet::picked, this, [this](const QString& path) {
    if (may_leave()) open(path);
  });
  arrange_ = new ArrangeSheet(session_, stage_);
  build_bar_ = new BuildBar(session_, stage_, arrange_, stage_);
  shelf_ = new Shelf(session_, stage_);
  connect(shelf_, &Shelf::offered, this, [this](const Offer& offer, const QPoint& global) {
    stage_->show_offer(offer, stage_->mapFromGlobal(global));
  });
  connect(shelf_, &Shelf::put_back, stage_, &Stage::hide_offer);
  connect(shelf_, &Shelf::taken, this, [this](const Offer& offer) { stage_->land_offer(offer, std::nullopt); });
  connect(shelf_, &Shelf::dropped, this, [this](const Offer& offer, const QPoint& global) {
    const QPoint at = stage_->mapFromGlobal(global);
    if (stage_->rect().contains(at))
      stage_->land_offer(offer, QPointF(at));
    else
      stage_->hide_offer();
  });
  import_ = new ImportSheet(session_, stage_, stage_);
  connect(shelf_, &Shelf::mesh_asked, this, [this] {
    show_places(PlacesSheet::Use::pick_mesh, [this](const QString& file) { import_->open_file(file); });
  });
  connect(import_, &ImportSheet::said, this, &Bench::show_fault);
  connect(import_, &ImportSheet::resized, this, [this] {
    // The sheet tells all of the mesh; the card makes room for looking at it.
    card_->setVisible(!import_->isVisible() && !card_folded_);
    place_overlays();
  });
  connect(card_, &Card::mesh_fit_asked, this, [this] { import_->open_body(session_.chosen()); });
  connect(card_, &Card::line_asked, this,
          [this](const QString& script, int line) { desk_->go_to(script.toStdString(), line); });
  connect(card_, &Card::cut_asked, build_bar_, &BuildBar::start_cut);
  connect(stage_, &Stage::landed, card_, &Card::begin_with_sizes);
  hit_ = new HitSheet(session_, stage_);
  ledger_ = new LedgerSheet(session_, stage_);
  difference_ = new DifferenceSheet(session_, stage_);
  connect(stage_->chips(), &TakeChips::difference_asked, difference_, &DifferenceSheet::open);
  connect(difference_, &DifferenceSheet::closed, stage_->chips(), [this] { stage_->chips()->set_difference(false); });
  connect(difference_, &DifferenceSheet::resized, this, &Bench::place_overlays);
  connect(stage_->chips(), &TakeChips::energy_asked, ledger_, &LedgerSheet::open);
  connect(ledger_, &LedgerSheet::closed, stage_->chips(), [this] { stage_->chips()->set_energy(false); });
  connect(ledger_, &LedgerSheet::resized, this, &Bench::place_overlays);
  connect(deck_->takes()->plot(), &LanePlot::stretch_marked, ledger_,
          [this] { ledger_->show_stretch(deck_->takes()->plot()->marked()); });
  connect(&session_, &Session::play_state_changed, ledger_, [this] { ledger_->open(ledger_->wanted()); });
  guide_ = new Guide(session_, stage_);
  connect(guide_, &Guide::resized, this, &Bench::place_overlays);
  const auto show_hit = [this](std::size_t event) {
    std::int64_t tick = -1;
    session_.with_take([&](const Take& take, TakeReader&) {
      if (event < take.events.size()) tick = take.events[event].tick;
    });
    if (tick >= 0) session_.look_at_tick(tick);
    hit_->show_hit(event);
    guide_->saw_why();
  };
  connect(deck_->takes(), &TakesPage::hit_asked, this, show_hit);
  connect(stage_, &Stage::hit_asked, this, show_hit);
  connect(deck_->log(), &LogPage::hit_asked, this, show_hit);
  connect(hit_, &HitSheet::resized, this, &Bench::place_overlays);
  connect(hit_, &HitSheet::surface_asked, deck_, &Deck::show_surface);
  connect(hit_, &HitSheet::property_asked, card_, &Card::point_at);
  connect(stage_->chips(), &TakeChips::resized, this, &Bench::place_overlays);
  connect(&session_, &Session::play_state_changed, this, [this] {
    shelf_->setVisible(session_.building());
    if (!session_.in_past()) hit_->hide();
    if (!session_.building()) arrange_->hide();
  });
  connect(header_, &Header::save_asked, this, &Bench::save);
  connect(deck_->log(), &LogPage::line_chosen, desk_, &Desk::go_to);
  connect(deck_->snags(), &SnagsPage::line_chosen, desk_, &Desk::go_to);
  build_commands();
  connect(header_, &Header::look_asked, this, [this](theme::Sheet sheet) {
    choose_sheet(sheet);
    look_anew();
  });
  connect(header_, &Header::type_asked, this, [this](double scale) {
    choose_type(scale);
    look_anew();
  });

  if (auto* app = dynamic_cast<Application*>(QCoreApplication::instance()))
    app->set_listener([this](const QString& message) { session_.report(message); });

  // The screen asks for what the play did at its own pace; the play never waits for it.
  screen_timer_.setInterval(16);
  connect(&screen_timer_, &QTimer::timeout, &session_, &Session::refresh);
  const auto keep_asking = [this] {
    if (session_.play_state() == Session::PlayState::playing || session_.stopping() || session_.late())
      screen_timer_.start();
    else
      screen_timer_.stop();
  };
  connect(&session_, &Session::play_state_changed, this, keep_asking);
  // Play gives the stage the keys, and says so where the scene listens to some.
  connect(&session_, &Session::play_state_changed, this, [this] {
    const bool plays = session_.play_state() == Session::PlayState::playing;
    if (plays && !played_) {
      stage_->setFocus();
      QStringList keys;
      for (const Action& action : session_.scene().actions)
        if (!action.keys.empty())
          keys << QString::fromStdString(action.keys.front() +
                                         (action.against.empty() ? "" : " / " + action.against.front()) + ": " +
                                         action.name);
      if (!keys.isEmpty()) emit session_.said("The stage has the keys. " + keys.join(" · "));
    }
    played_ = session_.play_state() != Session::PlayState::editing;
  });
  // A field that is done with gives them back.
  connect(qApp, &QApplication::focusChanged, this, [this](QWidget* before, QWidget* now) {
    if (!now && qobject_cast<NumberField*>(before) && isActiveWindow()) stage_->setFocus();
  });
  // Paused within a long tick, the bench asks until that has ended.
  connect(&session_, &Session::tick_is_long, this, [this] { screen_timer_.start(); });
  connect(&session_, &Session::refreshed, this, [this, keep_asking] {
    if (session_.play_state() != Session::PlayState::playing) keep_asking();
  });
}

void Bench::add_command(const QString& name, const QKeySequence& key, const QString& about,
                        const std::function<void()>& run) {
  if (!key.isEmpty()) connect(new QShortcut(key, this), &QShortcut::activated, this, run);
  commands_.push_back({name, key.toString(QKeySequence::NativeText), about, run});
}

void Bench::add_stage_key(const QString& name, Qt::Key key, const QString& about) {
  commands_.push_back({name, QKeySequence(key).toString(QKeySequence::NativeText), about, [this, key] {
                         stage_->setFocus();
                         QKeyEvent press(QEvent::KeyPress, key, Qt::NoModifier);
                         QApplication::sendEvent(stage_, &press);
                       }});
}

// Widgets keep what they were made with.
void Bench::look_anew() {
  if (session_.has_folder() && session_.saved() && session_.play_state() == Session::PlayState::editing)
    emit made_anew_asked();
  else
    session_.say("It counts from the next window on: save the scene and choose it again to see it now.");
}

void Bench::show_places(PlacesSheet::Use use, const std::function<void(const QString&)>& picked) {
  const int width = std::min(760, this->width() - 40), height = std::min(460, this->height() - 100);
  places_->setGeometry((this->width() - width) / 2, 60, width, height);
  places_->begin(use, session_.path(), picked);
}

// A scene's folder, or a file in it, that is dropped on the window.
void Bench::dragEnterEvent(QDragEnterEvent* event) {
  if (!dropped_scene(event->mimeData()).isEmpty()) event->acceptProposedAction();
}

void Bench::dropEvent(QDropEvent* event) {
  const QString path = dropped_scene(event->mimeData());
  if (path.isEmpty()) return;
  event->acceptProposedAction();
  if (may_leave()) open(path);
}

void Bench::build_commands() {
  command_list_ = new CommandList(this);
  add_command("Save scene and scripts", QKeySequence::Save, "", [this] { save(); });
  add_command("Save as…", QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S), "in another folder",
              [this] { emit header_->save_as_asked(); });
  add_command("New scene", QKeySequence(Qt::CTRL | Qt::Key_N), "an empty one", [this] { emit header_->new_asked(); });
  add_command("Open a scene folder…", QKeySequence::Open, "", [this] { emit header_->open_asked(); });
  add_command("Examples from the harbour…", {}, "", [this] { emit header_->examples_asked(); });
  add_command("Undo", QKeySequence(Qt::CTRL | Qt::Key_Z), "takes the last change back", [this] { session_.undo(); });
  add_command("Redo", QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z), "makes it again", [this] { session_.redo(); });
  add_command("Find and replace", QKeySequence::Find, "in the script", [this] { desk_->find(); });
  add_command("Sound on or off", {}, "hits, slides and splashes",
              [this] { session_.loudspeaker().set_on(!session_.loudspeaker().on()); });
  add_command("Fold the desk", Qt::Key_F8, "away, or back", [this] { fold(desk_); });
  add_command("Fold the card", Qt::Key_F9, "away, or back", [this] { fold(card_); });
  add_command("Fold the deck", Qt::Key_F10, "away, or back", [this] { fold(deck_); });
  add_command("The stage alone", Qt::Key_F11, "all else folded away, or back", [this] { fold_all(); });
  for (const QString& page : deck_->page_names())
    add_command("Page " + page, {}, "of the deck", [this, page] {
      deck_->show();
      deck_->show_page(page);
    });
  add_stage_key("Frame the chosen body", Qt::Key_F, "the view goes to it");
  add_stage_key("Frame everything", Qt::Key_A, "the view takes in the whole scene");
  add_stage_key("Let down", Qt::Key_End, "the chosen body, onto what is under it");
  add_stage_key("Remove", Qt::Key_Delete, "what is chosen");
  connect(new QShortcut(Qt::Key_F1, this), &QShortcut::activated, this, &Bench::show_commands);
  connect(header_, &Header::commands_asked, this, &Bench::show_commands);
}

void Bench::show_commands() {
  std::vector<Command> all = commands_;
  for (Command& command : commands_of_buttons(this)) {
    const bool known = std::any_of(all.begin(), all.end(), [&](const Command& c) { return c.name == command.name; });
    const bool stands_already = command.name.startsWith("Undo ") || command.name.startsWith("Redo ") ||
                                command.name.startsWith("All that can be done");
    if (!known && !stands_already) all.push_back(std::move(command));
  }
  const int width = std::min(620, this->width() - 40);
  command_list_->setGeometry((this->width() - width) / 2, 60, width, std::min(420, height() - 100));
  command_list_->open(std::move(all));
}

// What the bench has to say: whole, over the stage's foot, for as long as one needs to read it; and in the log.
void Bench::build_sayings() {
  said_ = new QFrame(stage_);
  said_->setObjectName("said");
  said_->setStyleSheet("#said { background: " + theme::sheet.name() + "; border: 1px solid " + theme::chosen.name() +
                       "; border-radius: 8px; }");
  auto* row = new QHBoxLayout(said_);
  row->setContentsMargins(12, 7, 6, 7);
  said_text_ = new QLabel(said_);
  said_text_->setObjectName("said_text");
  said_text_->setFont(theme::words(12));
  said_text_->setTextFormat(Qt::PlainText);
  said_text_->setWordWrap(true);
  said_text_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  row->addWidget(said_text_, 1);
  auto* close = new QToolButton(said_);
  close->setText("✕");
  close->setToolTip("it stays in the log");
  connect(close, &QToolButton::clicked, said_, &QFrame::hide);
  row->addWidget(close, 0, Qt::AlignTop);
  said_->hide();
  said_timer_.setSingleShot(true);
  connect(&said_timer_, &QTimer::timeout, this, [this] {
    if (said_->underMouse())
      said_timer_.start(2000);
    else
      said_->hide();
  });
  connect(&session_, &Session::said, this, [this](const QString& message) {
    session_.keep_in_log(message);
    said_text_->setText(message);
    said_->show();
    said_->raise();
    place_overlays();
    constexpr int shortest = 4000, each_letter = 70;  // ms
    said_timer_.start(shortest + each_letter * static_cast<int>(message.size()));
  });
  connect(&session_, &Session::opened, said_, &QFrame::hide);
}

// Desk, card and deck fold away and come back, each by itself or all at once.
void Bench::fold(QWidget* part) {
  part->setVisible(!part->isVisible());
  card_folded_ = !card_->isVisible();
  keep_layout();
}

// Sizes and what is folded away, for scenes in the plane and for those in space.
QString Bench::layout_setting() const {
  return session_.scene().world.planar ? "layout/plane" : "layout/space";
}

void Bench::keep_layout() {
  QSettings settings = bench_settings();
  const QString at = layout_setting();
  settings.setValue(at + "/across", upper_->saveState());
  settings.setValue(at + "/down", whole_->saveState());
  settings.setValue(at + "/folded", QStringList{desk_->isHidden() ? "desk" : "", card_folded_ ? "card" : "",
                                                deck_->isHidden() ? "deck" : ""});
}

void Bench::take_layout() {
  QSettings settings = bench_settings();
  const QString at = layout_setting();
  if (!settings.contains(at + "/folded")) return;
  const QStringList folded = settings.value(at + "/folded").toStringList();
  desk_->setVisible(!folded.contains("desk"));
  deck_->setVisible(!folded.contains("deck"));
  card_folded_ = folded.contains("card");
  card_->setVisible(!card_folded_);
  upper_->restoreState(settings.value(at + "/across").toByteArray());
  whole_->restoreState(settings.value(at + "/down").toByteArray());
}

void Bench::fold_all() {
  const bool any = desk_->isVisible() || card_->isVisible() || deck_->isVisible();
  for (QWidget* part : {static_cast<QWidget*>(desk_), static_cast<QWidget*>(card_), static_cast<QWidget*>(deck_)})
    part->setVisible(!any);
  card_folded_ = any;
  keep_layout();
  stage_->setFocus();
}

Bench::~Bench() {
  if (auto* app = dynamic_cast<Application*>(QCoreApplication::instance())) app->set_listener(nullptr);
}

bool Bench::open(const QString& path) {
  try {
    session_.open(path);
    stage_->setFocus();
    remember_scene(path);
    notice_->hide();
    setWindowTitle(QString::fromStdString(session_.scene().name) + " · Bronvel");
    place_overlays();
    return true;
  } catch (const std::exception& e) {
    show_fault("This scene can't be opened.", e.what());
    return false;
  }
}

void Bench::open_new() {
  session_.open_new();
  notice_->hide();
  setWindowTitle("untitled · Bronvel");
  place_overlays();
}

// What only the other program changed is taken in at once; what was changed here too, one chooses. False while that has
// to be chosen.
bool Bench::take_in_from_disk() {
  if (!session_.has_folder()) return true;
  const DiskChanges changes = session_.changes_on_disk();
  if (changes.any()) {
    try {
      session_.take_in_from_disk(false);
    } catch (const std::exception& e) {
      show_fault("Another program changed this scene, and it can't be read as it is now. What is here stays.",
                 e.what());
      return changes.clashes.empty();
    }
  }
  if (changes.clashes.empty()) {
    if (asks_about_disk_) notice_->hide();
    asks_about_disk_ = false;
    return true;
  }
  QString text;
  for (const std::string& name : changes.clashes) text += session_.clash_text(name) + "\n";
  ask(
      "Changed here, and by another program too. Which shall it be?", text, "Take theirs",
      [this] {
        asks_about_disk_ = false;
        try {
          session_.take_in_from_disk(true);
        } catch (const std::exception& e) {
          show_fault("It can't be read.", e.what());
        }
      },
      "Keep mine",
      [this] {
        asks_about_disk_ = false;
        session_.keep_over_disk();
        emit session_.said("Kept; Ctrl+S writes it over the other.");
      });
  asks_about_disk_ = true;
  return false;
}

bool Bench::save() {
  if (!session_.has_folder()) {
    emit header_->save_as_asked();
    return session_.has_folder() && session_.saved();
  }
  if (session_.changes_on_disk().gone) {
    ask("Not saved: the scene's folder is not there any more.",
        session_.path() + " was moved, renamed or removed. Put it back and save again, or save the scene elsewhere.",
        "Save elsewhere…", [this] { emit header_->save_as_asked(); }, "", {});
    return false;
  }
  if (!take_in_from_disk()) return false;
  try {
    session_.save();
    return true;
  } catch (const std::exception& e) {
    show_fault("Not saved.", e.what());
    return false;
  }
}

bool Bench::save_as(const QString& path) {
  try {
    const std::string name = std::filesystem::path(path.toStdString()).filename().string();
    if (session_.scene().name == "untitled")
      session_.edit("call it " + QString::fromStdString(name), [&](Scene& scene) { scene.name = name; });
    session_.save_as(path);
    remember_scene(path);
    setWindowTitle(QString::fromStdString(session_.scene().name) + " · Bronvel");
    emit session_.said("Saved in " + path + ". That folder is the one that is open now.");
    return true;
  } catch (const std::exception& e) {
    show_fault("Not saved.", e.what());
    return false;
  }
}

void Bench::watch_disk() {
  if (!disk_.files().isEmpty()) disk_.removePaths(disk_.files());
  if (!disk_.directories().isEmpty()) disk_.removePaths(disk_.directories());
  if (!session_.has_folder()) return;
  // Files that are put in place of others are new files: the folders tell of them.
  QStringList paths;
  for (const QString& each : {QString(""), QString("/scene.json"), QString("/scripts"), QString("/meshes")})
    if (QFileInfo::exists(session_.path() + each)) paths << session_.path() + each;
  if (!paths.isEmpty()) disk_.addPaths(paths);
}

void Bench::offer_left_over() {
  const std::vector<LeftOver> all = Recovery::left_over();
  if (all.empty()) return;
  const LeftOver& left = all.front();
  ask(
      "Work that was not saved: " + left.name + ", kept at " + left.when + ".",
      "The program ended before it was saved.", "Take it up",
      [this, left] {
        try {
          session_.open_recovered(Recovery::read(left));
          Recovery::forget(left);
          recovery_->keep_now();
          setWindowTitle(QString::fromStdString(session_.scene().name) + " · Bronvel");
        } catch (const std::exception& e) {
          show_fault("It can't be taken up.", e.what());
        }
      },
      "Forget it", [left] { Recovery::forget(left); });
}

// A play is stopped first: what was tuned in it counts as not saved.
bool Bench::may_leave() {
  session_.stop();
  if (session_.stopping() && session_.tuned()) {
    emit session_.said("This tick takes long, and what was tuned is known when it ends. Once more gives the play up.");
    return false;
  }
  const std::vector<Change> tuned = session_.pending();
  if (session_.saved() && tuned.empty()) return true;
  if (session_.untouched() && tuned.empty()) return true;
  QMessageBox box(this);
  box.setObjectName("leaving");
  box.setWindowTitle("Bronvel");
  const QString values = tuned.size() == 1
                             ? QString("A value that you changed while it played is")
                             : QString("%1 values that you changed while it played are").arg(tuned.size());
  box.setText(tuned.empty() ? "The scene or a script is not saved." : values + " neither kept nor dropped.");
  box.setInformativeText("Leave now and what is not saved is lost.");
  auto* keep = box.addButton(tuned.empty() ? "Save first" : "Keep and save", QMessageBox::AcceptRole);
  auto* lose = box.addButton("Leave and lose it", QMessageBox::DestructiveRole);
  box.addButton("Go back", QMessageBox::RejectRole);
  box.exec();
  if (box.clickedButton() == lose) return true;
  if (box.clickedButton() != keep) return false;
  if (!tuned.empty()) session_.keep(tuned);
  return save();
}

void Bench::show_fault(const QString& title, const QString& text) {
  ask(title, text, "", {}, "", {});
}

void Bench::ask(const QString& title, const QString& text, const QString& yes, const std::function<void()>& on_yes,
                const QString& no, const std::function<void()>& on_no) {
  notice_text_->setText("<b>" + title.toHtmlEscaped() + "</b><br>" + text.toHtmlEscaped());
  notice_yes_->setText(yes);
  notice_no_->setText(no);
  notice_yes_->setVisible(!yes.isEmpty());
  notice_no_->setVisible(!no.isEmpty());
  on_yes_ = on_yes;
  on_no_ = on_no;
  notice_->show();
  place_overlays();
}

void Bench::place_overlays() {
  // Where a mesh is looked at, nothing else is put down.
  const bool looks_at_mesh = import_ && import_->isVisible();
  shelf_->setVisible(!looks_at_mesh && session_.building());
  // What the sheet covers on the left.
  stage_->set_covered_right(import_ && import_->isVisible() ? -(import_->width() + 14.0) : 0);
  keep_->adjustSize();
  keep_->move(16, 14);
  const int room = stage_->width() - 60;
  notice_->setFixedWidth(std::max(260, std::min(520, room)));
  notice_->adjustSize();
  notice_->move(16, (keep_->isVisible() ? keep_->geometry().bottom() + 10 : 14) + 34);
  notice_->raise();
  const int under_chips = 14 + stage_->chips()->height() + 8;
  hit_->move(stage_->width() - hit_->width() - 12, under_chips);
  if (difference_) difference_->move(14, under_chips);
  // Beside the hit sheet, where that is open.
  if (ledger_) ledger_->move(hit_->isVisible() ? 14 : stage_->width() - ledger_->width() - 12, under_chips);
  if (guide_) {
    guide_->fit();
    // Under what stands at the top: the bar for building, or the sheet of a hit.
    const QWidget* above = hit_->isVisible() ? static_cast<QWidget*>(hit_) : build_bar_;
    if (ledger_ && ledger_->isVisible() && !hit_->isVisible()) above = ledger_;
    const int top = above->geometry().bottom();
    guide_->move(stage_->width() - guide_->width() - 12, top + 10);
  }
  build_bar_->adjustSize();
  build_bar_->move(14, keep_->isVisible() ? keep_->geometry().bottom() + 10 : 14);
  const bool builds = session_.building();
  stage_->chips()->move(14, builds ? build_bar_->geometry().bottom() + 8 : build_bar_->y());
  arrange_->move(14, build_bar_->geometry().bottom() + 8);
  import_->adjustSize();
  import_->move(14, build_bar_->geometry().bottom() + 8);
  shelf_->adjustSize();
  shelf_->move(14, stage_->height() - shelf_->height() - 26);
  // As many of its words as there is room for.
  QStringList words = hint_words_;
  hint_->setText(words.join(" · "));
  while (words.size() > 1 && hint_->sizeHint().width() > stage_->width() - 28) {
    words.removeLast();
    hint_->setText(words.join(" · "));
  }
  hint_->adjustSize();
  hint_->move(14, stage_->height() - hint_->height() - 8);
  if (said_) {
    const int foot = shelf_->isVisible()            ? shelf_->y()
                     : stage_->tools()->isVisible() ? stage_->height() - stage_->tools()->sizeHint().height() - 26
                                                    : hint_->y();
    const QFontMetrics metrics(said_text_->font());
    const int wanted = metrics.horizontalAdvance(said_text_->text()) + 56;
    said_->setFixedWidth(std::clamp(wanted, 120, std::max(200, std::min(520, stage_->width() - 28))));
    said_text_->setFixedHeight(
        metrics.boundingRect(0, 0, said_->width() - 56, 400, Qt::TextWordWrap, said_text_->text()).height() + 2);
    said_->adjustSize();
    said_->move(14, foot - said_->height() - 10);
  }
  stage_->tools()->adjustSize();
  stage_->tools()->move(14, stage_->height() - stage_->tools()->height() - 26);
}

void Bench::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  place_overlays();
}

bool Bench::eventFilter(QObject* watched, QEvent* event) {
  const bool resized =
      event->type() == QEvent::Resize || event->type() == QEvent::LayoutRequest || event->type() == QEvent::Show;
  if (resized) place_overlays();
  return QWidget::eventFilter(watched, event);
}

void Bench::closeEvent(QCloseEvent* event) {
  if (may_leave())
    event->accept();
  else
    event->ignore();
}

}  // namespace bronvel
