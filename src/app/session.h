// What the bench is working on: the open document, its scripts, the play that runs, and what is chosen.
#pragma once

#include <QObject>
#include <QTimer>
#include <deque>
#include <memory>
#include <optional>
#include <set>

#include "lab/snags.h"
#include "lab/take.h"
#include "play/runner.h"
#include "scene/history.h"

namespace bronvel {

/// A body as the stage draws it.
struct BodyView {
  std::string name;
  Shape shape;
  Pose pose;
  std::string colour;
  MotionKind kind = MotionKind::dynamic;
  bool asleep = false;
};

/// Something that a script drew that passes: a puff or a sound.
struct Passing {
  Drawn drawn;
  std::int64_t tick = 0;
  double age = 0;  ///< s of play
};

/// A take on the bench's list.
struct KeptTake {
  int number = 1;
  std::string about;                 ///< what was changed in it
  std::shared_ptr<const Take> take;  ///< null while it is being recorded
};

/// The one place that all parts of the bench ask and tell. Parts never talk to each other.
class Session : public QObject {
  Q_OBJECT

 public:
  explicit Session(Clock clock = steady_clock(), QObject* parent = nullptr);
  ~Session() override;

  // The document
  void open(const QString& path);  ///< throws Error, leaving what was open
  void save();                     ///< scene and scripts; throws Error
  const Scene& scene() const { return history_->scene(); }
  QString path() const;
  bool saved() const;
  void edit(const QString& name, const std::function<void(Scene&)>& change);
  void undo();
  void redo();
  QString undo_name() const { return QString::fromStdString(history_->undo_name()); }
  QString redo_name() const { return QString::fromStdString(history_->redo_name()); }

  // Scripts
  const std::map<std::string, std::string>& scripts() const { return scripts_; }
  void type_script(const std::string& file, const std::string& text);  ///< counts from the next save
  bool script_unsaved(const std::string& file) const;
  /// Adds a script called like `file` to the scene, under a name that is free, and puts it on the body if one is named.
  /// Actions that the text says it needs ("-- needs action: hop (space)") are added too. Gives the name.
  std::string add_script(const std::string& file, const std::string& text, const std::string& body);
  void put_script(const std::string& file, const std::string& body);   ///< on the body, after those it has
  void take_script(const std::string& file, const std::string& body);  ///< off the body

  // Bodies
  /// Adds a body of the shape above the point, under a name that is free, and chooses it.
  void add_body(const std::string& stem, const Shape& shape, const Vec3& above);

  // Choosing
  const std::string& chosen() const { return chosen_; }
  void choose(const std::string& body);

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

  // Hands and keys, while a play runs. Nothing happens otherwise.
  void give(const Input& input);
  /// A key of `key_names` went down or up. False if no action of the scene listens to it.
  bool key(const std::string& name, bool down);
  void release_keys();
  double action_now(const std::string& action) const;
  const std::vector<Drawn>& drawn() const { return drawn_; }
  const std::vector<Passing>& passing() const { return passing_; }

  // Properties and dials of a body: in the running play if there is one, else in the document.
  Value value(const std::string& body, const Property& property);
  void set_value(const std::string& body, const Property& property, const Value& value);  ///< throws Error
  std::vector<Dial> dials(const std::string& body);
  void set_dial(const std::string& body, const Dial& dial, double value);  ///< throws Error
  Surface surface_now(const std::string& body);

  // What was changed in the last play, waiting to be kept or dropped.
  const std::vector<Change>& pending() const { return pending_; }
  void keep(const std::vector<Change>& changes);  ///< makes them in the document and forgets the rest
  void drop_pending();

  // Readings, as of the last refresh
  std::int64_t tick() const { return tick_; }
  double time() const;
  std::uint64_t seed() const { return seed_.value_or(scene().seed); }
  const std::vector<BodyView>& bodies() const { return views_; }
  const std::vector<BodyView>& joints() const { return joint_views_; }
  std::optional<BodyMotion> chosen_motion() const { return chosen_motion_; }
  const std::deque<LogLine>& log_lines() const { return log_; }
  int script_faults() const { return script_faults_; }

  // Snags, of the scene as it was last saved or edited and of the running play
  const std::vector<Snag>& snags() const { return snags_; }
  void check_snags();           ///< of the scripts as they are typed, before play
  void mend(std::size_t snag);  ///< makes the mend's change as an edit

  // Takes
  const std::vector<KeptTake>& takes() const { return takes_; }
  /// Runs `use` with the take that is being recorded, or with the last one; does nothing if there is none.
  void with_take(const std::function<void(const Take&)>& use);
  int compared_take() const { return compared_; }  ///< number, 0 for none
  void compare_take(int number);

  Runner* runner() { return runner_.get(); }

 public slots:
  /// Takes over what the play did since the last time. The bench calls it at the screen's pace.
  void refresh();

 signals:
  void opened();  ///< another document is open
  void document_changed();
  void scripts_changed();
  void chosen_changed();
  void play_state_changed();
  void pending_changed();
  void values_changed();  ///< a property or dial was set
  void takes_changed();
  void refreshed();
  void log_added(int first_new);
  void snags_changed();
  void said(const QString& message);  ///< for the header, e.g. "saved"

 private:
  void start_play();
  void end_take();
  void rebuild_views();
  void look_for_snags();
  void add_log(std::vector<LogLine> lines);
  SceneFolder folder_now() const;

  Clock clock_;
  std::filesystem::path path_;
  std::unique_ptr<History> history_;
  std::map<std::string, std::string> scripts_;        ///< as typed
  std::map<std::string, std::string> saved_scripts_;  ///< as on disk and in play
  std::string chosen_;
  PlayState state_ = PlayState::editing;
  double speed_ = 1;
  std::shared_ptr<Take> recording_;
  std::unique_ptr<Runner> runner_;
  std::vector<Change> pending_;
  std::vector<BodyView> views_;
  std::vector<BodyView> joint_views_;
  std::optional<BodyMotion> chosen_motion_;
  std::int64_t tick_ = 0;
  std::deque<LogLine> log_;
  int script_faults_ = 0;
  std::vector<KeptTake> takes_;
  int compared_ = 0;
  std::optional<std::uint64_t> seed_;      // of plays, instead of the scene's
  std::set<std::string> keys_;             // held down
  std::map<std::string, double> actions_;  // value of each, as given
  std::vector<Drawn> drawn_;
  std::vector<Snag> snags_;
  std::size_t snags_before_ = 0;           // how many of them were there before play
  std::shared_ptr<SnagWatch> snag_watch_;  // looked at with the play locked
  std::vector<Passing> passing_;
  std::shared_ptr<std::vector<Passing>> fresh_passing_;  // filled by the play's thread, with the play locked
};

}  // namespace bronvel
