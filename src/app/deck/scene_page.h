// The page of the scene itself: gravity and rates, its cues, its stamps, and the things that are not bodies.
#pragma once

#include <QWidget>

#include "app/session/session.h"

class QCheckBox;
class QGridLayout;
class QLabel;
class QPlainTextEdit;
class QTreeWidget;

namespace bronvel {

class NumberField;

class ScenePage : public QWidget {
  Q_OBJECT

 public:
  explicit ScenePage(Session& session, QWidget* parent = nullptr);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  void showEvent(QShowEvent* event) override;

 private:
  void add_setting(QGridLayout* grid, const SettingPlace& place, int part = -1);
  QCheckBox* add_flag(const SettingPlace& place);
  void set(const SettingPlace& place, const Value& value);
  void show_settings();  // as they are now, in the play or the take too
  QPlainTextEdit* text_field(const QString& name, const QString& asks, const QString& tip);
  void take_over();
  void set_cue(int cue, int column, const QString& text);
  void attempt(const QString& name, const std::function<void(Scene&)>& change);

  Session& session_;
  struct Shown {
    NumberField* field;
    QLabel* unit;
    SettingPlace place;
    int part;  // of a vector: which; else below 0
  };
  std::vector<Shown> fields_;
  std::vector<std::pair<QCheckBox*, SettingPlace>> flags_;
  QPlainTextEdit *about_ = nullptr, *tasks_ = nullptr;
  QTreeWidget *cues_ = nullptr, *stamps_ = nullptr, *things_ = nullptr;
  QCheckBox* back_ = nullptr;
  bool filling_ = false;
};

}  // namespace bronvel
