// The desk: the chosen body's script, and its dials under it.
#pragma once

#include <QFrame>
#include <QLabel>
#include <QMap>

#include "app/desk/dial_board.h"
#include "app/desk/find_bar.h"
#include "app/desk/script_editor.h"
#include "app/session/session.h"

class QMenu;
class QToolButton;
class QTreeWidget;
class QVBoxLayout;

namespace bronvel {

class Desk : public QFrame {
  Q_OBJECT

 public:
  explicit Desk(Session& session, QWidget* parent = nullptr);
  ScriptEditor* editor() { return editor_; }
  /// Shows the script at the line.
  void go_to(const std::string& file, int line);
  /// The bar for finding and replacing.
  void find() { find_bar_->open(); }

 private:
  void show_chosen();
  void show_file(const std::string& file);
  void show_head();
  void show_faults();
  void show_acts();  ///< what the lines did to what is chosen
  void fill_menu(QMenu* menu);
  void fill_list();
  void new_script();
  void find_definition(const QString& word);
  void set_words();
  void gather_scene_words();

  Session& session_;
  std::string file_;
  bool showing_ = false;
  QStringList scene_words_;  // empty: to be gathered
  QToolButton* picker_ = nullptr;
  QLabel *on_ = nullptr, *state_ = nullptr;
  ScriptEditor* editor_ = nullptr;
  QLabel* nothing_ = nullptr;  // where there is no script
  FindBar* find_bar_ = nullptr;
  QTreeWidget* list_ = nullptr;  // the scene's scripts and who carries them
  QToolButton* list_button_ = nullptr;
  DialBoard* dials_ = nullptr;
};

}  // namespace bronvel
