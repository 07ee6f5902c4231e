// The page of the scene itself: gravity and rates, its cues, its stamps, and the things that are not bodies.
#pragma once

#include <QWidget>

#include "app/session/session.h"

class QCheckBox;
class QGridLayout;
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

 private:
  struct Setting;
  void add_setting(QGridLayout* grid, int row, int column, const Setting& setting);
  QPlainTextEdit* text_field(const QString& name, const QString& asks, const QString& tip);
  void take_over();
  void set_cue(int cue, int column, const QString& text);
  void attempt(const QString& name, const std::function<void(Scene&)>& change);

  Session& session_;
  std::vector<std::pair<NumberField*, std::function<double(const Scene&)>>> fields_;
  QPlainTextEdit *about_ = nullptr, *tasks_ = nullptr;
  QTreeWidget *cues_ = nullptr, *stamps_ = nullptr, *things_ = nullptr;
  QCheckBox *planar_ = nullptr, *falls_ = nullptr, *back_ = nullptr;
  bool filling_ = false;
};

}  // namespace bronvel
