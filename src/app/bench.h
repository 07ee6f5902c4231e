// The bench: the whole window.
#pragma once

#include <QFileSystemWatcher>
#include <QWidget>
#include <functional>

#include "app/card/card.h"
#include "app/command_list.h"
#include "app/deck/deck.h"
#include "app/desk/desk.h"
#include "app/header.h"
#include "app/keep_panel.h"
#include "app/places_sheet.h"
#include "app/session/recovery.h"
#include "app/session/session.h"
#include "app/stage/stage.h"

class QSplitter;
class QToolButton;

namespace bronvel {

class ArrangeSheet;
class DifferenceSheet;
class HitSheet;
class LedgerSheet;
class ImportSheet;
class BuildBar;
class ExamplesSheet;
class Guide;

class Bench : public QWidget {
  Q_OBJECT

 public:
  explicit Bench(Clock clock = steady_clock(), QWidget* parent = nullptr);
  ~Bench() override;

  Session& session() { return session_; }
  Stage* stage() { return stage_; }
  Desk* desk() { return desk_; }
  Deck* deck() { return deck_; }
  Card* card() { return card_; }
  Shelf* shelf() { return shelf_; }
  ImportSheet* import_sheet() { return import_; }
  BuildBar* build_bar() { return build_bar_; }
  HitSheet* hit_sheet() { return hit_; }
  LedgerSheet* ledger_sheet() { return ledger_; }
  DifferenceSheet* difference_sheet() { return difference_; }
  Guide* guide() { return guide_; }

  /// Opens the scene; a fault is shown, and what was open stays.
  bool open(const QString& path);
  bool save();
  bool save_as(const QString& path);
  void open_new();
  /// Offers what a bench that is gone had not saved.
  void offer_left_over();

 signals:
  /// Another sheet was chosen: the window is to be made anew.
  void made_anew_asked();

 protected:
  void closeEvent(QCloseEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void build_sayings();
  void build_commands();
  void show_commands();
  void look_anew();
  void show_places(PlacesSheet::Use use, const std::function<void(const QString&)>& picked);
  /// Something that can be done, by its key and from the list.
  void add_command(const QString& name, const QKeySequence& key, const QString& about,
                   const std::function<void()>& run);
  /// Something that the stage does when it has the keys.
  void add_stage_key(const QString& name, Qt::Key key, const QString& about);
  void place_overlays();
  void fold(QWidget* part);
  void fold_all();
  QString layout_setting() const;
  void keep_layout();
  void take_layout();
  void show_fault(const QString& title, const QString& text);
  /// A notice with up to two answers.
  void ask(const QString& title, const QString& text, const QString& yes, const std::function<void()>& on_yes,
           const QString& no, const std::function<void()>& on_no);
  void watch_disk();
  bool take_in_from_disk();
  bool may_leave();  ///< whether what is open may be left: nothing unsaved, or the user says so

  Session session_;
  Header* header_ = nullptr;
  Desk* desk_ = nullptr;
  Stage* stage_ = nullptr;
  Deck* deck_ = nullptr;
  Card* card_ = nullptr;
  KeepPanel* keep_ = nullptr;
  QFrame* notice_ = nullptr;
  QLabel* notice_text_ = nullptr;
  QToolButton *notice_yes_ = nullptr, *notice_no_ = nullptr;
  std::function<void()> on_yes_, on_no_;
  QFileSystemWatcher disk_;
  QTimer disk_timer_;
  std::unique_ptr<Recovery> recovery_;
  ExamplesSheet* examples_ = nullptr;
  PlacesSheet* places_ = nullptr;
  ArrangeSheet* arrange_ = nullptr;
  BuildBar* build_bar_ = nullptr;
  ImportSheet* import_ = nullptr;
  Shelf* shelf_ = nullptr;
  HitSheet* hit_ = nullptr;
  LedgerSheet* ledger_ = nullptr;
  DifferenceSheet* difference_ = nullptr;
  Guide* guide_ = nullptr;
  std::vector<Command> commands_;
  CommandList* command_list_ = nullptr;
  QLabel* hint_ = nullptr;
  QStringList hint_words_;
  QTimer screen_timer_, said_timer_;
  QFrame* said_ = nullptr;
  QLabel* said_text_ = nullptr;
  bool played_ = false;
  bool asks_about_disk_ = false;  // the notice is about which of two changes shall be
  bool card_folded_ = false;
  QSplitter *upper_ = nullptr, *whole_ = nullptr;
};

}  // namespace bronvel
