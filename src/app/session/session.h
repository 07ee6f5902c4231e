// What the bench is working on: the open document, its scripts, the play that runs, and what is chosen.
#pragma once

#include <QObject>
#include <QTimer>
#include <deque>
#include <memory>
#include <optional>
#include <set>

#include "app/session/asker.h"
#include "app/session/choice.h"
#include "app/session/loudspeaker.h"
#include "app/session/moment.h"
#include "lab/snags/snags.h"
#include "lab/takes/take_file.h"
#include "lab/takes/take_reader.h"
#include "play/run/runner.h"
#include "scene/edits/edits.h"
#include "scene/edits/open_scene.h"
#include "scene/properties/number_entry.h"

namespace bronvel {

class Why;
class Wishes;

/// A take on the bench's list.
struct KeptTake {
  TakeLabel label;
  std::shared_ptr<SharedTake> take{};  ///< null while it lies on disk only
  std::filesystem::path file{};        ///< where it is kept; empty if it is not
  bool playing = false;                ///< it is being recorded
  bool asked = false;                  ///< it was asked again in the background, and follows the hand
  std::vector<std::string> dropped{};  ///< what was set by hand in it and dropped at stop: "fender.mass=30"
  bool ask_dropped = false;            ///< asked again, that is set all the same
};

/// The one place that all parts of the bench ask and tell. Parts never talk to each other.
class Session : public QObject {
  Q_OBJECT

 public:
  explicit Session(Clock clock = steady_clock(), QObject* parent = nullptr);
  ~Session() override;

  // The document
  void open(const QString& path);  ///< throws Error, leaving what was open
  void open_new();                 ///< a floor and the starting surfaces, not yet on disk
  bool untouched() const;          ///< a scene from nothing, as it began
  /// An open document that came from elsewhere than its folder: a recovered one. It counts as not saved.
  void open_recovered(SceneFolder folder);
  void save();                        ///< scene and scripts; throws Error, also when it has no folder yet
  void save_as(const QString& path);  ///< into another folder, which is the scene's from now on; throws Error
  bool has_folder() const { return !document_.path().empty(); }
  /// What another program did to the scene's files since they were opened or saved.
  DiskChanges changes_on_disk() const { return document_.changes_on_disk(); }
  /// Takes that in, in play as well; with `all`, also over what was changed here and not saved. Throws Error.
  void take_in_from_disk(bool all);
  /// Both of what was changed here and there, where they first differ.
  QString clash_text(const std::string& file) const;
  void keep_over_disk() { document_.keep_over_disk(); }  ///< the next save goes over it
  /// Everything as it stands, scripts as typed.
  SceneFolder folder_as_typed() const { return document_.as_typed(); }
  const Scene& scene() const { return document_.scene(); }
  QString path() const;
  bool saved() const { return document_.saved(); }
  /// Whether values were set in a play that are neither kept nor dropped yet.
  bool tuned() const { return tuned_ || !pending_.empty(); }
  void edit(const QString& name, const std::function<void(Scene&)>& change);
  /// Shows an edit without making it, for drags; `settle` makes it a step, `let_go` forgets it. What throws is not
  /// shown.
  void try_out(const std::function<void(Scene&)>& change);
  void settle(const QString& name);
  void let_go();
  bool trying() const { return history().trying(); }
  void undo();
  void redo();
  const History& history() const { return document_.history(); }
  QString undo_name() const { return QString::fromStdString(history().undo_name()); }
  QString redo_name() const { return QString::fromStdString(history().redo_name()); }

  // Scripts
  const std::map<std::string, std::string>& scripts() const { return document_.scripts(); }
  void type_script(const std::string& file, const std::string& text);  ///< counts from the next save
  bool script_unsaved(const std::string& file) const { return document_.script_unsaved(file); }
  /// Why the script does not load, as it is typed; none if it does. Known a moment after it was typed.
  std::optional<LogLine> script_fault(const std::string& file) const;
  /// Adds a script called like `file` to the scene, under a name that is free, and puts it on the body if one is named.
  /// Actions that the text says it needs ("-- needs action: hop (space)") are added too. Gives the name.
  std::string add_script(const std::string& file, const std::string& text, const std::string& body);
  void put_script(const std::string& file, const std::string& body);   ///< on the body, after those it has
  void take_script(const std::string& file, const std::string& body);  ///< off the body

  // Choosing: one thing, or several bodies
  const Choice& choice() const { return choice_; }
  std::string chosen() const { return choice_.body(); }  ///< the last chosen body, "" for none
  const BodyNames& chosen_bodies() const { return choice_.bodies; }
  bool is_chosen(const std::string& body) const { return choice_.has(body); }
  void choose(const Choice& choice);
  void choose(const std::string& body) { choose(choice_of(ThingKind::body, body)); }
  void choose_bodies(const BodyNames& bodies) { choose(choice_of(bodies)); }
  void choose_also(const std::string& body) { choose(choice_with(choice_, body)); }  ///< or no longer, if it was
  void choose_thing(ThingKind kind, const std::string& name) { choose(choice_of(kind, name)); }
  /// The next thing that is chosen goes to `take` instead, if it is of the kind; choosing nothing gives it up.
  void point_at(ThingKind kind, const std::function<void(const std::string&)>& take);
  bool pointing() const { return pointed_ != nullptr; }
  ThingKind chosen_kind() const { return choice_.kind; }
  std::string chosen_thing() const { return choice_.thing(); }
  const SceneJoint* chosen_joint() const { return joint_of(choice_, scene()); }  ///< null if none is chosen
  const SceneZone* chosen_zone() const { return zone_of(choice_, scene()); }
  const ScenePath* chosen_path() const { return path_of(choice_, scene()); }

  // Play
  enum class PlayState { editing, playing, paused };
  PlayState play_state() const { return state_; }
  void play();
  void pause();
  void step();
  void stop();
  void restart();
  void restart_with_new_seed();
  void set_speed(double speed);
  double speed() const { return speed_; }
  double behind() const { return runner_ ? runner_->behind() : 0; }
  /// For how long the tick that is being played has kept the bench from reading it, s of real time; 0 while all is
  /// well.
  double long_tick() const { return late_ && runner_ ? runner_->in_tick() : 0; }
  /// Whether the last readings are older than the play, since a tick kept it.
  bool late() const { return unread_ && runner_ != nullptr; }
  /// Whether a stop waits for the end of a long tick. Another stop gives the play up.
  bool stopping() const { return stopping_; }

  // Hands and keys, while a play runs. Nothing happens otherwise.
  void give(const Input& input);
  /// The pointer's ray, for scripts that ask where it points; nothing happens where none does.
  void point(const Vec3& eye, const Vec3& way);
  /// A key of `key_names` went down or up. False if no action of the scene listens to it.
  bool key(const std::string& name, bool down);
  void release_keys();
  double action_now(const std::string& action) const;
  const std::vector<Drawn>& drawn() const { return moment_.frame.drawn; }
  const std::vector<Passing>& passing() const { return moment_.frame.passing; }
  const std::optional<HandHold>& held() const { return moment_.frame.hand; }
  const std::vector<ContactView>& contacts() const { return moment_.frame.contacts; }

  // Values: in the running play if there is one, else in the document.
  /// Calls `use` with joints, zones, surfaces and what holds for all, as they are in the play, were at the moment that
  /// is looked at, or stand in the document. Only these of the scene may be read.
  void with_settings(const std::function<void(const Scene&)>& use);
  /// By its place. In the play where that takes it over, else in the document, which is said. Throws Error.
  void set_value(const SettingPlace& place, const Value& value);
  /// Whether what is set there counts from the next play only, because one runs that can't take it over.
  bool from_next_play(const SettingPlace& place) const { return runner_ && !counts_in_play(place); }

  // Properties and dials of a body
  Value value(const std::string& body, const Property& property);
  /// Of all chosen bodies, in the scene's order.
  std::vector<Value> chosen_values(const Property& property);
  std::vector<const Body*> chosen_in_document() const { return bodies_of(choice_, scene()); }
  /// What is chosen, if that is one body that play made: as it is now, or was at the moment that is looked at.
  std::optional<Body> made_in_play();
  void set_value(const std::string& body, const Property& property, const Value& value);  ///< throws Error
  /// Of several bodies in one step: each its own value, found by `value_of`. Throws Error, changing none.
  void set_values(const BodyNames& bodies, const Property& property, const QString& about,
                  const std::function<Value(const Body&)>& value_of);
  /// Those of a script that does not load are as it last declared them, and can't be set.
  std::vector<Dial> dials(const std::string& body);
  bool dial_counts(const Dial& dial) const { return runner_ || !loads_not(dial.script); }
  void set_dial(const std::string& body, const Dial& dial, const DialValue& value);  ///< throws Error
  /// While a dial is dragged: tried out in the document, or set in the play. `settle_dial` makes it a step.
  void try_dial(const std::string& body, const Dial& dial, const DialValue& value);
  void settle_dial(const std::string& body, const Dial& dial, const DialValue& value);
  Surface surface_now(const std::string& body);
  /// What may be typed for numbers: g (m/s²), and of the chosen body mass (kg) and weight (N).
  EntryNames entry_names();

  // What was changed in the last play, waiting to be kept or dropped.
  const std::vector<Change>& pending() const { return pending_; }
  void keep(const std::vector<Change>& changes);  ///< makes them in the document and forgets the rest
  void drop_pending();                            ///< asked again, the play no longer sets them

  // Readings, as of the last refresh, of the moment that is looked at: now, or where the play head stands
  std::int64_t tick() const { return moment_.frame.tick; }
  double time() const;
  std::uint64_t seed() const { return seed_.value_or(scene().seed); }
  const std::vector<BodyView>& bodies() const { return moment_.frame.bodies; }
  const std::vector<BodyView>& joints() const { return moment_.frame.joints; }
  std::optional<BodyReading> chosen_reading() const { return moment_.body; }
  std::optional<JointReading> joint_reading() const {
    return moment_.joint;
  }  ///< of the chosen joint, in play or a take
  const std::vector<SceneZone>& zones() const { return moment_.frame.zones; }
  const std::vector<WaterView>& waters() const { return moment_.waters; }
  const std::optional<FloatingReading>& chosen_floating() const { return moment_.floating; }
  const std::vector<BondReading>& chosen_bonds() const { return moment_.bonds; }
  /// The pieces that the chosen body would break into, shown apart by this share of its size; 0: as one.
  void pull_apart(double share);
  double pulled_apart() const { return pulled_; }
  /// The pieces of the chosen body; null if it does not break or can't.
  std::shared_ptr<const PieceSet> chosen_pieces() const;
  const std::deque<LogLine>& log_lines() const { return log_; }
  int script_faults() const { return script_faults_; }

  // Snags, of the scene as it was last saved or edited and of the running play
  const std::vector<Snag>& snags() const { return snags_; }
  /// Says it in the header and keeps it in the log: what went wrong outside of what was asked for.
  void report(const QString& message);
  void say(const QString& message);          ///< likewise, what went as it should
  void keep_in_log(const QString& message);  ///< unless it is the last line there
  /// What went wrong in the script as it runs now: since it was last loaded or play began; of each line the last.
  std::vector<LogLine> faults_of(const std::string& file, std::size_t most) const;
  void check_snags();           ///< of the scripts as they are typed, before play
  void mend(std::size_t snag);  ///< makes the mend's change as an edit

  // Takes. One is looked at: the one being recorded, else the newest, else the one that was picked.
  const std::vector<KeptTake>& takes() const { return takes_; }
  const KeptTake* shown_take() const;     ///< null if there is none
  const KeptTake* compared_take() const;  ///< null if none is laid under it
  /// Runs `use` with the take that is looked at and a reader of it; does nothing if there is none.
  void with_take(const std::function<void(const Take&, TakeReader&)>& use);
  void with_compared(const std::function<void(const Take&, TakeReader&)>& use);
  void show_take(int number);              ///< throws Error when its file can't be read
  void compare_take(int number);           ///< or no longer, if it was
  void pin_take(int number, bool pinned);  ///< kept in the scene's takes/ folder while it is
  void label_take(int number, const QString& name, const QString& note);
  void forget_take(int number);
  /// A take that was made beside the play: the newest, and looked at. Throws Error where it can't be.
  void add_take(const std::shared_ptr<SharedTake>& take, const std::string& about);
  /// Whether asking the take again sets what was set by hand in it and dropped when it was stopped.
  void ask_with_dropped(int number, bool on);
  /// How much memory the takes of this session have, and may have, bytes. Kept from one session to the next.
  std::size_t takes_memory() const;
  std::size_t most_takes_memory() const { return most_takes_memory_; }
  void set_most_takes_memory(std::size_t bytes);
  /// The values that the take ended with become the scene's, in one step that can be undone.
  void take_values_of(int number);

  // The play head
  /// Where it stands in the take that is looked at; none while the bench shows now.
  std::optional<std::int64_t> head() const { return head_; }
  bool in_past() const { return head_.has_value(); }
  void look_at_tick(std::int64_t tick);  ///< of the take that is looked at; does nothing if there is none
  void step_head(std::int64_t ticks);
  void live();  ///< back to now
  /// Whether the stage is for building: nothing plays, and no other moment is looked at.
  bool live_play() const { return state_ != PlayState::editing && !head_; }  ///< a play runs, and is looked at
  bool building() const { return state_ == PlayState::editing && !head_; }

  // Asking again
  /// Plays on live from where the play head stands, with the same past.
  void go_on_from_here();
  void ask_again();  ///< the take that is looked at, of the scene as it is now
  bool follows() const { return follows_; }
  void set_follows(bool on);  ///< whether every change asks again by itself
  bool asking() const { return asker_.busy(); }
  double asked_share() const { return asker_.share_done(); }
  int asked_number() const { return asked_number_; }   ///< of the take that follows the hand; 0 for none
  double last_answer() const { return last_answer_; }  ///< ms that it took; 0 if there was none

  // Lanes: what is plotted, "height" (of the chosen body) or a channel's name; remembered with the scene
  std::vector<std::string> lanes() const;
  void set_lanes(const std::vector<std::string>& lanes);  ///< written with the next save; no edit of its own
  void add_lane(const QString& name);                     ///< says why not, if there is no such channel

  /// Why what is chosen moves as it does.
  Why& why() { return *why_; }
  const Why& why() const { return *why_; }

  /// What plays shall do, and what was played to find it.
  Wishes& wishes() { return *wishes_; }

  Runner* runner() { return runner_.get(); }
  Loudspeaker& loudspeaker() { return loudspeaker_; }

 public slots:
  /// Takes over what the play did since the last time. The bench calls it at the screen's pace.
  void refresh();

 signals:
  void opened();  ///< another document is open
  void document_changed();
  void scripts_changed();
  void scripts_read();  ///< whether they load was looked at
  void chosen_changed();
  void play_state_changed();
  void pending_changed();
  void values_changed();  ///< a property or dial was set
  void takes_changed();
  void asked_changed();  ///< the answer to what was asked grew or is whole
  void head_moved();
  void refreshed();
  void tick_is_long();  ///< instead of refreshed, while a tick keeps the play
  void log_added(int first_new);
  void snags_changed();
  void was_saved();
  void said(const QString& message);  ///< for the header, e.g. "saved"

 private:
  void start_play();
  void end_take();
  void begin_take(SceneFolder folder);
  void recall_takes_memory();
  void forget_takes(std::size_t room = 0);
  void keep_head_time(double rate_before);  // of the take that was looked at, Hz
  double live_rate() const { return playing_rate_.value_or(scene().world.tick_rate); }
  double shown_rate() const;  // of the take that is looked at, Hz; the scene's if there is none
  KeptTake* take_called(int number);
  const KeptTake* take_called(int number) const;
  void keep_take_file(KeptTake& kept);
  void try_to_keep(KeptTake& kept);  ///< what goes wrong is said
  void list_takes_on_disk();
  void open_kept(KeptTake& kept);
  void follow_changes();
  void show_answer(const std::shared_ptr<SharedTake>& take);
  void end_filling();
  void compare_answer(const std::shared_ptr<SharedTake>& answer);
  void look_at_moment();
  void hear_up_to(std::int64_t tick);  // of the take, from where the play head stands
  std::string about_take(const KeptTake& kept) const;
  int next_number() const;
  void after_stop();
  void give_play_up();
  /// Runs `use` with the play if that can be had soon, and tells whether. What can't wait goes through `order`.
  bool with_play(const std::function<void(Play&)>& use);
  /// Runs `use` with the play, now or at the end of a long tick. What it throws then is said; now, it is thrown.
  void order(const std::function<void(Play&)>& use);
  void give_orders(Play& play);
  void begin_document(SceneFolder folder);
  void after_edit();
  void after_saving(const std::vector<std::string>& scripts);
  void take_up_scripts(const std::vector<std::string>& files);  // whose saved texts are other ones now
  void read_scripts();                                          // as saved: what they declare, and whether they load
  void read_typed();
  void end_pending(const std::vector<Change>& kept);
  void check_counts(const Dial& dial) const;  // throws Error where the dial's script does not load
  void tell_stops(const std::shared_ptr<SharedTake>& answer);
  const LogLine* loads_not(const std::string& file) const;  // why the saved text does not load; null if it does
  void keep_choice();
  void rebuild_views();
  void show_pieces(const PieceSet& pieces);
  void look_for_snags();
  void add_log(std::vector<LogLine> lines);

  Clock clock_;
  OpenScene document_;
  Choice choice_;
  std::function<void(const std::string&)> pointed_;  // who waits for a thing to be pointed at
  ThingKind pointed_kind_ = ThingKind::body;
  PlayState state_ = PlayState::editing;
  double speed_ = 1;
  std::unique_ptr<Runner> runner_;
  bool late_ = false;    // the last try to have the play failed: a tick takes long
  bool unread_ = false;  // the last refresh failed: only another one makes that good, not any other look at the play
  bool asks_pointer_ = false;  // one of the play's scripts asks where it points
  bool stopping_ = false;      // as soon as the play can be had
  bool start_again_ = false;
  bool fault_told_ = false;                         // what a tick threw
  std::vector<std::function<void(Play&)>> orders_;  // for the end of a long tick
  std::map<std::string, Value> values_read_;        // while a tick takes long, these are shown
  std::map<std::string, std::vector<Dial>> dials_read_;
  std::vector<Change> pending_;
  bool tuned_ = false;                                 // in the running play
  Moment moment_;                                      // that is looked at: now, or where the play head stands
  std::int64_t live_tick_ = 0;                         // of the running play
  std::optional<double> playing_rate_;                 // its tick rate, Hz
  std::map<std::string, std::vector<Dial>> declared_;  // by script, as it last loaded
  std::vector<LogLine> load_faults_;                   // of the saved scripts
  std::map<std::string, LogLine> typed_faults_;        // of scripts that are typed in and not saved
  std::set<std::string> typed_lately_;
  QTimer typing_ends_;
  std::string refused_;  // why the last question was
  double pulled_ = 0;
  std::deque<LogLine> log_;
  std::uint64_t lines_logged_ = 0;                    // in all, those forgotten too
  std::uint64_t faults_from_play_ = 0;                // the first line of the running or last play
  std::map<std::string, std::uint64_t> faults_from_;  // the first line after a script was loaded
  int script_faults_ = 0;
  std::vector<KeptTake> takes_;  // by number
  std::size_t most_takes_memory_ = TakeRecorder::most;
  int until_memory_looked_at_ = 0;  // refreshes
  int shown_ = 0;                   // number of the one that was picked; 0: the newest
  int compared_ = 0;
  std::optional<std::int64_t> head_;
  std::optional<std::int64_t> pause_at_;  // where a play that goes on from a take comes to be live
  TakeReader reader_, compared_reader_;
  bool follows_ = true;
  std::optional<SceneFolder> asked_of_;  // the scene that was last asked
  int asked_number_ = 0, asked_base_ = 0;
  bool filling_ = false;  // the asked take is looked at before it is whole
  double last_answer_ = 0;
  Asker asker_;
  std::optional<std::uint64_t> seed_;      // of plays, instead of the scene's
  std::set<std::string> keys_;             // held down
  std::map<std::string, double> actions_;  // value of each, as given
  std::vector<Snag> snags_;
  std::size_t snags_before_ = 0;           // how many of them were there before play
  std::shared_ptr<SnagWatch> snag_watch_;  // looked at with the play locked
  std::vector<Passing> passing_;           // of the running play
  Loudspeaker loudspeaker_;
  QTimer slides_end_;  // when the play head has come to rest
  struct Fresh;
  std::unique_ptr<Why> why_;
  std::unique_ptr<Wishes> wishes_;
  std::shared_ptr<Fresh> fresh_;  // filled by the play's thread, with the play locked
};

}  // namespace bronvel
